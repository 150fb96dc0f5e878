"""Without a keyboard: what stands in a slot is chosen from lists; and with large letters in a small window."""

from __future__ import annotations

import pytest
from hands import Hands
from PySide6.QtCore import QSettings
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QListView

from building import c, kind, level, rule, things
from conftest import settle
from gatillo.desk.application import make_application
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.main_window import MainWindow
from gatillo.desk.writing.formula_help import put_behind, what_comes_next
from gatillo.examples import study_path
from gatillo.formula.compiling import compile_formula
from gatillo.level.roles import Index

LARGE = 13.0
"""Points: 1.4 times the desktop's."""


def yard():
    moves = rule(
        "moves",
        when=c("every_tick"),
        if_=c("formula_holds", formula="yes"),
        do=c("move_by", who="Moth", dx="1", dy="0"),
    )
    return level(
        moves,
        kinds=(kind("Moth", 5), kind("Lamp", 8)),
        objects=(*things("Moth", (10, 10)), *things("Lamp", (90, 10))),
        has={"n": 0.0},
    )


def click_slot(hands: Hands, window, text: str) -> None:
    """Click the word of a slot in the order list."""
    order = window.order
    for at in range(len(order.state.rows)):
        for word in order.state.slots_of(at):
            if word.text == text:
                hands.click(order.viewport(), order.geometry_.word_area(at, word).center().toPoint())
                return
    raise AssertionError(text)


def list_shown() -> QListView:
    found = [w for w in QApplication.topLevelWidgets() if isinstance(w, QListView) and w.isVisible()]
    assert len(found) == 1
    return found[0]


def pick(hands: Hands, text: str) -> None:
    """Click a line of the list that is open."""
    popup = list_shown()
    model = popup.model()
    at = next(model.index(i, 0) for i in range(model.rowCount()) if model.index(i, 0).data() == text)
    popup.scrollTo(at)
    point = popup.visualRect(at).center()
    QTest.mouseMove(popup.viewport(), point)
    hands.click(popup.viewport(), point)
    QTest.qWait(10)


def test_who_is_meant_is_chosen_from_a_list_by_two_clicks(open_window, qtbot):
    window = open_window(yard())
    hands = Hands(qtbot, window)
    click_slot(hands, window, "Moth")
    pick(hands, "Lamp")
    assert window.order.writer.editor.field is None
    assert window.bench.level.order[0].do[0].slots["who"] == "Lamp"
    assert (hands.presses, hands.clicks) == (0, 2)


def test_a_formula_is_clicked_together_and_taken_by_a_click_beside_it(open_window, qtbot):
    window = open_window(yard())
    hands = Hands(qtbot, window)
    click_slot(hands, window, "yes")
    field = window.order.writer.editor.field
    (everything,) = field.actions()
    everything.trigger()
    for word in ("distance(", "Moth", ",", "Lamp", ")", "<", "1", "0", "0", "and", "level.n", "=", "0"):
        pick(hands, word)
    assert field.text() == "distance(Moth, Lamp) < 100 and level.n = 0"
    list_shown().hide()
    order = window.order
    hands.click(order.viewport(), order.viewport().rect().bottomLeft())
    assert window.bench.level.order[0].if_[0].slots["formula"] == field.text()
    assert hands.presses == 0


FORMULAS = [
    "level.n",
    "-Moth.x + 2 * 3",
    "not level.n > 1 and yes",
    "distance(Moth, Lamp) <= 20 or time < 3",
    "(Moth.x + Lamp.y) mod 4",
    "min(Moth.x, level.n, 10) ^ 2",
    "if(Moth.x >= 2, 1, 0) <> 1",
]


@pytest.mark.parametrize("formula", FORMULAS)
def test_what_can_come_next_is_offered_for_any_formula_and_spaced_as_one_writes(formula):
    index = Index(yard())
    made = ""
    while made != formula:
        rest = formula[len(made) :]
        fits = [
            one
            for one in what_comes_next(index, made)
            if formula.startswith(put_behind(made, one).rstrip()) and len(put_behind(made, one)) > len(made)
        ]
        assert fits, (made, rest)
        made = max((put_behind(made, one) for one in fits), key=len)
    compile_formula(index, made)


@pytest.fixture
def large(tmp_path, qtbot):
    """The whole level in a small window with large letters."""
    application = make_application()
    before = application.font()
    font = application.font()
    font.setPointSizeF(LARGE)
    application.setFont(font)
    window = MainWindow(Workbench(None), QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    window.files.ask = lambda *_: "discard"
    qtbot.addWidget(window)
    window.resize(1024, 700)
    window.show()
    yield window
    window.close()
    application.setFont(before)


def test_with_large_letters_the_window_stays_small_and_no_page_reaches_beyond_the_sheet(large, qtbot):
    large.open_path(study_path("01-seed-pods.gatillo"))
    settle(qtbot, large)
    assert large.width() == 1024
    names = [("level", ""), *(("kind", k.name) for k in large.bench.level.kinds)]
    names += [("trial", t.name) for t in large.bench.level.trials]
    for sort, name in names:
        large.bench.select(Selection(thing=Thing(sort, name)))
        QApplication.processEvents()
        QTest.qWait(5)
        sheet = large.sheet
        assert sheet.widget().width() <= sheet.viewport().width(), (sort, name)
    assert large.width() == 1024


def test_with_large_letters_the_gallery_has_as_many_columns_as_fit(large, qtbot):
    large.show_start()
    QApplication.processEvents()
    cards = large.start_page.cards
    right = large.start_page.mapToGlobal(large.start_page.rect().bottomRight()).x()
    assert all(card.mapToGlobal(card.rect().bottomRight()).x() <= right for card in cards)
    assert len({card.x() for card in cards}) == 2
    large.resize(1500, 800)
    QApplication.processEvents()
    assert len({card.x() for card in cards}) == 3
