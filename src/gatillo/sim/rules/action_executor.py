"""What a firing does: its actions over its matches, branches and repeats, and how they wait."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Rows, Target
from gatillo.formula.values import spread
from gatillo.sim.matching.match_table import (
    ONE_MATCH,
    Matches,
    TooManyMatches,
    View,
    keys_of,
)
from gatillo.sim.matching.one_value import NO_ANSWER
from gatillo.sim.motion.tweens import moved_over_a_time
from gatillo.sim.program.compiled_line import CompiledLine, Part
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.rules import lines_alone
from gatillo.sim.rules.action_context import ActionContext
from gatillo.sim.rules.created import Made, created_for, with_created
from gatillo.sim.rules.lines_alone import alone_rows, line_alone
from gatillo.sim.rules.matcher import Matcher
from gatillo.sim.rules.turns_alone import TurnAlone, table_of_turn
from gatillo.sim.rules.waits import part_of_wait
from gatillo.sim.rules.work import A_CROWD, A_LINE, TooMuchWork
from gatillo.sim.trace.trace import Did, Way
from gatillo.sim.world.records import Wait

MOST_ONE_BY_ONE = 150_000
"""So many matches of a tick go one by one; the rest is left out, with a fault."""
MOST_WAITING = 500_000
"""So many matches of all rules may wait at once; more do not go on, with a fault."""
MOST_TEXTS = 100_000
"""So many texts are worked out by one line at once; the rest is left out, with a fault."""
MOST_TICKS = 1_000_000_000
"""No run has so many."""


class Reached(Exception):
    """The run has come to the position within the tick at which it was to stop."""


class ActionExecutor:
    """Carries firings out. `position` counts the tick's firings, `steps` the actions' lines and the cards.

    At the `stop_at`-th firing, or at the `stop_step`-th step, the tick breaks off.
    """

    def __init__(
        self,
        matcher: Matcher,
        stop_at: int | None,
        stop_step: int | None = None,
    ) -> None:
        self.matcher = matcher
        self.program, self.world, self.recorder = matcher.program, matcher.world, matcher.recorder
        self.one = matcher.one
        self.stop_at = stop_at
        self.stop_step = stop_step
        self.position = 0
        self.steps = 0
        self.repeats = 0
        self.creations = 0
        """How many *create* lines have been carried out in this tick: the stamp of the last one."""
        self.one_by_one = 0
        self.waiting: int | None = None
        """How many matches wait, once it has been asked for in this tick."""
        self.work = matcher.work

    def rounds(self, own: tuple[str, str], acting: Matches) -> list[NDArray[np.int64]] | None:
        """Return in which rounds an action is done that reads what it writes; None if no two matches write the same."""
        owner, how = own
        one_by_one = np.arange(acting.n)
        if not owner:
            return list(one_by_one[:, None])
        rows = acting.rows[owner]
        # rows in a run, or from old to young, as nearly always: no object twice
        if id(rows) in self.world.caches.runs or bool((rows[1:] > rows[:-1]).all()):
            return None
        order = np.argsort(rows, kind="stable")
        begins = np.concatenate(([True], rows[order][1:] != rows[order][:-1]))
        if begins.all():
            return None
        if how == "each":
            return list(one_by_one[:, None])
        turn = np.empty(acting.n, dtype=np.int64)
        turn[order] = one_by_one - np.maximum.accumulate(np.where(begins, one_by_one, 0))
        return [(turn == n).nonzero()[0] for n in range(int(turn.max()) + 1)]

    # firing

    def fire(
        self,
        compiled: CompiledRule,
        part: Part,
        steps: tuple[CompiledLine, ...],
        table: Matches,
        way: Way,
        start: int = 0,
        made: Made | None = None,
    ) -> None:
        """Carry out an action list for its matches: one firing."""
        self.begins(compiled, table, way)
        if 0 < start < len(steps):
            self.recorder.reached(steps[start].identity)
        rule = compiled.source
        if rule.once_for_all and way is not Way.RESUMED:
            table = table.take(np.zeros(1, dtype=np.int64))
        if rule.one_at_a_time and table.n > 1 and start < len(steps):
            for at in range(self.allowed(table.n, self._teller(compiled, steps[start]))):
                self.matcher.gone = {}
                self.perform(compiled, part, steps, table.take(np.array([at])), start, made or {})
        else:
            self.matcher.gone = {}
            self.perform(compiled, part, steps, table, start, made or {})
        self.fired()

    def fire_alone(self, rule: CompiledRule, turn: TurnAlone, rows: dict[str, int], table: Matches) -> None:
        """Carry out a rule's actions for one match in plain numbers, from the first on that has no answer over its table."""
        world = self.world
        self.begins(rule, table, Way.DO)
        self.matcher.gone = {}
        done = 0
        try:
            for act in turn.acts:
                act.run(self.one, world, rows, None)
                done += 1
        except NO_ANSWER:
            pass
        self.steps += done
        if done < len(rule.do):
            self.perform(rule, "do", rule.do, table_of_turn(world, turn, table), done, {})
        self.fired()

    def begins(self, rule: CompiledRule, table: Matches, way: Way) -> None:
        """Report that a firing begins."""
        if way is Way.DO:
            self.world.rules.fired_at[rule.index] = self.world.tick
        self.recorder.fires(rule.index, table.n, way)
        if self.recorder.watching:
            self.recorder.takes_part(table, {role: self.world.id[rows] for role, rows in table.rows.items()})

    def fired(self) -> None:
        """A firing is over. Raises Reached where the tick is to break off after it."""
        self.position += 1
        if self.position == self.stop_at:
            raise Reached

    def stepped(self, rule: CompiledRule, line: CompiledLine, many: int, wire: int = -1) -> None:
        """An action's line has been done. Raises Reached where the tick is to break off after it."""
        self.steps += 1
        if line.card or self.recorder.watching:
            self.recorder.ran(
                self.steps,
                self.position,
                rule.index,
                line.part,
                line.number,
                line.card,
                line.wire if wire < 0 else wire,
                many,
            )
        if self.steps == self.stop_step:
            raise Reached

    def card_ran(self, rule: CompiledRule, card: int, many: int, wire: int) -> None:
        """A card that is no action has run. Raises Reached where the tick is to break off after it."""
        self.steps += 1
        self.recorder.ran(self.steps, self.position, rule.index, "card", 0, card, wire, many)
        if self.steps == self.stop_step:
            raise Reached

    def allowed(self, wanted: int, tell: Callable[[int, str], None]) -> int:
        """Return how many matches may go one by one; the rest is left out, and reported: how many, and a sentence."""
        free = max(0, MOST_ONE_BY_ONE - self.one_by_one)
        if wanted > free:
            more = wanted - free
            tell(
                more,
                f"no more than {MOST_ONE_BY_ONE:,} matches go one by one in a tick; {more:,} are left out",
            )
        self.one_by_one += min(wanted, free)
        return min(wanted, free)

    def _teller(self, rule: CompiledRule, line: CompiledLine) -> Callable[[int, str], None]:
        return lambda count, sentence: self.matcher.fault(rule, line, count, sentence)

    def _remember_gone(self, line: CompiledLine, acting: Matches) -> None:
        """What an action has removed can be read by the rest of its list under the names it was removed by."""
        for role in line.roles:
            rows = acting.rows[role]
            dead = rows[~self.world.alive[rows]]
            if len(dead):
                known = self.matcher.gone.get(role)
                self.matcher.gone[role] = np.unique(dead) if known is None else np.union1d(known, dead)

    def perform(
        self,
        rule: CompiledRule,
        part: Part,
        steps: tuple[CompiledLine, ...],
        table: Matches,
        start: int,
        made: Made,
        stop: int | None = None,
        wire: int = -1,
    ) -> Made:
        """Return the actions from number `start` on (to before `stop`), each over all matches, which came to the first by `wire`."""
        others: Matches | None = None
        watching = self.recorder.watching
        stop = len(steps) if stop is None else stop
        for at in range(start, stop):
            if at > start:
                self.stepped(rule, steps[at - 1], table.n, wire if at - 1 == start else -1)
            line = steps[at]
            if (
                line.alone is not False
                and table.n == 1
                and not watching
                and self.act_alone(line, table, made)
            ):
                continue
            if line.quick and line.own is None and not watching:
                self.carry_out(rule, line, table, line.fixed)
                continue
            if line.makes or (line.entry.branch == "if" and _creates_otherwise(steps, at, stop)):
                # ONE_MATCH is shared by all rules without roles: copy it before numbering it
                table = table if table is not ONE_MATCH else Matches(1, {})
                table.count_units()
            if line.entry.branch:
                made, others = self.branch(rule, part, line, table, made, others)
                continue
            if line.entry.holds == "actions":
                made = self.repeat(rule, part, line, table, made)
                continue
            acting = table
            if line.roles:
                try:
                    acting = self.matcher.with_roles(line.roles, line, table, made)
                    if acting.n > A_CROWD:
                        self.work.add(acting.n)
                except TooManyMatches as error:
                    self.matcher.fault(rule, line, 1, str(error))
                    continue
            if line.own is not None and acting.n > 1 and not line.once:
                rounds = self.rounds(line.own, acting)
                if rounds is not None:
                    for some in rounds[: self.allowed(len(rounds), self._teller(rule, line))]:
                        self.act(rule, line, acting.take(some))
                    continue
            if line.texts and acting.n > MOST_TEXTS:
                more = acting.n - MOST_TEXTS
                self.matcher.fault(
                    rule,
                    line,
                    more,
                    f"no more than {MOST_TEXTS:,} texts are worked out at once; {more:,} are left out",
                )
                acting = acting.take(np.arange(MOST_TEXTS))
            given = line.fixed
            if not line.same_for_all:
                view = View(self.world, acting, line.identity)
                given = self.matcher.arguments(line, view)
                for name in line.entry.times:
                    if np.any(np.less(given[name], 0)):
                        view.fault(np.less(given[name], 0), "a time cannot be below 0")
                bad = self.matcher.report(rule, line, view) if view.faults else None
                if bad is not None:
                    given = {name: _left(value, ~bad) for name, value in given.items()}
                    acting = acting.take(~bad)
            if not acting.n:
                if line.entry.derived.waits:
                    self.stepped(rule, line, table.n, wire if at == start else -1)
                    return made
                continue
            if line.once and acting.n > 1:
                first = np.arange(acting.n) == 0
                given = {name: _left(value, first) for name, value in given.items()}
                acting = acting.take(first)
            acted = self.carry_out(rule, line, acting, given)
            if acted.removed:
                self._remember_gone(line, acting)
            if acted.made is None and acted.pauses is None:
                continue
            if acted.made is not None:
                role, rows, positions = acted.made
                self.creations += 1
                made = with_created(made, role, table, acting, rows, positions, self.creations)
            if acted.pauses is not None:
                # objects that are only looked for are waited for all together
                alone = bool(acted.moving) and acted.moving not in table.rows
                self.wait(
                    rule,
                    part,
                    at + 1,
                    table if alone else acting,
                    acted.pauses,
                    made,
                    acted.until,
                    acted.moving,
                )
                self.stepped(rule, line, table.n, wire if at == start else -1)
                return made
        if stop > start:
            self.stepped(rule, steps[stop - 1], table.n, wire if stop - 1 == start else -1)
        return made

    def act_alone(self, line: CompiledLine, table: Matches, made: Made) -> bool:
        """Do an action for the one match of a table in plain numbers. Returns whether it has been done."""
        if not lines_alone.ALONE or self.matcher.gone:
            return False
        alone = line_alone(self.program, line)
        rows = alone_rows(self.world, line, table) if alone is not None else None
        if alone is None or rows is None:
            return False
        try:
            view = None
            if alone.looks:
                view = View(self.world, self.matcher.with_roles(line.roles, line, table, made), line.identity)
            alone.run(self.one, self.world, rows, view)
        except NO_ANSWER:
            return False
        return True

    def branch(
        self,
        rule: CompiledRule,
        part: Part,
        line: CompiledLine,
        table: Matches,
        made: Made,
        others: Matches | None,
    ) -> tuple[Made, Matches | None]:
        """Do the lines of an “if” for those for which it holds, or of an “otherwise” for the others; gives those others."""
        if line.entry.branch == "otherwise":
            if others is not None and others.n:
                self._reached(line.of)
                made = self.perform(rule, part, line.of, others, 0, made)
            return made, None
        try:
            acting = self.matcher.with_roles(line.roles, line, table, made)
        except TooManyMatches as error:
            self.matcher.fault(rule, line, 1, str(error))
            return made, None
        view = View(self.world, acting, line.identity)
        holds = np.broadcast_to(np.asarray(self.matcher.arguments(line, view)["formula"]), (acting.n,))
        bad = self.matcher.report(rule, line, view)
        fails = ~holds if bad is None else ~holds & ~bad
        holds = holds if bad is None else holds & ~bad
        some = acting if holds.all() else acting.take(holds)
        if some.n:
            self._reached(line.of)
            made = self.perform(rule, part, line.of, some, 0, made)
        return made, acting.take(fails)

    def _reached(self, lines: tuple[CompiledLine, ...]) -> None:
        if lines:
            self.recorder.reached(lines[0].identity)

    def act(self, rule: CompiledRule, line: CompiledLine, acting: Matches) -> None:
        """One action for some of its matches, from the values as they are now."""
        view = View(self.world, acting, line.identity)
        given = self.matcher.arguments(line, view)
        bad = self.matcher.report(rule, line, view) if view.faults else None
        if bad is not None:
            given = {name: _left(value, ~bad) for name, value in given.items()}
            acting = acting.take(~bad)
        if not acting.n:
            return
        self.carry_out(rule, line, acting, given)

    def carry_out(
        self, rule: CompiledRule, line: CompiledLine, acting: Matches, given: dict[str, Any]
    ) -> ActionContext:
        """Carry out an action's entry with what its slots hold, report its faults, and return what it left behind."""
        acted = ActionContext(self.world, self.recorder, line, acting)
        line.entry.compute(acted, **given)
        if self.recorder.watching:
            self.recorder.acted(rule, line, acting)
        if acted.faults:
            for count, sentence in acted.faults:
                self.matcher.fault(rule, line, count, sentence)
        return acted

    def repeat(self, rule: CompiledRule, part: Part, line: CompiledLine, table: Matches, made: Made) -> Made:
        """Do a repeat's lines again and again, each match as often as it asks for, within the level's bound."""
        try:
            acting = self.matcher.with_roles(line.roles, line, table, made)
        except TooManyMatches as error:
            self.matcher.fault(rule, line, 1, str(error))
            return made
        view = View(self.world, acting, line.identity)
        counts = np.floor(np.broadcast_to(self.matcher.arguments(line, view)["count"], (acting.n,)))
        bad = self.matcher.report(rule, line, view)
        if bad is not None:
            counts = np.where(bad, 0.0, counts)
        most = self.program.level.settings.most_repeats
        if acting.n and counts.max() >= 1:
            self._reached(line.of)
        for time in range(int(min(counts.max(), 2.0**31)) if acting.n else 0):
            self.repeats += 1
            if self.repeats > most:
                self.matcher.fault(
                    rule, line, 1, f"the level's bound of {most:,} turns of a repeat in a tick is reached"
                )
                break
            some = counts > time
            try:
                self.work.add((int(np.count_nonzero(some)) + A_LINE) * max(1, len(line.of)))
            except TooMuchWork as error:
                self.matcher.fault(rule, line, 1, str(error))
                break
            which = acting if some.all() else acting.take(some)
            made = self.perform(rule, part, line.of, which, 0, made)
        return made

    def wait(
        self,
        rule: CompiledRule,
        part: Part,
        line: int,
        table: Matches,
        time: Any,
        made: Made,
        until: str = "",
        moving: str = "",
    ) -> None:
        """Put the rest of an action list off."""
        world = self.world
        if self.waiting is None:
            self.waiting = sum(w.n for w in world.rules.waits)
        if self.waiting + table.n > MOST_WAITING:
            lost = table.n - max(0, MOST_WAITING - self.waiting)
            compiled = rule.block(part)[line - 1]
            self.matcher.fault(
                rule,
                compiled,
                lost,
                f"no more than {MOST_WAITING:,} matches wait at once; {lost:,} do not go on",
            )
            left = np.arange(table.n - lost)
            table, time = table.take(left), spread(time, table.n)[: len(left)]
            if not table.n:
                return
        self.waiting += table.n
        # one that lasts longer than any run is not waited out
        ticks = np.clip(np.ceil(np.asarray(time) * self.program.rate - 1e-9), 1, MOST_TICKS).astype(np.int64)
        ticks = spread(ticks, table.n)
        keys = keys_of(world, table)
        for due in np.unique(ticks).tolist():
            where = np.flatnonzero(ticks == due)
            part_table = table.take(where)
            ids = {role: world.id[rows] for role, rows in part_table.rows.items()}
            kept_made = {}
            for role in made:
                positions, rows = created_for(made, role, part_table)
                kept_made[role] = (world.id[rows], positions)
            world.rules.serial += 1
            self.recorder.did(Did.WAITS, world.tick + due)
            world.rules.waits.append(
                Wait(
                    world.tick + due,
                    world.rules.serial,
                    rule.index,
                    part,
                    line,
                    ids,
                    part_table.n,
                    [keys[i] for i in where.tolist()],
                    kept_made,
                    until,
                    moving,
                )
            )

    def arrived(
        self,
        rule: CompiledRule,
        line: CompiledLine,
        wait: Wait,
        rows: dict[str, Rows],
        there: NDArray[np.bool_],
    ) -> NDArray[np.bool_]:
        """Return for which of the matches that wait for an object it is where it goes. The others wait on.

        Where a match does not have that object all that can stand for it must be there.
        """
        stays = np.zeros(wait.n, dtype=bool)
        if wait.moving in rows:
            stays[there] = moved_over_a_time(self.world, self.world.id[rows[wait.moving][there]])
        else:
            joined = self._of_those_there(rule, line, wait, rows, there)
            if joined is None or joined.origin is None:
                return np.zeros(wait.n, dtype=bool)
            moving = moved_over_a_time(self.world, self.world.id[joined.rows[wait.moving]])
            stays[there.nonzero()[0][joined.origin[moving]]] = True
        if stays.any():
            left = part_of_wait(wait, stays)
            left.due = self.world.tick + 1
            self.world.rules.waits.append(left)
        return there & ~stays

    def _of_those_there(
        self,
        rule: CompiledRule,
        line: CompiledLine,
        wait: Wait,
        rows: dict[str, Rows],
        there: NDArray[np.bool_],
    ) -> Matches | None:
        """Return the matches of a wait whose objects are there, with all that its line speaks of; None if they are too many."""
        try:
            return self.matcher.with_roles(line.roles, line, Matches(wait.n, rows).take(there).tracked())
        except TooManyMatches as error:
            self.matcher.fault(rule, line, 1, str(error))
            return None

    def until(
        self,
        rule: CompiledRule,
        line: CompiledLine,
        wait: Wait,
        rows: dict[str, Rows],
        there: NDArray[np.bool_],
    ) -> NDArray[np.bool_]:
        """Return for which of the matches that wait for a formula it holds now. The others wait on; one with a fault ends."""
        table = self._of_those_there(rule, line, wait, rows, there)
        if table is None:
            return np.zeros(wait.n, dtype=bool)
        view = View(self.world, table, line.identity)
        holds = np.broadcast_to(np.asarray(self.matcher.arguments(line, view)[wait.until]), (table.n,))
        bad = self.matcher.report(rule, line, view)
        origin = there.nonzero()[0]
        assert table.origin is not None
        # with a role that is looked for it holds as soon as it does for one of them
        met = np.unique(table.origin[holds if bad is None else holds & ~bad])
        lost = np.unique(table.origin[bad]) if bad is not None else met[:0]
        goes_on, stays = np.zeros(wait.n, dtype=bool), there.copy()
        goes_on[origin[met]] = True
        stays[origin[met]] = stays[origin[lost]] = False
        if stays.any():
            left = part_of_wait(wait, stays)
            left.due, left.until = self.world.tick + 1, wait.until
            self.world.rules.waits.append(left)
        return goes_on


def _creates_otherwise(steps: tuple[CompiledLine, ...], at: int, stop: int) -> bool:
    """Return whether the “otherwise” of the “if” at this number creates objects: both number the same matches."""
    following = steps[at + 1] if at + 1 < stop else None
    return following is not None and following.entry.branch == "otherwise" and following.makes


def _left(value: Any, keep: NDArray[np.bool_]) -> Any:
    if isinstance(value, np.ndarray) and value.ndim and len(value) == len(keep):
        return value[keep]
    if isinstance(value, Target) and value.rows is not None:
        return Target(value.name, value.rows[keep])
    return value
