"""Edits of the order list: rules, their lines, and sections. None of them changes the level it is given."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, Literal

from msgspec.structs import replace

from gatillo.level.edits import Part, change_line_at, change_rule, clauses_of
from gatillo.level.model import Clause, Level, Logic, Rule, Section
from gatillo.level.naming import FreeNames, free_name
from gatillo.level.roles import all_logic, all_rules

FIELD: dict[Part, Literal["when", "if_", "do", "else_"]] = {
    "when": "when",
    "if": "if_",
    "do": "do",
    "else": "else_",
}
PARTS: tuple[Part, ...] = ("when", "if", "do", "else")


def rule_of(level: Level, rule_id: int) -> Rule:
    """Return the rule of an id. Raises KeyError if there is none."""
    for _, _, rule in all_rules(level):
        if rule.id == rule_id:
            return rule
    raise KeyError(f"there is no rule with the id {rule_id}")


def logic_of(level: Level, rule_id: int) -> Logic:
    """Return the rule or graph of an id. Raises KeyError if there is none."""
    for _, _, entry in all_logic(level):
        if entry.id == rule_id:
            return entry
    raise KeyError(f"there is no rule or graph with the id {rule_id}")


def section_of(level: Level, rule_id: int) -> str:
    """Return the name of the section a rule or a graph stands in, "" if it stands by itself."""
    return next((s.name for _, s, entry in all_logic(level) if entry.id == rule_id and s is not None), "")


def free_rule_id(level: Level) -> int:
    """Return an id that no rule and no graph has."""
    return max((entry.id for _, _, entry in all_logic(level)), default=0) + 1


def free_rule_name(level: Level, stem: str) -> str:
    """Return the stem, or the stem with the first number that makes it free."""
    return FreeNames(entry.name for _, _, entry in all_logic(level)).take(stem)


def add_rule(level: Level, rule: Logic, after: int | None = None, section: str = "") -> tuple[Level, int]:
    """Put a rule or a graph into the order list, with an id of its own and a free name; the level and its id.

    It comes right after the rule of the id `after`; else at the end of the section named, else last.
    """
    level, ids = add_rules(level, (rule,), after, section)
    return level, ids[0]


def add_rules(
    level: Level, rules: Sequence[Logic], after: int | None = None, section: str = ""
) -> tuple[Level, list[int]]:
    """Put rules and graphs into the order list one below the other, as `add_rule` does with one; the level and their ids."""
    taken = {entry.name for _, _, entry in all_logic(level)}
    first = free_rule_id(level)
    names = FreeNames(taken)
    added = tuple(replace(rule, id=first + at, name=names.take(rule.name)) for at, rule in enumerate(rules))
    order: list[Section | Logic] = []
    placed = False
    for entry in level.order:
        if isinstance(entry, Section):
            inner = list(entry.rules)
            at = next((i for i, r in enumerate(inner) if r.id == after), None)
            if at is not None:
                inner[at + 1 : at + 1] = added
            elif after is None and entry.name == section:
                inner += added
            placed = placed or len(inner) > len(entry.rules)
            order.append(replace(entry, rules=tuple(inner)))
        else:
            order.append(entry)
            if entry.id == after:
                order += added
                placed = True
    if not placed:
        order += added
    return replace(level, order=tuple(order)), [entry.id for entry in added]


def delete_rule(level: Level, rule_id: int) -> Level:
    """Take a rule out of the order list."""
    order = tuple(
        replace(e, rules=tuple(r for r in e.rules if r.id != rule_id)) if isinstance(e, Section) else e
        for e in level.order
        if isinstance(e, Section) or e.id != rule_id
    )
    return replace(level, order=order)


def duplicate_rule(level: Level, rule_id: int) -> tuple[Level, int]:
    """Copy a rule, right below it; the level and the copy's id."""
    return add_rule(level, logic_of(level, rule_id), after=rule_id)


def set_rule(level: Level, rule_id: int, **fields: Any) -> Level:
    """Give fields of a rule new values."""
    return change_rule(level, rule_id, lambda r: replace(r, **fields))


# lines


def change_lines(
    level: Level, rule_id: int, part: Part, change: Callable[[list[Clause]], list[Clause]]
) -> Level:
    """Return the level with the lines of one part of a rule changed."""
    return change_rule(
        level, rule_id, lambda r: replace(r, **{FIELD[part]: tuple(change(list(clauses_of(r, part))))})
    )


def add_line(level: Level, rule_id: int, part: Part, clause: Clause, at: int | None = None) -> Level:
    """Put a line into a part of a rule, before line `at`, or last."""

    def change(lines: list[Clause]) -> list[Clause]:
        lines.insert(len(lines) if at is None else at, clause)
        return lines

    return change_lines(level, rule_id, part, change)


def delete_line(level: Level, rule_id: int, part: Part, line: int, within: tuple[int, ...] = ()) -> Level:
    """Take a line out of a rule, or out of a group or a repeat within it."""
    return change_line_at(level, rule_id, part, line, within, lambda c: None)


def negate_line(level: Level, rule_id: int, line: int, within: tuple[int, ...] = ()) -> Level:
    """Turn a condition round."""
    return change_line_at(level, rule_id, "if", line, within, lambda c: replace(c, negated=not c.negated))


def move_line(level: Level, rule_id: int, part: Part, line: int, by: int) -> tuple[Level, int]:
    """Move a line up (by < 0) or down within its part; the level and where it is now."""
    lines = clauses_of(rule_of(level, rule_id), part)
    to = min(max(line + by, 0), len(lines) - 1)

    def change(found: list[Clause]) -> list[Clause]:
        found.insert(to, found.pop(line))
        return found

    return (change_lines(level, rule_id, part, change), to) if to != line else (level, line)


def carry_line(
    level: Level, rule_id: int, part: Part, line: int, to_rule: int, to_part: Part, to_line: int
) -> Level:
    """Carry a line before line `to_line` of a part, in its own rule or another.

    Actions go between do and else; else raises ValueError where the parts are not of one sort.
    """
    if part != to_part and not {part, to_part} <= {"do", "else"}:
        raise ValueError(f"a line of “{part}” cannot stand under “{to_part}”")
    clause = clauses_of(rule_of(level, rule_id), part)[line]
    if rule_id == to_rule and part == to_part and line < to_line:
        # its own place is free by then
        to_line -= 1
    return add_line(delete_line(level, rule_id, part, line), to_rule, to_part, clause, to_line)


def group_lines(level: Level, rule_id: int, line: int, group: str) -> Level:
    """Put a condition into a new group, or into the group that stands right above it."""
    lines = clauses_of(rule_of(level, rule_id), "if")
    above = lines[line - 1] if line else None

    def change(found: list[Clause]) -> list[Clause]:
        clause = found.pop(line)
        if above is not None and above.use == group:
            found[line - 1] = replace(above, of=(*above.of, clause))
        else:
            found.insert(line, Clause(use=group, of=(clause,)))
        return found

    return change_lines(level, rule_id, "if", change)


def ungroup_line(level: Level, rule_id: int, part: Part, line: int) -> Level:
    """Take the lines of a group or a repeat out of it, to where it stood."""

    def change(found: list[Clause]) -> list[Clause]:
        found[line : line + 1] = found[line].of
        return found

    return change_lines(level, rule_id, part, change)


# sections


def add_section(level: Level, name: str) -> tuple[Level, str]:
    """Return a new empty section at the end of the order list; the level and its name."""
    taken = {e.name for e in level.order if isinstance(e, Section)}
    name = name if name not in taken else free_name(name, taken)
    return replace(level, order=(*level.order, Section(name=name))), name


def delete_section(level: Level, name: str, *, keep_rules: bool) -> Level:
    """Take a section away; its rules stay in its place, or go with it."""
    order: list[Section | Logic] = []
    for entry in level.order:
        if isinstance(entry, Section) and entry.name == name:
            order += entry.rules if keep_rules else ()
        else:
            order.append(entry)
    return replace(level, order=tuple(order))


def set_section(level: Level, name: str, **fields: Any) -> Level:
    """Give fields of a section new values."""
    order = tuple(
        replace(e, **fields) if isinstance(e, Section) and e.name == name else e for e in level.order
    )
    return replace(level, order=order)


def move_section(level: Level, name: str, by: int) -> Level:
    """Move a section up (by < 0) or down among what is beside it."""
    order = list(level.order)
    at = next((i for i, e in enumerate(order) if isinstance(e, Section) and e.name == name), None)
    if at is None:
        raise KeyError(name)
    to = min(max(at + by, 0), len(order) - 1)
    order.insert(to, order.pop(at))
    return replace(level, order=tuple(order))


def put_rule(level: Level, rule_id: int, *, before: int | None, section: str = "") -> Level:
    """Move a rule to right before another one; with None, to the end of a section or of the list."""
    if before == rule_id:
        return level
    rule = logic_of(level, rule_id)
    level = delete_rule(level, rule_id)
    order: list[Section | Logic] = []
    placed = False
    for entry in level.order:
        if isinstance(entry, Section):
            rules = list(entry.rules)
            at = next((i for i, r in enumerate(rules) if r.id == before), None)
            if at is not None:
                rules.insert(at, rule)
            elif before is None and entry.name == section:
                rules.append(rule)
            placed = placed or len(rules) > len(entry.rules)
            order.append(replace(entry, rules=tuple(rules)))
        else:
            if entry.id == before:
                order.append(rule)
                placed = True
            order.append(entry)
    if not placed:
        order.append(rule)
    return replace(level, order=tuple(order))
