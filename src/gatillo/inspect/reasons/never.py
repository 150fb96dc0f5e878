"""Why a rule never fired: what dropped it most often, and where it came closest."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gatillo.inspect.findings import findings
from gatillo.inspect.reasons.nearness import closest
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.reason_words import line_words, place_words, quoted, seconds
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.language.binding import RoleArgument
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.program.touched import names_of
from gatillo.sim.trace.trace import Way


def why_never(why_not: WhyNot, rule: CompiledRule) -> Reason:
    """Return why a turn never fired in the whole run: what dropped it most often, and where it came closest."""
    run = why_not.run
    tick, _, turns, _, way = run.trace.columns()
    mine = np.flatnonzero((turns == rule.index) & ((way & 7) == Way.DO))
    if len(mine):
        first = int(tick[mine[0]])
        words = f"{quoted(rule.source.name)} did fire, first at {seconds(run, first)}"
        reason = Reason(words, "firing", first, 0, rule.source.id)
        firing = next(f for f in run.trace.firings_at(first) if f.rule_index == rule.index)
        reason.grounds = lambda: [why_not.explainer.fired(first, firing.position)]
        return reason
    reason = Reason(f"{quoted(rule.source.name)} never fired in this trial", "firing", 0, 0, rule.source.id)
    reason.grounds = lambda: list(_never(why_not, rule))
    return reason


def _never(why_not: WhyNot, rule: CompiledRule) -> Iterator[Reason]:
    run, trace = why_not.run, why_not.run.trace
    yield from why_not.cannot_run(rule)
    if any(p.rule_index == rule.index for p in run.program.problems):
        return
    off = why_not.switched_off(rule, run.done)
    if off is not None:
        yield off
        return
    for found in findings(run.program.level, run.program):
        if found.rule_id == rule.source.id:
            words = f"a check says of it, {found.part} {found.line + 1}: {found.message}"
            yield Reason(words, "note", rule_id=rule.source.id)
    missing = _never_there(why_not, rule)
    if missing is not None:
        yield missing
        return
    looks = [
        (t, look)
        for t in range(1, run.done + 1)
        for look in trace.looks_at(t)
        if look.rule_index == rule.index and look.candidates
    ]
    if not looks:
        yield from _occasion_never(why_not, rule)
        return
    ended: dict[int, list[int]] = {}
    for tick, look in looks:
        line = next((at for at, many in enumerate(look.passed) if not many), len(look.passed))
        ended.setdefault(line, []).append(tick)
    line, ticks = max(ended.items(), key=lambda item: (len(item[1]), -item[0]))
    if rule.graph is None and line < len(rule.if_):
        compiled = rule.if_[line]
        words = f"{place_words(run, rule, compiled.part, compiled.number, 0)} failed most often, in {len(ticks):,} of {len(looks):,} ticks: {line_words(run, compiled, {})}"
        yield Reason(words, "obstacle", ticks[0], rule_id=rule.source.id)
        closest = _came_closest(why_not, rule, compiled, ticks)
        if closest is not None:
            yield closest
    else:
        yield Reason(
            f"it was looked at in {len(looks):,} ticks, first at {seconds(run, looks[0][0])}",
            "note",
            looks[0][0],
        )
    first = why_not.at(rule, ticks[0])
    first.sentence = f"for instance at {seconds(run, ticks[0])} (tick {ticks[0]})"
    yield first


def _occasion_never(why_not: WhyNot, rule: CompiledRule) -> Iterator[Reason]:
    run = why_not.run
    ticks = list(range(1, run.done + 1))
    for line in rule.when:
        yield Reason(
            f"its occasion never happened: {line_words(run, line, {})}", "obstacle", rule_id=rule.source.id
        )
        closest = _came_closest(why_not, rule, line, ticks)
        if closest is not None:
            yield closest
    if not rule.when:
        yield Reason("nothing of what it names was ever there", "obstacle", rule_id=rule.source.id)


def _came_closest(why_not: WhyNot, rule: CompiledRule, line: CompiledLine, ticks: list[int]) -> Reason | None:
    """Return the one of some ticks in which a line came nearest to passing, checked again at the end of each."""
    run, index = why_not.run, names_of(why_not.run.program.index, rule)
    if not line.entry.measured:
        return None
    best: tuple[float, int, str] | None = None
    # each tick, as long as that does not take too long
    every = max(1, round(len(ticks) * run.pace / 2.0), len(ticks) // 4_000)
    for tick in ticks[::every]:
        why_not.explainer.between()
        there = closest(run.world_at(run.end_of(tick)), index, line, frozenset())
        if there is not None and (best is None or there[1] < best[0]):
            best = there[1], tick, there[2]
    if best is None:
        return None
    words = f"it came closest at {seconds(run, best[1])} (tick {best[1]}): {best[2]}"
    return Reason(words, "note", best[1], rule_id=rule.source.id)


def _never_there(why_not: WhyNot, rule: CompiledRule) -> Reason | None:
    """Return a role that it names and for which no object ever exists."""
    run = why_not.run
    start = run.world_at(run.end_of(0))
    created = {run.program.kinds[k].name for k in run.world.created_of.values()}
    for line in (*rule.when, *rule.if_, *rule.do):
        for argument in line.arguments.values():
            role = argument.role if isinstance(argument, RoleArgument) else None
            if role is None or role.new or role.source == "reference" or role.token not in run.program.roles:
                continue
            if not len(start.rows_of(role)) and not created.intersection(role.kinds):
                return Reason(f"there is never a {role.text}", "obstacle", rule_id=rule.source.id)
    return None
