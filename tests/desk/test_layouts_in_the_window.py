"""Layouts in and out in the window: the table of what shapes become, and the level as laid out in a file."""

from __future__ import annotations

import pytest
from hands import Hands
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog

from building import kind, level, things
from gatillo.desk.window.layout_commands import LayoutDialog

DRAWING = (
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 400 300"><g id="moths"><circle id="Dusk" cx="40" cy="50" r="5"/></g>'
    '<g id="paths"><polyline id="walk" points="0,0 40,0"/></g><g id="trees"><circle cx="9" cy="9" r="5"/></g></svg>'
)


@pytest.fixture
def at_work(open_window, qtbot):
    window = open_window(
        level(kinds=(kind("Moth", 5), kind("Wall", box=(10, 100))), objects=things("Moth", (10, 20)))
    )
    hands = Hands(qtbot, window)
    hands.rest()
    told = []
    window.bench.notified.connect(told.append)
    return window, hands, told


def in_dialog(deed):
    """Do something in the dialog that opens next, from within its own loop."""
    seen = []

    def act():
        dialog = next(
            w for w in QApplication.topLevelWidgets() if isinstance(w, LayoutDialog) and w.isVisible()
        )
        seen.append(dialog.table())
        deed(dialog)

    QTimer.singleShot(100, act)
    return seen


def test_a_drawing_is_taken_by_its_table_and_undone(at_work, tmp_path, monkeypatch):
    window, hands, told = at_work
    file = tmp_path / "yard.svg"
    file.write_text(DRAWING)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(file), ""))

    def take(dialog):
        dialog.choices["trees"].setCurrentText("Wall")
        dialog.accept()

    seen = in_dialog(take)
    window.actions_["take layout"].trigger()
    hands.rest()
    assert seen == [{"moths": "Moth", "paths": "route", "trees": "nothing"}]
    lv = window.bench.level
    assert [(o.kind, o.name, o.x, o.y) for o in lv.objects[1:]] == [
        ("Moth", "Dusk", 40, 250),
        ("Wall", "Wall 1", 9, 291),
    ]
    assert [p.name for p in lv.places] == ["walk"]
    assert told[-1].startswith("“yard.svg”: 0 changed, 3 added, 1 not understood")
    assert "objects are scaled as a whole" in window.bench.answers.page.text()
    window.actions_["undo"].trigger()
    assert len(window.bench.level.objects) == 1
    in_dialog(QDialog.reject)
    window.actions_["take layout"].trigger()
    assert len(window.bench.level.objects) == 1


def test_the_layout_is_saved_and_taken_in_again(at_work, tmp_path, monkeypatch):
    window, hands, told = at_work
    for name, sort in (("yard", "Drawings (*.svg)"), ("yard", "Tables of objects (*.csv)")):
        monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_, s=sort: (str(tmp_path / name), s))  # noqa: B023
        window.actions_["save layout"].trigger()
    assert 'data-name="Moth 1"' in (tmp_path / "yard.svg").read_text()
    table = tmp_path / "yard.csv"
    table.write_text(table.read_text().replace("10,20", "70,20"))
    window.layouts.take_file(table)
    hands.rest()
    assert window.bench.level.objects[0].x == 70
    assert told[-1] == "“yard.csv”: 1 changed, 0 added."


def test_what_cannot_be_read_or_written_is_said(at_work, tmp_path, monkeypatch):
    window, _, told = at_work
    for name, raw, words in (
        ("a.svg", b"<svg", "it is not XML"),
        ("b.svg", b'<svg xmlns="http://www.w3.org/2000/svg"/>', "has no shapes"),
        ("c.csv", b"\xff\xfe", "it is not text in UTF-8"),
    ):
        (tmp_path / name).write_bytes(raw)
        window.layouts.take_file(tmp_path / name)
        assert words in told[-1]
    window.layouts.take_file(tmp_path / "no.svg")
    assert "was not read" in told[-1]
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "no" / "x.svg"), ""))
    window.actions_["save layout"].trigger()
    assert "was not written" in told[-1]
