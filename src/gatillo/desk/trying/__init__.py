"""The window in which several values of a number are tried beside one another."""
