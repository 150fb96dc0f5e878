"""Grids, neighbours, draws and input: what the simulation stands on, knowing nothing of a level."""
