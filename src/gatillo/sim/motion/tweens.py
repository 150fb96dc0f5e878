"""Movement that is not velocity: movements over a time, and objects that follow their carriers."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import A_HANDFUL
from gatillo.formula.values import half_open_degrees
from gatillo.kernels.mathematics import cosd, exp, sind
from gatillo.sim.program.bodies import WALK, WALKS
from gatillo.sim.world.records import Bond, Turning, Tween
from gatillo.sim.world.world import World


def eased(part: Any, easing: str) -> Any:
    """Return how far a movement has come (0–1) when this part of its time is over; quadratic easing."""
    if easing == "easing in":
        return part * part
    if easing == "easing out":
        return part * (2.0 - part)
    if easing == "easing in and out":
        return np.where(part < 0.5, 2.0 * part * part, 1.0 - 2.0 * (1.0 - part) * (1.0 - part))
    return part


def follow_tweens(world: World) -> None:
    """Take every movement over a time on to where it is at this tick; those at their end come off."""
    if not world.movement.tweens:
        return
    going: list[Tween] = []
    for tween in world.movement.tweens:
        part = min(1.0, (world.time - tween.begins) / tween.lasts) if tween.lasts > 0 else 1.0
        done = part >= 1.0 - 1e-9
        way = 1.0 if done else eased(np.float64(part), tween.easing)
        if tween.carried:
            many = _take_along(world, tween, float(way))
        elif len(tween.ids) <= A_HANDFUL:
            many = _take_few(world, tween, done, float(way))
        else:
            many = _take_on(world, tween, done, way)
        if not done:
            going.append(tween)
        elif tween.message and many:
            _send_on_arrival(world, tween, many)
    world.movement.tweens = tuple(going)


def _send_on_arrival(world: World, tween: Tween, many: int) -> None:
    """Send the message of a movement that has come to its end, once for each object."""
    send_message(world, tween.message, [i for i in tween.ids.tolist() if world.row_of_id(i) >= 0], many)


def send_message(world: World, message: str, ids: list[int], many: int | None = None) -> None:
    """Let Motion send a message from objects, once for each of `many`; it is heard in the next tick.

    What goes beyond the level's bound of messages a tick is not sent, and noted as cut off.
    """
    messages, rules = world.messages, world.rules
    most = world.program.level.settings.most_messages
    many = len(ids) if many is None else many
    sent = min(many, most - rules.sent_now)
    if sent < many:
        rules.cut = (*rules.cut, f"the level's bound of {most:,} messages a tick is reached")
    if sent <= 0:
        return
    rules.sent_now += sent
    messages.sent_from[message] = {
        **messages.sent_from.get(message, {}),
        **dict.fromkeys(ids[:sent], 0.0),
    }
    messages.outbox[message] = messages.outbox.get(message, 0) + sent


def _take_on(world: World, tween: Tween, done: bool, way: Any) -> int:
    """Put those whom a movement takes where they come to, so much of the way on; gives how many are there.

    `_take_few` does the same for a few, in plain numbers.
    """
    rows = world.rows_of_ids(tween.ids)
    there = rows >= 0
    at = rows[there]
    # the end itself, not the sum of the steps: it comes to stand exactly there
    world.x[at] = tween.end_x[there] if done else (tween.start_x + (tween.end_x - tween.start_x) * way)[there]
    world.y[at] = tween.end_y[there] if done else (tween.start_y + (tween.end_y - tween.start_y) * way)[there]
    world.touch_rows(at)
    return len(at)


def _take_few(world: World, tween: Tween, done: bool, way: float) -> int:
    taken: list[int] = []
    for place, object_id in enumerate(tween.ids.tolist()):
        row = world.row_of_id(object_id)
        if row < 0:
            continue
        taken.append(row)
        end_x, end_y = tween.end_x.item(place), tween.end_y.item(place)
        if not done:
            start_x, start_y = tween.start_x.item(place), tween.start_y.item(place)
            end_x, end_y = start_x + (end_x - start_x) * way, start_y + (end_y - start_y) * way
        world.x[row], world.y[row] = end_x, end_y
    world.touch_rows(np.array(taken, dtype=np.int64))
    return len(taken)


def _take_along(world: World, tween: Tween, way: float) -> int:
    """Give those whom a movement takes along their carriers the offset that they come to; gives how many are still attached."""
    bonds, many = world.movement.bonds, 0
    for place, object_id in enumerate(tween.ids.tolist()):
        if not world.bears_motion(object_id):
            continue
        start, end = (
            (along.item(place), across.item(place))
            for along, across in ((tween.start_x, tween.start_y), (tween.end_x, tween.end_y))
        )
        along, across = end
        if way < 1.0:
            along, across = (a + (b - a) * way for a, b in zip(start, end, strict=True))
        bonds[object_id] = replace(bonds[object_id], along=along, across=across)
        many += 1
    return many


def without(tweens: tuple[Tween, ...], ids: np.ndarray) -> tuple[Tween, ...]:
    """Return the movements without some objects."""
    left: list[Tween] = []
    for tween in tweens:
        stays = ~np.isin(tween.ids, ids)
        if stays.all():
            left.append(tween)
        elif stays.any():
            left.append(
                replace(
                    tween,
                    ids=tween.ids[stays],
                    start_x=tween.start_x[stays],
                    start_y=tween.start_y[stays],
                    end_x=tween.end_x[stays],
                    end_y=tween.end_y[stays],
                )
            )
    return tuple(left)


def follow_turns(world: World) -> None:
    """Take every turn over a time on to where it is at this tick; those at their end come off."""
    going: list[Turning] = []
    for turn in world.movement.turns:
        part = min(1.0, (world.time - turn.begins) / turn.lasts) if turn.lasts > 0 else 1.0
        done = part >= 1.0 - 1e-9
        way = 1.0 if done else float(eased(np.float64(part), turn.easing))
        angles = turn.start + turn.by * way
        if turn.carried:
            bonds = world.movement.bonds
            for object_id, angle in zip(turn.ids.tolist(), angles.tolist(), strict=True):
                if world.bears_motion(object_id):
                    bonds[object_id] = replace(bonds[object_id], angle=angle)
        else:
            rows = world.rows_of_ids(turn.ids)
            there = rows >= 0
            world.angle[rows[there]] = half_open_degrees(angles[there])
            world.turned(rows[there])
        if not done:
            going.append(turn)
    world.movement.turns = tuple(going)


def without_turns(turns: tuple[Turning, ...], ids: np.ndarray) -> tuple[Turning, ...]:
    """Return the turns over a time without some objects."""
    left: list[Turning] = []
    for turn in turns:
        stays = ~np.isin(turn.ids, ids)
        if stays.any():
            kept = {part: getattr(turn, part)[stays] for part in ("ids", "start", "by")}
            left.append(turn if stays.all() else replace(turn, **kept))
    return tuple(left)


def moved_over_a_time(world: World, ids: np.ndarray) -> NDArray[np.bool_]:
    """Return which objects are on their way: moved or turned over a time, by a clip that ends, or on a route they were sent along."""
    movement = world.movement
    on_way = [_still_moved(world, tween) for tween in movement.tweens]
    on_way += [_still_moved(world, turn) for turn in movement.turns]
    on_way += [np.array([p.object for p in movement.playing if p.how == "once"], dtype=np.int64)]
    moving: NDArray[np.bool_] = np.isin(ids, np.concatenate(on_way))
    if world.program.tick_tables.walking:
        rows = world.rows_of_ids(ids)
        there = rows >= 0
        at = rows[there]
        going, sent = world.variables[WALK["going"]], world.variables[WALK["sent"]]
        moving[there] |= (going[at] == WALKS) & (sent[at] == 1)
    return moving


def _still_moved(world: World, movement: Tween | Turning) -> np.ndarray:
    """Return the ids of whom a movement moves: along a carrier, those whose carrier is there."""
    if not movement.carried:
        return movement.ids
    bears = [world.bears_motion(object_id) for object_id in movement.ids.tolist()]
    moved: np.ndarray = movement.ids[np.array(bears, dtype=bool)]
    return moved


def follow_carriers(world: World, *, at_once: bool = False) -> None:
    """Put attached objects where their carriers have taken them, carriers before what they carry.

    What they have moved of their own since they were put there last is added: it changes their offset in the carrier's frame.
    With `at_once` only those that follow without a lag follow, once more.
    """
    if not world.movement.bonds:
        return
    done: dict[int, int] = {}
    for child, bond in list(world.movement.bonds.items()):
        if not at_once or bond.lag <= 0:
            for each in reversed(_chain(world, child, done, at_once)):
                _follow(world, each, done)
    if len(done) <= A_HANDFUL:
        for row in done.values():
            world.touch_row(row)
    else:
        world.touch_rows(np.array(list(done.values()), dtype=np.int64))


def _chain(world: World, child: int, done: dict[int, int], at_once: bool) -> list[int]:
    """Return an attached object and its carriers that are attached too and have not followed yet, itself first."""
    bonds = world.movement.bonds
    chain: dict[int, None] = {}
    while child not in chain and child not in done:
        bond = bonds.get(child)
        if bond is None or (chain and at_once and bond.lag > 0):
            break
        chain[child] = None
        child = bond.carrier
    return list(chain)


def _follow(world: World, child: int, done: dict[int, int]) -> None:
    """Put an attached object where its carrier is now, and by how much it has moved of its own."""
    bond = world.movement.bonds[child]
    row, carrier = world.row_of_id(child), world.row_of_id(bond.carrier)
    if row < 0 or carrier < 0:
        # a bond whose carrier or object is gone is over
        del world.movement.bonds[child]
        return
    turned = world.angle.item(carrier)
    cos, sin = cosd(turned), sind(turned)
    bears = bond.bears_motion
    if bears:
        bond = _moved_of_its_own(world, bond, row, cos, sin)
    x = world.x.item(carrier) + bond.along * cos - bond.across * sin
    y = world.y.item(carrier) + bond.along * sin + bond.across * cos
    # exponential approach: the same at every tick rate
    part = 1.0 if bond.lag <= 0 else 1.0 - exp(-world.dt / bond.lag)
    if part < 1.0:
        world.x[row] += (x - world.x.item(row)) * part
        world.y[row] += (y - world.y.item(row)) * part
    else:
        world.x[row], world.y[row] = x, y
        angle = float(half_open_degrees(world.angle.item(carrier) + bond.angle))
        if angle != world.angle.item(row):
            world.angle[row] = angle
            world.turned_row(row)
        if bears and (
            bond is not world.movement.bonds[child] or x != bond.x or y != bond.y or angle != bond.turned
        ):
            # built in full: it is done for each of them in each tick
            world.movement.bonds[child] = Bond(
                bond.carrier, bond.along, bond.across, bond.angle, bond.lag, bond.held, x, y, angle
            )
    world.vx[row], world.vy[row] = 0.0, 0.0
    done[child] = row


def _moved_of_its_own(world: World, bond: Bond, row: int, cos: float, sin: float) -> Bond:
    """Return a bond with the offset to which an object has moved since it was put there last; `cos` and `sin` are its carrier's."""
    if bond.x != bond.x:
        # it has not been put there yet
        return bond
    dx, dy = world.x.item(row) - bond.x, world.y.item(row) - bond.y
    by = world.angle.item(row) - bond.turned
    if not (dx or dy or by):
        return bond
    return replace(
        bond,
        along=bond.along + dx * cos + dy * sin,
        across=bond.across + dy * cos - dx * sin,
        angle=bond.angle + by,
    )
