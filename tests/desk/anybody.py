"""Somebody who presses, types and clicks at random: for the tests, and for `make fuzz`."""

from __future__ import annotations

import random

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QAction
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

KEYS = [
    *(
        Qt.Key.Key_Up,
        Qt.Key.Key_Down,
        Qt.Key.Key_Left,
        Qt.Key.Key_Right,
        Qt.Key.Key_Return,
        Qt.Key.Key_Escape,
    ),
    *(Qt.Key.Key_Tab, Qt.Key.Key_Backtab, Qt.Key.Key_Delete, Qt.Key.Key_Backspace, Qt.Key.Key_Space),
    *(Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_PageDown, Qt.Key.Key_F2),
]
PLAIN, CTRL, SHIFT, ALT = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier,
)
MODIFIERS = [PLAIN, PLAIN, PLAIN, PLAIN, CTRL, SHIFT, ALT, CTRL | SHIFT]
TEXTS = [
    *(
        "moth",
        "gardener touches pod",
        "every 2 s",
        "remove",
        "level.n + 1",
        "3",
        "-5",
        "1e9",
        "say hello",
        "else",
    ),
    *("not", '"', "{", "x", "nobody", "random(0, 1)", "Pod.x >", "wait 1 s", "repeat 3", "0", "send go", "@"),
]
LEFT_OUT = ("quit", "close", "window", "about")
"""Actions that end what is tried here."""


class Anybody:
    """Somebody who presses, types and clicks at random."""

    def __init__(self, window, seed):
        self.window = window
        self.chance = random.Random(seed)

    def act(self):
        deeds = (
            self.press,
            self.type,
            self.point,
            self.point,
            self.point,
            self.choose,
            self.choose,
            self.step,
        )
        self.chance.choice(deeds)()

    @property
    def focus(self):
        return QApplication.focusWidget() or self.window

    def press(self):
        QTest.keyClick(self.focus, self.chance.choice(KEYS), self.chance.choice(MODIFIERS))

    def type(self):
        QTest.keyClicks(self.focus, self.chance.choice(TEXTS))
        if self.chance.random() < 0.7:
            QTest.keyClick(self.focus, Qt.Key.Key_Return)

    def point(self):
        seen = [
            w for w in self.window.findChildren(QWidget) if w.isVisible() and min(w.width(), w.height()) > 2
        ]
        seen += [self.window.level_view] * 25 + [self.window.order.viewport()] * 30
        on = self.chance.choice([w for w in seen if w.isVisible()])
        if self.chance.random() < 0.3:
            QTest.mousePress(on, Qt.MouseButton.LeftButton, self.chance.choice(MODIFIERS), self.spot(on))
            QTest.mouseMove(on, self.spot(on))
            QTest.mouseRelease(on, Qt.MouseButton.LeftButton, PLAIN, self.spot(on))
        else:
            QTest.mouseClick(on, Qt.MouseButton.LeftButton, self.chance.choice(MODIFIERS), self.spot(on))

    def spot(self, on):
        return QPoint(self.chance.randrange(on.width()), self.chance.randrange(on.height()))

    def choose(self):
        actions = [
            a
            for a in self.window.findChildren(QAction)
            if a.isEnabled()
            and a.text()
            and not any(w in a.text().lower().replace("&", "") for w in LEFT_OUT)
        ]
        self.chance.choice(actions).trigger()

    def step(self):
        bench = self.window.bench
        deed = self.chance.choice((bench.document.undo, bench.document.undo, bench.document.redo, self.look))
        deed()

    def look(self):
        run = self.window.bench.run
        self.window.bench.move_cursor(run.end_of(self.chance.randrange(run.done + 1)))


def answer(chance):
    """Answer dialogs and menus that have opened, somehow."""
    modal = QApplication.activeModalWidget() or QApplication.activePopupWidget()
    if modal is not None:
        QTest.keyClick(modal, chance.choice([Qt.Key.Key_Escape, Qt.Key.Key_Down, Qt.Key.Key_Return]))
