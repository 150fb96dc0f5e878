"""The sheet of a name that only rules use: a message, a timer or an item."""

from __future__ import annotations

from typing import Literal

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QVBoxLayout

from gatillo.catalogue.declare.entry import CATALOGUE
from gatillo.catalogue.declare.named_types import known_names
from gatillo.desk.session.rename_things import take_name
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.form import Form
from gatillo.language.renaming import uses
from gatillo.language.sentence import sentence
from gatillo.level.edits import clauses_of
from gatillo.level.model import Clause, Graph, Logic
from gatillo.level.roles import all_logic
from gatillo.sim.program.compiled_line import PARTS

WordSort = Literal["message", "timer", "item"]
WORD_SORTS: tuple[WordSort, ...] = ("message", "timer", "item")
_WHAT = {
    "message": "A message is heard by every rule that listens, in the tick after it was sent.",
    "timer": "A timer runs in seconds from where a rule starts it; there is one of each name.",
    "item": "An item is held in numbers, by each object for itself; rules give and take it.",
}


def word_page(bench: Workbench, column: QVBoxLayout, sort: WordSort, name: str) -> None:
    """Its name, carried through the level; and each line that speaks of it, one click away."""
    form = Form(bench, column, sort)
    taken = [n for n in known_names(bench.level, sort) if n != name]
    form.text("name", "name", name, lambda text: take_name(bench, sort, name, text, taken))
    form.words(_WHAT[sort])
    form.heading("Used in")
    rules = {entry.id: (position + 1, entry) for position, _, entry in all_logic(bench.level)}
    for use in uses(bench.level, sort, name):
        if use.rule_id is None:
            form.words(use.where[0].upper() + use.where[1:])
            continue
        number, rule = rules[use.rule_id]
        what = "graph" if isinstance(rule, Graph) else "rule"
        for part, line, clause in _lines_with(rule, sort, name):
            where = f"card {line}" if part == "card" else part
            words = f"{number}  {where} {sentence(clause)}"
            button = form.button(
                words,
                f"use-{rule.id}-{part}-{line}",
                lambda r=rule.id: bench.select(Selection(rule=r)),
                tip=f"Go to the {what} “{rule.name}”",
            )
            button.setCursor(Qt.CursorShape.PointingHandCursor)
            form.buttons(button)


def _lines_with(rule: Logic, sort: WordSort, name: str) -> list[tuple[str, int, Clause]]:
    def speaks(clause: Clause) -> bool:
        entry = CATALOGUE.get(clause.use)
        slots = entry.slots if entry is not None else {}
        named = any(
            slots[slot].type == sort and text.strip() == name
            for slot, text in clause.slots.items()
            if slot in slots
        )
        return named or any(speaks(inner) for inner in clause.of)

    if isinstance(rule, Graph):
        return [("card", node.id, node.clause) for node in rule.nodes if speaks(node.clause)]
    return [
        (part, line, clause)
        for part in PARTS
        for line, clause in enumerate(clauses_of(rule, part))
        if speaks(clause)
    ]
