"""Why something fired and why it did not: told from the exact replay of a run, with full instruments."""
