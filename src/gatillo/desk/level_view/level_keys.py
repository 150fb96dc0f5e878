"""Names of keys as rules and trials use them."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

_NAMED = {
    Qt.Key.Key_Left: "Left",
    Qt.Key.Key_Right: "Right",
    Qt.Key.Key_Up: "Up",
    Qt.Key.Key_Down: "Down",
    Qt.Key.Key_Space: "Space",
    Qt.Key.Key_Return: "Enter",
    Qt.Key.Key_Enter: "Enter",
    Qt.Key.Key_Tab: "Tab",
    Qt.Key.Key_Backtab: "Tab",
    Qt.Key.Key_Shift: "Shift",
    Qt.Key.Key_Control: "Control",
    Qt.Key.Key_Backspace: "Backspace",
}


def key_name(event: QKeyEvent) -> str:
    """Return what the catalogue calls a key, or "" for one it does not know."""
    key = event.key()
    if Qt.Key.Key_A <= key <= Qt.Key.Key_Z or Qt.Key.Key_0 <= key <= Qt.Key.Key_9:
        return chr(key)
    return _NAMED.get(Qt.Key(key), "") if key in _NAMED else ""
