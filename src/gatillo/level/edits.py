"""Edits: functions from a level to a level. None of them changes the level it is given."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterator
from typing import Any, Literal

import msgspec
from msgspec.structs import replace

from gatillo.level.model import Clause, Input, Level, Logic, Object, Rule, Section, Trial, Variant
from gatillo.level.naming import free_name
from gatillo.level.tidying import tidied

Part = Literal["when", "if", "do", "else"]
_FIELD = {"when": "when", "if": "if_", "do": "do", "else": "else_"}


def same(one: Level, other: Level) -> bool:
    """Return whether two levels are the same document. Python takes 0.0 and False for equal; a document does not."""
    if one is other:
        return True
    return one == other and msgspec.json.encode(one) == msgspec.json.encode(other)


# objects


def change_objects(level: Level, ids: Collection[int], change: Callable[[Object], Object]) -> Level:
    """Return the level with some objects changed."""
    objects = tuple([change(o) if o.id in ids else o for o in level.objects])
    return replace(level, objects=objects)


def move_objects(level: Level, ids: Collection[int], dx: float, dy: float) -> Level:
    """Move where objects start, by level units."""
    return change_objects(level, ids, lambda o: replace(o, x=round(o.x + dx, 3), y=round(o.y + dy, 3)))


def set_object(level: Level, object_id: int, **fields: Any) -> Level:
    """Give fields of one object new values."""
    return change_objects(level, (object_id,), lambda o: replace(o, **fields))


def free_object_id(level: Level) -> int:
    """Return an id younger than every object's."""
    return max((o.id for o in level.objects), default=0) + 1


def place_object(level: Level, kind: str, x: float, y: float) -> tuple[Level, int]:
    """Put a new object of a kind at a point; the level and the object's id."""
    taken = {o.name for o in level.objects} | {k.name for k in level.kinds}
    new = Object(
        id=free_object_id(level), kind=kind, name=free_name(kind, taken), x=round(x, 3), y=round(y, 3)
    )
    return replace(level, objects=(*level.objects, new)), new.id


def duplicate_objects(level: Level, ids: Collection[int], dx: float, dy: float) -> tuple[Level, list[int]]:
    """Copy objects, set off by dx, dy; the level and the ids of the copies."""
    made: list[int] = []
    for original in [o for o in level.objects if o.id in ids]:
        taken = {o.name for o in level.objects} | {k.name for k in level.kinds}
        copy = replace(
            original,
            id=free_object_id(level),
            name=free_name(original.kind, taken),
            x=round(original.x + dx, 3),
            y=round(original.y + dy, 3),
        )
        level = replace(level, objects=(*level.objects, copy))
        made.append(copy.id)
    return level, made


def delete_objects(level: Level, ids: Collection[int]) -> Level:
    """Take objects out of the level; what was attached to them stands by itself."""
    return tidied(replace(level, objects=tuple(o for o in level.objects if o.id not in ids)))


# rules


def change_rule(level: Level, rule_id: int, change: Callable[[Rule], Rule]) -> Level:
    """Return the level with one rule changed. Raises KeyError if there is no rule of that id."""

    def changed(entry: Logic) -> Logic:
        if not isinstance(entry, Rule):
            raise KeyError(f"“{entry.name}” is a graph, not a rule")
        return change(entry)

    return change_logic(level, rule_id, changed)


def change_logic(level: Level, rule_id: int, change: Callable[[Logic], Logic]) -> Level:
    """Return the level with one rule or graph changed. Raises KeyError if there is none of that id."""
    found = False
    order: list[Section | Logic] = []
    for entry in level.order:
        if isinstance(entry, Section):
            rules = tuple(change(r) if r.id == rule_id else r for r in entry.rules)
            found |= any(r.id == rule_id for r in entry.rules)
            order.append(replace(entry, rules=rules) if rules != entry.rules else entry)
        else:
            found |= entry.id == rule_id
            order.append(change(entry) if entry.id == rule_id else entry)
    if not found:
        raise KeyError(f"there is no rule with the id {rule_id}")
    return replace(level, order=tuple(order))


def switch_rule(level: Level, rule_id: int, on: bool) -> Level:
    """Switch a rule or a graph on or off."""
    return change_logic(level, rule_id, lambda r: replace(r, on=on))


def switch_section(level: Level, name: str, on: bool) -> Level:
    """Switch a section on or off."""
    order = tuple(replace(e, on=on) if isinstance(e, Section) and e.name == name else e for e in level.order)
    return replace(level, order=order)


def clauses_of(rule: Rule, part: Part) -> tuple[Clause, ...]:
    """Return the lines of one part of a rule."""
    clauses: tuple[Clause, ...] = getattr(rule, _FIELD[part])
    return clauses


def line_at(rule: Rule, part: Part, line: int, within: tuple[int, ...] = ()) -> Clause:
    """Return a line of a rule; `within` leads to a line within a group or a repeat, number by number."""
    clause = clauses_of(rule, part)[line]
    for at in within:
        clause = clause.of[at]
    return clause


def place_of(part: str, path: tuple[int, ...]) -> str:
    """Return where a line is as a person counts: `do 3.1` for the first line within the third."""
    return f"{part} {'.'.join(str(at + 1) for at in path)}"


def every_line(
    clauses: tuple[Clause, ...], before: tuple[int, ...] = ()
) -> Iterator[tuple[tuple[int, ...], Clause]]:
    """Yield lines and those within them, each with its place: (2,) is the third, (2, 0) the first within it."""
    for at, clause in enumerate(clauses):
        yield (*before, at), clause
        yield from every_line(clause.of, (*before, at))


def _changed_within(
    clause: Clause, within: tuple[int, ...], change: Callable[[Clause], Clause | None]
) -> Clause | None:
    """Return the clause with a line within it changed; a line changed to None is removed."""
    if not within:
        return change(clause)
    inner = [
        _changed_within(c, within[1:], change) if at == within[0] else c for at, c in enumerate(clause.of)
    ]
    return replace(clause, of=tuple(c for c in inner if c is not None))


def change_line_at(
    level: Level,
    rule_id: int,
    part: Part,
    line: int,
    within: tuple[int, ...],
    change: Callable[[Clause], Clause | None],
) -> Level:
    """Return the level with one line of a rule changed, or removed where `change` gives None."""

    def changed(rule: Rule) -> Rule:
        found = [
            _changed_within(c, within, change) if at == line else c
            for at, c in enumerate(clauses_of(rule, part))
        ]
        return replace(rule, **{_FIELD[part]: tuple(c for c in found if c is not None)})

    return change_rule(level, rule_id, changed)


def set_slot(
    level: Level, rule_id: int, part: Part, line: int, slot: str, text: str, within: tuple[int, ...] = ()
) -> Level:
    """Put another text into a slot of a rule's line."""
    return change_line_at(
        level, rule_id, part, line, within, lambda c: replace(c, slots={**c.slots, slot: text})
    )


def move_rule(level: Level, rule_id: int, by: int) -> Level:
    """Move a rule up (by < 0) or down one place at a time; at a section's edge it crosses into the next.

    At the ends of the order list it stays where it is.
    """
    for _ in range(abs(by)):
        level = _move_once(level, rule_id, 1 if by > 0 else -1)
    return level


def _move_once(level: Level, rule_id: int, way: int) -> Level:
    order = list(level.order)
    for at, entry in enumerate(order):
        if isinstance(entry, Section):
            rules = list(entry.rules)
            inside = next((i for i, r in enumerate(rules) if r.id == rule_id), None)
            if inside is None:
                continue
            rule = rules.pop(inside)
            if 0 <= inside + way <= len(rules):
                rules.insert(inside + way, rule)
                order[at] = replace(entry, rules=tuple(rules))
            else:
                order[at] = replace(entry, rules=tuple(rules))
                if not _enter(order, at + way, rule, way):
                    # past the first or last section a rule stands on its own
                    order.insert(at + (1 if way > 0 else 0), rule)
            return replace(level, order=tuple(order))
        if entry.id == rule_id:
            rule = entry
            if not 0 <= at + way < len(order):
                return level
            neighbour = order[at + way]
            if isinstance(neighbour, Section):
                rules = list(neighbour.rules)
                rules.insert(0 if way > 0 else len(rules), rule)
                order[at + way] = replace(neighbour, rules=tuple(rules))
                del order[at]
            else:
                order[at], order[at + way] = neighbour, rule
            return replace(level, order=tuple(order))
    raise KeyError(f"there is no rule with the id {rule_id}")


def _enter(order: list[Section | Logic], at: int, rule: Logic, way: int) -> bool:
    if not 0 <= at < len(order):
        return False
    neighbour = order[at]
    if not isinstance(neighbour, Section):
        order.insert(at + (0 if way > 0 else 1), rule)
        return True
    rules = (rule, *neighbour.rules) if way > 0 else (*neighbour.rules, rule)
    order[at] = replace(neighbour, rules=rules)
    return True


# trials


def change_trial(level: Level, name: str, change: Callable[[Trial], Trial]) -> Level:
    """Return the level with one trial changed."""
    return replace(level, trials=tuple(change(t) if t.name == name else t for t in level.trials))


def change_variant(level: Level, name: str, change: Callable[[Variant], Variant]) -> Level:
    """Return the level with one variant changed."""
    return replace(level, variants=tuple(change(v) if v.name == name else v for v in level.variants))


def as_tried(level: Level, trial: Trial | Variant) -> Level:
    """Return the level as a trial or a variant runs it: its rules and sections switched, its values overridden.

    What both switch or start is as the variant says: the variant is put on last, `as_tried(as_tried(level, trial), variant)`.
    """
    if not (trial.values or trial.on or trial.off):
        return level

    def switched(name: str, on: bool) -> bool:
        return name in trial.on or (on and name not in trial.off)

    order: list[Section | Logic] = []
    for entry in level.order:
        if isinstance(entry, Section):
            rules = tuple(replace(r, on=switched(r.name, r.on)) for r in entry.rules)
            entry = replace(entry, rules=rules)
        order.append(replace(entry, on=switched(entry.name, entry.on)))
    variables = tuple(replace(v, value=trial.values.get(v.name, v.value)) for v in level.variables)
    return replace(level, order=tuple(order), variables=variables)


def record_input(level: Level, name: str, recorded: Input, length: float) -> Level:
    """Put recorded input into a trial, made longer if the recording is."""
    return change_trial(level, name, lambda t: replace(t, input=recorded, length=max(t.length, length)))
