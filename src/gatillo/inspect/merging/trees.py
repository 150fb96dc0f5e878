"""Merging two versions of a tree of plain values (a level as it stands in its file) with the one they come from.

What only one side changed is as that side has it. Items of lists are known by their id or name; those without, such as lines of a
rule, by where they stood: an item of the common version is the same as the item in its place that uses the same entry. What both
sides changed otherwise is a `Conflict`: the result holds ours, and theirs is told. Three-way merging of lists: Khanna, Kunal and
Pierce, A formal investigation of diff3 (2007).
"""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from difflib import SequenceMatcher
from enum import Enum
from typing import Any

from gatillo.inspect.merging.sequences import agree, ordered


class _Absent(Enum):
    ABSENT = "not there"


ABSENT = _Absent.ABSENT
"""In the place of a value that is not there."""
Tree = Any
"""What JSON holds: dictionaries, lists, texts, numbers, true, false and None."""
Step = str | int | dict[str, str | int]
"""A field or an entry by its name, an item by its position, or an item by its id or name as `{"id": 3}`."""
Path = tuple[Step, ...]
KEYS = ("id", "name")
"""The fields by which an item is known, where all items of a list have one and no two the same."""
SORTS = ("is", "use")
"""The fields that say what sort of thing something is: two sorts are never mixed."""
TOGETHER = ("x", "y")
"""Fields that make one value together: a place."""
PLACE = "x, y"
"""The step of a path that leads to both, as a list."""


@dataclass(frozen=True, slots=True)
class Conflict:
    """What both sides changed, each in its own way: where, and what each side has there (ABSENT where it has nothing).

    With `order` it is the order of a list, and the sides are lists of its keys.
    """

    path: Path
    base: Tree
    ours: Tree
    theirs: Tree
    order: bool = field(default=False, kw_only=True)


def same(one: Tree, other: Tree) -> bool:
    """Return whether two trees are the same in a file, where false and 0 differ."""
    return one is other or (one == other and written(one) == written(other))


def written(tree: Tree) -> str:
    """Return a tree as text, the same for two that are the same."""
    return "" if tree is ABSENT else json.dumps(tree, sort_keys=True)


class Merge:
    """One merge: the conflicts that were met."""

    def __init__(self) -> None:
        self.conflicts: list[Conflict] = []

    def of(self, base: Tree, ours: Tree, theirs: Tree, *, path: Path = ()) -> Tree:
        """Return two versions of a value merged; ABSENT if it is to be gone."""
        if same(ours, theirs):
            return ours
        if same(ours, base):
            return theirs
        if same(theirs, base):
            return ours
        some = [one for one in (base, ours, theirs) if one is not ABSENT]
        if all(isinstance(one, dict) for one in some) and _one_sort(some):
            return self._dicts([{} if one is ABSENT else one for one in (base, ours, theirs)], path)
        if all(isinstance(one, list) for one in some) and not _is_value(some):
            return self._lists([[] if one is ABSENT else one for one in (base, ours, theirs)], path)
        return self.conflict(path, base, ours, theirs)

    def conflict(self, path: Path, base: Tree, ours: Tree, theirs: Tree) -> Tree:
        """Note that both sides changed something; return what stands there meanwhile: ours, or theirs where ours is gone."""
        self.conflicts.append(Conflict(path, base, ours, theirs))
        return theirs if ours is ABSENT else ours

    def _dicts(self, sides: Sequence[dict[str, Tree]], path: Path) -> dict[str, Tree]:
        base, ours, theirs = sides
        result: dict[str, Tree] = {}
        apart = _moved_apart(base, ours, theirs)
        new = sorted({*ours, *theirs} - {*base})
        for key in (*base, *new):
            versions = [side.get(key, ABSENT) for side in sides]
            if apart and key in TOGETHER:
                # never x of one side with y of the other
                result[key] = ours[key]
                continue
            merged = self.of(*versions, path=(*path, key))
            if merged is not ABSENT:
                result[key] = merged
        if apart:
            there = base if all(key in base for key in TOGETHER) else None
            places = [side and [side[key] for key in TOGETHER] for side in (there, ours, theirs)]
            self.conflict((*path, PLACE), *(ABSENT if place is None else place for place in places))
        return result

    def _lists(self, sides: Sequence[list[Tree]], path: Path) -> list[Tree]:
        known_by = _key_field(sides)
        if known_by is None:
            return self.keyed(_aligned(*sides), path)
        return self.keyed([{_key(item, known_by): item for item in side} for side in sides], path, known_by)

    def keyed(
        self,
        sides: Sequence[Mapping[Any, Tree]],
        path: Path,
        known_by: str | None = None,
        *,
        in_order: bool = True,
    ) -> list[Tree]:
        """Return a list merged, given its three versions by the keys of the items.

        `known_by` is the field that holds the key, "" where the item is its key, and None where keys are not in the items. Without
        `in_order` the items may come in any order.
        """
        base, ours, theirs = sides
        kept = [
            key
            for key in dict.fromkeys((*ours, *theirs))
            if key not in base
            or (key in ours and key in theirs)
            or not same((ours if key in ours else theirs)[key], base[key])
        ]
        keys = [list(side) for side in sides]
        if in_order and not agree(*keys):
            some = [[key for key in side if key in set(kept)] for side in keys]
            self.conflicts.append(Conflict(path, *some, order=True))
        return [
            self._item(
                [side.get(key, ABSENT) for side in sides],
                (*path, at if known_by is None else {known_by: key}),
            )
            for at, key in enumerate(ordered(*keys, kept=kept))
        ]

    def _item(self, sides: Sequence[Tree], path: Path) -> Tree:
        """Return an item that is kept: one side's addition, what both have, or what one removed and the other changed."""
        base, ours, theirs = sides
        if base is not ABSENT and (ours is ABSENT or theirs is ABSENT):
            return self.conflict(path, base, ours, theirs)
        if ours is ABSENT or theirs is ABSENT:
            return theirs if ours is ABSENT else ours
        return self.of(base, ours, theirs, path=path)


def _one_sort(some: Sequence[dict[str, Tree]]) -> bool:
    """Return whether these are of one sort, so that their fields are the same fields."""
    return all(len({str(one.get(field)) for one in some}) == 1 for field in SORTS)


def _moved_apart(base: dict[str, Tree], ours: dict[str, Tree], theirs: dict[str, Tree]) -> bool:
    """Return whether both sides have put something elsewhere, each to another place."""
    places = [[written(side.get(key, ABSENT)) for key in TOGETHER] for side in (base, ours, theirs)]
    placed = all(key in side for key in TOGETHER for side in (ours, theirs))
    return placed and len({*map(tuple, places)}) == 3


def _is_value(some: Sequence[list[Tree]]) -> bool:
    """Return whether these lists are one value each: numbers, such as a place on a sheet."""
    return all(isinstance(item, int | float) for one in some for item in one)


def _key(item: Tree, field: str) -> Tree:
    return item[field] if field else item


def _key_field(sides: Sequence[list[Tree]]) -> str | None:
    """Return the field by which the items of three versions of a list are known, "" where each is a text, None if there is none."""
    items = [item for side in sides for item in side]
    for key in ("", *KEYS):
        if any(
            not (isinstance(item, dict) and key in item if key else isinstance(item, str)) for item in items
        ):
            continue
        if all(len({_key(item, key) for item in side}) == len(side) for side in sides):
            return key
    return None


def _aligned(base: list[Tree], ours: list[Tree], theirs: list[Tree]) -> list[dict[Any, Tree]]:
    """Return three versions of a list by keys: an item that is one of the base's has its key; a new one is known by what it says."""
    sides: list[dict[Any, Tree]] = [{("base", at): item for at, item in enumerate(base)}]
    for side in (ours, theirs):
        pairs = _pairs(base, side)
        found: dict[Any, Tree] = {}
        seen: dict[str, int] = {}
        for at, item in enumerate(side):
            if at in pairs:
                found["base", pairs[at]] = item
                continue
            text = written(item)
            seen[text] = seen.get(text, 0) + 1
            found["new", _before(pairs, at), text, seen[text]] = item
        sides.append(found)
    return sides


def _before(pairs: Mapping[int, int], at: int) -> int:
    """Return which item of the base stands before an item of a side; -1 for none. Equal new items are one only in one place."""
    return next((pairs[before] for before in range(at - 1, -1, -1) if before in pairs), -1)


def _pairs(base: list[Tree], side: list[Tree]) -> dict[int, int]:
    """Return which item of the base each item of a side is: the same text, or in its place and of the same sort."""
    pairs: dict[int, int] = {}
    one, other = list(map(written, base)), list(map(written, side))
    for tag, i1, i2, j1, j2 in SequenceMatcher(None, one, other, autojunk=False).get_opcodes():
        if tag == "equal":
            pairs.update(zip(range(j1, j2), range(i1, i2), strict=True))
            continue
        pairs.update({j1 + at: i1 + old for at, old in _closest(base[i1:i2], side[j1:j2])})
    return pairs


MOST_WEIGHED = 40_000
"""Pairs of items that are weighed against one another; in larger stretches each item is the first that it can be."""


def _closest(old: list[Tree], new: list[Tree]) -> list[tuple[int, int]]:
    """Return which new item is which old one that was changed, in their order, so that they are most alike together."""
    if len(old) * len(new) > MOST_WEIGHED:
        return [(at, at) for at, pair in enumerate(zip(old, new, strict=False)) if _alike(*pair)]
    best = [[0.0] * (len(old) + 1) for _ in range(len(new) + 1)]
    for at in range(len(new) - 1, -1, -1):
        for was in range(len(old) - 1, -1, -1):
            weight = _alike(old[was], new[at])
            paired = weight + best[at + 1][was + 1]
            best[at][was] = max(best[at + 1][was], best[at][was + 1], paired if weight else 0.0)
    found, at, was = [], 0, 0
    while at < len(new) and was < len(old):
        if best[at][was] == best[at + 1][was]:
            at += 1
        elif best[at][was] == best[at][was + 1]:
            was += 1
        else:
            found.append((at, was))
            at, was = at + 1, was + 1
    return found


def _alike(one: Tree, other: Tree) -> float:
    """Return how much two items can be one that was changed: 0 not at all, 2 if they are the same."""
    if not isinstance(one, dict) or not isinstance(other, dict) or not _one_sort((one, other)):
        return 0.0
    first, second = _leaves(one), _leaves(other)
    return 1.0 + len(first & second) / max(1, len(first | second))


def _leaves(tree: Tree, path: str = "") -> set[str]:
    """Return the plain values within a tree, each with its path."""
    if isinstance(tree, dict):
        return {leaf for key, value in tree.items() for leaf in _leaves(value, f"{path}.{key}")}
    if isinstance(tree, list):
        return {leaf for at, value in enumerate(tree) for leaf in _leaves(value, f"{path}[{at}]")}
    return {f"{path}={tree!r}"}
