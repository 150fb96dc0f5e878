"""From an empty level to a checked rule, by real key presses and clicks only.

The counts are written into docs/building.md by `tools/building.py`, which runs these.
"""

from __future__ import annotations

import pytest
from hands import CTRL, ENTER, Hands
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from gatillo.level.expectations import FiresTimes
from gatillo.level.model import empty_level


def outcomes(window) -> list[str]:
    return [v.outcome for v in window.bench.shown.verdicts]


def test_study_1_is_built_from_nothing(open_window, qtbot, record_property):
    window = open_window(empty_level())
    hands = Hands(qtbot, window)
    hands.new_kind("Gardener")
    hands.add_behaviour("steer by keys")
    hands.put_down((100, 250))
    hands.new_kind("Bed")
    hands.put_down((150, 250))
    hands.new_kind("Pod")
    hands.put_down((145, 250), (160, 250), (160, 250))
    hands.click_new_rule()
    hands.enter("ga tou po")
    hands.enter("rem")
    hands.key(ENTER)
    hands.enter("pods += 1")
    # the trial: play it, then expect of it what it did
    hands.key(Qt.Key.Key_P, CTRL)
    hands.hold(Qt.Key.Key_Up, lambda: window.bench.run.world.x[0] > 170)
    hands.key(Qt.Key.Key_Escape)
    hands.expect_as_now()
    assert [r.name for r in window.bench.level.order] == ["Gardener begins to touch Pod"]
    assert window.bench.trial.expectations[0].sentence() == (
        "“Gardener begins to touch Pod” fires exactly 2 times"
    )
    assert outcomes(window) == ["held"]
    # two pods in one tick count as two, the bed does not count
    assert window.bench.run.world.level["pods"] == 3
    assert [f.message for f in window.bench.shown.findings] == [
        "the variable level.pods is written but never read"
    ]
    record_property("building", f"study 1, seed pods|{hands.presses}|{hands.clicks}")
    assert hands.count < 60, (hands.presses, hands.clicks)


def test_study_6s_guarded_chase_is_built_from_nothing(open_window, qtbot, record_property):
    window = open_window(empty_level())
    hands = Hands(qtbot, window)
    hands.new_kind("Lamp")
    hands.put_down((500, 250))
    hands.new_kind("Moth")
    hands.put_down((100, 120))
    hands.click_new_rule()
    hands.enter("dist(moth,lamp)>90*dt")
    hands.enter("mo face la")
    hands.enter("move mo 90*dt 0 own")
    hands.key(ENTER)
    hands.rest()
    # at the end of the trial the moth is where it is expected
    hands.key(Qt.Key.Key_End, CTRL)
    view = window.level_view
    world = window.bench.world
    hands.click(view, view.to_pixels(world.x[1], world.y[1]).toPoint())
    hands.expect_as_now()
    assert window.bench.trial.expectations[0].sentence() == (
        "abs(Moth_1.x - 499) <= 1 and abs(Moth_1.y - 250) <= 1 holds at 10 s"
    )
    assert outcomes(window) == ["held"]
    assert window.bench.shown.findings == []
    world = window.bench.run.world
    assert world.x[1] == pytest.approx(500, abs=1.6)
    assert hands.count < 90
    record_property("building", f"study 6, guarded chase|{hands.presses}|{hands.clicks}")


def test_study_7s_call_is_built_from_nothing(open_window, qtbot, record_property):
    window = open_window(empty_level())
    hands = Hands(qtbot, window)
    view = window.level_view
    hands.new_kind("Guest")
    hands.add_behaviour("steer by keys")
    hands.put_down((40, 250), (20, 300))
    # the second of them alone carries the tag
    hands.put("object-tags", "staff")
    hands.new_kind("Crew")
    hands.click(window.tool_buttons["area"])
    hands.drag(view, view.to_pixels(200, 350), view.to_pixels(360, 200))
    hands.enter("yard")
    hands.click(window.tool_buttons["spot"])
    hands.click(view, view.to_pixels(500, 100).toPoint())
    hands.enter("gate")
    hands.click_new_rule()
    hands.enter("staff enter yard")
    hands.enter("create 6 crew gate")
    hands.choose("rule-fires", "the first time only")
    # both walk into the yard
    hands.key(Qt.Key.Key_P, CTRL)
    hands.hold(Qt.Key.Key_Up, lambda: min(window.bench.run.world.x[:2]) > 210)
    hands.key(Qt.Key.Key_Escape)
    hands.expect_as_now()
    assert window.bench.trial.expectations[0].sentence() == ("“Any staff enters yard” fires exactly 1 time")
    assert outcomes(window) == ["held"]
    assert len(window.bench.run.world.rows_of_kind(1)) == 6
    assert hands.count < 90
    record_property("building", f"study 7, night crew's call|{hands.presses}|{hands.clicks}")


def test_study_13_is_built_from_nothing(open_window, qtbot, record_property):
    window = open_window(empty_level())
    hands = Hands(qtbot, window)
    hands.new_kind("Can")
    hands.put_down((200, 250))
    hands.click_new_rule()
    hands.enter("pres on can")
    hands.type("set can.held yes")
    hands.new_rule("can.held", "put can pointer")
    hands.new_rule("poi rele", "set held no")
    hands.key(ENTER)
    # the script is played by hand: a press on the can, a drag, a release elsewhere
    view = window.level_view
    hands.key(Qt.Key.Key_P, CTRL)
    assert window.bench.player.playing
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
    hands.expect_as_now()
    world = window.bench.run.world
    assert (world.x[0], world.y[0]) == pytest.approx((520, 120), abs=3)
    assert not world.variables["held/yes/no"][0]
    assert outcomes(window) == ["held"]
    assert window.bench.trial.expectations == (
        FiresTimes(rule="The left pointer button is pressed on Can, …"),
    ) or (window.bench.trial.expectations[0].times == 1)
    assert hands.count < 90
    record_property("building", f"study 13, watering can|{hands.presses}|{hands.clicks}")
