"""Why a rule or a graph did not fire in a tick: the first thing that kept it from firing, by how much, then the rest."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from functools import partial

import numpy as np
from numpy.typing import NDArray

from gatillo.inspect.reasons.instruments import Match, Seen, Table, TurnSeen
from gatillo.inspect.reasons.journal import Moment, upto_end
from gatillo.inspect.reasons.leaves import kind_of
from gatillo.inspect.reasons.measures import measure
from gatillo.inspect.reasons.nearness import closest, rows_about, those_about
from gatillo.inspect.reasons.picks import pick_words, with_its_roles
from gatillo.inspect.reasons.reason import MOST_NAMED, Reason
from gatillo.inspect.reasons.reason_words import called, for_whom, line_words, place_words, quoted, seconds
from gatillo.inspect.reasons.why import Explainer
from gatillo.language.binding import RoleArgument, Word
from gatillo.level.model import Section
from gatillo.level.roles import Role
from gatillo.sim.matching.match_table import Matches, keys_of
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule, every_step
from gatillo.sim.program.touched import LEVEL, names_of
from gatillo.sim.trace.trace import Did, Way
from gatillo.sim.world.world import World

SECONDS_ABOUT = 1.0
"""So far to either side it is looked for when an occasion came nearest."""


class WhyNot:
    """Answers why a rule did not fire, for one run."""

    def __init__(self, explainer: Explainer) -> None:
        self.explainer = explainer
        self.run = explainer.run

    def at(self, rule: CompiledRule, tick: int, objects: tuple[int, ...] = ()) -> Reason:
        """Return why a turn did not fire in a tick; with `objects` for a match of all of these.

        Raises ValueError for a tick that has not been run.
        """
        run = self.run
        if not 1 <= tick <= run.done:
            raise ValueError(f"tick {tick} has not been run; the run has ticks 1 to {run.done}")
        wanted = frozenset(objects)
        who = f" for {', '.join(called(run, i) for i in objects)}" if objects else ""
        head = f"{quoted(rule.source.name)} did not fire at {seconds(run, tick)} (tick {tick}){who}"
        fired = self._fired_all_the_same(rule, tick, wanted, who)
        if fired is not None:
            return fired
        reason = Reason(head, "firing", tick, 0, rule.source.id, ids=objects)
        reason.grounds = lambda: list(self._obstacles(rule, tick, wanted))
        return reason

    # what stood in the way

    def _fired_all_the_same(
        self, rule: CompiledRule, tick: int, wanted: frozenset[int], who: str
    ) -> Reason | None:
        run = self.run
        one = next(iter(wanted), None)
        for firing in run.trace.firings_at(tick):
            if firing.rule_index != rule.index or firing.way is not Way.DO:
                continue
            mine = self.explainer.turn_seen(tick, rule).firing(firing.position)
            if mine is not None and (not wanted or len(mine.after.about(wanted))):
                words = f"{quoted(rule.source.name)} did fire at {seconds(run, tick)} (tick {tick}){who}"
                reason = Reason(words, "firing", tick, firing.position, rule.source.id)
                reason.grounds = partial(self.explainer.only_fired, tick, firing.position, one)
                return reason
        return None

    def _obstacles(self, rule: CompiledRule, tick: int, wanted: frozenset[int]) -> Iterator[Reason]:
        yield from self.cannot_run(rule)
        if not rule.runs and any(p.rule_index == rule.index for p in self.run.program.problems):
            return
        off = self.switched_off(rule, tick)
        if off is not None:
            yield off
            return
        absent = list(self._absent(rule, wanted, tick))
        if absent:
            yield from absent
            return
        seen = self.explainer.turn_seen(tick, rule)
        if rule.when and not any(s.after.n for s in seen.of("occasion")):
            yield from self._no_occasion(rule, tick, wanted, seen)
            return
        nobody = self._nobody(rule, tick)
        if nobody is not None and not seen.of("condition"):
            yield nobody
            return
        if rule.graph is not None and rule.graph.drawn is None:
            yield from self._in_graph(seen, wanted)
            return
        yield from self._dropped(seen, wanted)

    def cannot_run(self, rule: CompiledRule) -> Iterator[Reason]:
        """Yield the problems for which a turn cannot run at all."""
        for problem in self.run.program.problems:
            if problem.rule_index == rule.index:
                yield Reason(f"it cannot run: {problem.sentence()}", "obstacle", rule_id=rule.source.id)

    def switched_off(self, compiled: CompiledRule, tick: int) -> Reason | None:
        """Return by what and when a rule was switched off, or its section."""
        run, program = self.run, self.run.program
        before = self.explainer.turn_seen(tick, compiled).at_turn or run.world_at(run.end_of(tick))
        switched = before.rules.switched
        rule = switched.get(f"rule {compiled.source.name}", compiled.source.on)
        section = True
        if compiled.section:
            declared = next(
                e for e in program.level.order if isinstance(e, Section) and e.name == compiled.section
            )
            section = switched.get(f"section {compiled.section}", declared.on)
        if rule and section:
            return None
        name, words = (
            (f"rule {compiled.source.name}", "it was switched off")
            if not rule
            else (f"section {compiled.section}", f"its section {quoted(compiled.section)} was switched off")
        )
        at = Moment(tick, self.explainer.turn_seen(tick, compiled).seq)
        wrote = self.explainer.journal.last_write("switch", name, LEVEL, None, at)
        if wrote is None:
            trial = run.trial
            by = f"by the trial “{trial.name}”" if name.partition(" ")[2] in trial.off else "from the start"
            return Reason(f"{words} {by}", "obstacle", rule_id=compiled.source.id)
        return self.explainer.from_write(
            f"{words} at {seconds(run, wrote.tick)} by {self.explainer.by(wrote)}", wrote
        )

    def _absent(self, rule: CompiledRule, wanted: frozenset[int], tick: int) -> Iterator[Reason]:
        """Yield which of the objects asked for were not there when the rule took its turn, since when, or not yet."""
        run = self.run
        world = self.explainer.turn_seen(tick, rule).at_turn or run.world_at(run.end_of(tick))
        for one in sorted(wanted):
            if world.row_of_id(one) >= 0:
                continue
            name = called(run, one, world)
            kind = kind_of(run, one, run.world)
            gone = self.explainer.journal.last_write("there", "", kind, one, upto_end(run, tick))
            if gone is not None:
                there = self.explainer.there(one, tick)
                there.sentence = f"{name} was not there: " + there.sentence
                yield there
                continue
            came = self.explainer.journal.last_write("there", "", kind, one, upto_end(run, run.done))
            if came is not None:
                words = f"{name} was not there yet: created only at {seconds(run, came.tick)} by {self.explainer.by(came)}"
                yield self.explainer.from_write(words, came, (one,))
            else:
                there = self.explainer.there(one, tick)
                there.sentence = f"{name} was not there: {there.sentence}"
                yield there

    def _nobody(self, rule: CompiledRule, tick: int) -> Reason | None:
        """Return that a role of its conditions has no object. A role of an action keeps no rule from firing."""
        world = self.explainer.turn_seen(tick, rule).at_turn
        if world is None:
            return None
        missing = (self._nobody_of(line, world, tick) for line in rule.if_)
        return next((one for one in missing if one is not None), None)

    def _nobody_of(self, line: CompiledLine, world: World, tick: int) -> Reason | None:
        for argument in line.arguments.values():
            if isinstance(argument, RoleArgument) and not argument.role.new:
                missing = self._nobody_for(argument.role, world, tick)
                if missing is not None:
                    return missing
        return None

    def _nobody_for(self, role: Role, world: World, tick: int) -> Reason | None:
        if role.source == "reference" or role.token not in world.program.roles or len(world.rows_of(role)):
            return None
        words = f"there was no {role.text} at {seconds(self.run, tick)}"
        if not any(k in {o.kind for o in self.run.program.level.objects} for k in role.kinds):
            words += "; none is laid out"
        return Reason(words, "obstacle", tick)

    # the occasion

    def _no_occasion(
        self, rule: CompiledRule, tick: int, wanted: frozenset[int], seen: TurnSeen
    ) -> Iterator[Reason]:
        run = self.run
        world = seen.at_turn or seen.after_tick
        assert world is not None
        nearest = self._looked_nearest(rule, tick)
        for line in rule.when:
            lead = f"no occasion: {line_words(run, line, {}, world)} did not happen"
            match, how_far = self._how_far(rule, line, tick, wanted, world)
            lead += how_far + self._not_sent(line)
            missing = self._nobody_of(line, world, tick)
            lead += f"; {missing.sentence}" if missing is not None else ""
            ids = tuple(dict.fromkeys(match.values()))
            yield Reason(lead, "obstacle", tick, rule_id=rule.source.id, ids=ids)
        if nearest is not None:
            when = "last" if nearest < tick else "next"
            yield Reason(
                f"it {when} happened at {seconds(run, nearest)} (tick {nearest})",
                "note",
                nearest,
                rule_id=rule.source.id,
            )
        elif len(rule.when) == 1:
            yield Reason("it never happened in this trial", "note", rule_id=rule.source.id)

    def _not_sent(self, line: CompiledLine) -> str:
        """Return what sends a message that was not heard."""
        message = next(
            (
                a.text
                for n, a in line.arguments.items()
                if isinstance(a, Word) and line.entry.slots[n].type == "message"
            ),
            None,
        )
        if message is None:
            return ""
        number = self.run.program.messages.get(message)
        senders = [t.source.name for t in self.run.program.rules if sends(t, message)]
        sent = number is not None and any(
            did is Did.SENT and what == number
            for t in range(1, self.run.done + 1)
            for _, did, what in self.run.trace.effects_at(t)
        )
        if not senders:
            return "; no rule sends it"
        by = " and ".join(map(quoted, senders[:MOST_NAMED]))
        return f"; it is sent by {by}" + ("" if sent else ", and was never sent in this trial")

    def _looked_nearest(self, rule: CompiledRule, tick: int) -> int | None:
        """Return the tick nearest to this one in which the rule's occasion came."""
        came = [
            t
            for t in range(1, self.run.done + 1)
            if any(look.rule_index == rule.index and look.candidates for look in self.run.trace.looks_at(t))
        ]
        return min(came, key=lambda t: abs(t - tick), default=None)

    def _how_far(
        self, rule: CompiledRule, line: CompiledLine, tick: int, wanted: frozenset[int], world: World
    ) -> tuple[Match, str]:
        """Return which match came nearest to an occasion in a tick, by how much it missed, and when around then it was nearest."""
        index = names_of(self.run.program.index, rule)
        here = closest(world, index, line, wanted)
        if here is None:
            return {}, ""
        match, off, words = here
        text = f": {words}"
        if line.entry.begins and off <= 0:
            return (
                match,
                f"{text}; it had {line.entry.begins} already, and comes only when that begins",
            )
        best, when, how = off, tick, ""
        span = int(SECONDS_ABOUT * self.run.program.rate)
        start, end = max(1, tick - span), min(self.run.done, tick + span)
        if (end - start) * self.run.pace > 0.15:
            return match, text
        about = frozenset(match.values())
        for at in range(start, end + 1):
            there = closest(self.run.world_at(self.run.end_of(at)), index, line, about)
            if there is not None and there[1] < best - 1e-9:
                best, when, how = there[1], at, there[2]
        if when != tick:
            text += f"; nearest around then, at {seconds(self.run, when)}: {how}"
        return match, text

    # conditions

    def _dropped(self, seen: TurnSeen, wanted: frozenset[int]) -> Iterator[Reason]:
        """Yield the condition at which the last of the matches fell, or what held those back that passed all of them."""
        asked = seen.of("condition")
        for at, one in enumerate(asked):
            before = those_about(one.before, self._can_be_in(one.before, wanted, one.line))
            if wanted and not len(before) and one.before.n and at == 0:
                names = ", ".join(called(self.run, i) for i in sorted(wanted))
                yield Reason(f"none of its candidates was about {names}", "obstacle", seen.tick)
                return
            after = those_about(one.after, self._can_be_in(one.after, wanted))
            if len(after):
                continue
            yield self._at_line(seen, one, wanted, before)
            yield from self._also(seen, one, wanted, before)
            return
        yield from self._held_back(seen, wanted)

    def _can_be_in(
        self, table: Table, wanted: frozenset[int], line: CompiledLine | None = None
    ) -> frozenset[int]:
        """Return those of the objects asked for that matches must be about here.

        An object that none of the table's roles can stand for is brought in further down. So is one that a role of this line can
        stand for, which the line brings in, where no match is about it yet.
        """
        if not wanted:
            return wanted
        program, world = self.run.program, self.run.world
        fresh = () if line is None else [role for role in line.roles if role not in table.ids]

        def fits(roles: Iterable[str], one: int) -> bool:
            kind = kind_of(self.run, one, world)
            return any(kind in program.roles[role].kinds for role in roles if role in program.roles)

        return frozenset(
            one
            for one in wanted
            if fits(table.ids, one) and not (fits(fresh, one) and not len(table.about(frozenset((one,)))))
        )

    def _at_line(
        self, seen: TurnSeen, one: Seen, wanted: frozenset[int], before: NDArray[np.int64]
    ) -> Reason:
        """Explain which condition rejected the matches: the nearest miss, the values compared and the shortfall."""
        run, line = self.run, one.line
        assert line is not None
        rule = seen.rule
        where = place_words(run, rule, line.part, line.number, one.card)
        index = names_of(run.program.index, rule)
        match, text, many = self._nearest_of(one, line, wanted, before, rule)
        if line.entry.group == "pick":
            one, match = with_its_roles(index, one, match, wanted)
        words = f"{where}: {line_words(run, line, match, one.world)}"
        if line.entry.group == "pick":
            words += pick_words(run, index, one, match)
        elif text is not None:
            words += f": {text}"
        elif line.entry.holds == "conditions":
            words += self._group_words(one, line, match)
        else:
            words += ": it did not hold" if not line.negated else ": it held"
        if many > 1:
            words += f" (and {many - 1:,} more matches fell here)"
        shown = rule.graph.place_of(one.card)[0] if rule.graph is not None and one.card else 0
        reason = Reason(
            words,
            "obstacle",
            seen.tick,
            rule_id=rule.source.id,
            card=shown,
            ids=tuple(dict.fromkeys(match.values())),
        )
        at = Moment(seen.tick, one.seq)
        reason.grounds = lambda: self.explainer.read_reasons(seen, one, match, at)
        return reason

    def _nearest_of(
        self,
        one: Seen,
        line: CompiledLine,
        wanted: frozenset[int],
        before: NDArray[np.int64],
        rule: CompiledRule,
    ) -> tuple[Match, str | None, int]:
        """Return the match that came nearest among those that a line rejected, in words, and how many they were."""
        some = before[:20_000]
        world = one.world
        rows = {role: world.rows_of_ids(column[some]) for role, column in one.before.ids.items()}
        there = np.ones(len(some), dtype=bool)
        for column in rows.values():
            there &= column >= 0
        table = Matches(len(some), rows).take(there) if not there.all() else Matches(len(some), rows)
        first: Match = one.before.match(int(before[0])) if len(before) and one.before.ids else {}
        if not table.n:
            return first, None, len(before)
        found = measure(world, names_of(self.run.program.index, rule), line, table.tracked())
        if found is None:
            return first, None, len(before)
        joined, told = found
        off = told.off if not line.negated else -told.off
        fits = rows_about(world, joined, wanted)
        if not len(fits):
            return first, None, len(before)
        at = int(fits[np.argmin(np.where(np.isnan(off[fits]), np.inf, off[fits]))])
        match = {role: int(world.id[column[at]]) for role, column in joined.rows.items()}
        return match, told.words(at), len(before)

    def _group_words(self, one: Seen, line: CompiledLine, match: Match) -> str:
        """Return which members of a group of conditions did not hold."""
        world = one.world
        lines = []
        for inner in line.of:
            rows = {r: world.rows_of_ids(np.array([i])) for r, i in match.items()}
            found = (
                measure(world, self.run.program.index, inner, Matches(1, rows))
                if match or not inner.roles
                else None
            )
            if found is None:
                continue
            off = found[1].off[0]
            failed = (off > 0) != (inner.negated and line.entry.joins != "none")
            if line.entry.joins == "none":
                failed = off <= 0
            if failed:
                lines.append(found[1].words(0))
        return f": {'; '.join(lines[:MOST_NAMED])}" if lines else ": it did not hold"

    def _also(
        self, seen: TurnSeen, at: Seen, wanted: frozenset[int], before: NDArray[np.int64]
    ) -> Iterator[Reason]:
        """Yield what else of the lines below would have stood in the way of the match that came nearest."""
        rule, run = seen.rule, self.run
        if at.line is None or not len(before) or rule.graph is not None:
            return
        match, _, _ = self._nearest_of(at, at.line, wanted, before, rule)
        below = [line for line in rule.if_ if line.number > at.line.number]
        index = names_of(run.program.index, rule)
        for line in below:
            if line.entry.group == "pick" or not all(r in match for r in line.roles):
                continue
            rows = {r: at.world.rows_of_ids(np.array([i])) for r, i in match.items()}
            if any(column[0] < 0 for column in rows.values()):
                return
            found = measure(at.world, index, line, Matches(1, rows))
            if found is None or (found[1].off[0] > 0) == line.negated:
                continue
            words = f"then also {place_words(run, rule, line.part, line.number, 0)}: {line_words(run, line, match, at.world)}: {found[1].words(0)}"
            yield Reason(words, "obstacle", seen.tick, rule_id=rule.source.id)

    # firing mode, rests, waits

    def _held_back(self, seen: TurnSeen, wanted: frozenset[int]) -> Iterator[Reason]:
        rule, run, tick = seen.rule, self.run, seen.tick
        limits = rule.limits
        passed = [
            s for s in seen.of("limit") if len(those_about(s.before, self._can_be_in(s.before, wanted)))
        ]
        world = seen.at_turn
        if not passed or world is None:
            did_else = any(
                f.rule_index == rule.index and f.way is Way.ELSE for f in run.trace.firings_at(tick)
            )
            words = (
                "its conditions failed, and its “else” was done"
                if did_else
                else "nothing of what it names was there"
            )
            yield Reason(words, "obstacle", tick)
            return
        one = passed[0]
        about = those_about(one.before, self._can_be_in(one.before, wanted))
        match = one.before.match(int(about[0])) if one.before.ids else {}
        who = f" for {for_whom(run, match, one.world)}" if match else ""
        memory = world.rules.memory.get((rule.index, 0))
        rows = {r: world.rows_of_ids(np.array([i])) for r, i in match.items()}
        key = keys_of(world, Matches(1, rows))[0]
        if (
            limits.fires == "on becoming true"
            and memory is not None
            and memory.held_tick == tick - 1
            and key in memory.held
        ):
            since = self._held_since(rule, tick, match)
            words = f"it fires on becoming true, and its conditions had held{who} in the tick before already"
            if since is not None:
                words += f", since {seconds(run, since)}, when it fired"
            yield Reason(words, "obstacle", tick if since is None else since, rule_id=rule.source.id)
        if (
            limits.fires == "first time only"
            and memory is not None
            and (key if limits.per_match else None) in memory.fired
        ):
            since = self._held_since(rule, tick, match if limits.per_match else {})
            words = f"it fires the first time only{who if limits.per_match else ''}"
            words += (
                f", and that was used at {seconds(run, since)}"
                if since is not None
                else ", and that was used"
            )
            yield Reason(words, "obstacle", since or tick, rule_id=rule.source.id)
        if limits.rest and memory is not None:
            until = memory.rests_until.get(key if limits.rest_per_match else None, 0)
            if until > tick:
                yield Reason(
                    f"it rests{who if limits.rest_per_match else ''} until {seconds(run, until)} (tick {until})",
                    "obstacle",
                    until,
                    rule_id=rule.source.id,
                )
        if limits.meanwhile == "ignore":
            waiting = [w for w in world.rules.waits if w.rule_index == rule.index and key in w.keys]
            if waiting:
                due = min(w.due for w in waiting)
                yield Reason(
                    f"it still waits{who}, until {seconds(run, due)}, and ignores what comes meanwhile",
                    "obstacle",
                    due,
                    rule_id=rule.source.id,
                )

    def _held_since(self, rule: CompiledRule, tick: int, match: Match) -> int | None:
        """Return when a rule fired last for a match before a tick."""
        ticks, position, turns, _, way = self.run.trace.columns()
        mine = np.flatnonzero((turns == rule.index) & (ticks < tick) & ((way & 7) == Way.DO))
        for at in mine[::-1][:200].tolist():
            seen = self.explainer.turn_seen(int(ticks[at]), rule)
            firing = seen.firing(int(position[at]))
            if firing is not None and (not match or len(firing.after.where(match))):
                return int(ticks[at])
        return None

    # graphs

    def _in_graph(self, seen: TurnSeen, wanted: frozenset[int]) -> Iterator[Reason]:
        """Yield the cards at which matches of a graph came to an end without an action."""
        graph = seen.rule.graph
        assert graph is not None
        known = False
        for one in seen.of("condition"):
            before = those_about(one.before, self._can_be_in(one.before, wanted, one.line))
            if len(before) and not len(those_about(one.after, self._can_be_in(one.after, wanted))):
                known = True
                yield self._at_line(seen, one, wanted, before)
        for one in seen.of("limit"):
            if one.before.n and not one.after.n:
                known = True
                number = graph.place_of(one.card)[0]
                yield Reason(f"card {number} held it back", "obstacle", seen.tick, card=number)
        ends = [s for s in seen.of("ran") if s.card in graph.cards and graph.cards[s.card].line is None]
        if not known and ends:
            card = graph.cards[ends[-1].card]
            number = graph.place_of(ends[-1].card)[0]
            words = f"it came as far as card {number} ({card.node.use.replace('_', ' ')}), which handed nothing on"
            yield Reason(words, "obstacle", seen.tick, card=number)
        elif not known:
            yield Reason("nothing came from its occasions to an action", "obstacle", seen.tick)


def sends(rule: CompiledRule, message: str) -> bool:
    """Return whether a line of a turn's actions sends a message."""
    return any(
        isinstance(argument, Word) and argument.text == message and line.entry.slots[name].type == "message"
        for line in every_step(rule)
        if line.part in ("do", "else")
        for name, argument in line.arguments.items()
    )
