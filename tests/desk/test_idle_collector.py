"""Cyclic garbage is collected in a pause, not while somebody works."""

from __future__ import annotations

import gc
import weakref

import pytest

from building import kind, level, things
from gatillo.desk.session import idle_collector


@pytest.fixture
def window(open_window, monkeypatch):
    monkeypatch.setattr(idle_collector, "QUIET", 150)
    window = open_window(level(kinds=(kind("Moth"),), objects=things("Moth", (0, 0))))
    window.collector.collect()
    yield window
    window.collector.close()
    assert gc.get_freeze_count() == 0


class Circle:
    """Something that only the collector can throw away."""

    def __init__(self):
        self.itself = self


def test_a_pause_after_an_edit_collects(window, qtbot):
    circle = weakref.ref(Circle())
    assert circle() is not None
    window.bench.levelChanged.emit()
    qtbot.waitUntil(lambda: circle() is None)
    assert gc.get_freeze_count() > 0, "what is left is not looked at again"


def test_what_plays_is_not_held_up(window, qtbot):
    circle = weakref.ref(Circle())
    window.bench.player.play()
    window.collector.collect()
    assert circle() is not None
    window.bench.player.stop()
    qtbot.waitUntil(lambda: circle() is None)


def test_another_level_lets_the_one_before_go(window, qtbot):
    assert gc.get_freeze_count() > 0
    window.bench.document.replaced.emit()
    assert gc.get_freeze_count() == 0
