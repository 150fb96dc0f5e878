"""Numbers that are dragged sideways, in rules and on cards."""

from __future__ import annotations

import re

from PySide6.QtCore import Qt

PLAIN_NUMBER = re.compile(r"-?\d+(\.\d+)?")


def dragged(value: float, pixels: float, modifiers: Qt.KeyboardModifier) -> str:
    """Return a number after a drag: 4 pixels a step; Shift takes larger steps, Alt finer ones."""
    whole = value == int(value)
    step = 1.0 if whole and abs(value) >= 10 else 0.1
    if modifiers & Qt.KeyboardModifier.ShiftModifier:
        step *= 10
    if modifiers & Qt.KeyboardModifier.AltModifier:
        step /= 10
    return f"{round(value + int(pixels / 4) * step, 3):g}"
