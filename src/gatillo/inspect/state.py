"""What differs between the states of two runs at one tick, found by walking over the declared state.

Columns (sim/world/columns.py) and records (sim/world/records.py) say what each of their parts is to a person. Rules are matched
by their ids, objects by theirs. What only one of the two levels has (a rule, a variable, an area that a rule asks about) is no difference.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, fields, is_dataclass
from typing import Any, get_args, get_type_hints

import numpy as np

from gatillo.inspect.value_words import value_words
from gatillo.level.naming import spoken
from gatillo.sim.program.bodies import WALK
from gatillo.sim.world.columns import COLUMNS
from gatillo.sim.world.records import By, Part, Sort
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
    kept = _memory_columns(before) | _memory_columns(after)
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


def _memory_columns(world: World) -> set[str]:
    """Return the columns in which behaviours remember numbers from tick to tick."""
    return {column for b in world.program.behaviours for column in b.remembered.values()} | set(WALK.values())


# what is stored beside the columns


def _of_part(part: Part, before: World, after: World, of: Callable[[World], Any]) -> Iterator[Parted]:
    keyed = KEYED[part.by]
    mine, theirs = (keyed.split(world, of(world)) for world in (before, after))
    for key in dict.fromkeys((*mine, *theirs)):
        known = keyed.known(before, key)
        if known is None or known != keyed.known(after, key):
            continue
        one, other = mine.get(key, _MISSING), theirs.get(key, _MISSING)
        if one is _MISSING or other is _MISSING or not _same(one, other):
            name, object_id = keyed.named(part, key, before)
            yield _parted(before, after, name, one, other, object_id)


class Keyed:
    """How a part of the state is compared that is one value as a whole; subclasses, by what others are stored."""

    def split(self, world: World, value: Any) -> dict[Any, Any]:
        """Return the part's values by keys that mean the same in both worlds."""
        return {None: value}

    def known(self, world: World, key: Any) -> Any:
        """Return what a world must have in common with the other for a key to be compared; None if it does not know the key."""
        return True

    def named(self, part: Part, key: Any, world: World) -> tuple[str, int | None]:
        """Return what the part is called for a key, and the object it is about."""
        return part.says, None


class ByObject(Keyed):
    """A value for each object."""

    def split(self, world: World, value: Any) -> dict[Any, Any]:
        """Return the values by ids."""
        return dict(value)

    def known(self, world: World, key: Any) -> Any:
        """Return True if the object is there."""
        return True if world.row_of_id(key) >= 0 else None

    def named(self, part: Part, key: Any, world: World) -> tuple[str, int | None]:
        """Return the object's name with what is stored for it."""
        name = world.name_of(key)
        return part.says.replace(" it ", f" {name} ") if " it " in part.says else f"{name}.{part.says}", key


class ByObjectAndName(Keyed):
    """A value for each object and name, such as how many of an item it holds."""

    def split(self, world: World, value: Any) -> dict[Any, Any]:
        """Return the values by id and name."""
        return dict(value)

    def named(self, part: Part, key: Any, world: World) -> tuple[str, int | None]:
        """Return the object's name with the name."""
        object_id, name = key
        return f"{world.name_of(object_id)}.{name} held", object_id


class ByName(Keyed):
    """A value for each name, such as a timer's or a message's."""

    def split(self, world: World, value: Any) -> dict[Any, Any]:
        """Return the values by names."""
        return dict(value)

    def named(self, part: Part, key: Any, world: World) -> tuple[str, int | None]:
        """Return the part with the name."""
        return f"{part.says} {key}", None


class ByArea(ByName):
    """The objects in each area."""

    def known(self, world: World, key: Any) -> Any:
        """Return the kinds about which some rule asks whether they are in the area."""
        return _asks_about(world, key)


class ByPair(Keyed):
    """Pairs of objects, as id_a << 32 | id_b."""

    def split(self, world: World, value: Any) -> dict[Any, Any]:
        """Return the pairs, each with True."""
        return {(code >> 32, code & 0xFFFFFFFF): True for code in value.tolist()}

    def known(self, world: World, key: Any) -> Any:
        """Return True if some rule asks about the contact of the two."""
        return True if _senses(world, key) else None

    def named(self, part: Part, key: Any, world: World) -> tuple[str, int | None]:
        """Return both names with what is stored for them."""
        return f"{' and '.join(map(world.name_of, key))}, {part.says}", None


class OfPointer(Keyed):
    """What is found for the pointer, where some rule asks about it."""

    def known(self, world: World, key: Any) -> Any:
        """Return True if some rule asks what is under the pointer."""
        return True if "under" in world.program.tick_tables.needs else None


class ByRule(Keyed):
    """Values for each rule: its index becomes its id, and what else is in the key goes to the value."""

    def items(self, world: World, value: Any) -> Iterator[tuple[int, Any]]:
        """Yield each value with the id of the rule that it is about."""
        for key, one in value.items():
            index, rest = (key[0], key[1:]) if isinstance(key, tuple) else (key, ())
            yield world.program.rules[index].source.id, (rest, one)

    def split(self, world: World, value: Any) -> dict[Any, Any]:
        """Return lists of values by ids of rules, in an order that does not depend on the order of the rules."""
        found: dict[Any, Any] = {}
        for rule_id, one in self.items(world, value):
            found.setdefault(rule_id, []).append(one)
        return {rule_id: sorted(values, key=repr) for rule_id, values in found.items()}

    def known(self, world: World, key: Any) -> Any:
        """Return True if the level has the rule."""
        return True if any(rule.source.id == key for rule in world.program.rules) else None

    def named(self, part: Part, key: Any, world: World) -> tuple[str, int | None]:
        """Return the rule's name with what is stored for it."""
        name = next(rule.source.name for rule in world.program.rules if rule.source.id == key)
        return f"“{name}”, {part.says}", None


class ByCard(ByRule):
    """Values for each card of a graph, by the graph's id."""

    def items(self, world: World, value: Any) -> Iterator[tuple[int, Any]]:
        """Yield each value with the graph's id."""
        for (graph, number), one in value.items():
            yield graph, (number, one)


class ByWait(ByRule):
    """The waits of each rule."""

    def items(self, world: World, value: Any) -> Iterator[tuple[int, Any]]:
        """Yield what each wait holds, but for its place among all waits."""
        for wait in value:
            names = [f.name for f in fields(wait) if f.name not in ("serial", "rule_index")]
            yield world.program.rules[wait.rule_index].source.id, [getattr(wait, name) for name in names]


class ByAlarm(ByRule):
    """The next times of each rule's occasions."""

    def items(self, world: World, value: Any) -> Iterator[tuple[int, Any]]:
        """Yield each time with its line."""
        for due, number in value:
            alarm = world.program.alarms[number]
            yield world.program.rules[alarm.rule_index].source.id, (alarm.line, due)


KEYED: dict[By, Keyed] = {
    "": Keyed(),
    "object": ByObject(),
    "object and name": ByObjectAndName(),
    "name": ByName(),
    "area": ByArea(),
    "pair": ByPair(),
    "pointer": OfPointer(),
    "rule": ByRule(),
    "rule and card": ByRule(),
    "line": ByRule(),
    "card": ByCard(),
    "wait": ByWait(),
    "alarm": ByAlarm(),
}
"""How parts of the state are compared, by what they are stored by."""
if missing := set(get_args(By)) ^ set(KEYED):
    raise TypeError(f"nothing says how to compare what is stored by {sorted(missing)}")


def _senses(world: World, pair: tuple[int, int]) -> bool:
    """Return whether some rule asks about the contact of two objects."""
    rows = [world.row_of_id(one) for one in pair]
    if min(rows) < 0:
        return False
    one, other = world.kind[rows].tolist()
    return bool(world.program.tick_tables.senses[one, other])


def _asks_about(world: World, area: str) -> tuple[str, ...]:
    """Return the kinds about which some rule asks whether they are in an area."""
    asked = world.program.tick_tables.areas_asked.get(area)
    kinds = world.program.kinds
    return () if asked is None else tuple(kind.name for kind, yes in zip(kinds, asked, strict=True) if yes)


def _parted(
    before: World, after: World, name: str, one: Any, other: Any, object_id: int | None = None
) -> Parted:
    return Parted(before.tick, name, _words(before, one), _words(after, other), object_id)


def _same(one: Any, other: Any) -> bool:
    if type(one) is type(other) and isinstance(one, bool | int | float | complex | str):
        return bool(one == other)
    return written(one) == written(other)


def _words(world: World, value: Any) -> str:
    """Return a value in words, cut where it is long."""
    if value is _MISSING or value is None:
        return "nothing"
    if isinstance(value, np.generic):
        value = value.item()
    if isinstance(value, bool | int | float | complex | str):
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
    elif isinstance(value, tuple) and hasattr(value, "_fields"):
        hints = get_type_hints(type(value), include_extras=True)
        inner = [
            _listed(one)
            if hints[name] is str
            else " ".join((name, _listed(one), *getattr(hints[name], "__metadata__", ())))
            for name, one in zip(value._fields, value, strict=True)
        ]
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
