"""Random rules of moths and lamps that stand still: what a plain loop of a page's length can run too."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from random import Random
from typing import Any

from msgspec.structs import replace

from gatillo.level.model import (
    Circle,
    Clause,
    Kind,
    Level,
    Object,
    Rule,
    Settings,
    Spot,
    Trial,
    Variable,
)

NUMBERS = ["Moth.p", "Moth.q", "Lamp.p", "another_Moth.p", "level.u", "level.v", "tick", "3", "Moth.x"]
WRITTEN = ["level.u", "level.v", "Moth.p", "Moth.q", "Lamp.p", "another_Moth.p"]
OTHERS = re.compile("another_Moth|Lamp")
RATE, SECONDS = 10, 1.2


def _kind(name: str, p: float, q: float) -> Kind:
    variables = (Variable(name="p", value=p), Variable(name="q", value=q))
    return Kind(name=name, shape=Circle(radius=2), variables=variables)


KINDS = (_kind("Moth", 1.0, 2.0), _kind("Lamp", 3.0, 4.0))


def c(use: str, **slots: str) -> Clause:
    """Return a line."""
    return Clause(use=use, slots=slots)


class RandomLogic:
    """Random rules, by a seed."""

    def __init__(self, seed: int) -> None:
        self.any = Random(seed)
        self.created = False
        """Whether the list that is being made has a line that creates a lamp, of whom others can speak."""

    def number(self) -> str:
        """Return a number that a formula reads."""
        return self.any.choice([*NUMBERS, "new_Lamp.p", "new_Lamp.p"] if self.created else NUMBERS)

    def formula(self) -> str:
        """Return a formula of two numbers."""
        return f"({self.number()} {self.any.choice('+-*')} {self.number()}) mod {self.any.randint(2, 9)}"

    def comparison(self) -> str:
        """Return a yes/no formula."""
        return (
            f"{self.formula()} {self.any.choice(['<', '>', '=', '<>', '>=', '<='])} {self.any.randint(0, 4)}"
        )

    def write(self) -> Clause:
        """Return an action that writes a variable."""
        how, slot = self.any.choice(
            [
                ("set_variable", "value"),
                ("set_variable", "value"),
                ("add_to", "amount"),
                ("multiply", "factor"),
            ]
        )
        slots = {
            "variable": self.any.choice([*WRITTEN, *["new_Lamp.p"] * 3] if self.created else WRITTEN),
            slot: self.formula(),
        }
        return Clause(use=how, slots=slots, once=self.any.random() < 0.2)

    def lines(self) -> tuple[Clause, ...]:
        """Return the actions of a rule."""
        made: list[Clause] = []
        for _ in range(self.any.randint(1, 3)):
            what = self.any.random()
            if what < 0.45:
                made.append(self.write())
            elif what < 0.6:
                made.append(self.other())
            elif what < 0.75:
                made.append(c("wait", time=self.any.choice(["0.1", "0", "Moth.p / 10", "0.25"])))
            else:
                made += self.nested()
        return tuple(made)

    def nested(self, deep: int = 0) -> list[Clause]:
        """Return a repeat, or an “if” with or without an “otherwise”, and lines within it."""
        if self.any.random() < 0.4:
            count = self.any.choice(["2", "level.u mod 3", "1.9", "Moth.p mod 4", "Lamp.p mod 3"])
            return [Clause(use="repeat", slots={"count": count}, of=self.within(deep))]
        asked = self.any.choice([None, None, "level.u mod 2 = 1", "tick mod 3 = 0"])
        made = [Clause(use="if_so", slots={"formula": asked or self.comparison()}, of=self.within(deep))]
        if self.any.random() < 0.5:
            made.append(Clause(use="otherwise", slots={}, of=self.within(deep)))
        return made

    def within(self, deep: int) -> tuple[Clause, ...]:
        """Return the lines within a repeat or an “if”."""
        made: list[Clause] = []
        for _ in range(self.any.randint(1, 2)):
            what = self.any.random()
            if what < 0.15 and deep < 2:
                made += self.nested(deep + 1)
            else:
                made.append(self.write() if what < 0.65 else self.other())
        return tuple(made)

    def other(self, uses: Iterable[str] = ()) -> Clause:
        """Return an action that writes no variable; one of some uses if they are given."""
        rule = f"r{self.any.randint(1, 3)}"
        made = self.any.choice(
            [
                one
                for one in (
                    c("send_message", message="go"),
                    c("switch_rule_off", rule=rule),
                    c("switch_rule_on", rule=rule),
                    c("cancel_waits", rule=rule),
                    c(
                        "create",
                        count=self.any.choice(["1", "level.u mod 3", "0"]),
                        kind="Lamp",
                        where="spot",
                    ),
                )
                if not uses or one.use in uses
            ]
        )
        self.created = self.created or "kind" in made.slots
        return made

    def occasion(self) -> Clause:
        """Return an occasion."""
        pick = self.any.choice
        return pick(
            [
                c("each_in_every_tick", who="Moth"),
                c("each_in_every_tick", who="Lamp"),
                c("every_seconds", period="0.25", first="0.25"),
                c("message_heard", message="go"),
                c("after_rule", time=pick(["0", "0.25"]), rule=f"r{self.any.randint(1, 3)}"),
                c("variable_changes", variable=pick(["Moth.p", "level.u"])),
                c("rises_above", variable=pick(["Moth.p", "level.u"]), limit="1"),
            ]
        )

    def condition(self) -> Clause:
        """Return a condition: a comparison, a group, or one that keeps some matches."""
        pick = self.any.choice
        if self.any.random() < 0.2:
            return pick(
                [
                    c("first_n", count=pick(["1", "2.5"]), per="all matches"),
                    c(
                        "best_by",
                        end=pick(["lowest", "highest"]),
                        value=pick(["Moth.p", "Lamp.q + Moth.x"]),
                        per="all matches",
                    ),
                ]
            )
        if self.any.random() < 0.2:
            return self.group()
        return self.line()

    def line(self) -> Clause:
        """Return a comparison as a condition, sometimes turned round."""
        negated = self.any.random() < 0.33
        return Clause(use="formula_holds", slots={"formula": self.comparison()}, negated=negated)

    def group(self) -> Clause:
        """Return a group of conditions."""
        use = self.any.choice(["all_of", "any_of", "none_of"])
        lines = [self.line() for _ in range(self.any.randint(1, 3))]
        if use == "none_of":
            # of one subject, so that each line has the group's
            lines = [
                replace(one, slots={"formula": OTHERS.sub("Moth", one.slots["formula"])}) for one in lines
            ]
        return Clause(use=use, of=tuple(lines), negated=self.any.random() < 0.2)

    def rule(self, number: int) -> Rule:
        """Return a rule, with all that can be said of its firings."""
        pick = self.any.choice
        self.created = False
        conditions = tuple(self.condition() for _ in range(self.any.randint(0, 2)))
        do = self.lines()
        if self.any.random() < 0.1:
            do = (*do, c("remove", who=pick(["Moth", "Lamp"])))
        self.created = False
        return Rule(
            id=number,
            name=f"r{number}",
            when=tuple(self.occasion() for _ in range(pick([0, 1, 1, 1, 2]))),
            if_=conditions,
            do=do,
            else_=(self.write(),) if conditions and self.any.random() < 0.4 else (),
            fires=pick(["each tick", "each tick", "on becoming true", "first time only"]),
            first_per=pick(["rule", "object"]),
            cooldown=pick([0.0, 0.0, 0.25]),
            cooldown_per=pick(["rule", "object"]),
            once_for_all=pick([False, False, True]),
            one_at_a_time=pick([False, False, True]),
            while_waiting=pick(["stack", "ignore", "restart"]),
        )

    def level(self) -> Level:
        """Return a level of three rules."""
        return self.place(lambda: (self.rule(at + 1) for at in range(3)))

    def place(self, make: Callable[[], Iterable[Any]]) -> Level:
        """Return a level of some moths and lamps, and of the order that is made for them."""
        moths, lamps = self.any.randint(1, 3), self.any.randint(0, 2)
        objects = [
            Object(id=at + 1, kind="Moth", name=f"Moth {at + 1}", x=10.0 * at, y=0.0) for at in range(moths)
        ]
        objects += [
            Object(id=50 + at, kind="Lamp", name=f"Lamp {50 + at}", x=10.0 * at, y=50.0)
            for at in range(lamps)
        ]
        return Level(
            format=1,
            name="test",
            settings=Settings(rate=RATE),
            variables=(Variable(name="u", value=1.0), Variable(name="v", value=0.0)),
            kinds=KINDS,
            places=(Spot(name="spot", x=0.0, y=0.0),),
            objects=tuple(objects),
            order=tuple(make()),
            trials=(Trial(name="trial", length=SECONDS),),
        )
