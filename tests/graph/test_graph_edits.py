"""Edits of graphs: each leaves a level that can be saved and opened, and undone is what was before to the byte."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from test_graph_runs import scene

from building import c, level, rule
from drawing import card, graph
from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.cards.graph_cards import CARDS
from gatillo.desk.session.history import History
from gatillo.files.level_file import LevelFileError, decode_level, encode_level
from gatillo.language.renaming import rename, uses
from gatillo.level import graph_edits, rule_edits
from gatillo.level.graphs import End, circle, end_of
from gatillo.level.model import Wire
from gatillo.level.tidying import tidied
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

DRAWN = graph(
    "g",
    card(1, "each_in_every_tick", who="Moth"),
    card(2, "formula_holds", formula="Moth.x < 100"),
    card(3, "add_to", amount="1", variable="Moth.n"),
    card(4, "note", text="no"),
    card(5, "formula", value="Moth.x"),
    wires="1>2 2.yes>3 2.no>4 2.yes>4",
    values="5>3.amount",
)


def built():
    return scene(DRAWN)


def now(made):
    return graph_edits.graph_of(made, 900)


def test_cards_are_added_moved_filled_and_taken_away_with_their_wires():
    made, number = graph_edits.add_card(built(), 900, c("note", text="new"), 10, 20)
    made = graph_edits.move_cards(made, 900, {number}, 5, -5)
    made = graph_edits.set_card_slot(made, 900, number, "text", "other")
    assert now(made).nodes[-1].at == (15.0, 15.0)
    assert now(made).nodes[-1].slots == {"text": "other"}
    made = graph_edits.delete_cards(made, 900, {2})
    assert [n.id for n in now(made).nodes] == [1, 3, 4, 5, 6]
    assert now(made).wires == ()
    assert now(made).values == DRAWN.values


def test_wires_are_put_numbered_and_cut_and_a_slot_takes_one_value():
    made = graph_edits.renumber_wire(built(), 900, Wire(start="2.yes", end="4"), -1)
    assert [w.end for w in now(made).wires if w.start == "2.yes"] == ["4", "3"]
    made = graph_edits.cut_wire(made, 900, Wire(start="2.no", end="4"))
    assert len(now(made).wires) == 3
    made, six = graph_edits.add_card(made, 900, c("formula", value="2"), 0, 0)
    made = graph_edits.add_wire(made, 900, End(six), End(3, "amount"), value=True)
    assert now(made).values == (Wire(start="6", end="3.amount"),)


def test_a_card_with_another_number_keeps_its_wires():
    made = graph_edits.renumber_card(built(), 900, 2, 4)
    assert [n.use for n in now(made).nodes if n.id == 4] == ["formula_holds"]
    assert now(made).wires[:3] == (
        Wire(start="1", end="4"),
        Wire(start="4.yes", end="3"),
        Wire(start="4.no", end="2"),
    )


def test_copied_cards_come_with_the_wires_among_them_also_into_another_level():
    part = graph_edits.part_of(DRAWN, {2, 3, 5})
    other, number = graph_edits.add_graph(level(), "copy")
    other, numbers = graph_edits.paste_cards(other, number, part)
    pasted = graph_edits.graph_of(other, number)
    assert numbers == [1, 2, 3]
    assert pasted.wires == (Wire(start="1.yes", end="2"),)
    assert pasted.values == (Wire(start="3", end="2.amount"),)


def test_renaming_goes_through_the_cards_of_graphs_too():
    own = (card(1, "formula", value="Moth.n"), card(2, "hold", value="Moth.x", per="Moth"))
    made = rename(scene(graph("g", *own)), "kind", "Moth", "Bee")
    assert [n.slots for n in now(made).nodes] == [{"value": "Bee.n"}, {"value": "Bee.x", "per": "Bee"}]


def test_renaming_goes_through_graphs():
    made = rename(scene(graph("g", *DRAWN.nodes, for_="Moth")), "kind", "Moth", "Bee")
    drawn = now(made)
    assert drawn.for_ == "Bee"
    assert [n.slots for n in drawn.nodes][:3] == [
        {"who": "Bee"},
        {"formula": "Bee.x < 100"},
        {"amount": "1", "variable": "Bee.n"},
    ]
    assert [use.where for use in uses(built(), "kind", "Moth")] == ["the graph “g”"]


def test_a_graph_is_moved_switched_and_deleted_like_a_rule():
    made = scene(DRAWN, rule("r", do=c("note", text="x")))
    made = rule_edits.put_rule(made, 900, before=None)
    assert [e.name for e in made.order] == ["r", "g"]
    made, copy = rule_edits.duplicate_rule(made, 900)
    assert copy not in (900, made.order[0].id)
    assert [e.name for e in rule_edits.delete_rule(made, 900).order] == ["r", "g 1"]


@pytest.mark.parametrize(
    ("edges", "round_"), [([(1, 2), (2, 3)], []), ([(1, 2), (2, 3), (3, 2)], [2, 3]), ([(4, 4)], [4])]
)
def test_a_circle_is_found_with_its_way(edges, round_):
    assert circle(edges) == round_


def test_a_very_long_chain_has_no_circle_and_needs_no_recursion():
    assert circle([(n, n + 1) for n in range(50_000)]) == []


@pytest.mark.parametrize("text", ["3", "3.yes", "3.a case", "12.1"])
def test_an_end_is_written_as_it_is_read(text):
    assert str(end_of(text)) == text


@pytest.mark.parametrize("text", ["", "yes", "3.", ".yes", "-3", "3 . yes.no"])
def test_what_is_no_end_is_none(text):
    assert end_of(text) is None


# anything, undone to the byte

EDITS = st.sampled_from(
    ["card", "move", "slot", "wire", "value", "cut", "renumber", "number", "delete", "paste"]
)


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(EDITS, st.integers(0, 9), st.integers(0, 9)), max_size=12))
def test_any_edits_leave_a_level_that_opens_and_undone_it_is_the_first_to_the_byte(wanted):
    history = History(tidied(built()))
    first = encode_level(history.level)
    for what, a, b in wanted:
        history.do(edited(history.level, what, a, b), what)
        assert decode_level(encode_level(history.level)) == history.level
        Program(history.level)
    last = encode_level(history.level)
    while history.undo() is not None:
        pass
    assert encode_level(history.level) == first
    while history.redo() is not None:
        pass
    assert encode_level(history.level) == last


USES = [*CARDS, "note", "add_to", "wait", "create", "nearest", "formula_holds", "key_pressed"]


def edited(made, what, a, b):
    drawn = now(made)
    if what == "card" or not drawn.nodes:
        return graph_edits.add_card(made, 900, c(USES[(a + b) % len(USES)]), a * 10, b * 10)[0]
    one, other = drawn.nodes[a % len(drawn.nodes)], drawn.nodes[b % len(drawn.nodes)]
    if what == "move":
        return graph_edits.move_cards(made, 900, {one.id}, a, b)
    if what == "slot":
        return graph_edits.set_card_slot(made, 900, one.id, ["text", "value", "amount", "per"][b % 4], "1")
    if what in ("wire", "value"):
        port = ["", "yes", "no", "then", "1"][a % 5] if what == "wire" else ""
        slot = ["", "again"][b % 2] if what == "wire" else ["value", "amount", "a", "text"][b % 4]
        return graph_edits.add_wire(made, 900, End(one.id, port), End(other.id, slot), value=what == "value")
    if what == "cut" and drawn.wires:
        return graph_edits.cut_wire(made, 900, drawn.wires[a % len(drawn.wires)])
    if what == "renumber" and drawn.wires:
        return graph_edits.renumber_wire(made, 900, drawn.wires[a % len(drawn.wires)], b - 4)
    if what == "number":
        return graph_edits.renumber_card(made, 900, one.id, b + 1)
    if what == "delete":
        return graph_edits.delete_cards(made, 900, {one.id})
    return graph_edits.paste_cards(made, 900, graph_edits.part_of(drawn, {one.id, other.id}))[0]


# the file


@settings(max_examples=150, deadline=None)
@given(
    st.lists(
        st.builds(
            card,
            st.integers(1, 6),
            st.sampled_from([*CARDS, *list(CATALOGUE)[:60], "nonsense", ""]),
            text=st.sampled_from(["x", "{1/0}", "{"]),
            value=st.sampled_from(["a", "1", "Moth.x", "1/0", "("]),
            who=st.sampled_from(["Moth", "self", "nobody here"]),
        ),
        max_size=6,
    ),
    st.text("0123456.>yesno12 ", max_size=60),
    st.sampled_from(["", "Moth", "Nobody"]),
)
def test_any_graph_is_read_or_refused_with_a_sentence_and_runs_or_has_a_problem(
    nodes, drawn_wires, kind_name
):
    ends = [w for w in drawn_wires.split() if w.count(">") == 1]
    drawn = graph("g", *nodes, wires=" ".join(ends), values=" ".join(ends[:2]), for_=kind_name)
    try:
        made = decode_level(encode_level(scene(drawn)))
    except LevelFileError as error:
        assert "line" in str(error)
        assert len(str(error)) <= 600
        return
    run = Run(Program(made), made.trials[0])
    run.advance(10)


def test_ten_thousand_cards_are_read_and_made_ready():
    nodes = [card(1, "level_starts"), *(card(n, "in_order") for n in range(2, 10_001))]
    wires = " ".join(f"{n}>{n + 1}" for n in range(1, 10_000))
    made = decode_level(encode_level(scene(graph("long", *nodes, wires=wires))))
    program = Program(made)
    assert not program.problems
    Run(program, made.trials[0]).advance(2)
