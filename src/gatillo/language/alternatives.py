"""Conditions between which a typed line says “or”: one condition that holds if either does.

Conditions of a rule that stand one below the other must all hold, so two that are joined by “or” become one formula where both
are formulas, and else a group. “A and B or C” is read as in formulas: both A and B, or C.
"""

from __future__ import annotations

from dataclasses import replace

from msgspec.structs import replace as with_fields

from gatillo.language.reading import Reading
from gatillo.level.model import Clause

_OR = "or"
UNLESS = "unless"
"""Before the first of some conditions it turns all of them round."""


def with_alternatives(lines: list[Reading], joints: list[str], *, cards: bool) -> list[Reading]:
    """Return the lines of a rule, with conditions joined by “or” as one; `joints` are the words before each.

    In a graph (`cards`) a group of conditions is no card: there the word stays unread, so that it is asked about.
    """
    made: list[Reading] = []
    at = 0
    while at < len(lines):
        end = at + 1
        while end < len(lines) and lines[end].part == lines[at].part == "if":
            end += 1
        run = lines[at:end]
        if _OR in joints[at + 1 : end] and all(line.entry.group == "condition" for line in run):
            made += _one_of(run, joints[at:end], cards)
        else:
            made += run
        at = end
    return made


def _one_of(run: list[Reading], joints: list[str], cards: bool) -> list[Reading]:
    # where it cannot be one condition, the word stays unread, and all lines are as they were read
    asked = [*run[:-1], replace(run[-1], unread=(*run[-1].unread, _OR))]
    if any(line.offers for line in run):
        return asked
    unless = joints[0] == UNLESS
    if unless:
        # it has turned the first one round alone
        run = [_turned_round(run[0]), *run[1:]]
    ways: list[list[Reading]] = [[]]
    for line, joint in zip(run, joints, strict=True):
        if joint == _OR and ways[-1]:
            ways.append([])
        ways[-1].append(line)
    formulas = ["" if len(way) > 1 else _as_formula(way[0]) for way in ways]
    whole = Reading(
        Clause(use="formula_holds", slots={"formula": " or ".join(formulas)}, negated=unless),
        "if",
        sum(line.cost for line in run),
        unread=tuple(word for line in run for word in line.unread),
        named=run[-1].named,
    )
    if all(formulas):
        return [whole]
    if cards:
        # none of them may hold: one card after the other asks that
        alone = unless and all(len(way) == 1 for way in ways)
        return [_turned_round(line) for line in run] if alone else asked
    group = Clause(use="any_of", of=tuple(map(_together, ways)), negated=unless)
    return [replace(whole, clause=group)]


def _turned_round(line: Reading) -> Reading:
    return replace(line, clause=with_fields(line.clause, negated=not line.clause.negated))


def _together(way: list[Reading]) -> Clause:
    return way[0].clause if len(way) == 1 else Clause(use="all_of", of=tuple(line.clause for line in way))


def _as_formula(line: Reading) -> str:
    """Return a condition as a formula; "" if it is none."""
    entry, slots = line.entry, line.clause.slots
    if not entry.same_as:
        return ""
    formula = entry.same_as.format(
        **{name: slots.get(name, slot.default) for name, slot in entry.slots.items()}
    )
    if line.clause.negated:
        return f"not ({formula})"
    return f"({formula})" if " or " in formula else formula
