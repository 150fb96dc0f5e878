"""What a firing caused: what it wrote, sent, created, removed, and the firings that read or heard it."""

from __future__ import annotations

from collections.abc import Iterator

from gatillo.inspect.reasons.journal import Moment, Wrote
from gatillo.inspect.reasons.reason import MOST_NAMED, Reason, listed
from gatillo.inspect.reasons.reason_words import called, place_words, quoted, seconds
from gatillo.inspect.reasons.why import Explainer
from gatillo.language.binding import Word
from gatillo.level.properties import PROPERTIES
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.program.touched import LEVEL, Access, touched_by_rule
from gatillo.sim.trace.trace import Did

MOST_TRIED = 12
"""So many firings of a turn are looked at, for the first that read what was written."""


def caused(explainer: Explainer, tick: int, position: int) -> Reason:
    """Return what a firing led to. Raises ValueError for a firing that there is not."""
    begun = explainer.fired(tick, position)
    reason = Reason(
        begun.sentence.replace("; this is of the first", ""),
        "firing",
        tick,
        position,
        begun.rule_id,
        ids=begun.ids,
    )
    reason.grounds = lambda: list(_effects(explainer, tick, position))
    return reason


def _effects(explainer: Explainer, tick: int, position: int) -> Iterator[Reason]:
    run = explainer.run
    firing = run.trace.firings_at(tick)[position - 1]
    rule = run.program.rules[firing.rule_index]
    seen: set[tuple[str, str, int]] = set()
    for wrote in explainer.journal.notes_at(tick).wrote:
        if wrote.rule_index != firing.rule_index or wrote.position != position:
            continue
        if (wrote.what, wrote.named, wrote.seq) in seen or wrote.what in ("own", "note", "wait"):
            continue
        seen.add((wrote.what, wrote.named, wrote.seq))
        yield _effect(explainer, rule, wrote)
    for at, did, number in run.trace.effects_at(tick):
        if at == position and did is Did.WAITS:
            yield _wait(explainer, rule, tick, number)


def _effect(explainer: Explainer, rule: CompiledRule, wrote: Wrote) -> Reason:
    run = explainer.run
    where = place_words(run, rule, wrote.part, wrote.line, wrote.card)
    ids = tuple(sorted(wrote.ids))[:MOST_NAMED] if wrote.ids is not None else ()
    names = listed([called(run, i) for i in sorted(wrote.ids)]) if wrote.ids else ""
    does = {name: made.does.format(names=names) for name, made in PROPERTIES.items() if made.does}
    words = does | {
        "message": f"it sent {wrote.named}",
        "there": f"it created or removed {names or 'nothing'}",
        "variable": f"it set {names + '.' if names else 'level.'}{wrote.named}",
        "tag": f"it changed tag {wrote.named} of {names}",
        "switch": f"it switched {wrote.named}",
    }
    said = words.get(
        wrote.what, f"it changed the {wrote.what} of {names}" if names else f"it changed the {wrote.what}"
    )
    reason = Reason(
        f"{said} ({where})", "written", wrote.tick, wrote.position, rule.source.id, wrote.card, ids
    )
    reason.grounds = lambda: list(_readers(explainer, wrote))
    return reason


def _wait(explainer: Explainer, rule: CompiledRule, tick: int, due: int) -> Reason:
    run = explainer.run
    words = f"it waits until {seconds(run, due)}"
    resumed = next((f for f in run.trace.firings_at(due) if f.rule_index == rule.index), None)
    reason = Reason(words, "written", tick, 0, rule.source.id)
    if resumed is not None:
        reason.grounds = lambda: explainer.only_fired(due, resumed.position)
    return reason


def _readers(explainer: Explainer, wrote: Wrote) -> Iterator[Reason]:
    """Return for each rule the first firing that read what was written, before it was written again."""
    run, trace = explainer.run, explainer.run.trace
    if wrote.what == "message":
        yield from _listeners(explainer, wrote)
        return
    kinds = [k.name for k in run.program.kinds] if wrote.ids is not None else [LEVEL]
    for rule in run.program.rules:
        reads = touched_by_rule(run.program.index, rule).reads
        kind = next(
            (k for k in kinds if any(Access(wrote.what, k, wrote.named).meets(a) for a in reads)), None
        )
        if kind is None:
            continue
        tried = 0
        tick: int | None = wrote.tick
        while tick is not None and tried < MOST_TRIED:
            for firing in trace.firings_at(tick):
                if firing.rule_index != rule.index or (tick, firing.position) <= (wrote.tick, wrote.position):
                    continue
                tried += 1
                if _read(explainer, rule, wrote, tick, firing.position):
                    yield caused(explainer, tick, firing.position)
                    tried = MOST_TRIED
                    break
            tick = trace.next_tick_with_firing(tick)


def _read(explainer: Explainer, rule: CompiledRule, wrote: Wrote, tick: int, position: int) -> bool:
    """Return whether a firing read what was written then, and nothing had written it since."""
    seen = explainer.turn_seen(tick, rule)
    mine = seen.firing(position)
    if mine is None:
        return False
    about = {i for column in mine.after.ids.values() for i in column.tolist()}
    ids = [None] if wrote.ids is None else sorted(wrote.ids & about)[:MOST_NAMED]
    at = Moment(tick, seen.seq)
    world = mine.world
    for one in ids:
        row = world.row_of_id(one) if one is not None else -1
        kind = LEVEL if one is None else world.program.kinds[world.kind.item(row)].name if row >= 0 else None
        if kind is None:
            continue
        last = explainer.journal.last_write(wrote.what, wrote.named, kind, one, at)
        if last is not None and (last.tick, last.seq) == (wrote.tick, wrote.seq):
            return True
    return False


def _listeners(explainer: Explainer, wrote: Wrote) -> Iterator[Reason]:
    run = explainer.run
    heard = False
    for firing in run.trace.firings_at(wrote.tick + 1):
        rule = run.program.rules[firing.rule_index]
        listens = any(
            isinstance(argument, Word)
            and argument.text == wrote.named
            and line.entry.slots[name].type == "message"
            for line in rule.when
            for name, argument in line.arguments.items()
        )
        if listens:
            heard = True
            yield caused(explainer, firing.tick, firing.position)
    if not heard:
        yield Reason(f"nothing fired on {quoted(wrote.named)} in the tick after", "note", wrote.tick + 1)
