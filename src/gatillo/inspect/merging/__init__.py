"""Merging two versions of a level that come from a common one."""
