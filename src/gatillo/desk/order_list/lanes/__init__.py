"""Painting the lanes, the right half of the order list."""
