"""Trying several values: what can be tried, the runs that this makes, and running them on all cores."""
