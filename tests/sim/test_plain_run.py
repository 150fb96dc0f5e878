"""Whole runs of random rules against a plain loop: what fires, for how many, and every number after every tick."""

from __future__ import annotations

from random import Random

import pytest
from msgspec.structs import replace
from plain_run import PlainRun

from building import START, add, c, fired, kind, level, rule, run, things
from gatillo.catalogue.conversion import as_graph
from gatillo.formula.compiling import column_key
from gatillo.level.model import Clause, Spot
from gatillo.sim.trace.trace import Way

WAYS = {Way.DO: "do", Way.ELSE: "else", Way.RESUMED: "resumed"}
KINDS = (kind("Moth", 2, has={"p": 1.0, "q": 2.0}), kind("Lamp", 2, has={"p": 3.0, "q": 4.0}))
NUMBERS = ["Moth.p", "Moth.q", "Lamp.p", "another_Moth.p", "level.u", "level.v", "tick", "3", "Moth.x"]
WRITTEN = ["level.u", "level.v", "Moth.p", "Moth.q", "Lamp.p", "another_Moth.p"]


class Made:
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
            elif what < 0.85:
                count = self.any.choice(["2", "level.u mod 3", "1.9"])
                made.append(Clause(use="repeat", slots={"count": count}, of=self.within()))
            else:
                # what is created for some of those that an “if” looks for is left out: two may share a match
                asked = self.any.choice([None, "level.u mod 2 = 1", "tick mod 3 = 0"])
                made.append(
                    Clause(
                        use="if_so",
                        slots={"formula": asked or self.comparison()},
                        of=self.within(asked is None),
                    )
                )
                if self.any.random() < 0.5:
                    made.append(Clause(use="otherwise", slots={}, of=self.within(asked is None)))
        return tuple(made)

    def within(self, writes=False):
        return tuple(
            self.write() if writes or self.any.random() < 0.6 else self.other()
            for _ in range(self.any.randint(1, 2))
        )

    def other(self):
        rule = f"r{self.any.randint(1, 3)}"
        made = self.any.choice(
            [
                c("send_message", message="go"),
                c("switch_rule_off", rule=rule),
                c("switch_rule_on", rule=rule),
                c("cancel_waits", rule=rule),
                c("create", count=self.any.choice(["1", "level.u mod 3", "0"]), kind="Lamp", where="spot"),
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
        return Clause(
            use="formula_holds", slots={"formula": self.comparison()}, negated=pick([False, False, True])
        )

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
        moths, lamps = self.any.randint(1, 3), self.any.randint(0, 2)
        return level(
            *(self.rule(at + 1) for at in range(3)),
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
        (f.tick, made.program.turns[f.turn].rule.name, WAYS[f.way], f.matches)
        for f in made.trace.firings_at(tick)
    ]


def numbers(made):
    there = made.world.alive.nonzero()[0]
    kept = {n: made.world.values_of(there, column_key(n, "number")).tolist() for n in "pq"}
    return {**made.world.level, **kept}


def plain_numbers(plain):
    return {**vars(plain.level), **{n: [getattr(one, n) for one in plain.objects] for n in "pq"}}


def too_much(plain):
    """Numbers that a double no longer holds to the last digit, or more objects than a test has time for."""
    seen = [
        plain.level.u,
        plain.level.v,
        *(one.p for one in plain.objects),
        *(one.q for one in plain.objects),
    ]
    return len(plain.objects) > 40 or max(map(abs, seen)) > 1e12


@pytest.mark.parametrize("first", range(0, 320, 80))
def test_random_rules_and_their_graphs_run_as_in_a_plain_loop(first):
    for seed in range(first, first + 80):
        built = Made(seed).level()
        drawn = replace(built, order=tuple(as_graph(one) for one in built.order))
        plain, made, graphs = PlainRun(built), run(built, 0), run(drawn, 0)
        for tick in range(1, 13):
            plain.step()
            if too_much(plain):
                break
            fired, expected = [f for f in plain.fired if f[0] == tick], plain_numbers(plain)
            for one in (made, graphs):
                one.advance(1)
                assert told(one, tick) == fired, (seed, one is graphs)
                assert numbers(one) == expected, (seed, one is graphs)
                assert one.trace.faults == []


# what is created, for whom


EACH_MOTH = {"when": START, "if_": c("formula_holds", formula="Moth.x > 0")}
LAMP = c("create", count="1", kind="Lamp", where="Moth")
FAR, NEAR = (c("set_variable", variable="new Lamp.p", value=value) for value in ("Moth.x", "100 + Moth.x"))
IF_FAR = "Moth.x > 15"


def lamps_after(*order, ticks=1):
    """Where lamps stand, and what their p is."""
    built = level(*order, kinds=KINDS, objects=things("Moth", (10, 0), (20, 0), (30, 0)))
    made = run(built, ticks)
    assert made.trace.faults == []
    rows = made.world.rows_of_kind(1)
    return sorted(zip(made.world.x[rows].tolist(), numbers(made)["p"][3:], strict=True))


def within(formula, *lines):
    return Clause(use="if_so", slots={"formula": formula}, of=lines)


def otherwise(*lines):
    return Clause(use="otherwise", of=lines)


OWN = [(10, 110), (20, 20), (30, 30)]


@pytest.mark.parametrize(
    "lines",
    [
        (LAMP, within(IF_FAR, FAR), otherwise(NEAR)),
        (within(IF_FAR, LAMP, FAR), otherwise(LAMP, NEAR)),
        (within(IF_FAR, LAMP), otherwise(LAMP), within(IF_FAR, FAR), otherwise(NEAR)),
        (LAMP, c("wait", time="Moth.x / 1000"), within(IF_FAR, FAR), otherwise(NEAR)),
        (
            LAMP,
            Clause(use="repeat", slots={"count": "Moth.x / 10 - 1"}, of=(FAR,)),
            within("Moth.x < 15", NEAR),
        ),
    ],
)
@pytest.mark.parametrize("mode", [{}, {"one_at_a_time": True}])
def test_what_is_new_is_so_for_the_match_it_was_created_for(lines, mode):
    made = rule("r", do=lines, id=5, **EACH_MOTH, **mode)
    assert lamps_after(made, ticks=4) == OWN
    assert lamps_after(as_graph(made), ticks=4) == OWN


@pytest.mark.parametrize(
    "lines",
    [
        (c("create", count="0", kind="Lamp", where="Moth"), FAR),
        (within("Moth.x > 99", LAMP), FAR),
        (LAMP, c("create", count="0", kind="Lamp", where="Moth"), FAR),
    ],
)
def test_what_is_new_is_nobody_where_nothing_was_created(lines):
    old = rule("old", when=START, do=c("create", count="1", kind="Lamp", where="Moth"), id=4)
    found = lamps_after(old, rule("r", do=lines, id=5, **EACH_MOTH))
    assert {p for _, p in found} == {3.0}


def test_of_a_repeat_the_last_turns_objects_are_new_below_it():
    lines = (Clause(use="repeat", slots={"count": "2"}, of=(LAMP, NEAR)), FAR)
    assert lamps_after(rule("r", do=lines, **EACH_MOTH)) == [
        (x, p) for x in (10, 20, 30) for p in sorted((x, 100 + x))
    ]


def test_a_combination_is_the_same_however_its_roles_came_in():
    change = rule("change", when=START, do=add("Moth.q"))
    made = rule(
        "r",
        when=(c("variable_changes", variable="Moth.q"), c("every_seconds", period="0.1", first="0.1")),
        if_=c("formula_holds", formula="Lamp.p + Moth.p > 0"),
        do=add("level.n"),
        fires="first time only",
        first_per="object",
    )
    both = things("Moth", (0, 0)) + things("Lamp", (5, 0), first=9)
    # at first the moth is there and a lamp is looked for, then a lamp and a moth
    assert fired(run(level(change, made, kinds=KINDS, objects=both, has={"n": 0.0}), 20), "r") == [(1, 1)]
