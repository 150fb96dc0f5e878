"""Copies of rules, graphs and sections in which other things stand for those that are named."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from typing import NamedTuple

from msgspec.structs import replace

from gatillo.catalogue import CATALOGUE
from gatillo.language.renaming import Sort, change_entry, change_for
from gatillo.level import thing_edits
from gatillo.level.graph_edits import graph_of, part_of, paste_cards
from gatillo.level.model import Graph, Level, Logic, Rule, Section, Variable
from gatillo.level.naming import free_name
from gatillo.level.roles import Index, all_logic
from gatillo.level.rule_edits import add_rules


class Named(NamedTuple):
    """A thing that some rules name: its sort and its name."""

    sort: Sort
    name: str


def named_in(level: Level, entries: Sequence[Logic]) -> list[Named]:
    """Return the kinds, objects, places, tags, variables of the level, clips and messages that rules or graphs name, in that order."""
    index = Index(level)
    known: tuple[tuple[Sort, Sequence[str]], ...] = (
        ("kind", [kind.name for kind in level.kinds]),
        ("object", [thing.name for thing in level.objects]),
        ("place", [place.name for place in level.places]),
        ("tag", list(index.tags)),
        ("level variable", [variable.name for variable in level.variables]),
        ("clip", [clip.name for clip in level.clips]),
        ("message", _messages(entries)),
    )
    texts = "\n".join(str(entry) for entry in entries)
    found = []
    for sort, names in known:
        for name in names:
            # most are not there at all
            if name not in texts and name.replace(" ", "_") not in texts:
                continue
            change = change_for(level, sort, name, f"{name} x9x")
            if any(change_entry(entry, change) != entry for entry in entries):
                found.append(Named(sort, name))
    return found


def _messages(entries: Sequence[Logic]) -> list[str]:
    found: dict[str, None] = {}
    for entry in entries:
        clauses = (
            [node.clause for node in entry.nodes]
            if isinstance(entry, Graph)
            else [*entry.when, *entry.if_, *entry.do, *entry.else_]
        )
        while clauses:
            clause = clauses.pop()
            clauses += clause.of
            declared = CATALOGUE.get(clause.use)
            for slot, text in clause.slots.items():
                if declared is not None and slot in declared.slots and declared.slots[slot].type == "message":
                    found[text.strip()] = None
    return [name for name in found if name]


def entries_of(level: Level, rule: int | None, section: str = "") -> list[Logic]:
    """Return a rule or graph by its number, or those of a section."""
    return [
        entry
        for _, within, entry in all_logic(level)
        if entry.id == rule or (within is not None and section and within.name == section)
    ]


def copied_with(
    level: Level, rule: int | None, section: str, names: Mapping[Named, str], *, make: bool = True
) -> tuple[Level, list[int]]:
    """Return a level with a copy of a rule, or of a section, in which other things stand for those that it names.

    `names` says for things what stands for them. With `make`, variables that the copy speaks of and that are missing are made,
    with the start values of those for which they stand. Returns the level, and the numbers of the copies.
    """
    entries = entries_of(level, rule, section)
    others = {named: new for named, new in names.items() if new and new != named.name}
    copies = [_exchanged(level, entry, others) for entry in entries]
    if make:
        level = _with_variables(level, entries, others)
    if rule is not None:
        return add_rules(level, copies, after=rule)
    old = next(e for e in level.order if isinstance(e, Section) and e.name == section)
    taken = [e.name for e in level.order if isinstance(e, Section)]
    name = _renamed(section, others)
    name = name if name not in taken else free_name(section, taken)
    at = level.order.index(old)
    order = (*level.order[: at + 1], replace(old, name=name, rules=()), *level.order[at + 1 :])
    return add_rules(replace(level, order=order), copies, section=name)


def copied_cards_with(
    level: Level, graph: int, cards: Collection[int], names: Mapping[Named, str], *, make: bool = True
) -> tuple[Level, list[int]]:
    """Return a level with a copy of some cards of a graph, in the same graph, and the numbers of the copies.

    `names` and `make` are as in `copied_with`; the wires among the cards are copied too.
    """
    part = part_of(graph_of(level, graph), cards)
    others = {named: new for named, new in names.items() if new and new != named.name}
    copy = _exchanged(level, part, others)
    assert isinstance(copy, Graph)
    if make:
        level = _with_variables(level, [part], others)
    return paste_cards(level, graph, copy)


def _exchanged(level: Level, entry: Logic, names: Mapping[Named, str]) -> Logic:
    # by way of names that nothing has, so that two things can be exchanged for one another
    between = {named: f"{named.name} x9x{at}" for at, named in enumerate(names)}
    copy = entry
    for named, name in between.items():
        copy = change_entry(copy, change_for(level, named.sort, named.name, name))
    for named, new in names.items():
        copy = change_entry(copy, change_for(level, named.sort, between[named], new))
    assert isinstance(copy, Rule | Graph)
    return replace(copy, name=_renamed(entry.name, names))


def _renamed(text: str, names: Mapping[Named, str]) -> str:
    """Return the name of a rule or section with the new names in it, in small letters where they were."""
    swaps = {named.name.lower(): new for named, new in names.items()}
    if not swaps:
        return text
    pattern = re.compile(
        r"(?<!\w)(" + "|".join(sorted(map(re.escape, swaps), key=len, reverse=True)) + r")(s?)(?!\w)",
        re.IGNORECASE,
    )

    def other(found: re.Match[str]) -> str:
        new = swaps[found[1].lower()]
        return (new if found[1][:1].isupper() else new[:1].lower() + new[1:]) + found[2]

    return pattern.sub(other, text)


def _with_variables(level: Level, entries: Sequence[Logic], names: Mapping[Named, str]) -> Level:
    for named, new in names.items():
        if named.sort == "level variable" and all(v.name != new for v in level.variables):
            old = next((v for v in level.variables if v.name == named.name), Variable(name=new))
            level = replace(level, variables=(*level.variables, replace(old, name=new)))
        if named.sort != "kind":
            continue
        kinds = {kind.name: kind for kind in level.kinds}
        if new not in kinds or named.name not in kinds:
            continue
        have = {variable.name for variable in kinds[new].variables}
        for variable in kinds[named.name].variables:
            change = change_for(level, "kind variable", variable.name, f"{variable.name} x9x", named.name)
            if variable.name not in have and any(change_entry(e, change) != e for e in entries):
                level, made = thing_edits.add_variable(level, new, variable.name)
                level = thing_edits.set_variable(level, new, made, value=variable.value)
    return level
