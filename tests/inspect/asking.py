"""Asking a run why and why not, in tests; and random levels to ask."""

from __future__ import annotations

import random

from msgspec.structs import replace

from building import (
    EVERY_TICK,
    POD,
    add,
    c,
    heard,
    kind,
    level,
    rule,
    send,
    things,
)
from gatillo.inspect.reasons.asking import named_object, named_rule
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.level.model import Level
from gatillo.sim.run.run import Run


def told(reason: Reason, depth: int = 4) -> str:
    return "\n".join(reason.lines(depth))


def why(made: Run, name: str, nth: int = 0, about: int | None = None) -> Reason:
    firing = [f for f in made.trace.firings() if made.program.rules[f.rule_index].source.name == name][nth]
    return Explainer(made).fired(firing.tick, firing.position, about)


def why_not(made: Run, name: str, tick: int, *objects: str) -> Reason:
    return WhyNot(Explainer(made)).at(
        named_rule(made, name), tick, tuple(named_object(made, o) for o in objects)
    )


def random_level(chance: random.Random) -> Level:
    """Rules that send, hear, write and read, by chance."""
    rules = []
    for at in range(chance.randint(3, 8)):
        when = chance.choice(
            [
                EVERY_TICK,
                (),
                heard(chance.choice("ab")),
                c("key_pressed", key=chance.choice("XY")),
                c("each_in_every_tick", who="Pod"),
                c("variable_changes", variable="level.v1"),
            ]
        )
        who = "Pod" if when != () and getattr(when, "use", "") == "each_in_every_tick" else "level"
        left = f"{who}.v{chance.randint(1, 3)}" if who == "level" else "Pod.size"
        if_ = [
            c(
                "formula_holds",
                formula=f"{left} {chance.choice(['<', '>', '<=', '>=', '='])} {chance.randint(0, 6)}",
            )
            for _ in range(chance.randint(0, 2))
        ]
        do = [
            chance.choice(
                [
                    add(f"level.v{chance.randint(1, 3)}", str(chance.randint(1, 3))),
                    c(
                        "set_variable",
                        variable=f"level.v{chance.randint(1, 3)}",
                        value=str(chance.randint(0, 6)),
                    ),
                    send(chance.choice("ab")),
                    *([add("Pod.size")] if who == "Pod" else []),
                ]
            )
            for _ in range(chance.randint(1, 3))
        ]
        fires = chance.choice(["each tick", "each tick", "on becoming true", "first time only"])
        rules.append(
            rule(
                f"r{at}",
                when=when,
                if_=if_,
                do=do,
                fires=fires,
                cooldown=chance.choice([0.0, 0.0, 0.1]),
                id=100 + at,
            )
        )
    return level(
        *rules,
        kinds=(replace(POD, variables=kind("Pod", has={"size": 0.0}).variables),),
        objects=things("Pod", (0, 0), (50, 0)),
        has={f"v{n}": 0.0 for n in (1, 2, 3)},
        keys=tuple((key, t, t + 0.05) for key, t in (("X", 0.1), ("Y", 0.2), ("X", 0.3))),
        seconds=0.5,
    )
