"""Scenery takes no part in a run: with it or without it, a level does the same, to the last bit."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import EVERY_TICK, add, c, kind, level, rule, run, things
from gatillo.files.level_file import LevelFileError, decode_level, encode_level
from gatillo.level.model import Area, Circle, Reference, Variable
from gatillo.level.thing_edits import set_kind
from gatillo.sim.program.program import Program

MOTH = kind("Moth", 6, contact="movable", behaviours=(c("chase", target="anything", speed="60"),))
WALL = kind("Wall", box=(400, 20), contact="fixed", scenery=True)
MEETS = rule("Meets", when=c("touches", a="Moth", b="anything"), do=add("level.met"))
COUNTS = rule("Counts", when=EVERY_TICK, do=c("add_to", amount="count_in(Moth, all)", variable="level.seen"))
ENTERS = rule("Enters", when=c("enters", a="anything", place="all"), do=add("level.came"))


def night(*walls):
    return level(
        MEETS,
        COUNTS,
        ENTERS,
        kinds=(MOTH, WALL) if walls else (MOTH,),
        objects=(*things("Moth", (0, 0), (90, 10)), *things("Wall", *walls, first=50)),
        has={"met": 0.0, "seen": 0.0, "came": 0.0},
        places=(Area("all", 0, 0, Circle(70)),),
    )


def test_a_run_is_the_same_with_scenery_in_every_way_of_it_as_without_any():
    bare, dressed = run(night()), run(night((45, 5), (0, 0), (20, -20)))
    assert dressed.trace.to_bytes() == bare.trace.to_bytes()
    assert dressed.world.state_bytes() == bare.world.state_bytes()
    assert dressed.world.level == bare.world.level and bare.world.level["met"] > 0


def test_a_rule_that_means_scenery_is_told_so():
    built = replace(night((0, 0)), order=(rule("r", when=c("enters", a="Wall", place="all")),))
    (problem,) = Program(built).problems
    assert "“Wall” is scenery" in problem.message


def test_what_is_attached_to_scenery_stays_where_it_stands():
    built = night((45, 5))
    objects = tuple(replace(o, attached="Wall 1") if o.name == "Moth 1" else o for o in built.objects)
    still = replace(built, kinds=(replace(MOTH, behaviours=()), WALL), objects=objects)
    made = run(still)
    assert (made.world.x[0], made.world.y[0]) == (0, 0)


@pytest.mark.parametrize("sort", ["variables", "behaviours"])
def test_scenery_with_logic_of_its_own_is_refused_with_a_sentence(sort):
    built = night((0, 0))
    full = {"variables": (Variable("n"),), "behaviours": (c("spin"),)}[sort]
    raw = encode_level(set_kind(built, "Wall", **{sort: full}))
    with pytest.raises(LevelFileError, match="is scenery, which takes no part"):
        decode_level(raw)


def test_what_refers_to_a_kind_refers_to_nobody_once_that_is_scenery():
    built = replace(
        night((0, 0)),
        kinds=(MOTH, replace(WALL, scenery=False)),
        variables=(Variable("lead", Reference("Wall 1", "Wall")),),
        order=(),
    )
    turned = set_kind(built, "Wall", scenery=True)
    assert turned.variables[0].value == Reference("", "")
    assert decode_level(encode_level(turned)) == turned


def test_a_program_made_after_an_edit_of_a_rule_takes_over_what_it_has():
    built = night((0, 0))
    first = Program(built)
    second = Program(replace(built, order=(MEETS, COUNTS, replace(ENTERS, cooldown=1.0))), first)
    assert second.rules[0].when[0] is first.rules[0].when[0]
