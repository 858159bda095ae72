"""What `./orchesis bench` runs: figures, with the commands that give them."""
