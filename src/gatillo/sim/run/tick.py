"""One tick: Input, Clocks, Motion, Contact, Rules, Settle."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.declare import facts
from gatillo.sim.collision.contacts import settle_contacts
from gatillo.sim.collision.regions import settle_areas, settle_under
from gatillo.sim.interaction.focus import FocusContext, settle_focus
from gatillo.sim.interaction.prompts import settle_prompts
from gatillo.sim.interaction.talk import topics
from gatillo.sim.motion.phase import behaving, move_all, nobody_busy, work_out
from gatillo.sim.program.program import Program
from gatillo.sim.rules.action_executor import ActionExecutor, Reached
from gatillo.sim.rules.executor import RuleExecutor
from gatillo.sim.rules.matcher import Matcher
from gatillo.sim.run.outside import come_from_outside
from gatillo.sim.trace.trace import BEHAVIOUR, Recorder
from gatillo.sim.world.input_script import KeyEvents, TickInput
from gatillo.sim.world.records import Saying
from gatillo.sim.world.world import World

_PACK_FROM = 32
ANSWER_LASTS = 3.0
"""Seconds for which an answer in a conversation is shown."""
_NONE: frozenset[str] = frozenset()


def run_tick(
    program: Program,
    world: World,
    given: TickInput | None,
    recorder: Recorder,
    stop_at: int | None = None,
    stop_step: int | None = None,
) -> None:
    """Take the world through its next tick.

    With `stop_at` = k the tick breaks off right after its k-th firing, or before its first for 0. With `stop_step` = k
    it breaks off right after its k-th step. Such a world shows a moment and cannot run on.
    """
    world.tick += 1
    world.time = world.tick * world.dt
    world.rules.created_now = world.rules.sent_now = 0
    recorder.tick_begins(world.tick)
    _input(world, given)
    if given is not None and given.outside:
        come_from_outside(world, given.outside, recorder)
    matcher = Matcher(program, world, recorder)
    turns = RuleExecutor(matcher, ActionExecutor(matcher, stop_at, stop_step))
    try:
        turns.resume(moved=False)
        if recorder.watching:
            recorder.moves(world, True)
        move_all(program, world, recorder)
        if recorder.watching:
            recorder.moves(world, False)
        settle_areas(world)
        settle_under(world)
        _prompts(program, world, recorder)
        settle_contacts(world)
        if stop_at == 0:
            return
        turns.resume(moved=True)
        _rules(program, world, turns)
    except Reached:
        return
    finally:
        for sentence in world.rules.cut:
            recorder.fault(world.tick, BEHAVIOUR, "tick", 0, sentence, 1)
        world.rules.cut = ()
    _settle(world)


def _input(world: World, given: TickInput | None) -> None:
    world.input.pointer_moved = given is not None and given.pointer is not None
    if given is not None and given.pointer is not None:
        world.input.pointer_x, world.input.pointer_y = given.pointer
    _keys(world, given.keys if given is not None else None)
    world.prompts.topic = ""
    world.prompts.chosen_entry = given.choice if given is not None else ""
    if given is not None and given.choice:
        # what the one spoken to does not know of cannot be chosen
        topic = next((t for t in topics(world) if t.name == given.choice), None)
        if topic is not None:
            world.prompts.topic = topic.name
            if topic.answer:
                world.display.sayings[world.prompts.talking] = Saying(topic.answer, world.time + ANSWER_LASTS)


def _keys(world: World, events: KeyEvents | None) -> None:
    still = world.input.held - world.input.tapped
    if events is None:
        if world.input.pressed or world.input.released:
            world.input.held, world.input.pressed, world.input.released, world.input.tapped = (
                still,
                _NONE,
                _NONE,
                _NONE,
            )
        return
    # one that goes up and down again in a tick is released and pressed in it, and stays down
    pressed = frozenset(k for k in events.down if k not in still or k in events.up)
    released = frozenset(k for k in events.up if k in still or k in events.down)
    gone = released - events.stays
    world.input.pressed, world.input.released = pressed, released
    # a key that went down and up in one tick was held in that tick only
    world.input.tapped = gone & pressed
    world.input.held = (still | pressed) - (gone - pressed)


def _prompts(program: Program, world: World, recorder: Recorder) -> None:
    looking = program.tick_tables.acting("focus")
    if not looking and not program.tick_tables.prompting:
        if world.focus.events:
            world.focus.events = ()
        return
    calm = nobody_busy(world)
    for behaviour in (*looking, *(b for _, b in program.tick_tables.prompting)):
        if behaviour.formulas:
            work_out(world, recorder, behaviour, behaving(world, behaviour, calm))
            world.caches.any_moved = True
    # where nothing has stirred, the same is meant as before
    if looking and world.caches.any_moved:
        focus = FocusContext(world)
        for behaviour in looking:
            focus.act(behaviour, behaving(world, behaviour, calm))
        settle_focus(world, focus.now)
    elif world.focus.events:
        world.focus.events = ()
    if program.tick_tables.prompting:
        settle_prompts(
            world, [(number, b, behaving(world, b, calm)) for number, b in program.tick_tables.prompting]
        )


# what wakes the rules


def _key_states(program: Program, world: World) -> Iterator[facts.KeyState]:
    given = world.input
    for key in given.pressed:
        yield facts.KeyState("pressed", key)
    for key in given.held:
        yield facts.KeyState("held", key)
    for key in given.released:
        yield facts.KeyState("released", key)


def _contacts(program: Program, world: World) -> Iterator[facts.Contact]:
    many = len(program.kinds)
    states: tuple[tuple[Literal["begun", "touching", "ended"], NDArray[np.int64]], ...] = (
        ("begun", world.contacts.begun),
        ("touching", world.contacts.touching),
        ("ended", world.contacts.ended),
    )
    for state, codes in states:
        asked = program.tick_tables.touch_facts[state]
        if not asked or not len(codes):
            continue
        a, b = world.rows_of_ids(codes >> 32), world.rows_of_ids(codes & 0xFFFFFFFF)
        there = (a >= 0) & (b >= 0)
        pairs = world.kind[a[there]] * many + world.kind[b[there]]
        for fact in map(asked.get, set(pairs.tolist())):
            if fact is not None:
                yield fact


def _areas_occupied(program: Program, world: World) -> Iterator[facts.AreaOccupied]:
    for area in program.tick_tables.areas_asked:
        if len(world.contacts.inside.get(area, ())):
            yield facts.AreaOccupied(area)


def _areas_changed(program: Program, world: World) -> Iterator[facts.AreaChanged]:
    if world.contacts.inside is not world.contacts.was_inside:
        for area in program.tick_tables.areas_asked:
            yield facts.AreaChanged(area)


Notice = Callable[[Program, World], Iterable[facts.Fact]]

NOTICES: dict[type[facts.Fact], Notice] = {
    facts.EveryTick: lambda program, world: [facts.EveryTick()],
    facts.LevelStarts: lambda program, world: [facts.LevelStarts()] if world.tick == 1 else (),
    facts.KeyState: _key_states,
    facts.Heard: lambda program, world: map(facts.Heard, world.messages.heard),
    facts.TopicChosen: lambda program, world: [facts.TopicChosen(world.prompts.topic)],
    facts.PromptChanged: lambda program, world: [facts.PromptChanged(e[0]) for e in world.prompts.events],  # type: ignore[arg-type]
    facts.Arrival: lambda program, world: [facts.Arrival(a[0]) for a in world.movement.arrivals],  # type: ignore[arg-type]
    facts.FocusChanged: lambda program, world: [facts.FocusChanged()] if world.focus.events else (),
    facts.ClipEnded: lambda program, world: [facts.ClipEnded(name) for name, _ in world.movement.clip_ends],
    facts.PointerMoved: lambda program, world: [facts.PointerMoved()] if world.input.pointer_moved else (),
    facts.UnderPointer: lambda program, world: [facts.UnderPointer()] if world.input.under else (),
    facts.UnderPointerChanged: lambda program, world: (
        [facts.UnderPointerChanged()] if world.input.under != world.input.was_under else ()
    ),
    facts.AreaOccupied: _areas_occupied,
    facts.AreaChanged: _areas_changed,
    facts.Contact: _contacts,
}
"""How each type of fact is noticed: those of it that have come true in a tick."""


def check_notices() -> None:
    """Raises TypeError when there is a fact that nothing here notices: a rule that waits for it would never fire."""
    missing = [kind.__name__ for kind in facts.FACTS if kind not in NOTICES]
    if missing:
        raise TypeError(f"no tick notices: {', '.join(missing)}")


check_notices()


def _rules(program: Program, world: World, turns: RuleExecutor) -> None:
    awake = bytearray(len(program.rules))
    for position in program.always:
        awake[position] = 1
    wakes = program.wakes
    for kind in program.noticed:
        for fact in NOTICES[kind](program, world):
            for position in wakes.get(fact, ()):
                awake[position] = 1
    if program.alarms:
        for position in turns.ring():
            awake[position] = 1
    position = awake.find(1)
    while position >= 0:
        turns.take(program.rules[position])
        position = awake.find(1, position + 1)


def _settle(world: World) -> None:
    world.messages.heard, world.messages.outbox = world.messages.outbox, {}
    world.messages.heard_from, world.messages.sent_from = world.messages.sent_from, {}
    if world.display.sayings:
        over = [i for i, (_, until) in world.display.sayings.items() if until <= world.time]
        for object_id in over:
            del world.display.sayings[object_id]
    dead = len(world.alive) - int(np.count_nonzero(world.alive))
    if dead > _PACK_FROM and dead * 4 > len(world.alive):
        world.pack()
