"""Walking routes: by speed or by a time for each leg, once, in a loop or there and back, with pauses.

What is left of a tick on arriving is walked on with, so that the path is the same at every tick rate.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import A_HANDFUL, Numbers, Rows
from gatillo.catalogue.entries.timed_moves import EASINGS
from gatillo.formula.values import spread
from gatillo.kernels.mathematics import atan2d
from gatillo.level.properties import FARTHEST_AWAY
from gatillo.sim.matching.match_table import Matches, View
from gatillo.sim.motion.tweens import eased, send_message
from gatillo.sim.program.bodies import BUSY, ENDED, ENDS, WALK, WALKS
from gatillo.sim.world.world import World

HOWS = ("once", "in a loop", "there and back")
TOO_SLOW = 1e-12
"""Units a second; what walks no faster stands."""
MOST_LEGS = 16
"""So many stops may be passed in one tick; the rest waits for the next."""

Floats = NDArray[np.float64]


def set_out(
    world: World,
    rows: Rows,
    route: str,
    how: str,
    faces: bool,
    speed: Numbers,
    leg_time: Numbers,
    easing: str,
    *,
    sent: bool,
) -> None:
    """Make objects walk a route from where they are; those sent by a rule keep to that route.

    `speed` in units a second counts where `leg_time` (seconds) is 0. One that walks this route already goes on.
    """
    keeps = {name: world.variables[column] for name, column in WALK.items()}
    number = list(world.program.index.routes).index(route)
    if sent:
        begins = rows
    else:
        mine = keeps["sent"][rows] == 0
        rows = rows[mine]
        speed, leg_time = (_some(v, mine) for v in (speed, leg_time))
        other = (keeps["route"][rows] != number) | (keeps["going"][rows] == 0)
        begins = rows[other]
    keeps["speed"][rows], keeps["leg_time"][rows] = speed, leg_time
    keeps["how"][rows], keeps["faces"][rows] = HOWS.index(how), faces
    keeps["easing"][rows] = EASINGS.index(easing)
    if not len(begins):
        return
    keeps["route"][begins], keeps["sent"][begins] = number, sent
    keeps["stop"][begins], keeps["way"][begins], keeps["rest"][begins] = 0, 1, 0
    keeps["left"][begins] = 0
    keeps["going"][begins] = WALKS
    _leave(world, keeps, begins)


def _some(value: Numbers, which: NDArray[np.bool_]) -> Numbers:
    return value[which] if isinstance(value, np.ndarray) and value.ndim else value


def _leave(world: World, keeps: dict[str, Floats], rows: Rows) -> None:
    keeps["from_x"][rows], keeps["from_y"][rows], keeps["gone"][rows] = world.x[rows], world.y[rows], 0.0


Walked = tuple[Rows, Any, Any, Rows | None, Any]
"""Objects on a route, the velocity x and y that a tick gives them, which rows turn, and the directions in which those face."""


def walk_on(world: World, moving: Any) -> list[Walked]:
    """Give all objects that walk a route the velocity that takes them as far as they come in this tick.

    It returns what it gave, for `walk_again`: a behaviour that acts later may have given another.
    """
    if not world.variables[WALK["going"]].any():
        return []
    given: list[Walked] = []
    keeps = {name: world.variables[column] for name, column in WALK.items()}
    ends = ((keeps["going"] == ENDS) & world.alive).nonzero()[0]
    if len(ends):
        moving.set_velocity(ends, 0.0, 0.0)
        given.append((ends, 0.0, 0.0, None, None))
        keeps["going"][ends] = ENDED
    walkers = ((keeps["going"] == WALKS) & world.alive).nonzero()[0]
    busy = world.variables.get(BUSY)
    if busy is not None:
        walkers = walkers[busy[walkers] == 0]
    on = world.variables.get("walk_route.on"), world.variables.get("walk_route_timed.on")
    for column in on:
        if column is not None and not column[walkers].all():
            # switched off, it stands where it is; one that a rule has sent walks on
            on_now = column[walkers] | (keeps["sent"][walkers] == 1)
            if not on_now.all():
                walkers = walkers[on_now | ~_has(world, walkers, column)]
    if not len(walkers):
        return given
    routes = world.program.kind_tables.stops
    for number in sorted({int(route) for route in keeps["route"][walkers].tolist()}):
        rows = walkers[keeps["route"][walkers] == number]
        if len(routes[number]):
            given.append(_along(world, moving, keeps, rows, number))
        else:
            # a route without stops leads nowhere: it stands
            keeps["going"][rows] = ENDS
    return given


def walk_again(moving: Any, given: list[Walked]) -> None:
    """Give objects on routes the velocity of this tick once more: it comes before what any other behaviour gives them."""
    for rows, vx, vy, turning, facing in given:
        _give(moving, rows, vx, vy, turning, facing)


def _has(world: World, rows: Rows, column: NDArray[np.bool_]) -> NDArray[np.bool_]:
    found = np.zeros(len(rows), dtype=bool)
    for behaviour in world.program.behaviours:
        if world.variables[behaviour.on] is column:
            found |= world.kind[rows] == behaviour.kind
    return found


def _stops_now(world: World, rows: Rows, number: int) -> dict[int, tuple[Floats, Floats]]:
    """Return where the stops of a route are for each walker that are not where they were drawn: by stop, x and y of shape (rows,).

    A stop whose formula has no answer, or speaks of what is not there, is where it was drawn.
    """
    found: dict[int, tuple[Floats, Floats]] = {}
    for stop, formula in world.program.moving_stops.get(number, ()):
        drawn = world.program.kind_tables.stops[number][stop]
        matched, there = {}, np.ones(len(rows), dtype=bool)
        for token in formula.roles:
            role = world.program.index.role_tokens[token]
            row = world.row_of_id(role.object_id) if role.source == "object" else -1
            mine = rows if role.source == "kind" else np.full(len(rows), max(row, 0))
            there &= world.member(role)[rows] if role.source == "kind" else row >= 0
            matched[token] = mine
        view = View(world, Matches(len(rows), matched), 0)
        with np.errstate(all="ignore"):
            point = spread(formula.evaluate(view), len(rows))
        bad = view.faulted()
        good = there if bad is None else there & ~bad
        x, y = np.real(point), np.imag(point)
        good = good & (np.abs(x) <= FARTHEST_AWAY) & (np.abs(y) <= FARTHEST_AWAY)
        found[stop] = np.where(good, x, drawn[0]), np.where(good, y, drawn[1])
    return found


def _along(world: World, moving: Any, keeps: dict[str, Floats], rows: Rows, number: int) -> Walked:
    tables = world.program.kind_tables
    stops, own_legs = tables.stops[number], tables.own_legs[number]
    if len(rows) <= A_HANDFUL:
        return _few_along(world, moving, keeps, rows, number)
    start_x, start_y = world.x[rows], world.y[rows]
    x, y = start_x, start_y
    left = np.full(len(rows), world.dt)
    speed, leg_time, easing = keeps["speed"][rows], keeps["leg_time"][rows], keeps["easing"][rows]
    timed = leg_time > 0
    any_timed = bool(timed.any())
    now = _stops_now(world, rows, number)
    arrived: list[tuple[Rows, NDArray[np.int64]]] = []
    for _ in range(MOST_LEGS):
        rest = keeps["rest"][rows]
        if rest.any():
            resting = np.minimum(rest, left)
            keeps["rest"][rows] = rest - resting
            left -= resting
        going = (left > 1e-12) & (keeps["going"][rows] == WALKS)
        if not going.any():
            break
        stop = keeps["stop"][rows].astype(int)
        goal_x, goal_y = stops[stop, 0], stops[stop, 1]
        for place, (now_x, now_y) in now.items():
            mine = stop == place
            goal_x, goal_y = np.where(mine, now_x, goal_x), np.where(mine, now_y, goal_y)
        off_x, off_y = goal_x - x, goal_y - y
        away = np.sqrt(off_x * off_x + off_y * off_y)
        if own_legs:
            speed, leg_time, easing = _own_legs(keeps, rows, stops, goal_x, goal_y)
            timed = leg_time > 0
            any_timed = bool(timed.any())
        # with no speed a stop is never reached; at one it has been reached already
        need = np.where(away > 0, away / np.maximum(speed, TOO_SLOW), 0.0)
        if any_timed:
            need = np.where(timed, np.maximum(leg_time - keeps["gone"][rows], 0.0), need)
        step = np.where(going, np.minimum(need, left), 0.0)
        keeps["gone"][rows] += step
        arrives = going & (need <= left + 1e-9)
        part = np.divide(step, need, out=np.zeros(len(rows)), where=need > 0)
        fresh_x, fresh_y = x + (goal_x - x) * part, y + (goal_y - y) * part
        if any_timed:
            way = _eased(keeps["gone"][rows], leg_time, easing, timed)
            from_x, from_y = keeps["from_x"][rows], keeps["from_y"][rows]
            fresh_x = np.where(timed & going, from_x + (goal_x - from_x) * way, fresh_x)
            fresh_y = np.where(timed & going, from_y + (goal_y - from_y) * way, fresh_y)
        if not arrives.any():
            x, y = fresh_x, fresh_y
            break
        x, y = np.where(arrives, goal_x, fresh_x), np.where(arrives, goal_y, fresh_y)
        left -= step
        _arrived(moving, keeps, rows[arrives], stop[arrives], stops, x[arrives], y[arrives])
        arrived.append((rows[arrives], stop[arrives]))
    for there, at in arrived:
        _notify(world, number, there, at)
    vx, vy = (x - start_x) / world.dt, (y - start_y) / world.dt
    return _go_on(moving, keeps, rows, vx, vy, _facing_there(keeps, rows, stops, arrived))


def _own_legs(
    keeps: dict[str, Floats], rows: Rows, stops: Floats, goal_x: Floats, goal_y: Floats
) -> tuple[Floats, Floats, Floats]:
    """Return speed, time and easing of the legs that objects are on: those of the stop before, where it has any."""
    speed, leg_time, easing = keeps["speed"][rows], keeps["leg_time"][rows], keeps["easing"][rows]
    number = keeps["left"][rows].astype(int)
    left = stops[np.maximum(number - 1, 0)]
    own_time, own_speed = (np.where(number > 0, left[:, column], 0.0) for column in (3, 4))
    own_easing = np.where(number > 0, left[:, 5], -1.0)
    speed = np.where((own_speed > 0) & (own_time <= 0), own_speed, speed)
    leg_time = np.where(own_time > 0, own_time, np.where(own_speed > 0, 0.0, leg_time))
    easing = np.where(own_easing >= 0, own_easing, easing)
    # a leg by a speed that is eased takes as long as it would at that speed
    eases = (leg_time <= 0) & (own_easing > 0)
    off_x, off_y = goal_x - keeps["from_x"][rows], goal_y - keeps["from_y"][rows]
    takes = np.sqrt(off_x * off_x + off_y * off_y) / np.maximum(speed, TOO_SLOW)
    return speed, np.where(eases, takes, leg_time), easing


def _notify(world: World, number: int, rows: Rows, stop: NDArray[np.int64]) -> None:
    """Let objects that have come to stops send the messages of those stops."""
    messages = world.program.kind_tables.stop_messages[number]
    if not any(messages):
        return
    for at in sorted(set(stop.tolist())):
        if messages[at]:
            send_message(world, messages[at], world.id[rows[stop == at]].tolist())


def _facing_there(
    keeps: dict[str, Floats], rows: Rows, stops: Floats, arrived: list[tuple[Rows, NDArray[np.int64]]]
) -> Floats | None:
    """Return the direction in which each faces at the stop that it has come to last, NaN for none; None for nobody.

    One that faces the way it goes, and goes on at once, does not turn there.
    """
    facing: Floats | None = None
    for there, stop in arrived:
        wanted = stops[stop, 6]
        stays = (keeps["rest"][there] > 0) | (keeps["going"][there] != WALKS) | (keeps["faces"][there] == 0)
        wanted = np.where(stays, wanted, np.nan)
        if facing is None:
            facing = np.full(len(rows), np.nan)
        facing[np.searchsorted(rows, there)] = wanted
    return facing


def _go_on(
    moving: Any, keeps: dict[str, Floats], rows: Rows, vx: Floats, vy: Floats, there: Floats | None
) -> Walked:
    faces = (keeps["faces"][rows] == 1) & ((vx != 0) | (vy != 0))
    turning, facing = None, None
    if there is not None and not np.isnan(there).all():
        at_stop = ~np.isnan(there)
        turns = faces | at_stop
        turning, facing = rows[turns], np.where(at_stop, there, atan2d(vy, vx))[turns]
    elif faces.any():
        turning, facing = rows[faces], atan2d(vy[faces], vx[faces])
    _give(moving, rows, vx, vy, turning, facing)
    return rows, vx, vy, turning, facing


def _give(moving: Any, rows: Rows, vx: Any, vy: Any, turning: Rows | None, facing: Any) -> None:
    moving.set_velocity(rows, vx, vy)
    if turning is not None:
        moving.face(turning, facing)


def _eased(gone: Floats, leg_time: Floats, easing: Floats, timed: NDArray[np.bool_]) -> Floats:
    part = np.divide(gone, leg_time, out=np.zeros(len(gone)), where=timed)
    way = part.copy()
    for number in sorted(set(easing.tolist())):
        mine = easing == number
        way[mine] = eased(part[mine], EASINGS[int(number)])
    return way


def _arrived(
    moving: Any,
    keeps: dict[str, Floats],
    rows: Rows,
    stop: NDArray[np.int64],
    stops: Floats,
    x: Floats,
    y: Floats,
) -> None:
    """Rest at the stop, and choose the next one; at the end of a route that is walked once, stand."""
    last = len(stops) - 1
    keeps["rest"][rows], keeps["left"][rows] = stops[stop, 2], stop + 1
    keeps["from_x"][rows], keeps["from_y"][rows], keeps["gone"][rows] = x, y, 0.0
    moving.arrive(rows, "stop", stop + 1)
    how, way = keeps["how"][rows], keeps["way"][rows]
    at_end = np.where(way > 0, stop >= last, stop <= 0)
    back = HOWS.index("there and back")
    # there and back ends its round at the first stop again
    ends = at_end & ((how != back) | (way < 0) | (last == 0))
    if ends.any():
        moving.arrive(rows[ends], "end", stop[ends] + 1)
    way = np.where(at_end & (how == back), -way, way)
    next_stop = np.clip(stop + way, 0, last)
    next_stop = np.where(at_end & (how == HOWS.index("in a loop")), 0, next_stop)
    keeps["way"][rows], keeps["stop"][rows] = way, next_stop
    done = at_end & (how == HOWS.index("once"))
    keeps["going"][rows[done]] = ENDS
    if last == 0:
        # one stop alone is a goal: there it stands
        keeps["going"][rows] = ENDS


# a handful of walkers, in plain numbers: the same to the last bit


def _few_along(world: World, moving: Any, keeps: dict[str, Floats], rows: Rows, number: int) -> Walked:
    stops = world.program.kind_tables.stops[number]
    points = stops.tolist()
    arrivals: list[tuple[int, int, int, str, int]] = []
    vx, vy = np.empty(len(rows)), np.empty(len(rows))
    now = _stops_now(world, rows, number)
    for at, row in enumerate(rows.tolist()):
        for place, (now_x, now_y) in now.items():
            points[place] = [now_x.item(at), now_y.item(at), *points[place][2:]]
        walker = {name: keeps[name].item(row) for name in keeps}
        was = walker.copy()
        start_x, start_y = world.x.item(row), world.y.item(row)
        x, y, passed = _one_along(walker, start_x, start_y, world.dt, points)
        for name, value in walker.items():
            if value != was[name]:
                keeps[name][row] = value
        vx[at], vy[at] = (x - start_x) / world.dt, (y - start_y) / world.dt
        arrivals += [(leg, what == "end", at, what, stop) for leg, what, stop in passed]
    # all first stops before all second ones
    arrivals.sort()
    for _, _, at, what, stop in arrivals:
        moving.arrive(rows[at : at + 1], what, stop)
    legs = sorted({leg for leg, *_ in arrivals})
    arrived = [
        (rows[[at for _, at, _ in mine]], np.array([stop - 1 for _, _, stop in mine], dtype=np.int64))
        for mine in (
            [(leg, at, stop) for leg, ends, at, _, stop in arrivals if leg == one and not ends]
            for one in legs
        )
    ]
    for there, stop_at in arrived:
        _notify(world, number, there, stop_at)
    return _go_on(moving, keeps, rows, vx, vy, _facing_there(keeps, rows, stops, arrived))


def _one_along(
    walker: dict[str, float], x: float, y: float, dt: float, stops: list[list[float]]
) -> tuple[float, float, list[tuple[int, str, int]]]:
    """Return where one walker comes in a tick, and what it passes: leg, stop or end, number of the stop."""
    left = dt
    passed: list[tuple[int, str, int]] = []
    for leg in range(MOST_LEGS):
        if walker["rest"]:
            resting = min(walker["rest"], left)
            walker["rest"] -= resting
            left -= resting
        if left <= 1e-12 or walker["going"] != WALKS:
            break
        stop = int(walker["stop"])
        goal_x, goal_y, rest = stops[stop][:3]
        off_x, off_y = goal_x - x, goal_y - y
        away = math.sqrt(off_x * off_x + off_y * off_y)
        speed, leg_time, easing = _own_leg(walker, stops, goal_x, goal_y)
        need = away / max(speed, TOO_SLOW) if away > 0 else 0.0
        if leg_time > 0:
            need = max(leg_time - walker["gone"], 0.0)
        step = min(need, left)
        walker["gone"] += step
        if need > left + 1e-9:
            if leg_time > 0:
                way = float(eased(walker["gone"] / leg_time, EASINGS[int(easing)]))
                x = walker["from_x"] + (goal_x - walker["from_x"]) * way
                y = walker["from_y"] + (goal_y - walker["from_y"]) * way
            else:
                part = step / need
                x, y = x + off_x * part, y + off_y * part
            break
        x, y = goal_x, goal_y
        left -= step
        passed += [(leg, what, stop + 1) for what in _pass_stop(walker, stop, len(stops) - 1)]
        walker["rest"], walker["from_x"], walker["from_y"], walker["gone"] = rest, x, y, 0.0
        walker["left"] = stop + 1
    return x, y, passed


def _own_leg(
    walker: dict[str, float], stops: list[list[float]], goal_x: float, goal_y: float
) -> tuple[float, float, float]:
    """Return speed, time and easing of the leg that a walker is on; `_own_legs` is the same for many."""
    speed, leg_time, easing = walker["speed"], walker["leg_time"], walker["easing"]
    if not walker["left"]:
        return speed, leg_time, easing
    own_time, own_speed, own_easing = stops[int(walker["left"]) - 1][3:6]
    if own_time > 0:
        leg_time = own_time
    elif own_speed > 0:
        speed, leg_time = own_speed, 0.0
    if own_easing >= 0:
        easing = own_easing
    if leg_time <= 0 and own_easing > 0:
        off_x, off_y = goal_x - walker["from_x"], goal_y - walker["from_y"]
        leg_time = math.sqrt(off_x * off_x + off_y * off_y) / max(speed, TOO_SLOW)
    return speed, leg_time, easing


def _pass_stop(walker: dict[str, float], stop: int, last: int) -> list[str]:
    """Turn to the next stop; what has been come to with this one."""
    how, way = HOWS[int(walker["how"])], walker["way"]
    at_end = stop >= last if way > 0 else stop <= 0
    ends = at_end and (how != "there and back" or way < 0 or last == 0)
    if at_end and how == "there and back":
        way = -way
    walker["way"] = way
    walker["stop"] = 0 if at_end and how == "in a loop" else min(max(stop + way, 0), last)
    if last == 0 or (at_end and how == "once"):
        # one stop alone is a goal: there it stands
        walker["going"] = ENDS
    return ["stop", "end"] if ends else ["stop"]
