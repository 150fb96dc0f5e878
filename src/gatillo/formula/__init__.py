"""Formulas: grammar, types, checking, compiling to array code."""
