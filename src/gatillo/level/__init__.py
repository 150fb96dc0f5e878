"""The document: immutable data types, names, edits, validation."""
