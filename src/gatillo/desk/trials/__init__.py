"""The page of all trials: run them, say what must hold, see what they reach."""
