"""What differs between two levels, in sentences by what it concerns.

Rules, graphs, objects and cards are the same where their ids are; everything else where its name is. What has neither, such as the
lines of a rule or the keys of a trial, is matched by what it says. Every difference is told: two levels without one are equal.
"""

from __future__ import annotations

import difflib
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Literal

import msgspec

from gatillo.formula.values import write_out
from gatillo.language.sentence import sentence
from gatillo.level.expectations import Expected
from gatillo.level.model import (
    Choice,
    Clause,
    ClipPoint,
    Graph,
    KeyBar,
    Level,
    Logic,
    PointerMove,
    Rule,
    Section,
    Wire,
)
from gatillo.level.naming import spoken
from gatillo.level.roles import all_logic

Sort = Literal["added", "removed", "renamed", "moved", "changed"]
LONGEST = 60
"""Letters of a value that are shown; a picture's data has many thousands."""
PARTS = {"when": "when", "if_": "if", "do": "do", "else_": "else"}
"""The fields of a rule that are lists of lines, and what they are called."""
SINGULAR = {"watches": "watch", "unsettled": "unsettled change"}
"""What one of a list is called, where it is not the list's name without its s."""


@dataclass(frozen=True, slots=True)
class Difference:
    """One difference: what it concerns, what sort of difference it is, and what it is in words."""

    about: str
    sort: Sort
    words: str

    def sentence(self) -> str:
        """Return it in a line."""
        return f"{self.about}: {self.words}"


def level_differences(before: Level, after: Level) -> list[Difference]:
    """Return what differs between two levels: the level itself, its variables, kinds, places, clips, objects, rules, trials."""
    found = list(
        _of_fields("the level", before, after, skip=("settings", *(field for field, _ in THINGS), "order"))
    )
    found += _of_fields("level settings", before.settings, after.settings)
    for field, what in THINGS[:-2]:
        found += _of_named(what, getattr(before, field), getattr(after, field))
    found += _of_order(before, after)
    for field, what in THINGS[-2:]:
        found += _of_named(what, getattr(before, field), getattr(after, field))
    return found


THINGS = (
    ("variables", "level variable"),
    ("kinds", "kind"),
    ("places", "place"),
    ("clips", "clip"),
    ("objects", "object"),
    ("trials", "trial"),
    ("variants", "variant"),
)
"""The lists of a level, and what one of each is called."""


# lists of things with a name or an id


def _key(thing: Any) -> Any:
    """Return what a thing is known by, or None."""
    return next((getattr(thing, k) for k in ("id", "name", "title", "use") if hasattr(thing, k)), None)


def _is_known(thing: Any) -> bool:
    """Return whether a thing has a number or a name of its own."""
    return isinstance(thing, msgspec.Struct) and any(hasattr(thing, k) for k in ("id", "name", "title"))


def _called(thing: Any) -> str:
    name = next((getattr(thing, k) for k in ("name", "title") if hasattr(thing, k)), "")
    return str(name) or spoken(str(_key(thing)))


def _of_named(what: str, before: Sequence[Any], after: Sequence[Any]) -> Iterator[Difference]:
    old, new = {_key(one): one for one in before}, {_key(one): one for one in after}
    if len(old) < len(before) or len(new) < len(after):
        # two of one name: told by what they say
        yield from _of_list(f"the {what}s", what, before, after)
        return
    for key, thing in old.items():
        if key not in new:
            yield Difference(f"{what} {_called(thing)}", "removed", "removed")
    for key, thing in new.items():
        if key not in old:
            yield Difference(f"{what} {_called(thing)}", "added", "added" + _is_what(thing))
        elif old[key] != thing:
            yield from _of_one(what, old[key], thing)
    yield from _of_places(f"the {what}s", [k for k in old if k in new], [k for k in new if k in old], new)


def _is_what(thing: Any) -> str:
    kind = getattr(thing, "kind", "")
    return f", a {kind} at {thing.x:g}, {thing.y:g}" if kind and hasattr(thing, "x") else ""


def _of_one(what: str, old: Any, new: Any) -> Iterator[Difference]:
    about = f"{what} {_called(new)}"
    if type(old) is not type(new):
        yield Difference(about, "changed", f"now is {_said(new)}")
        return
    if getattr(old, "name", "") != getattr(new, "name", ""):
        yield Difference(about, "renamed", f"renamed, was {old.name}")
    yield from _of_fields(about, old, new, skip=("name", "id"))


def _of_places(about: str, old: list[Any], new: list[Any], things: Mapping[Any, Any]) -> Iterator[Difference]:
    """Yield which of the same things stand at another place of their list."""
    for key in _moved(old, new):
        yield Difference(
            about, "moved", f"{_called(things[key])} moved from {old.index(key) + 1} to {new.index(key) + 1}"
        )


def _moved(old: list[Any], new: list[Any]) -> list[Any]:
    """Return which of the same things must have moved: as few as can be, from the new list's top down."""
    if old == new:
        return []
    stays = {
        key
        for block in difflib.SequenceMatcher(None, old, new, autojunk=False).get_matching_blocks()
        for key in old[block.a : block.a + block.size]
    }
    return [key for key in new if key not in stays]


# any record


def _of_fields(
    about: str, old: Any, new: Any, skip: Sequence[str] = (), prefix: str = ""
) -> Iterator[Difference]:
    """Yield what differs between two records of one type, field by field."""
    for field in msgspec.structs.fields(type(new)):
        name = field.name
        if name in skip:
            continue
        one, other = getattr(old, name), getattr(new, name)
        if one != other:
            label = f"{prefix}{name.rstrip('_').replace('_', ' ')}"
            yield from _of_value(about, name, label, one, other)


def _of_value(about: str, name: str, label: str, old: Any, new: Any) -> Iterator[Difference]:
    if isinstance(old, tuple) and isinstance(new, tuple) and not _is_plain(old + new):
        some = old + new
        if name in PARTS:
            yield from _of_lines(about, PARTS[name], old, new)
        elif name in ("behaviours", "own") or all(_is_known(one) for one in some):
            yield from (
                Difference(
                    about,
                    d.sort,
                    f"{d.about}: {d.words}"
                    if d.sort == "changed" or d.sort == "renamed"
                    else f"{d.about} {d.words}",
                )
                for d in _of_named(label.removesuffix("s"), old, new)
            )
        else:
            yield from _of_list(about, SINGULAR.get(label) or label.removesuffix("s"), old, new)
    elif isinstance(old, dict) and isinstance(new, dict):
        # of a behaviour, each setting by its name; else beside what the dictionary is called
        lead = "" if name == "slots" else f"{label} "
        for key in dict.fromkeys((*old, *new)):
            if key not in new:
                yield Difference(about, "changed", f"{lead}{key} no longer {_value(old[key])}")
            elif key not in old:
                yield Difference(about, "changed", f"{lead}{key}: {_value(new[key])}")
            elif old[key] != new[key]:
                yield Difference(about, "changed", f"{lead}{key}: {_value(old[key])} → {_value(new[key])}")
    elif isinstance(old, msgspec.Struct) and type(old) is type(new) and not isinstance(old, Expected):
        yield from _of_fields(about, old, new, prefix=f"{label} ")
    elif name in ("x", "y") and isinstance(old, float):
        yield Difference(about, "moved", f"{label}: {_said(old)} → {_said(new)}")
    elif name == "on":
        yield Difference(about, "changed", "switched on" if new else "switched off")
    elif name == "note":
        yield Difference(about, "changed", f"its note: {_said(old)} → {_said(new)}")
    else:
        yield Difference(about, "changed", f"{label}: {_said(old)} → {_said(new)}")


def _is_plain(some: Sequence[Any]) -> bool:
    """Return whether these are numbers, as of a place on a sheet: told as one value."""
    return bool(some) and all(isinstance(one, int | float) for one in some)


def _of_list(about: str, what: str, old: Sequence[Any], new: Sequence[Any]) -> Iterator[Difference]:
    """Yield what differs between two lists of things that have no name, by what they say."""
    before, after = Counter(map(_said, old)), Counter(map(_said, new))
    for words in (before - after).elements():
        yield Difference(about, "removed", f"{what} removed: {words}")
    for words in (after - before).elements():
        yield Difference(about, "added", f"{what} added: {words}")
    if before == after:
        yield Difference(about, "moved", f"{what}s in another order")


# rules and graphs


def _of_lines(about: str, part: str, old: Sequence[Clause], new: Sequence[Clause]) -> Iterator[Difference]:
    """Yield what differs between two lists of lines: those that stay tell which are new, gone, or say something else."""
    one, other = [_said(line) for line in old], [_said(line) for line in new]
    if one == other:
        yield Difference(about, "changed", f"{part}: the same words with other contents")
        return
    for tag, i1, i2, j1, j2 in difflib.SequenceMatcher(None, one, other, autojunk=False).get_opcodes():
        if tag == "equal":
            continue
        gone, come = list(range(i1, i2)), list(range(j1, j2))
        while gone and come and old[gone[0]].use == new[come[0]].use:
            at = come.pop(0)
            yield Difference(about, "changed", f"{part} {at + 1}: {one[gone.pop(0)]} → {other[at]}")
        yield from (Difference(about, "removed", f"{part} removed: {one[at]}") for at in gone)
        yield from (Difference(about, "added", f"{part} added: {other[at]}") for at in come)


def _of_order(before: Level, after: Level) -> Iterator[Difference]:
    """Yield what differs in the order list: sections, rules and graphs, and their places."""
    sections = [[e for e in level.order if isinstance(e, Section)] for level in (before, after)]
    yield from _of_named(
        "section", *([msgspec.structs.replace(s, rules=()) for s in some] for some in sections)
    )
    old, new = _placed(before), _placed(after)
    for number, (logic, _, _) in old.items():
        if number not in new:
            yield Difference(_about(logic), "removed", "removed")
    moved = set(_moved([k for k in old if k in new], [k for k in new if k in old]))
    for number, (logic, place, section) in new.items():
        about = _about(logic)
        if number not in old:
            where = f" in “{section}”" if section else ""
            yield Difference(about, "added", f"added as number {place}{where}")
            continue
        was, old_place, old_section = old[number]
        if type(was) is not type(logic):
            yield Difference(about, "changed", "now a graph" if isinstance(logic, Graph) else "now a rule")
            continue
        if was.name != logic.name:
            yield Difference(about, "renamed", f"renamed, was “{was.name}”")
        if section != old_section:
            yield Difference(
                about, "moved", f"moved {f'into “{section}”' if section else 'out of its section'}"
            )
        if number in moved:
            yield Difference(about, "moved", f"moved from {old_place} to {place}")
        yield from _of_fields(about, was, logic, skip=("id", "name"))
    if (
        not moved
        and [_entry(e) for e in before.order] != [_entry(e) for e in after.order]
        and _same_entries(before, after)
    ):
        yield Difference("the order list", "moved", "sections stand elsewhere")


def _entry(entry: Section | Logic) -> Any:
    return (entry.name, [rule.id for rule in entry.rules]) if isinstance(entry, Section) else entry.id


def _same_entries(before: Level, after: Level) -> bool:
    """Return whether both have the same sections with the same rules: then only where the sections stand can differ."""
    one, other = ([repr(_entry(e)) for e in level.order] for level in (before, after))
    return sorted(one) == sorted(other)


def _placed(level: Level) -> dict[int, tuple[Logic, int, str]]:
    """Return rules and graphs by id, with their number in the order list and their section."""
    found: dict[int, tuple[Logic, int, str]] = {}
    for number, (_, section, logic) in enumerate(all_logic(level), 1):
        found[logic.id] = logic, number, section.name if section is not None else ""
    return found


def _about(logic: Logic) -> str:
    return f"{'rule' if isinstance(logic, Rule) else 'graph'} “{logic.name}”"


# what things say


def _line_words(line: Clause) -> str:
    inner = "; ".join(_line_words(one) for one in line.of)
    return sentence(line) + (f" ({inner})" if inner else "") + (", once" if line.once else "")


SAID: dict[type, Callable[[Any], str]] = {
    Clause: _line_words,
    KeyBar: lambda bar: f"{bar.key} from {bar.start:g} to {bar.end:g} s",
    PointerMove: lambda move: (
        f"the pointer at {move.x:g}, {move.y:g} at {move.at:g} s" + (", gliding" if move.glide else "")
    ),
    Choice: lambda choice: f"“{choice.text}” at {choice.at:g} s",
    ClipPoint: lambda point: f"{point.x:g}, {point.y:g} turned {point.turn:g}° at {point.at:g} s",
    Wire: lambda wire: f"{wire.start} to {wire.end}",
}
"""By type: what one says of itself in a list."""


def _value(value: Any) -> str:
    """Return what stands in a slot as it is typed there; another value in words."""
    return value[:LONGEST] or "nothing" if isinstance(value, str) else _said(value)


def _said(value: Any) -> str:
    """Return a value in words, short."""
    if isinstance(value, Expected):
        return value.sentence() + (", whatever is pressed" if value.any_input else "")
    if type(value) in SAID:
        return SAID[type(value)](value)
    if isinstance(value, msgspec.Struct):
        fields = ((f.name, getattr(value, f.name), f.default) for f in msgspec.structs.fields(type(value)))
        return ", ".join(
            f"{name.rstrip('_')} {_said(one)}" for name, one, default in fields if one != default
        )
    if isinstance(value, dict):
        return ", ".join(f"{key} {_said(one)}" for key, one in value.items()) or "none"
    if isinstance(value, tuple):
        return ", ".join(map(_said, value)) or "none"
    if value is None:
        return "none"
    words = value if isinstance(value, str) else str(write_out(value))
    if isinstance(value, str):
        words = f"“{words[:LONGEST]}…”" if len(words) > LONGEST else f"“{words}”" if words else "nothing"
    return words
