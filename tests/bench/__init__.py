"""How fast things are, each against a yardstick in the same run. `make bench` prints the table."""
