"""Coverage: what trials reach, by hand-known levels, and against instruments on random logic."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import EVERY_TICK, START, add, c, heard, isnt, kind, level, rule, send, things
from gatillo.examples import example_names, study_path
from gatillo.files.level_file import read_level
from gatillo.files.locate import line_of, lines_of
from gatillo.inspect.coverage import Reached, covered, reached_by, totals
from gatillo.level.edits import as_tried, place_of
from gatillo.level.model import Clause, Graph, Node, Section, Trial, Wire
from gatillo.level.roles import all_logic
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import NullRecorder
from random_graphs import RandomGraphs
from random_logic import RandomLogic

MOTHS = {
    "kinds": (kind("Moth", 3),),
    "objects": things("Moth", (0, 0), (50, 0)),
    "has": {"n": 0.0, "never": 0.0},
}


def reached(lv):
    found = Reached()
    for trial in lv.trials:
        run = Run(Program(as_tried(lv, trial)), trial)
        run.advance(run.length)
        found.add(reached_by(run))
    return found


def states(lv):
    """By rule and place: how far the trials came; with both ways of a condition."""
    return {
        (one.name, one.place): (one.state if one.both is not False else f"{one.state}, {one.one_way}")
        for one in covered(lv, reached(lv))
    }


def test_a_rule_that_fires_and_one_that_never_comes():
    lv = level(
        rule("comes", when=START, do=add("level.n")),
        rule("waits for nobody", when=heard("nothing"), do=add("level.n"), id=2),
        **MOTHS,
    )
    found = states(lv)
    assert found["comes", ""] == found["comes", "when 1"] == found["comes", "do 1"] == "acted"
    assert found["waits for nobody", ""] == found["waits for nobody", "do 1"] == "never looked at"


def test_conditions_count_both_ways():
    lv = level(
        rule("both", if_=c("formula_holds", formula="tick mod 2 = 0"), do=add("level.n")),
        rule("always", if_=c("formula_holds", formula="level.n >= 0"), do=add("level.n"), id=2),
        rule(
            "never",
            if_=(c("formula_holds", formula="level.never > 1"), c("formula_holds", formula="level.n > 0")),
            do=add("level.n"),
            id=3,
        ),
        rule(
            "of some",
            when=c("each_in_every_tick", who="Moth"),
            if_=isnt("formula_holds", formula="Moth.x > 9"),
            do=add("level.n"),
            id=4,
        ),
        **MOTHS,
    )
    found = states(lv)
    assert found["both", "if 1"] == found["of some", "if 1"] == "acted"
    assert found["always", "if 1"] == "acted, it always holds"
    assert found["never", "if 1"] == "never passed, it never holds"
    assert found["never", "if 2"] == "never looked at, "
    assert found["never", ""] == "never passed" and found["never", "do 1"] == "never looked at"
    assert [one.parts for one in covered(lv, reached(lv)) if one.sort == "condition"] == [
        (2, 2),
        (1, 2),
        (1, 2),
        (0, 2),
        (2, 2),
    ]


def test_lines_after_a_wait_in_branches_and_in_else():
    yes = c("if_so", formula="level.n > 100")
    lv = level(
        rule(
            "waits",
            when=START,
            do=(
                add("level.n"),
                c("wait", time="0.2"),
                add("level.n"),
                c("wait", time="9"),
                add("level.n"),
            ),
        ),
        rule(
            "branches",
            when=EVERY_TICK,
            if_=c("formula_holds", formula="tick < 9"),
            do=(
                replace(yes, of=(add("level.n", "2"),)),
                Clause(use="otherwise", of=(add("level.n", "3"),)),
                Clause(use="repeat", slots={"count": "0"}, of=(add("level.n", "4"),)),
            ),
            else_=(send("late"),),
            id=2,
        ),
        **MOTHS,
    )
    found = states(lv)
    assert [found["waits", f"do {n}"] for n in range(1, 6)] == ["acted"] * 4 + ["never looked at"]
    assert found["branches", "do 1"] == found["branches", "do 2"] == found["branches", "do 3"] == "acted"
    assert found["branches", "do 1.1"] == found["branches", "do 3.1"] == "never looked at"
    assert found["branches", "do 2.1"] == found["branches", "else 1"] == "acted"


def test_of_several_occasions_those_that_came():
    lv = level(rule("two", when=(START, heard("nothing")), do=add("level.n")), **MOTHS)
    found = states(lv)
    assert (found["two", "when 1"], found["two", "when 2"]) == ("acted", "never looked at")


def test_what_is_off_in_every_trial_does_not_count_and_what_one_switches_on_does():
    tried = Section(name="First try", on=False, rules=(rule("wrong", when=START, do=add("level.n"), id=5),))
    lv = level(rule("right", when=START, do=add("level.n")), tried, **MOTHS)
    assert states(lv)["wrong", ""] == "switched off" and totals(covered(lv, reached(lv))) == (3, 3)
    lv = replace(lv, trials=(*lv.trials, Trial(name="first", length=1.0, on=("First try",))))
    assert states(lv)["wrong", "do 1"] == "acted" and totals(covered(lv, reached(lv))) == (6, 6)


def test_cards_and_outputs_of_a_graph():
    graph = Graph(
        id=9,
        name="g",
        nodes=(
            Node(id=1, use="each_in_every_tick", slots={"who": "Moth"}),
            Node(id=2, use="formula_holds", slots={"formula": "Moth.x > 500"}),
            Node(id=3, use="add_to", slots={"variable": "level.n", "amount": "1"}),
            Node(id=4, use="add_to", slots={"variable": "level.n", "amount": "2"}),
        ),
        wires=(Wire(start="1", end="2"), Wire(start="2.yes", end="3"), Wire(start="2.no", end="4")),
    )
    found = states(level(graph, **MOTHS))
    assert found["g", "card 2 no"] == found["g", "card 4"] == found["g", "card 2"] == "acted"
    assert found["g", "card 2 yes"] == "never passed" and found["g", "card 3"] == "never looked at"


def test_a_behaviour_that_nobody_has_switched_on():
    spin = kind("Vane", behaviours=(c("spin"),))
    objects = things("Vane", (0, 0))
    assert states(level(kinds=(spin,), objects=objects))["Vane", "spin"] == "acted"
    off = (replace(objects[0], settings={"spin": False}),)
    assert states(level(kinds=(spin,), objects=off))["Vane", "spin"] == "never looked at"
    assert states(level(kinds=(spin,)))["Vane", "spin"] == "never looked at"


def test_runs_of_several_trials_add_up():
    lv = level(rule("n", if_=c("formula_holds", formula="level.n > 0"), do=send("x")), **MOTHS)
    lv = replace(lv, trials=(lv.trials[0], Trial(name="other", length=1.0, values={"n": 5.0})))
    assert states(lv)["n", "if 1"] == "acted"


class Watching(NullRecorder):
    """Hears of each condition that is asked and each action that is carried out."""

    watching = True

    def __init__(self):
        self.passed, self.failed, self.acted_ = set(), set(), set()

    def asked(self, rule, line, before, after):
        if before.n and line in rule.if_:
            if after.n:
                self.passed.add((rule.source.id, line.number))
            if after.n < before.n:
                self.failed.add((rule.source.id, line.number))

    def acted(self, rule, line, acting):
        self.acted_.add(id(line))


def places(lines, part, before=()):
    for at, line in enumerate(lines):
        yield line, place_of(part, (*before, at))
        yield from places(line.of, part, (*before, at))


@pytest.mark.parametrize("made", [RandomLogic, RandomGraphs])
def test_it_is_what_instruments_see_in_runs_of_random_logic(made):
    for seed in range(60):
        lv = made(seed).level()
        program = Program(lv)
        if program.problems:
            continue
        run = Run(program, lv.trials[0])
        run.advance(run.length)
        found = reached_by(run)
        seen = Watching()
        run.replay(1, run.done, seen)
        for compiled in program.rules:
            hits, number = found.hits[compiled.source.id], compiled.source.id
            done = hits.lines
            for part, block in (("do", compiled.do), ("else", compiled.else_)):
                for line, place in places(block, part):
                    if id(line) in seen.acted_ and compiled.graph is None:
                        assert place in done, (seed, compiled.source.name, place)
            if compiled.graph is not None:
                continue
            passed = {at for at, many in hits.passed.items() if many}
            failed = {at for at, many in hits.failed.items() if many} - hits.joins
            assert passed == {at for n, at in seen.passed if n == number}, seed
            assert failed == {at for n, at in seen.failed if n == number} - hits.joins, seed


@pytest.mark.parametrize("name", example_names())
def test_every_example_is_reached_for_the_most_part(name):
    lv = read_level(study_path(name))
    items = covered(lv, reached(lv))
    assert {one.rule for one in items if one.rule} == {entry.id for _, _, entry in all_logic(lv)}
    got, ways = totals(items)
    assert got >= 0.7 * ways


def test_lines_of_a_file_are_where_each_value_begins():
    text = study_path("12-bench-focus.gatillo").read_text(encoding="utf-8")
    lines = lines_of(text)
    assert len(lines) > 500
    for path in list(lines)[::7]:
        assert lines[path] == line_of(text, path), path
