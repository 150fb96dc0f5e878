"""Own behaviours in kits, and on the page of rules."""

from __future__ import annotations

from msgspec.structs import replace

from building import EVERY_TICK, c, kind, level, rule, things
from gatillo.files.kits import bring_kit, make_kit
from gatillo.files.level_file import decode_level, file_bytes
from gatillo.files.rules_page import as_markdown
from gatillo.level.model import OwnBehaviour, OwnSetting, OwnUse, Section
from gatillo.level.own_behaviours import own_behaviours
from gatillo.level.roles import all_logic
from gatillo.level.validation import flaws
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


def flutters(dx="self.speed * dt"):
    return Section(
        name="flutters",
        rules=(rule("drift", when=EVERY_TICK, do=c("move_by", who="self", dx=dx, dy="0"), id=1),),
        own=OwnBehaviour(
            sentence="flutters at {speed}", settings=(OwnSetting(name="speed", value=40.0, most=90.0),)
        ),
    )


def moths(section, *, speed=None):
    use = OwnUse(use="flutters", values={} if speed is None else {"speed": speed})
    return level(section, kinds=(kind("Moth", own=(use,)),), objects=things("Moth", (0, 0)))


def others(*order, kinds=(kind("Bee"),)):
    return level(*order, kinds=kinds, objects=things("Bee", (0, 0)))


def moved(built, name="Moth"):
    made = replace(built, objects=things(name, (0, 50), first=77))
    program = Program(made)
    assert not program.problems, [p.sentence() for p in program.problems]
    assert not list(flaws(made))
    run = Run(program, made.trials[0])
    run.advance(None)
    return round(float(run.world.x[run.world.row_of_id(77)]), 3)


def kit_of(section, **more):
    kit = make_kit(moths(section, **more), "moths", ["Moth"])
    assert decode_level(file_bytes(kit)) == kit
    return kit


def test_a_kit_of_a_kind_brings_its_own_behaviour_into_another_level():
    brought = bring_kit(others(), kit_of(flutters(), speed=70.0), {})
    assert list(own_behaviours(brought)) == ["flutters"]
    assert [s.name for s in brought.order if isinstance(s, Section)] == ["flutters"]
    assert moved(brought) == 70


def test_the_same_behaviour_is_not_brought_twice():
    once = bring_kit(others(), kit_of(flutters()), {})
    twice = bring_kit(once, kit_of(flutters()), {})
    assert list(own_behaviours(twice)) == ["flutters"]
    assert len(list(all_logic(twice))) == 1


def test_another_behaviour_of_that_name_comes_under_a_free_one():
    bee = kind("Bee", own=(OwnUse(use="flutters"),))
    brought = bring_kit(others(flutters("9"), kinds=(bee,)), kit_of(flutters()), {})
    assert len(own_behaviours(brought)) == 2
    assert moved(brought) == 40 and moved(brought, "Bee") == 9 * 60


def test_a_kind_of_the_kit_can_be_one_that_is_there():
    brought = bring_kit(others(), kit_of(flutters(), speed=50.0), {("kind", "Moth"): "Bee"})
    assert [k.name for k in brought.kinds] == ["Bee"]
    assert moved(brought, "Bee") == 50


def test_the_page_of_rules_says_who_has_it_and_with_what():
    page = as_markdown(moths(flutters(), speed=70.0))
    assert "An own behaviour of Moth" in page
    assert "- speed: 40 (at most 90); Moth 70" in page
