"""The Rules phase: rules carried out over match tables."""
