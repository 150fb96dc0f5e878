"""From an empty level to a checked rule, by real key presses and clicks only.

The counts are written into docs/building.md by `tools/building.py`, which runs these.
"""

from __future__ import annotations

import pytest
from hands import CTRL, ENTER, SHIFT, Hands
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from gatillo.catalogue.sentence import expectation_sentence
from gatillo.level.model import FiresTimes, empty_level


def outcomes(window) -> list[str]:
    return [v.outcome for v in window.bench.verdicts]


def test_study_1_is_built_from_nothing(open_window, qtbot, record_property):
    window = open_window(empty_level())
    hands = Hands(qtbot, window)
    hands.new_kind("Gardener")
    hands.choose("kind-add-behaviour", "steer by keys")
    hands.put_down((100, 250))
    hands.new_kind("Bed")
    hands.put_down((150, 250))
    hands.new_kind("Pod")
    hands.put_down((145, 250), (160, 250), (160, 250))
    hands.click_new_rule()
    hands.enter("ga tou po")
    hands.enter("rem po")
    hands.enter("add 1 pods")
    hands.key(ENTER)
    # the trial: play it, then expect of it what it did
    hands.key(Qt.Key.Key_P, CTRL)
    hands.hold(Qt.Key.Key_Up, lambda: window.bench.run.world.x[0] > 170)
    hands.key(Qt.Key.Key_Escape)
    hands.rest()
    window.order.setFocus()
    hands.key(Qt.Key.Key_E, CTRL | SHIFT)
    hands.rest()
    assert [r.name for r in window.bench.level.order] == ["Gardener begins to touch Pod"]
    assert expectation_sentence(window.bench.trial.expectations[0]) == (
        "“Gardener begins to touch Pod” fires exactly 2 times"
    )
    assert outcomes(window) == ["held"]
    # two pods in one tick count as two, the bed does not count
    assert window.bench.run.world.level["pods"] == 3
    assert [f.message for f in window.bench.findings] == ["the variable level.pods is written but never read"]
    record_property("building", f"study 1, seed pods|{hands.presses}|{hands.clicks}")
    assert hands.count <= 62, (hands.presses, hands.clicks)


def test_study_6s_guarded_chase_is_built_from_nothing(open_window, qtbot, record_property):
    window = open_window(empty_level())
    hands = Hands(qtbot, window)
    hands.new_kind("Lamp")
    hands.put_down((500, 250))
    hands.new_kind("Moth")
    hands.put_down((100, 120))
    hands.click_new_rule()
    hands.enter("distance(moth,lamp)>90*dt")
    hands.enter("mo face la")
    hands.enter("move mo 90*dt 0 own")
    hands.key(ENTER)
    hands.key(Qt.Key.Key_E, CTRL | Qt.KeyboardModifier.AltModifier)
    hands.choose("trial-add-expectation", "a formula holds")
    hands.put("trial-expect-0-formula", "Moth_1.x > 498")
    hands.choose("trial-expect-0-when", "at")
    hands.put("trial-expect-0-time", "9")
    hands.rest()
    assert outcomes(window) == ["held"]
    assert window.bench.findings == []
    world = window.bench.run.world
    assert world.x[1] == pytest.approx(500, abs=1.6)
    record_property("building", f"study 6, guarded chase|{hands.presses}|{hands.clicks}")


def test_study_7s_call_is_built_from_nothing(open_window, qtbot, record_property):
    window = open_window(empty_level())
    hands = Hands(qtbot, window)
    hands.new_kind("Guest")
    hands.put_down((40, 250))
    hands.new_kind("Warden")
    hands.put("kind-tags", "staff")
    hands.put_down((20, 300))
    hands.new_kind("Crew")
    hands.click(window.tool_buttons["area"])
    view = window.level_view
    hands.drag(view, view.to_pixels(200, 350), view.to_pixels(360, 200))
    hands.enter("yard")
    hands.click(window.tool_buttons["spot"])
    hands.click(view, view.to_pixels(500, 100).toPoint())
    hands.enter("gate")
    hands.click_new_rule()
    hands.enter("move gu 99*dt")
    hands.key(ENTER)
    hands.new_rule("move wa 60*dt")
    hands.new_rule("staff ent yard", "create 6 cr gate")
    hands.choose("rule-fires", "the first time only")
    hands.rest()
    hands.key(Qt.Key.Key_E, CTRL | SHIFT)
    hands.rest()
    assert expectation_sentence(window.bench.trial.expectations[0]) == (
        "“Any staff enters yard” fires exactly 1 time"
    )
    assert outcomes(window) == ["held"]
    assert len(window.bench.run.world.rows_of_kind(2)) == 6
    record_property("building", f"study 7, night crew's call|{hands.presses}|{hands.clicks}")


def test_study_13_is_built_from_nothing(open_window, qtbot, record_property):
    window = open_window(empty_level())
    hands = Hands(qtbot, window)
    hands.new_kind("Can")
    hands.put_down((200, 250))
    hands.click_new_rule()
    hands.enter("pres on can")
    hands.enter("set can.held yes")
    hands.key(ENTER)
    hands.new_rule("can.held", "put can pointer")
    hands.new_rule("poi rele", "set held no")
    # the script is played by hand: a press on the can, a drag, a release elsewhere
    view = window.level_view
    hands.key(Qt.Key.Key_P, CTRL)
    assert window.bench.playing
    start, end = view.to_pixels(203, 252), view.to_pixels(520, 120)
    QTest.mouseMove(view, start.toPoint())
    qtbot.wait(120)
    QTest.mousePress(view, Qt.MouseButton.LeftButton, pos=start.toPoint())
    qtbot.wait(120)
    for part in (0.3, 0.6, 1.0):
        QTest.mouseMove(view, (start + (end - start) * part).toPoint())
        qtbot.wait(60)
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, pos=end.toPoint())
    hands.clicks += 1
    qtbot.wait(120)
    QTest.mouseMove(view, view.to_pixels(100, 400).toPoint())
    qtbot.wait(120)
    hands.key(Qt.Key.Key_Escape)
    hands.rest()
    world = window.bench.run.world
    assert (world.x[0], world.y[0]) == pytest.approx((520, 120), abs=3)
    assert not world.variables["held/yes/no"][0]
    window.order.setFocus()
    hands.key(Qt.Key.Key_E, CTRL | SHIFT)
    hands.rest()
    assert outcomes(window) == ["held"]
    assert window.bench.trial.expectations == (
        FiresTimes(rule="The left pointer button is pressed on Can, …"),
    ) or (window.bench.trial.expectations[0].times == 1)
    record_property("building", f"study 13, watering can|{hands.presses}|{hands.clicks}")
