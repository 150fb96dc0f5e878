"""Which cards ran: in the trace, as steps, and with the cursor after each."""

from __future__ import annotations

import csv
import json
import re

import pytest
from test_graph_runs import note, scene
from test_own_nodes import NEAR

from building import EVERY_TICK, add, c, rule, run
from drawing import card, graph
from gatillo.examples import study_path
from gatillo.files.exports import write_trace
from gatillo.files.level_file import read_level
from gatillo.level.model import Clause
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Cursor, Run, run_trial

SORT = graph(
    "sort",
    card(1, "each_in_every_tick", who="Moth"),
    card(2, "formula_holds", formula="Moth.x < 100"),
    card(3, "add_to", amount="1", variable="Moth.n"),
    card(4, "add_to", amount="10", variable="Moth.n"),
    note(5, "far"),
    wires="1>2 2.yes>3 3>4 2.no>5",
)


def cards(made, tick):
    return [(r.card, r.wire, r.matches, r.firings) for r in made.trace.cards_at(tick)]


def test_each_card_that_ran_is_told_in_its_order_with_its_wire_and_how_many_came():
    made = run(scene(rule("first", when=EVERY_TICK, do=add("level.n")), SORT), 2)
    assert cards(made, 2) == [(1, -1, 3, 1), (2, 0, 3, 1), (3, 1, 2, 1), (4, 2, 2, 1), (5, 3, 1, 1)]
    assert [r.step for r in made.trace.cards_at(2)] == [2, 3, 4, 5, 6], "the rule's line is a step too"
    ticks, columns = made.trace.card_columns()
    assert ticks.tolist() == [1] * 5 + [2] * 5
    assert columns[5:, 3].tolist() == [1, 2, 3, 4, 5]


def test_what_ran_within_an_own_node_is_told_by_its_numbers_there():
    drawn = graph(
        "uses",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "own", graph="near enough"),
        note(3, "near"),
        wires="1>2 2.near>3",
    )
    made = run(scene(NEAR, drawn), 1)
    compiled = made.program.rules[1].graph
    assert compiled is not None
    seen = [compiled.place_of(r.card) for r in made.trace.cards_at(1)]
    assert [number for number, _ in seen] == [1, 2, 2, 2, 3, 2]
    assert seen[2][1] == "in “near enough”, card 3: "
    wires = [-1 if r.wire < 0 else compiled.wire_of[r.wire] for r in made.trace.cards_at(1)]
    assert wires == [-1, 0, -1, -1, 1, -1]


def test_the_cursor_stands_after_each_card_and_each_line():
    made = run(scene(rule("first", when=EVERY_TICK, do=[add("level.n"), add("level.m")]), SORT), 2)
    seen = []
    for step in made.steps_at(2):
        world = made.world_at(Cursor(2, step.firings, step.step))
        seen.append(
            (
                step.part,
                step.line,
                step.card,
                float(world.level["n"]),
                float(world.level["m"]),
                world.variables["n/number"][0],
            )
        )
    assert seen == [
        ("do", 0, 0, 2.0, 1.0, 11.0),
        ("do", 1, 0, 2.0, 2.0, 11.0),
        ("card", 0, 1, 2.0, 2.0, 11.0),
        ("card", 0, 2, 2.0, 2.0, 11.0),
        ("card", 0, 3, 2.0, 2.0, 12.0),
        ("card", 0, 4, 2.0, 2.0, 22.0),
        ("card", 0, 5, 2.0, 2.0, 22.0),
    ]


def test_steps_are_walked_forward_and_back_over_the_same_moments():
    made = run(scene(rule("first", when=EVERY_TICK, do=[add("level.n"), add("level.m")]), SORT), 3)
    there, at = [], Cursor()
    while (following := made.next_step(at)) is not None:
        there.append(at := following)
    assert len(there) == 3 * 7
    assert there == sorted(there)
    back, at = [at], at
    while (before := made.previous_step(at)) is not None:
        back.append(at := before)
    assert back == there[::-1]
    # between whole firings and steps
    assert made.next_step(Cursor(2, 1)) == Cursor(2, 1, 3)
    assert made.previous_step(Cursor(2, 1)) == Cursor(2, 0, 2)
    assert made.next_firing(Cursor(2, 1, 4)) == Cursor(2, 2)
    assert made.previous_firing(Cursor(2, 1, 4)) == Cursor(2, 1)
    assert made.previous_firing(Cursor(2, 0, 1)) == Cursor(1, 2)


@pytest.mark.parametrize(
    "name", ["22-night-lamps.gatillo", "07-night-crew.gatillo", "12-bench-focus.gatillo"]
)
def test_after_a_firings_last_step_the_state_is_that_after_the_firing(name):
    level = read_level(study_path(name))
    made = run_trial(Program(level))
    checked = 0
    for tick in [t for t in range(1, made.done) if made.trace.count_at(t) > 1][:40]:
        steps = made.steps_at(tick)
        cards_told = [s for s in steps if s.card]
        assert cards_told == made.trace.cards_at(tick)
        assert [s.step for s in steps] == list(range(1, len(steps) + 1))
        for position in range(1, made.trace.count_at(tick)):
            last = [s for s in steps if s.firings == position - 1]
            if last and made.trace.firings_at(tick)[position - 1].matches:
                one = made.world_at(Cursor(tick, position - 1, last[-1].step))
                other = made.world_at(Cursor(tick, position))
                assert one.state_bytes() == other.state_bytes()
                checked += 1
    assert checked


def test_looking_at_steps_changes_nothing_and_a_resumed_run_tells_the_same_cards():
    level = read_level(study_path("22-night-lamps.gatillo"))
    whole = run_trial(Program(level))
    other = Run(Program(level), level.trials[0])
    other.advance(100)
    other.steps_at(57)
    other.world_at(Cursor(80, 0, 1))
    other.advance()
    resumed = whole.resume_at(120)
    resumed.advance()
    assert whole.trace.cards_bytes() == other.trace.cards_bytes() == resumed.trace.cards_bytes()
    assert whole.trace.digest() == other.trace.digest() == resumed.trace.digest()


def test_lines_within_a_repeat_are_steps_each_time():
    again = Clause(use="repeat", slots={"count": "2"}, of=(add("level.n"), add("level.m")))
    made = run(scene(rule("r", when=EVERY_TICK, do=[again, c("note", text="x")])), 1)
    assert [(s.part, s.line) for s in made.steps_at(1)] == [("do", 0)] * 5 + [("do", 1)]


def test_no_more_card_runs_are_kept_than_the_bound(monkeypatch):
    monkeypatch.setattr("gatillo.sim.trace.trace.Trace.MOST_RUNS", 12)
    made = run(scene(SORT), 9)
    assert [len(made.trace.cards_at(t)) for t in (1, 2, 3, 4, 9)] == [5, 5, 2, 0, 0]
    assert len(made.steps_at(9)) == 5


def test_an_exported_trace_tells_the_cards_that_ran(tmp_path):
    made = run(scene(rule("first", when=EVERY_TICK, do=add("level.n")), SORT), 2)
    write_trace(made, tmp_path / "a.jsonl")
    records = [json.loads(line) for line in (tmp_path / "a.jsonl").read_text().splitlines()[1:]]
    told = [r for r in records if r["way"] == "card" and r["tick"] == 2]
    assert [(r["card"], r["matches"], r["step"], r["position"]) for r in told] == [
        (1, 3, 2, 2),
        (2, 3, 3, 2),
        (3, 2, 4, 2),
        (4, 2, 5, 2),
        (5, 1, 6, 2),
    ]
    write_trace(made, tmp_path / "a.csv")
    with (tmp_path / "a.csv").open(encoding="utf-8", newline="") as file:
        rows = [r for r in csv.DictReader(file) if r["way"] == "card"]
    assert [(r["tick"], r["card"], r["matches"]) for r in rows[:2]] == [("1", "1", "3"), ("1", "2", "3")]
    write_trace(made, tmp_path / "a.vcd")
    text = (tmp_path / "a.vcd").read_text()
    code = re.search(r"\$var integer 32 (\S+) card_3 \$end", text)
    assert code is not None
    assert f"b10 {code[1]}\n" in text
