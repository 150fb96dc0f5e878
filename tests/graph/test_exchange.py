"""Graphs as other programs read them: GraphML by networkx, DOT by pydot, of every graph of the studies and of odd ones."""

from __future__ import annotations

import warnings
from io import BytesIO

import networkx
import pydot
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from building import rule
from drawing import card, graph
from gatillo.examples import study_names, study_path
from gatillo.files.graph_pictures import as_dot, as_graphml, output_of
from gatillo.files.level_file import read_level
from gatillo.graphs.conversion import as_graph
from gatillo.graphs.outline import card_words, wired_slots
from gatillo.level.graphs import wires_of
from gatillo.level.model import Graph
from gatillo.level.roles import all_logic

ODD = graph(
    'a "b" \\ <&> ; {x}',
    card(1, "level_starts"),
    card(2, "note", text='say "hi" \\ <b> &amp; ]]> — “é”\\n'),
    card(3, "note", text="{time}; -> [x=1]"),
    wires="1>2 2>3",
)


def drawn() -> list[Graph]:
    found = [ODD]
    for name in study_names():
        for _, _, entry in all_logic(read_level(study_path(name))):
            if isinstance(entry, Graph):
                found.append(entry)
            elif "11" in name:
                found.append(as_graph(entry))
    return found


def wires(graph: Graph) -> list[tuple[str, str, str, str, str]]:
    return sorted(
        (str(start.node), str(end.node), carries, output_of(graph, start), end.port)
        for carries, values in (("matches", False), ("value", True))
        for start, end in wires_of(graph, values=values)
    )


@pytest.mark.parametrize("of", drawn(), ids=lambda g: g.name)
def test_networkx_reads_the_cards_and_wires_of_a_graph(of):
    # networkx warns of an edge that is twice
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        read = networkx.read_graphml(BytesIO(as_graphml(of).encode()), force_multigraph=True)
    assert read.is_directed()
    wired = wired_slots(of)
    for node in of.nodes:
        data = read.nodes[str(node.id)]
        assert (data["use"], data["x"], data["y"]) == (node.use, *node.at)
        assert data["words"] == card_words(node, wired.get(node.id))
    edges = sorted(
        (a, b, d["carries"], d.get("output", ""), d.get("input", "")) for a, b, d in read.edges(data=True)
    )
    assert edges == wires(of)
    order = [
        d["order"]
        for _, _, d in sorted(read.edges(data=True), key=lambda e: (e[2]["carries"], e[2]["order"]))
    ]
    assert order == [*range(1, len(of.wires) + 1), *range(1, len(of.values) + 1)]


def unquoted(text: str) -> str:
    return text[1:-1].replace('\\"', '"').replace("\\\\", "\\")


@pytest.mark.parametrize("of", drawn(), ids=lambda g: g.name)
def test_pydot_reads_the_cards_and_wires_of_a_graph(of):
    (read,) = pydot.graph_from_dot_data(as_dot(of)) or ()
    wired = wired_slots(of)
    labels = {n.get_name(): unquoted(n.get("label")) for n in read.get_nodes() if n.get_name() != "node"}
    assert labels == {
        str(n.id): f"{n.id}. {card_words(n, wired.get(n.id))}".replace("\n", " ") for n in of.nodes
    }
    edges = sorted(
        (e.get_source(), e.get_destination(), e.get("style") == "dashed", unquoted(e.get("label")))
        for e in read.get_edges()
    )
    assert edges == sorted(
        (a, b, carries == "value", port if carries == "value" else output)
        for a, b, carries, output, port in wires(of)
    )


@settings(max_examples=60, deadline=None)
@given(st.text(max_size=30), st.text(max_size=30))
def test_whatever_its_texts_are_a_graph_is_well_formed_for_both(name, text):
    clean = "".join(ch for ch in name if ch.isprintable())
    words = "".join(ch for ch in text if ch.isprintable() or ch == "\n")
    of = graph(clean or "g", card(1, "level_starts"), card(2, "note", text=words), wires="1>2")
    read = networkx.read_graphml(BytesIO(as_graphml(of).encode()))
    assert read.nodes["2"]["words"] == card_words(of.nodes[1])
    dotted = pydot.graph_from_dot_data(as_dot(of))
    assert dotted is not None
    label = unquoted(dotted[0].get_node("2")[0].get("label"))
    assert label == f"2. {card_words(of.nodes[1])}".replace("\n", " ")


def test_a_rule_that_was_turned_into_a_graph_goes_out_too():
    of = as_graph(rule("r", do=(), id=5))
    assert networkx.read_graphml(BytesIO(as_graphml(of).encode())).number_of_nodes() == 2
