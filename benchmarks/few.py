"""Rules over a handful of matches: sixty that are looked at in every tick, over one object each, and sixty that fire."""

from __future__ import annotations

from gatillo.level.model import (
    FORMAT_VERSION,
    Circle,
    Clause,
    Kind,
    Level,
    Logic,
    Object,
    Rule,
    Trial,
    Variable,
)

LAMPS = 12


def looked_at(rules: int) -> Level:
    """Rules with a condition over one lamp, which never holds and has changed in every tick."""
    return _level(
        [_rule(at, f"time * {at + 1} + Lamp_{at % LAMPS + 1}.x < -{at + 1}") for at in range(rules)]
    )


def firing(rules: int) -> Level:
    """Return rules that hold in every tick and set the lamp's number."""
    return _level(
        [_rule(at, f"time * {at + 1} + Lamp_{at % LAMPS + 1}.x > -{at + 1}") for at in range(rules)]
    )


def _rule(at: int, condition: str) -> Rule:
    number = f"Lamp_{at % LAMPS + 1}.n"
    return Rule(
        id=at + 1,
        name=f"rule {at}",
        if_=(Clause(use="formula_holds", slots={"formula": condition}),),
        do=(Clause(use="set_variable", slots={"variable": number, "value": f"{number} + {at}"}),),
    )


def _level(order: list[Logic]) -> Level:
    return Level(
        format=FORMAT_VERSION,
        name="few matches",
        kinds=(Kind(name="Lamp", shape=Circle(radius=5.0), variables=(Variable(name="n"),)),),
        objects=tuple(
            Object(id=at + 1, kind="Lamp", name=f"Lamp {at + 1}", x=50.0 * at, y=0.0) for at in range(LAMPS)
        ),
        order=tuple(order),
        trials=(Trial(name="t", length=5.0),),
    )
