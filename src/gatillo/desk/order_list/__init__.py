"""The order list and its lanes."""
