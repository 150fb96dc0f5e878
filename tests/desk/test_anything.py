"""Whatever is pressed, typed and clicked, in whatever order: nothing breaks, and the level can always be opened again."""

from __future__ import annotations

import random

import pytest
from anybody import ALT, PLAIN, SHIFT, Anybody, answer
from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QFileDialog

from gatillo.desk.graph_view import open_graph
from gatillo.desk.session import replay
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import decode_level, encode_level, read_level
from gatillo.level.model import Graph
from gatillo.level.roles import all_logic

DEEDS = 130


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_anybody_can_do_anything_and_the_level_still_opens(open_window, qtbot, monkeypatch, seed):
    for name in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, name, staticmethod(lambda *_, **__: ("", "")))
    if seed == 3:
        # every run after an edit is shown as it grows, again and again
        for name in ("FIRST_AFTER_EDIT", "THEN_TOLD", "WORTH_TELLING"):
            monkeypatch.setattr(replay, name, 0.0)
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
            window.bench.document.take(other)
        if number % 10 == 0:
            level = window.bench.level
            assert decode_level(encode_level(level)) == level
    timer.stop()
    assert not window.grab().isNull()


LINES = [
    "to 3",
    "to 2.again",
    "= Moth.x * 2",
    "= a + b",
    "every tick",
    "gate",
    "on change",
    "note hi",
    "wait 1 s",
    "not 3 > 2",
]


@pytest.mark.parametrize(("seed", "many"), [(47, 800), (87, 2), (31, 2)])
def test_anybody_can_do_anything_in_a_graph(open_window, qtbot, monkeypatch, seed, many):
    # a graph of more cards is laid out a little at a time, and looks as it did until then
    monkeypatch.setattr(open_graph, "MANY_CARDS", many)
    monkeypatch.setattr(open_graph, "A_SLICE", 0.0001 if many == 2 else 0.02)
    for name in ("getOpenFileName", "getSaveFileName"):
        monkeypatch.setattr(QFileDialog, name, staticmethod(lambda *_, **__: ("", "")))
    chance = random.Random(seed)
    study = read_level(study_path(chance.choice(["22-night-lamps.gatillo", "12-bench-focus.gatillo"])))
    window = open_window(replace(study, trials=tuple(replace(t, length=0.5) for t in study.trials)))
    window.ask_name = lambda *_: chance.choice(["Moth", "Zed", "9x", "", None])
    graphs = [e for _, _, e in all_logic(study) if isinstance(e, Graph)]
    view, commands = window.graph_page.view, window.graph_page.commands
    window.region.open_graph(graphs[0].id)
    view.fit()
    timer = QTimer()
    timer.timeout.connect(lambda: answer(chance))
    timer.start(10)
    anybody = Anybody(window, seed)

    def point() -> QPoint:
        sheet = commands.opened.sheet()
        if sheet is None or not sheet.cards or chance.random() < 0.3:
            return QPoint(chance.randrange(view.width()), chance.randrange(view.height()))
        card = chance.choice(list(sheet.cards.values()))
        ends = [
            card.area.center(),
            *map(card.output_at, card.face.outputs),
            *map(card.input_at, card.face.inputs),
        ]
        ends += [*map(card.slot_at, card.face.takes), *map(card.value_at, card.face.gives)]
        return ((chance.choice(ends) - view.corner) * view.zoom).toPoint()

    def drag() -> None:
        start, end = point(), point()
        modifiers = chance.choice([PLAIN, PLAIN, PLAIN, ALT, SHIFT])
        QTest.mousePress(view, Qt.MouseButton.LeftButton, modifiers, start)
        QTest.mouseMove(view, (start + end) / 2)
        QTest.mouseMove(view, end)
        QTest.mouseRelease(view, Qt.MouseButton.LeftButton, modifiers, end)

    def line() -> None:
        view.setFocus()
        for character in chance.choice(LINES):
            QTest.keyClicks(QApplication.focusWidget() or view, character)
        QTest.keyClick(QApplication.focusWidget() or view, Qt.Key.Key_Return)

    def command() -> None:
        names = [
            "fold cards",
            "unfold card",
            "tidy cards",
            "go into",
            "back graph",
            "frame cards",
            "align cards",
        ]
        names += [
            "wire earlier",
            "wire later",
            "undo",
            "redo",
            "copy",
            "paste",
            "to rule",
            "to graph",
            "step",
        ]
        window.actions_[chance.choice(names)].trigger()

    def again() -> None:
        if not window.region.shows_graph or commands.opened.graph is None:
            left = [e for _, _, e in all_logic(window.bench.level) if isinstance(e, Graph)]
            if left:
                window.region.open_graph(chance.choice(left).id)
        sheet = commands.opened.sheet()
        if sheet is not None and sheet.cards:
            commands.opened.choose(
                chance.sample(list(sheet.cards), min(len(sheet.cards), chance.randrange(1, 4)))
            )

    for number in range(DEEDS):
        chance.choice([drag, drag, drag, line, command, command, again, anybody.act])()
        QApplication.processEvents()
        view.repaint()
        if number % 10 == 0:
            level = window.bench.level
            assert decode_level(encode_level(level)) == level
    timer.stop()
    assert not window.grab().isNull()
