"""Whatever is pressed, typed and clicked, in whatever order: nothing breaks, and the level can always be opened again."""

from __future__ import annotations

import random

import pytest
from anybody import Anybody, answer
from msgspec.structs import replace
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QFileDialog

from gatillo.examples import study_names, study_path
from gatillo.files.level_file import decode_level, encode_level, read_level

DEEDS = 130


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

    timer = QTimer()
    timer.timeout.connect(lambda: answer(chance))
    timer.start(10)
    anybody = Anybody(window, seed)
    for number in range(DEEDS):
        anybody.act()
        QApplication.processEvents()
        if number == DEEDS // 2:
            window.bench.take(other)
        if number % 10 == 0:
            level = window.bench.level
            assert decode_level(encode_level(level)) == level
    timer.stop()
    assert not window.grab().isNull()
