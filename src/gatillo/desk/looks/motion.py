"""Whether things that move by themselves, such as fading marks, are to be spared."""

from __future__ import annotations

import os
from functools import lru_cache

from PySide6.QtDBus import QDBusConnection, QDBusInterface, QDBusMessage
from PySide6.QtWidgets import QApplication, QStyle

CHOSEN = "GATILLO_REDUCE_MOTION"
"""The environment variable that decides: 1 spares motion, 0 does not."""
_ASKED = (
    ("org.freedesktop.appearance", "reduced-motion", 1),
    ("org.gnome.desktop.interface", "enable-animations", False),
)
"""Settings of the desktop's portal, and the value of each that asks for less motion."""
_PATIENCE = 150
"""Milliseconds in which the portal must answer."""


def reduces_motion() -> bool:
    """Return whether the desktop asks for less motion: by the variable, the style, or the settings portal of freedesktop.org."""
    chosen = os.environ.get(CHOSEN, "")
    if chosen:
        return chosen != "0"
    app = QApplication.instance()
    if (
        isinstance(app, QApplication)
        and app.style().styleHint(QStyle.StyleHint.SH_Widget_Animation_Duration) == 0
    ):
        return True
    return _portal_says_so()


@lru_cache(maxsize=1)
def _portal_says_so() -> bool:
    bus = QDBusConnection.sessionBus()
    if not bus.isConnected():
        return False
    portal = QDBusInterface(
        "org.freedesktop.portal.Desktop",
        "/org/freedesktop/portal/desktop",
        "org.freedesktop.portal.Settings",
        bus,
    )
    if not portal.isValid():
        return False
    portal.setTimeout(_PATIENCE)
    for space, key, less in _ASKED:
        answer = portal.call("ReadOne", space, key)
        if answer.type() == QDBusMessage.MessageType.ReplyMessage and answer.arguments():
            value = answer.arguments()[0]
            value = value.variant() if hasattr(value, "variant") else value
            if value == less and type(value) is type(less):
                return True
    return False
