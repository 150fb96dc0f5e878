"""Picks: which of the matches are kept, over all of them or for each object of a role."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Numbers, Rows
from gatillo.catalogue.declare.entry import choice, number, per, pick, role, slot
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded
from gatillo.formula.values import spread
from gatillo.kernels.mathematics import length

SUBJECT = Subject("picks", place=130)

Yes = NDArray[np.bool_]
Per = Rows | str


def best(score: Any, per: Per, n: int, count: int = 1) -> Yes:
    """Return the `count` matches with the lowest score in each group; of equals, the oldest."""
    scores = spread(np.asarray(score, dtype=np.float64), n)
    groups = np.zeros(n, dtype=np.int64) if isinstance(per, str) else per
    order = np.lexsort((np.arange(n), scores, groups))
    sorted_groups = groups[order]
    starts = (
        np.concatenate(([True], sorted_groups[1:] != sorted_groups[:-1])) if n else np.zeros(0, dtype=bool)
    )
    first = np.maximum.accumulate(np.where(starts, np.arange(n), 0))
    kept = np.zeros(n, dtype=bool)
    kept[order] = np.arange(n) - first < count
    return kept


@pick(
    "keep the nearest {a} to {where}, of {per}",
    "Of several, the nearest one.",
    a=role(),
    where=slot("where"),
    per=per(),
    measured=("nearest", "a", "where"),
    says=[
        "[pick/choose/take/only/just/select] [the] nearest/closest {a} to/from/by {where}",
        "nearest/closest {a} to/from {where}",
        "only/just/keep/pick/choose/take the {a} nearest/closest to {where}",
        "the {a} that is nearest/closest to! {where}",
        "whichever {a} is nearest/closest to {where}",
        "whoever {a} is nearest/closest to {where}",
        "{a} nearest/closest to! {where}",
        "[only/keep/pick/choose/take] [the] nearest/closest one/match [to {where}]",
        "prefer/want/use [the] nearest/closest {a} to/from {where}",
        "{a} nearest/closest to! {where}",
        "keep/just only [the] nearest/closest {a} to/from {where}",
    ],
)
def nearest(world: QueryApi, a: Rows, where: tuple[Any, Any], per: Per) -> Yes:
    x, y = world.place(a)
    return best(length(where[0] - x, where[1] - y), per, len(a))


@pick(
    "keep the one with the {end} {value}, of {per}",
    "Of several, the one for which a formula is lowest or highest.",
    end=choice("lowest", "highest"),
    value=number("", "a formula, such as distance(Gardener, Pod)"),
    per=per(),
    measured=("value", "value"),
    says=[
        "[pick/choose/take/only/select] [the] [one] with [the] {end} {value}",
        "[pick/choose/take/only/select] [the] {end} {value}",
        "one whose {value} is {end}",
        "the one with {end} {value}",
        worded("[keep/pick/choose/take] [the] {a} with [the] {end} {value}", objects=("a",)),
        worded("[only/keep/pick/choose/take] [only] [the] {a} with [the] {end} {value}", objects=("a",)),
        worded(
            "[keep/pick/choose/take] [the] farthest/furthest/remotest {a} to/from/of {other}",
            objects=("a",),
            places=("other",),
            end="highest",
            value="distance({a}, {other})",
        ),
    ],
)
def best_by(world: QueryApi, end: str, value: Numbers, per: Per) -> Yes:
    n = world.matches()
    return best(value if end == "lowest" else -np.asarray(value), per, n)


@pick(
    "keep the front-most {a}, of {per}",
    "Of several, the one drawn in front of the others.",
    a=role(),
    per=per(),
    measured=("depth", "a"),
    says=[
        "[only/pick/choose/take] [the] topmost/uppermost/frontmost/front-most {a}",
        "[only/pick/choose/take] [the] {a} in front",
        "[the] {a} on top only",
        "only [the] {a} on top",
        "[only/pick/choose/take] [the] {a} on top",
        "keep the front/top {a}",
    ],
)
def front_most(world: QueryApi, a: Rows, per: Per) -> Yes:
    depth = world.property(a, "depth")
    # of equal depth the younger is drawn later, so in front
    order = np.lexsort((world.ids(a), depth))
    rank = np.empty(len(a))
    rank[order] = np.arange(len(a))
    return best(-rank, per, len(a))


@pick(
    "keep a random one, of {per}",
    "Of several, one at random.",
    per=per(),
    says=[
        "any one at random",
        "[pick/choose/take/select/keep] any/a/one [of them] at random",
        "[pick/choose/take/select/keep] one/a random/randomly",
        "pick/choose/select/randomly random/randomly [one]",
        "random one/match",
        "any one [of them]",
        "randomly pick/choose/select one",
        "pick/choose/select/take/keep one/any of the matches at random",
    ],
)
def random_one(world: QueryApi, per: Per) -> Yes:
    return best(world.draw(), per, world.matches())


@pick(
    "keep the first {count}, of {per}",
    "Of several, the oldest ones, as many as given.",
    count=number("1"),
    per=per(),
    says=[
        "only/pick/take/choose [the] first {count} [of {per}]",
        "limit [to] [the] [first] {count}",
        "no more than {count} [matches]",
        "at most {count} [matches]",
        worded("just/only/at-most one [of them]", count="1"),
        worded("only [the] first", count="1"),
        worded("[the] first one only", count="1"),
        "keep only {count}",
    ],
)
def first_n(world: QueryApi, count: Numbers, per: Per) -> Yes:
    n = world.matches()
    most = int(np.max(np.floor(count))) if n else 0
    return best(0.0, per, n, max(0, most))
