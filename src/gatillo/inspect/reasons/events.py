"""Causes that are no value of an object: keys, messages, timers, switches, chance, other rules."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from gatillo.catalogue.declare.facts import PromptChanged
from gatillo.formula.formula import TELLING, Formula
from gatillo.inspect.reasons.explaining import Explaining
from gatillo.inspect.reasons.instruments import Match, TurnSeen
from gatillo.inspect.reasons.journal import Moment
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.reason_words import called, quoted, seconds
from gatillo.inspect.value_words import value_words
from gatillo.kernels.mathematics import length
from gatillo.language.binding import Word
from gatillo.sim.collision.raycast import clear_views
from gatillo.sim.program.bodies import WALK
from gatillo.sim.program.compiled_line import CompiledLine, facts_of
from gatillo.sim.program.touched import LEVEL, names_of, reads_of
from gatillo.sim.trace.trace import Did
from gatillo.sim.world.input_script import SentOutside
from gatillo.sim.world.world import World


def events(
    explainer: Explaining, seen: TurnSeen, line: CompiledLine, match: Match, at: Moment
) -> list[Reason]:
    """Return what a line of a match was brought about by, beside the values that it read."""
    found: list[Reason] = []
    read = {
        (site.access.what, site.access.named)
        for site in reads_of(names_of(explainer.run.program.index, seen.rule), line)
    }
    for what, named in sorted(read):
        if what == "input":
            found += inputs(explainer, line, seen.tick)
        elif what == "message" and named:
            found += senders(explainer, named, seen.tick)
        elif what == "timer":
            found += level_write(explainer, "timer", named, f"timer {named}", at)
        elif what == "fired":
            found += fired_before(explainer, named, seen.tick)
        elif what == "switch":
            found += level_write(explainer, "switch", named, named, at)
        elif what == TELLING:
            found += level_write(explainer, TELLING, "", "the message to the player", at)
        elif what == "talk":
            found += level_write(explainer, "talk", "", "the conversation", at)
        elif what == "chance":
            found.append(Reason("a draw by chance: the same for the same seed", "chance", seen.tick))
    world = seen.at_turn
    if world is not None and PromptChanged("broken off") in facts_of(line):
        found = [*broken_off(explainer, world, match, seen.tick), *found]
    if world is not None:
        found += [explainer.there(i, seen.tick) for i in match.values() if world.row_of_id(i) < 0]
    return found


def broken_off(explainer: Explaining, world: World, match: Match, tick: int) -> Iterator[Reason]:
    """Yield what broke off the answering of a prompt: its key, a distance, a wall, or a removed object."""
    run = explainer.run
    before = run.world_at(run.end_of(tick - 1), explainer.between)
    for what, prompt, by, _ in world.prompts.events:
        if what != "broken off" or not {prompt, by} <= set(match.values()):
            continue
        answered = next(
            (key for (who, key), a in before.prompts.answering.items() if (who, a.prompt) == (by, prompt)),
            None,
        )
        rows = np.array([world.row_of_id(prompt)]), np.array([world.row_of_id(by)])
        name, other = called(run, prompt, world), called(run, by, world)
        gone = [one for one, row in zip((prompt, by), rows, strict=True) if row[0] < 0]
        yield from (explainer.there(one, tick) for one in gone)
        if gone:
            continue
        key = answered or (before.prompts.menu.key if before.prompts.menu is not None else "")
        when = last_input(explainer, key, tick) if key else None
        if when is not None and when[0] == tick:
            yield Reason(f"{key} {when[1]} at {seconds(run, tick)}, in the trial’s input", "input", tick)
        if not world.shown[rows[0][0]]:
            yield Reason(f"{name} is hidden", "value", tick, ids=(prompt,))
        kind = world.kind.item(rows[0][0])
        for _, behaviour in world.program.tick_tables.prompting:
            if behaviour.kind != kind:
                continue
            if not world.variables[behaviour.on].item(rows[0][0]):
                yield Reason(f"the prompt of {name} is switched off", "value", tick, ids=(prompt,))
            reach = world.variables[behaviour.columns["reach"]].item(rows[0][0])
            away = length(*((column[rows[0][0]] - column[rows[1][0]]) for column in (world.x, world.y)))
            if away > reach:
                far = f"{value_words(round(away, 2))} units from {name}, {value_words(round(away - reach, 2))} beyond its reach of {value_words(reach)}"
                reason = Reason(f"{other} was {far}", "value", tick, ids=(by, prompt))
                reason.grounds = lambda: [explainer.place_reason(one, world, tick) for one in (by, prompt)]  # noqa: B023
                yield reason
            elif not clear_views(world, rows[1], rows[0])[0]:
                yield Reason(f"{other} had no clear view of {name}", "value", tick, ids=(by, prompt))


def inputs(explainer: Explaining, line: CompiledLine, tick: int) -> list[Reason]:
    """Return the keys and the pointer that a line asks about: when each went down or up last."""
    keys = [
        a.text for n, a in line.arguments.items() if isinstance(a, Word) and line.entry.slots[n].kind.presses
    ]
    keys += [f"pointer {a.text}" for n, a in line.arguments.items() if n == "button" and isinstance(a, Word)]
    for formula in line.arguments.values():
        if isinstance(formula, Formula):
            keys += [name for owner, name in formula.reads if owner == "key"]
    found = [r for key in dict.fromkeys(keys) if (r := input_reason(explainer, key, tick)) is not None]
    if not found:
        moves = [t for t in explainer.run.script.pointer if t <= tick]
        if moves:
            x, y = explainer.run.script.pointer[max(moves)]
            words = f"the pointer was put at {value_words(round(x, 1))}, {value_words(round(y, 1))} at {seconds(explainer.run, max(moves))}, in the trial’s input"
            found.append(Reason(words, "input", max(moves)))
    return found


def input_reason(explainer: Explaining, key: str, tick: int) -> Reason | None:
    """Return when a key went down or up last, in the trial's input."""
    when = last_input(explainer, key, tick)
    if when is None:
        return None
    words = f"{key} {when[1]} at {seconds(explainer.run, when[0])}, in the trial’s input"
    return Reason(words, "input", when[0])


def last_input(explainer: Explaining, key: str, tick: int) -> tuple[int, str] | None:
    """Return when a key went down or up last before the end of a tick, and which of the two; None if it never did."""
    events = explainer.run.script.events
    wanted = {key, key.removeprefix("pointer ")}
    for at in sorted((t for t in events if t <= tick), reverse=True):
        names = {k.lower(): k for k in (*events[at].down, *events[at].up)}
        mine = next((names[w.lower()] for w in wanted if w.lower() in names), None)
        if mine is not None:
            return at, "was pressed" if mine in events[at].down else "was let go"
    return None


def senders(explainer: Explaining, name: str, tick: int) -> Iterator[Reason]:
    """Yield what sent a message that is heard in a tick: the firings of the tick before."""
    run, trace = explainer.run, explainer.run.trace
    number = run.program.messages.get(name)
    sent = False
    for position, did, what in trace.effects_at(tick - 1):
        if did is Did.SENT and what == number:
            firing = trace.firings_at(tick - 1)[position - 1]
            rule = run.program.rules[firing.rule_index]
            sent = True
            reason = Reason(
                f"{name} was sent at {seconds(run, tick - 1)} by {quoted(rule.source.name)}",
                "written",
                tick - 1,
                position,
                rule.source.id,
            )
            reason.grounds = partial(explainer.only_fired, tick - 1, position)
            yield reason
    for change in run.script.outside.get(tick - 1, ()):
        if isinstance(change, SentOutside) and change.message == name:
            sent = True
            words = f"{name} was sent from outside at {seconds(run, tick - 1)}, by another program"
            yield Reason(words, "input", tick - 1)
    at_stops = list(_sent_at_stops(explainer, name, tick - 1))
    yield from at_stops
    if not sent and not at_stops:
        yield Reason(f"{name} was sent when a move ended at {seconds(run, tick - 1)}", "motion", tick - 1)


def _sent_at_stops(explainer: Explaining, name: str, tick: int) -> Iterator[Reason]:
    """Yield the arrivals of a tick at stops of routes that send a message."""
    run = explainer.run
    messages = run.program.kind_tables.stop_messages
    if not any(name in of_route for of_route in messages):
        return
    world = run.world_at(run.end_of(tick), explainer.between)
    routes = list(run.program.index.routes)
    for what, object_id, stop in world.movement.arrivals:
        row = world.row_of_id(object_id)
        if what != "stop" or row < 0:
            continue
        route = int(world.variables[WALK["route"]].item(row))
        if messages[route][stop - 1] == name:
            who = called(run, object_id, world)
            words = f"{name} was sent at {seconds(run, tick)} by {who}, which came to stop {stop} of {routes[route]}"
            yield Reason(words, "motion", tick, ids=(object_id,))


def level_write(explainer: Explaining, what: str, named: str, words: str, at: Moment) -> list[Reason]:
    """Return what wrote something of the level last, such as a timer; None if it is as it was at the start."""
    wrote = explainer.journal.last_write(what, named, LEVEL, None, at)
    if wrote is None:
        return []
    by = explainer.by(wrote)
    return [explainer.from_write(f"{words} — set at {seconds(explainer.run, wrote.tick)} by {by}", wrote)]


def fired_before(explainer: Explaining, name: str, tick: int) -> list[Reason]:
    """Return when another rule fired last, up to a tick."""
    rule = next((t for t in explainer.run.program.rules if t.source.name == name), None)
    before = explainer.last_firing(rule, tick + 1) if rule is not None else None
    return [explainer.fired(before.tick, before.position)] if before is not None else []
