"""Renaming: a new name is carried through everything that speaks of the old one."""

from __future__ import annotations

import re
from collections.abc import Callable

from msgspec.structs import replace

from gatillo.level.edits import set_object
from gatillo.level.model import Clause, Expectation, HoldsAt, Level, Rule, Section, Trial
from gatillo.level.naming import token


def rename_in_text(text: str, old: str, new: str) -> str:
    """A slot's text or a formula with a name replaced, in its plain form and as a formula's token.

    Text in double quotes is left alone, unless it stands in braces.
    """
    if text.strip() == old:
        return text.replace(old, new)
    word = re.compile(rf"(?<![\w.]){re.escape(token(old))}(?!\w)")
    return word.sub(token(new), text)


def _clauses(clauses: tuple[Clause, ...], change: Callable[[str], str]) -> tuple[Clause, ...]:
    return tuple(replace(c, slots={name: change(text) for name, text in c.slots.items()}) for c in clauses)


def _rule(rule: Rule, change: Callable[[str], str]) -> Rule:
    return replace(
        rule,
        when=_clauses(rule.when, change),
        if_=_clauses(rule.if_, change),
        do=_clauses(rule.do, change),
        else_=_clauses(rule.else_, change),
    )


def _expectation(expectation: Expectation, change: Callable[[str], str]) -> Expectation:
    if isinstance(expectation, HoldsAt):
        return replace(expectation, formula=change(expectation.formula))
    return expectation


def _trial(trial: Trial, change: Callable[[str], str]) -> Trial:
    return replace(
        trial,
        expectations=tuple(_expectation(e, change) for e in trial.expectations),
        watches=tuple(map(change, trial.watches)),
    )


def change_texts(level: Level, change: Callable[[str], str]) -> Level:
    """The level with every slot, formula and watch passed through a function."""
    order = tuple(
        replace(e, rules=tuple(_rule(r, change) for r in e.rules))
        if isinstance(e, Section)
        else _rule(e, change)
        for e in level.order
    )
    kinds = tuple(replace(k, behaviours=_clauses(k.behaviours, change)) for k in level.kinds)
    return replace(level, order=order, kinds=kinds, trials=tuple(_trial(t, change) for t in level.trials))


def rename_object(level: Level, object_id: int, name: str) -> Level:
    """Rename an object, and every rule, formula and watch that speaks of it."""
    old = next(o.name for o in level.objects if o.id == object_id)
    level = set_object(level, object_id, name=name)
    return change_texts(level, lambda text: rename_in_text(text, old, name))
