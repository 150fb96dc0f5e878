"""Laying cards out: none over another, from top to bottom, by the numbers of the wires; and a small change moves little."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from drawing import card, graph
from gatillo.graphs.layout import tidied
from gatillo.level.graphs import wires_of
from gatillo.level.model import Graph, Wire
from work_done import at_most

SIZE = (180.0, 44.0)


def sizes_of(drawn: Graph):
    return {n.id: (140.0 + 13 * (n.id % 7), 30.0 + 22 * (n.id % 3)) for n in drawn.nodes}


def at(drawn: Graph, places) -> Graph:
    return replace(drawn, nodes=tuple(replace(n, at=places[n.id]) for n in drawn.nodes))


def apart(places, sizes) -> bool:
    boxes = [(*places[n], *sizes[n]) for n in places]
    return all(
        x + w <= x2 or x2 + w2 <= x or y + h <= y2 or y2 + h2 <= y
        for i, (x, y, w, h) in enumerate(boxes)
        for x2, y2, w2, h2 in boxes[i + 1 :]
    )


def tree(many: int) -> Graph:
    cards = [card(1, "level_starts"), *(card(n, "in_order") for n in range(2, many + 1))]
    wires = (
        Wire(start="1", end="2"),
        *tuple(Wire(start=f"{(n - 3) // 3 + 2}.{(n - 3) % 3 + 1}", end=str(n)) for n in range(3, many + 1)),
    )
    return replace(graph("tree", *cards), wires=wires)


@settings(max_examples=200, deadline=None)
@given(st.integers(1, 25), st.data())
def test_no_card_lies_over_another_and_matches_run_downwards(many, data):
    cards = [card(1, "level_starts"), *(card(n, "in_order") for n in range(2, many + 1))]
    pairs = data.draw(st.lists(st.tuples(st.integers(1, many), st.integers(2, max(2, many))), max_size=40))
    wires = " ".join(f"{a}.{k + 1}>{b}" for k, (a, b) in enumerate(pairs) if a < b <= many)
    drawn = graph("g", *cards, wires=wires)
    sizes = sizes_of(drawn)
    places = tidied(drawn, sizes)
    assert set(places) == {n.id for n in drawn.nodes}
    assert apart(places, sizes)
    for start, end in wires_of(drawn):
        assert places[end.node][1] >= places[start.node][1] + sizes[start.node][1]
    again = tidied(at(drawn, places), sizes)
    assert all(again[n] == pytest.approx(places[n]) for n in places)


def test_what_an_output_leads_to_stands_from_left_to_right_by_the_numbers_of_its_wires():
    drawn = tree(40)
    places = tidied(drawn, sizes_of(drawn))
    follows: dict[int, list[int]] = {}
    for start, end in wires_of(drawn):
        follows.setdefault(start.node, []).append(end.node)
    for below in follows.values():
        by_port = sorted(below)
        assert [places[n][0] for n in by_port] == sorted(places[n][0] for n in by_port)


def test_one_card_more_in_a_tidy_graph_of_sixty_moves_only_its_neighbours():
    drawn = tree(60)
    sizes = sizes_of(drawn)
    before = tidied(drawn, sizes)
    drawn = at(drawn, before)
    for parent in (5, 12, 19):
        more = replace(
            drawn,
            nodes=(*drawn.nodes, card(61, "in_order")),
            wires=(*drawn.wires, Wire(start=f"{parent}.9", end="61")),
        )
        after = tidied(more, {**sizes, 61: SIZE})
        moved = [n for n in before if after[n] != before[n]]
        row = {n for n in before if before[n][1] == after[61][1]}
        assert set(moved) <= row, "only cards beside it make room"
        assert len(moved) <= 12
        assert apart(after, {**sizes, 61: SIZE})


def test_a_card_that_gives_a_value_stands_to_the_left_of_the_one_that_takes_it():
    drawn = graph(
        "g",
        card(1, "every_tick"),
        card(2, "hold"),
        card(3, "formula", value="1"),
        card(4, "formula", value="a"),
        wires="1>2",
        values="4>2.value 3>4.a",
    )
    sizes = dict.fromkeys(range(1, 5), SIZE)
    places = tidied(drawn, sizes)
    assert places[3][1] == places[4][1] == places[2][1]
    assert places[3][0] < places[4][0] < places[2][0]


def test_a_mess_is_laid_out_anew_as_a_whole():
    drawn = tree(30)
    sizes = sizes_of(drawn)
    mess = at(drawn, {n.id: (float(n.id * 7 % 50), float(n.id * 11 % 90)) for n in drawn.nodes})
    assert tidied(mess, sizes) == tidied(drawn, sizes)


def test_five_hundred_cards_and_a_loop_are_laid_out_with_little_work():
    drawn = tree(500)
    looped = replace(drawn, wires=(*drawn.wires, Wire(start="400", end="3")))
    with at_most(30_000_000):
        assert len(tidied(looped, sizes_of(looped))) == 500
