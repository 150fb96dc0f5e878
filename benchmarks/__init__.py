"""Benchmarks: the same work by Gatillo, by a plain loop and by hand-written NumPy."""
