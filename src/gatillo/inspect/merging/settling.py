"""What a merge left to be settled: what it concerns, in words, and the choice of one side."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any, Literal, cast

import msgspec
from msgspec.structs import replace

from gatillo.inspect.level_difference import LONGEST, PARTS, THINGS
from gatillo.inspect.merging.names import names_of
from gatillo.inspect.merging.order_list import SECTION, listed
from gatillo.inspect.merging.paths import as_tree, set_tree_at, tree_at
from gatillo.inspect.merging.trees import PLACE, Path, Tree, same
from gatillo.language.renaming import Sort, rename
from gatillo.language.sentence import sentence
from gatillo.level.model import Clause, Level, Unsettled
from gatillo.level.tidying import tidied
from gatillo.level.validation import flaws

Side = Literal["ours", "theirs"]
NAME = "name of"
"""The first step of a path to a name that both sides changed; the sort of thing follows, and its kind if it belongs to one."""
CALLED = dict(THINGS)
"""What one of each list of a level is called."""
GONE = "removed"


class CannotChoose(Exception):
    """A side that cannot be chosen as the level is now; the message says why, in a sentence."""


@dataclass(frozen=True, slots=True)
class Question:
    """Something to be settled in words: what it concerns, and what each side has there."""

    about: str
    ours: str
    theirs: str
    chosen: Side | None
    """Which side the level has there now; None for neither."""

    def sentence(self) -> str:
        """Return it in a line."""
        return f"{self.about}: ours is {self.ours}; theirs is {self.theirs}"


def questions(level: Level) -> list[Question]:
    """Return what is to be settled in a level, in words."""
    tree = as_tree(level)
    return [
        Question(_about(tree, one), _words(one, "ours"), _words(one, "theirs"), _chosen(tree, level, one))
        for one in level.unsettled
    ]


def choose(level: Level, number: int, side: Side) -> Level:
    """Return a level with what one side has, of the unsettled change with a number (from 0); the change stays unsettled.

    Raises CannotChoose where that would make no level, or where what it concerned is gone.
    """
    one = level.unsettled[number]
    wanted = getattr(one, side)
    if one.path[:1] == (NAME,):
        sort, kind = cast(Sort, one.path[1]), str(one.path[2]) if len(one.path) > 2 else ""
        now = next((n for n in (one.ours, one.theirs) if n in names_of(level, sort, kind)), None)
        if now is None:
            raise CannotChoose(f"the {sort} is called neither “{one.ours}” nor “{one.theirs}” any more")
        return rename(level, sort, now, wanted, kind=kind) if now != wanted else level
    tree = as_tree(level)
    if not one.path:
        tree = {**wanted, "unsettled": tree["unsettled"]}
    elif one.order:
        _put_in_order(tree, one.path, wanted)
    elif one.path[-1] == SECTION:
        _put_in_section(tree, one.path, wanted)
    elif _is_section(one):
        _put_section(tree, one.path, wanted)
    elif isinstance(one.path[-1], int):
        _put_item(tree, one, wanted)
    elif not set_tree_at(tree, one.path, wanted) and wanted is not None:
        raise CannotChoose(f"{_about(tree, one)} is not in the level any more")
    try:
        changed = tidied(msgspec.convert(tree, Level))
    except msgspec.ValidationError as error:
        raise CannotChoose(f"that cannot stand there: {error}") from None
    flaw = next(flaws(changed), None)
    if flaw is not None:
        raise CannotChoose(f"without it the level does not hang together: {flaw.message}")
    return changed


def settle(level: Level, number: int) -> Level:
    """Return a level in which a change is no longer marked as unsettled: what the level has there now is kept."""
    return replace(level, unsettled=(*level.unsettled[:number], *level.unsettled[number + 1 :]))


# putting a side's version in its place


def _put_in_order(tree: Tree, path: Path, wanted: list[Any]) -> None:
    """Put the items of a list in a side's order; items that the side does not name stay where they are."""
    items = tree_at(tree, path)
    if not isinstance(items, list):
        raise CannotChoose("the list is not in the level any more")
    keys = _keys(items, top=path == ("order",))
    known = [json.dumps(one) for one in wanted]
    named = sorted((key for key in keys if key in known), key=known.index)
    order = iter(named)
    by_key = dict(zip(keys, items, strict=True))
    items[:] = [by_key[next(order)] if key in known else item for key, item in zip(keys, items, strict=True)]


def _keys(items: list[Tree], *, top: bool) -> list[str]:
    """Return by what each item of a list is known."""
    if top:
        return [json.dumps(key) for key in listed(items).top]
    return [json.dumps(one.get("id", one.get("name")) if isinstance(one, dict) else one) for one in items]


def _put_in_section(tree: Tree, path: Path, wanted: str) -> None:
    """Put a rule at the end of the section that a side has it in, or of the order list."""
    rule = tree_at(tree, path[:-1])
    if rule is None:
        raise CannotChoose("the rule is not in the level any more")
    set_tree_at(tree, path[:-1], None)
    section = next((e for e in tree["order"] if e.get("is") == SECTION and e["name"] == wanted), None)
    if section is None and wanted:
        raise CannotChoose(f"there is no section “{wanted}” any more")
    (tree["order"] if section is None else section.setdefault("rules", [])).append(rule)


def _is_section(one: Unsettled) -> bool:
    """Return whether it is of a section as a whole; the rules in it are settled by themselves."""
    versions = [side for side in (one.base, one.ours, one.theirs) if isinstance(side, dict)]
    return len(one.path) == 2 and any(version.get("is") == SECTION for version in versions)


def _put_section(tree: Tree, path: Path, wanted: Tree | None) -> None:
    """Put a section as a side has it around the rules that it holds now; where it is to be gone, they stand without it."""
    now = tree_at(tree, path)
    rules = now.get("rules", []) if isinstance(now, dict) else []
    at = tree["order"].index(now) if now is not None else len(tree["order"])
    entry = [{**wanted, "rules": rules}] if wanted is not None else rules
    tree["order"][at : at + 1] = entry


def _put_item(tree: Tree, one: Unsettled, wanted: Tree | None) -> None:
    """Put an item that is known by its position as a side has it; the positions in other changes follow."""
    items, at = tree_at(tree, one.path[:-1]), cast(int, one.path[-1])
    if not isinstance(items, list):
        raise CannotChoose(f"{_about(tree, one)} is not in the level any more")
    here = items[at] if at < len(items) else None
    if same(here, wanted) or (
        wanted is None and not any(same(here, side) for side in (one.ours, one.theirs))
    ):
        return
    taken = here is not None and any(same(here, side) for side in (one.ours, one.theirs))
    if not taken and None not in (one.ours, one.theirs):
        raise CannotChoose(f"{_about(tree, one)} has been changed since")
    if wanted is not None and taken:
        items[at] = wanted
        return
    by = -1 if wanted is None else 1
    items[at : at + (wanted is None)] = [] if wanted is None else [wanted]
    depth = len(one.path) - 1
    for other in tree["unsettled"]:
        path = other.get("path", [])
        follows = path[:depth] == list(one.path[:-1]) and len(path) > depth
        if (
            follows
            and isinstance(path[depth], int)
            and path[depth] > at - (by > 0)
            and path != list(one.path)
        ):
            path[depth] += by


# in words


def _chosen(tree: Tree, level: Level, one: Unsettled) -> Side | None:
    sides: tuple[Side, Side] = ("ours", "theirs")
    for side in sides:
        wanted = getattr(one, side)
        if one.path[:1] == (NAME,):
            there = wanted in names_of(
                level, cast(Sort, one.path[1]), str(one.path[2]) if len(one.path) > 2 else ""
            )
        elif one.order:
            items = tree_at(tree, one.path)
            keys = _keys(items, top=one.path == ("order",)) if isinstance(items, list) else []
            known = [json.dumps(key) for key in wanted]
            there = [key for key in keys if key in known] == [key for key in known if key in keys]
        elif one.path and one.path[-1] == SECTION:
            held = listed(tree.get("order", [])).held_by
            step = one.path[-2]
            number = step["id"] if isinstance(step, dict) else 0
            there = number in held and held[int(number)][0] == wanted
        elif not one.path:
            there = same({**wanted, "unsettled": None}, {**tree, "unsettled": None})
        else:
            there = same(_without_rules(tree_at(tree, one.path), one), wanted)
            if not there and wanted is None and isinstance(one.path[-1], int):
                other = one.theirs if side == "ours" else one.ours
                there = not same(tree_at(tree, one.path), other)
        if there:
            return side
    return None


def _without_rules(value: Tree, one: Unsettled) -> Tree:
    if _is_section(one) and isinstance(value, dict):
        return {what: inner for what, inner in value.items() if what != "rules"}
    return value


def _about(tree: Tree, one: Unsettled) -> str:
    """Return what a change concerns: the thing, and what of it."""
    path = one.path
    if path[:1] == (NAME,):
        return f"the name of the {path[1]} that was “{one.base}”" + (
            f" of {path[2]}" if len(path) > 2 else ""
        )
    if not path:
        return "the whole level"
    first, rest = str(path[0]), list(path[1:])
    about = "the level" if first in ("name", "note", "format") else first.replace("_", " ")
    if rest and isinstance(rest[0], dict):
        known = rest.pop(0)
        thing = tree_at(tree, path[:2]) or one.ours or one.theirs or {}
        what = CALLED.get(first, "") or str(thing.get("is", "entry") if isinstance(thing, dict) else "entry")
        name = thing.get("name") if isinstance(thing, dict) else None
        about = f"{what} “{name or next(iter(known.values()), '')}”" if isinstance(known, dict) else what
    elif about == "the level":
        rest = [first]
    words = [_step(step) for step in rest if step != "with"]
    if one.order:
        words.append("the order")
    return about + (": " + " ".join(words) if words else "")


def _step(step: str | int | dict[str, str | int]) -> str:
    if isinstance(step, dict):
        return f"“{next(iter(step.values()))}”"
    if isinstance(step, int):
        return str(step + 1)
    return PARTS.get(f"{step}_", step).replace("_", " ")


def _words(one: Unsettled, side: Side) -> str:
    """Return what a side has, short: a line as its sentence, a list by its items."""
    value = getattr(one, side)
    if one.path and one.path[-1] == SECTION:
        return f"in “{value}”" if value else "in no section"
    if value is None:
        return GONE
    if one.path and one.path[-1] == PLACE:
        return ", ".join(f"{measure:g}" for measure in value)
    if not one.path:
        return f"the version of {side}"
    if one.order:
        return ", ".join(str(key[0] or key[1] if isinstance(key, list | tuple) else key) for key in value)[
            :LONGEST
        ]
    return value_words(value)


def value_words(value: Any) -> str:
    """Return a value of a level's file in words: a line of a rule as its sentence, a thing with a name by it."""
    if isinstance(value, dict) and "use" in value:
        try:
            return sentence(msgspec.convert(value, Clause))
        except msgspec.ValidationError:
            pass
    if isinstance(value, dict) and "name" in value:
        return f"“{value['name']}” as it is there"
    if isinstance(value, str):
        return f"“{value[:LONGEST]}”"
    if isinstance(value, dict):
        text = ", ".join(f"{name} {inner}" for name, inner in value.items())
    else:
        text = json.dumps(value, ensure_ascii=False)
    return text if len(text) <= LONGEST else text[:LONGEST] + "…"
