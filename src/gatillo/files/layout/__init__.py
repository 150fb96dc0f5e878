"""Layouts in and out: drawings as SVG, tables of objects as CSV."""
