"""The state of a running level: arrays with a row for each object, in the order of their age."""

from __future__ import annotations

from dataclasses import fields, replace
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.values import A_HANDFUL, Rows
from gatillo.formula.formula import column_key
from gatillo.formula.values import half_open_degrees
from gatillo.kernels import COMPILED, boxes
from gatillo.kernels.mathematics import cosd, sind
from gatillo.level.model import Object
from gatillo.level.naming import token
from gatillo.level.properties import PROPERTIES, stored
from gatillo.level.roles import Role, type_of
from gatillo.sim.program.program import Program
from gatillo.sim.program.tick_tables import Plain
from gatillo.sim.world.caches import Caches
from gatillo.sim.world.columns import COLUMNS
from gatillo.sim.world.records import (
    Bond,
    Contacts,
    Display,
    Focus,
    Input,
    Messages,
    Movement,
    Part,
    Prompts,
    Rules,
)
from gatillo.sim.world.snapshot import copied, size_of, written

FIRST_CREATED_ID = 1_000_000
"""Objects placed by hand have lower ids, so that placing one more leaves the ids of created ones."""

DERIVED = frozenset(name for name, made in PROPERTIES.items() if made.of)
"""Properties that are worked out, not stored."""

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]


A_FEW_IDS = 6
"""So many ids at most are looked up one by one."""
MOST_LISTED = 16
FEW_ROWS = 512
"""In a world of so many rows at most, rows are looked up in a dictionary."""


@cache
def _of_contact(contacts: tuple[int, ...]) -> str:
    """Return the key for the rows of these contacts."""
    return f"contact {contacts}"


class World:
    """Everything that can differ between two moments of a run.

    Rows stay sorted by id; a removed object keeps its row, marked dead, until rows are packed. What a world holds is
    declared once: the columns in columns.py, the records in records.py, the rest in `_STATE` below; whatever can be
    worked out again is in caches.py. Copies, digests and sizes walk these declarations, and there are no other attributes.
    """

    program: Program
    dt: float
    caches: Caches

    # columns, a row for each object: those of columns.py that code names; the others have a place all the same
    id: Ints
    kind: Ints
    x: Floats
    y: Floats
    angle: Floats
    scale: Floats
    depth: Floats
    vx: Floats
    vy: Floats
    mass: Floats
    bounce: Floats
    friction: Floats
    gravity: Floats
    contact: NDArray[np.int8]
    grounded: Bools
    asleep: Bools
    rests_on: Ints
    shown: Bools
    alive: Bools
    died: Ints
    moved: Bools
    last_moved: Ints
    variables: dict[str, NDArray[Any]]
    """The variables and settings of kinds, columns too: by name and type (formula.compiling.column_key)."""
    tags: dict[str, Bools]
    """By row who carries a tag, of those tags that a rule has given or taken."""

    # the rest of the state
    seed: int
    tick: int
    time: float
    level: dict[str, Plain]
    next_id: int
    created_of: dict[int, int]
    """By id of what a rule created: its kind's number."""
    items: dict[tuple[int, str], float]
    timers: dict[str, tuple[float, float | None]]
    input: Input
    contacts: Contacts
    movement: Movement
    focus: Focus
    prompts: Prompts
    messages: Messages
    rules: Rules
    display: Display

    __slots__ = tuple({**__annotations__, **COLUMNS})

    def __init__(self, program: Program, seed: int = 1) -> None:
        """The level as laid out, before its first tick."""
        self.program = program
        self.dt = program.dt
        self.caches = Caches()
        self.seed = seed
        self.tick = 0
        self.time = 0.0
        objects = sorted(program.level.objects, key=lambda o: o.id)
        kinds = np.array([program.kind_number[o.kind] for o in objects], dtype=np.int64)
        for name, column in COLUMNS.items():
            setattr(self, name, column.start(program, objects, kinds))
        self.variables = self._first_values(objects)
        self.tags = {}
        self.level = {token(v.name): program.tick_tables.plain(v.value) for v in program.level.variables}
        self.next_id = FIRST_CREATED_ID
        self.created_of = {}
        self.items = {}
        self.timers = {}
        self.input = Input()
        self.contacts = Contacts()
        self.movement = Movement()
        self.focus = Focus()
        self.prompts = Prompts()
        self.messages = Messages()
        self.rules = Rules()
        self.display = Display()
        self._attach_from_start(objects)

    def _first_values(self, objects: list[Object]) -> dict[str, NDArray[Any]]:
        program, n = self.program, len(objects)
        variables: dict[str, NDArray[Any]] = {
            name: np.full(n, "", dtype=kind) if kind is object else np.zeros(n, dtype=kind)
            for name, kind in program.tick_tables.columns.items()
        }
        for row, thing in enumerate(objects):
            for name, value in program.tick_tables.starts[self.kind[row]].items():
                variables[name][row] = value
            for name, value in thing.values.items():
                key = column_key(token(name), type_of(value))
                if key in variables:
                    variables[key][row] = program.tick_tables.plain(value)
            for column_name, own in program.own_settings.get(thing.id, {}).items():
                variables[column_name][row] = own
        return variables

    def _attach_from_start(self, objects: list[Object]) -> None:
        """Bonds that the level is laid out with; each keeps the offset at which it was laid out."""
        rows = {thing.name: row for row, thing in enumerate(objects)}
        for thing in objects:
            if thing.attached in rows:
                carrier = rows[thing.attached]
                self.movement.bonds[thing.id] = self.bond(
                    rows[thing.name], carrier, keep_offset=True, lag=0.0
                )

    def bond(self, row: int, carrier: int, *, keep_offset: bool, lag: float) -> Bond:
        """Return the bond of an object to its carrier as they stand now."""
        if not keep_offset:
            return self.as_it_stands(Bond(self.id.item(carrier), 0.0, 0.0, 0.0, lag), row)
        turned = self.angle.item(carrier)
        cos, sin = cosd(turned), sind(turned)
        dx, dy = self.x.item(row) - self.x.item(carrier), self.y.item(row) - self.y.item(carrier)
        along = dx * cos + dy * sin
        across = dy * cos - dx * sin
        bond = Bond(
            self.id.item(carrier), along, across, self.angle.item(row) - self.angle.item(carrier), lag
        )
        return self.as_it_stands(bond, row)

    def as_it_stands(self, bond: Bond, row: int) -> Bond:
        """Return a bond for an object that stands where it stands now: only what it moves from then on is its own motion."""
        return replace(bond, x=self.x.item(row), y=self.y.item(row), turned=self.angle.item(row))

    def carried_offset(self, bond: Bond, x: float, y: float) -> tuple[float, float]:
        """Return a point of the level in the frame of a bond's carrier as it stands now."""
        carrier = self.row_of_id(bond.carrier)
        dx, dy = x - self.x.item(carrier), y - self.y.item(carrier)
        cos, sin = cosd(self.angle.item(carrier)), sind(self.angle.item(carrier))
        return dx * cos + dy * sin, dy * cos - dx * sin

    def bears_motion(self, object_id: int) -> bool:
        """Return whether an object is attached so that its own motion adds to its carrier's."""
        bond = self.movement.bonds.get(object_id)
        return bond is not None and bond.bears_motion and self.row_of_id(bond.carrier) >= 0

    def held_ahead(self, row: int, carrier: int, ahead: float, lag: float) -> Bond:
        """Return the bond of an object that is carried so far ahead of where its carrier faces."""
        facing = self.program.kind_tables.drawn_facing.item(self.kind.item(carrier))
        along, across = ahead * cosd(facing), ahead * sind(facing)
        angle = self.angle.item(row) - self.angle.item(carrier)
        return Bond(self.id.item(carrier), along, across, angle, lag, held=True)

    # copies and digests

    def clone(self) -> World:
        """Return a copy that can run on without touching this one."""
        other = object.__new__(World)
        other.program, other.dt = self.program, self.dt
        other.caches = self.caches.clone()
        for name in COLUMNS:
            setattr(other, name, getattr(self, name).copy())
        # written into, unlike other arrays
        other.variables = {name: column.copy() for name, column in self.variables.items()}
        for name in _STATE:
            setattr(other, name, copied(getattr(self, name)))
        return other

    def of_program(self, program: Program) -> World:
        """Return this state for another program with the same objects and columns. The result shares its arrays with this one."""
        if program is self.program:
            return self
        other = object.__new__(World)
        for name in self.__slots__:
            setattr(other, name, getattr(self, name))
        other.program, other.caches = program, Caches()
        return other

    def state(self) -> dict[str, Any]:
        """Return all that can influence a later tick or a picture, by name."""
        return {name: getattr(self, name) for name in (*COLUMNS, "variables", *_STATE)}

    def differs_in(self, other: World) -> list[str]:
        """Return what of the state is not the same in another world, by name."""
        mine, theirs = self.state(), other.state()
        return [name for name in mine if written(mine[name]) != written(theirs[name])]

    def state_bytes(self) -> bytes:
        """Return the whole state as bytes: the same for two worlds only when they cannot be distinguished."""
        return b"".join(name.encode() + written(value) for name, value in self.state().items())

    def size(self) -> int:
        """About how many bytes a copy of it takes."""
        return sum(size_of(value) for value in self.state().values())

    # who is there

    def rows_of(self, role: Role) -> Rows:
        """Return rows of all objects that a role can stand for, oldest first."""
        rows = self.caches.rows.get(role.token)
        if rows is None:
            rows = self.caches.rows[role.token] = np.flatnonzero(self.member(role))
            self._note_run(rows)
        return rows

    def rows_of_kind(self, kind: int) -> Rows:
        """Return rows of all objects of a kind, by its number, oldest first."""
        name = f"#{kind}"
        rows = self.caches.rows.get(name)
        if rows is None:
            rows = self.caches.rows[name] = np.flatnonzero((self.kind == kind) & self.alive)
            self._note_run(rows)
        return rows

    def rows_with(self, kind: int, on: str, name: str) -> Rows:
        """Return rows of a kind's objects for which a yes/no column is yes, kept as `name` until that or who is there changes."""
        rows = self.caches.rows.get(name)
        if rows is None:
            rows = self.rows_of_kind(kind)
            yes = self.variables[on][rows]
            if not yes.all():
                rows = rows[yes]
                self._note_run(rows)
            self.caches.rows[name] = rows
        return rows

    def switched_behaviour(self, on: str) -> None:
        """Note that a behaviour was switched: forgets who has it on."""
        for name in [n for n in self.caches.rows if n.endswith(f" {on}")]:
            gone = self.caches.rows.pop(name)
            # another array may get its identity
            if not any(gone is kept for kept in self.caches.rows.values()):
                self.caches.runs.pop(id(gone), None)
        self.caches.any_moved = True
        self.caches.columns = None

    def _note_run(self, rows: Rows) -> None:
        # rows that follow one another without a gap are read as a slice: nothing is copied
        if len(rows) and rows[-1] - rows[0] + 1 == len(rows):
            self.caches.runs[id(rows)] = slice(int(rows[0]), int(rows[-1]) + 1)

    def member(self, role: Role) -> NDArray[np.bool_]:
        """Return for each row whether the role can stand for it now; shape (rows,)."""
        mask = self.caches.members.get(role.token)
        if mask is None:
            mask = self.caches.members[role.token] = self.meant(role) & self.alive
        return mask

    def meant(self, role: Role) -> NDArray[np.bool_]:
        """Return for each row whether the role can stand for it, including rows whose objects were removed recently."""
        if role.source == "all":
            return np.ones(len(self.id), dtype=bool)
        if role.source == "tag":
            return self.tagged(role.of)
        if role.source == "object":
            return np.asarray(self.id == role.object_id)
        return np.asarray(self.kind == self.program.kind_number[role.of])

    def tagged(self, tag: str) -> NDArray[np.bool_]:
        """Return for each row whether it carries a tag: its kind's, its own, or one that a rule has given it."""
        mask = self.tags.get(tag)
        if mask is None:
            mask = self.caches.tags.get(tag)
        if mask is None:
            of_kinds, own = self.program.kind_tables.carriers_of(tag)
            mask = of_kinds[self.kind] | np.isin(self.id, own)
            without = self.program.kind_tables.without_at_first(tag)
            if len(without):
                mask &= ~np.isin(self.id, without)
            self.caches.tags[tag] = mask
        return mask

    def structure_changed(self) -> None:
        """To be called when objects come or go: forgets who is there."""
        self.caches.structure_changed()
        self.changed("there")

    def rows_of_ids(self, ids: NDArray[np.int64]) -> Rows:
        """Return row of each id, -1 where that object is gone."""
        if len(ids) <= A_FEW_IDS or not len(self.id):
            return np.array([self.row_of_id(i) for i in ids.tolist()], dtype=np.int64)
        first, many = self.id.item(0), len(self.id)
        if self.id.item(many - 1) - first + 1 == many:
            # ids without a gap, as in a level in which none was created: the row follows from the id
            at = ids - first
            there = (at >= 0) & (at < many)
            if there.all():
                return np.where(self.alive[at], at, -1)
            at = np.where(there, at, 0)
            return np.where(there & self.alive[at], at, -1)
        at = np.minimum(self.id.searchsorted(ids), many - 1)
        return np.where((self.id[at] == ids) & self.alive[at], at, -1)

    def row_of_id(self, object_id: int) -> int:
        """Return row of one id, -1 where that object is gone."""
        if len(self.id) <= FEW_ROWS:
            numbers = self.caches.numbers
            if numbers is None:
                rows = self.alive.nonzero()[0]
                numbers = dict(zip(self.id[rows].tolist(), rows.tolist(), strict=True))
                self.caches.numbers = numbers
            return numbers.get(object_id, -1)
        at = int(self.id.searchsorted(object_id))
        there = at < len(self.id) and self.id.item(at) == object_id and self.alive.item(at)
        return at if there else -1

    def name_of(self, object_id: int) -> str:
        """Return what an object is called: its own name, or its kind and number if a rule created it."""
        found = self.program.names.get(object_id)
        if found is not None:
            return found
        kind = self.program.kinds[self.created_of[object_id]].name
        return f"{kind} +{object_id - FIRST_CREATED_ID + 1}"

    # values

    def values_of(self, rows: Rows, key: str) -> Any:
        """Return a property or variable of some rows, one value each."""
        column = self.variables.get(key)
        if column is not None:
            run = self.caches.runs.get(id(rows))
            return column.take(rows) if run is None else column[run].copy()
        if key == "facing":
            return half_open_degrees(
                self.angle[rows] + self.program.kind_tables.drawn_facing[self.kind[rows]]
            )
        if key == "name":
            names = np.empty(len(rows), dtype=object)
            names[:] = [self.name_of(i) for i in self.id[rows].tolist()]
            return names
        return getattr(self, key).take(rows)

    def reach(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Half width and half height of the upright box about each row's shape, shape (rows,) each."""
        if self.caches.reach is None:
            self.caches.reach = self._reach_of(slice(None))
        return self.caches.reach

    def listed(self, rows: Rows) -> tuple[list[int], list[float], list[float]]:
        """Rows, and half width and half height of the box about each, as lists: cached as long as no object is created, removed, turned or scaled."""
        reach, known = self.reach(), self.caches.listed.get(id(rows))
        if known is None or known[0] is not rows or known[1] is not reach:
            if len(self.caches.listed) > MOST_LISTED:
                self.caches.listed.clear()
            known = (rows, reach, rows.tolist(), reach[0][rows].tolist(), reach[1][rows].tolist())
            self.caches.listed[id(rows)] = known
        return known[2:]

    def _reach_of(self, rows: Rows | slice) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        sizes = self.program.kind_tables.boxes[self.kind[rows]] * np.abs(self.scale[rows])[:, None]
        turned = self.angle[rows]
        cos, sin = np.abs(cosd(turned)), np.abs(sind(turned))
        return (
            sizes[:, 0] * cos + sizes[:, 1] * sin + sizes[:, 2],
            sizes[:, 0] * sin + sizes[:, 1] * cos + sizes[:, 2],
        )

    def rows_where(self, what: str, of_kind: NDArray[np.bool_]) -> Rows:
        """Return rows of the objects whose kind has a property, kept under `what` until objects come or go."""
        rows = self.caches.rows.get(what)
        if rows is None:
            rows = self.caches.rows[what] = np.flatnonzero(of_kind[self.kind] & self.alive)
        return rows

    def rows_known(self, what: str) -> Rows | None:
        """Return rows kept under a name since objects came or went last."""
        return self.caches.rows.get(what)

    def know_rows(self, what: str, rows: Rows) -> Rows:
        """Keep rows under a name until objects come or go."""
        self.caches.rows[what] = rows
        return rows

    def rows_in_contact(self, *contacts: int) -> Rows:
        """Return rows of the objects whose contact is one of these, kept until objects come or go or it changes."""
        what = _of_contact(contacts)
        rows = self.caches.rows.get(what)
        if rows is None:
            rows = self.caches.rows[what] = np.flatnonzero(np.isin(self.contact, contacts) & self.alive)
        return rows

    def changed(self, what: str) -> None:
        """Note that something changed that conditions may remember."""
        self.caches.changes[what] = self.caches.changes.get(what, 0) + 1

    def turned(self, rows: Rows) -> None:
        """Note that these objects turned."""
        self.touch_rows(rows)
        if self.program.kind_tables.any_box and self.caches.reach is not None:
            boxed = self.program.kind_tables.is_box[self.kind[rows]]
            if boxed.any():
                self.caches.reach = self._reach_anew(rows[boxed]) if len(rows) <= A_HANDFUL else None

    def _reach_anew(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]] | None:
        """Return the reach of all with that of a few worked out again; another pair, by which others know that it changed."""
        if self.caches.reach is None:
            return None
        all_wide, all_high = self.caches.reach
        if COMPILED:
            # in place: a new pair says that something has changed
            boxes.reach(
                self.program.kind_tables.boxes, self.kind, self.scale, self.angle, rows, all_wide, all_high
            )
            return all_wide, all_high
        all_wide, all_high = all_wide.copy(), all_high.copy()
        for row in rows.tolist():
            all_wide[row], all_high[row] = self._reach_of_one(row)
        return all_wide, all_high

    def _reach_of_one(self, row: int) -> tuple[float, float]:
        """`_reach_of` in plain numbers, to the same last bit."""
        boxes, kind, scale = self.program.kind_tables.boxes, self.kind.item(row), abs(self.scale.item(row))
        along, across, round_ = (boxes.item(kind, at) * scale for at in range(3))
        turned = self.angle.item(row)
        cos, sin = abs(cosd(turned)), abs(sind(turned))
        return along * cos + across * sin + round_, along * sin + across * cos + round_

    def touch_rows(self, rows: Rows) -> None:
        """Note that these objects moved, so that their contacts are looked at."""
        self.moved[self.caches.runs.get(id(rows), rows)] = True
        self.caches.any_moved = True
        asked = self.program.tick_tables.poses_asked
        if asked and len(rows) <= A_HANDFUL:
            for kind in {self.kind.item(row) for row in rows.tolist()}:
                if kind in asked:
                    self.changed(asked[kind])
        elif asked:
            for kind in np.bincount(self.kind[rows]).nonzero()[0].tolist() if len(rows) else ():
                if kind in asked:
                    self.changed(asked[kind])

    def touch_row(self, row: int) -> None:
        """Note that an object moved, so that its contacts are looked at."""
        self.moved[row] = True
        self.caches.any_moved = True
        asked = self.program.tick_tables.poses_asked
        if asked:
            what = asked.get(self.kind.item(row))
            if what is not None:
                self.changed(what)

    def turned_row(self, row: int) -> None:
        """Note that an object turned."""
        tables = self.program.kind_tables
        if tables.any_box and tables.is_box.item(self.kind.item(row)):
            self.turned(np.array([row]))
        else:
            self.touch_row(row)

    def grew(self, rows: Rows) -> None:
        """Note that these objects have another size."""
        self.touch_rows(rows)
        self.caches.reach = None
        self.caches.grids = ()

    def attached_rows(self) -> Rows:
        """Return rows of what is attached to a carrier."""
        bonds = self.movement.bonds
        if len(bonds) <= A_HANDFUL:
            there = [row for row in map(self.row_of_id, sorted(bonds)) if row >= 0]
            return np.array(there, dtype=np.int64)
        rows = self.rows_of_ids(np.array(sorted(bonds), dtype=np.int64))
        return rows[rows >= 0]

    def timer_seconds(self, name: str) -> float:
        """Return seconds a timer has run."""
        gathered, since = self.timers.get(name, (0.0, None))
        return gathered + (self.time - since if since is not None else 0.0)

    def cut_off(self, sentence: str) -> None:
        """Note that something was left out in this tick because it would have taken too long."""
        if sentence not in self.rules.cut:
            self.rules.cut = (*self.rules.cut, sentence)

    def mostly(self, rows: Rows) -> str:
        """Return the kind that most of some rows are of, by name."""
        return self.program.kinds[int(np.argmax(np.bincount(self.kind[rows])))].name

    # coming and going

    def append(self, kind: int, x: NDArray[np.float64], y: NDArray[np.float64]) -> Rows:
        """Add objects of a kind at points of shape (n,); their rows."""
        n = len(x)
        start = len(self.id)
        ids = np.arange(self.next_id, self.next_id + n, dtype=np.int64)
        self.next_id += n
        template = self.program.kinds[kind]
        given = {"id": ids, "x": x, "y": y}
        for name, column in COLUMNS.items():
            new = given[name] if name in given else column.of_kind(self.program, np.full(n, kind))
            setattr(self, name, np.concatenate((getattr(self, name), new)))
        starts = self.program.tick_tables.starts[kind]
        for name, values in self.variables.items():
            added = np.empty(n, dtype=values.dtype)
            added[:] = starts.get(name, "" if values.dtype == object else 0)
            self.variables[name] = np.concatenate((values, added))
        for tag, mask in self.tags.items():
            self.tags[tag] = np.concatenate((mask, np.full(n, tag in template.tags)))
        self.created_of.update(dict.fromkeys(ids.tolist(), kind))
        self.caches.any_moved = True
        self.structure_changed()
        return np.arange(start, start + n)

    def pack(self) -> None:
        """Drop the rows of removed objects; the rest keep their order."""
        # those removed in this tick are kept for one more: rules above hear of them then
        staying = self.alive | (self.died >= self.tick)
        keep = np.flatnonzero(staying)
        for object_id in self.id[~staying].tolist():
            self.created_of.pop(object_id, None)
        for name in COLUMNS:
            setattr(self, name, getattr(self, name)[keep])
        self.variables = {name: column[keep] for name, column in self.variables.items()}
        self.tags = {tag: mask[keep] for tag, mask in self.tags.items()}
        self.structure_changed()


_STATE = tuple(
    name for name in World.__slots__ if name not in ("program", "dt", "caches", "variables", *COLUMNS)
)
"""What a world holds beside its columns."""
PARTS: dict[str, Part] = {
    "seed": Part("seed", "", "bookkeeping"),
    "tick": Part("tick", "", "bookkeeping"),
    "time": Part("time", "", "bookkeeping"),
    "level": Part("level.", "name"),
    "next_id": Part("objects created so far", "", "bookkeeping"),
    "created_of": Part("kind", "object", "bookkeeping"),
    "items": Part("", "object and name"),
    "timers": Part("timer", "name"),
    "tags": Part("tag", "name"),
}
"""What is said of the state beside columns and records (records.py)."""


RECORDS: dict[str, type] = {
    "input": Input,
    "contacts": Contacts,
    "movement": Movement,
    "focus": Focus,
    "prompts": Prompts,
    "messages": Messages,
    "rules": Rules,
    "display": Display,
}
"""The records of a world, by name: each of their fields says what it is called."""


def check_state() -> None:
    """Raise TypeError for a property that no column stores, or a part of the state of which nothing says what it is."""
    lost = sorted(set(stored()) - set(COLUMNS))
    if lost:
        raise TypeError(f"properties of objects that no column stores: {lost}")
    unsaid = sorted(set(_STATE) ^ {*PARTS, *RECORDS})
    unsaid += [
        f"{name}.{field.name}"
        for name, record in RECORDS.items()
        for field in fields(record)
        if "part" not in field.metadata
    ]
    if unsaid:
        raise TypeError(f"nothing says what these parts of the state are called: {unsaid}")


check_state()
