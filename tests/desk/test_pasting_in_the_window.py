"""Copying and pasting objects, things and their parts with keys and by mouse, in one window and from one to another."""

from __future__ import annotations

import pytest
from hands import CTRL, Hands
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from building import START, add, c, kind, level, rule, things
from gatillo.desk.session.selection import Selection, Thing
from gatillo.level.expectations import HoldsAt
from gatillo.level.model import Spot, Trial, empty_level

SHIFT_CTRL = CTRL | Qt.KeyboardModifier.ShiftModifier


def yard():
    made = level(
        rule("Fill", when=START, do=add("Can.fill"), id=1),
        kinds=(
            kind("Can", 6, has={"fill": 1.0, "home": (0.0, 0.0)}, behaviours=(c("spin"),)),
            kind("Pot", 6),
        ),
        objects=(*things("Can", (100, 100)), *things("Pot", (200, 100), first=9)),
        places=(Spot(name="gate", x=50, y=50),),
        has={"n": 0.0},
    )
    holds = HoldsAt(formula="level.n = 0", when="always")
    return replace(made, trials=(replace(made.trials[0], expectations=(holds,)), Trial(name="other")))


@pytest.fixture
def at_work(open_window, qtbot):
    window = open_window(yard())
    return window, Hands(qtbot, window)


def pick(hands, part, words):
    """Open the menu of a list of parts and choose what it says."""
    hands.press_button(
        f"kind-copy-{part}" if part not in ("expectations", "keys", "watches") else f"trial-copy-{part}"
    )
    (menu,) = [m for m in hands.window.findChildren(QMenu, f"copy-{part}-menu") if m.isVisible()]
    (action,) = [a for a in menu.actions() if a.text() == words]
    menu.setActiveAction(action)
    hands.qtbot.keyClick(menu, Qt.Key.Key_Return)


def test_objects_are_copied_with_ctrl_c_and_pasted_into_the_middle_of_the_view(at_work):
    window, hands = at_work
    window.bench.select(Selection(frozenset({1, 9})))
    window.level_view.setFocus()
    hands.key(Qt.Key.Key_C, CTRL)
    hands.key(Qt.Key.Key_V, CTRL)
    made = window.bench.level.objects[-2:]
    assert [o.name for o in made] == ["Can 2", "Pot 2"]
    x, y = window.level_view.paste_point()
    assert made[0].x == pytest.approx(x - 50, abs=0.2) and made[0].y == pytest.approx(y, abs=0.2)
    assert window.bench.selection.objects == frozenset(o.id for o in made)
    hands.key(Qt.Key.Key_Z, CTRL)
    assert len(window.bench.level.objects) == 2


def test_objects_are_cut_and_come_into_another_window_with_their_kinds(at_work, open_window, qtbot):
    window, hands = at_work
    window.bench.select(Selection(frozenset({1})))
    window.level_view.setFocus()
    hands.key(Qt.Key.Key_X, CTRL)
    assert [o.name for o in window.bench.level.objects] == ["Pot 1"]
    other = open_window(empty_level())
    there = Hands(qtbot, other)
    other.level_view.setFocus()
    there.key(Qt.Key.Key_V, CTRL)
    assert [k.name for k in other.bench.level.kinds] == ["Can"]
    assert [o.name for o in other.bench.level.objects] == ["Can 1"]


@pytest.mark.parametrize(("sort", "name"), [("kind", "Pot"), ("place", "gate"), ("trial", "other")])
def test_what_is_on_the_sheet_is_copied_pasted_and_shown(at_work, sort, name):
    window, hands = at_work
    window.bench.select(Selection(thing=Thing(sort, name)))
    window.level_view.setFocus()
    hands.key(Qt.Key.Key_C, CTRL)
    assert f"1 {sort} copied" in window.message.words.text()
    hands.key(Qt.Key.Key_V, CTRL)
    thing = window.bench.selection.thing
    assert thing is not None and thing.sort == sort and thing.name.startswith(name) and thing.name != name


def test_a_kind_is_copied_with_its_rules_into_another_window(at_work, open_window, qtbot):
    window, hands = at_work
    window.bench.select(Selection(thing=Thing("kind", "Can")))
    window.level_view.setFocus()
    hands.key(Qt.Key.Key_C, SHIFT_CTRL)
    other = open_window(empty_level())
    other.level_view.setFocus()
    Hands(qtbot, other).key(Qt.Key.Key_V, CTRL)
    assert [e.rules[0].name for e in other.bench.level.order] == ["Fill"]


def test_parts_of_a_kind_are_copied_one_by_one_or_all_and_pasted_onto_another(at_work):
    window, hands = at_work
    window.bench.select(Selection(thing=Thing("kind", "Can")))
    pick(hands, "variables", "Copy all 2 variables")
    window.bench.select(Selection(thing=Thing("kind", "Pot")))
    pick(hands, "variables", "Paste 2 variables")
    assert [v.name for v in window.bench.level.kinds[1].variables] == ["fill", "home"]
    window.bench.select(Selection(thing=Thing("kind", "Can")))
    pick(hands, "behaviours", "Copy spin")
    window.bench.select(Selection(thing=Thing("kind", "Pot")))
    # with Ctrl+V too, onto what is on the sheet
    window.level_view.setFocus()
    hands.key(Qt.Key.Key_V, CTRL)
    assert [b.use for b in window.bench.level.kinds[1].behaviours] == ["spin"]


def test_what_does_not_fit_cannot_be_pasted(at_work):
    window, hands = at_work
    QApplication.clipboard().setText("shopping list")
    window.bench.select(Selection(thing=Thing("kind", "Can")))
    hands.press_button("kind-copy-looks")
    (menu,) = [m for m in window.findChildren(QMenu, "copy-looks-menu") if m.isVisible()]
    (action,) = menu.actions()
    assert action.text() == "Paste looks" and not action.isEnabled()
    menu.close()


def test_expectations_are_copied_to_another_trial(at_work):
    window, hands = at_work
    window.bench.select(Selection(thing=Thing("trial", "trial")))
    pick(hands, "expectations", "Copy level.n = 0 holds at every tick")
    window.bench.select(Selection(thing=Thing("trial", "other")))
    pick(hands, "expectations", "Paste 1 expectation")
    assert window.bench.level.trials[1].expectations == window.bench.level.trials[0].expectations


def test_by_mouse_objects_are_copied_from_their_menu_and_pasted_where_the_next_one_is_opened(at_work):
    window, _hands = at_work
    view = window.level_view
    choose_from_menu(window, view.to_pixels(100, 100), "Copy")
    choose_from_menu(window, view.to_pixels(250, 200), "Paste")
    made = window.bench.level.objects[-1]
    assert (made.name, made.x, made.y) == ("Can 2", pytest.approx(250, abs=1), pytest.approx(200, abs=1))


def choose_from_menu(window, point, words):
    """Open the level's menu with the right button, and click an entry."""
    view = window.level_view
    at = point.toPoint()
    QApplication.sendEvent(view, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, view.mapToGlobal(at)))
    (menu,) = [m for m in window.findChildren(QMenu) if m.isVisible()]
    action = next(a for a in menu.actions() if a.text().replace("&", "") == words)
    QTest.mouseClick(menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(action).center())
