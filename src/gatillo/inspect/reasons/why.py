"""Why something fired, was what it was, came or went: its causes from the exact replay, each with its own causes."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

import numpy as np

from gatillo.catalogue.cards.graph_cards import sentence_of
from gatillo.formula.compiling import compile_formula
from gatillo.graphs.outline import card_words
from gatillo.inspect.created_names import with_created
from gatillo.inspect.reasons.events import events, senders
from gatillo.inspect.reasons.instruments import Match, Seen, TurnSeen, rows_table, see_turn
from gatillo.inspect.reasons.journal import OUTSIDE, POSE, Journal, Moment, Wrote, upto_end
from gatillo.inspect.reasons.leaves import Leaf, kind_of, leaves_of, leaves_of_reads, worked_out
from gatillo.inspect.reasons.measures import by, measure
from gatillo.inspect.reasons.motion import behaviour_reason, motion_reason
from gatillo.inspect.reasons.picks import pick_words, with_its_roles
from gatillo.inspect.reasons.reason import Reason, Sort, listed
from gatillo.inspect.reasons.reason_words import (
    called,
    for_whom,
    formula_words,
    line_words,
    ordinal,
    place_words,
    quoted,
    seconds,
)
from gatillo.inspect.value_words import value_words
from gatillo.level.naming import spoken
from gatillo.level.properties import PROPERTIES
from gatillo.sim.collision.shapes import separation_of
from gatillo.sim.program.compiled_graph import CompiledGraph
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.program.touched import LEVEL, Access, Site, names_of
from gatillo.sim.rules.created import is_new
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Did, Firing, Ran, Way
from gatillo.sim.world.world import FIRST_CREATED_ID, World

MOST_CARDS = 200
"""So many cards on the way to a card are told."""


class Explainer:
    """Answers why, for one run. `between` is called between ticks that are replayed; what it raises ends the question."""

    def __init__(self, run: Run, between: Callable[[], None] = lambda: None) -> None:
        self.run = run
        self.between = between
        self.journal = Journal(run, between)
        self._turns: dict[tuple[int, int], TurnSeen] = {}
        self._firings: dict[tuple[int, int, int], Reason] = {}

    # what is asked

    def fired(self, tick: int, position: int, object_id: int | None = None) -> Reason:
        """Return why the `position`-th firing of a tick came about; for one object, if it is given.

        Raises ValueError for a firing that there is not.
        """
        firings = self.run.trace.firings_at(tick)
        if not 1 <= position <= len(firings):
            raise ValueError(f"tick {tick} has no firing {position}; it has {len(firings)}")
        firing = firings[position - 1]
        rule = self.run.program.rules[firing.rule_index]
        known = self._firings.get((tick, position, object_id or 0))
        if known is not None:
            return known
        words = f"{quoted(rule.source.name)} fired at {seconds(self.run, tick)}, {ordinal(position)} of tick {tick}"
        if firing.way is Way.ELSE:
            words = words.replace(" fired at", " did its “else” at")
        elif firing.way is Way.RESUMED:
            words = words.replace(" fired at", " went on at")
        reason = Reason(words, "firing", tick, position, rule.source.id)

        def grounds() -> list[Reason]:
            seen = self.turn_seen(tick, rule)
            mine = seen.firing(position)
            match = self._chosen(mine, object_id)
            return list(self._grounds(seen, firing, mine, match))

        reason.grounds = grounds
        if firing.matches and (object_id is not None or firing.matches == 1):
            mine = self.turn_seen(tick, rule).firing(position)
            match = self._chosen(mine, object_id)
            if match:
                reason.sentence += f", for {for_whom(self.run, match, mine.world if mine else None)}"
                reason.ids = tuple(dict.fromkeys(match.values()))
        elif firing.matches > 1:
            reason.sentence += f", for {firing.matches:,} matches; this is of the first"
        self._firings[tick, position, object_id or 0] = reason
        return reason

    def value(self, formula: str, tick: int) -> Reason:
        """Return why a formula has the value that it has at the end of a tick: what it reads, and who wrote that last.

        Roles in it are the oldest objects. Raises FormulaError, and ValueError for a tick that has not been run.
        """
        formula, index = with_created(self.run, formula)
        compiled = compile_formula(index, formula)
        world = self.run.world_at(self.run.end_of(tick), self.between)
        match: Match = {}
        for role in compiled.roles:
            rows = world.rows_of(index.role_tokens[role])
            if not len(rows):
                return Reason(
                    f"{formula} has no value: there is no {index.role_tokens[role].text}", "note", tick
                )
            match[role] = int(world.id[rows[0]])
        leaves = leaves_of_reads(self.run, world, index, compiled.reads, match)
        value = worked_out(world, compiled, match)
        said = formula_words(self.run, compiled, match, world)
        words = f"{said} was {value} at the end of tick {tick} ({seconds(self.run, tick)})"
        reason = Reason(words, "value", tick, ids=tuple(match.values()))
        reason.grounds = lambda: [self.leaf_reason(leaf, world, upto_end(self.run, tick)) for leaf in leaves]
        return reason

    def there(self, object_id: int, tick: int | None = None) -> Reason:
        """Return why an object is there, or is not: who created it, who removed it."""
        run = self.run
        tick = run.done if tick is None else tick
        world = run.world_at(run.end_of(tick), self.between)
        name = called(run, object_id, world)
        wrote = self.journal.last_write(
            "there", "", kind_of(self.run, object_id, world), object_id, upto_end(run, tick)
        )
        gone = world.row_of_id(object_id) < 0
        if wrote is None:
            by_motion = self._removed_by_motion(object_id, tick) if gone else None
            if by_motion is not None:
                return by_motion
            return Reason(
                f"{name} {'is not there' if gone else 'is there from the start'}", "start", ids=(object_id,)
            )
        how = "removed" if gone else "created"
        words = f"{name} was {how} at {seconds(run, wrote.tick)} by {self.by(wrote)}"
        return self.from_write(words, wrote, (object_id,))

    def prompt(self, object_id: int, tick: int) -> Reason:
        """Return why the prompt on an object is offered at the end of a tick, or is not: to which, how far off, which key."""
        run = self.run
        world = run.world_at(run.end_of(tick), self.between)
        row = world.row_of_id(object_id)
        name = called(run, object_id, world)
        if row < 0:
            return Reason(f"{name} is not there at tick {tick}", "note", tick, ids=(object_id,))
        kind = kind_of(run, object_id, world)
        offers = [offer for offer in world.prompts.offers if offer.prompt == object_id]
        site = Site(Access("offer", kind), "")
        leaf = Leaf(f"the prompt on {name}", "", site, object_id)
        whom = listed([called(run, offer.by, world) for offer in offers])
        words = (
            f"the prompt on {name} was offered to {whom}"
            if offers
            else f"the prompt on {name} was not offered"
        )
        reason = Reason(
            f"{words} at {seconds(run, tick)}", "value", tick, ids=(object_id, *(o.by for o in offers))
        )

        def grounds() -> list[Reason]:
            found = [self.leaf_reason(leaf, world, upto_end(run, tick))]
            for offer in offers:
                held = (
                    f", its key held since {offer.since:.3f} s"
                    if offer.since is not None
                    else ", its key not held"
                )
                found.append(
                    Reason(f"{called(run, offer.by, world)} may answer it by {offer.key}{held}", "note", tick)
                )
            found += [self.place_reason(one, world, tick) for one in (object_id, *(o.by for o in offers))]
            return found

        reason.grounds = grounds
        return reason

    def place_reason(self, object_id: int, world: World, tick: int) -> Reason:
        """Return why an object stands where it does at the end of a tick."""
        row = world.row_of_id(object_id)
        place = f"{value_words(round(world.x.item(row), 2))}, {value_words(round(world.y.item(row), 2))}"
        site = Site(Access("x", kind_of(self.run, object_id, world)), "")
        leaf = Leaf(f"{called(self.run, object_id, world)} stood at", place, site, object_id)
        return self.leaf_reason(leaf, world, upto_end(self.run, tick))

    def only_fired(self, tick: int, position: int, object_id: int | None = None) -> list[Reason]:
        """Return the firing as the only reason for something."""
        return [self.fired(tick, position, object_id)]

    def message(self, name: str, tick: int) -> list[Reason]:
        """Return what sent the message that was heard in a tick."""
        return list(senders(self, name, tick))

    def turn_seen(self, tick: int, rule: CompiledRule) -> TurnSeen:
        """Return a turn of a tick with full instruments, replayed once."""
        key = tick, rule.index
        if key not in self._turns:
            if len(self._turns) > 40:
                self._turns.clear()
            self._turns[key] = see_turn(self.run, tick, rule, self.between)
        return self._turns[key]

    # a firing

    def _chosen(self, mine: Seen | None, object_id: int | None) -> Match:
        if mine is None or not mine.after.n:
            return {}
        if object_id is not None:
            found = mine.after.about(frozenset({object_id}))
            if not len(found):
                return {}
            return mine.after.match(int(found[0]))
        return mine.after.match(0)

    def _grounds(self, seen: TurnSeen, firing: Firing, mine: Seen | None, match: Match) -> Iterator[Reason]:
        if firing.way is Way.RESUMED:
            yield self._begun(firing, match)
            return
        rule = seen.rule
        if rule.graph is not None and rule.graph.drawn is None:
            yield from self._path(seen, mine, match)
        else:
            yield from self._occasions(seen, match)
            yield from self._conditions(seen, mine, match, other_side=firing.way is Way.ELSE)
        if firing.way is Way.DO:
            yield from self._limits(seen, match)
        yield from self._switched_on(seen)

    def _begun(self, firing: Firing, match: Match) -> Reason:
        """Return where a wait that is over began."""
        trace = self.run.trace
        for tick in range(firing.tick - 1, 0, -1):
            for position, did, number in reversed(trace.effects_at(tick)):
                if did is Did.WAITS and number <= firing.tick:
                    before = trace.firings_at(tick)[position - 1]
                    if before.rule_index == firing.rule_index:
                        begun = self.fired(tick, position, next(iter(match.values()), None))
                        words = f"because its wait was over: it began at {seconds(self.run, tick)}"
                        grounds: Callable[[], list[Reason]] = partial(list, (begun,))
                        return Reason(words, "occasion", tick, position, begun.rule_id, grounds=grounds)
        return Reason("because its wait was over", "note", firing.tick)

    def _occasions(self, seen: TurnSeen, match: Match) -> Iterator[Reason]:
        rule = seen.rule
        if not rule.when:
            yield Reason("because it has no occasion: it is looked at in every tick", "start", seen.tick)
            return
        lead = "because"
        for one in seen.of("occasion"):
            if one.line is None or not one.after.n or not len(one.after.where(match)):
                continue
            yield self.line_reason(seen, one, match, lead)
            lead = "or because"

    def _conditions(
        self, seen: TurnSeen, mine: Seen | None, match: Match, *, other_side: bool
    ) -> Iterator[Reason]:
        for one in seen.of("condition"):
            if mine is not None and one.seq > mine.seq:
                break
            if one.line is None or not len(one.before.where(match)):
                continue
            passed = bool(len(one.after.where(match)))
            if passed:
                yield self.line_reason(seen, one, match, "and")
            elif other_side:
                yield self.line_reason(seen, one, match, "and not:")
                return

    def _limits(self, seen: TurnSeen, match: Match) -> Iterator[Reason]:
        rule, run = seen.rule, self.run
        limits = rule.limits
        if limits.fires == "on becoming true" and seen.tick > 1:
            yield Reason(
                f"and it did not hold for this match in tick {seen.tick - 1}", "limit", seen.tick - 1
            )
        elif limits.fires == "first time only":
            yield Reason(
                "and it had not fired before" + (" for this match" if limits.per_match else ""), "limit"
            )
        if limits.rest:
            before = self.last_firing(rule, seen.tick)
            rest = value_words(limits.rest / run.program.rate)
            if before is None:
                yield Reason(f"and it did not rest: it had not fired before (it rests {rest} s)", "limit")
            else:
                over = before.tick + limits.rest
                words = f"it may fire again: its rest of {rest} s was over since {seconds(run, over)}"
                if limits.rest_per_match and over > seen.tick:
                    words = f"it may fire again for this match: each rests {rest} s for itself"
                yield Reason(words, "limit", before.tick, before.position)

    def _switched_on(self, seen: TurnSeen) -> Iterator[Reason]:
        rule = seen.rule
        names = [f"rule {rule.source.name}"] + ([f"section {rule.section}"] if rule.section else [])
        for name in names:
            wrote = self.journal.last_write("switch", name, LEVEL, None, Moment(seen.tick, seen.seq))
            if wrote is not None:
                by = self.by(wrote)
                yield self.from_write(
                    f"and it is on: switched at {seconds(self.run, wrote.tick)} by {by}", wrote
                )

    def last_firing(self, rule: CompiledRule, before: int) -> Firing | None:
        """Return the last firing of a turn before a tick."""
        tick, position, turns, _, way = self.run.trace.columns()
        mine = np.flatnonzero((turns == rule.index) & (tick < before) & ((way & 7) == Way.DO))
        if not len(mine):
            return None
        last = int(mine[-1])
        return self.run.trace.firings_at(int(tick[last]))[int(position[last]) - 1]

    # a graph

    def _path(self, seen: TurnSeen, mine: Seen | None, match: Match) -> Iterator[Reason]:
        """Yield the cards along which the matches of a firing came, from the occasion down."""
        graph = seen.rule.graph
        assert graph is not None
        if mine is None:
            return
        ran = [s for s in seen.of("ran") if s.ran is not None]
        later = [
            s.ran
            for s in ran
            if s.ran is not None and s.ran.firings >= mine.position - 1 and self._acts(graph, s)
        ]
        if later and later[0] is not None:
            yield from self._along(seen, later[0], match)

    def _along(self, seen: TurnSeen, last: Ran, match: Match) -> Iterator[Reason]:
        """Yield the cards before one that ran, along the wires by which its matches came."""
        graph = seen.rule.graph
        assert graph is not None
        starts = [w.start for w in graph.graph.wires]
        order = [s.ran for s in seen.of("ran") if s.ran is not None]
        path: list[int] = []
        at: Ran | None = last
        while at is not None and at.wire >= 0 and len(path) < MOST_CARDS:
            number = int(starts[at.wire].split(".")[0])
            path.append(number)
            here = order.index(at)
            at = next((r for r in reversed(order[:here]) if r.card == number), None)
        lead = "because"
        for number in reversed(path):
            card = graph.cards[number]
            found = [s for s in seen.seen if s.card == number and s.what in ("occasion", "condition")]
            fits = [
                s
                for s in found
                if s.line is not None and (len(s.after.where(match)) or len(s.before.where(match)))
            ]
            if fits and fits[0].line is not None:
                passed = fits[0].what == "occasion" or bool(len(fits[0].after.where(match)))
                yield self.line_reason(seen, fits[0], match, lead if passed else f"{lead} not:")
            else:
                shown, way = graph.place_of(number)
                words = card_words(card.node) if sentence_of(card.node.use) is not None else card.node.use
                yield Reason(
                    f"{lead} card {shown} handed it on: {way}{words}", "condition", seen.tick, card=shown
                )
            lead = "and"

    def card(self, tick: int, graph_id: int, number: int) -> Reason:
        """Return why a card of a graph ran in a tick: the cards by which its matches came. Raises ValueError where it did not."""
        rule = next(
            (t for t in self.run.program.rules if t.source.id == graph_id and t.graph is not None), None
        )
        if rule is None or rule.graph is None:
            raise ValueError(f"there is no graph with the number {graph_id}")
        graph = rule.graph
        seen = self.turn_seen(tick, rule)
        mine = next((s for s in seen.of("ran") if graph.place_of(s.card)[0] == number), None)
        if mine is None or mine.ran is None:
            raise ValueError(f"card {number} of {quoted(rule.source.name)} did not run in tick {tick}")
        ran = mine.ran
        many = f"{ran.matches} match" + ("es" if ran.matches != 1 else "")
        words = f"card {number} of {quoted(rule.source.name)} ran at {seconds(self.run, tick)}, for {many}"
        tables = [s.before for s in seen.of("condition") if s.card == ran.card] + [
            s.after for s in seen.of("occasion") if s.card == ran.card
        ]
        firing = next((s for s in seen.of("fires")), None)
        if firing is not None:
            tables.append(firing.after)
        match = next((t.match(0) for t in tables if t.n), {})
        reason = Reason(words, "condition", tick, 0, graph_id, number)
        reason.grounds = lambda: list(self._along(seen, ran, match))
        return reason

    def touching(self, one: int, other: int, tick: int) -> Reason:
        """Return why two objects touch, or do not, at the end of a tick: where both stand, and who put them there."""
        run = self.run
        world = run.world_at(run.end_of(tick), self.between)
        i, j = world.row_of_id(one), world.row_of_id(other)
        names = f"{called(run, one, world)} and {called(run, other, world)}"
        if i < 0 or j < 0:
            return Reason(f"{names}: one of them is not there", "note", tick, ids=(one, other))
        gap = separation_of(world, i, j)[0]
        words = (
            f"{names} touched at {seconds(run, tick)}"
            if gap <= 0
            else f"{names} were {by(gap)} units apart, edge to edge, at {seconds(run, tick)}"
        )
        reason = Reason(words, "value", tick, ids=(one, other))
        reason.grounds = lambda: [self.place_reason(who, world, tick) for who in (one, other)]
        return reason

    @staticmethod
    def _acts(graph: CompiledGraph, seen: Seen) -> bool:
        card = graph.cards.get(seen.card)
        return card is not None and card.line is not None and card.line.part in ("do", "else")

    # a line

    def line_reason(self, seen: TurnSeen, one: Seen, match: Match, lead: str) -> Reason:
        """Return an occasion or a condition of a match: its sentence with names, how things stood, and what it read."""
        line, world = one.line, one.world
        assert line is not None
        at = Moment(seen.tick, one.seq)
        whole = {**match}
        words = f"{lead} {line_words(self.run, line, whole, world)}"
        leaves = leaves_of(self.run, seen.rule, line, world, match)
        table = rows_table(world, match)
        told = None
        if table is not None:
            told = measure(world, names_of(self.run.program.index, seen.rule), line, table)
        plain = (
            len(leaves) == 1
            and leaves[0].value
            and line.entry.measured[:1] in (("formula",), ("comparison",))
        )
        if one.what == "occasion" and line.entry.continuing and line.arguments:
            words += " (it comes in every tick while that lasts)"
        if plain:
            words += (
                f": it was {leaves[0].value}"
                if leaves[0].name in words
                else f": {leaves[0].name} was {leaves[0].value}"
            )
        elif line.entry.group == "pick":
            index = names_of(self.run.program.index, seen.rule)
            words += pick_words(self.run, index, with_its_roles(index, one, match, frozenset())[0], match)
        elif told is not None and one.what == "condition":
            words += f": {told[1].words(int(np.argmin(told[1].off)))}"
        sort: Sort = "occasion" if one.what == "occasion" else "condition"
        shown = seen.rule.graph.place_of(one.card)[0] if seen.rule.graph is not None and one.card else 0
        reason = Reason(
            words, sort, seen.tick, rule_id=seen.rule.source.id, card=shown, ids=tuple(match.values())
        )
        if plain:
            only = self.leaf_reason(leaves[0], world, at)
            _, dash, tail = only.sentence.partition(" — ")
            reason.sentence += f"{dash}{tail}" if dash else ""
            reason.grounds = only.grounds
            return reason
        reason.grounds = lambda: self.read_reasons(seen, one, match, at)
        return reason

    def read_reasons(self, seen: TurnSeen, one: Seen, match: Match, at: Moment) -> list[Reason]:
        """Return what a line read of a match: of each value who wrote it last, and what is no value."""
        line = one.line
        assert line is not None
        leaves = leaves_of(self.run, seen.rule, line, one.world, match)
        lines = [(leaf, self.leaf_reason(leaf, one.world, at)) for leaf in leaves]
        # what is no value and was never written says nothing
        found = [reason for leaf, reason in lines if leaf.value or reason.sort != "start"]
        return found + events(self, seen, line, match, at)

    def leaf_reason(self, leaf: Leaf, world: World, at: Moment) -> Reason:
        """Return a value that was read: who wrote it last."""
        access, run = leaf.site.access, self.run
        joint = " " if leaf.name.endswith((" at", " was", " faced")) else " was "
        words = f"{leaf.name}{joint}{leaf.value}" if leaf.value else leaf.name
        ids = (leaf.object_id,) if leaf.object_id is not None else ()
        what = "angle" if access.what == "facing" else access.what
        wrote = self.journal.last_write(what, access.named, access.kind, leaf.object_id, at)
        if what in POSE and leaf.object_id is not None:
            # x and y, and both parts of a velocity, are one thing to say: the later of the two
            twin = next((name for name, made in PROPERTIES.items() if made.told_with == what), "")
            if twin:
                other = self.journal.last_write(twin, "", access.kind, leaf.object_id, at)
                if other is not None and (wrote is None or (other.tick, other.seq) > (wrote.tick, wrote.seq)):
                    wrote = other
        if wrote is None:
            by = behaviour_reason(self, words, access, leaf.object_id, world, at) if ids else None
            return by or self._as_begun(words, leaf, world, at)
        if wrote.rule_index == OUTSIDE:
            words = f"{words} — set from outside at {seconds(run, wrote.tick)}, by another program"
            return Reason(words, "input", wrote.tick, ids=ids)
        if wrote.rule_index < 0:
            return self._moved(f"{words} — ", wrote, world, leaf, ids)
        verb = {"there": "created", "tag": "given or taken", "x": "put there", "y": "put there"}.get(
            what, "set"
        )
        return self.from_write(
            f"{words} — {verb} at {seconds(run, wrote.tick)} by {self.by(wrote)}", wrote, ids
        )

    def _as_begun(self, words: str, leaf: Leaf, world: World, at: Moment) -> Reason:
        """Return a value that nothing has written since its object was created, or since the start."""
        trial, named, one = self.run.trial, leaf.site.access.named, leaf.object_id
        if one is not None and one >= FIRST_CREATED_ID:
            made = self.journal.last_write("there", "", kind_of(self.run, one, world), one, at)
            if made is not None:
                when = f"as it was created at {seconds(self.run, made.tick)} by {self.by(made)}"
                return self.from_write(f"{words} — {when}", made, (one,))
        how = "as it was at the start"
        if one is None and any(spoken(name) == spoken(named) for name in trial.values):
            how = f"as the trial “{trial.name}” starts it"
        return Reason(f"{words} — {how}", "start", 0, ids=(one,) if one is not None else ())

    def from_write(self, words: str, wrote: Wrote, ids: tuple[int, ...] = ()) -> Reason:
        """Return a reason that something was written; its ground is the firing that did it."""
        rule = self.run.program.rules[wrote.rule_index]
        reason = Reason(words, "written", wrote.tick, wrote.position, rule.source.id, wrote.card, ids)
        about = next((i for i in ids if wrote.ids is not None and i in wrote.ids), None)
        reason.grounds = lambda: [*self._acts_on_all(wrote, about), self._firing_for(wrote, about)]
        return reason

    def _acts_on_all(self, wrote: Wrote, object_id: int | None) -> list[Reason]:
        """Return where an action names a role that nothing above it has brought in: that it acts on every one of them."""
        rule = self.run.program.rules[wrote.rule_index]
        if object_id is None or rule.graph is not None or wrote.part not in ("do", "else"):
            return []
        mine = self.turn_seen(wrote.tick, rule).firing(max(1, wrote.position))
        block = rule.do if wrote.part == "do" else rule.else_
        if mine is None or wrote.line >= len(block):
            return []
        line = block[wrote.line]
        brought = set(mine.after.ids) | {r for r in line.roles if is_new(r)}
        for role in line.roles:
            named = self.run.program.roles.get(role)
            if role in brought or named is None or named.source not in ("kind", "tag", "all"):
                continue
            many = len(mine.world.rows_of(named))
            if many == 1:
                # there is no other that could have been meant
                continue
            words = (
                f"it acts on all {many} of “{named.text}”: nothing above the action says which one is meant"
            )
            return [Reason(words, "note", wrote.tick, wrote.position, rule.source.id)]
        return []

    def _firing_for(self, wrote: Wrote, object_id: int | None) -> Reason:
        position = max(1, wrote.position)
        if object_id is not None:
            rule = self.run.program.rules[wrote.rule_index]
            mine = self.turn_seen(wrote.tick, rule).firing(position)
            if mine is None or not len(mine.after.about(frozenset({object_id}))):
                object_id = None
        return self.fired(wrote.tick, position, object_id)

    def by(self, wrote: Wrote) -> str:
        """Return the rule and the line that wrote something."""
        rule = self.run.program.rules[wrote.rule_index]
        return (
            f"{quoted(rule.source.name)}, {place_words(self.run, rule, wrote.part, wrote.line, wrote.card)}"
        )

    # motion

    def _moved(self, words: str, wrote: Wrote, world: World, leaf: Leaf, ids: tuple[int, ...]) -> Reason:
        assert leaf.object_id is not None
        return motion_reason(self, words, wrote, leaf.object_id, ids)

    def velocity_reason(self, object_id: int, world: World, at: Moment) -> Reason:
        """Return what gave an object its velocity."""
        row = world.row_of_id(object_id)
        who = called(self.run, object_id, world)
        words = f"{value_words(round(world.vx.item(row), 2))}, {value_words(round(world.vy.item(row), 2))}"
        site = Site(Access("vx", kind_of(self.run, object_id, world)), "")
        return self.leaf_reason(Leaf(f"{who}’s velocity was", words, site, object_id), world, at)

    def _removed_by_motion(self, object_id: int, tick: int) -> Reason | None:
        for at in range(tick, 0, -1):
            if object_id in self.journal.notes_at(at).removed:
                name = called(self.run, object_id)
                return Reason(
                    f"{name} was removed at {seconds(self.run, at)}: its life span was over",
                    "motion",
                    at,
                    ids=(object_id,),
                )
        return None

    # values in words
