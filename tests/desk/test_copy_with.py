"""“Copy with …” in the window: a table of what is named, findings before it is taken, one edit."""

from __future__ import annotations

import pytest
from PySide6.QtWidgets import QDialog, QDialogButtonBox

from building import START, add, c, kind, level, rule, things
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.window import copy_dialog
from gatillo.level.model import Graph, Node, Section, Wire
from gatillo.level.roles import all_logic


@pytest.fixture
def window(open_window):
    drinks = rule(
        "Moth drinks",
        when=c("begins_to_touch", a="Moth", b="Cup"),
        do=add("level.drunk", "Moth.thirst"),
        id=1,
    )
    begins = rule("Moths begin", when=START, do=c("turn_by", who="Moth", angle="9"), id=2)
    return open_window(
        level(
            drinks,
            Section(name="The moths", rules=(begins,)),
            kinds=(kind("Moth", has={"thirst": 1.0}), kind("Bee"), kind("Cup")),
            objects=(
                *things("Moth", (0, 0)),
                *things("Bee", (50, 0), first=5),
                *things("Cup", (90, 0), first=9),
            ),
            has={"drunk": 0.0},
        )
    )


def asked(window, monkeypatch, fill):
    """Choose the command; in the dialog that opens something is filled in, and it is accepted."""
    seen = []

    def exec_(dialog):
        dialog.show()
        fill(dialog)
        dialog.look()
        seen.append(dialog.found.text())
        dialog.findChild(QDialogButtonBox).button(QDialogButtonBox.StandardButton.Ok).click()
        return QDialog.DialogCode.Accepted

    monkeypatch.setattr(copy_dialog.CopyWith, "exec", exec_)
    window.actions_["copy with"].trigger()
    return seen


def names(window):
    return [entry.name for _, _, entry in all_logic(window.bench.level)]


def test_a_rule_is_copied_for_another_kind_in_one_edit(window, monkeypatch):
    window.bench.select(Selection(rule=1))

    def fill(dialog):
        assert [f"{n.sort} {n.name}" for n in dialog.fields] == [
            "kind Moth",
            "kind Cup",
            "level variable drunk",
        ]
        field = next(f for n, f in dialog.fields.items() if n.name == "Moth")
        assert {field.itemText(i) for i in range(field.count())} == {"Moth", "Bee", "Cup"}
        field.setCurrentText("Bee")

    (said,) = asked(window, monkeypatch, fill)
    assert said == "The copy has no findings."
    assert names(window) == ["Moth drinks", "Bee drinks", "Moths begin"]
    assert [v.name for v in window.bench.level.kinds[1].variables] == ["thirst"]
    assert window.bench.selection.rule not in (None, 1)
    window.bench.document.undo()
    assert names(window) == ["Moth drinks", "Moths begin"]


def test_what_would_be_wrong_is_said_before_it_is_taken(window, monkeypatch):
    window.bench.select(Selection(rule=1))

    def fill(dialog):
        next(f for n, f in dialog.fields.items() if n.name == "Moth").setCurrentText("Wasp")

    (said,) = asked(window, monkeypatch, fill)
    assert "▲" in said and "Wasp" in said


def test_a_section_is_copied_beside_it(window, monkeypatch):
    window.bench.select(Selection(thing=Thing("section", "The moths")))
    asked(window, monkeypatch, lambda d: next(iter(d.fields.values())).setCurrentText("Bee"))
    assert [e.name for e in window.bench.level.order] == ["Moth drinks", "The moths", "The bees"]
    assert names(window) == ["Moth drinks", "Moths begin", "Bees begin"]


def test_without_a_rule_it_says_what_to_do(window):
    window.bench.select(Selection())
    window.actions_["copy with"].trigger()
    assert "Select a rule, a graph or a section first" in window.message.words.text()


def test_selected_cards_of_a_graph_are_copied_with_the_wires_among_them(open_window, monkeypatch):
    graph = Graph(
        id=7,
        name="Turns",
        nodes=(
            Node(id=1, use="each_in_every_tick", slots={"who": "Moth"}),
            Node(id=2, use="turn_by", slots={"who": "Moth", "angle": "Moth.thirst"}),
            Node(id=3, use="add_to", slots={"variable": "level.drunk", "amount": "1"}),
        ),
        wires=(Wire(start="1", end="2"), Wire(start="2", end="3")),
    )
    window = open_window(
        level(graph, kinds=(kind("Moth", has={"thirst": 1.0}), kind("Bee")), has={"drunk": 0.0})
    )
    window.region.open_graph(7)
    window.bench.select(Selection(rule=7, cards=frozenset({1, 2})))
    (said,) = asked(window, monkeypatch, lambda d: next(iter(d.fields.values())).setCurrentText("Bee"))
    assert said == "The copy has no findings."
    (made,) = window.bench.level.order
    assert [(n.use, n.slots) for n in made.nodes[3:]] == [
        ("each_in_every_tick", {"who": "Bee"}),
        ("turn_by", {"who": "Bee", "angle": "Bee.thirst"}),
    ]
    assert made.wires[2:] == (Wire(start="4", end="5"),)
    assert window.bench.selection.cards == frozenset({4, 5})
    assert [v.name for v in window.bench.level.kinds[1].variables] == ["thirst"]
