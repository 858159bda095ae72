"""How the program takes faults: kills, slow clients, guesses, a full disk, frozen services.

`./orchesis bench faults` starts applications of its own in scratch folders, does all that to them
on loopback, within bounds of count and time, and prints a table. It ends with 1 when something that
was acknowledged is missing or a bound is passed.
"""
