"""Why Motion moved or turned an object in a tick: what carries it, a move over a time, a behaviour, or its velocity."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial

from gatillo.catalogue.declare.entry import CATALOGUE
from gatillo.inspect.reasons.events import input_reason
from gatillo.inspect.reasons.explaining import Explaining
from gatillo.inspect.reasons.journal import POSE, Moment, Wrote
from gatillo.inspect.reasons.leaves import kind_of
from gatillo.inspect.reasons.reason import Reason, listed
from gatillo.inspect.reasons.reason_words import called, seconds
from gatillo.inspect.value_words import value_words
from gatillo.language.sentence import sentence
from gatillo.level.naming import spoken
from gatillo.sim.program.bodies import ENDS, MOVABLE, WALK, WALKS, on_column
from gatillo.sim.program.touched import Access
from gatillo.sim.world.world import World

SENT = {
    "tween": "a move over a time",
    "clip": "a clip",
    "bond": "what carries it",
}
"""What takes an object where it is, whatever its velocity, and how that is called."""
TURNED = "a turn over a time"
SAME = 1e-9
"""Units a second by which a change of velocity may miss what gravity does in a tick."""


@dataclass(frozen=True, slots=True)
class Cause:
    """Something that moved or turned an object in a tick: `by` what, and the reasons for that."""

    words: str
    grounds: Callable[[], list[Reason]] | None = None


def motion_reason(
    explainer: Explaining, words: str, wrote: Wrote, object_id: int, ids: tuple[int, ...]
) -> Reason:
    """Return why Motion moved or turned an object in the tick in which that was written: every cause by its name."""
    run = explainer.run
    before = run.world_at(run.end_of(wrote.tick - 1), explainer.between)
    at = Moment(wrote.tick, wrote.seq)
    deed = {"angle": "turned", "vx": "changed", "vy": "changed"}.get(wrote.what, "moved")
    said = f"{words}{deed} at {seconds(run, wrote.tick)}"
    causes = list(_causes(explainer, before, object_id, kind_of(run, object_id, before), wrote.what, at))
    if not causes:
        return Reason(said, "motion", wrote.tick, ids=ids)
    reason = Reason(f"{said} by {' and by '.join(c.words for c in causes)}", "motion", wrote.tick, ids=ids)
    if any(c.grounds is not None for c in causes):
        reason.grounds = lambda: [found for c in causes if c.grounds is not None for found in c.grounds()]
    return reason


def _causes(
    explainer: Explaining, before: World, object_id: int, kind: str, what: str, at: Moment
) -> Iterator[Cause]:
    """Yield what moved or turned an object in a tick; `before` is the world at the end of the tick before."""
    velocity = what in ("vx", "vy")
    if what == "angle" and any(object_id in turn.ids.tolist() for turn in before.movement.turns):
        begun = _begun(explainer, "tween", TURNED, object_id, kind, at)
        yield Cause(TURNED, (lambda: [begun]) if begun is not None else None)
        return
    if not velocity:
        sent = _sent_by(explainer, before, object_id, kind, at)
        if sent is not None:
            yield sent
            return
    walked = _walked(explainer, before, object_id, kind, at)
    if walked is not None:
        yield walked
        return
    notes = explainer.journal.notes_at(at.tick)
    change = notes.change_of(what, object_id) if velocity else None
    if what == "vy" and change is not None:
        fall = _gravity(explainer, before, object_id, kind, at)
        pull = _pull_of(explainer, object_id, at.tick)
        if fall is not None and abs(change[1] - change[0] + pull * before.dt) <= SAME * max(1.0, abs(pull)):
            yield fall
            return
    acting = _behaviours(explainer, before, object_id, kind, what)
    if not acting and what in ("x", "y"):
        acting = _behaviours(explainer, before, object_id, kind, "vx")
    if acting:
        yield _of_behaviours(explainer, before, object_id, kind, acting, at, "its behaviour {}")
    row = before.row_of_id(object_id)
    flies = row >= 0 and bool(before.vx.item(row) or before.vy.item(row))
    if what in ("x", "y") and flies and not acting:
        speed = f"{value_words(round(before.vx.item(row), 2))}, {value_words(round(before.vy.item(row), 2))}"
        yield Cause(f"its velocity {speed}", lambda: [explainer.velocity_reason(object_id, before, at)])
        return
    if what == "angle":
        return
    yield from _forces(explainer, before, object_id, kind, what, at, bool(acting))


def _forces(
    explainer: Explaining, before: World, object_id: int, kind: str, what: str, at: Moment, driven: bool
) -> Iterator[Cause]:
    """Yield gravity, what slows an object, and what it hit: what changes a velocity that nothing drives."""
    run = explainer.run
    if not driven:
        if what in ("y", "vy"):
            fall = _gravity(explainer, before, object_id, kind, at)
            if fall is not None:
                yield fall
        yield from _slowed(explainer, before, object_id, kind, at)
    hit = explainer.journal.notes_at(at.tick).hit_by(object_id)
    if hit:
        after = run.world_at(run.end_of(at.tick), explainer.between)
        names = listed([called(run, one, after) for one in hit])
        yield Cause(f"hitting {names}")


def _pull_of(explainer: Explaining, object_id: int, tick: int) -> float:
    """Return how strongly an object was pulled down in a tick, in units a second per second."""
    run = explainer.run
    world = run.world_at(run.end_of(tick), explainer.between)
    row = world.row_of_id(object_id)
    return world.gravity.item(row) if row >= 0 else 0.0


def _gravity(explainer: Explaining, before: World, object_id: int, kind: str, at: Moment) -> Cause | None:
    """Return the gravity that pulls an object, and whose it is: its behaviour's, one that a rule has set, or the level's."""
    pull = _pull_of(explainer, object_id, at.tick)
    row = before.row_of_id(object_id)
    if not pull or row < 0 or before.asleep.item(row) or object_id in before.movement.bonds:
        return None
    acting = _behaviours(explainer, before, object_id, kind, "gravity")
    if acting:
        words = "gravity, as its behaviour {} sets it"
        return _of_behaviours(explainer, before, object_id, kind, acting, at, words)
    return _physical(explainer, "gravity", pull, object_id, kind, at, "the level’s gravity")


def _slowed(explainer: Explaining, before: World, object_id: int, kind: str, at: Moment) -> Iterator[Cause]:
    """Yield what takes speed from an object: friction on its ground or on what it lies on, and losses of its behaviour."""
    row = before.row_of_id(object_id)
    if row < 0 or not (before.vx.item(row) or before.vy.item(row)):
        return
    friction = before.friction.item(row)
    rubs = before.gravity.item(row) == 0 or before.grounded.item(row)
    if friction > 0 and rubs and before.contact.item(row) == MOVABLE:
        yield _physical(explainer, "friction", friction, object_id, kind, at, f"friction of {kind}")
    for behaviour in before.program.behaviours:
        slowing = behaviour.columns.get("slowing")
        if slowing is None or before.program.kinds[behaviour.kind].name != kind:
            continue
        if before.variables[slowing].item(row) > 0 and before.variables[behaviour.on].item(row):
            place = behaviour.line
            said = sentence(before.program.index.kinds[kind].behaviours[place])
            yield Cause(
                f"the speed that it loses by its behaviour “{said}”",
                partial(_behaviour_grounds, explainer, before, object_id, kind, [(place, said)], at),
            )


def _physical(
    explainer: Explaining, name: str, value: float, object_id: int, kind: str, at: Moment, own: str
) -> Cause:
    """Return gravity or friction as a cause: set by a rule, or as the level or the kind has it."""
    number = value_words(round(value, 6))
    wrote = explainer.journal.last_write(name, "", kind, object_id, at)
    if wrote is None or wrote.rule_index < 0:
        return Cause(f"{own}, {number}")
    words = f"its {name} was {number} — set at {seconds(explainer.run, wrote.tick)} by {explainer.by(wrote)}"
    return Cause(f"{name} {number}", lambda: [explainer.from_write(words, wrote, (object_id,))])


def _sent_by(explainer: Explaining, before: World, object_id: int, kind: str, at: Moment) -> Cause | None:
    """Return what takes an object along, whatever its velocity, and what began that: a carrier, a move over a time, a clip."""
    movement = before.movement
    going = []
    if object_id in movement.bonds:
        going.append("bond")
    if any(object_id in tween.ids.tolist() for tween in movement.tweens):
        going.append("tween")
    if any(playing.object == object_id for playing in movement.playing):
        going.append("clip")
    for what in going:
        words = SENT[what]
        if what == "bond":
            words = f"{called(explainer.run, movement.bonds[object_id].carrier, before)}, which carries it"
        begun = _begun(explainer, what, words, object_id, kind, at)
        if begun is not None:
            return Cause(words, lambda begun=begun: [begun])  # type: ignore[misc]
        if what == "bond":
            return Cause(words, lambda: [attached_reason(explainer, before, object_id, kind, at)])
    return None


def _begun(
    explainer: Explaining, what: str, words: str, object_id: int, kind: str, at: Moment
) -> Reason | None:
    """Return which rule began a movement; None if no rule did."""
    wrote = explainer.journal.last_write(what, "", kind, object_id, at)
    if wrote is None or wrote.rule_index < 0:
        return None
    when = f"begun at {seconds(explainer.run, wrote.tick)} by {explainer.by(wrote)}"
    return explainer.from_write(f"{words} — {when}", wrote, (object_id,))


def attached_reason(explainer: Explaining, before: World, object_id: int, kind: str, at: Moment) -> Reason:
    """Return since when an object that no rule has attached is carried: from the start, or picked up by its behaviour."""
    run = explainer.run
    name = called(run, object_id, before)
    carrier = before.movement.bonds[object_id].carrier
    laid_out = {thing.id: thing.attached for thing in run.program.level.objects}
    since = _carried_since(explainer, object_id, carrier, at.tick)
    if since == 0 and laid_out.get(object_id):
        return Reason(f"{name} was attached at the start", "start", ids=(object_id,))
    words = f"{called(run, carrier, before)} picked it up at {seconds(run, since)}"
    acting = _behaviours(explainer, before, object_id, kind, "bond")
    if acting:
        names = " and ".join(f"“{said}”" for _, said in acting)
        words += f", by its behaviour {names}"
    reason = Reason(words, "motion", since, ids=(object_id,))
    if acting:
        begun = Moment(since, at.seq)
        reason.grounds = lambda: _behaviour_grounds(explainer, before, object_id, kind, acting, begun)
    return reason


def _carried_since(explainer: Explaining, object_id: int, carrier: int, tick: int) -> int:
    """Return the tick in which an object came to be carried by what carries it at the end of the tick before this one."""
    run = explainer.run

    def carried(at: int) -> bool:
        bond = run.world_at(run.end_of(at), explainer.between).movement.bonds.get(object_id)
        return bond is not None and bond.carrier == carrier

    last = tick - 1
    # what is kept whole can be asked without a replay
    while last > 0:
        start = run.kept_before(last)
        bond = run.keyframes[start].movement.bonds.get(object_id) if start in run.keyframes else None
        if bond is None or bond.carrier != carrier:
            break
        last = start
    while last > 0 and carried(last - 1):
        last -= 1
    return last


def _walked(explainer: Explaining, before: World, object_id: int, kind: str, at: Moment) -> Cause | None:
    """Return the route that an object walked in a tick, and what sent it there; None where it walks none."""
    run = explainer.run
    after = run.world_at(run.end_of(at.tick), explainer.between)
    row = after.row_of_id(object_id)
    if row < 0 or WALK["going"] not in after.variables:
        return None
    keeps = {name: after.variables[column].item(row) for name, column in WALK.items()}
    # it was under way in this tick, or has just come to its end
    old = before.row_of_id(object_id)
    was = before.variables[WALK["going"]].item(old) if old >= 0 else 0.0
    if keeps["going"] != WALKS and was not in (WALKS, ENDS):
        return None
    route = list(run.program.index.routes)[int(keeps["route"])]
    words = f"its way along {route}"
    if keeps["sent"]:
        begun = _begun(explainer, "route", words, object_id, kind, at)
        return Cause(words, (lambda: [begun]) if begun is not None else None)
    acting = _behaviours(explainer, before, object_id, kind, "route")
    if not acting:
        return Cause(words)
    return _of_behaviours(explainer, before, object_id, kind, acting, at, "its behaviour {}")


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
    """Return the behaviours of an object that were on and may have written something: their places, and what they say."""
    row = world.row_of_id(object_id)
    declared = explainer.run.program.index.kinds[kind]
    found = []
    for at in explainer.journal.behaviours_that_write(kind, what):
        clause = declared.behaviours[at]
        column = world.variables.get(on_column(clause.use))
        if row < 0 or column is None or bool(column[row]):
            found.append((at, sentence(clause)))
    return found


def _of_behaviours(
    explainer: Explaining,
    before: World,
    object_id: int,
    kind: str,
    acting: list[tuple[int, str]],
    at: Moment,
    words: str,
) -> Cause:
    """Return behaviours as a cause, with the reasons why they act; `words` has braces where their names go."""
    names = " and ".join(f"“{said}”" for _, said in acting)
    return Cause(
        words.format(names),
        lambda: _behaviour_grounds(explainer, before, object_id, kind, acting, at),
    )


def _behaviour_grounds(
    explainer: Explaining,
    world: World,
    object_id: int,
    kind: str,
    acting: list[tuple[int, str]],
    at: Moment,
) -> list[Reason]:
    """Return what of a behaviour was set or switched by rules, and what its formulas and its target read."""
    found: list[Reason] = []
    run = explainer.run
    declared = run.program.index.kinds[kind]
    name = called(run, object_id, world)
    for place, _ in acting:
        clause = declared.behaviours[place]
        said = spoken(clause.use)
        switched = explainer.journal.last_write("on", said, kind, object_id, at)
        if switched is not None and switched.rule_index >= 0:
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
            if wrote is not None and wrote.rule_index >= 0:
                row = world.row_of_id(object_id)
                now = value_words(world.variables[behaviour.columns[setting]][row].item()) if row >= 0 else ""
                words = (
                    f"its {setting} was {now} — set at {seconds(run, wrote.tick)} by {explainer.by(wrote)}"
                )
                found.append(explainer.from_write(words, wrote, (object_id,)))
        slots = CATALOGUE[clause.use].slots
        keys = [clause.slots.get(n, slot.default) for n, slot in slots.items() if slot.kind.presses]
        found += [last for key in keys if (last := input_reason(explainer, key, at.tick)) is not None]
    return found or [
        Reason(
            f"{kind} has this behaviour, with the settings that it was given", "start", 0, ids=(object_id,)
        )
    ]
