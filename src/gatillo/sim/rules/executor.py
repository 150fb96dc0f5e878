"""One rule's turn: candidates, conditions, firing mode, and then its actions; and what goes on after waits."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from gatillo.catalogue.contexts.values import Candidates
from gatillo.sim.matching.match_table import (
    ONE_MATCH,
    Matches,
    TooManyMatches,
    View,
    table_of,
)
from gatillo.sim.matching.one_value import NO_ANSWER
from gatillo.sim.program.compiled_line import Part
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.rules import lines_alone
from gatillo.sim.rules.action_executor import ActionExecutor
from gatillo.sim.rules.condition_cache import Sleep
from gatillo.sim.rules.firing_limits import held_back
from gatillo.sim.rules.graph_executor import take_turn
from gatillo.sim.rules.graph_turn import GraphTurn
from gatillo.sim.rules.matcher import Matcher
from gatillo.sim.rules.pair_join import nobody_near
from gatillo.sim.rules.turns_alone import TurnAlone, rows_of_turn, turn_alone
from gatillo.sim.rules.waits import made_rows
from gatillo.sim.trace.trace import Way
from gatillo.sim.world.records import Wait

MOST_RESUMED = 5_000
"""So many firings go on after waits in a tick; the rest ends there, with a fault."""


class RuleExecutor:
    """Takes the turns of a tick, one after the other, and resumes what has waited."""

    def __init__(self, matcher: Matcher, actions: ActionExecutor) -> None:
        self.matcher = matcher
        self.actions = actions
        self.program, self.world, self.recorder = matcher.program, matcher.world, matcher.recorder
        self.work = matcher.work
        self.left_out = False
        """Whether it was reported that rules are skipped in this tick."""

    def take(self, rule: CompiledRule) -> None:
        """Let a rule take its turn."""
        watching = self.recorder.watching
        if watching:
            self.recorder.comes(self, rule)
        if self.work.is_over:
            self._leave_out(rule)
            return
        if rule.switched and not self.program.is_on(rule, self.world.rules.switched):
            return
        if rule.graph is not None:
            take_turn(self.actions, rule)
            return
        if rule.stirs is not None and not watching and self._sleeps(rule):
            return
        if rule.screen is not None and not watching:
            many = nobody_near(self.world, rule.screen)
            if many:
                self.recorder.looked(rule.index, many, [0], 0)
                return
        faults, done = self.matcher.faults, self.work.done
        table = self.matcher.candidates(rule) if rule.when else ONE_MATCH
        if not table.n:
            self._fall_asleep(rule, faults, done, 0, [])
            return
        if table.n == 1 and rule.alone is not False and lines_alone.ALONE and self._take_alone(rule, table):
            return
        reached = table.n
        passed: list[int] = []
        failed: list[Matches] = []
        try:
            if rule.else_:
                table, failed = self.matcher.both_ways(rule, rule.if_, table, passed)
            else:
                for line in rule.if_:
                    table = self.matcher.filter_by(rule, line, table)
                    passed.append(table.n)
                    if not table.n:
                        break
        except TooManyMatches as error:
            self.matcher.fault(rule, rule.if_[len(passed)], 1, str(error))
            table = table.none()
        limits = rule.limits
        if not table.n:
            self._fall_asleep(rule, faults, done, reached, passed)
        if table.n and not (rule.plain and (not self.world.rules.waits or limits.meanwhile == "stack")):

            def tell(count: int, sentence: str) -> None:
                self.matcher.fault(rule, (rule.if_ or rule.when or rule.do or rule.else_)[0], count, sentence)

            passes = table
            table = held_back(self.world, limits, (rule.index, 0), passes, tell, self.work)
            if watching:
                self.recorder.limited(rule, 0, passes, table)
        self.recorder.looked(rule.index, reached, passed, table.n)
        if table.n:
            self.actions.fire(rule, "do", rule.do, table, Way.DO)
        for some in failed:
            self.actions.fire(rule, "else", rule.else_, some, Way.ELSE)

    def _leave_out(self, rule: CompiledRule) -> None:
        """Report, once a tick, the first rule that is skipped."""
        lines = rule.when or rule.if_ or rule.do or rule.else_
        if lines and not self.left_out:
            self.left_out = True
            sentence = "a tick has done as much as it may; from here on no rule takes its turn in this tick"
            self.matcher.fault(rule, lines[0], 1, sentence)

    def _take_alone(self, rule: CompiledRule, table: Matches) -> bool:
        """Take the turn of a rule for the one match that it begins with; return False, with nothing done, where it cannot be."""
        actions, world, recorder = self.actions, self.world, self.recorder
        if recorder.watching or actions.stop_step is not None:
            return False
        turn: TurnAlone | None = rule.alone or turn_alone(self.program, rule)
        if turn is None or (world.rules.waits and rule.limits.meanwhile != "stack"):
            return False
        rows = world.caches.turn_rows.get(id(rule)) if table is ONE_MATCH else None
        if rows is None:
            rows = rows_of_turn(world, turn, rule, table)
            if rows is None:
                return False
        try:
            passed = turn.look(actions.one, world, rows)
        except NO_ANSWER:
            return False
        if passed < len(rule.if_):
            counts = turn.counts[passed]
            if rule.stirs is not None:
                self._fall_asleep(rule, self.matcher.faults, self.work.done, 1, counts)
            recorder.looked(rule.index, 1, counts, 0)
            return True
        recorder.looked(rule.index, 1, turn.counts[passed], 1)
        actions.fire_alone(rule, turn, rows, table)
        return True

    def _sleeps(self, rule: CompiledRule) -> bool:
        """Return whether nothing has changed since a turn led to nobody; then that is recorded again."""
        sleep: Sleep | None = self.world.caches.asleep.get(id(rule))
        if sleep is None or sleep.rule is not rule:
            return False
        counts = self.world.caches.changes
        for what, count in sleep.changes:
            if counts.get(what, 0) != count:
                return False
        if sleep.work:
            if not self.work.takes(sleep.work):
                # evaluate it: that reports where the work ends
                return False
            self.work.add(sleep.work)
        if sleep.reached:
            self.recorder.looked(rule.index, sleep.reached, sleep.passed, 0)
        return True

    def _fall_asleep(
        self, rule: CompiledRule, faults: int, done: int, reached: int, passed: list[int]
    ) -> None:
        """Remember that a turn led to nobody, if it did so without a fault; `faults` and `done` are as they were before it."""
        if rule.stirs is not None and self.matcher.faults == faults:
            counts = self.world.caches.changes
            changes = tuple((what, counts.get(what, 0)) for what in rule.stirs)
            work = self.work.done - done
            self.world.caches.asleep[id(rule)] = Sleep(rule, changes, reached, passed, work)

    def resume(self, *, moved: bool) -> None:
        """Let the waits that are due go on, in the order in which they were started.

        Those for an object to be where it goes do so after Motion (`moved`), the others before it.
        """
        world = self.world
        if not world.rules.waits:
            return
        due = sorted(
            (w for w in world.rules.waits if w.due <= world.tick and bool(w.moving) is moved),
            key=lambda w: w.serial,
        )
        if not due:
            return
        world.rules.waits = [
            w for w in world.rules.waits if w.due > world.tick or bool(w.moving) is not moved
        ]
        if len(due) > MOST_RESUMED:
            self.cut_waits(due[MOST_RESUMED:])
            due = due[:MOST_RESUMED]
        for wait in due:
            rule = self.program.rules[wait.rule_index]
            rows = {role: world.rows_of_ids(ids) for role, ids in wait.ids.items()}
            there = np.ones(wait.n, dtype=bool)
            for found in rows.values():
                there &= found >= 0
            part: Part = "do" if wait.part == "do" else "else"
            if wait.until and there.any():
                there = self.actions.until(rule, rule.block(part)[wait.line - 1], wait, rows, there)
            if wait.moving and there.any():
                there = self.actions.arrived(rule, rule.block(part)[wait.line - 1], wait, rows, there)
            table = Matches(wait.n, rows).take(there)
            if not table.n:
                continue
            table.count_units()
            made = made_rows(world, wait, there)
            if rule.graph is not None:
                GraphTurn(self.actions, rule).resume(part, wait.line - 1, table, made)
                continue
            self.actions.fire(rule, part, rule.block(part), table, Way.RESUMED, wait.line, made)

    def cut_waits(self, lost: list[Wait]) -> None:
        """Report waits that do not go on, once for each line that they wait at."""
        counts: dict[tuple[int, str, int], int] = {}
        for wait in lost:
            key = (wait.rule_index, wait.part, wait.line)
            counts[key] = counts.get(key, 0) + wait.n
        for (position, part, line), many in counts.items():
            rule = self.program.rules[position]
            compiled = rule.block("do" if part == "do" else "else")[line - 1]
            sentence = f"no more than {MOST_RESUMED:,} firings go on after waits in a tick; {many:,} matches do not go on"
            self.matcher.fault(rule, compiled, many, sentence)

    # occasions at times

    def ring(self) -> list[int]:
        """Turns whose occasion at a time is due; its next time is set."""
        world, rate = self.world, self.program.rate
        if world.tick == 1:
            for number, alarm in enumerate(self.program.alarms):
                world.rules.alarms.append((self._seconds(alarm.first), number))
            world.rules.alarms.sort()
        woken: list[int] = []
        while world.rules.alarms and math.ceil(world.rules.alarms[0][0] * rate - 1e-9) <= world.tick:
            due, number = world.rules.alarms.pop(0)
            alarm = self.program.alarms[number]
            self.matcher.due.add((alarm.rule_index, alarm.line))
            woken.append(alarm.rule_index)
            # never twice in one tick, however short the period
            if alarm.period is not None:
                later = max(due + self._seconds(alarm.period), (world.tick + 0.5) / rate)
                world.rules.alarms.append((later, number))
                world.rules.alarms.sort()
        return woken

    def _seconds(self, formula: Any) -> float:
        view = View(self.world, table_of(Candidates(1)), 0)
        return float(np.max(formula.evaluate(view)))
