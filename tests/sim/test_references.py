"""Variables that refer to an object: what they are worth when it is gone."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import add, c, fired, kind, level, rule, run, things
from gatillo.level.model import Reference, Variable

HATCH = replace(
    kind("Hatch", 5, contact="none"),
    variables=(Variable(name="target", value=Reference(to="Moth 1", kind="Moth")),),
)
MOTH = kind("Moth", 5, contact="none", has={"p": 1.0})
REMOVE = rule("remove", when=c("after_start", time="0.05"), do=c("remove", who="Moth 1"))


def watched(formula, *, order=(), ticks=8, others=()):
    """In which ticks a formula about a hatch holds, when Moth 1 is removed in tick 3 by a rule above."""
    seen = rule(
        "seen",
        when=c("each_in_every_tick", who="Hatch"),
        if_=c("formula_holds", formula=formula),
        do=add("level.n"),
    )
    built = level(
        REMOVE,
        *order,
        seen,
        kinds=(HATCH, MOTH),
        objects=(*things("Hatch", (0, 0), *others), *things("Moth", (50, 0), (90, 0), first=30)),
        has={"n": 0.0},
    )
    built = replace(built, variables=(*built.variables, Variable(name="lead", value=Reference(to="Moth 1"))))
    made = run(built, ticks)
    assert made.trace.faults == []
    return [tick for tick, _ in fired(made, "seen")]


@pytest.mark.parametrize("others", [(), ((1, 0),), tuple((n, 0) for n in range(40))])
@pytest.mark.parametrize("owner", ["Hatch.target", "level.lead"])
def test_a_reference_to_a_removed_object_is_nobody(owner, others):
    others = others[:20]
    assert watched(f"{owner} <> nobody", others=others) == [1, 2]
    assert watched(f"{owner} = nobody", others=others) == [3, 4, 5, 6, 7, 8]
    assert watched(f"{owner} = Moth_2", others=others) == []


def test_a_guard_keeps_a_formula_from_reading_a_removed_object():
    guarded = rule(
        "guarded",
        when=c("each_in_every_tick", who="Hatch"),
        if_=(
            c("formula_holds", formula="Hatch.target <> nobody"),
            c("formula_holds", formula="target_of_Hatch.p = 1"),
        ),
        do=add("level.n"),
    )
    assert watched("Hatch.target = nobody", order=(guarded,)) == [3, 4, 5, 6, 7, 8]


def test_a_copied_reference_to_a_removed_object_is_nobody():
    copy = rule(
        "copy",
        when=c("after_start", time="0.08"),
        do=c("set_variable", variable="Hatch.target", value="level.lead"),
    )
    assert watched("Hatch.target = nobody", order=(copy,)) == [3, 4, 5, 6, 7, 8]
