"""Merging the order list: sections, and the rules and graphs in them, which are known by their ids wherever they stand."""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field
from typing import TypeVar

from gatillo.inspect.merging.sequences import agree, ordered
from gatillo.inspect.merging.trees import ABSENT, Conflict, Merge, Path, Tree, same

K = TypeVar("K", bound=Hashable)
ORDER: Path = ("order",)
SECTION = "section"
"""The step of a path that stands for the section in which a rule is: no field of the rule."""
Top = tuple[str, int]
"""A section by its name and which of that name it is; a rule or graph outside sections by "" and its id."""
NONE: Top = ("", 0)
"""Outside sections."""


@dataclass
class Listed:
    """An order list: what each section and each rule is, and where it stands."""

    top: list[Top] = field(default_factory=list)
    sections: dict[Top, Tree] = field(default_factory=dict)
    """Sections, without what they hold."""
    logic: dict[int, Tree] = field(default_factory=dict)
    holds: dict[Top, list[int]] = field(default_factory=dict)
    """The rules and graphs of each section."""
    held_by: dict[int, Top] = field(default_factory=dict)


def listed(order: list[Tree]) -> Listed:
    """Return an order list taken apart."""
    found = Listed()
    seen: dict[str, int] = {}
    for entry in order:
        if entry.get("is") != SECTION:
            found.top.append(("", entry["id"]))
            found.logic[entry["id"]] = entry
            found.held_by[entry["id"]] = NONE
            continue
        name = entry["name"]
        key = name, seen.get(name, 0)
        seen[name] = key[1] + 1
        found.top.append(key)
        found.sections[key] = {what: value for what, value in entry.items() if what != "rules"}
        within = entry.get("rules", [])
        found.holds[key] = [one["id"] for one in within]
        found.logic |= {one["id"]: one for one in within}
        found.held_by |= {one["id"]: key for one in within}
    return found


def merged_order(merge: Merge, base: list[Tree], ours: list[Tree], theirs: list[Tree]) -> list[Tree]:
    """Return two versions of an order list merged with the one they come from."""
    sides = listed(base), listed(ours), listed(theirs)
    merged = merge.keyed([side.logic for side in sides], ORDER, "id", in_order=False)
    logic = {one["id"]: one for one in merged}
    held_by = {number: _section_of(merge, number, sides) for number in logic}
    sections = _sections(merge, sides, set(held_by.values()))
    top_kept = {*sections, *(("", number) for number, section in held_by.items() if section == NONE)}
    result: list[Tree] = []
    for key in _in_order(merge, [side.top for side in sides], top_kept, ORDER):
        if key not in sections:
            result.append(logic[key[1]])
            continue
        members = {number for number, section in held_by.items() if section == key}
        where: Path = (*ORDER, {"name": key[0]}, "rules")
        inside = _in_order(merge, [side.holds.get(key, []) for side in sides], members, where)
        result.append(
            {**sections[key], "rules": [logic[number] for number in inside]} if inside else sections[key]
        )
    return result


def _section_of(merge: Merge, number: int, sides: tuple[Listed, Listed, Listed]) -> Top:
    """Return the section that a rule is in; where both sides moved it, each elsewhere, ours."""
    base, ours, theirs = (side.held_by.get(number) for side in sides)
    if ours is None or theirs is None:
        return theirs or ours or NONE
    if ours in (theirs, base):
        return theirs
    if theirs != base:
        names: list[Tree] = [side[0] if side else ABSENT for side in (base, ours, theirs)]
        merge.conflicts.append(Conflict((*ORDER, {"id": number}, SECTION), *names))
    return ours


def _sections(merge: Merge, sides: tuple[Listed, Listed, Listed], needed: set[Top]) -> dict[Top, Tree]:
    """Return the sections that stay: those that are there on both sides, are new or changed, or hold something."""
    base, ours, theirs = (side.sections for side in sides)
    result: dict[Top, Tree] = {}
    for key in dict.fromkeys((*ours, *theirs)):
        versions = [side.get(key, ABSENT) for side in (base, ours, theirs)]
        path: Path = (*ORDER, {"name": key[0]})
        if versions[0] is ABSENT or (versions[1] is not ABSENT and versions[2] is not ABSENT):
            there = [one for one in versions[1:] if one is not ABSENT]
            result[key] = merge.of(*versions, path=path) if len(there) == 2 else there[0]
            continue
        left = versions[2] if versions[1] is ABSENT else versions[1]
        if key in needed or not same(left, versions[0]):
            result[key] = merge.conflict(path, *versions)
    return result


def _in_order(merge: Merge, sides: Sequence[list[K]], kept: set[K], path: Path) -> list[K]:
    base, ours, theirs = ([one for one in side if one in kept] for side in sides)
    if not agree(base, ours, theirs):
        merge.conflicts.append(Conflict(path, base, ours, theirs, order=True))
    return ordered(base, ours, theirs, kept=kept)
