"""Own nodes: graphs with inputs and outputs as cards of others."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from test_graph_runs import note, notes, scene, values

from building import run
from drawing import card, graph
from gatillo.files.level_file import decode_level, encode_level
from gatillo.graphs.outline import outline
from gatillo.inspect.findings import findings
from gatillo.language.renaming import rename
from gatillo.level import graph_edits
from gatillo.level.graphs import End
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

NEAR = graph(
    "near enough",
    card(1, "input", name="in"),
    card(2, "input", name="reach", carries="a value", value="40"),
    card(3, "within", who="Moth", distance="0", where="Lamp"),
    card(4, "output", name="near"),
    card(5, "output", name="far"),
    card(6, "formula", value="distance(Moth, Lamp)"),
    card(7, "output", name="away", carries="a value"),
    wires="1>3 3.yes>4 3.no>5",
    values="2>3.distance 6>7.value",
    id=800,
)


def using(*cards, wires, values="", **more):
    return graph(
        "uses", card(1, "each_in_every_tick", who="Moth"), *cards, wires=wires, values=values, **more
    )


def problems(*graphs):
    return [p.sentence() for p in Program(scene(*graphs)).problems]


def test_matches_go_in_at_an_input_and_come_out_at_the_outputs():
    drawn = using(
        card(2, "own", graph="near enough"),
        note(3, "{Moth.name} near"),
        note(4, "{Moth.name} far"),
        wires="1>2 2.near>3 2.far>4",
    )
    assert notes(run(scene(NEAR, drawn), 1)) == ["Moth 1 near", "Moth 2 far", "Moth 3 far"]


def test_it_does_what_its_cards_would_do_in_its_place():
    plain = using(
        card(3, "within", who="Moth", distance="40", where="Lamp"),
        note(5, "near"),
        note(6, "far"),
        wires="1>3 3.yes>5 3.no>6",
    )
    drawn = using(
        card(2, "own", graph="near enough"), note(5, "near"), note(6, "far"), wires="1>2 2.near>5 2.far>6"
    )
    one, other = run(scene(plain), 5), run(scene(NEAR, drawn), 5)
    assert notes(one) == notes(other)
    assert [f.matches for f in one.trace.firings()] == [f.matches for f in other.trace.firings()]


def test_a_value_comes_in_as_it_is_written_or_by_a_wire_and_else_as_its_own():
    written = using(card(2, "own", graph="near enough", reach="100"), note(3, "near"), wires="1>2 2.near>3")
    assert notes(run(scene(NEAR, written), 1)) == ["near", "near"]
    wired = using(
        card(2, "own", graph="near enough"),
        note(3, "near"),
        card(4, "formula", value="level.n + 300"),
        wires="1>2 2.near>3",
        values="4>2.reach",
    )
    assert notes(run(scene(NEAR, wired), 1)) == ["near", "near", "near"]


def test_a_value_comes_out_and_is_worked_out_for_whoever_asks():
    drawn = using(
        card(2, "own", graph="near enough", reach="100"),
        card(3, "set_variable", variable="Moth.n", value="0"),
        wires="1>2 2.near>3",
        values="2.away>3.value",
    )
    assert [round(v, 3) for v in values(run(scene(NEAR, drawn), 1))[:3]] == [30.0, 58.31, 0.0]


def test_what_it_keeps_is_kept_for_each_card_that_uses_it():
    counting = graph(
        "third time",
        card(1, "input", name="in"),
        card(2, "count_to", count="3"),
        card(3, "output", name="then"),
        wires="1>2 2.at>3",
        id=801,
    )
    drawn = using(
        card(2, "own", graph="third time"),
        card(3, "own", graph="third time"),
        card(4, "add_to", amount="1", variable="level.n"),
        card(5, "add_to", amount="1", variable="level.m"),
        wires="1>2 2>4 4>3 3>5",
    )
    made = run(scene(counting, drawn, moths=((0, 0),)), 20)
    # every third of twenty, and every third of those
    assert (made.world.level["n"], made.world.level["m"]) == (6.0, 2.0)


def test_they_stand_within_one_another_and_a_fault_tells_the_way():
    outer = graph(
        "outer",
        card(1, "input", name="in"),
        card(2, "own", graph="inner"),
        card(3, "output", name="then"),
        wires="1>2 2>3",
        id=802,
    )
    inner = graph(
        "inner",
        card(1, "input", name="in"),
        card(2, "set_variable", variable="Moth.n", value="1 / level.m"),
        card(3, "output", name="then"),
        wires="1>2 2>3",
        id=803,
    )
    drawn = using(card(2, "own", graph="outer"), note(3, "done"), wires="1>2 2>3")
    made = run(scene(inner, outer, drawn, moths=((0, 0),)), 1)
    assert [f.sentence for f in made.trace.faults] == [
        "“uses”, card 2: in “outer”, card 2, in “inner”, card 2: divides by zero: “level.m” is 0"
    ]
    assert notes(made) == ["done"]


def test_one_that_would_stand_within_itself_is_refused_with_the_path():
    def one(name, other, number):
        cards = (card(1, "input", name="in"), card(2, "own", graph=other), card(3, "output", name="then"))
        return graph(name, *cards, wires="1>2 2>3", id=number)

    sentences = problems(one("a", "b", 810), one("b", "c", 811), one("c", "a", 812))
    assert any("“a” → “b” → “c” → “a”" in s for s in sentences)


@pytest.mark.parametrize(
    ("used", "wires", "drawn_values", "said"),
    [
        (
            "near enogh",
            "1>2",
            "",
            "card 2, graph: there is no own node called “near enogh”; did you mean “near enough”?",
        ),
        (
            "plain",
            "1>2",
            "",
            "card 2, graph: “plain” is no own node: it needs inputs or outputs, and no occasion",
        ),
        (
            "near enough",
            "1>2 2.nearby>3",
            "",
            "card 2: “near enough” has no output “nearby”; there are: near, far",
        ),
        ("near enough", "1>2.out", "", "card 2: “near enough” has no input “out”; there are: in"),
        (
            "near enough",
            "1>2",
            "4>2.range",
            "card 2, range: “near enough” has no value input “range”; there are: reach",
        ),
        (
            "near enough",
            "1>2 2>3",
            "2.off>3.text",
            "card 2: “near enough” gives no value “off”; there are: away",
        ),
    ],
)
def test_what_does_not_fit_is_told_at_the_card_that_uses_it(used, wires, drawn_values, said):
    plain = graph("plain", card(1, "every_tick"), note(2, "x"), wires="1>2", id=805)
    drawn = using(
        card(2, "own", graph=used),
        note(3, "x"),
        card(4, "formula", value="1"),
        wires=wires,
        values=drawn_values,
    )
    assert any(s == f"graph “uses”, {said}" for s in problems(NEAR, plain, drawn)), problems(
        NEAR, plain, drawn
    )


def test_a_change_of_it_shows_in_every_use_at_once():
    drawn = using(card(2, "own", graph="near enough"), note(3, "near"), wires="1>2 2.near>3")
    built = scene(NEAR, drawn)
    before = Program(built)
    wider = graph_edits.set_card_slot(built, 800, 2, "value", "300")
    made = Run(Program(wider, before), wider.trials[0])
    made.advance(1)
    assert notes(made) == ["near"] * 3


def test_it_is_saved_renamed_printed_and_has_no_findings_of_its_own():
    drawn = using(card(2, "own", graph="near enough", reach="70"), note(3, "near"), wires="1>2 2.near>3")
    made = rename(scene(NEAR, drawn), "rule", "near enough", "close by")
    assert decode_level(encode_level(made)) == made
    assert outline(graph_edits.graph_of(made, 900))[1:] == [
        "  2. close by, reach = 70",
        "    near: 3. note “near” to the trace",
    ]
    assert not Program(made).problems
    assert not [f.sentence() for f in findings(made) if "graph" in f.sentence()]


def test_random_draws_of_two_uses_differ():
    chance = graph(
        "maybe",
        card(1, "input", name="in"),
        card(2, "chance", percent="50"),
        card(3, "output", name="then"),
        wires="1>2 2.yes>3",
        id=806,
    )
    drawn = using(
        card(2, "own", graph="maybe"),
        card(3, "own", graph="maybe"),
        card(4, "add_to", amount="1", variable="level.n"),
        card(5, "add_to", amount="1", variable="level.m"),
        card(6, "in_order"),
        card(7, "both_come"),
        card(8, "note", text="both"),
        wires="1>6 6.1>2 6.2>3 2>4 3>5 4>7.1 5>7.2 7>8",
    )
    made = run(scene(chance, drawn, moths=((0, 0),)), 400)
    assert 150 < made.world.level["n"] < 250 and 150 < made.world.level["m"] < 250
    # independent: both in about a quarter of the ticks
    assert 60 < len(notes(made)) < 140


def test_wiring_to_an_own_node_is_an_edit_like_any():
    drawn = using(card(2, "own", graph="near enough"), note(3, "near"), wires="1>2")
    made = graph_edits.add_wire(scene(NEAR, drawn), 900, End(2, "near"), End(3))
    assert not Program(made).problems


BRIGHTER = graph(
    "brighter",
    card(1, "input", name="in"),
    card(2, "input", name="tool", carries="a role", value="Moth"),
    card(4, "formula_holds", formula="tool.n < 3"),
    card(5, "add_to", amount="1", variable="tool.n"),
    card(6, "note", text="{tool.name} at {tool.x}"),
    card(7, "output", name="then"),
    wires="1>4 4.yes>5 5>6 6>7",
    id=801,
)


def roles_given(**slots):
    drawn = using(card(2, "own", graph="brighter", **slots), wires="1>2")
    return run(scene(BRIGHTER, drawn), 2)


def test_a_role_is_given_to_it_as_a_slot_and_its_cards_speak_of_that_one():
    assert notes(roles_given(tool="Moth"))[:3] == ["Moth 1 at 0", "Moth 2 at 50", "Moth 3 at 200"]
    made = roles_given(tool="Lamp")
    # one lamp, brought in for each of the three moths
    assert notes(made)[:3] == ["Lamp 50 at 0"] * 3 or notes(made)[:3] == ["Lamp 1 at 0"] * 3
    assert notes(roles_given())[:1] == ["Moth 1 at 0"]
    assert notes(roles_given(tool="another Moth"))[:2] == ["Moth 2 at 50", "Moth 3 at 200"]


def test_a_role_is_given_on_to_an_own_node_within_it():
    inner = graph(
        "tell",
        card(1, "input", name="in"),
        card(2, "input", name="who", carries="a role", value="Moth"),
        card(3, "input", name="more", carries="a value", value="0"),
        card(4, "set_variable", variable="who.n", value="0"),
        note(5, "{who.name}"),
        wires="1>4 4>5",
        values="3>4.value",
        id=802,
    )
    outer = graph(
        "tell twice",
        card(1, "input", name="in"),
        card(2, "input", name="tool", carries="a role", value="Moth"),
        card(3, "own", graph="tell", who="tool", more="tool.x + 1"),
        card(4, "own", graph="tell", who="another tool"),
        wires="1>4 1>3",
        id=803,
    )
    drawn = graph(
        "uses", card(1, "level_starts"), card(2, "own", graph="tell twice", tool="Lamp"), wires="1>2"
    )
    assert problems(inner, outer, drawn) == []
    made = run(scene(inner, outer, drawn, lamps=((0, 30), (9, 9))), 1)
    # for each lamp the other one, then itself
    assert [text.split(" ")[0] for text in notes(made)] == ["Lamp"] * 4
    assert values(made)[-2:] == [1.0, 10.0]


def test_a_slot_that_an_own_node_has_not_is_told_with_those_it_has():
    drawn = using(card(2, "own", graph="brighter", toll="Lamp"), wires="1>2")
    assert any("“brighter” has no slot “toll”; there are: tool" in p for p in problems(BRIGHTER, drawn))


COUNTED = graph(
    "counted",
    card(1, "input", name="in"),
    card(2, "count_to", count="3", per="all matches"),
    card(3, "output", name="at"),
    wires="1>2 2.at>3",
    id=804,
)


@pytest.mark.parametrize(("shared", "told"), [(False, []), (True, ["a"])])
def test_what_a_shared_own_node_counts_is_counted_for_all_its_uses_together(shared, told):
    drawn = graph(
        "uses",
        card(1, "every_tick"),
        card(2, "own", graph="counted"),
        note(3, "a"),
        card(4, "own", graph="counted"),
        note(5, "b"),
        wires="1>2 2>3 1>4 4>5",
    )
    level = scene(replace(COUNTED, shared=shared), drawn)
    # apart each has counted two ticks; together they have come to 3 in the second
    assert notes(run(level, 2)) == told
    assert decode_level(encode_level(level)) == level
