"""A window on an empty desk, with nothing of the user's."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import pytest
from PySide6.QtCore import QEvent, QSettings
from PySide6.QtWidgets import QApplication

from gatillo.desk.application import make_application
from gatillo.desk.looks.theme import choose_theme
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.main_window import MainWindow
from gatillo.examples import study_path
from gatillo.level.model import Level

PATIENCE = 60_000
"""Milliseconds that are waited for what must come, since machines may be shared with others."""


@pytest.fixture
def qtbot(qtbot):
    """Waits longer than pytest-qt does."""
    qtbot.waitUntil = partial(qtbot.waitUntil, timeout=PATIENCE)
    qtbot.waitSignal = partial(qtbot.waitSignal, timeout=PATIENCE)
    return qtbot


@pytest.fixture
def open_window(qtbot, tmp_path) -> Callable[..., MainWindow]:
    """Opens a window on a level or, without one, on the first study, and waits for its run."""
    made: list[MainWindow] = []

    def make(level: Level | None = None) -> MainWindow:
        make_application()
        settings = QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat)
        window = MainWindow(Workbench(level), settings)
        window.files.ask = lambda *_: "discard"
        window.resize(1280, 800)
        made.append(window)
        qtbot.addWidget(window)
        window.show()
        window.activateWindow()
        if level is None:
            assert window.open_path(study_path("01-seed-pods.gatillo"))
        settle(qtbot, window)
        return window

    yield make
    for window in made:
        window.close()
        window.deleteLater()
    # else they stand about in the next test, and are styled with it
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    choose_theme("light")


def settle(qtbot, window: MainWindow) -> None:
    """Wait until the worker has answered for the level as it is."""
    bench = window.bench

    def at_rest() -> bool:
        whole = bench.run.program is bench.program and bench.run.done >= bench.run.length
        return whole and bench.shown.judged is bench.run

    qtbot.waitUntil(at_rest)
