"""What the code of entries is given: one protocol for each group of entries, which the simulation implements.

Each method says what of the level it reads and writes, and of which (effects.py). What an entry reads and writes follows from
the methods that it calls.
"""
