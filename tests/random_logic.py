"""Random rules of moths and lamps, by a seed; and what of a run is compared with a plain loop's."""

from __future__ import annotations

import re
from random import Random

from msgspec.structs import replace

from building import c, kind, level, rule, things
from gatillo.formula.formula import column_key
from gatillo.level.model import Clause, Spot
from gatillo.sim.trace.trace import Way

WAYS = {Way.DO: "do", Way.ELSE: "else", Way.RESUMED: "resumed"}
KINDS = (kind("Moth", 2, has={"p": 1.0, "q": 2.0}), kind("Lamp", 2, has={"p": 3.0, "q": 4.0}))
NUMBERS = ["Moth.p", "Moth.q", "Lamp.p", "another_Moth.p", "level.u", "level.v", "tick", "3", "Moth.x"]
WRITTEN = ["level.u", "level.v", "Moth.p", "Moth.q", "Lamp.p", "another_Moth.p"]


OTHERS = re.compile("another_Moth|Lamp")


class RandomLogic:
    """Random rules, by a seed."""

    def __init__(self, seed):
        self.any = Random(seed)
        self.created = False
        """Whether the list that is being made has a line that creates a lamp, of whom others can speak."""

    def number(self):
        return self.any.choice([*NUMBERS, "new_Lamp.p", "new_Lamp.p"] if self.created else NUMBERS)

    def formula(self):
        return f"({self.number()} {self.any.choice('+-*')} {self.number()}) mod {self.any.randint(2, 9)}"

    def comparison(self):
        return (
            f"{self.formula()} {self.any.choice(['<', '>', '=', '<>', '>=', '<='])} {self.any.randint(0, 4)}"
        )

    def write(self):
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

    def lines(self):
        made = []
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

    def nested(self, deep=0):
        """A repeat, or an “if” with or without an “otherwise”, and lines within it."""
        if self.any.random() < 0.4:
            count = self.any.choice(["2", "level.u mod 3", "1.9", "Moth.p mod 4", "Lamp.p mod 3"])
            return [Clause(use="repeat", slots={"count": count}, of=self.within(deep))]
        asked = self.any.choice([None, None, "level.u mod 2 = 1", "tick mod 3 = 0"])
        made = [Clause(use="if_so", slots={"formula": asked or self.comparison()}, of=self.within(deep))]
        if self.any.random() < 0.5:
            made.append(Clause(use="otherwise", slots={}, of=self.within(deep)))
        return made

    def within(self, deep):
        made = []
        for _ in range(self.any.randint(1, 2)):
            what = self.any.random()
            if what < 0.15 and deep < 2:
                made += self.nested(deep + 1)
            else:
                made.append(self.write() if what < 0.65 else self.other())
        return tuple(made)

    def other(self, uses=()):
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
        self.created = self.created or made.use == "create"
        return made

    def occasion(self):
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

    def condition(self):
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

    def line(self):
        negated = self.any.random() < 0.33
        return Clause(use="formula_holds", slots={"formula": self.comparison()}, negated=negated)

    def group(self):
        use = self.any.choice(["all_of", "any_of", "none_of"])
        lines = [self.line() for _ in range(self.any.randint(1, 3))]
        if use == "none_of":
            # of one subject, so that each line has the group's
            lines = [
                replace(one, slots={"formula": OTHERS.sub("Moth", one.slots["formula"])}) for one in lines
            ]
        return Clause(use=use, of=tuple(lines), negated=self.any.random() < 0.2)

    def rule(self, number):
        pick = self.any.choice
        self.created = False
        conditions = tuple(self.condition() for _ in range(self.any.randint(0, 2)))
        do = self.lines()
        if self.any.random() < 0.1:
            do = (*do, c("remove", who=pick(["Moth", "Lamp"])))
        self.created = False
        return rule(
            f"r{number}",
            id=number,
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

    def level(self):
        return self.place(lambda: (self.rule(at + 1) for at in range(3)))

    def place(self, make):
        """A level of some moths and lamps, and of the order that is made for them."""
        moths, lamps = self.any.randint(1, 3), self.any.randint(0, 2)
        return level(
            *make(),
            kinds=KINDS,
            objects=things("Moth", *[(10 * at, 0) for at in range(moths)])
            + things("Lamp", *[(10 * at, 50) for at in range(lamps)], first=50),
            has={"u": 1.0, "v": 0.0},
            places=(Spot(name="spot", x=0.0, y=0.0),),
            seconds=1.2,
            rate=10,
        )


def told(made, tick):
    return [
        (f.tick, made.program.rules[f.rule_index].source.name, WAYS[f.way], f.matches)
        for f in made.trace.firings_at(tick)
    ]


def numbers(made):
    there = made.world.alive.nonzero()[0]
    kept = {n: made.world.values_of(there, column_key(n, "number")).tolist() for n in "pq"}
    return {**made.world.level, **kept}


def plain_numbers(plain):
    return {**vars(plain.level), **{n: [getattr(one, n) for one in plain.objects] for n in "pq"}}


def too_much(plain):
    """Numbers that a double no longer holds to the last digit, or more objects and messages than a test has time for."""
    seen = [
        plain.level.u,
        plain.level.v,
        *(one.p for one in plain.objects),
        *(one.q for one in plain.objects),
    ]
    return len(plain.objects) > 40 or max(map(abs, seen)) > 1e12 or sum(plain.sent.values()) > 500
