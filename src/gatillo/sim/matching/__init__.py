"""Match tables, and formulas asked over them."""
