"""Graphs as files, pages and pictures: what the documents say is read and run, and what is written can be read."""

from __future__ import annotations

import json
import re
from pathlib import Path
from xml.etree import ElementTree

import msgspec
import pytest
from typer.testing import CliRunner

from building import fired, kind, level, run, things
from drawing import card, graph
from gatillo.catalogue.cards.graph_cards import CARDS
from gatillo.cli.main import app
from gatillo.files.graph_pictures import as_dot, as_graphml, as_svg, laid_out
from gatillo.files.level_file import decode_level, encode_level, write_level
from gatillo.files.rules_page import as_markdown
from gatillo.graphs.outline import outline
from gatillo.level.model import Graph, Spot
from gatillo.sim.program import flattening
from gatillo.sim.rules import graph_turn

DOCS = Path(__file__).parents[2] / "docs"


def drawn_in(page: str) -> Graph:
    """The first graph that a page shows."""
    text = (DOCS / page).read_text(encoding="utf-8")
    block = next(b for b in re.findall(r"```json\n(.*?)```", text, re.DOTALL) if '"graph"' in b)
    return msgspec.json.decode(block.encode(), type=Graph)


def meadow(drawn: Graph, **more):
    return level(
        drawn,
        kinds=(kind("Moth", 5, has={"warmth": 0.0}), kind("Lamp", 5)),
        objects=(*things("Moth", (50, 0), (200, 0)), *things("Lamp", (0, 0), first=50)),
        places=(Spot(name="home", x=300, y=0),),
        **more,
    )


def test_the_graph_of_the_format_page_is_read_and_does_what_it_says():
    made = run(decode_level(encode_level(meadow(drawn_in("format.md")))), 60)
    assert made.world.variables["warmth/number"].round(6).tolist()[:2] == [20.0, 0.0]


def test_the_graph_of_the_graphs_page_is_read_and_runs_in_the_order_that_the_page_says():
    drawn = drawn_in("graphs.md")
    made = run(decode_level(encode_level(meadow(drawn))), 60)
    assert made.world.variables["warmth/number"].round(6).tolist()[:2] == [12.0, 0.0]
    assert made.world.x[1].round(6) == 240.0
    assert [t for t, _ in fired(made, drawn.name)] == list(range(1, 61))
    numbers = [int(line.split(". ")[0].split(" ")[-1]) for line in outline(drawn)]
    assert numbers == [1, 2, 3, 4, 5, 6, 8]


def test_an_outline_begins_what_no_wire_from_an_occasion_reaches_at_its_first_card():
    drawn = graph(
        "loose",
        card(1, "send", message="go"),
        card(2, "every_tick"),
        card(3, "send", message="ready"),
        card(4, "send", message="on"),
        wires="2>4 3>1",
    )
    assert [line.strip().split(". ")[0] for line in outline(drawn)] == ["2", "4", "not reached: 3", "1"]


def test_the_picture_of_the_graphs_page_is_of_its_graph():
    assert (DOCS / "graphs-order.svg").read_text(encoding="utf-8") == as_svg(drawn_in("graphs.md"))


def test_the_graphs_page_and_the_catalogue_tell_of_every_card():
    page = (DOCS / "graphs.md").read_text(encoding="utf-8")
    catalogue = (DOCS / "catalogue.md").read_text(encoding="utf-8")
    for name, made in CARDS.items():
        assert f"| `{name}` |" in page
        assert f"`{name}`" in catalogue
        for port in (*made.ports.inputs, *made.ports.outputs):
            assert port in page


def test_the_bounds_on_the_graphs_page_are_those_of_the_program():
    page = (DOCS / "graphs.md").read_text(encoding="utf-8")
    assert f"for {graph_turn.MOST_KEPT:,} matches at most" in page
    assert f"a turn runs {graph_turn.MOST_CARDS:,} cards at most" in page
    assert f"{flattening.DEEPEST} deep and {flattening.MOST_CARDS:,} cards in all" in page


def test_a_graph_is_printed_as_lines_in_firing_order():
    lines = as_markdown(meadow(drawn_in("graphs.md"))).split("\n")
    at = lines.index("1. **Lamps and moths**")
    assert [line[5:].rstrip() for line in lines[at + 1 : at + 8]] == [
        "1. each Moth in every tick",
        "  2. Moth is within 80 of Lamp",
        "    yes: 3. the first time for each match",
        "      4. say “a light!” at Moth for 2 s",
        "    yes: 5. add [8] to Moth.warmth",
        "    no: 6. move Moth toward home at 40",
        "8. 12 * dt",
    ]


def test_graphml_holds_every_card_and_wire():
    drawn = drawn_in("graphs.md")
    root = ElementTree.fromstring(as_graphml(drawn))
    space = "{http://graphml.graphdrawing.org/xmlns}"
    nodes = {n.get("id"): {d.get("key"): d.text for d in n} for n in root.iter(f"{space}node")}
    assert {number: data["use"] for number, data in nodes.items()} == {str(n.id): n.use for n in drawn.nodes}
    edges = [
        (e.get("source"), e.get("target"), {d.get("key"): d.text for d in e})
        for e in root.iter(f"{space}edge")
    ]
    assert ("2", "6", {"carries": "matches", "output": "no", "order": "5"}) in edges
    assert ("8", "5", {"carries": "value", "input": "amount", "order": "1"}) in edges
    assert len(edges) == len(drawn.wires) + len(drawn.values)


def test_dot_has_a_line_for_each_card_and_wire_and_quotes_what_must_be_quoted():
    hostile = graph('a "b" \\', card(1, "level_starts"), card(2, "note", text='say "hi" \\ <b>'), wires="1>2")
    lines = as_dot(hostile).split("\n")
    assert lines[0] == 'digraph "a \\"b\\" \\\\" {'
    assert lines[3] == '  2 [label="2. note “say \\"hi\\" \\\\ <b>” to the trace"];'
    assert lines[4] == '  1 -> 2 [label=""];'


def test_a_picture_is_well_formed_whatever_its_texts_are_and_no_two_cards_lie_on_one_another():
    cards = [card(1, "level_starts"), *(card(n, "note", text="<script>&" * n) for n in range(2, 30))]
    wires = " ".join(f"{(n // 2)}>{n}" for n in range(2, 30))
    drawn = graph("<&>", *cards, wires=wires)
    root = ElementTree.fromstring(as_svg(drawn))
    assert root.find("{http://www.w3.org/2000/svg}title").text == "<&>"
    places = list(laid_out(drawn).values())
    for at, (x, y, w, h) in enumerate(places):
        for x2, y2, w2, h2 in places[at + 1 :]:
            assert x + w <= x2 or x2 + w2 <= x or y + h <= y2 or y2 + h2 <= y


@pytest.mark.parametrize("ending", [".graphml", ".dot", ".svg"])
def test_the_command_writes_a_graph(tmp_path, ending):
    path, out = tmp_path / "m.gatillo", tmp_path / f"g{ending}"
    write_level(path, meadow(drawn_in("graphs.md")))
    done = CliRunner().invoke(app, ["graph", str(path), "Lamps and moths", str(out)])
    assert done.exit_code == 0, done.output
    assert "Moth" in out.read_text(encoding="utf-8")


@pytest.mark.parametrize(
    ("name", "out", "said"),
    [
        ("Lamps", "g.svg", "has no graph “Lamps”; it has: “Lamps and moths”"),
        ("Lamps and moths", "g.png", "a graph is written as .graphml, .dot, .svg"),
    ],
)
def test_the_command_says_what_it_cannot_do(tmp_path, name, out, said):
    path = tmp_path / "m.gatillo"
    write_level(path, meadow(drawn_in("graphs.md")))
    done = CliRunner().invoke(app, ["graph", str(path), name, str(tmp_path / out)])
    assert done.exit_code != 0
    assert said in done.output.replace("\n", " ")


@pytest.mark.parametrize(
    ("broken", "path", "said"),
    [
        ({"wires": [{"from": "1", "to": "77"}]}, "$.order[0].wires[0].to", "no card with the number 77"),
        ({"wires": [{"from": "one", "to": "2"}]}, "$.order[0].wires[0].from", "is no end of a wire"),
        ({"nodes": [{"id": 1, "use": "each"}] * 2}, "$.order[0].nodes[1].id", "two cards have the number 1"),
        ({"nodes": [{"id": 0, "use": "each"}]}, "$.order[0].nodes[0].id", "must be at least 1"),
        ({"colour": "red"}, "$.order[0]", "no entry called “colour”"),
    ],
)
def test_a_graph_that_does_not_hang_together_is_refused_with_its_line_and_path(broken, path, said):
    data = json.loads(encode_level(meadow(drawn_in("graphs.md"))))
    data["order"][0].update(broken)
    with pytest.raises(Exception, match=re.escape(path)) as refused:
        decode_level(json.dumps(data, indent=1).encode())
    assert said in str(refused.value)
    assert re.search(r"line \d+", str(refused.value))


def test_the_own_node_of_the_graphs_page_is_read_and_does_what_it_says():
    text = (DOCS / "graphs.md").read_text(encoding="utf-8")
    blocks = [b for b in re.findall(r"```json\n(.*?)```", text, re.DOTALL) if '"input"' in b]
    own = msgspec.json.decode(blocks[0].encode(), type=Graph)
    using = graph(
        "uses",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "own", graph="near enough", reach="70"),
        card(3, "add_to", amount="1", variable="Moth.warmth"),
        wires="1>2 2.near>3",
    )
    built = meadow(using)
    made = run(decode_level(encode_level(msgspec.structs.replace(built, order=(own, *built.order)))), 3)
    assert made.world.variables["warmth/number"].tolist()[:2] == [3.0, 0.0]
