"""How far a line is from holding, with its unit: for comparisons the difference, for places the distance."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any, cast

import numpy as np
from numpy.typing import NDArray

from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula
from gatillo.formula.syntax import FormulaError, Node, parse
from gatillo.formula.values import spread
from gatillo.inspect.value_words import value_words
from gatillo.kernels.mathematics import atan2d, length
from gatillo.language.binding import Argument, RoleArgument, VariableArgument, WhereArgument, Word
from gatillo.level.model import Area, Rectangle
from gatillo.level.roles import Index
from gatillo.sim.collision.shapes import separation
from gatillo.sim.matching.match_table import Matches, TooManyMatches, View, join_role
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.world.world import World

Floats = NDArray[np.float64]
Words = Callable[[int], str]

FAILS: dict[str, Callable[[Any, Any], Any]] = {
    "<": lambda a, b: a - b,
    "<=": lambda a, b: a - b,
    ">": lambda a, b: b - a,
    ">=": lambda a, b: b - a,
    "=": lambda a, b: np.abs(a - b),
    "<>": lambda a, b: np.where(a == b, 1.0, -np.abs(a - b)),
}
"""By comparison: how far two numbers are from it; below 0 (for < and >, and 0 for the others) where it holds."""


@dataclass(frozen=True, slots=True)
class Measure:
    """Of n matches: how far each is from passing, and how things stand, in words.

    `off` has shape (n,): the larger the farther; what has no distance is 1 where it fails and 0 where it holds.
    """

    off: Floats
    words: Words


def with_roles(world: World, line: CompiledLine, table: Matches) -> Matches:
    """Return the matches with every role that a line names, as its conditions would look for them. Raises TooManyMatches."""
    watched = [a.role.token for a in line.arguments.values() if isinstance(a, VariableArgument) and a.role]
    for role in (*line.roles, *watched):
        if role in table.rows:
            continue
        named = world.program.roles[role]
        if named.via and named.via not in table.rows:
            table = join_role(world, table, world.program.roles[named.via])
        table = join_role(world, table, named)
    return table


def measure(world: World, index: Index, line: CompiledLine, table: Matches) -> tuple[Matches, Measure] | None:
    """Return how far matches are from a condition, with the roles that it looks for joined to them; None where there is no telling."""
    try:
        joined = with_roles(world, line, table)
    except (TooManyMatches, KeyError):
        return None
    if not joined.n:
        return None
    how, *slots = line.entry.measured or ("",)
    make = MEASURES.get(how)
    if make is None:
        return None
    with np.errstate(all="ignore"):
        found = make(Probe(world, index, line, joined), *slots)
    return None if found is None else (joined, found)


class Probe:
    """A line over matches in a world: its slots worked out."""

    def __init__(self, world: World, index: Index, line: CompiledLine, table: Matches) -> None:
        self.world = world
        self.index = index
        self.line = line
        self.table = table
        self.n = table.n

    def argument(self, slot: str) -> Argument:
        """Return what is in a slot."""
        return self.line.arguments[slot]

    def rows(self, slot: str) -> NDArray[np.int64]:
        """Return the object of each match in a slot with a role, by row."""
        argument = self.argument(slot)
        assert isinstance(argument, RoleArgument)
        return self.table.rows[argument.role.token]

    def word(self, slot: str) -> str:
        """Return the word in a slot; "" for what is no word."""
        argument = self.argument(slot)
        return argument.text if isinstance(argument, Word) else ""

    def numbers(self, slot: str) -> Floats:
        """Return the number of each match in a slot; NaN where it has no answer."""
        argument = self.argument(slot)
        assert isinstance(argument, Formula)
        values: Floats = self.evaluate(argument)
        return values

    def evaluate(self, formula: Formula) -> Any:
        """Return a formula for each match, shape (n,); NaN where a number has no answer."""
        view = View(self.world, self.table, self.line.identity)
        values = spread(formula.evaluate(view), self.n)
        bad = view.faulted()
        if bad is not None and values.dtype == np.float64:
            values = np.where(bad, np.nan, values)
        return values

    def point(self, slot: str) -> tuple[Floats, Floats]:
        """Return x and y of each match in a slot with a place, shape (n,) each."""
        argument = self.argument(slot)
        assert isinstance(argument, WhereArgument)
        x, y = argument.point(View(self.world, self.table, self.line.identity))
        return spread(x, self.n), spread(y, self.n)

    def said(self, text: str, at: int) -> str:
        """Return a part of a formula with the names of a match's objects in the places of its roles."""
        for role in sorted(self.table.rows, key=len, reverse=True):
            name = self.world.name_of(self.world.id.item(int(self.table.rows[role][at])))
            text = re.sub(rf"\b{re.escape(role)}\b", lambda _, name=name: name, text)  # type: ignore[misc]
        return text

    def told(self, value: Any, kind: str) -> str:
        """Return a value in words; an object by its name."""
        if kind == "object":
            return (
                self.world.name_of(int(value))
                if value and self.world.row_of_id(int(value)) >= 0
                else "nobody"
            )
        return value_words(_plain(value))

    def name(self, slot: str, at: int) -> str:
        """Return the name of a match's object in a slot."""
        return self.world.name_of(self.world.id.item(int(self.rows(slot)[at])))

    def source(self, slot: str) -> str:
        """Return what is in a slot, as it is written."""
        argument = self.argument(slot)
        if isinstance(argument, Formula):
            return argument.source.strip()
        return argument.text if isinstance(argument, Word) else slot


def by(value: float) -> str:
    """Return a distance or a difference as a person reads it."""
    return value_words(float(f"{value:.4g}"))


# formulas


def formula_measure(probe: Probe, text: str) -> Measure | None:
    """Return how far a yes/no formula is from holding: of several parts joined by `and` the worst, by `or` the best."""
    try:
        return _node_measure(probe, text, parse(text))
    except FormulaError:
        return None


def _value(probe: Probe, text: str) -> tuple[Any, str]:
    """Return a part of a formula, worked out, and its type."""
    formula = compile_formula(probe.index, text)
    return probe.evaluate(formula), formula.type


def _node_measure(probe: Probe, text: str, node: Node) -> Measure | None:
    said = text[node.start : node.end]
    if node.op in ("and", "or"):
        parts = [m for part in node.parts if (m := _node_measure(probe, text, part)) is not None]
        if len(parts) != len(node.parts):
            return None
        offs = np.stack([part.off for part in parts])
        chosen = np.argmax(offs, axis=0) if node.op == "and" else np.argmin(offs, axis=0)
        return Measure(
            np.take_along_axis(offs, chosen[None, :], axis=0)[0],
            lambda at: parts[int(chosen[at])].words(at),
        )
    if node.op == "not":
        inner = _node_measure(probe, text, node.parts[0])
        if inner is None:
            return None
        holds = _value(probe, said)[0]
        return Measure(np.where(holds, 0.0, np.maximum(np.abs(inner.off), 1e-12)), inner.words)
    if node.op in FAILS:
        left, right = (text[part.start : part.end] for part in node.parts)
        (one, kind), (other, _) = _value(probe, left), _value(probe, right)
        return _compared(probe, one, other, node.op, left, right, node.parts[1].op == "constant", kind)
    holds = np.asarray(_value(probe, said)[0])
    return Measure(
        np.where(holds.astype(bool), 0.0, 1.0),
        lambda at: f"{probe.said(said, at)} was {value_words(bool(holds[at]))}",
    )


def _compared(
    probe: Probe, one: Any, other: Any, op: str, left: str, right: str, plain: bool, kind: str = "number"
) -> Measure:
    if kind == "number":
        off = np.asarray(FAILS[op](one, other), dtype=np.float64)

        def show(at: int) -> str:
            words = f"{probe.said(left, at)} was {value_words(one[at])}"
            if not plain:
                words += f" and {probe.said(right, at)} {value_words(other[at])}"
            strict = op in ("<", ">") and off[at] == 0
            missed = off[at] > 0 or strict
            if missed and op in ("<", "<=", ">", ">="):
                words += (
                    f", {by(off[at])} too {'much' if op in ('<', '<=') else 'little'}"
                    if off[at]
                    else ", just not"
                )
            return words

        return Measure(off, show)
    holds = np.asarray(one == other) if op == "=" else np.asarray(one != other)

    def said(at: int) -> str:
        words = f"{probe.said(left, at)} was {probe.told(one[at], kind)}"
        return words if plain else words + f" and {probe.said(right, at)} {probe.told(other[at], kind)}"

    return Measure(np.where(holds, 0.0, 1.0), said)


def _plain(value: Any) -> Any:
    return value.item() if isinstance(value, np.generic) else value


# entries


def _comparison(probe: Probe, left: str, comparison: str, right: str) -> Measure | None:
    constant = probe.argument(right)
    plain = isinstance(constant, Formula) and constant.constant is not None
    one, other = probe.numbers(left), probe.numbers(right)
    return _compared(
        probe, one, other, probe.word(comparison), probe.source(left), probe.source(right), plain
    )


def _formula(probe: Probe, slot: str) -> Measure | None:
    argument = probe.argument(slot)
    if not isinstance(argument, Formula):
        return None
    return formula_measure(probe, argument.source)


def _distance(probe: Probe, one: str, distance: str, where_slot: str) -> Measure:
    who = probe.rows(one)
    x, y = probe.point(where_slot)
    away = length(x - probe.world.x[who], y - probe.world.y[who])
    reach = probe.numbers(distance)
    where = probe.line.clause.slots.get(where_slot, "there") if probe.line.clause is not None else "there"
    others = probe.argument(where_slot)
    named = isinstance(others, WhereArgument) and others.formula is None
    other = others.roles[0] if isinstance(others, WhereArgument) and named and others.roles else ""

    def show(at: int) -> str:
        named = probe.world.name_of(probe.world.id.item(int(probe.table.rows[other][at]))) if other else where
        words = f"{probe.name(one, at)} was {by(away[at])} units from {named}"
        return words + (f", {by(away[at] - reach[at])} too far" if away[at] > reach[at] else "")

    return Measure(away - reach, show)


def _cone(probe: Probe, one: str, other: str, distance: str, angle: str) -> Measure:
    world, a, b = probe.world, probe.rows(one), probe.rows(other)
    dx, dy = world.x[b] - world.x[a], world.y[b] - world.y[a]
    away, reach, half = length(dx, dy), probe.numbers(distance), probe.numbers(angle)
    off = atan2d(dy, dx) - world.values_of(a, "facing")
    aside = np.abs(180.0 - np.mod(180.0 - off, 360.0))

    def show(at: int) -> str:
        words = f"{probe.name(other, at)} was {by(away[at])} units from {probe.name(one, at)} and {by(aside[at])}° aside of where it faces"
        if away[at] > reach[at]:
            return words + f": {by(away[at] - reach[at])} too far"
        return words + (f": {by(aside[at] - half[at])}° too far aside" if aside[at] > half[at] else "")

    return Measure(np.maximum(away - reach, aside - half), show)


def _gap(probe: Probe, first: str, second: str) -> Measure:
    a, b = probe.rows(first), probe.rows(second)
    gap = separation(probe.world, a, b)[0]

    def show(at: int) -> str:
        one, other = probe.name(first, at), probe.name(second, at)
        if gap[at] > 0:
            return f"{one} and {other} were {by(gap[at])} units apart, edge to edge"
        return f"{one} and {other} touched, {by(-gap[at])} units deep"

    return Measure(gap, show)


def area_distance(area: Area, x: Any, y: Any) -> Any:
    """Return how far points lie from an area; within it, below 0 by how far they are from its edge."""
    dx, dy = np.abs(np.asarray(x) - area.x), np.abs(np.asarray(y) - area.y)
    if isinstance(area.shape, Rectangle):
        over_x, over_y = dx - area.shape.width / 2, dy - area.shape.height / 2
        outside = length(np.maximum(over_x, 0.0), np.maximum(over_y, 0.0))
        return np.where(outside > 0, outside, np.maximum(over_x, over_y))
    return length(dx, dy) - area.shape.radius


def _area(leaves: bool, probe: Probe, slot: str, place: str) -> Measure | None:
    """Return how far the middle of an object lies from an area, or from having left it."""
    name = probe.word(place)
    area = probe.index.areas.get(name)
    if area is None:
        return None
    rows = probe.rows(slot)
    away = np.asarray(area_distance(area, probe.world.x[rows], probe.world.y[rows]))

    def show(at: int) -> str:
        where = f"{by(away[at])} units outside" if away[at] > 0 else f"{by(-away[at])} units inside"
        return f"{probe.name(slot, at)} was {where} {name}"

    return Measure(-away if leaves else away, show)


def _count(probe: Probe, kind: str, place: str = "") -> Measure | None:
    world, words = probe.world, probe.word(kind)
    rows = world.rows_of_kind(world.program.kind_number[words])
    many = float(len(rows))
    if place:
        area = probe.index.areas.get(probe.word(place))
        if area is None:
            return None
        many = float(np.count_nonzero(area_distance(area, world.x[rows], world.y[rows]) <= 0))
        words += f" in {area.name}"
    off = np.asarray(
        FAILS[probe.word("comparison")](np.full(probe.n, many), probe.numbers("count")), dtype=np.float64
    )
    return Measure(off, lambda at: f"there were {value_words(many)} {words}")


def _sent(probe: Probe, message_slot: str, sender: str, comparison: str, limit: str) -> Measure:
    message, rows = probe.word(message_slot), probe.rows(sender)
    sent = probe.world.messages.heard_from.get(message, {})
    numbers = np.array([sent.get(i, 0.0) for i in probe.world.id[rows].tolist()], dtype=np.float64)
    off = np.asarray(FAILS[probe.word(comparison)](numbers, probe.numbers(limit)), dtype=np.float64)
    return Measure(off, lambda at: f"{probe.name(sender, at)} sent {value_words(numbers[at])} with {message}")


def _items(probe: Probe, who: str, count: str, what: str) -> Measure:
    item, rows = probe.word(what), probe.rows(who)
    held = probe.world.items
    counts = np.array([held.get((i, item), 0.0) for i in probe.world.id[rows].tolist()], dtype=np.float64)
    return Measure(
        probe.numbers(count) - counts,
        lambda at: f"{probe.name(who, at)} held {value_words(counts[at])} {item}",
    )


def _fired(probe: Probe, rule: str, time: str = "") -> Measure:
    world, name = probe.world, probe.word(rule)
    last = world.rules.fired_at.get(world.program.index.rule_names[name], 0)
    since = (world.tick - last) * world.dt
    off = np.full(probe.n, 1.0) if not last else (since - probe.numbers(time) if time else np.zeros(probe.n))
    words = (
        f"“{name}” had fired {value_words(round(since, 3))} s before"
        if last
        else f"“{name}” had not fired yet"
    )
    return Measure(off, lambda at: words)


def _time(probe: Probe, time: str) -> Measure:
    now = probe.world.tick * probe.world.dt
    return Measure(probe.numbers(time) - now, lambda at: f"it was {value_words(round(now, 3))} s")


def _chance(probe: Probe, percent: str) -> Measure:
    view = View(probe.world, probe.table, probe.line.identity)
    drawn = spread(view.draw(1 << 40) * 100.0, probe.n)
    return Measure(drawn - probe.numbers(percent), lambda at: f"the draw gave {by(drawn[at])} of 100")


def _limit(falls: bool, probe: Probe, variable: str, limit: str) -> Measure | None:
    argument = probe.argument(variable)
    if not isinstance(argument, VariableArgument):
        return None
    most, who = probe.numbers(limit), None
    if argument.role is None:
        values = np.full(probe.n, float(cast("float", probe.world.level[argument.key])))
    else:
        who = probe.table.rows.get(argument.role.token)
        if who is None:
            return None
        values = np.asarray(probe.world.values_of(who, argument.key), dtype=np.float64)

    def show(at: int) -> str:
        owner = "level" if who is None else probe.world.name_of(probe.world.id.item(int(who[at])))
        return f"{owner}.{argument.name} was {value_words(values[at])}"

    return Measure(values - most if falls else most - values, show)


def _timer(probe: Probe, timer: str, time: str) -> Measure:
    name = probe.word(timer)
    seconds = probe.world.timer_seconds(name)
    running = probe.world.timers.get(name, (0.0, None))[1] is not None
    words = f"timer {name} stood at {value_words(round(seconds, 3))} s" + (
        "" if running else " and did not run"
    )
    return Measure(probe.numbers(time) - seconds, lambda at: words)


MEASURES: dict[str, Callable[..., Measure | None]] = {
    "comparison": _comparison,
    "formula": _formula,
    "distance": _distance,
    "cone": _cone,
    "gap": _gap,
    "inside": partial(_area, False),
    "outside": partial(_area, True),
    "count": _count,
    "sent": _sent,
    "items": _items,
    "fired": _fired,
    "time": _time,
    "chance": _chance,
    "above": partial(_limit, False),
    "below": partial(_limit, True),
    "timer": _timer,
}
"""By how an entry says that it is measured: how far matches are from it. Picks are measured in picks.py."""
