"""Studies of reuse and of motion that adds up, built from an empty level by real key presses and clicks only.

The counts are written into docs/building.md by `tools/building.py`, which runs these.
"""

from __future__ import annotations

import pytest
from hands import CTRL, ENTER, Hands
from PySide6.QtCore import Qt

from gatillo.level.model import Section, empty_level


@pytest.fixture
def begun(open_window, qtbot, record_property):
    """An empty level, hands, and how to note what it took."""
    window = open_window(empty_level())
    hands = Hands(qtbot, window)
    yield window, hands, lambda what: record_property("building", f"{what}|{hands.presses}|{hands.clicks}")


def show_kind(window, hands, name):
    """Click a kind on the shelf, and let it go again: its page stays."""
    hands.click(next(b for b in window.shelf.buttons if b.kind.name == name))
    hands.key(Qt.Key.Key_Escape)


def click_row(window, hands, sort):
    """Click the first row of a sort in the order list."""
    view = window.order
    at = next(i for i, row in enumerate(view.state.rows) if row.sort == sort)
    words = view.state.rows[at].words[0]
    hands.click(view.viewport(), view.geometry_.word_area(at, words).center().toPoint())


def test_study_23s_marks_are_built_from_nothing(begun):
    window, hands, note = begun
    hands.new_kind("Helper")
    hands.put_down((100, 250), (200, 300), (300, 100))
    hands.click_new_rule()
    hands.enter("space pressed")
    hands.enter("set helper.mark to (random(50, 700), random(50, 400))")
    hands.key(ENTER)
    show_kind(window, hands, "Helper")
    hands.add_behaviour("go to goal")
    hands.put("kind-behaviour-0-goal", "Helper.mark")
    hands.key(Qt.Key.Key_P, CTRL)
    hands.key(Qt.Key.Key_Space)
    hands.qtbot.waitUntil(lambda: window.bench.run.done > 120)
    hands.key(Qt.Key.Key_Escape)
    click_row(window, hands, "rule")
    hands.expect_as_now()
    world = window.bench.run.world
    marks = world.variables["mark/point"]
    assert len(set(marks.tolist())) == 3
    away = abs(world.x + 1j * world.y - marks)
    assert (away < 1).all(), away
    assert {v.outcome for v in window.bench.shown.verdicts} == {"held"}
    note("study 23, own marks")


def test_study_24s_ride_is_built_from_nothing(begun):
    window, hands, note = begun
    hands.new_kind("Cart")
    hands.put_down((150, 200))
    hands.new_kind("Gardener")
    hands.add_behaviour("steer eight ways")
    hands.put_down((170, 200))
    hands.click_new_rule()
    hands.enter("e pressed")
    hands.enter("attach gardener to cart, keeping the offset")
    hands.enter("move cart to (600, 200) over 3 s")
    hands.key(ENTER)
    hands.key(Qt.Key.Key_P, CTRL)
    hands.key(Qt.Key.Key_E)
    hands.hold(Qt.Key.Key_Up, lambda: window.bench.run.world.y[1] > 215)
    hands.key(Qt.Key.Key_Escape)
    hands.expect_as_now()
    world = window.bench.run.world
    cart, gardener = window.bench.level.objects
    assert (world.x[0], world.x[1] - world.x[0]) == pytest.approx((600, gardener.x - cart.x), abs=0.01)
    assert world.y[1] > 215
    note("study 24, on the cart")


def test_study_25s_round_is_built_from_nothing_by_one_typed_line(begun):
    window, hands, note = begun
    hands.new_kind("Gate")
    hands.put_down((300, 200))
    hands.new_kind("Gardener")
    hands.put_down((120, 200))
    hands.click_new_rule()
    hands.enter(
        "when e is pressed turn gate by 90 over 0.5 s, then move gardener to (540, 200) over 2 s, then turn it by 180 over "
        "0.5 s, then move it to (120, 200) over 2 s, then turn gate by -90 over 0.5 s"
    )
    hands.key(ENTER)
    hands.key(Qt.Key.Key_P, CTRL)
    hands.key(Qt.Key.Key_E)
    hands.qtbot.waitUntil(lambda: window.bench.run.done > 60)
    hands.key(Qt.Key.Key_Escape)
    hands.expect_as_now()
    (made,) = window.bench.level.order
    assert [c.use for c in made.do].count("wait_until_there") == 4
    run = window.bench.run
    pressed = next(f.tick for f in run.trace.firings())
    at = [run.world_at(run.end_of(pressed + ticks)) for ticks in (30, 150, 180, 300, 330)]
    assert [round(float(w.angle[0])) for w in at] == [90, 90, 90, 90, 0]
    begins = round(window.bench.level.objects[1].x)
    assert [round(float(w.x[1])) for w in at] == [begins, 540, 540, 120, 120]
    note("study 25, a round in one typed line")


def test_study_26s_own_behaviour_is_built_from_nothing(begun):
    window, hands, note = begun
    hands.new_kind("Moth")
    hands.put_down((100, 300))
    hands.new_kind("Leaf")
    hands.put_down((100, 200))
    hands.choose_command("Rule", "New own behaviour")
    hands.put("section-name", "drifts")
    hands.press_button("section-has-Moth")
    hands.press_button("section-has-Leaf")
    click_row(window, hands, "section")
    hands.new_rule("every tick", "move self by self.pace * dt, 0")
    hands.key(ENTER)
    hands.key(Qt.Key.Key_Escape)
    (section,) = (e for e in window.bench.level.order if isinstance(e, Section))
    assert [s.name for s in section.own.settings] == ["pace"]
    click_row(window, hands, "section")
    hands.put("section-setting-0-value", "30")
    show_kind(window, hands, "Leaf")
    hands.put("kind-own-0-pace", "10")
    hands.rest()
    click_row(window, hands, "rule")
    hands.expect_as_now()
    run = window.bench.run
    begins = [thing.x for thing in window.bench.level.objects]
    moved = run.world_at(run.end_of(60)).x - begins
    assert moved.tolist() == pytest.approx([30, 10])
    assert {v.outcome for v in window.bench.shown.verdicts} == {"held"}
    note("study 26, one behaviour for two kinds")
