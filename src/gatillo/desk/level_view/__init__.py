"""The level at the cursor, and the shelf of kinds."""
