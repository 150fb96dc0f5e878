"""What differs between the states of two runs at one tick, found by walking the state as it is declared.

Columns (sim/world/columns.py) and records (sim/world/records.py) say what each of their parts is to a person. Rules are matched
by their ids, objects by theirs. What only one of the two levels has (a rule, a variable, an area that a rule asks about) is no difference.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, fields, is_dataclass
from typing import Any

import numpy as np

from gatillo.inspect.value_words import value_words
from gatillo.level.naming import spoken
from gatillo.sim.program.bodies import WALK
from gatillo.sim.world.columns import COLUMNS
from gatillo.sim.world.records import Part, Sort
from gatillo.sim.world.snapshot import written
from gatillo.sim.world.world import PARTS, RECORDS, World

LONGEST = 60
"""Letters that are shown of a value that is more than one number or text."""
_MISSING = object()


@dataclass(frozen=True, slots=True)
class Parted:
    """A value that is not the same in both runs at the end of a tick."""

    tick: int
    name: str
    """Such as `level.pods` or `Pod 3.x`; for an object that only one has: its name."""
    before: str
    after: str
    object_id: int | None = None

    def sentence(self) -> str:
        """Return what parted, and how."""
        return f"{self.name} was {self.before}, now {self.after}, at the end of tick {self.tick}"


def differences(before: World, after: World, sort: Sort = "value") -> Iterator[Parted]:
    """Yield what differs between two worlds at the same tick: of the values of the level, or of what it remembers.

    Values come in this order: variables of the level, which objects are there, what objects have, and all else.
    """
    if sort == "value":
        yield from of_level_and_objects(before, after)
    else:
        yield from _of_objects(before, after, sort)
    for name, part in PARTS.items():
        if part.sort == sort and name not in ("level", "tags"):
            yield from _of_part(part, before, after, lambda world, n=name: getattr(world, n))  # type: ignore[misc]
    for name, record in RECORDS.items():
        for field in fields(record):
            part = field.metadata["part"]
            if part.sort == sort:
                yield from _of_part(
                    part,
                    before,
                    after,
                    lambda world, n=name, f=field.name: getattr(getattr(world, n), f),  # type: ignore[misc]
                )


def of_level_and_objects(before: World, after: World) -> Iterator[Parted]:
    """Yield the values that differ of the level's variables and of objects: which are there, and what they have."""
    for name, value in before.level.items():
        if name in after.level and not _same(value, after.level[name]):
            yield _parted(before, after, f"level.{name}", value, after.level[name])
    yield from _who_is_there(before, after)
    yield from _of_objects(before, after, "value")


def _who_is_there(before: World, after: World) -> Iterator[Parted]:
    mine, theirs = before.id[before.alive], after.id[after.alive]
    for object_id in np.setxor1d(mine, theirs).tolist():
        there = before.row_of_id(object_id) >= 0
        name = (before if there else after).name_of(object_id)
        words = ("there", "not there") if there else ("not there", "there")
        yield Parted(before.tick, name, *words, object_id)


def _of_objects(before: World, after: World, sort: Sort) -> Iterator[Parted]:
    """Yield what differs of the objects that both have: columns, variables, settings, and tags."""
    both = np.intersect1d(before.id[before.alive], after.id[after.alive])
    rows, others = before.rows_of_ids(both), after.rows_of_ids(both)
    columns = [
        (spoken(name), getattr(before, name)[rows], getattr(after, name)[others])
        for name, column in COLUMNS.items()
        if column.sort == sort and name not in ("kind", "alive")
    ]
    if sort == "value":
        names = [[kind.name for kind in world.program.kinds] for world in (before, after)]
        columns.append(
            (
                "kind",
                np.array(names[0], dtype=object)[before.kind[rows]],
                np.array(names[1], dtype=object)[after.kind[others]],
            )
        )
        columns += [
            (f"tag {tag}", before.tagged(tag)[rows], after.tagged(tag)[others])
            for tag in dict.fromkeys((*before.tags, *after.tags))
        ]
    kept = _kept_by_behaviours(before) | _kept_by_behaviours(after)
    columns += [
        (spoken(key.partition("/")[0]), column[rows], after.variables[key][others])
        for key, column in before.variables.items()
        if key in after.variables and sort == ("memory" if key in kept else "value")
    ]
    for name, one, other in columns:
        for at in np.flatnonzero(one != other).tolist():
            who = before.name_of(int(both[at]))
            yield Parted(
                before.tick, f"{who}.{name}", _words(before, one[at]), _words(after, other[at]), int(both[at])
            )


def _kept_by_behaviours(world: World) -> set[str]:
    """Return the columns in which behaviours remember numbers from tick to tick."""
    return {column for b in world.program.behaviours for column in b.remembered.values()} | set(WALK.values())


# what is kept beside the columns


def _of_part(part: Part, before: World, after: World, of: Callable[[World], Any]) -> Iterator[Parted]:
    mine, theirs = (_by_key(part, world, of(world)) for world in (before, after))
    for key in dict.fromkeys((*mine, *theirs)):
        if not _both_know(key, before, after):
            continue
        one, other = mine.get(key, _MISSING), theirs.get(key, _MISSING)
        if one is _MISSING or other is _MISSING or not _same(one, other):
            name, object_id = _named(part, key, before, after)
            yield _parted(before, after, name, one, other, object_id)


Key = tuple[str, Any]
"""What something is kept by (`all`, `object`, `object and name`, `name`, `rule`, `pair`, `area`, `pointer`), and which."""


def _by_key(part: Part, world: World, value: Any) -> dict[Key, Any]:
    """Return a part of the state by what it is kept by; places in the order list become the ids of rules."""
    rules = world.program.rules

    def rule(rule_index: int) -> int:
        return rules[rule_index].source.id

    found: dict[Key, Any] = {}
    if part.by == "":
        found["all", None] = value
    elif part.by in ("object", "object and name", "name"):
        found.update({(part.by, key): one for key, one in value.items()})
    elif part.by in ("rule", "rule and card", "line"):
        for key, one in value.items():
            place, rest = (key[0], key[1:]) if isinstance(key, tuple) else (key, ())
            found.setdefault(("rule", rule(place)), []).append((rest, one))
    elif part.by == "pair":
        found.update({("pair", (code >> 32, code & 0xFFFFFFFF)): True for code in value.tolist()})
    elif part.by == "area":
        found.update({("area", area): ids for area, ids in value.items()})
    elif part.by == "pointer":
        found["pointer", None] = value
    elif part.by == "card":
        for (graph, number), one in value.items():
            found.setdefault(("rule", graph), []).append((number, one))
    elif part.by == "wait":
        for wait in value:
            of_wait = [getattr(wait, f.name) for f in fields(wait) if f.name not in ("serial", "rule_index")]
            found.setdefault(("rule", rule(wait.rule_index)), []).append(of_wait)
    elif part.by == "alarm":
        for due, number in value:
            alarm = world.program.alarms[number]
            found.setdefault(("rule", rule(alarm.rule_index)), []).append((alarm.line, due))
    else:
        raise TypeError(f"nothing says how to compare what is kept by {part.by!r}")
    return {key: sorted(one, key=repr) if key[0] == "rule" else one for key, one in found.items()}


def _both_know(key: Key, before: World, after: World) -> bool:
    """Return whether both levels have the rule, or ask about the area, by which something is kept."""
    sort, of = key
    worlds = (before, after)
    if sort == "rule":
        return all(any(rule.source.id == of for rule in world.program.rules) for world in worlds)
    if sort == "object":
        return all(world.row_of_id(of) >= 0 for world in worlds)
    if sort == "pair":
        return all(_senses(world, of) for world in worlds)
    if sort == "area":
        return len({_asks_about(world, of) for world in worlds}) == 1
    if sort == "pointer":
        return all("under" in world.program.tick_tables.needs for world in worlds)
    return True


def _senses(world: World, pair: tuple[int, int]) -> bool:
    """Return whether some rule wants to know of the contact of two objects."""
    rows = [world.row_of_id(one) for one in pair]
    if min(rows) < 0:
        return False
    one, other = world.kind[rows].tolist()
    return bool(world.program.tick_tables.senses[one, other])


def _asks_about(world: World, area: str) -> tuple[str, ...]:
    """Return the kinds of which some rule wants to know whether they are in an area."""
    asked = world.program.tick_tables.areas_asked.get(area)
    kinds = world.program.kinds
    return () if asked is None else tuple(kind.name for kind, yes in zip(kinds, asked, strict=True) if yes)


def _named(part: Part, key: Key, before: World, after: World) -> tuple[str, int | None]:
    """Return what a part is called for a key, and the object it is about."""
    sort, of = key
    if sort == "object":
        name = before.name_of(of)
        return part.says.replace(" it ", f" {name} ") if " it " in part.says else f"{name}.{part.says}", of
    if sort == "object and name":
        object_id, name = of
        return f"{before.name_of(object_id)}.{name} held", object_id
    if sort in ("name", "area"):
        return f"{part.says} {of}", None
    if sort == "pair":
        return f"{' and '.join(map(before.name_of, of))}, {part.says}", None
    if sort == "rule":
        name = next(rule.source.name for rule in after.program.rules if rule.source.id == of)
        return f"“{name}”, {part.says}", None
    return part.says, None


def _parted(
    before: World, after: World, name: str, one: Any, other: Any, object_id: int | None = None
) -> Parted:
    return Parted(before.tick, name, _words(before, one), _words(after, other), object_id)


def _same(one: Any, other: Any) -> bool:
    if type(one) is type(other) and isinstance(one, bool | int | float | str):
        return bool(one == other)
    return written(one) == written(other)


def _words(world: World, value: Any) -> str:
    """Return a value in words, cut where it is long."""
    if value is _MISSING or value is None:
        return "nothing"
    if isinstance(value, np.generic):
        value = value.item()
    if isinstance(value, bool | int | float | str):
        return value_words(value)
    words = _listed(value)
    return words if len(words) <= LONGEST else words[: LONGEST - 1] + "…"


def _listed(value: Any) -> str:
    if isinstance(value, np.generic):
        value = value.item()
    if isinstance(value, np.ndarray):
        value = value.tolist()
    if isinstance(value, dict):
        inner = [f"{_listed(key)}: {_listed(one)}" for key, one in value.items()]
    elif isinstance(value, tuple | list):
        inner = [_listed(one) for one in value]
    elif isinstance(value, set | frozenset):
        inner = sorted(map(_listed, value))
    elif is_dataclass(value) and not isinstance(value, type):
        inner = [f"{spoken(field.name)} {_listed(getattr(value, field.name))}" for field in fields(value)]
    elif isinstance(value, str):
        return f"“{value}”"
    else:
        return value_words(value) if value is not None else "nothing"
    return ", ".join(inner) or "nothing"
