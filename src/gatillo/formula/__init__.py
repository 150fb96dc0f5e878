"""Formulas: grammar, types, checking, compiling to array code."""

from gatillo.formula import functions as functions
