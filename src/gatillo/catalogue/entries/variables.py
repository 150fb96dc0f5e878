"""Entries about variables: comparing and changing them."""

import operator
from typing import Any

import numpy as np

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Numbers, Target
from gatillo.catalogue.declare.entry import action, choice, condition, number, slot
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded

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
    alone=True,
    same_as="{left} {comparison} {right}",
    says=[
        worded("{left} becomes/hits {right}", comparison="="),
        worded("{left} drops/falls/sinks/shrinks to {right}", comparison="<="),
        worded("{left} grows/rises/climbs to {right}", comparison=">="),
        "compare {left} {comparison} {right}",
        "value of {left} {comparison} {right}",
        "{left} stays/remains/keeps {comparison} {right}",
        worded("{left} is positive", comparison=">", right="0"),
        worded("{left} is negative", comparison="<", right="0"),
        worded("{left} is zero", comparison="=", right="0"),
        worded("{left} is {right} or more", comparison=">="),
        worded("{left} is {right} or less", comparison="<="),
        worded("{left} reaches/hits 0/zero", comparison="<=", right="0"),
        worded("{left} runs out", comparison="<=", right="0"),
        worded("{left} is used up", comparison="<=", right="0"),
    ],
)
def compare(world: QueryApi, left: Numbers, comparison: str, right: Numbers) -> Any:
    return COMPARISONS[comparison](left, right)


@condition(
    "{formula}",
    "Keeps the matches for which a yes/no formula holds.",
    formula=slot("yes/no formula"),
    measured=("formula", "formula"),
    alone=True,
    same_as="{formula}",
    says=[
        worded(
            "{left} is between {low} and {high}",
            numbers=("left", "low", "high"),
            formula="{left} >= {low} and {left} <= {high}",
        ),
        "{formula} becomes true/yes",
        worded("{formula} becomes false/no", negated=True),
        "{formula} is true/set/yes",
        worded("{formula} is false/unset/no", negated=True),
        "{formula} holds",
        "check/test {formula}",
        "formula {formula}",
        worded("{a} is [to] [the] left of {b}", objects=("a",), places=("b",), formula="{a}.x < {b}.x"),
        worded("{a} is [to] [the] right of {b}", objects=("a",), places=("b",), formula="{a}.x > {b}.x"),
        worded("{a} is above/over {b}", objects=("a",), places=("b",), formula="{a}.y > {b}.y"),
        worded("{a} is below/under {b}", objects=("a",), places=("b",), formula="{a}.y < {b}.y"),
        worded("{a} is higher [up] than {b}", objects=("a",), places=("b",), formula="{a}.y > {b}.y"),
        worded("{a} is lower [down] than {b}", objects=("a",), places=("b",), formula="{a}.y < {b}.y"),
        worded("{a} is above/over/higher-than {n}", objects=("a",), numbers=("n",), formula="{a}.y > {n}"),
        worded("{a} is below/under/lower-than {n}", objects=("a",), numbers=("n",), formula="{a}.y < {n}"),
        worded("{a} is [to] [the] left of {n}", objects=("a",), numbers=("n",), formula="{a}.x < {n}"),
        worded("{a} is [to] [the] right of {n}", objects=("a",), numbers=("n",), formula="{a}.x > {n}"),
        worded(
            "{a} is closer/nearer to {b} than [to] {c}",
            places=("a", "b", "c"),
            formula="distance({a}, {b}) < distance({a}, {c})",
        ),
        worded(
            "{a} is farther/further [away] from {b} than [from] {c}",
            places=("a", "b", "c"),
            formula="distance({a}, {b}) > distance({a}, {c})",
        ),
        worded(
            "{a} is closer/nearer to {b} than {c} is",
            places=("a", "b", "c"),
            formula="distance({a}, {b}) < distance({c}, {b})",
        ),
        worded(
            "{a} is between {low} and {high} [away] from/of/to {b}",
            places=("a", "b"),
            numbers=("low", "high"),
            formula="distance({a}, {b}) >= {low} and distance({a}, {b}) <= {high}",
        ),
        worded(
            "{left} is empty/depleted/exhausted/used-up/gone/spent", numbers=("left",), formula="{left} <= 0"
        ),
        worded("{b} is/stands behind {a}", objects=("a", "b"), formula="abs(bearing({a}, {b})) > 90"),
        worded("{left} is even", numbers=("left",), formula="{left} mod 2 = 0"),
        worded("{left} is odd", numbers=("left",), formula="{left} mod 2 = 1"),
        worded("it is [the] first tick", formula="tick = 1"),
        worded(
            "{who} 's speed is over/above/more-than/greater-than {n}",
            objects=("who",),
            numbers=("n",),
            formula="speed({who}) > {n}",
        ),
        worded(
            "{who} 's speed is under/below/less-than {n}",
            objects=("who",),
            numbers=("n",),
            formula="speed({who}) < {n}",
        ),
        worded(
            "speed of {who} is over/above/more-than/greater-than {n}",
            objects=("who",),
            numbers=("n",),
            formula="speed({who}) > {n}",
        ),
        worded(
            "speed of {who} is under/below/less-than {n}",
            objects=("who",),
            numbers=("n",),
            formula="speed({who}) < {n}",
        ),
        worded(
            "{left} is weaker/smaller/lower than {right}",
            numbers=("left", "right"),
            formula="{left} < {right}",
        ),
        worded(
            "{left} is stronger/bigger/higher than {right}",
            numbers=("left", "right"),
            formula="{left} > {right}",
        ),
        worded("{who} is past/beyond/over x {n}", objects=("who",), numbers=("n",), formula="{who}.x > {n}"),
        worded("{who} is past/beyond/over y {n}", objects=("who",), numbers=("n",), formula="{who}.y > {n}"),
    ],
)
def formula_holds(world: QueryApi, formula: Any) -> Any:
    return formula


@action(
    "set {variable} to {value}",
    "Gives a variable a new value.",
    variable=slot("variable"),
    value=slot("value", "0"),
    undone_by="set_variable",
    alone=True,
    says=[
        "fill [up] {variable} [up] to {value}",
        "increase/raise/decrease/lower/reduce {variable} to {value}",
        "{variable} = {value}",
        "change/make/put [value] [of] {variable} [to/into] {value}",
        "set [value] [of] {variable} = {value}",
        "{variable} [back] to! {value}",
        "set {variable} {value}",
        "{variable} becomes/gets {value}",
        "{variable} is now {value}",
        "let {variable} be {value}",
        "assign {value} to {variable}",
        "store/write/save/put {value} in/into {variable}",
        worded("reset/clear/zero/empty {variable}", value="0"),
        worded("round {variable}", value="round({variable})"),
        "set/reset {variable} back to {value}",
        worded("turn/switch {variable} on", value="yes"),
        worded("turn/switch {variable} off", value="no"),
        worded("turn/switch on {variable}", value="yes"),
        worded("turn/switch off {variable}", value="no"),
        "mark {variable} as {value}",
        "fill/reset/restore/refill/reload/recharge/replenish {variable} to! {value}",
        "set/make {variable} equal to {value}",
        "copy {value} to/into {variable}",
        worded("round up {variable}", value="ceil({variable})"),
        worded("round {variable} up", value="ceil({variable})"),
        worded("round down {variable}", value="floor({variable})"),
        worded("round {variable} down", value="floor({variable})"),
        worded("round off {variable}", value="round({variable})"),
        "swap {variable} to! {value}",
        worded("move/put/set/bring/place {who} to/at x {value}", objects=("who",), variable="{who}.x"),
        worded("move/put/set/bring/place {who} to/at y {value}", objects=("who",), variable="{who}.y"),
    ],
)
def set_variable(world: ActionApi, variable: Target, value: Any) -> None:
    world.assign(variable, value)


@action(
    "add {amount} to {variable}",
    "Adds to a number, once for each match; a negative amount subtracts.",
    amount=number("1", adds=True),
    variable=slot("number variable"),
    alone=True,
    says=[
        "{variable} grows/rises/climbs/increases by {amount}",
        worded("{variable} falls/drops/shrinks/decreases/sinks by {amount}", amount="-{amount}"),
        "{variable} + {amount}",
        worded("{variable} - {amount}", amount="-{amount}"),
        "increase/raise/increment/grow/up/bump {variable} [by {amount}]",
        "{variable} += {amount}",
        worded("{variable} -= {amount}", amount="-{amount}"),
        worded(
            "decrease/reduce/lower/decrement/shrink/drop/diminish {variable} [by {amount}]",
            amount="-{amount}",
        ),
        worded("subtract/deduct/remove/take {amount} from {variable}", amount="-{amount}"),
        "{variable} plus {amount}",
        worded("{variable} minus {amount}", amount="-{amount}"),
        "count {variable} up [by {amount}]",
        "count up {variable} [by {amount}]",
        worded("count {variable} down [by {amount}]", amount="-{amount}"),
        worded("count down {variable} [by {amount}]", amount="-{amount}"),
        "gain/score/win/get/earn {amount} {variable}",
        worded("lose/spend {amount} {variable}", amount="-{amount}"),
        "{amount} more {variable}",
        worded("{amount} less/fewer {variable}", amount="-{amount}"),
        "{variable} goes up by {amount}",
        worded("{variable} goes down by {amount}", amount="-{amount}"),
        "let/make {variable} rise/grow/climb/increase/go [up] by {amount}",
        worded("let/make {variable} drop/fall/sink/shrink/decrease/decline by {amount}", amount="-{amount}"),
        worded("let/make {variable} go down by {amount}", amount="-{amount}"),
        "increase/raise {variable} with {amount}",
        worded("{variable} ++", amount="1"),
        worded("{variable} --", amount="-1"),
        "bump/step {variable} [up] [by] {amount}",
        worded("drain/deplete/shrink/drop {variable} by {amount}", amount="-{amount}"),
        worded("take/remove {amount} {variable}", amount="-{amount}"),
        "{variable} up [by] {amount}",
        worded("{variable} down [by] {amount}", amount="-{amount}"),
        "{variable} gets/becomes/grows {amount} more/higher/bigger/larger/stronger",
        worded("{variable} gets/becomes/grows {amount} less/fewer/lower/smaller/weaker", amount="-{amount}"),
        "{variable} gets/becomes/grows more/higher/bigger/larger/stronger by {amount}",
        worded(
            "{variable} gets/becomes/grows less/fewer/lower/smaller/weaker by {amount}", amount="-{amount}"
        ),
        worded("{variable} up", amount="1"),
        worded("{variable} down", amount="-1"),
        "move/shift/slide {variable} by {amount}",
    ],
)
def add_to(world: ActionApi, amount: Numbers, variable: Target) -> None:
    world.increase(variable, amount)


@action(
    "multiply {variable} by {factor}",
    "Multiplies a number, once for each match.",
    variable=slot("number variable"),
    factor=number("2"),
    alone=True,
    says=[
        worded("add {share} percent to {variable}", numbers=("share",), factor="1 + {share} / 100"),
        worded(
            "subtract/take {share} percent from {variable}", numbers=("share",), factor="1 - {share} / 100"
        ),
        worded(
            "increase/raise/grow {variable} by {share} percent",
            numbers=("share",),
            factor="1 + {share} / 100",
        ),
        worded(
            "decrease/reduce/lower/shrink {variable} by {share} percent",
            numbers=("share",),
            factor="1 - {share} / 100",
        ),
        "{variable} * {factor}",
        "{variable} *= {factor}",
        worded("{variable} /= {factor}", factor="1 / {factor}"),
        worded("divide {variable} by {factor}", factor="1 / {factor}"),
        worded("double {variable}", factor="2"),
        worded("triple {variable}", factor="3"),
        worded("halve/half {variable}", factor="0.5"),
        "{variable} times {factor}",
        "scale {variable} by {factor}",
        "multiply {variable} with {factor}",
        worded("negate/invert/reverse {variable}", factor="-1"),
        worded("flip [the] sign of {variable}", factor="-1"),
        "make {variable} {factor} times as large/big/high/much",
        worded("cut {variable} in half", factor="0.5"),
        worded("decrease/reduce/lower/cut/drop {variable} by [a/one] half", factor="0.5"),
        worded("increase/raise {variable} by [a/one] half", factor="1.5"),
    ],
)
def multiply(world: ActionApi, variable: Target, factor: Numbers) -> None:
    world.change(variable, lambda value: value * factor)


def toggle_one(world: ActionApi, variable: Target) -> None:
    """Do for one match what `toggle` does."""
    world.change(variable, operator.not_)


@action(
    "toggle {variable}",
    "Turns yes into no and no into yes, once for each match.",
    variable=slot("yes/no variable"),
    undone_by="toggle",
    alone=toggle_one,
    says=[
        "flip/invert/reverse/negate {variable}",
        "switch {variable}",
        "turn {variable} round/around/over",
        "{variable} = not {variable}",
        "change {variable} to its opposite",
        "flip/toggle/invert/switch/reverse [the] value of {variable}",
    ],
)
def toggle(world: ActionApi, variable: Target) -> None:
    world.change(variable, operator.not_ if variable.rows is None else np.logical_not)


@action(
    "keep {variable} between {low} and {high}",
    "Limits a number to a range: outside it becomes the nearer end.",
    variable=slot("number variable"),
    low=number("0"),
    high=number("100"),
    alone=True,
    says=[
        "limit/clamp/restrict {variable} {low} to/- {high}",
        "clamp/limit/restrict/bound/hold/constrain/confine {variable} between/to/from/in/within {low} and/to {high}",
        "clamp/limit/restrict/keep {variable} to {low} {high}",
        "limit/cap {variable} to/at {high}",
        "keep {variable} below/under {high}",
        "{variable} stays/remains between/within {low} and/to {high}",
        "keep {variable} in/within/from {low} and/to {high}",
        "let {variable} stay between {low} and {high}",
        "clamp/limit/restrict/bound/hold/constrain/confine {variable} to between {low} and/to {high}",
        worded("keep {variable} above/over {low}", high="1000000"),
        worded("keep {variable} at least {low}", high="1000000"),
        "make sure {variable} stays/is/remains in/within/between/inside {low} and/to {high}",
        "hold {variable} in/within/between {low} and/to {high}",
        "{variable} stays in/within/between {low} and/to {high}",
        worded("never let {variable} drop/fall/go/sink below/under {low}", high="1000000"),
        worded("never let {variable} rise/go/climb/get above/over {high}", low="-1000000"),
        worded("don't let {variable} drop/fall/go/sink below/under {low}", high="1000000"),
        worded("don't let {variable} rise/go/climb/get above/over {high}", low="-1000000"),
        "limit/clamp/restrict/keep {variable} to/in/within [the] range [of/from/between] {low} and/to/- {high}",
        worded("let {variable} not exceed/pass {high}", low="-1000000"),
        worded("keep {variable} at most/no-more-than/under/below {high}", low="-1000000"),
        worded("keep {variable} at least/no-less-than {low}", high="1000000"),
        worded("limit {variable} to at most {high}", low="-1000000"),
    ],
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
    alone=True,
    says=[
        "bring/take/move/ease/drift {variable} to/toward/towards {goal} at [a] rate/speed/pace of {rate}",
        "fade/slide/drift/ramp/glide {variable} toward/to/towards {goal} at/by/with {rate} [a second]",
        "ease/bring/drive/shift/count/change/let/take {variable} toward/to/towards {goal} at/by/with {rate} [a second]",
        "move {variable} towards/to {goal} by/at/with {rate} [a second]",
        "{variable} goes/moves/approaches [to/toward/towards] {goal} at/by {rate} [a second]",
        "grow/increase/raise/charge/fill {variable} to/toward/towards {goal} at/by {rate} [a second]",
        "{variable} refills/recovers/regenerates/fills/rises/sinks/falls/drains [at/by] {rate} [a second] [up/down] to! {goal}",
        "decrease/lower/drain/shrink {variable} to/toward/towards {goal} at/by {rate} [a second]",
        "let {variable} go/rise/grow/climb/fall/sink [up/down] to {goal}",
        "let {variable} creep/rise/climb/drift/sink/grow [up/down] to/toward/towards {goal} by/at {rate} [a second]",
    ],
)
def move_number(world: ActionApi, variable: Target, goal: Numbers, rate: Numbers) -> None:
    step = np.abs(rate) * world.dt
    world.change(variable, lambda value: value + np.clip(goal - value, -step, step))
