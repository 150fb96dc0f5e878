"""What must be called or numbered otherwise before two versions of a level are merged.

What one side renamed is renamed in the other two versions as well, wherever it is spoken of: so a new rule of one side speaks of a
thing by the name that the other side has given it. Two new things that have one number or one name by chance get two.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import msgspec
from msgspec.structs import replace

from gatillo.inspect.merging.trees import same
from gatillo.language.renaming import Sort, rename
from gatillo.level.graph_edits import renumber_card
from gatillo.level.model import Graph, Level, Logic, Section
from gatillo.level.naming import FreeNames, token
from gatillo.level.roles import all_logic

SPARE = "x9x"
"""Begins a name that nothing has, for names that are given in turn."""


@dataclass(frozen=True, slots=True)
class Renaming:
    """A thing that a side calls otherwise than the version both come from; `kind` owns what belongs to a kind."""

    sort: Sort
    old: str
    new: str
    kind: str = ""

    def done(self, level: Level) -> Level:
        """Return a level with the thing renamed wherever it is spoken of."""
        return rename(level, self.sort, self.old, self.new, kind=self.kind)


@dataclass(frozen=True, slots=True)
class _Named:
    """A sort of things: where they are in a level, and by what each is known."""

    sort: Sort
    of: Callable[[Level], Sequence[Any]]
    by_id: bool = False
    kind: str = ""


def _sorts(level: Level) -> Iterator[_Named]:
    yield _Named("object", lambda lv: lv.objects, by_id=True)
    yield _Named("rule", lambda lv: [logic for _, _, logic in all_logic(lv)], by_id=True)
    yield _Named("kind", lambda lv: lv.kinds)
    yield _Named("level variable", lambda lv: lv.variables)
    yield _Named("place", lambda lv: lv.places)
    yield _Named("clip", lambda lv: lv.clips)
    yield _Named("trial", lambda lv: lv.trials)
    yield _Named("variant", lambda lv: lv.variants)
    yield _Named("section", lambda lv: [replace(e, rules=()) for e in lv.order if isinstance(e, Section)])
    for kind in level.kinds:
        for sort, field in _OF_KINDS.items():
            yield _Named(sort, _of_kind(kind.name, field), kind=kind.name)


_OF_KINDS: dict[Sort, str] = {
    "kind variable": "variables",
    "point": "points",
    "look": "looks",
    "topic": "topics",
}


def _of_kind(name: str, field: str) -> Callable[[Level], Sequence[Any]]:
    return lambda lv: next((getattr(k, field) for k in lv.kinds if k.name == name), ())


def renamings(base: Level, side: Level, *, of_kinds: bool = False) -> list[Renaming]:
    """Return what a side calls otherwise than the base: what has an id by its id; else by what it is and where it stands.

    With `of_kinds` only what belongs to kinds, which must have the same names in both; else only the rest.
    """
    return [
        Renaming(named.sort, old, new, named.kind)
        for named in _sorts(base)
        if bool(named.kind) == of_kinds
        for old, new in (_by_id if named.by_id else _by_place)(base, side, named)
    ]


def _by_id(base: Level, side: Level, named: _Named) -> list[tuple[str, str]]:
    names = {thing.id: thing.name for thing in named.of(base)}
    return [(names[o.id], o.name) for o in named.of(side) if o.id in names and o.name != names[o.id]]


def _by_place(base: Level, side: Level, named: _Named) -> list[tuple[str, str]]:
    """Return what stands under another name where a thing stood that is gone, and is as that thing would be under this name."""
    old, new = named.of(base), named.of(side)
    before, after = {thing.name for thing in old}, {thing.name for thing in new}
    gone = {_stands_after(old, thing, after): thing for thing in old if thing.name not in after}
    found = []
    for thing in new:
        was = gone.get(_stands_after(new, thing, before)) if thing.name not in before else None
        if was is None or type(was) is not type(thing):
            continue
        renamed = Renaming(named.sort, was.name, thing.name, named.kind).done(base)
        same_now = next((one for one in named.of(renamed) if one.name == thing.name), None)
        if (
            same_now is not None
            and _likeness(same_now, thing) >= 0.5
            and (same(_tree(same_now), _tree(thing)) or _nearer(base, renamed, side))
        ):
            found.append((was.name, thing.name))
    return found


def _stands_after(things: Sequence[Any], thing: Any, known: set[str]) -> tuple[str, int]:
    """Return the thing before one that both versions have, and how many others stand between."""
    at = next(number for number, one in enumerate(things) if one.name == thing.name)
    for before in range(at - 1, -1, -1):
        if things[before].name in known:
            return things[before].name, at - before
    return "", at


def _likeness(one: Any, other: Any) -> float:
    """Return what part of what two things say is the same, but for what they are called."""
    a, b = _tree(one), _tree(other)
    fields = {*a, *b} - {"name", "is"}
    return sum(a.get(f) == b.get(f) for f in fields) / len(fields) if fields else 1.0


def _nearer(base: Level, renamed: Level, side: Level) -> bool:
    """Return whether fewer things differ from a side's when a thing has been renamed."""
    return _unlike(renamed, side) < _unlike(base, side)


def _unlike(one: Level, other: Level) -> int:
    def parts(level: Level) -> set[bytes]:
        lists = (level.kinds, level.places, level.objects, level.trials, level.variants, level.variables)
        logic = [found for _, _, found in all_logic(level)]
        return {msgspec.json.encode(thing) for some in (*lists, logic) for thing in some}

    return len(parts(other) - parts(one))


def _tree(thing: Any) -> Any:
    return msgspec.to_builtins(thing)


def in_turn(level: Level, some: Sequence[Renaming]) -> Level:
    """Return a level with things renamed; two can change their names with one another."""
    spare = []
    for number, one in enumerate(some):
        if any(one.new == other.old and one.sort == other.sort for other in some[number + 1 :]):
            level = replace_name(one, new=f"{SPARE} {number}").done(level)
            spare.append(replace_name(one, old=f"{SPARE} {number}"))
        else:
            level = one.done(level)
    for one in spare:
        level = one.done(level)
    return level


def replace_name(one: Renaming, old: str = "", new: str = "") -> Renaming:
    """Return a renaming from another name or to another."""
    return Renaming(one.sort, old or one.old, new or one.new, one.kind)


def names_of(level: Level, sort: Sort, kind: str = "") -> list[str]:
    """Return the names of a level's things of a sort."""
    named = next((n for n in _sorts(level) if n.sort == sort and n.kind == kind), None)
    return [thing.name for thing in named.of(level)] if named else []


# new things of both sides


def numbers_apart(base: Level, ours: Level, theirs: Level) -> tuple[Level, Level]:
    """Return both sides with new numbers for what each has added under a number that the other gave to another thing."""
    ours, theirs = _objects_apart(base, ours, theirs)
    ours, theirs = _logic_apart(base, ours, theirs)
    return _cards_apart(base, ours, theirs)


def _clash(base: Sequence[Any], ours: Sequence[Any], theirs: Sequence[Any]) -> tuple[set[int], bool, int]:
    """Return the numbers that both sides gave to new things, whether it is ours that give way, and the next free number."""
    known = {thing.id for thing in base}
    mine, other = ({t.id: t for t in side if t.id not in known} for side in (ours, theirs))
    twice = {n for n in mine if n in other and not same(_tree(mine[n]), _tree(other[n]))}
    texts = [msgspec.json.encode([side[n] for n in sorted(twice)]) for side in (mine, other)]
    return twice, texts[0] > texts[1], max([0, *known, *mine, *other]) + 1


def _anew(twice: set[int], free: int) -> dict[int, int]:
    return {number: free + at for at, number in enumerate(sorted(twice))}


def _objects_apart(base: Level, ours: Level, theirs: Level) -> tuple[Level, Level]:
    twice, ours_give_way, free = _clash(base.objects, ours.objects, theirs.objects)
    numbers = _anew(twice, free)

    def anew(level: Level) -> Level:
        objects = tuple(replace(o, id=numbers.get(o.id, o.id)) for o in level.objects)
        return replace(level, objects=objects) if twice else level

    return (anew(ours), theirs) if ours_give_way else (ours, anew(theirs))


def _logic(level: Level) -> list[Logic]:
    return [logic for _, _, logic in all_logic(level)]


def _logic_apart(base: Level, ours: Level, theirs: Level) -> tuple[Level, Level]:
    twice, ours_give_way, free = _clash(*map(_logic, (base, ours, theirs)))
    numbers = _anew(twice, free)

    def anew(level: Level) -> Level:
        return (
            changed_logic(level, lambda one: replace(one, id=numbers.get(one.id, one.id))) if twice else level
        )

    return (anew(ours), theirs) if ours_give_way else (ours, anew(theirs))


def changed_logic(level: Level, change: Callable[[Logic], Logic]) -> Level:
    """Return a level with each of its rules and graphs changed."""
    order = tuple(
        replace(entry, rules=tuple(map(change, entry.rules))) if isinstance(entry, Section) else change(entry)
        for entry in level.order
    )
    return replace(level, order=order)


def _cards_apart(base: Level, ours: Level, theirs: Level) -> tuple[Level, Level]:
    known = {logic.id: logic.nodes for logic in _logic(base) if isinstance(logic, Graph)}
    other = {logic.id: logic.nodes for logic in _logic(theirs) if isinstance(logic, Graph)}
    for graph in _logic(ours):
        if not isinstance(graph, Graph) or graph.id not in other:
            continue
        twice, ours_give_way, free = _clash(known.get(graph.id, ()), graph.nodes, other[graph.id])
        for number, new in _anew(twice, free).items():
            if ours_give_way:
                ours = renumber_card(ours, graph.id, number, new)
            else:
                theirs = renumber_card(theirs, graph.id, number, new)
    return ours, theirs


def names_apart(base: Level, ours: Level, theirs: Level) -> tuple[Level, Level]:
    """Return both sides with another name for what each has called by a name that the other gave to another thing."""
    ours, theirs = _given_again(base, ours, theirs), _given_again(base, theirs, ours)
    mine, other = _new_names(base, ours), _new_names(base, theirs)
    taken = FreeNames({name for level in (ours, theirs, base) for name in _every_name(level)})
    for key in sorted(mine.keys() & other.keys()):
        one, two = mine[key], other[key]
        if one.was == two.was:
            continue
        # a kind keeps its name, for objects are called after it
        if (two.sort == "kind", two.says) > (one.sort == "kind", one.says):
            ours = Renaming(one.sort, one.name, taken.take(one.name)).done(ours)
        else:
            theirs = Renaming(two.sort, two.name, taken.take(two.name)).done(theirs)
    return ours, theirs


def _given_again(base: Level, side: Level, other: Level) -> Level:
    """Return a side with another name for what is new and has the name of a thing that it removed and the other side changed.

    That thing stays, so two would have one name.
    """
    taken = FreeNames({name for level in (base, side, other) for name in _every_name(level)})
    for named in filter(lambda one: one.by_id, _sorts(base)):
        old = {thing.id: thing for thing in named.of(base)}
        here = {thing.id for thing in named.of(side)}
        kept = {
            token(thing.name)
            for thing in named.of(other)
            if thing.id in old and thing.id not in here and thing != old[thing.id]
        }
        for thing in named.of(side):
            if thing.id not in old and token(thing.name) in kept:
                side = Renaming(named.sort, thing.name, taken.take(thing.name)).done(side)
    return side


@dataclass(frozen=True, slots=True)
class _New:
    """A name that the base has not: of what, what that thing was there (its id or its old name), and what it says."""

    sort: Sort
    name: str
    was: tuple[Sort, int | str]
    says: bytes


def _new_names(base: Level, side: Level) -> dict[tuple[str, str], _New]:
    """Return the names that a side has and the base has not, by what shares them: a kind and an object cannot have one name."""
    known = {
        (_shared(named.sort), token(t.name))
        for named in _sorts(base)
        if not named.kind
        for t in named.of(base)
    }
    old = {(one.sort, one.new): one.old for one in renamings(base, side)}
    found: dict[tuple[str, str], _New] = {}
    for named in _sorts(side):
        for thing in () if named.kind else named.of(side):
            key = _shared(named.sort), token(thing.name)
            was = thing.id if named.by_id else old.get((named.sort, thing.name), thing.name)
            if key not in known:
                found[key] = _New(named.sort, thing.name, (named.sort, was), msgspec.json.encode(thing))
    return found


def _shared(sort: Sort) -> str:
    return "object" if sort == "kind" else sort


def _every_name(level: Level) -> list[str]:
    return [thing.name for named in _sorts(level) for thing in named.of(level)]
