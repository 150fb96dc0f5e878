"""Trying values in the window: from a number to several runs side by side, and one of them taken."""

from __future__ import annotations

import csv

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDoubleSpinBox, QMenu

from building import c, kind, level, rule, things
from conftest import settle
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.trying.try_values import TryValues
from gatillo.level.expectations import FiresTimes


def counting():
    made = level(
        rule("Count", when=c("every_tick"), do=c("add_to", amount="1", variable="level.n"), id=1),
        kinds=(kind("Moth", 10, has={"fuel": 5.0}, behaviours=(c("spin", speed="60"),)),),
        objects=things("Moth", (100, 100)),
        has={"n": 0.0},
        seconds=1,
    )
    return made


@pytest.fixture
def window(open_window, qtbot):
    made = open_window(counting())
    settle(qtbot, made)
    return made


def tried(
    window, qtbot, target="rule Count: do 1.amount", values="1,2,4", seeds=1, watch="level.n"
) -> TryValues:
    window.try_values(target)
    trying = window.trying
    trying.values[0].setText(values)
    trying.seeds.setValue(seeds)
    trying.watch.setText(watch)
    trying.start.click()
    many = len(values.split(",")) * seeds
    qtbot.waitUntil(lambda: len(trying.outcomes) == many and not trying.results.isHidden())
    return trying


def test_several_values_are_run_and_shown_side_by_side(window, qtbot):
    trying = tried(window, qtbot)
    assert [picture.words for picture in trying.pictures] == ["amount 1", "amount 2", "amount 4"]
    assert [trying.table.item(at, 0).text() for at in range(3)] == ["1", "2", "4"]
    ends = [trying.outcomes[n].watched[0][-1] for n in range(3)]
    assert ends == [60, 120, 240]
    trying.time.setValue(30)
    assert {picture.tick for picture in trying.pictures} == {30}
    assert trying.pictures[0].frame_now().tick == 28
    assert trying.moment.text() == "0.500 s"
    for picture in trying.pictures:
        picture.grab()
    trying.close()


def test_a_click_and_the_button_take_a_value_in_one_edit(window, qtbot):
    trying = tried(window, qtbot)
    QTest.mouseClick(trying.pictures[2], Qt.MouseButton.LeftButton)
    assert trying.chosen == 2 and trying.pictures[2].is_chosen
    trying.taking.click()
    assert window.bench.level.order[0].do[0].slots["amount"] == "4"
    settle(qtbot, window)
    window.actions_["undo"].trigger()
    assert window.bench.level.order[0].do[0].slots["amount"] == "1"
    trying.close()


def test_seeds_are_drawn_with_their_spread_and_are_one_picture(window, qtbot):
    trying = tried(window, qtbot, values="1,2", seeds=3)
    assert len(trying.pictures) == 2 and len(trying.outcomes) == 6
    assert len(trying.curves.plot.listDataItems()) == 2 * 3
    trying.close()


def test_two_numbers_are_crossed(window, qtbot):
    window.try_values("rule Count: do 1.amount")
    trying = window.trying
    trying.names[1].setCurrentText("Moth spin.speed")
    trying.values[0].setText("1,2")
    trying.values[1].setText("0,90")
    trying.start.click()
    qtbot.waitUntil(lambda: len(trying.pictures) == 4)
    assert trying.pictures[3].words == "amount 2, speed 90"
    trying.close()


def test_what_cannot_be_tried_is_said_and_nothing_is_run(window, qtbot):
    window.try_values("rule Count: do 1.amount")
    trying = window.trying
    trying.values[0].setText("")
    trying.start.click()
    assert "give values to try" in trying.said.text().lower()
    trying.values[0].setText("1")
    trying.watch.setText("level.nope")
    trying.start.click()
    assert "level.nope" in trying.said.text()
    assert trying.outcomes == {}
    trying.close()


def test_it_can_be_given_up(window, qtbot):
    window.try_values("rule Count: do 1.amount")
    trying = window.trying
    trying.values[0].setText("1..200")
    trying.start.click()
    assert trying.start.text() == "Give up"
    trying.start.click()
    assert trying.start.text() == "Run them" and not trying._worker.busy
    trying.close()


def test_what_came_of_it_is_saved_as_csv_and_as_a_picture(window, qtbot, tmp_path):
    trying = tried(window, qtbot)
    trying.save_csv(tmp_path / "tried.csv")
    with (tmp_path / "tried.csv").open() as file:
        assert [row["end of level.n"] for row in csv.DictReader(file)] == ["60", "120", "240"]
    trying.save_picture(tmp_path / "tried.png")
    assert (tmp_path / "tried.png").stat().st_size > 1000
    trying.save_csv(tmp_path / "no" / "tried.csv")
    assert "cannot be written" in trying.said.text()
    trying.close()


def test_the_command_begins_with_the_current_number_of_the_order_list(window):
    window.order.setFocus()
    window.order.state.stand_at(
        0, next(i for i, w in enumerate(window.order.state.slots_of(0)) if w.slot == "amount")
    )
    window.actions_["try values"].trigger()
    assert window.trying.names[0].currentText() == "rule Count: do 1.amount"
    window.trying.close()


@pytest.mark.parametrize(
    ("field", "target"), [("behaviour-0-speed", "Moth spin.speed"), ("variable-0-value", "Moth.fuel")]
)
def test_a_number_in_the_sheet_offers_it_in_its_menu(window, field, target):
    window.bench.select(Selection(thing=Thing("kind", "Moth")))
    QApplication.processEvents()
    found = next(f for f in window.sheet.findChildren(QDoubleSpinBox) if f.objectName().endswith(field))
    wanted = []
    window.bench.tryWanted.disconnect()
    window.bench.tryWanted.connect(wanted.append)
    event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, QPoint(2, 2), found.mapToGlobal(QPoint(2, 2)))
    QApplication.sendEvent(found, event)
    menu = next(w for w in QApplication.topLevelWidgets() if isinstance(w, QMenu) and w.isVisible())
    next(action for action in menu.actions() if action.text() == "Try values …").trigger()
    menu.close()
    assert wanted == [target]


def test_the_table_and_pictures_tell_what_holds(open_window, qtbot):
    from msgspec.structs import replace

    made = counting()
    expects = FiresTimes(rule="Count", times=60)
    made = replace(made, trials=(replace(made.trials[0], expectations=(expects,)),))
    window = open_window(made)
    trying = tried(window, qtbot, watch="")
    assert trying.pictures[0].said == "1 of 1 hold, 60 firings"
    assert trying.watched.isHidden()
    trying.close()


def test_scenery_stands_in_the_pictures_and_the_kinds_are_the_right_ones(open_window, qtbot):
    from msgspec.structs import replace

    made = counting()
    grass = replace(kind("Grass", 20), scenery=True)
    made = replace(
        made, kinds=(grass, *made.kinds), objects=(*things("Grass", (50, 50), first=90), *made.objects)
    )
    window = open_window(made)
    trying = tried(window, qtbot, watch="")
    picture = trying.pictures[0]
    assert [picture.kinds[number].name for number in picture.frame_now().kind.tolist()] == ["Moth"]
    assert [thing.kind for thing, _ in picture.scenery] == ["Grass"]
    picture.grab()
    trying.close()
