"""Setting up and running Orchesis on a machine with nothing but Python 3.11 or newer."""
