"""Why something fired and why it did not: worked out from the exact replay of a run, with everything recorded."""
