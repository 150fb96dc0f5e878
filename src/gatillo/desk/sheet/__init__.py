"""The sheet: what is selected."""
