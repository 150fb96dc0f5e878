"""The types of slots whose names come from rules, behaviours and graphs: messages, timers, items, settings, own nodes.

What a level names there is found by the entries that are used, so these types stand above the entries' declarations. All others
are in slot_types.py.
"""

from __future__ import annotations

from collections.abc import Callable

from gatillo.catalogue.declare.entry import CATALOGUE
from gatillo.catalogue.declare.slot_types import Names, SlotType, declare, menu_entries
from gatillo.level.graphs import INPUT, OUTPUT
from gatillo.level.model import Clause, Graph, Level
from gatillo.level.naming import free_name_problem, spoken
from gatillo.level.roles import Index, all_logic, every_clause


def known_names(level: Level, type: str) -> list[str]:
    """Return names that only rules bring about (messages, timers, items), in the order of the rules."""
    found: dict[str, None] = {}
    for clause in every_clause(level):
        entry = CATALOGUE.get(clause.use)
        for name, slot in entry.slots.items() if entry is not None else ():
            text = clause.slots.get(name, "").strip()
            if slot.type == type and text:
                found[text] = None
    return list(found)


def is_own_node(graph: Graph) -> bool:
    """Return whether a graph is there to be used by others: it has inputs or outputs, and no occasion."""
    face = any(node.use in (INPUT, OUTPUT) for node in graph.nodes)
    occasions = (CATALOGUE.get(node.use) for node in graph.nodes)
    return face and not any(entry is not None and entry.group == "occasion" for entry in occasions)


def _behaviours(index: Index) -> list[Clause]:
    return [b for k in index.level.kinds for b in k.behaviours if b.use in CATALOGUE]


def _settings(index: Index, here: tuple[str, ...]) -> list[str]:
    return [
        f"{spoken(b.use)}: {name}"
        for b in _behaviours(index)
        for name, slot in CATALOGUE[b.use].slots.items()
        if slot.kind.holds == "formula" and slot.kind.gives == "number"
    ]


def _entries(index: Index, here: tuple[str, ...]) -> list[str]:
    return [entry for b in _behaviours(index) for entry in menu_entries(b.slots.get("entries", ""))]


def _known(type: str) -> Names:
    return lambda index, here: known_names(index.level, type)


def _wrong_free(type: str) -> Callable[[Index, str], str]:
    """Return a check for names that can be chosen freely: of messages, timers and items."""
    return lambda index, text: (free_name_problem(text) or "") if text else f"a {type} is missing here"


def _own_nodes(index: Index, here: tuple[str, ...]) -> list[str]:
    return [e.name for _, _, e in all_logic(index.level) if isinstance(e, Graph) and is_own_node(e)]


for _sort in ("message", "timer", "item"):
    declare(
        SlotType(
            _sort,
            f"the name of {'an' if _sort == 'item' else 'a'} {_sort}",
            _sort,
            "name",
            names=_known(_sort),
            wrong=_wrong_free(_sort),
            renamed=(_sort,),
        )
    )

for _made in (
    SlotType(
        "setting",
        "a number among a behaviour's settings, such as steer by keys: speed",
        "setting",
        "name",
        names=_settings,
    ),
    SlotType(
        "own node",
        "a graph that is an own node, by its name",
        "own node",
        "name",
        names=_own_nodes,
        renamed=("rule",),
    ),
    SlotType("entry", "an entry of some prompt's menu", "entry", "name", names=_entries, renamed=("entry",)),
):
    declare(_made)
