"""An own behaviour made in the window: from the menu, with settings, rules typed about `self`, and given to kinds."""

from __future__ import annotations

import pytest
from hands import Hands
from PySide6.QtCore import Qt

from building import kind, level, things
from gatillo.desk.session.selection import Selection, Thing
from gatillo.language.sentence import sentence
from gatillo.level.model import Section


@pytest.fixture
def at_work(qtbot, open_window):
    built = level(
        kinds=(kind("Moth"), kind("Bee"), kind("Lamp")),
        objects=(
            *things("Moth", (0, 0)),
            *things("Bee", (0, 40), first=10),
            *things("Lamp", (90, 0), first=20),
        ),
    )
    window = open_window(built)
    return window, Hands(qtbot, window)


def own(window, name="behaviour 1"):
    return next(e for e in window.bench.level.order if isinstance(e, Section) and e.name == name)


def kind_of(window, name):
    return next(k for k in window.bench.level.kinds if k.name == name)


def select_section(window):
    """Click the section in the order list."""
    rows = window.order.state.rows
    window.order.state.choose(next(i for i, row in enumerate(rows) if row.sort == "section"))
    window.order.setFocus()


def test_one_is_made_given_to_two_kinds_and_runs(at_work):
    window, hands = at_work
    window.actions_["new behaviour"].trigger()
    assert window.sheet.title.text() == "behaviour 1"
    hands.put("section-name", "drifts")
    hands.press_button("section-add-setting")
    hands.put("section-setting-0-name", "speed")
    hands.put("section-setting-0-value", "40")
    hands.put("section-setting-0-most", "200")
    hands.put("section-sentence", "drifts at {speed}")
    hands.press_button("section-has-Moth")
    hands.press_button("section-has-Bee")
    assert [use.use for use in kind_of(window, "Bee").own] == ["drifts"]
    section = own(window, "drifts")
    assert section.own.settings[0].most == 200
    # its rule is typed with self and its setting
    select_section(window)
    hands.new_rule("every tick", "move self by self.speed * dt, 0")
    hands.key(Qt.Key.Key_Return)
    hands.key(Qt.Key.Key_Escape)
    rule = own(window, "drifts").rules[0]
    assert sentence(rule.do[0]) == "move self by self.speed * dt, 0 along the level's axes"
    assert not window.bench.program.problems
    window.bench.select(Selection(thing=Thing("kind", "Bee")))
    hands.put("kind-own-0-speed", "90")
    hands.rest()
    world = window.bench.run.world
    assert world.x[0] == pytest.approx(40) and world.x[1] == pytest.approx(90)


def test_one_is_given_to_a_tag_and_a_kind_then_gets_settings_of_its_own(at_work):
    window, hands = at_work
    window.actions_["new behaviour"].trigger()
    hands.put("section-name", "drifts")
    hands.press_button("section-add-setting")
    hands.put("section-tags", "winged")
    assert own(window, "drifts").own.tags == ("winged",)
    window.bench.select(Selection(thing=Thing("kind", "Bee")))
    hands.put("kind-tags", "winged")
    assert window.bench.program.index.kinds["Bee"].own[0].use == "drifts"
    assert kind_of(window, "Bee").own == ()
    hands.press_button("kind-tagged-0-give")
    assert [use.use for use in kind_of(window, "Bee").own] == ["drifts"]
    window.bench.select(Selection(thing=Thing("section", "drifts")))
    hands.put("section-tags", "drifts")
    assert "another tag" in window.message.words.text()


def test_renaming_it_and_its_setting_follows_everywhere(at_work):
    window, hands = at_work
    test_one_is_made_given_to_two_kinds_and_runs(at_work)
    window.bench.select(Selection(thing=Thing("section", "drifts")))
    hands.put("section-setting-0-name", "pace")
    assert own(window, "drifts").rules[0].do[0].slots["dx"] == "self.pace * dt"
    assert kind_of(window, "Bee").own[0].values == {"pace": 90.0}
    hands.put("section-name", "wanders")
    assert [use.use for use in kind_of(window, "Moth").own] == ["wanders"]
    assert not window.bench.program.problems
    window.bench.document.undo()
    window.bench.document.undo()
    assert own(window, "drifts").rules[0].do[0].slots["dx"] == "self.speed * dt"


def test_a_section_becomes_one_and_a_plain_one_again(at_work):
    window, hands = at_work
    window.actions_["new section"].trigger()
    name = next(e.name for e in window.bench.level.order if isinstance(e, Section))
    window.bench.select(Selection(thing=Thing("section", name)))
    hands.press_button("section-make-own")
    hands.press_button("section-has-Lamp")
    assert own(window, name).own is not None
    hands.press_button("section-unmake-own")
    assert own(window, name).own is None
    assert kind_of(window, "Lamp").own == ()


def test_an_unknown_setting_of_self_is_made_a_setting(at_work):
    window, hands = at_work
    window.actions_["new behaviour"].trigger()
    hands.press_button("section-has-Moth")
    select_section(window)
    hands.new_rule("every tick", "add 1 to self.age")
    hands.key(Qt.Key.Key_Return)
    # it asks first: two names look like it
    hands.key(Qt.Key.Key_Down, times=2)
    hands.key(Qt.Key.Key_Return)
    hands.key(Qt.Key.Key_Escape)
    assert [s.name for s in own(window).own.settings] == ["age"]
    assert not window.bench.program.problems


def test_the_order_list_stands_at_the_section_whose_page_is_shown(at_work):
    window, _ = at_work
    window.actions_["new section"].trigger()
    window.actions_["new behaviour"].trigger()
    assert window.order.state.rows[window.order.state.current].section is own(window)
    first = next(e.name for e in window.bench.level.order if isinstance(e, Section))
    window.bench.select(Selection(thing=Thing("section", first)))
    assert window.order.state.rows[window.order.state.current].section.name == first
