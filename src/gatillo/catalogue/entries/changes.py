"""Occasions about what has changed since the rule's turn a tick before.

They look back to the rule's own last turn, at its first turn to the level as laid out, so no change is lost, wherever in
the order it was made.
"""

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import NOBODY, ONCE, Candidates, Numbers, Watched
from gatillo.catalogue.declare.entry import number, occasion, role, seconds, slot
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded
from gatillo.level.roles import Role

SUBJECT = Subject("changes", place=100)

Turned = Callable[[Any, Any], Any]


def _changed(world: QueryApi, variable: Watched, turned: Turned) -> Candidates:
    """Return objects whose value then and now answer `turned` with yes."""
    ids, values = world.values(variable)
    before: tuple[NDArray[np.int64], Any] | None = world.recall(None)
    world.remember((ids, values))
    was_ids, was = world.laid_out(variable) if before is None else before
    if variable.role is None:
        return ONCE if turned(was.item(), values.item()) else NOBODY
    if len(ids) == len(was_ids) and (ids == was_ids).all():
        # no object was created or removed
        both, yes = ids, np.asarray(turned(was, values), dtype=bool)
    else:
        both, now_at, was_at = np.intersect1d(ids, was_ids, assume_unique=True, return_indices=True)
        yes = np.asarray(turned(was[was_at], values[now_at]), dtype=bool)
    if not yes.any():
        return NOBODY
    rows = world.rows(both[yes])
    return Candidates(len(rows), {variable.role.token: rows})


@occasion(
    "{variable} changes",
    "When a variable has another value than at this rule's previous turn; on its first turn, than in "
    "the level as laid out.",
    depends=("variable",),
    variable=slot("variable"),
    says=[
        "{variable} is changed/modified/updated/altered",
        "{variable} gets another/new value",
        "value of {variable} changes",
        "{variable} becomes different",
        "change of/in {variable}",
        "{variable} alters/varies",
        "on change of {variable}",
        "{variable} is different [than/from/to] [before/earlier]",
        "{variable} is no longer the same",
    ],
)
def variable_changes(world: QueryApi, variable: Watched) -> Candidates:
    return _changed(world, variable, lambda was, now: was != now)


@occasion(
    "{variable} rises above {limit}",
    "When a number that was at or below a limit is above it.",
    depends=("variable",),
    variable=slot("number variable"),
    limit=number("0"),
    measured=("above", "variable", "limit"),
    begins="been above",
    says=[
        "{variable} goes/gets/climbs/is/comes above/over/past/beyond {limit}",
        "{variable} exceeds/passes/surpasses {limit}",
        "{variable} becomes/gets more/greater/higher/bigger/larger than {limit}",
        "{variable} grows/rises past/beyond/over/above {limit}",
        "{variable} grows/rises to more than {limit}",
        "{variable} crosses {limit} upward/upwards",
        "{variable} crosses above {limit}",
        "{variable} gets/grows/becomes stronger/bigger/higher/larger/greater/more than {limit}",
        "{variable} gets/goes/climbs/jumps/passes past/over/above/beyond {limit}",
    ],
)
def rises_above(world: QueryApi, variable: Watched, limit: Numbers) -> Candidates:
    return _changed(world, variable, lambda was, now: (was <= limit) & (now > limit))


@occasion(
    "{variable} falls below {limit}",
    "When a number that was at or above a limit is below it.",
    depends=("variable",),
    variable=slot("number variable"),
    limit=number("0"),
    measured=("below", "variable", "limit"),
    begins="been below",
    says=[
        "{variable} goes/gets/drops/sinks/is/comes below/under {limit}",
        "{variable} becomes/gets less/lower/smaller/fewer than {limit}",
        "{variable} falls/drops/sinks/shrinks below/under {limit}",
        "{variable} falls/drops to less than {limit}",
        "{variable} crosses {limit} downward/downwards",
        "{variable} crosses below {limit}",
        "{variable} gets/becomes weaker/smaller/lower/less than {limit}",
        "{variable} gets/goes/dips/drops/sinks below/under/beneath {limit}",
    ],
)
def falls_below(world: QueryApi, variable: Watched, limit: Numbers) -> Candidates:
    return _changed(world, variable, lambda was, now: (was >= limit) & (now < limit))


@occasion(
    "{a} is created",
    "Once for each object that a rule has created since.",
    depends=(),
    a=role(),
    says=[
        "{a} is spawned/made/added/born",
        "{a} appears/spawns",
        "new {a} appears/spawns",
        "{a} comes into being/existence",
        "creation/birth of {a}",
        "{a} gets/has been created/spawned",
        "{a} shows/turns/pops up",
        "{a} comes up",
        "{a} arrives/enters [in/on] the level/scene/game",
    ],
)
def is_created(world: QueryApi, a: Role) -> Candidates:
    next_id, rows = world.created_since(world.recall(0), a)
    world.remember(next_id)
    return Candidates(len(rows), {a.token: rows})


@occasion(
    "{a} is removed",
    "Once for each object that was removed since; its last values can still be read.",
    a=role(),
    says=[
        "{a} is no more",
        "{a} is destroyed/deleted/killed/erased/gone",
        "{a} dies/disappears/vanishes/despawns",
        "{a} gets/has been destroyed/removed/deleted/killed",
        "{a} destroyed/removed/deleted/killed",
        "{a} is/gets collected/eaten/taken",
        "death/removal/destruction of {a}",
    ],
)
def is_removed(world: QueryApi, a: Role) -> Candidates:
    rows = world.removed_since(world.recall(0), a)
    world.remember(world.tick)
    return Candidates(len(rows), {a.token: rows})


@occasion(
    "{time} s after {rule} fired",
    "Once for each tick in which another rule fired, some seconds later.",
    time=seconds("1"),
    rule=slot("rule"),
    says=[
        worded("{rule} fires/fired", time="0"),
        "{time} after [the] last/latest {rule} [fired/fires]",
        "{time} after {rule} last fired",
        "{time} after/since rule {rule} [fires/fired/ran/runs/happened]",
        "{time} after/since {rule} fires/ran/runs/happened/happens",
        "{time} after/since [rule] {rule} went/goes off",
        "rule {rule} fired/ran/happened {time} ago",
        "{rule} fired/ran/happened {time} ago",
        "{time} later than {rule}",
        "{time} after {rule}",
        "after {rule} by {time}",
        worded("rule {rule} fires/runs/acts/happens", time="0"),
        "{time} have/has gone by/passed since/after {rule}",
        "{time} since {rule}",
        worded("rule {rule} starts/begins/triggers", time="0"),
    ],
)
def after_rule(world: QueryApi, time: Numbers, rule: str) -> Candidates:
    seen, dues = world.recall((0, ()))
    last = world.last_fired(rule)
    if last != seen:
        dues = (*dues, last + max(1, int(np.ceil(float(time) * world.rate - 1e-9))))
    due = any(d <= world.tick for d in dues)
    world.remember((last, tuple(d for d in dues if d > world.tick)))
    return ONCE if due else NOBODY


@occasion(
    "timer {timer} reaches {time} s",
    "Once, when a running timer reaches a time.",
    timer=slot("timer"),
    time=seconds("1"),
    measured=("timer", "timer", "time"),
    says=[
        "timer {timer} > {time}",
        "timer {timer} >= {time}",
        "{timer} timer > {time}",
        "{timer} timer >= {time}",
        "[the] {timer} timer is at {time}",
        "timer/clock/stopwatch {timer} hits/passes/is/gets/shows/at/reaches [to] {time}",
        "{timer} timer/clock reaches/hits/passes/is/gets [to] {time}",
        "{time} on/at [the] {timer} [timer/clock]",
        "{time} on timer {timer}",
        "[the] {timer} timer/clock/stopwatch [is] at! {time}",
        "timer {timer} ends/finishes/expires [at/after] {time}",
        "timer {timer} runs out [at/after] {time}",
        "timer {timer} has run [for] {time}",
        "{timer} timer runs out/ends/expires [after] {time}",
        "{timer} reaches/hits/passes/exceeds/gets [to] {time}",
        "{timer} runs out [after] {time}",
        "{timer} is up/over/done",
        "{timer} timer/clock ends/finishes/expires",
        "{timer} timer/clock runs out",
        "{timer} shows/reads {time}",
        "{timer} is at {time}",
        "{timer} has run/gone [for] {time}",
        worded("after! {time} of/on! [the] {timer}", known=True),
        "{timer} timer/clock shows/reads/stands [at] {time}",
        "{time} is/are on [the] {timer} timer/clock",
        "{timer} timer is past/over/at {time}",
        "timer {timer} is past/over/at {time}",
        "{timer} timer gets/comes/goes to/past {time}",
    ],
)
def timer_reaches(world: QueryApi, timer: str, time: Numbers) -> Candidates:
    before = world.recall(0.0)
    now = world.timer(timer)
    world.remember(now)
    wanted = float(time) - 1e-9
    return ONCE if before < wanted <= now else NOBODY
