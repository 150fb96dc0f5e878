"""Behaviours in the window: given to kinds, tuned for one object, seen over the level."""

from __future__ import annotations

import pytest
from hands import Hands
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QWidget

from building import add, c, kind, level, rule, things
from gatillo.desk.level_view.overlays import OVERLAYS
from gatillo.desk.looks.object_painter import foreshortened
from gatillo.desk.session.selection import Selection, Thing
from gatillo.examples import study_path
from gatillo.level.model import Area, Rectangle, Route, Stop
from gatillo.sim.motion.phase import urges_at


def pond():
    return level(
        kinds=(
            kind("Moth", 6, behaviours=(c("chase", target="Lamp", speed="60"),)),
            kind("Lamp", 8),
            kind("Block", box=(20, 20)),
        ),
        objects=(*things("Moth", (100, 100), (100, 200)), *things("Lamp", (500, 150), first=9)),
        places=(
            Area(name="yard", x=200, y=200, shape=Rectangle(width=90, height=90)),
            Route(name="round", stops=(Stop(x=10, y=10), Stop(x=90, y=10))),
        ),
        seconds=2,
    )


@pytest.fixture
def at_work(open_window, qtbot):
    window = open_window(pond())
    return window, Hands(qtbot, window)


def kind_of(window, name):
    return next(k for k in window.bench.level.kinds if k.name == name)


@pytest.mark.parametrize(
    ("words", "slots"),
    [
        ("wander", {"where": "yard"}),
        ("walk route", {"route": "round"}),
        ("keep away", {"target": "Moth"}),
        ("flock", {"others": "Lamp"}),
    ],
)
def test_a_behaviour_that_is_added_is_filled_in_with_what_the_level_has(at_work, words, slots):
    window, hands = at_work
    window.bench.select(Selection(thing=Thing("kind", "Lamp")))
    hands.add_behaviour(words)
    made = kind_of(window, "Lamp").behaviours[0]
    assert made.slots == slots


def test_an_object_gets_a_setting_of_its_own_and_takes_it_from_its_kind_again(at_work, qtbot):
    window, hands = at_work
    window.bench.select(Selection(objects=frozenset({1})))
    hands.put("object-setting-0-speed", "200")
    assert window.bench.level.objects[0].settings == {"chase: speed": 200.0}
    hands.rest()
    world = window.bench.run.world
    assert world.x[0] - 100 > 2 * (world.x[1] - 100)
    hands.press_button("object-setting-0-speed-reset")
    assert window.bench.level.objects[0].settings == {}


def test_a_behaviour_of_one_object_is_off_from_the_start(at_work):
    window, hands = at_work
    window.bench.select(Selection(objects=frozenset({2})))
    hands.field("object-setting-0").setFocus()
    hands.key(Qt.Key.Key_Space)
    assert window.bench.level.objects[1].settings == {"chase": False}
    hands.rest()
    assert window.bench.run.world.x[1] == 100


def test_a_solid_kind_has_mass_bounce_and_friction_and_others_have_not(at_work):
    window, hands = at_work
    window.bench.select(Selection(thing=Thing("kind", "Block")))
    assert window.sheet.findChild(QWidget, "kind-mass") is None
    hands.choose("kind-contact", "movable")
    hands.put("kind-bounce", "0.5")
    hands.put("kind-mass", "3")
    block = kind_of(window, "Block")
    assert (block.bounce, block.mass, block.contact) == (0.5, 3.0, "movable")


def test_gravity_is_a_setting_of_the_level(at_work):
    window, hands = at_work
    window.bench.select(Selection(thing=Thing("level", "")))
    hands.put("level-gravity", "600")
    assert window.bench.level.settings.gravity == 600.0


@pytest.mark.parametrize(
    "study", ["06-moths", "12-bench-focus", "14-loose-shutter", "18-weather-vane", "10-fireflies"]
)
def test_every_overlay_is_painted_over_every_behaviour(open_window, qtbot, study):
    window = open_window(level())
    assert window.open_path(study_path(f"{study}.gatillo"), study=True)
    Hands(qtbot, window).rest()
    if study == "06-moths":
        window.bench.choose_trial("A swarm between the fires")
        Hands(qtbot, window).rest()
    window.bench.move_cursor(window.bench.run.end_of(120))
    plain = window.level_view.grab().toImage()
    for name, _ in OVERLAYS:
        window._toggle_overlay(name)
    assert window.level_view.grab().toImage() != plain


def test_what_flips_is_drawn_foreshortened_and_what_spins_is_not(open_window, qtbot):
    window = open_window(level())
    assert window.open_path(study_path("18-weather-vane.gatillo"), study=True)
    Hands(qtbot, window).rest()
    window.bench.move_cursor(window.bench.run.end_of(240))
    world = window.bench.world
    seen = foreshortened(world)
    names = {world.name_of(world.id.item(row)): parts for row, parts in seen.items()}
    # after 2 s at 30 and 2 s at 100 degrees a second: 260
    assert names["Sign 1"] == (pytest.approx(-0.1736, abs=1e-3), 1.0)
    assert names["Louvre 1"] == (1.0, pytest.approx(-0.1736, abs=1e-3))
    assert "Cups 1" not in names


def test_the_urges_that_are_shown_are_those_that_drive_it():
    from building import run

    built = level(
        kinds=(
            kind("Moth", 5, behaviours=(c("be_drawn", target="Lamp", weight="2"), c("flock", others="Moth"))),
            kind("Lamp", 5),
        ),
        objects=(*things("Moth", (0, 0), (10, 0)), *things("Lamp", (0, 300), first=9)),
    )
    world = run(built, 1).world
    urges = {(row, name): (x, y) for row, name, x, y in urges_at(world)}
    assert urges[(0, "be drawn")] == (pytest.approx(0, abs=1e-2), pytest.approx(2, abs=1e-2))
    assert urges[(0, "apart")][0] < 0 < urges[(1, "apart")][0]


def test_scrolling_leaves_the_same_picture_as_painting_all_of_it(open_window, qtbot):
    rules = [
        rule(
            f"Rule {i}", when=c("every_seconds", period=f"{0.2 + i % 5 / 10:g}"), do=add("level.n"), id=i + 1
        )
        for i in range(60)
    ]
    window = open_window(level(*rules, has={"n": 0.0}, seconds=4))
    order = window.order

    def on_screen():
        """What stands on the screen; `grab` would paint it anew."""
        qtbot.wait(30)
        return window.screen().grabWindow(window.winId()).toImage()

    bar = order.verticalScrollBar()
    top = on_screen()
    for value in (35, 900, 871, 899, 880, 943):
        bar.setValue(value)
        qtbot.wait(5)
    scrolled = on_screen()
    assert scrolled != top
    order.viewport().update()
    assert on_screen() == scrolled


def test_a_section_says_when_a_trial_switches_it(open_window, qtbot):
    window = open_window(level())
    assert window.open_path(study_path("06-moths.gatillo"), study=True)
    Hands(qtbot, window).rest()
    window.bench.choose_trial("Straight: it jitters")
    Hands(qtbot, window).rest()
    said = {
        r.section.name: [w.text for w in r.words] for r in window.order.state.rows if r.section is not None
    }
    assert said["1 straight"][1] == "switched on by this trial"
    assert said["2 guarded"][1] == "switched off by this trial"
    assert said["4 apart"][1] == "switched off"
    assert window.order.state.folded >= {"2 guarded", "4 apart"}
    assert "1 straight" not in window.order.state.folded


def test_what_a_behaviour_lacks_is_told_where_it_stands_until_it_is_there(open_window, qtbot):
    window = open_window(level(kinds=(kind("Moth", 6),), objects=things("Moth", (10, 10))))
    hands = Hands(qtbot, window)

    def said():
        labels = window.sheet.widget().findChildren(QLabel)
        return [label.text() for label in labels if label.text().startswith("▲")]

    window.bench.select(Selection(thing=Thing("kind", "Moth")))
    hands.add_behaviour("wander")
    assert said() == ["▲ Where: choose an area here; the level has no area yet, so make one first."]
    window.things.new_place("area")
    window.bench.select(Selection(thing=Thing("kind", "Moth")))
    hands.put("kind-behaviour-0-where", window.bench.level.places[0].name)
    assert said() == []
    hands.rest()
    assert window.bench.run.world.x[0] != 10


def test_contacts_are_shown_between_what_touches(open_window, qtbot):
    touch = rule("touch", when=c("begins_to_touch", a="Moth", b="Lamp"), do=add("level.n"))
    built = level(
        touch,
        kinds=(kind("Moth", 6), kind("Lamp", 8)),
        objects=(*things("Moth", (100, 100), (300, 100)), *things("Lamp", (110, 100), first=9)),
        has={"n": 0.0},
    )
    window = open_window(built)
    window.bench.move_cursor(window.bench.run.end_of(20))
    plain = window.level_view.grab().toImage()
    window._toggle_overlay("contact")
    shown = window.level_view.grab().toImage()
    middle = window.level_view.to_pixels(105, 100).toPoint()
    away = window.level_view.to_pixels(300, 100).toPoint()
    assert shown.pixelColor(middle) != plain.pixelColor(middle)
    assert shown.pixelColor(away) == plain.pixelColor(away)
