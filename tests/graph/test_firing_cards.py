"""The cards that say in a graph what a rule says of its firings as a whole."""

from __future__ import annotations

from msgspec.structs import replace
from test_graph_runs import note, notes, scene, values

from building import add, c, fired, run
from drawing import card, graph
from gatillo.level.model import Clause
from gatillo.sim.program.program import Program
from gatillo.sim.trace.trace import Way


def holding(number, use, *lines, **slots):
    return replace(card(number, use, **slots), of=lines)


def ways(made):
    return [(f.tick, f.matches, f.way) for f in made.trace.firings()]


def test_what_several_occasions_bring_is_one_firing_with_each_match_once():
    drawn = graph(
        "both",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "each_in_every_tick", who="Moth"),
        card(3, "gather"),
        card(4, "add_to", amount="1", variable="Moth.n"),
        wires="1>3 2>3 3>4",
    )
    made = run(scene(drawn), 2)
    assert values(made)[:3] == [2.0, 2.0, 2.0]
    assert fired(made, "both") == [(1, 3), (2, 3)]
    assert [(look.tick, look.candidates) for look in made.trace.looks_at(1)] == [(1, 3)]


def test_what_is_gathered_is_handed_on_after_the_last_occasion_and_goes_on_from_there():
    drawn = graph(
        "later",
        card(1, "level_starts"),
        card(2, "level_starts"),
        card(3, "gather"),
        card(9, "gather"),
        note(4, "gathered"),
        note(5, "second"),
        note(6, "at the end"),
        wires="1>3 2>5 3>4 4>9 9>6",
    )
    assert notes(run(scene(drawn), 2)) == ["second", "gathered", "at the end"]


def test_conditions_in_one_card_part_what_passes_all_from_what_fails_one():
    drawn = graph(
        "sort",
        card(1, "each_in_every_tick", who="Moth"),
        holding(
            2,
            "all_hold",
            c("formula_holds", formula="Moth.x < 100"),
            Clause(use="formula_holds", slots={"formula": "Moth.x < 10"}, negated=True),
        ),
        card(3, "add_to", amount="1", variable="Moth.n"),
        card(4, "add_to", amount="-1", variable="Moth.n"),
        wires="1>2 2.yes>3 2.no>4",
    )
    made = run(scene(drawn), 1)
    assert values(made)[:3] == [-1.0, 1.0, -1.0]
    assert made.trace.looks_at(1)[0].passed == (2, 1)


def test_a_firing_card_lets_through_on_becoming_true_and_rests():
    def count(**slots):
        drawn = graph(
            "limits",
            card(1, "each_in_every_tick", who="Moth"),
            card(2, "firing", **slots),
            card(3, "add_to", amount="1", variable="Moth.n"),
            wires="1>2 2>3",
        )
        return values(run(scene(drawn), 10))[:3]

    assert count() == [10.0] * 3
    assert count(fires="on becoming true") == [1.0] * 3
    assert count(fires="first time only") == [1.0] * 3
    # at 60 ticks a second: in ticks 1, 4, 7 and 10
    assert count(rest="0.05") == [4.0] * 3
    assert count(takes="one for all") == [10.0, 0.0, 0.0]


def test_a_firing_card_is_a_firing_without_any_action_and_one_match_comes_after_the_other():
    drawn = graph(
        "bare",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "firing", takes="one at a time"),
        wires="1>2",
    )
    assert fired(run(scene(drawn), 2), "bare") == [(1, 3), (2, 3)]
    listed = replace(
        drawn,
        nodes=(*drawn.nodes, note(3, "{Moth.x}"), note(4, "again {Moth.x}")),
        wires=(*drawn.wires, *graph("", wires="2>3 3>4").wires),
    )
    made = run(scene(listed), 1)
    assert notes(made) == ["0", "again 0", "50", "again 50", "200", "again 200"]
    assert fired(made, "bare") == [(1, 3)]


def test_what_waits_in_the_graph_holds_a_match_back_or_starts_anew():
    def ran(meanwhile):
        drawn = graph(
            "waits",
            card(1, "every_tick"),
            card(2, "firing", meanwhile=meanwhile),
            card(3, "wait", time="0.05"),
            card(4, "add_to", variable="level.n", amount="1"),
            wires="1>2 2>3 3.after>4",
        )
        return run(scene(drawn), 12).world.level["n"]

    assert ran("stack") == 9.0
    assert ran("ignore") == 3.0
    assert ran("restart") == 0.0


def test_an_else_is_a_firing_of_its_own_after_what_the_occasion_leads_to():
    drawn = graph(
        "else",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "formula_holds", formula="Moth.x < 100"),
        card(3, "else_firing"),
        note(4, "far"),
        note(5, "near"),
        wires="1>2 2.no>3 3>4 2.yes>5",
    )
    made = run(scene(drawn), 1)
    assert notes(made) == ["near", "near", "far"]
    assert ways(made) == [(1, 2, Way.DO), (1, 1, Way.ELSE)]


def test_an_otherwise_without_its_if_just_above_is_told():
    if_ = holding(2, "if_so", add("Moth.n"), formula="Moth.x < 100")
    otherwise = holding(3, "otherwise", add("level.n"))
    start = card(1, "each_in_every_tick", who="Moth")
    made = run(scene(graph("ok", start, if_, otherwise, wires="1>2 2>3")), 2)
    assert values(made)[:3] == [2.0, 2.0, 0.0]
    assert made.world.level["n"] == 2.0
    for wires in ("1>3", "1>2 1>3", "1>3 3>2"):
        problems = Program(scene(graph("bad", start, if_, otherwise, wires=wires))).problems
        assert ["no “if” just above" in p.message for p in problems] == [True]


def test_lines_in_a_card_that_holds_none_and_a_rest_that_is_no_number_are_told():
    start = card(1, "every_tick")
    bad = (
        holding(2, "gate", add("level.n")),
        card(3, "firing", rest="level.n"),
        card(4, "firing", rest="-1"),
    )
    problems = Program(scene(graph("bad", start, *bad, wires="1>2 1>3 1>4"))).problems
    assert [p.message for p in problems] == [
        "“gate” cannot hold lines of its own",
        "a plain number of seconds is needed here",
        "a time cannot be below 0",
    ]
