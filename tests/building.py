"""Short ways to write levels in tests."""

from __future__ import annotations

from typing import Any

from gatillo.level.model import (
    Circle,
    Clause,
    Input,
    KeyBar,
    Kind,
    Level,
    Object,
    Rectangle,
    Rule,
    Section,
    Settings,
    Trial,
    Variable,
)
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


def c(use: str, **slots: str) -> Clause:
    """A clause."""
    return Clause(use=use, slots=slots)


def isnt(use: str, **slots: str) -> Clause:
    """A negated condition."""
    return Clause(use=use, slots=slots, negated=True)


EVERY_TICK = c("every_tick")
START = c("level_starts")


def add(variable: str, amount: str = "1") -> Clause:
    return c("add_to", amount=amount, variable=variable)


def send(message: str) -> Clause:
    return c("send_message", message=message)


def heard(message: str) -> Clause:
    return c("message_heard", message=message)


def rule(
    name: str, *, when: Any = (), if_: Any = (), do: Any = (), else_: Any = (), id: int = 0, **more: Any
) -> Rule:
    """A rule; single clauses need no tuple."""

    def many(clauses: Any) -> tuple[Clause, ...]:
        return (clauses,) if isinstance(clauses, Clause) else tuple(clauses)

    number = id or sum(ord(ch) * (at + 1) for at, ch in enumerate(name))
    return Rule(id=number, name=name, when=many(when), if_=many(if_), do=many(do), else_=many(else_), **more)


def kind(name: str, radius: float = 10.0, *, box: tuple[float, float] | None = None, **more: Any) -> Kind:
    """A kind; its variables are given as name=value in `has`."""
    has = more.pop("has", {})
    shape = Rectangle(width=box[0], height=box[1]) if box else Circle(radius=radius)
    variables = tuple(Variable(name=n, value=v) for n, v in has.items())
    return Kind(name=name, shape=shape, variables=variables, **more)


def things(of: str, *points: tuple[float, float], first: int = 1) -> tuple[Object, ...]:
    """Objects of a kind at points, with ids from `first` on."""
    return tuple(
        Object(id=first + at, kind=of, name=f"{of} {at + 1}", x=x, y=y) for at, (x, y) in enumerate(points)
    )


def level(
    *order: Rule | Section,
    kinds: tuple[Kind, ...] = (),
    objects: tuple[Object, ...] = (),
    has: dict[str, Any] | None = None,
    keys: tuple[tuple[str, float, float], ...] = (),
    seconds: float = 1.0,
    rate: int = 60,
    expect: tuple[Any, ...] = (),
    **more: Any,
) -> Level:
    """A level with one trial."""
    settings = more.pop("settings", None) or Settings(rate=rate)
    bars = tuple(KeyBar(key=k, start=a, end=b) for k, a, b in keys)
    trial = Trial(
        name="trial", length=seconds, input=Input(keys=bars), expectations=expect, seed=more.pop("seed", 1)
    )
    variables = tuple(Variable(name=n, value=v) for n, v in (has or {}).items())
    return Level(
        format=1,
        name="test",
        settings=settings,
        variables=variables,
        kinds=kinds,
        objects=objects,
        order=order,
        trials=(trial,),
        **more,
    )


def run(built: Level, ticks: int | None = None) -> Run:
    """The level's trial, run; rules must be free of problems."""
    program = Program(built)
    assert not program.problems, [p.sentence() for p in program.problems]
    made = Run(program, built.trials[0])
    made.advance(ticks)
    return made


def fired(made: Run, name: str) -> list[tuple[int, int]]:
    """(tick, matches) of each firing of a rule."""
    return [
        (f.tick, f.matches)
        for f in made.trace.firings()
        if made.program.rules[f.rule_index].source.name == name
    ]


def names_at(made: Run, tick: int) -> list[str]:
    """The rules that fired in a tick, in their order."""
    return [made.program.rules[f.rule_index].source.name for f in made.trace.firings_at(tick)]


POD = kind("Pod", 5)
GARDENER = kind("Gardener", 10)


def touching_level(pods, **more):
    """A gardener standing on pods."""
    return dict(
        kinds=(GARDENER, POD), objects=(*things("Gardener", (0, 0)), *things("Pod", *pods, first=10)), **more
    )


TOUCH = c("begins_to_touch", a="Gardener", b="Pod")
