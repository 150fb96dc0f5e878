"""A graph on its page: cards, wires, and what ran at the cursor."""
