"""Entries about variables: comparing and changing them."""

import operator
from typing import Any

from gatillo.catalogue.entry import action, choice, condition, number, slot
from gatillo.catalogue.surroundings import Asked, Deed, Numbers, Target

_COMPARISONS = {
    "=": operator.eq,
    "<>": operator.ne,
    "<": operator.lt,
    "<=": operator.le,
    ">": operator.gt,
    ">=": operator.ge,
}


@condition(
    "{left} {comparison} {right}",
    "Compares two numbers.",
    left=number("", "a number, such as level.pods"),
    comparison=choice(">", ">=", "=", "<>", "<=", "<"),
    right=number(),
)
def compare(world: Asked, left: Numbers, comparison: str, right: Numbers) -> Any:
    return _COMPARISONS[comparison](left, right)


@condition("{formula}", "Keeps the matches for which a yes/no formula holds.", formula=slot("yes/no formula"))
def formula_holds(world: Asked, formula: Any) -> Any:
    return formula


@action(
    "set {variable} to {value}",
    "Gives a variable a new value.",
    variable=slot("variable"),
    value=slot("value", "0"),
)
def set_variable(deed: Deed, variable: Target, value: Any) -> None:
    deed.assign(variable, value)


@action(
    "add {amount} to {variable}",
    "Adds to a number, once for each match; a negative amount takes away.",
    amount=number("1"),
    variable=slot("number variable"),
)
def add_to(deed: Deed, amount: Numbers, variable: Target) -> None:
    deed.increase(variable, amount)
