"""Entries about variables: comparing and changing them."""

import operator
from typing import Any

import numpy as np

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Numbers, Target
from gatillo.catalogue.declare.entry import action, choice, condition, number, slot
from gatillo.catalogue.declare.subjects import Subject

SUBJECT = Subject("variables", place=60)

COMPARISONS = {
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
    measured=("comparison", "left", "comparison", "right"),
)
def compare(world: QueryApi, left: Numbers, comparison: str, right: Numbers) -> Any:
    return COMPARISONS[comparison](left, right)


@condition(
    "{formula}",
    "Keeps the matches for which a yes/no formula holds.",
    formula=slot("yes/no formula"),
    measured=("formula", "formula"),
)
def formula_holds(world: QueryApi, formula: Any) -> Any:
    return formula


@action(
    "set {variable} to {value}",
    "Gives a variable a new value.",
    variable=slot("variable"),
    value=slot("value", "0"),
)
def set_variable(world: ActionApi, variable: Target, value: Any) -> None:
    world.assign(variable, value)


@action(
    "add {amount} to {variable}",
    "Adds to a number, once for each match; a negative amount subtracts.",
    amount=number("1"),
    variable=slot("number variable"),
)
def add_to(world: ActionApi, amount: Numbers, variable: Target) -> None:
    world.increase(variable, amount)


@action(
    "multiply {variable} by {factor}",
    "Multiplies a number, once for each match.",
    variable=slot("number variable"),
    factor=number("2"),
)
def multiply(world: ActionApi, variable: Target, factor: Numbers) -> None:
    world.change(variable, lambda value: value * factor)


@action(
    "toggle {variable}",
    "Turns yes into no and no into yes, once for each match.",
    variable=slot("yes/no variable"),
)
def toggle(world: ActionApi, variable: Target) -> None:
    world.change(variable, operator.not_ if variable.rows is None else np.logical_not)


@action(
    "keep {variable} between {low} and {high}",
    "Limits a number to a range: outside it becomes the nearer end.",
    variable=slot("number variable"),
    low=number("0"),
    high=number("100"),
)
def keep_between(world: ActionApi, variable: Target, low: Numbers, high: Numbers) -> None:
    world.change(variable, lambda value: np.minimum(np.maximum(value, low), high))


@action(
    "move {variable} toward {goal} at {rate} a second",
    "Moves a number toward a goal at a rate per second, never past it; the result is the same at every "
    "tick rate.",
    variable=slot("number variable"),
    goal=number("0"),
    rate=number("1", "how much a second"),
)
def move_number(world: ActionApi, variable: Target, goal: Numbers, rate: Numbers) -> None:
    step = np.abs(rate) * world.dt
    world.change(variable, lambda value: value + np.clip(goal - value, -step, step))
