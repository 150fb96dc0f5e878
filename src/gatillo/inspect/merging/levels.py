"""Merging two versions of a level with the one that both come from."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

import msgspec
from msgspec.structs import replace

from gatillo.inspect.merging.names import (
    Renaming,
    in_turn,
    names_apart,
    names_of,
    numbers_apart,
    renamings,
)
from gatillo.inspect.merging.order_list import SECTION, merged_order
from gatillo.inspect.merging.paths import as_tree, set_tree_at, tree_at
from gatillo.inspect.merging.settling import NAME
from gatillo.inspect.merging.trees import ABSENT, Conflict, Merge, Path, Tree, same
from gatillo.level.model import Level, Unsettled
from gatillo.level.validation import Flaw, flaws

MOST_REPAIRS = 50
"""Things of one side that are taken whole because the two versions together make no level; then one side's level is."""


def merge(base: Level, ours: Level, theirs: Level) -> Level:
    """Return two versions of a level merged with the one that both come from.

    What both changed, each in its own way, stays as ours and is marked in `Level.unsettled`, with theirs. But for that, the result
    does not depend on which of the two is called ours.
    """
    ours, theirs = numbers_apart(base, ours, theirs)
    ours, theirs = names_apart(base, ours, theirs)
    doubly: list[Unsettled] = []
    for of_kinds in (False, True):
        base, ours, theirs, some = _names_alike(base, ours, theirs, of_kinds=of_kinds)
        doubly += some
    merging = Merge()
    trees = [as_tree(level) for level in (base, ours, theirs)]
    orders = [tree.pop("order", []) for tree in trees]
    tree = merging.of(*trees)
    tree["order"] = merged_order(merging, *orders)
    level = _as_level(tree, merging, ours, theirs)
    found = [Unsettled(**_plain(one)) for one in merging.conflicts]
    return replace(level, unsettled=(*level.unsettled, *doubly, *found))


# names


def _names_alike(
    base: Level, ours: Level, theirs: Level, *, of_kinds: bool
) -> tuple[Level, Level, Level, list[Unsettled]]:
    """Return the three versions with what each side renamed renamed in all, and what both did, each to another name."""
    mine, other = (renamings(base, side, of_kinds=of_kinds) for side in (ours, theirs))
    first = {(one.sort, one.old, one.kind): one.new for one in mine}
    again = [one for one in other if (one.sort, one.old, one.kind) in first]
    only_theirs = [one for one in other if one not in again]
    doubly = []
    for one in again:
        new = first[one.sort, one.old, one.kind]
        if new != one.new:
            theirs = Renaming(one.sort, one.new, new, one.kind).done(theirs)
            path = (NAME, one.sort, *([one.kind] if one.kind else []))
            doubly.append(Unsettled(path=path, base=one.old, ours=new, theirs=one.new))
    only_mine = [
        one for one in mine if all((one.sort, one.old, one.kind) != (o.sort, o.old, o.kind) for o in again)
    ]
    return (
        in_turn(base, [*mine, *only_theirs]),
        in_turn(ours, _there(only_theirs, ours, mine)),
        in_turn(theirs, _there(only_mine, theirs, other)),
        doubly,
    )


def _there(some: Sequence[Renaming], side: Level, own: Sequence[Renaming]) -> list[Renaming]:
    """Return the renamings of the other side whose things are on this side, under the names that they had."""
    given = {(one.sort, one.new, one.kind) for one in own}
    return [
        one
        for one in some
        if (one.sort, one.old, one.kind) not in given and one.old in names_of(side, one.sort, one.kind)
    ]


# from the tree to a level


def _plain(one: Conflict) -> dict[str, Any]:
    sides = {"base": one.base, "ours": one.ours, "theirs": one.theirs}
    return {
        "path": one.path,
        "order": one.order,
        **{name: value for name, value in sides.items() if value is not ABSENT},
    }


def _as_level(tree: Tree, merging: Merge, ours: Level, theirs: Level) -> Level:
    """Return a merged tree as a level. Where the two versions together make none, things are taken whole from one side.

    What is taken so is a conflict.
    """
    sides = [as_tree(side) for side in (ours, theirs)]
    for _ in range(MOST_REPAIRS):
        try:
            level = msgspec.convert(tree, Level)
        except msgspec.ValidationError:
            break
        flaw = next(flaws(level), None)
        if flaw is None:
            return level
        if not _mended(tree, flaw, merging, sides):
            break
    merging.conflicts = [Conflict((), ABSENT, *sides)]
    return ours


# what one side removed and the other speaks of


STEPS = re.compile(r"\.([^.\[\]]+)|\[(\d+)\]")
NAMED = ("kinds", "objects", "variables")
"""The lists of a level whose things can be spoken of by others in a way that the level does not hang together without them."""


def _mended(tree: Tree, flaw: Flaw, merging: Merge, sides: Sequence[Tree]) -> bool:
    """Put back what one side removed and the other speaks of, or take the thing that has the flaw whole from one side.

    Returns whether anything was done.
    """
    steps: list[str | int] = [name or int(at) for name, at in STEPS.findall(flaw.path)]
    for name in _names_at(tree, steps):
        for field in NAMED:
            if _put_back(tree, (field,), name, merging, sides):
                return True
        owner = _thing(tree, steps)
        kinds = [
            one for one in tree.get("kinds", []) if owner is not None and one["name"] == owner.get("kind")
        ]
        for kind in kinds:
            where: Path = ("kinds", {"name": kind["name"]}, "variables")
            if _put_back(tree, where, name, merging, sides):
                return True
    return _taken_whole(tree, steps, merging, sides)


def _names_at(tree: Tree, steps: list[str | int]) -> list[str]:
    """Return the names that stand at a path: a text, those of a reference, and the path's last step."""
    value = tree
    for step in steps:
        try:
            value = value[step]
        except (KeyError, IndexError, TypeError):
            break
    found = [value] if isinstance(value, str) else []
    found += [one for one in value.values() if isinstance(one, str)] if isinstance(value, dict) else []
    return [*found, *(step for step in steps[-1:] if isinstance(step, str))]


def _put_back(tree: Tree, where: Path, name: str, merging: Merge, sides: Sequence[Tree]) -> bool:
    """Put a thing back into a list from the side that still has it; return whether there was one."""
    here = tree_at(tree, where) or []
    if any(one["name"] == name for one in here):
        return False
    versions: list[Tree] = [
        next((one for one in tree_at(side, where) or [] if one["name"] == name), ABSENT) for side in sides
    ]
    left = next((one for one in versions if one is not ABSENT), None)
    if left is None:
        return False
    set_tree_at(tree, where, [*here, left])
    known: dict[str, str | int] = {"id": left["id"]} if "id" in left else {"name": name}
    merging.conflicts.append(Conflict((*where, known), left, *versions))
    return True


def _thing(tree: Tree, steps: list[str | int]) -> Tree | None:
    """Return the thing of one of a level's lists in which a path ends."""
    if len(steps) < 2 or not isinstance(steps[1], int):
        return None
    some = tree.get(steps[0], [])
    return some[steps[1]] if steps[1] < len(some) else None


def _taken_whole(tree: Tree, steps: list[str | int], merging: Merge, sides: Sequence[Tree]) -> bool:
    """Take the thing of a list in which a path ends as ours has it, or theirs if ours has none; return whether it differs."""
    thing = _thing(tree, steps)
    if thing is None:
        return False
    where: list[str | int] = [*steps[:2]]
    if thing.get("is") == SECTION and len(steps) > 3:
        where = [*steps[:4]]
        thing = thing["rules"][steps[3]]
    known: dict[str, str | int] = {"id": thing["id"]} if "id" in thing else {"name": thing["name"]}
    path: Path = (str(steps[0]), known)
    versions = [tree_at(side, path) for side in sides]
    whole = next((one for one in versions if one is not None), None)
    if whole is None or same(whole, thing):
        return False
    holder = tree
    for step in where[:-1]:
        holder = holder[step]
    holder[where[-1]] = whole
    inner = [one for one in merging.conflicts if one.path[: len(path)] != path]
    absent: list[Tree] = [ABSENT if one is None else one for one in versions]
    merging.conflicts = [*inner, Conflict(path, ABSENT, *absent)]
    return True
