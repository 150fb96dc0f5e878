"""Whatever is pressed, typed and clicked, in whatever order: nothing breaks, and the level can always be opened again."""

from __future__ import annotations

import random

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtGui import QAction
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog, QWidget

from gatillo.examples import study_names, study_path
from gatillo.files.level_file import decode_level, encode_level, read_level

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
DEEDS = 130


class _Anybody:
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
        deed = self.chance.choice((bench.undo, bench.undo, bench.redo, self.look))
        deed()

    def look(self):
        run = self.window.bench.run
        self.window.bench.move_cursor(run.end_of(self.chance.randrange(run.done + 1)))


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_anybody_can_do_anything_and_the_level_still_opens(open_window, qtbot, monkeypatch, seed):
    for name in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, name, staticmethod(lambda *_, **__: ("", "")))
    chance = random.Random(seed)
    studies = [read_level(study_path(name)) for name in chance.sample(study_names(), 2)]
    # short trials: what is tried is the window
    first, other = (replace(s, trials=tuple(replace(t, length=1.0) for t in s.trials)) for s in studies)
    window = open_window(first)
    window.ask_name = lambda *_: chance.choice(["Moth", "Zed", "a b", "9x", "", None])
    window.bench.edit(replace(first, note="tried"), "note")

    def answer():
        # dialogs and menus that have opened
        modal = QApplication.activeModalWidget() or QApplication.activePopupWidget()
        if modal is not None:
            QTest.keyClick(modal, chance.choice([Qt.Key.Key_Escape, Qt.Key.Key_Down, Qt.Key.Key_Return]))

    timer = QTimer()
    timer.timeout.connect(answer)
    timer.start(10)
    anybody = _Anybody(window, seed)
    for number in range(DEEDS):
        anybody.act()
        QApplication.processEvents()
        if number == DEEDS // 2:
            window.bench.take(other, None)
        if number % 10 == 0:
            level = window.bench.level
            assert decode_level(encode_level(level)) == level
    timer.stop()
    assert not window.grab().isNull()
