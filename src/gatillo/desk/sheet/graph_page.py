"""The page of a graph: its name, its note, and its cards in the order in which they run."""

from __future__ import annotations

from itertools import islice
from weakref import WeakKeyDictionary

from msgspec.structs import replace
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QVBoxLayout

from gatillo.catalogue.cards.graph_cards import A_ROLE, A_VALUE, MATCHES
from gatillo.catalogue.cards.own_nodes import face_sentence, uses_of
from gatillo.catalogue.declare.named_types import is_own_node
from gatillo.desk.session.rename_things import take_name
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.form import Form
from gatillo.graphs.folding import name_face
from gatillo.graphs.outline import outline_lines
from gatillo.level import graph_edits
from gatillo.level.edits import change_logic
from gatillo.level.graphs import INPUT, OUTPUT
from gatillo.level.model import Clause, Graph, Logic, Node
from gatillo.level.naming import free_name
from gatillo.level.roles import all_logic

MOST_LINES = 300
"""Cards that the page lists."""
MOST_USES = 12
MANY_CARDS = 800
"""A graph with more cards than this is listed after the window has shown the rest."""
LATER = 60
"""Milliseconds after the rest; between them the window can be used."""
DEEPEST = 8
"""Steps by which a line of the page is indented at most."""


def graph_page(bench: Workbench, column: QVBoxLayout, graph: Graph) -> None:
    """What can be changed of a graph outside its own page, and its cards as numbered lines."""
    form = Form(bench, column, "graph")
    taken = [entry.name for _, _, entry in all_logic(bench.level) if entry is not graph]
    form.text("name", "name", graph.name, lambda text: take_name(bench, "rule", graph.name, text, taken))

    def take_note(text: str) -> None:
        def changed(entry: Logic) -> Logic:
            return replace(entry, note=text)

        bench.edit(change_logic(bench.level, graph.id, changed), f"change the note of “{graph.name}”")

    form.text("note", "note", graph.note, take_note)
    if is_own_node(graph):
        _face(form, graph)
    if not graph.nodes:
        return
    form.heading("Its cards, in the order in which they run")
    if len(graph.nodes) <= MANY_CARDS:
        form.words(_listed(graph))
        return
    # the list takes as long as all the rest: the page shows that of before until the window is free
    label = form.words(_last_listed.get(bench, {}).get(graph.id, ""))

    def fill() -> None:
        words = _listed(graph)
        _last_listed[bench] = {graph.id: words}
        label.setText(words)

    QTimer.singleShot(LATER, label, fill)


_last_listed: WeakKeyDictionary[Workbench, dict[int, str]] = WeakKeyDictionary()
"""The list of the large graph that was shown last, by its number."""


def _listed(graph: Graph) -> str:
    """Return the lines of a graph's cards as one text: hundreds of labels would take longer than all the rest."""
    told = list(islice(outline_lines(graph), MOST_LINES + 1))
    lines = [_indented(line) for line in told[:MOST_LINES]]
    if len(told) > MOST_LINES:
        lines.append(f"… and more of its {len(graph.nodes):,} cards; `gatillo print` lists all")
    return "\n".join(lines)


def _indented(line: str) -> str:
    """Return a line of an outline with spaces as wide as the letters are high, and no deeper than the page has room for."""
    words = line.lstrip(" ")
    return "\u2003" * min((len(line) - len(words)) // 2, DEEPEST) + words


def _face(form: Form, graph: Graph) -> None:
    """An own node's face: the sentence that it is, what it is given and where it leads, and who uses it."""
    bench = form.bench
    form.heading("The sentence by which graphs and rules use it")
    form.words(face_sentence(graph), quiet=False)
    for node in (n for use in (INPUT, OUTPUT) for n in graph.nodes if n.use == use):
        _face_row(form, graph, node)
    form.buttons(
        form.button("+ input", "add-input", lambda: _add(form, graph, INPUT)),
        form.button("+ output", "add-output", lambda: _add(form, graph, OUTPUT)),
    )
    form.heading("Used in")
    used = uses_of(bench.level, graph)
    if not used:
        form.words("Not used yet. Type its name as a card of another graph, or “do …” as a line of a rule.")
    for entry, many in used[:MOST_USES]:
        sort = "graph" if isinstance(entry, Graph) else "rule"
        words = f"{sort} “{entry.name}”" + (f", {many} times" if many > 1 else "")
        form.alone(form.button(words, f"use-{entry.id}", lambda i=entry.id: bench.select(Selection(rule=i))))
    if len(used) > MOST_USES:
        form.words(f"… and {len(used) - MOST_USES} more")


def _face_row(form: Form, graph: Graph, node: Node) -> None:
    bench, number = form.bench, node.id
    sort = "input" if node.use == INPUT else "output"
    name, carries = (
        node.slots.get("name", "in" if node.use == INPUT else "then"),
        node.slots.get("carries", MATCHES),
    )

    def rename(text: str) -> str | None:
        if not text.strip():
            return f"an {sort} needs a name"
        level, uses = name_face(bench.level, graph.id, number, text.strip())
        bench.edit(level, f"call the {sort} “{text.strip()}”")
        if uses:
            bench.notify(
                f"The new name was carried to {uses} use{'s' if uses != 1 else ''} of “{graph.name}”."
            )
        return None

    def put(slot: str, text: str) -> None:
        before = len(bench.program.problems)
        level = graph_edits.set_card_slot(bench.level, graph.id, number, slot, text)
        bench.edit(level, f"change {slot} of the {sort} “{name}”")
        _tell_consequences(form, graph, before)

    def take_away() -> None:
        before = len(bench.program.problems)
        bench.edit(
            graph_edits.delete_cards(bench.level, graph.id, {number}), f"take the {sort} “{name}” away"
        )
        _tell_consequences(form, graph, before)

    row = form.row()
    named = form.line(f"face-{number}-name", f"name of the {sort} {name}", name, rename)
    # narrow enough for its value to stand beside it
    named.setFixedWidth(92)
    row.addWidget(named)
    sorts = [(MATCHES, MATCHES), (A_VALUE, A_VALUE)] + ([(A_ROLE, A_ROLE)] if node.use == INPUT else [])
    row.addWidget(
        form.combo(
            f"face-{number}-carries",
            f"what {name} carries",
            carries,
            sorts,
            lambda chosen: put("carries", chosen),
        )
    )
    if carries != MATCHES:
        value = form.line(
            f"face-{number}-value",
            f"what {name} is" + (" where none is given" if node.use == INPUT else ""),
            node.slots.get("value", "0"),
            lambda text: put("value", text),
        )
        value.setFixedWidth(84)
        row.addWidget(value)
    row.addWidget(form.remover(f"face-{number}-remove", f"the {sort} {name}", take_away))
    form.labelled(sort, form.box(row))


def _add(form: Form, graph: Graph, use: str) -> None:
    bench = form.bench
    names = {n.slots.get("name", "") for n in graph.nodes if n.use == use}
    name = free_name("in" if use == INPUT else "then", names)
    low = max((n.at[1] for n in graph.nodes), default=0.0)
    at = (0.0, 0.0 if use == INPUT else low + 110.0)
    level, _ = graph_edits.add_card(bench.level, graph.id, Clause(use=use, slots={"name": name}), *at)
    bench.edit(level, f"add {name} to the face of “{graph.name}”")


def _tell_consequences(form: Form, graph: Graph, before: int) -> None:
    """Say what a change of the face has done to those that use it."""
    bench = form.bench
    more = len(bench.program.problems) - before
    uses = sum(many for _, many in uses_of(bench.level, graph))
    if uses:
        words = f"“{graph.name}” is used {uses} time{'s' if uses != 1 else ''}"
        bench.notify(
            f"{words}; {more} of its uses do not fit any more: Ctrl+Shift+J goes from one to the next."
            if more > 0
            else f"{words}; all of them fit."
        )
