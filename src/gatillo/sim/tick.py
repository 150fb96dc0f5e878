"""One tick: Input, Clocks, Motion, Contact, Rules, Settle."""

from __future__ import annotations

import numpy as np

from gatillo.sim.contact import settle_contacts
from gatillo.sim.focus import Looking, settle_focus
from gatillo.sim.motion import behaving, move_all, work_out
from gatillo.sim.presence import settle_areas, settle_under
from gatillo.sim.program import Program
from gatillo.sim.prompts import settle_prompts
from gatillo.sim.script import KeyEvents, TickInput
from gatillo.sim.trace import BEHAVIOUR, Recorder
from gatillo.sim.turns import Reached, Turns
from gatillo.sim.world.world import World

_PACK_FROM = 32
ANSWER_LASTS = 3.0
"""Seconds for which an answer in a conversation is shown."""
_NONE: frozenset[str] = frozenset()


def run_tick(
    program: Program, world: World, given: TickInput | None, recorder: Recorder, stop_at: int | None = None
) -> None:
    """Take the world through its next tick.

    With `stop_at` = k the tick breaks off right after its k-th firing, or before its first for 0;
    that world shows a moment and cannot run on.
    """
    world.tick += 1
    world.time = world.tick * world.dt
    world.rules.created_now = world.rules.sent_now = 0
    recorder.tick_begins(world.tick)
    _input(world, given)
    turns = Turns(program, world, recorder, stop_at)
    try:
        turns.resume()
        move_all(program, world, recorder)
        settle_areas(world)
        settle_under(world)
        _prompts(program, world, recorder)
        settle_contacts(world)
        if stop_at == 0:
            return
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
        topic = next((t for t in world.topics() if t.name == given.choice), None)
        if topic is not None:
            world.prompts.topic = topic.name
            if topic.answer:
                world.display.sayings[world.prompts.talking] = (topic.answer, world.time + ANSWER_LASTS)


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
    looking = program.acting("contact")
    for behaviour in looking:
        if behaviour.formulas:
            work_out(world, recorder, behaviour, behaving(world, behaviour))
            world.caches.any_moved = True
    # where nothing has stirred, the same is meant as before
    if looking and world.caches.any_moved:
        focus = Looking(world)
        for behaviour in looking:
            if behaviour.entry.name == "focus":
                focus.act(behaviour, behaving(world, behaviour))
        settle_focus(world, focus.now)
    elif world.focus.events:
        world.focus.events = ()
    if program.prompting:
        settle_prompts(world, [(number, b, behaving(world, b)) for number, b in program.prompting])


def _rules(program: Program, world: World, turns: Turns) -> None:
    awake = bytearray(len(program.turns))
    for position in program.always:
        awake[position] = 1
    wakes = program.wakes
    if world.tick == 1:
        _wake(awake, wakes.get(("start",), ()))
    for key in world.input.pressed:
        _wake(awake, wakes.get(("pressed", key), ()))
    for key in world.input.held:
        _wake(awake, wakes.get(("held", key), ()))
    for key in world.input.released:
        _wake(awake, wakes.get(("released", key), ()))
    for message in world.messages.heard:
        _wake(awake, wakes.get(("heard", message), ()))
    if world.prompts.topic:
        _wake(awake, wakes.get(("chosen", world.prompts.topic), ()))
    for what in {event[0] for event in world.prompts.events}:
        _wake(awake, wakes.get(("prompt", what), ()))
    for what in {event[0] for event in world.movement.arrivals}:
        _wake(awake, wakes.get(("arrives", what), ()))
    if world.focus.events:
        _wake(awake, wakes.get(("focus",), ()))
    for clip in {name for name, _ in world.movement.clip_ends}:
        _wake(awake, wakes.get(("clip ends", clip), ()))
    if world.input.pointer_moved:
        _wake(awake, wakes.get(("pointer moves",), ()))
    if world.input.under:
        _wake(awake, wakes.get(("under",), ()))
    if world.input.under != world.input.was_under:
        _wake(awake, wakes.get(("under changes",), ()))
    for area in program.areas_asked:
        if len(world.contacts.inside.get(area, ())):
            _wake(awake, wakes.get(("area", area), ()))
        if world.contacts.inside is not world.contacts.was_inside:
            _wake(awake, wakes.get(("area changes", area), ()))
    if program.alarms:
        _wake(awake, turns.ring())
    _wake_contacts(program, world, awake)
    position = awake.find(1)
    while position >= 0:
        turns.take(program.turns[position])
        position = awake.find(1, position + 1)


def _wake(awake: bytearray, positions: object) -> None:
    for position in positions:  # type: ignore[attr-defined]
        awake[position] = 1


def _wake_contacts(program: Program, world: World, awake: bytearray) -> None:
    many = len(program.kinds)
    for state, codes in (
        ("begun", world.contacts.begun),
        ("touching", world.contacts.touching),
        ("ended", world.contacts.ended),
    ):
        wanted = program.touch_wakes[state]
        if not wanted or not len(codes):
            continue
        a, b = world.rows_of_ids(codes >> 32), world.rows_of_ids(codes & 0xFFFFFFFF)
        there = (a >= 0) & (b >= 0)
        kinds_a, kinds_b = world.kind[a[there]], world.kind[b[there]]
        pairs = np.minimum(kinds_a, kinds_b) * many + np.maximum(kinds_a, kinds_b)
        for pair in set(pairs.tolist()):
            _wake(awake, wanted.get(pair, ()))


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
