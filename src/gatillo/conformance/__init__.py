"""Small levels with the exact traces of their runs, for those who write a runtime of their own."""
