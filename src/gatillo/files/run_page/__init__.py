"""A run as one page for any browser."""
