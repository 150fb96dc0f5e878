"""Entries about clips: recorded motion that is played on objects."""

from __future__ import annotations

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Candidates, Numbers, Rows
from gatillo.catalogue.declare.entry import action, choice, number, occasion, role, slot
from gatillo.catalogue.declare.facts import ClipEnded
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded
from gatillo.level.roles import Role

SUBJECT = Subject("recorded motion", place=270)


@occasion(
    "{clip} ends on {a}",
    "Once, when a clip that is played once has ended.",
    wakes=lambda clip, a: [ClipEnded(clip)],
    clip=slot("clip"),
    a=role(),
    says=[
        "[the] [clip/recording/animation] {clip} [is] done/over/finished [on {a}]",
        "{clip} finishes/stops/completes/over/done on {a}",
        "[the] clip/recording/motion {clip} on {a} ends/finishes/over",
        "[the] clip/recording/motion {clip} ends/finishes on {a}",
        "{a} finishes [playing] {clip}",
        "{a} ends playing {clip}",
        "{clip} on {a} is over/done/finished",
        "{clip} of/on {a} finishes/stops/completes",
        "after [the] {clip} on {a}",
        "{clip} on {a} has ended/finished",
    ],
)
def clip_ends(world: QueryApi, clip: str, a: Role) -> Candidates:
    rows = world.clip_ended(clip, a)
    return Candidates(len(rows), {a.token: rows})


@action(
    "play {clip} on {who}, {how}, at {speed} × speed, along {axes} axes",
    "Moves the object along a recorded motion, from where it is. Another clip or movement replaces it.",
    clip=slot("clip"),
    who=role(),
    how=choice("once", "in a loop", "there and back"),
    speed=number("1", "1 is as fast as it was recorded"),
    axes=choice("the level's", "its own"),
    says=[
        worded("{who} plays/performs [the] {clip} [clip] twice as fast", speed="2"),
        worded("{who} plays/performs [the] {clip} [clip] half as fast", speed="0.5"),
        worded("{who} plays/performs [the] {clip} [clip] at double speed", speed="2"),
        worded("{who} plays/performs [the] {clip} [clip] at half speed", speed="0.5"),
        worded("{who} plays/performs [the] {clip} [clip] at twice the speed", speed="2"),
        "{who} plays/performs [the] {clip} [clip] at {speed} times [the/its] [normal] speed",
        "{who} plays/performs [the] {clip} [clip] {speed} times as fast",
        worded("loop/repeat [the] {clip} [clip] on/for {who}", how="in a loop"),
        worded("play/run [the] {clip} [clip] on/for {who} over and over [again]", how="in a loop"),
        "run/start/replay [the] [clip/recording/motion/animation] {clip} on/for/with {who} {how}",
        "play [the] [clip/recording/motion/animation] {clip} on/for/with {who} {how}",
        "start/replay/run {clip} on {who} {how}",
        "{who} plays/performs [the] [clip/animation/recording] {clip} {how}",
        "let {who} play/perform {clip} {how}",
        "animate {who} with {clip} {how}",
        "run/start/replay/play [the] {clip} clip/recording/motion/animation on/for/with {who} {how}",
        "run/start/play [the] clip {clip} on/for {who}",
        worded("play/run [the] [clip] {clip} on/for {who} twice as fast", speed="2"),
        worded("play/run [the] [clip] {clip} on/for {who} half as fast", speed="0.5"),
        "play/run [the] [clip] {clip} on/for {who} {speed} times as fast",
        "play/run/start [the] {clip} clip on/for {who}",
        worded("play/run/start [the] {clip} [clip] on/for {who} at half speed", speed="0.5"),
        worded("play/run/start [the] {clip} [clip] on/for {who} at double speed", speed="2"),
        "let/make {who} do/play/perform [the] {clip}",
    ],
)
def play_clip(world: ActionApi, clip: str, who: Rows, how: str, speed: Numbers, axes: str) -> None:
    world.play(who, clip, how, speed, axes == "its own")


@action(
    "stop the clip on {who}",
    "It stays where the clip has taken it.",
    who=role(),
    says=[
        "end/cancel/halt/stop [the] clip/recording/motion/animation on/of {who}",
        "stop/end/cancel {who} 's clip/recording/motion/animation",
        "let/make {who} stop/end/halt its/the clip/recording/motion/animation",
        "{who} stops/ends/halts its/the clip/recording/motion/animation",
        "stop playing on {who}",
        "{who} stops playing",
        "end/stop/halt [the] clip on/of {who}",
    ],
)
def stop_clip(world: ActionApi, who: Rows) -> None:
    world.halt(who)
