"""The entries of the catalogue: a module for each subject, found by its place in this folder.

Each module says its `SUBJECT`: its title, and where it is in lists.
"""
