"""The Motion phase: behaviours act, velocities are integrated, solids push apart, attached objects follow."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.values import Numbers, Rows, Where
from gatillo.catalogue.entries.flocking import Urge
from gatillo.formula.formula import Formula
from gatillo.formula.functions import random_point
from gatillo.formula.values import as_point, half_open_degrees, spread
from gatillo.kernels.columns import Columns
from gatillo.kernels.mathematics import cosd, sind
from gatillo.level.naming import spoken, token
from gatillo.level.roles import Role
from gatillo.sim.collision.proximity import near_rows, nearest_rows
from gatillo.sim.collision.regions import under_point
from gatillo.sim.collision.solids import push_apart
from gatillo.sim.matching.match_table import Matches, View, _join_reference
from gatillo.sim.motion import routes as walking
from gatillo.sim.motion.by_kernel import acts_by_kernel, walk_by_kernel
from gatillo.sim.motion.clips import follow_clips
from gatillo.sim.motion.integration import BOTH, SIDEWAYS, integrate
from gatillo.sim.motion.tweens import follow_carriers, follow_turns, follow_tweens
from gatillo.sim.program.bodies import BUSY, FARTHEST_SETTING, WALK, Behaviour, on_column
from gatillo.sim.program.program import Program
from gatillo.sim.spatial.random_draws import uniform
from gatillo.sim.trace.trace import BEHAVIOUR, Did, NullRecorder, Recorder
from gatillo.sim.world.world import World

Floats = NDArray[np.float64]

NOBODY = np.zeros(0)
A_FEW = 4
"""So many at most are turned and driven one by one, in plain numbers: for more than these, arrays are quicker."""
_PAIRS_AT_ONCE = 500_000


class BehaviourContext(BehaviourApi):
    """The world as behaviours see it: implements `BehaviourApi`."""

    def __init__(self, world: World, recorder: Recorder) -> None:
        self.world = world
        self.recorder = recorder
        self.dt = world.dt
        self.time = world.time
        self.behaviour: Behaviour | None = None
        self.rows: Rows = np.zeros(0, dtype=np.int64)
        self.driven: NDArray[np.int8] | None = None
        """Whose velocity a behaviour has given in this tick: friction does not slow them."""
        self.guided: NDArray[np.bool_] | None = None
        """Who is moved over a time or plays a clip, and stands already where it comes to in this tick."""
        self.urges: Floats | None = None
        """Of each row: wished-for direction x, y, and the weights; shape (3, rows)."""
        self.slowing: Floats | None = None
        self.columns: Columns | None = None
        self.arrivals: list[tuple[str, int, int]] = []
        self._grabbable: Rows | None = None
        self._held_ids: set[int] | None = None
        self._emptied: set[int] = set()

    def act(self, behaviour: Behaviour, rows: Rows) -> None:
        """Let a behaviour act on the objects that have it on."""
        self.behaviour, self.rows = behaviour, rows
        if behaviour.formulas:
            work_out(self.world, self.recorder, behaviour, rows)
        if behaviour.kernel is not None and acts_by_kernel(self, behaviour, rows):
            return
        variables = self.world.variables
        # those that stand in one run are read as a slice: nothing is copied
        at = self.world.caches.runs.get(id(rows), rows)
        settings = {name: variables[column][at] for name, column in behaviour.columns.items()}
        behaviour.entry.compute(self, rows, **behaviour.words, **settings)

    # what it may ask

    def key_state(self, key: str) -> tuple[bool, bool, bool]:
        return key in self.world.input.pressed, key in self.world.input.held, key in self.world.input.released

    def place(self, rows: Rows) -> tuple[Floats, Floats]:
        return self.world.x[rows], self.world.y[rows]

    def velocity(self, rows: Rows) -> tuple[Floats, Floats]:
        return self.world.vx[rows], self.world.vy[rows]

    def facing(self, rows: Rows) -> Floats:
        facing: Floats = self.world.values_of(rows, "facing")
        return facing

    def grounded(self, rows: Rows) -> NDArray[np.bool_]:
        return self.world.grounded[rows]

    def pointer(self) -> tuple[float, float]:
        return self.world.input.pointer_x, self.world.input.pointer_y

    def nearest(self, rows: Rows, role: Role, only: Formula | None = None) -> Rows:
        if role.source == "reference":
            return self._referred(rows, role)
        others = self.world.rows_of(role)
        if only is None:
            return nearest_rows(self.world, rows, others)
        if set(only.roles) <= {role.token}:
            return nearest_rows(
                self.world, rows, others[self._holds(only, {role.token: others}, len(others))]
            )
        return self._nearest_of_pairs(rows, others, role, only)

    def _nearest_of_pairs(self, rows: Rows, others: Rows, role: Role, only: Formula) -> Rows:
        """Return for each row the nearest of those with which a formula about both holds."""
        assert self.behaviour is not None
        world, found = self.world, np.full(len(rows), -1, dtype=np.int64)
        own = token(world.program.kinds[self.behaviour.kind].name)
        step = max(1, _PAIRS_AT_ONCE // max(1, len(others)))
        for start in range(0, len(rows) if len(others) else 0, step):
            some = rows[start : start + step]
            one, other = np.repeat(some, len(others)), np.tile(others, len(some))
            good = self._holds(only, {own: one, role.token: other}, len(one)) & (one != other)
            dx, dy = world.x[other] - world.x[one], world.y[other] - world.y[one]
            away = np.where(good, np.sqrt(dx * dx + dy * dy), np.inf).reshape(len(some), -1)
            best = np.argmin(away, axis=1)
            there = np.isfinite(away[np.arange(len(some)), best])
            found[start : start + len(some)] = np.where(there, others[best], -1)
        return found

    def _holds(self, only: Formula, rows: dict[str, Rows], n: int) -> NDArray[np.bool_]:
        """Return for which of n combinations a behaviour's condition holds. One without an answer does not, with a fault."""
        assert self.behaviour is not None
        view = View(self.world, Matches(n, rows), self.behaviour.identity)
        holds = np.broadcast_to(np.asarray(only.evaluate(view), dtype=bool), (n,))
        tell_faults(self.world, self.recorder, self.behaviour, view)
        bad = view.faulted()
        return holds if bad is None else holds & ~bad

    def place_at_end(self, rows: Rows) -> tuple[Floats, Floats]:
        """Return where rows will stand at the end of this tick, as far as that is known now: unless something is in their way."""
        world = self.world
        x, y = world.x[rows], world.y[rows]
        moves = rows
        if world.movement.bonds:
            # what is attached goes with the one that carries all
            moves = np.array([self._carried_by(row) for row in rows.tolist()], dtype=np.int64)
        free = np.ones(len(rows), dtype=bool) if self.guided is None else ~self.guided[moves]
        falls = np.where(world.grounded[moves] | world.asleep[moves], 0.0, world.gravity[moves])
        if self.driven is not None:
            falls = np.where(self.driven[moves] == BOTH, 0.0, falls)
        dt = self.dt
        x = x + np.where(free, world.vx[moves] * dt, 0.0)
        y = y + np.where(free, world.vy[moves] * dt - falls * (dt * dt / 2), 0.0)
        return x, y

    def _carried_by(self, row: int) -> int:
        bonds, at, seen = self.world.movement.bonds, row, 0
        while self.world.id.item(at) in bonds and seen < 1_000:
            above = self.world.row_of_id(bonds[self.world.id.item(at)].carrier)
            if above < 0:
                break
            at, seen = above, seen + 1
        return at

    def goal(self, rows: Rows, where: Where) -> tuple[Floats, Floats]:
        """Return a point for each row, as `point`; of an object where it will stand at the end of this tick."""
        x, y = self.point(rows, where)
        if where.roles and where.formula is None:
            role = self.world.program.index.role_tokens[where.roles[0]]
            target = self.nearest(rows, role)
            at = np.where(target >= 0, target, rows)
            there_x, there_y = self.place_at_end(at)
            moves = target >= 0
            x = np.where(moves, x + (there_x - self.world.x[at]), x)
            y = np.where(moves, y + (there_y - self.world.y[at]), y)
        return x, y

    def _referred(self, rows: Rows, role: Role) -> Rows:
        """Return the object that each one's own variable (or the level's) refers to, -1 for nobody."""
        found = np.full(len(rows), -1, dtype=np.int64)
        table = Matches(len(rows), {role.via: rows} if role.via else {}, np.arange(len(rows)))
        joined = _join_reference(self.world, table, role)
        assert joined.origin is not None
        found[joined.origin] = joined.rows[role.token]
        return found

    def near(self, rows: Rows, role: Role, reach: float) -> tuple[NDArray[np.int64], Rows]:
        return near_rows(self.world, rows, self.world.rows_of(role), reach)

    def point(self, rows: Rows, where: Where) -> tuple[Floats, Floats]:
        n = len(rows)
        if where.area is not None:
            # each object has a point of its own in the area, the same for as long as it lives
            x, y = random_point(where.area, self.draw(rows, 0, 0), self.draw(rows, 0, 1))
        elif where.formula is not None:
            x, y = self._by_formula(rows, where)
        else:
            table = Matches(n, {})
            for name in where.roles:
                role = self.world.program.index.role_tokens[name]
                if name not in table.rows:
                    target = self.nearest(rows, role)
                    # without an object there, its own place
                    table.rows[name] = np.where(target >= 0, target, rows)
            x, y = where.point(View(self.world, table, self.behaviour.identity if self.behaviour else 0))
        return _one_each(x, n), _one_each(y, n)

    def aimed(self, rows: Rows, where: Where) -> tuple[NDArray[np.int64], Floats, Floats]:
        role = self.world.program.index.role_tokens[where.roles[0]] if _names_a_role(where) else None
        if role is not None:
            found = self.nearest(rows, role)
            at = np.where(found >= 0, found, rows)
            return found, self.world.x[at], self.world.y[at]
        x, y = self.point(rows, where)
        numbers: NDArray[np.int64] = np.unique(as_point(x, y), return_inverse=True)[1].reshape(len(rows))
        return numbers, x, y

    def _by_formula(self, rows: Rows, where: Where) -> tuple[Floats, Floats]:
        """Return the point that a formula gives for each row: its own kind's name stands for itself, other names for the nearest.

        If the formula fails, or nobody is there, it is the object's own place; a formula that fails is reported.
        """
        world, behaviour = self.world, self.behaviour
        assert behaviour is not None
        own, n = world.program.kind_tokens[behaviour.kind], len(rows)
        table, alone = Matches(n, {own: rows}), np.zeros(n, dtype=bool)
        for name in where.roles:
            if name not in table.rows:
                target = self.nearest(rows, world.program.index.role_tokens[name])
                alone |= target < 0
                table.rows[name] = np.where(target >= 0, target, rows)
        view = View(world, table, behaviour.identity)
        x, y = where.point(view)
        bad = view.faulted()
        if bad is not None:
            tell_faults(world, self.recorder, behaviour, view)
            alone |= bad
        return np.where(alone, world.x[rows], x), np.where(alone, world.y[rows], y)

    def anywhere(self, rows: Rows, area: str, nth: Numbers) -> tuple[Floats, Floats]:
        place = self.world.program.index.areas[area]
        return random_point(place, self.draw(rows, nth, 0), self.draw(rows, nth, 1))

    def draw(self, rows: Rows, nth: Numbers, call: int) -> Floats:
        """Return a uniform draw from [0, 1) for each row, another for each number and call."""
        assert self.behaviour is not None
        numbers = spread(np.asarray(nth, dtype=np.int64), len(rows))
        # the number stands in the place of the tick: the same draw at every tick rate
        return uniform(self.world.seed, self.behaviour.identity, self.world.id[rows], numbers, 0, call)

    def recall(self, name: str) -> NDArray[np.float64]:
        assert self.behaviour is not None
        return self.world.variables[self.behaviour.remembered[name]][self.rows]

    def remember(self, name: str, value: Numbers) -> None:
        assert self.behaviour is not None
        self.world.variables[self.behaviour.remembered[name]][self.rows] = value

    def heard_at(self, message: str) -> tuple[Floats, Floats]:
        senders = sorted(self.world.messages.heard_from.get(message, ()))
        if not senders:
            return NOBODY, NOBODY
        rows = self.world.rows_of_ids(np.array(senders, dtype=np.int64))
        rows = rows[rows >= 0]
        return self.world.x[rows], self.world.y[rows]

    def under_pointer(self, front_only: bool) -> Rows:
        if self._grabbable is None:
            world = self.world
            rows = under_point(world, world.input.pointer_x, world.input.pointer_y)
            on = world.variables.get(on_column("be_dragged"))
            self._grabbable = rows[on[rows]] if on is not None else rows[:0]
        return self._grabbable[:1] if front_only else self._grabbable

    def anything_attached(self) -> bool:
        return bool(self.world.movement.bonds)

    def carrier_of(self, rows: Rows) -> NDArray[np.int64]:
        bonds = self.world.movement.bonds
        return np.array([bonds[i].carrier if i in bonds else 0 for i in self.world.id[rows].tolist()])

    def ids(self, rows: Rows) -> NDArray[np.int64]:
        return self.world.id[rows]

    def rows_of(self, role: Role) -> Rows:
        return self.world.rows_of(role)

    def carries_something(self, carrier: int) -> bool:
        if self._held_ids is None:
            self._held_ids = {bond.carrier for bond in self.world.movement.bonds.values() if bond.held}
        # the press that lets one thing go does not pick up another
        return carrier in self._held_ids or carrier in self._emptied

    # what it may do

    def rotate(self, rows: Rows, by: Numbers) -> None:
        if len(rows) <= A_FEW:
            for row, turn in zip(rows.tolist(), _plain_each(by, len(rows)), strict=True):
                self.world.angle[row] = half_open_degrees(self.world.angle.item(row) + turn)
        else:
            self.world.angle[rows] = half_open_degrees(self.world.angle[rows] + by)
        self.world.turned(rows)

    def face(self, rows: Rows, angle: Numbers) -> None:
        world = self.world
        if len(rows) <= A_FEW:
            stays = True
            for row, wanted in zip(rows.tolist(), _plain_each(angle, len(rows)), strict=True):
                faces = half_open_degrees(
                    wanted - world.program.kind_tables.drawn_facing.item(world.kind.item(row))
                )
                if faces != world.angle.item(row):
                    world.angle[row] = faces
                    stays = False
            if not stays:
                world.turned(rows)
            return
        new = half_open_degrees(angle - world.program.kind_tables.drawn_facing[world.kind[rows]])
        if (new != world.angle[rows]).any():
            world.angle[rows] = new
            world.turned(rows)

    def set_forward_speed(self, rows: Rows, speed: Numbers) -> None:
        if not (speed.any() if isinstance(speed, np.ndarray) else speed):
            self.set_velocity(rows, 0.0, 0.0)
            return
        if len(rows) <= A_FEW:
            self._few_go(rows, _plain_each(speed, len(rows)))
            return
        facing = self.facing(rows)
        self.set_velocity(rows, speed * cosd(facing), speed * sind(facing))

    def _few_go(self, rows: Rows, speeds: list[float]) -> None:
        world = self.world
        for row, fast in zip(rows.tolist(), speeds, strict=True):
            drawn = world.program.kind_tables.drawn_facing.item(world.kind.item(row))
            facing = half_open_degrees(world.angle.item(row) + drawn)
            world.vx[row], world.vy[row] = fast * cosd(facing), fast * sind(facing)
        self._drives(rows, BOTH)

    def set_velocity(self, rows: Rows, vx: Numbers, vy: Numbers | None) -> None:
        self.world.vx[rows] = vx
        if vy is not None:
            self.world.vy[rows] = vy
        self._drives(rows, SIDEWAYS if vy is None else BOTH)

    def _drives(self, rows: Rows, how: int) -> None:
        self.all_driven()[rows] = how

    def all_driven(self) -> NDArray[np.int8]:
        """Return whose velocity a behaviour has given in this tick, by row, to be written into."""
        if self.driven is None:
            self.driven = np.zeros(len(self.world.id), dtype=np.int8)
        return self.driven

    def put(self, rows: Rows, x: Numbers, y: Numbers) -> None:
        world = self.world
        world.vx[rows] = world.vy[rows] = 0.0
        if len(rows) and ((world.x[rows] != x) | (world.y[rows] != y)).any():
            world.x[rows], world.y[rows] = x, y
            world.touch_rows(rows)

    def set_upward_speed(self, rows: Rows, speed: Numbers) -> None:
        self.world.vy[rows] = speed

    def urge(self, rows: Rows, wish_x: Numbers, wish_y: Numbers, weight: Numbers) -> None:
        # a behaviour acts once on each object: no row comes twice
        for total, added in zip(self.all_urges(), (wish_x, wish_y, weight), strict=True):
            total[rows] += added

    def all_urges(self) -> Floats:
        """Return the summed urges of all, shape (3, rows), to be written into."""
        if self.urges is None:
            self.urges = np.zeros((3, len(self.world.id)))
        return self.urges

    def urged_arrays(self, rows: Rows) -> Floats:
        """Return the summed urges (x, y, weight) of rows; shape (3, rows), zeros where nothing urges."""
        return self.urges[:, rows] if self.urges is not None else np.zeros((3, len(rows)))

    def urged(self, rows: Rows) -> tuple[Numbers, Numbers, Numbers]:
        if self.urges is None:
            return 0.0, 0.0, 0.0
        wish_x, wish_y, weight = self.urges[:, rows]
        return wish_x, wish_y, weight

    def arrive(self, rows: Rows, what: str, number: Numbers = 0) -> None:
        numbers = spread(np.asarray(number, dtype=np.int64), len(rows))
        self.arrivals += [
            (what, i, n) for i, n in zip(self.world.id[rows].tolist(), numbers.tolist(), strict=True)
        ]

    def walk(
        self, rows: Rows, route: str, how: str, faces: bool, speed: Numbers, leg_time: Numbers, easing: str
    ) -> None:
        walking.set_out(self.world, rows, route, how, faces, speed, leg_time, easing, sent=False)

    def fall(self, rows: Rows, gravity: Numbers, bounce: Numbers, slowing: Numbers) -> None:
        world = self.world
        world.gravity[rows], world.bounce[rows] = gravity, bounce
        if np.any(slowing):
            if self.slowing is None:
                self.slowing = np.zeros(len(world.id))
            self.slowing[rows] = slowing

    def carry(self, row: int, carrier: int, ahead: float, lag: float) -> None:
        self.world.movement.bonds[self.world.id.item(row)] = self.world.held_ahead(row, carrier, ahead, lag)
        self._held_ids = None

    def pointed(self, rows: Rows) -> NDArray[np.bool_]:
        world = self.world
        return np.isin(rows, under_point(world, world.input.pointer_x, world.input.pointer_y))

    def release(self, rows: Rows, flies: bool) -> None:
        world = self.world
        for row, object_id in zip(rows.tolist(), world.id[rows].tolist(), strict=True):
            bond = world.movement.bonds.pop(object_id, None)
            if bond is None:
                continue
            self._emptied.add(bond.carrier)
            carrier = world.row_of_id(bond.carrier)
            if flies and carrier >= 0:
                world.vx[row], world.vy[row] = world.vx[carrier], world.vy[carrier]
        self._held_ids = None

    def remove(self, rows: Rows) -> None:
        world = self.world
        world.alive[rows] = False
        world.died[rows] = world.tick
        world.caches.any_moved = True
        world.structure_changed()
        for object_id in world.id[rows].tolist():
            self.recorder.did(Did.REMOVED, object_id)


def _plain_each(value: Numbers, n: int) -> list[float]:
    """Return a number for each of n, as plain numbers."""
    return value.tolist() if isinstance(value, np.ndarray) and value.ndim else [float(value)] * n


def _one_each(value: Numbers, n: int) -> Floats:
    """Return a number for each of n, that does not change with the columns it may come from."""
    return (
        np.array(value, dtype=np.float64) if np.shape(value) == (n,) else np.full(n, value, dtype=np.float64)
    )


def move_all(program: Program, world: World, recorder: Recorder) -> None:
    """The Motion phase of a tick."""
    moving = BehaviourContext(world, recorder)
    moving.guided = guided(world)
    for behaviour in program.tick_tables.acting("first"):
        rows = behaving(world, behaviour)
        if len(rows):
            moving.act(behaviour, rows)
    calm = nobody_busy(world)
    # objects on routes first: what goes by them aims at where they will stand
    walkers, others = program.tick_tables.driving
    for behaviour in walkers:
        rows = behaving(world, behaviour, calm)
        if len(rows):
            moving.act(behaviour, rows)
    walked, by_kernel = _walk_on(program, world, moving)
    for behaviour in others:
        rows = behaving(world, behaviour, calm)
        if len(rows):
            moving.act(behaviour, rows)
    if by_kernel and others:
        walk_by_kernel(moving, again=True)
    elif walked and others:
        walking.walk_again(moving, walked)
    world.movement.arrivals = tuple(moving.arrivals) if moving.arrivals else ()
    integrate(world, moving.driven, moving.slowing, moving.guided)
    if world.caches.any_moved or len(world.contacts.unparted):
        push_apart(world, moving.driven)
    world.caches.clear = frozenset()
    follow_carriers(world)
    followers = program.tick_tables.acting("follow")
    for behaviour in followers:
        rows = behaving(world, behaviour, calm)
        if len(rows):
            moving.act(behaviour, rows)
    if followers and world.caches.any_moved:
        push_apart(world, moving.driven)
        # what is attached without a lag to one that has been put somewhere comes along
        follow_carriers(world, at_once=True)


def _walk_on(program: Program, world: World, moving: BehaviourContext) -> tuple[list[walking.Walked], bool]:
    """Take all who walk a route through the tick. Return what they were given, and whether a kernel has it."""
    if not program.tick_tables.walking or not world.variables[WALK["going"]].any():
        return [], False
    if walk_by_kernel(moving):
        return [], True
    return walking.walk_on(world, moving), False


def guided(world: World) -> NDArray[np.bool_] | None:
    """Take what is moved over a time or plays a clip to where it comes to in this tick; gives who that is, by row."""
    if world.movement.turns:
        follow_turns(world)
    if not world.movement.tweens and not world.movement.playing:
        if world.movement.clip_ends:
            world.movement.clip_ends = ()
        return None
    ids = [i for tween in world.movement.tweens for i in tween.ids.tolist()]
    ids += [p.object for p in world.movement.playing]
    rows = world.rows_of_ids(np.array(ids, dtype=np.int64))
    found = np.zeros(len(world.id), dtype=bool)
    found[rows[rows >= 0]] = True
    follow_tweens(world)
    follow_clips(world)
    return found


def _names_a_role(where: Where) -> bool:
    """Return whether a place is an object's: neither a named point of one, nor a formula."""
    return bool(where.roles) and where.formula is None and {what for _, what in where.reads} == {"x", "y"}


def work_out(world: World, recorder: Recorder, behaviour: Behaviour, rows: Rows) -> None:
    """Work out the settings of a behaviour that are formulas; where there is no answer the last one stays, and it is told."""
    kind = world.program.kinds[behaviour.kind].name
    view = View(world, Matches(len(rows), {token(kind): rows}), behaviour.identity)
    for name, formula in behaviour.formulas.items():
        column = world.variables[behaviour.columns[name]]
        values = spread(formula.evaluate(view), len(rows))
        far = np.abs(values) > FARTHEST_SETTING
        if far.any():
            view.fault(far, f"it must lie between -{FARTHEST_SETTING:,.0f} and {FARTHEST_SETTING:,.0f}")
        bad = view.faulted()
        column[rows] = values if bad is None else np.where(bad, column[rows], values)
        tell_faults(world, recorder, behaviour, view, f", {name}")
        view.faults.clear()


def tell_faults(world: World, recorder: Recorder, behaviour: Behaviour, view: View, where: str = "") -> None:
    """Record the faults of a formula in a behaviour."""
    kind = world.program.kinds[behaviour.kind].name
    for bad, sentence in view.faults:
        whole = f"{kind}, “{spoken(behaviour.entry.name)}”{where}: {sentence}"
        recorder.fault(world.tick, BEHAVIOUR, "behaviour", behaviour.line, whole, int(bad.sum()))


def nobody_busy(world: World) -> bool:
    """Return whether no object is kept by something else from what it does."""
    busy = world.variables.get(BUSY)
    return busy is None or not busy.any()


def behaving(world: World, behaviour: Behaviour, calm: bool = False) -> Rows:
    """Return rows of the objects that have a behaviour and have it switched on; `calm` says that nobody is busy."""
    rows = world.rows_with(behaviour.kind, behaviour.on, behaviour.whose)
    if calm:
        return rows
    if behaviour.kind in world.program.tick_tables.kinds_looking and behaviour.leads:
        free = world.variables[BUSY][rows] == 0
        return rows if free.all() else rows[free]
    return rows


def urges_at(world: World) -> list[tuple[int, str, float, float]]:
    """Return what drives each flocking object at a moment: its row, the urge's name, and its wish x, y by weight."""
    found: list[tuple[int, str, float, float]] = []
    for behaviour in world.program.behaviours:
        rows, entry = behaving(world, behaviour), behaviour.entry
        if not len(rows) or (entry.urges is None and entry.phase != "urge"):
            continue
        moving = BehaviourContext(world, NullRecorder())
        moving.behaviour, moving.rows = behaviour, rows
        settings = {name: world.variables[column][rows] for name, column in behaviour.columns.items()}
        if entry.urges is not None:
            urges = entry.urges(moving, rows, **behaviour.words, **settings)
        else:
            entry.compute(moving, rows, **behaviour.words, **settings)
            urges = [Urge(spoken(entry.name), *moving.urged_arrays(rows))]
        for urge in urges:
            found += [
                (row, urge.name, x, y)
                for row, x, y in zip(rows.tolist(), urge.x.tolist(), urge.y.tolist(), strict=True)
                if x or y
            ]
    return found
