"""Room: the sheet over the whole height, and what is said, offered and chosen in the level keeps clear of one another."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QRectF, QSettings
from PySide6.QtWidgets import QApplication

from building import START, c, kind, level, rule, send, things
from conftest import settle
from gatillo.desk.level_view.offers import clear_of
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.main_window import MainWindow


def test_the_sheet_takes_the_whole_height_when_asked_and_that_is_remembered(open_window, qtbot, tmp_path):
    window = open_window()
    low = window.sheet.height()
    window.actions_["tall sheet"].trigger()
    QApplication.processEvents()
    assert window.sheet.height() > low * 1.5
    right = window.order.mapTo(window, window.order.rect().topRight()).x()
    assert right <= window.sheet.mapTo(window, window.sheet.rect().topLeft()).x()
    window.actions_["show level"].trigger()
    assert not window.region.isVisible() and window.sheet.isVisible()
    window.actions_["show level"].trigger()
    settings = QSettings(str(tmp_path / "kept.ini"), QSettings.Format.IniFormat)
    window.settings = settings
    window.close()
    again = MainWindow(Workbench(level()), settings)
    qtbot.addWidget(again)
    assert again.actions_["tall sheet"].isChecked() and again.outer.indexOf(again.sheet) == 1
    again.actions_["tall sheet"].trigger()
    assert again.upper.indexOf(again.sheet) >= 0
    again.close()


@pytest.mark.parametrize("top", [0.0, 30.0, 60.0, 110.0])
def test_a_box_moves_off_all_that_are_taken_and_stays_in_the_view(top):
    taken = [QRectF(0, 20, 100, 30), QRectF(20, 60, 100, 30), QRectF(0, 100, 50, 20)]
    box = clear_of(QRectF(10, top, 60, 20), taken, 200)
    assert not any(other.intersects(box) for other in taken)
    assert box.top() >= 0 and box.bottom() <= 200


def test_at_the_foot_of_the_view_it_moves_up():
    box = clear_of(QRectF(0, 170, 60, 25), [QRectF(0, 165, 60, 30)], 200)
    assert box.bottom() <= 165


def test_the_lane_of_an_unfolded_rule_shows_each_lines_own_marks(open_window, qtbot):
    tells = rule(
        "Tell",
        when=c("every_seconds", period="0.1", first="0.1"),
        if_=(
            c("compare", left="level.n", comparison=">", right="1"),
            c("compare", left="level.n", comparison="<", right="4"),
        ),
        do=(send("a"), c("wait", time="0.05"), send("b")),
        else_=send("c"),
        id=7,
    )
    counts = rule(
        "Count",
        when=c("every_seconds", period="0.1", first="0.1"),
        do=c("add_to", amount="1", variable="level.n"),
        id=8,
    )
    window = open_window(
        level(
            rule("Begin", when=START, do=send("z"), id=6),
            tells,
            counts,
            kinds=(kind("Moth", 5),),
            objects=things("Moth", (0, 0)),
            has={"n": 0.0},
            seconds=0.6,
        )
    )
    settle(qtbot, window)
    data = window.order.state.lanes
    looked = data.line(1, "when", 0).held.tolist()
    assert looked == [6, 12, 18, 24, 30, 36]
    assert data.line(1, "if", 0).held.tolist() == [18, 24, 30, 36]
    assert data.line(1, "if", 0).failed.tolist() == [6, 12]
    assert data.line(1, "if", 1).held.tolist() == [18, 24]
    assert data.line(1, "if", 1).failed.tolist() == [30, 36]
    assert data.line(1, "do", 0).held.tolist() == [18, 24]
    assert data.line(1, "do", 2).held.tolist() == [21, 27]
    assert data.line(1, "else", 0).held.tolist() == [6, 12, 30, 36]
    window.order.state.open_rule(7)
    window.order.viewport().grab()
    window.order.zoom_to(40.0)
    window.order.viewport().grab()
