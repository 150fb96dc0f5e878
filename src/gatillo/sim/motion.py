"""The Motion phase: behaviours act, velocities are integrated, solids push apart, attached objects follow."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.flocking import Terms, Urge, urges_of
from gatillo.catalogue.surroundings import Numbers, Rows, Where
from gatillo.formula.functions import half_open_degrees, random_point, spread
from gatillo.level.naming import spoken
from gatillo.level.roles import Role
from gatillo.sim import walking
from gatillo.sim.bodies import Behaviour, kept_column, on_column
from gatillo.sim.chance import uniform
from gatillo.sim.clips import follow_clips
from gatillo.sim.flight import BOTH, SIDEWAYS, integrate
from gatillo.sim.guided import follow_carriers, follow_tweens
from gatillo.sim.matching import Matches, View, _join_reference
from gatillo.sim.nearness import near_rows, nearest_rows
from gatillo.sim.presence import under_point
from gatillo.sim.program import Program
from gatillo.sim.solids import push_apart
from gatillo.sim.trace import Did, Recorder, Silent
from gatillo.sim.world import World

Floats = NDArray[np.float64]

BUSY = kept_column("look_into", "stage")
"""Above 0 while an object looks into a noise, and does nothing else."""


class Moving:
    """The world as behaviours see it (the catalogue's Motion)."""

    def __init__(self, world: World, recorder: Recorder) -> None:
        self.world = world
        self.recorder = recorder
        self.dt = world.dt
        self.time = world.time
        self.behaviour: Behaviour | None = None
        self.rows: Rows = np.zeros(0, dtype=np.int64)
        self.driven: NDArray[np.int8] | None = None
        """Whose velocity a behaviour has given in this tick: friction does not slow them."""
        self.urges: Floats | None = None
        """Of each row: wished-for direction x, y, and the weights; shape (3, rows)."""
        self.slowing: Floats | None = None
        self.arrivals: list[tuple[str, int, int]] = []
        self._grabbable: Rows | None = None
        self._held_ids: set[int] | None = None
        self._emptied: set[int] = set()

    def act(self, behaviour: Behaviour, rows: Rows) -> None:
        """Let a behaviour act on the objects that have it on."""
        self.behaviour, self.rows = behaviour, rows
        variables = self.world.variables
        # those that stand in one run are read as a slice: nothing is copied
        at = self.world.runs.get(id(rows), rows)
        settings = {name: variables[column][at] for name, column in behaviour.columns.items()}
        behaviour.entry.compute(self, rows, **behaviour.words, **settings)

    # what it may ask

    def key_state(self, key: str) -> tuple[bool, bool, bool]:
        return key in self.world.pressed, key in self.world.held, key in self.world.released

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
        return self.world.pointer_x, self.world.pointer_y

    def nearest(self, rows: Rows, role: Role) -> Rows:
        if role.source == "reference":
            return self._referred(rows, role)
        return nearest_rows(self.world, rows, self.world.rows_of(role))

    def _referred(self, rows: Rows, role: Role) -> Rows:
        """The object that each one's own variable (or the level's) refers to, -1 for nobody."""
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
        else:
            table = Matches(n, {})
            for name in where.roles:
                role = self.world.program.index.role_tokens[name]
                if name not in table.rows:
                    target = self.nearest(rows, role)
                    # with nobody there, the place where it stands
                    table.rows[name] = np.where(target >= 0, target, rows)
            x, y = where.point(View(self.world, table, self.behaviour.identity if self.behaviour else 0))
        return _one_each(x, n), _one_each(y, n)

    def anywhere(self, rows: Rows, area: str, turn: Numbers) -> tuple[Floats, Floats]:
        place = self.world.program.index.areas[area]
        return random_point(place, self.draw(rows, turn, 0), self.draw(rows, turn, 1))

    def draw(self, rows: Rows, turn: Numbers, call: int) -> Floats:
        assert self.behaviour is not None
        turns = spread(np.asarray(turn, dtype=np.int64), len(rows))
        # the turn stands in the place of the tick: the same draw at every tick rate
        return uniform(self.world.seed, self.behaviour.identity, self.world.id[rows], turns, 0, call)

    def recall(self, name: str) -> NDArray[np.float64]:
        assert self.behaviour is not None
        return self.world.variables[self.behaviour.keeps[name]][self.rows]

    def keep(self, name: str, value: Numbers) -> None:
        assert self.behaviour is not None
        self.world.variables[self.behaviour.keeps[name]][self.rows] = value

    def heard_at(self, message: str) -> tuple[Floats, Floats]:
        senders = sorted(self.world.heard_from.get(message, {}))
        rows = self.world.rows_of_ids(np.array(senders, dtype=np.int64))
        rows = rows[rows >= 0]
        return self.world.x[rows], self.world.y[rows]

    def under_pointer(self, front_only: bool) -> Rows:
        if self._grabbable is None:
            world = self.world
            rows = under_point(world, world.pointer_x, world.pointer_y)
            on = world.variables.get(on_column("be_dragged"))
            self._grabbable = rows[on[rows]] if on is not None else rows[:0]
        return self._grabbable[:1] if front_only else self._grabbable

    def anything_attached(self) -> bool:
        return bool(self.world.bonds)

    def carrier_of(self, rows: Rows) -> NDArray[np.int64]:
        bonds = self.world.bonds
        return np.array([bonds[i].carrier if i in bonds else 0 for i in self.world.id[rows].tolist()])

    def ids(self, rows: Rows) -> NDArray[np.int64]:
        return self.world.id[rows]

    def rows_of(self, role: Role) -> Rows:
        return self.world.rows_of(role)

    def carries_something(self, carrier: int) -> bool:
        if self._held_ids is None:
            self._held_ids = {bond.carrier for bond in self.world.bonds.values() if bond.held}
        # the press that lets one thing go does not pick up another
        return carrier in self._held_ids or carrier in self._emptied

    # what it may do

    def rotate(self, rows: Rows, by: Numbers) -> None:
        self.world.angle[rows] = half_open_degrees(self.world.angle[rows] + by)
        self.world.turned(rows)

    def face(self, rows: Rows, angle: Numbers) -> None:
        world = self.world
        new = half_open_degrees(angle - world.program.drawn_facing[world.kind[rows]])
        if np.any(new != world.angle[rows]):
            world.angle[rows] = new
            world.turned(rows)

    def go(self, rows: Rows, speed: Numbers) -> None:
        if not np.any(speed):
            self.move(rows, 0.0, 0.0)
            return
        facing = np.radians(self.facing(rows))
        self.move(rows, speed * np.cos(facing), speed * np.sin(facing))

    def move(self, rows: Rows, vx: Numbers, vy: Numbers | None) -> None:
        self.world.vx[rows] = vx
        if vy is not None:
            self.world.vy[rows] = vy
        if self.world.program.physical:
            if self.driven is None:
                self.driven = np.zeros(len(self.world.id), dtype=np.int8)
            self.driven[rows] = SIDEWAYS if vy is None else BOTH

    def put(self, rows: Rows, x: Numbers, y: Numbers) -> None:
        world = self.world
        world.vx[rows] = world.vy[rows] = 0.0
        if len(rows) and (np.any(world.x[rows] != x) or np.any(world.y[rows] != y)):
            world.x[rows], world.y[rows] = x, y
            world.touch_rows(rows)

    def leap(self, rows: Rows, speed: Numbers) -> None:
        self.world.vy[rows] = speed

    def urge(self, rows: Rows, wish_x: Numbers, wish_y: Numbers, weight: Numbers) -> None:
        if self.urges is None:
            self.urges = np.zeros((3, len(self.world.id)))
        # a behaviour acts once on each object: no row comes twice
        for total, added in zip(self.urges, (wish_x, wish_y, weight), strict=True):
            total[rows] += added

    def urged_arrays(self, rows: Rows) -> Floats:
        """The same, as arrays of shape (3, n) even where nothing drives anything."""
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
        self.world.bonds[self.world.id.item(row)] = self.world.held_ahead(row, carrier, ahead, lag)
        self._held_ids = None

    def let_go(self, rows: Rows) -> None:
        for object_id in self.world.id[rows].tolist():
            bond = self.world.bonds.pop(object_id, None)
            if bond is not None:
                self._emptied.add(bond.carrier)
        self._held_ids = None

    def remove(self, rows: Rows) -> None:
        world = self.world
        world.alive[rows] = False
        world.died[rows] = world.tick
        world.any_moved = True
        world.structure_changed()
        for object_id in world.id[rows].tolist():
            self.recorder.did(Did.REMOVED, object_id)


def _one_each(value: Numbers, n: int) -> Floats:
    """A number for each of n, that does not change with the columns it may come from."""
    return (
        np.array(value, dtype=np.float64) if np.shape(value) == (n,) else np.full(n, value, dtype=np.float64)
    )


def move_all(program: Program, world: World, recorder: Recorder) -> None:
    """The Motion phase of a tick."""
    moving = Moving(world, recorder)
    for behaviour in program.acting("first"):
        rows = behaving(world, behaviour)
        if len(rows):
            moving.act(behaviour, rows)
    for behaviour in (*program.acting("urge"), *program.acting("motion")):
        rows = behaving(world, behaviour)
        if len(rows):
            moving.act(behaviour, rows)
    if program.walking:
        walking.walk_on(world, moving)
    world.arrivals = tuple(moving.arrivals) if moving.arrivals else ()
    integrate(world, moving.driven, moving.slowing)
    follow_tweens(world)
    follow_clips(world)
    if world.any_moved:
        push_apart(world)
    follow_carriers(world)
    for behaviour in program.acting("follow"):
        rows = behaving(world, behaviour)
        if len(rows):
            moving.act(behaviour, rows)


def behaving(world: World, behaviour: Behaviour) -> Rows:
    """Rows of the objects that have a behaviour and have it switched on."""
    rows = world.rows_with(behaviour.kind, behaviour.on, behaviour.whose)
    if behaviour.entry.phase in ("urge", "motion") and BUSY in world.variables:
        free = world.variables[BUSY][rows] == 0
        return rows if free.all() else rows[free]
    return rows


def urges_at(world: World) -> list[tuple[int, str, float, float]]:
    """What drives each flocking object at a moment: its row, the urge's name, and its wish x, y by weight."""
    found: list[tuple[int, str, float, float]] = []
    for behaviour in world.program.behaviours:
        rows = behaving(world, behaviour)
        if not len(rows) or behaviour.entry.subject != "flocking":
            continue
        moving = Moving(world, Silent())
        moving.behaviour, moving.rows = behaviour, rows
        settings = {name: world.variables[column][rows] for name, column in behaviour.columns.items()}
        if behaviour.entry.name == "flock":
            top = np.maximum(settings.pop("speed"), 0.0)
            del settings["acceleration"]
            terms = Terms(**settings, top=top)
            urges = urges_of(moving, rows, behaviour.words["others"], terms)
        else:
            behaviour.entry.compute(moving, rows, **behaviour.words, **settings)
            urges = [Urge(spoken(behaviour.entry.name), *moving.urged_arrays(rows))]
        for urge in urges:
            found += [
                (row, urge.name, x, y)
                for row, x, y in zip(rows.tolist(), urge.x.tolist(), urge.y.tolist(), strict=True)
                if x or y
            ]
    return found
