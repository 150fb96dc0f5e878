"""Whose turn first: what is found is tied, what is free to move makes no difference, what is exchanged is shown."""

from __future__ import annotations

import random

import pytest
from asking import random_level

from building import EVERY_TICK, POD, START, add, c, heard, kind, level, rule, run, send, things
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.inspect.comparison import compare
from gatillo.inspect.order import exchanged, free_to_move, order_findings, ranked, swap
from gatillo.level.edits import as_tried
from gatillo.level.expectations import FiresTimes
from gatillo.level.model import Section
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import run_trial


def pairs(found) -> list[tuple[str, str]]:
    return [f.names for f in found]


def test_a_writer_above_a_reader_is_found_with_the_value_and_the_first_tick():
    built = level(
        rule(
            "write", when=c("after_start", time="0.2"), do=c("set_variable", variable="level.open", value="1")
        ),
        rule(
            "read",
            when=EVERY_TICK,
            if_=c("formula_holds", formula="level.open = 1"),
            do=add("level.n"),
            fires="first time only",
        ),
        has={"open": 0.0, "n": 0.0},
        expect=(FiresTimes(rule="read", how="exactly", times=1, start=0.0, end=0.2),),
    )
    made = run(built)
    (found,) = order_findings(made)
    assert (found.names, found.what, found.tick, found.ticks, found.reads) == (
        ("write", "read"),
        "level.open",
        12,
        1,
        True,
    )
    assert not found.tried
    other = swap(built, made, found)
    assert found.tried and not found.harmless and found.verdicts == 1
    assert "Swapped: 1 firing moved, 1 expectation otherwise" in found.sentence()
    assert [
        f.tick for f in other.trace.firings() if other.program.rules[f.rule_index].source.name == "read"
    ] == [13]


def test_an_exchange_that_changes_no_firing_is_harmless():
    built = level(
        rule("one", when=EVERY_TICK, do=add("level.n")),
        rule("two", when=EVERY_TICK, do=add("level.n", "2")),
        has={"n": 0.0},
    )
    made = run(built)
    (found,) = order_findings(made)
    swap(built, made, found)
    assert found.harmless and "Harmless" in found.sentence()


def test_of_objects_only_the_same_one_ties_two_entries():
    def built(second: str):
        return level(
            rule("one", when=START, do=c("set_variable", variable="Pod 1.size", value="1")),
            rule("two", when=START, if_=c("formula_holds", formula=f"{second}.size = 0"), do=add("level.n")),
            kinds=(kind("Pod", 5, has={"size": 0.0}),),
            objects=things("Pod", (0, 0), (50, 0)),
            has={"n": 0.0},
        )

    assert order_findings(run(built("Pod_2"))) == []
    assert pairs(order_findings(run(built("Pod_1")))) == [("one", "two")]


def test_removing_ties_and_a_message_does_not():
    removing = level(
        rule("take", when=START, do=c("remove", who="Pod 1")),
        rule("meet", when=c("each_in_every_tick", who="Pod"), do=add("level.n")),
        kinds=(POD,),
        objects=things("Pod", (0, 0), (50, 0)),
        has={"n": 0.0},
    )
    # above, the other does not meet what was removed: nothing of the same object is touched in one tick; below, it does
    below = level(*removing.order[::-1], kinds=removing.kinds, objects=removing.objects, has={"n": 0.0})
    assert pairs(order_findings(run(below))) == [("meet", "take")]
    sending = level(
        rule("say", when=START, do=send("bang")),
        rule("hear", when=heard("bang"), do=add("level.n")),
        has={"n": 0.0},
    )
    assert order_findings(run(sending)) == []


def test_entries_of_sections_are_exchanged_too():
    one, two, three = (rule(n, when=EVERY_TICK, do=add("level.n")) for n in ("one", "two", "three"))
    built = level(one, Section(name="part", rules=(two, three)), has={"n": 0.0})
    other = exchanged(built, one.id, three.id)
    assert [e.name for e in other.order] == ["three", "part"]
    assert [r.name for r in other.order[1].rules] == ["two", "one"]
    assert exchanged(other, one.id, three.id) == built
    with pytest.raises(LookupError):
        exchanged(built, one.id, 12345)


def test_those_that_change_a_firing_come_first():
    built = level(
        rule("one", when=EVERY_TICK, do=add("level.n")),
        rule("two", when=EVERY_TICK, do=add("level.n", "2")),
        rule(
            "write", when=c("after_start", time="0.2"), do=c("set_variable", variable="level.open", value="1")
        ),
        rule("read", when=EVERY_TICK, if_=c("formula_holds", formula="level.open = 1"), do=add("level.m")),
        has={"n": 0.0, "m": 0.0, "open": 0.0},
    )
    made = run(built)
    found = order_findings(made)
    for one in found:
        swap(built, made, one)
    assert pairs(ranked(found)) == [("write", "read"), ("one", "two")]


@pytest.mark.parametrize("seed", range(40))
def test_what_is_free_to_move_makes_no_difference_wherever_it_goes(seed):
    built = random_level(random.Random(seed))
    made = run_trial(Program(built), built.trials[0])
    found = order_findings(made)
    ids = [turn.source.id for turn in made.program.rules]
    for here, rule_id in enumerate(ids):
        first, last = free_to_move(made, found, rule_id)
        assert first <= here <= last
        for there in {first, last} - {here}:
            order = list(built.order)
            order.insert(there, order.pop(here))
            moved = run_trial(Program(level_with(built, order)), built.trials[0])
            assert compare(made, moved).same, (ids[here], there)
            assert moved.world.level == made.world.level


def level_with(built, order):
    from msgspec.structs import replace

    return replace(built, order=tuple(order))


@pytest.mark.parametrize("name", [n for n in study_names() if n[:2] in ("01", "03", "08", "12", "22")])
def test_in_studies_too(name):
    whole = read_level(study_path(name))
    trial = whole.trials[0]
    made = run_trial(Program(as_tried(whole, trial)), trial)
    found = order_findings(made)
    assert all(f.first != f.second and 1 <= f.tick <= made.done and f.ticks >= 1 for f in found)
    ids = [turn.source.id for turn in made.program.rules]
    assert all(ids.index(f.first) < ids.index(f.second) for f in found)
