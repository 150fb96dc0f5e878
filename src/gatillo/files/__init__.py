"""Reading and writing: the level file, exports, schema."""
