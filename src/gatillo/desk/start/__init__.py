"""The first window."""
