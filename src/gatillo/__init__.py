"""Gatillo: event rules for level designers, simulated step by step."""

__version__ = "0.1.0"
