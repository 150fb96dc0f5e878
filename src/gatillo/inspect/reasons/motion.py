"""Why Motion moved or turned an object in a tick: what carries it, a move over a time, a behaviour, or its velocity."""

from __future__ import annotations

from gatillo.catalogue.entry import CATALOGUE
from gatillo.catalogue.sentence import sentence
from gatillo.inspect.reasons.events import input_reason
from gatillo.inspect.reasons.explaining import Explaining
from gatillo.inspect.reasons.journal import POSE, Moment, Wrote
from gatillo.inspect.reasons.leaves import kind_of
from gatillo.inspect.reasons.reason import Reason, value_words
from gatillo.inspect.reasons.words import called, seconds
from gatillo.level.naming import spoken
from gatillo.sim.program.bodies import on_column
from gatillo.sim.program.touched import Access
from gatillo.sim.world.world import World

SENT = {
    "tween": "a move over a time",
    "clip": "a clip",
    "route": "its way along a route",
    "bond": "what carries it",
}
"""What moves an object beside its behaviours and its velocity, and how that is called."""


def motion_reason(
    explainer: Explaining, words: str, wrote: Wrote, object_id: int, ids: tuple[int, ...]
) -> Reason:
    """Why an object was moved or turned by Motion in the tick in which that was written."""
    run = explainer.run
    before = run.world_at(run.end_of(wrote.tick - 1), explainer.between)
    kind = kind_of(run, object_id, before)
    at = Moment(wrote.tick, wrote.seq)
    when = f"moved at {seconds(run, wrote.tick)}"
    if wrote.what == "angle":
        when = f"turned at {seconds(run, wrote.tick)}"
    sent = _sent_by(explainer, before, object_id, kind, at)
    if sent is not None and wrote.what not in ("vx", "vy"):
        return Reason(f"{words}{when} by {sent[0]}", "motion", wrote.tick, ids=ids, grounds=lambda: [sent[1]])
    acting = _behaviours(explainer, before, object_id, kind, wrote.what)
    if not acting and wrote.what in ("x", "y"):
        acting = _behaviours(explainer, before, object_id, kind, "vx")
    if acting:
        names = " and ".join(f"“{said}”" for _, said in acting)
        reason = Reason(f"{words}{when} by its behaviour {names}", "motion", wrote.tick, ids=ids)
        reason.grounds = lambda: _behaviour_grounds(explainer, before, object_id, kind, acting, at)
        return reason
    if wrote.what in ("vx", "vy"):
        return Reason(
            f"{words}{when} by what it touched, by gravity or by friction", "motion", wrote.tick, ids=ids
        )
    row = before.row_of_id(object_id)
    if row < 0:
        return Reason(f"{words}{when}", "motion", wrote.tick, ids=ids)
    speed = f"{value_words(round(before.vx.item(row), 2))}, {value_words(round(before.vy.item(row), 2))}"
    if not (before.vx.item(row) or before.vy.item(row)):
        return Reason(f"{words}{when}: pushed by what it touched", "motion", wrote.tick, ids=ids)
    reason = Reason(f"{words}{when} by its velocity {speed}", "motion", wrote.tick, ids=ids)
    reason.grounds = lambda: [explainer.velocity_reason(object_id, before, at)]
    return reason


def _sent_by(
    explainer: Explaining, before: World, object_id: int, kind: str, at: Moment
) -> tuple[str, Reason] | None:
    """What moves an object beside its behaviours, and who began that."""
    movement = before.movement
    going = []
    if object_id in movement.bonds:
        going.append("bond")
    if any(object_id in tween.ids.tolist() for tween in movement.tweens):
        going.append("tween")
    if any(playing.object == object_id for playing in movement.playing):
        going.append("clip")
    if explainer.journal.turns_that_write_of(kind, "route"):
        going.append("route")
    for what in going:
        words = SENT[what]
        if what == "bond":
            words = f"{called(explainer.run, movement.bonds[object_id].carrier, before)}, which carries it"
        wrote = explainer.journal.last_write(what, "", kind, object_id, at)
        if wrote is None or wrote.turn < 0:
            if what != "bond":
                continue
            return words, Reason(
                f"{called(explainer.run, object_id, before)} was attached at the start", "start"
            )
        begun = explainer.from_write(
            f"{words} — begun at {seconds(explainer.run, wrote.tick)} by {explainer.by(wrote)}",
            wrote,
            (object_id,),
        )
        return words, begun
    return None


def behaviour_reason(
    explainer: Explaining, words: str, access: Access, object_id: int | None, world: World, at: Moment
) -> Reason | None:
    """Something that only behaviours write, such as who looks at what: by which of them it was."""
    if object_id is None or access.what in (*POSE, "facing", "variable", "tag", "there", "item"):
        return None
    acting = _behaviours(explainer, world, object_id, access.kind, access.what)
    if not acting:
        return None
    names = " and ".join(f"“{said}”" for _, said in acting)
    reason = Reason(f"{words} — by its behaviour {names}", "motion", at.tick, ids=(object_id,))
    reason.grounds = lambda: _behaviour_grounds(explainer, world, object_id, access.kind, acting, at)
    return reason


def _behaviours(
    explainer: Explaining, world: World, object_id: int, kind: str, what: str
) -> list[tuple[int, str]]:
    """The behaviours of an object that were on and may have written something: their places, and what they say."""
    row = world.row_of_id(object_id)
    declared = explainer.run.program.index.kinds[kind]
    found = []
    for at in explainer.journal.behaviours_that_write(kind, what):
        clause = declared.behaviours[at]
        column = world.variables.get(on_column(clause.use))
        if row < 0 or column is None or bool(column[row]):
            found.append((at, sentence(clause)))
    return found


def _behaviour_grounds(
    explainer: Explaining,
    world: World,
    object_id: int,
    kind: str,
    acting: list[tuple[int, str]],
    at: Moment,
) -> list[Reason]:
    """What of a behaviour was set or switched by rules, and what its formulas and its target read."""
    found: list[Reason] = []
    run = explainer.run
    declared = run.program.index.kinds[kind]
    name = called(run, object_id, world)
    for place, _ in acting:
        clause = declared.behaviours[place]
        said = spoken(clause.use)
        switched = explainer.journal.last_write("on", said, kind, object_id, at)
        if switched is not None and switched.turn >= 0:
            words = f"“{said}” of {name} is on — switched at {seconds(run, switched.tick)} by {explainer.by(switched)}"
            found.append(explainer.from_write(words, switched, (object_id,)))
        behaviour = next(
            (b for b in run.program.behaviours if b.line == place and run.program.kinds[b.kind].name == kind),
            None,
        )
        if behaviour is None:
            continue
        for setting in behaviour.columns:
            wrote = explainer.journal.last_write("setting", f"{said}: {setting}", kind, object_id, at)
            if wrote is not None and wrote.turn >= 0:
                row = world.row_of_id(object_id)
                now = value_words(world.variables[behaviour.columns[setting]][row].item()) if row >= 0 else ""
                words = (
                    f"its {setting} was {now} — set at {seconds(run, wrote.tick)} by {explainer.by(wrote)}"
                )
                found.append(explainer.from_write(words, wrote, (object_id,)))
        slots = CATALOGUE[clause.use].slots
        keys = [clause.slots.get(n, slot.default) for n, slot in slots.items() if slot.type == "key"]
        found += [last for key in keys if (last := input_reason(explainer, key, at.tick)) is not None]
    return found or [
        Reason(
            f"{kind} has this behaviour, with the settings that it was given", "start", 0, ids=(object_id,)
        )
    ]
