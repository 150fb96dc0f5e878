"""Finding a rule's matches: what its occasions yield, and which matches pass its conditions, with the roles they bring in."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import Candidates, Rows, Target
from gatillo.level.naming import shortened
from gatillo.level.roles import Role
from gatillo.sim.matching.match_table import (
    NO_MATCH,
    ONE_MATCH,
    Matches,
    TooManyMatches,
    View,
    join_role,
    table_of,
    union,
)
from gatillo.sim.matching.one_value import NO_ANSWER
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.program.program import Program
from gatillo.sim.rules import lines_alone
from gatillo.sim.rules.condition_cache import NOW_AND_THEN, TRIES, CacheEntry
from gatillo.sim.rules.created import Made, created_for
from gatillo.sim.rules.lines_alone import alone_rows, line_alone
from gatillo.sim.rules.one_match import OneMatch
from gatillo.sim.rules.pair_join import join_pairs
from gatillo.sim.rules.query_context import QueryContext
from gatillo.sim.rules.work import A_CROWD, Work
from gatillo.sim.trace.trace import Recorder
from gatillo.sim.world.world import World


class Matcher:
    """Asks occasions and conditions, and reports their faults; it changes nothing."""

    def __init__(self, program: Program, world: World, recorder: Recorder) -> None:
        self.program = program
        self.world = world
        self.recorder = recorder
        self.faults = 0
        self.due: set[tuple[int, int]] = set()
        """Occasions at times that are due in this tick: (turn, line)."""
        self.gone: dict[str, Rows] = {}
        """By role: rows of what this action list has removed and can still speak of."""
        self.asking = QueryContext(world)
        self.work = Work()
        self.one = OneMatch(world, recorder)
        self.whole: dict[tuple[str, ...], Matches] = world.caches.whole
        """By roles: the table of all objects they can stand for, as long as none is created or removed."""

    def both_ways(
        self, rule: CompiledRule, steps: tuple[CompiledLine, ...], table: Matches, passed: list[int]
    ) -> tuple[Matches, list[Matches]]:
        """Return the matches that pass all these conditions, and those that reached them and failed.

        What reaches a condition is a candidate with the condition's subject; roles that it looks for are no part of
        what fails: it fails if nothing was found for it.
        """
        units, failed = table, []
        table = units.tracked()
        for line in steps:
            fresh = [role for role in line.subject if role not in table.rows]
            if fresh:
                failed.append(_lost(units, table))
                table = self.with_roles(tuple(fresh), line, table)
                units, table = _with_subject(units, table, fresh)
            table = self.filter_by(rule, line, table)
            passed.append(table.n)
            if not table.n:
                break
        failed.append(_lost(units, table))
        return Matches(table.n, table.rows, None, table.unit), [some for some in failed if some.n]

    def candidates(self, rule: CompiledRule) -> Matches:
        """Return what the rule's occasions yield."""
        if not rule.when:
            return ONE_MATCH
        if len(rule.when) == 1:
            only = self.candidates_of(rule, rule.when[0])
            if only is None or not only.n:
                return NO_MATCH
            return ONE_MATCH if only.n == 1 and not only.rows else table_of(only)
        found: list[Candidates] = []
        for line in rule.when:
            candidates = self.candidates_of(rule, line)
            if candidates is not None and candidates.n:
                found.append(candidates)
                self.recorder.reached(line.identity)
        if not found:
            return NO_MATCH
        try:
            return union(self.world, found)
        except TooManyMatches as error:
            self.fault(rule, rule.when[0], 1, str(error))
            return NO_MATCH

    def candidates_of(self, rule: CompiledRule, line: CompiledLine) -> Candidates | None:
        """Return what one occasion yields; None where it has no answer or is not due."""
        if line.entry.alarm is not None:
            rings = (rule.index, line.number) in self.due
            if self.recorder.watching:
                self.recorder.yielded(rule, line, Candidates(int(rings)))
            return Candidates(1) if rings else None
        self.asking.line = (rule.index, "when", line.number)
        given = line.fixed
        if line.worked_out:
            view = View(self.world, ONE_MATCH, line.identity)
            given = {**given, **{name: formula.evaluate(view) for name, formula in line.worked_out}}
            if self.report(rule, line, view) is not None:
                return None
        found: Candidates = line.entry.compute(self.asking, **given)
        if self.recorder.watching:
            self.recorder.yielded(rule, line, found)
        return found

    def filter_by(self, rule: CompiledRule, line: CompiledLine, table: Matches) -> Matches:
        """Return the matches that pass a condition, with the roles it brings in."""
        if self.recorder.watching:
            passes = self.filter_fresh(rule, line, table)
            self.recorder.asked(rule, line, table, passes)
            return passes
        if line.depends is None:
            return self.filter_fresh(rule, line, table)
        return self.filter_cached(rule, line, table)

    def filter_cached(self, rule: CompiledRule, line: CompiledLine, table: Matches) -> Matches:
        """Like `filter_by`, but return the cached result while nothing that the condition depends on has changed."""
        world = self.world
        kept: CacheEntry | None = world.caches.kept.get(id(line))
        in_vain = 0
        if kept is not None:
            in_vain = kept.in_vain + 1
            if in_vain > TRIES and (world.tick + rule.index) % NOW_AND_THEN:
                return self.filter_fresh(rule, line, table)
        counts = world.caches.changes
        changes = [counts.get(what, 0) for what in line.depends or ()]
        if kept is not None and kept.table is table and kept.changes == changes:
            kept.in_vain = 0
            if kept.work:
                self.work.add(kept.work)
            return kept.answer
        faults, done = self.faults, self.work.done
        answer = self.filter_fresh(rule, line, table)
        # a fault is reported again in each tick
        if self.faults == faults:
            world.caches.kept[id(line)] = CacheEntry(table, changes, answer, in_vain, self.work.done - done)
        return answer

    def filter_fresh(self, rule: CompiledRule, line: CompiledLine, table: Matches) -> Matches:
        """Like `filter_by`, but always evaluate the condition."""
        rows = table.rows
        if not line.entry.holds:
            # fast path: every role is already in the table, or the condition is about all objects of one role
            if table is ONE_MATCH and len(line.roles) == 1 and line.subject:
                whole = self.whole.get(line.roles)
                if whole is not None:
                    return self.passing(rule, line, whole, line.negated)
            for role in line.roles:
                if role not in rows:
                    break
            else:
                for role in line.subject:
                    if role not in rows:
                        break
                else:
                    return self.passing(rule, line, table, line.negated)
            if table is ONE_MATCH and line.joined_alone and line.brings and not line.negated:
                whole = self.joined_alone(line)
                if whole is not None:
                    return self.passing(rule, line, whole, False)
        return self.filter_by_search(rule, line, table)

    def joined_alone(self, line: CompiledLine) -> Matches | None:
        """Return the table with all roles of a condition that speaks first of each, if each can be one object only."""
        key = (*line.subject, "", *line.roles)
        whole = self.whole.get(key)
        if whole is None:
            whole = NO_MATCH
            if alone_rows(self.world, line, ONE_MATCH) is not None:
                whole = self.with_roles(line.roles, line, self.with_roles(line.subject, line, ONE_MATCH))
            self.whole[key] = whole
        return whole if whole.n == 1 else None

    def filter_by_search(self, rule: CompiledRule, line: CompiledLine, table: Matches) -> Matches:
        """Evaluate a group, or a condition about roles that are not in the table yet."""
        if line.subject and not all(role in table.rows for role in line.subject):
            table = self.with_roles(line.subject if len(line.roles) > 1 else line.roles, line, table)
            if not table.n:
                return table
        if line.entry.joins == "none" and not line.negated:
            for inner in line.of:
                table = self.filter_fresh(rule, inner, table)
                if not table.n:
                    break
            return table
        # “not none of” is “any of”
        negated = line.negated and line.entry.joins != "none"
        looks_for = any(role not in table.rows for role in line.roles)
        if looks_for and line.entry.group != "pick" and (negated or not line.brings):
            found = self.found(rule, line, table)
            if not negated:
                return table.take(found)
            if not len(found):
                return table
            left = np.ones(table.n, dtype=bool)
            left[found] = False
            return table.take(left)
        if looks_for:
            table = self.looked_for(line, table)
        return self.passing(rule, line, table, negated)

    def passing(self, rule: CompiledRule, line: CompiledLine, table: Matches, negated: bool) -> Matches:
        """Return the matches of a table with all its roles that pass a condition, or do not."""
        if not table.n:
            return table
        mask = self.mask(rule, line, table, negated)
        if isinstance(mask, bool):
            return table if mask else table.none()
        kept = table.take(mask)
        return table if kept.n == table.n else kept

    def looked_for(self, line: CompiledLine, table: Matches) -> Matches:
        """Return the table with every role of a condition in it: where only near pairs can pass, with those."""
        near = join_pairs(self.world, table, line) if line.pair is not None else None
        return self.with_roles(line.roles, line, table if near is None else near)

    def found(self, rule: CompiledRule, line: CompiledLine, table: Matches) -> NDArray[np.int64]:
        """Return the positions of the matches for which a condition finds an object with which it holds."""
        whole = self.looked_for(line, table.tracked())
        if not whole.n:
            return np.zeros(0, dtype=np.int64)
        mask = self.mask(rule, line, whole, False)
        if isinstance(mask, bool):
            mask = np.full(whole.n, mask)
        assert whole.origin is not None
        origin: NDArray[np.int64] = whole.origin[mask]
        return origin if len(origin) < 2 else np.unique(origin)

    def mask(
        self, rule: CompiledRule, line: CompiledLine, table: Matches, negated: bool
    ) -> NDArray[np.bool_] | bool:
        """Return which matches pass a condition, or do not; one answer when it is the same for all."""
        if line.entry.holds:
            return self.group(rule, line, table, negated)
        if line.alone is not False and table.n == 1 and lines_alone.ALONE:
            answer = self.answer_alone(line, table)
            if answer is not None:
                return answer is not negated
        if table.n > A_CROWD:
            self.work.add(table.n)
        view = View(self.world, table, line.identity)
        if line.lone is not None:
            name, formula = line.lone
            given: dict[str, Any] = {name: formula.evaluate(view)}
        else:
            given = line.fixed if line.same_for_all else self.arguments(line, view)
        if line.places:
            for name in line.places:
                given[name] = given[name].point(view)
        self.asking.line, self.asking.view = line.at, view
        mask = line.entry.compute(self.asking, **given)
        if self.asking.spent:
            spent, self.asking.spent = self.asking.spent, 0
            self.work.add_matches(spent)
        if not (isinstance(mask, np.ndarray) and mask.ndim):
            if not view.faults:
                return bool(mask) is not negated
            mask = np.full(table.n, bool(mask))
        if negated:
            mask = ~mask
        bad = self.report(rule, line, view) if view.faults else None
        passes: NDArray[np.bool_] = mask if bad is None else mask & ~bad
        return passes

    def answer_alone(self, line: CompiledLine, table: Matches) -> bool | None:
        """Return whether a condition holds for the one match of a table, asked in plain numbers; None where that has no answer."""
        alone = line_alone(self.program, line)
        if alone is None:
            return None
        rows = table.rows
        try:
            at = {role: rows[role].item(0) for role in line.roles}
            view = View(self.world, table, line.identity) if alone.looks else None
            return bool(alone.run(self.one, self.world, at, view))
        except NO_ANSWER:
            return None

    def group(
        self, rule: CompiledRule, line: CompiledLine, table: Matches, negated: bool
    ) -> NDArray[np.bool_] | bool:
        """Return which matches pass a group of conditions. Its picks and its roles are those of the whole table."""
        masks = [
            np.broadcast_to(np.asarray(self.mask(rule, inner, table, inner.negated)), (table.n,))
            for inner in line.of
        ]
        # the lines of “none of” are turned round: each of them must hold
        none = line.entry.joins == "none"
        if line.entry.joins == "all" or (none and not line.negated):
            passes = np.logical_and.reduce(masks) if masks else np.ones(table.n, dtype=bool)
        else:
            passes = np.logical_or.reduce(masks) if masks else np.zeros(table.n, dtype=bool)
        return ~passes if negated and not none else passes

    def with_roles(
        self, roles: tuple[str, ...], line: CompiledLine, table: Matches, made: Made | None = None
    ) -> Matches:
        """Return the table with these roles, which a line names, in it. In an action list `made` are the objects it has created."""
        afresh = table is ONE_MATCH and not made
        if afresh and (made is None or not self.gone):
            whole = self.whole.get(roles)
            if whole is not None:
                return whole
        for role in roles:
            if role in table.rows:
                continue
            named = self.program.roles[role]
            if named.new:
                table = self.with_new(named, table, made or {})
            else:
                if named.via and named.via not in table.rows:
                    table = join_role(self.world, table, self.program.roles[named.via])
                before = table.n
                # what a variable refers to changes without anybody coming or going
                afresh = afresh and named.source != "reference"
                also = self.gone.get(role) if made is not None else None
                if also is not None:
                    afresh = False
                    also = np.union1d(self.world.rows_of(named), also)
                table = join_role(self.world, table, named, also)
                if named.source == "reference" and table.n < before:
                    at = line.at[0]
                    self.fault(
                        self.program.rules[at], line, before - table.n, f"“{named.text}” refers to nobody"
                    )
        if afresh:
            self.whole[roles] = table
        return table

    def with_new(self, role: Role, table: Matches, made: Made) -> Matches:
        """Return each match once for each object that was created for it; a match for which none was created is left out."""
        if role.token not in made:
            return join_role(self.world, table, role, np.zeros(0, dtype=np.int64))
        positions, rows = created_for(made, role.token, table)
        table = table.take(positions)
        table.rows[role.token] = rows
        return table

    def arguments(self, line: CompiledLine, view: View) -> dict[str, Any]:
        """Return what a line's slots hold, worked out over the matches."""
        given = line.fixed.copy()
        if line.role_slots:
            rows = view.table.rows
            for name, role in line.role_slots:
                given[name] = rows[role]
        for name, formula in line.worked_out:
            given[name] = formula.evaluate(view)
        for formula in line.points:
            # what has no answer is told before anything is done; the action works it out again where it needs it
            formula.evaluate(view)
        if line.targets:
            rows = view.table.rows
            for name, key, role in line.targets:
                given[name] = Target(key, rows[role])
        return given

    def report(self, rule: CompiledRule, line: CompiledLine, view: View) -> NDArray[np.bool_] | None:
        """Record the faults of a line; the matches that had one, or None."""
        for where, sentence in view.faults:
            self.fault(rule, line, int(where.sum()), sentence)
        return view.faulted()

    def fault(self, rule: CompiledRule, line: CompiledLine, count: int, sentence: str) -> None:
        """Record that some matches of a line had no answer, or went beyond a bound."""
        if rule.graph is not None:
            self.card_fault(rule, rule.graph.number_of(line), count, sentence)
            return
        whole = shortened(f"“{rule.source.name}”, {line.part} {line.number + 1}: {sentence}")
        self.faults += 1
        self.recorder.fault(self.world.tick, rule.index, line.part, line.number, whole, count)

    def card_fault(self, rule: CompiledRule, card: int, count: int, sentence: str) -> None:
        """Record a fault of a graph's card, by the card's number."""
        assert rule.graph is not None
        self.faults += 1
        card, way = rule.graph.place_of(card)
        part, line = rule.graph.line_of(card)
        stands = f"card {card}" if rule.graph.drawn is None else f"{part} {line + 1}"
        whole = shortened(f"“{rule.source.name}”, {stands}: {way}{sentence}")
        self.recorder.fault(self.world.tick, rule.index, part, line, whole, count)


def _lost(units: Matches, table: Matches) -> Matches:
    """Return those of the matches from which a table was made of which nothing is left in it."""
    assert table.origin is not None
    return units.take(np.setdiff1d(np.arange(units.n), table.origin))


def _with_subject(units: Matches, table: Matches, fresh: list[str]) -> tuple[Matches, Matches]:
    """Return what can pass or fail, now with a subject too, and the table counted from it."""
    assert table.origin is not None
    columns = [table.origin, *(table.rows[role] for role in fresh)]
    _, first, place = np.unique(np.stack(columns), axis=1, return_index=True, return_inverse=True)
    came_from = table.origin[first]
    rows = {role: units.rows[role][came_from] for role in units.rows}
    rows |= {role: table.rows[role][first] for role in fresh}
    unit = None if units.unit is None else units.unit[came_from]
    return Matches(len(first), rows, None, unit), Matches(table.n, table.rows, place.reshape(-1), table.unit)
