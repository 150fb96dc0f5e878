"""Sizes of the order list's rows, in pixels."""

from PySide6.QtCore import QRectF

ROW = 28
HEADER = 28
NUMBER_X = 12.0
TEXT_X = 78.0
LINE_X = 96.0
SWITCH = QRectF(40, 8, 12, 12)
"""A rule's switch, within its row."""
LEAST_PIXELS, MOST_PIXELS = 0.02, 160.0
"""How narrow and how wide a tick can be."""
