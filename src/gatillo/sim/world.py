"""The state of a running level: arrays with a row for each object, in the order of their age."""

from __future__ import annotations

import copy
import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.surroundings import Rows
from gatillo.formula.compiling import column_key
from gatillo.formula.functions import half_open_degrees
from gatillo.level.model import Object, Topic
from gatillo.level.naming import token
from gatillo.level.roles import Role, type_of
from gatillo.sim.grid import Grid
from gatillo.sim.holdings import Answering, Bond, Memory, Menu, Offer, Playing, Tween, Wait
from gatillo.sim.neighbours import Neighbours
from gatillo.sim.program import Plain, Program

FIRST_CREATED_ID = 1_000_000
"""Objects placed by hand have lower ids, so that placing one more leaves the ids of created ones."""

DERIVED = frozenset({"facing", "name"})
"""Properties that are worked out, not kept."""

_NO_PAIRS = np.zeros(0, dtype=np.int64)
_NOT_KNOWN = np.zeros(0, dtype=bool)


class World:
    """Everything that can differ between two moments of a run.

    Rows stay sorted by id; a removed object keeps its row, marked dead, until rows are packed.
    """

    def __init__(self, program: Program, seed: int = 1) -> None:
        self.program = program
        self.seed = seed
        self.tick = 0
        self.time = 0.0
        self.dt = program.dt
        objects = sorted(program.level.objects, key=lambda o: o.id)
        n = len(objects)
        self.id = np.array([o.id for o in objects], dtype=np.int64)
        self.kind = np.array([program.kind_number[o.kind] for o in objects], dtype=np.int64)
        self.x = np.array([o.x for o in objects], dtype=np.float64)
        self.y = np.array([o.y for o in objects], dtype=np.float64)
        self.angle = half_open_degrees(np.array([o.angle for o in objects], dtype=np.float64))
        self.scale = np.array([o.scale for o in objects], dtype=np.float64)
        self.depth = np.array(
            [
                program.kinds[k].depth if o.depth is None else o.depth
                for k, o in zip(self.kind, objects, strict=True)
            ],
            dtype=np.float64,
        )
        self.vx = np.zeros(n)
        self.vy = np.zeros(n)
        # how it answers to forces: of its kind, until a rule changes it
        kinds = self.kind
        self.mass = program.masses[kinds]
        self.bounce = program.bounces[kinds]
        self.friction = program.frictions[kinds]
        self.gravity = program.gravities[kinds]
        self.contact = program.contacts[kinds]
        self.grounded = np.zeros(n, dtype=bool)
        # lies still on another (by id): not moved and not looked at until something happens to either
        self.asleep = np.zeros(n, dtype=bool)
        self.rests_on = np.zeros(n, dtype=np.int64)
        # ids of what was left overlapping, since it was too much for a tick
        self.unparted = _NO_PAIRS
        # where everything stood before it moved in this tick
        self.before = self.x, self.y
        # by row: what moved in the tick before, for those that lie on it; empty when objects came or went
        self.stirred: NDArray[np.bool_] = _NOT_KNOWN
        self.shown = np.array([o.shown for o in objects], dtype=bool)
        self.alive = np.ones(n, dtype=bool)
        self.died = np.zeros(n, dtype=np.int64)
        self.moved = np.ones(n, dtype=bool)
        self.variables: dict[str, NDArray[Any]] = {
            name: np.empty(n, dtype=kind) if kind is object else np.zeros(n, dtype=kind)
            for name, kind in program.columns.items()
        }
        for column in self.variables.values():
            if column.dtype == object:
                column[:] = ""
        for row, thing in enumerate(objects):
            for name, value in program.starts[self.kind[row]].items():
                self.variables[name][row] = value
            for name, value in thing.values.items():
                key = column_key(token(name), type_of(value))
                if key in self.variables:
                    self.variables[key][row] = program.plain(value)
            for column_name, own in program.own_settings.get(thing.id, {}).items():
                self.variables[column_name][row] = own
        # by tag: who carries it; of tags that nobody has asked for yet nothing is kept
        self.tags: dict[str, NDArray[np.bool_]] = {}
        self.level: dict[str, Plain] = {
            token(v.name): program.plain(v.value) for v in program.level.variables
        }
        self.next_id = FIRST_CREATED_ID
        self.created_of: dict[int, int] = {}
        # contact pairs as id_a << 32 | id_b with id_a < id_b, sorted
        self.touching = _NO_PAIRS
        self.begun = _NO_PAIRS
        self.ended = _NO_PAIRS
        # pairs that solid bodies parted in this tick, as ids like those above
        self.hits: tuple[NDArray[np.int64], ...] = ()
        self.any_moved = True
        self.held: frozenset[str] = frozenset()
        self.pressed: frozenset[str] = frozenset()
        self.released: frozenset[str] = frozenset()
        # those that were held in this tick only
        self.tapped: frozenset[str] = frozenset()
        self.pointer_x = 0.0
        self.pointer_y = 0.0
        self.pointer_moved = False
        # ids under the pointer, front-most first, in this tick and the one before
        self.under: tuple[int, ...] = ()
        self.was_under: tuple[int, ...] = ()
        # ids in each area that a rule asks about, sorted, in this tick and the one before
        self.inside: dict[str, NDArray[np.int64]] = {}
        self.was_inside: dict[str, NDArray[np.int64]] = {}
        self.timers: dict[str, tuple[float, float | None]] = {}
        self.tweens: tuple[Tween, ...] = ()
        self.bonds: dict[int, Bond] = {}
        self._attach_from_start(objects)
        self.playing: tuple[Playing, ...] = ()
        self.clip_ends: tuple[tuple[str, int], ...] = ()
        # who arrived where in this tick: what (goal, stop, end), id, number of the stop
        self.arrivals: tuple[tuple[str, int, int], ...] = ()
        # by id of who looks: the id of what has its focus, and what changed in this tick
        self.focus: dict[int, int] = {}
        self.focus_events: tuple[tuple[str, int, int], ...] = ()
        # prompts: offered now, whose key is held (by answerer and key), resting until (s), what happened
        self.offers: tuple[Offer, ...] = ()
        # who could answer which prompt, as things stood when something last stirred
        self.answerable: tuple[Any, ...] = ()
        self.answering: dict[tuple[int, str], Answering] = {}
        self.prompt_rests: dict[int, float] = {}
        self.prompt_events: tuple[tuple[str, int, int, str], ...] = ()
        self.menu: Menu | None = None
        self.chosen_entry = ""
        self.items: dict[tuple[int, str], float] = {}
        self.colours: dict[int, str] = {}
        self.switched: dict[str, bool] = {}
        self.fired_at: dict[int, int] = {}
        self.notes: dict[tuple[Any, ...], Any] = {}
        self.telling = ""
        # with whom the player talks, by id (0: with nobody), and the topic chosen in this tick
        self.talking = 0
        self.chosen = ""
        self.over = False
        self.outbox: dict[str, int] = {}
        self.heard: dict[str, int] = {}
        # by message: the number that each sender (by id) sent with it
        self.sent_from: dict[str, dict[int, float]] = {}
        self.heard_from: dict[str, dict[int, float]] = {}
        self.sayings: dict[int, tuple[str, float]] = {}
        self.waits: list[Wait] = []
        self.serial = 0
        self.alarms: list[tuple[float, int]] = []
        self.memory: dict[int, Memory] = {}
        # what was cut off in this tick because it would have taken too long: sentences, told as faults
        self.cut: tuple[str, ...] = ()
        self.created_now = 0
        self.sent_now = 0
        # how often each thing that remembering conditions depend on has changed, and what they kept
        self.changes: dict[str, int] = {}
        self.kept: dict[int, Any] = {}
        self.whole: dict[tuple[str, ...], Any] = {}
        self._rows: dict[str, Rows] = {}
        # by the identity of an array in _rows, which keeps it alive: the slice that it is
        self.runs: dict[int, slice] = {}
        self._members: dict[str, NDArray[np.bool_]] = {}
        self._reach: tuple[NDArray[np.float64], NDArray[np.float64]] | None = None
        # kept by the contact search from tick to tick; what it finds does not depend on them
        self.grids: tuple[tuple[Rows, Grid, NDArray[np.bool_]], ...] = ()
        self.neighbours: tuple[Neighbours, ...] = ()
        self.lists_rest_until = 0
        self.crowded = False
        self.sizes: tuple[Rows, object, tuple[Rows, Rows, float]] | None = None

    def _attach_from_start(self, objects: list[Object]) -> None:
        """Bonds that the level is laid out with; each keeps the offset at which it was laid out."""
        rows = {thing.name: row for row, thing in enumerate(objects)}
        for thing in objects:
            if thing.attached in rows:
                carrier = rows[thing.attached]
                self.bonds[thing.id] = self.bond(rows[thing.name], carrier, keep_offset=True, lag=0.0)

    def bond(self, row: int, carrier: int, *, keep_offset: bool, lag: float) -> Bond:
        """The bond of an object to its carrier as they stand now."""
        if not keep_offset:
            return Bond(self.id.item(carrier), 0.0, 0.0, 0.0, lag)
        turned = math.radians(self.angle.item(carrier))
        dx, dy = self.x.item(row) - self.x.item(carrier), self.y.item(row) - self.y.item(carrier)
        along = dx * math.cos(turned) + dy * math.sin(turned)
        across = dy * math.cos(turned) - dx * math.sin(turned)
        return Bond(
            self.id.item(carrier), along, across, self.angle.item(row) - self.angle.item(carrier), lag
        )

    def held_ahead(self, row: int, carrier: int, ahead: float, lag: float) -> Bond:
        """The bond of an object that is carried so far ahead of where its carrier faces."""
        facing = math.radians(float(self.program.drawn_facing[self.kind[carrier]]))
        along, across = ahead * math.cos(facing), ahead * math.sin(facing)
        turn = self.angle.item(row) - self.angle.item(carrier)
        return Bond(self.id.item(carrier), along, across, turn, lag, held=True)

    COLUMNS = (
        "id",
        "kind",
        "x",
        "y",
        "angle",
        "scale",
        "depth",
        "vx",
        "vy",
        "mass",
        "bounce",
        "friction",
        "gravity",
        "contact",
        "grounded",
        "asleep",
        "rests_on",
        "shown",
        "alive",
        "died",
        "moved",
    )

    def clone(self) -> World:
        """A copy that can run on without touching this one."""
        other = copy.copy(self)
        for name in self.COLUMNS:
            setattr(other, name, getattr(self, name).copy())
        other.variables = {name: column.copy() for name, column in self.variables.items()}
        other.tags = dict(self.tags)
        other.level = dict(self.level)
        other.created_of = dict(self.created_of)
        other.sayings = dict(self.sayings)
        other.waits = list(self.waits)
        other.alarms = list(self.alarms)
        other.memory = {turn: memory.copy() for turn, memory in self.memory.items()}
        for name in (
            "inside",
            "was_inside",
            "timers",
            "bonds",
            "items",
            "colours",
            "switched",
            "fired_at",
            "focus",
            "notes",
            "sent_from",
            "heard_from",
        ):
            setattr(other, name, dict(getattr(self, name)))
        other.outbox = dict(self.outbox)
        other.heard = dict(self.heard)
        other._rows = dict(self._rows)
        other.runs = dict(self.runs)
        other.changes = dict(self.changes)
        other.kept, other.whole = {}, {}
        other._members = dict(self._members)
        return other

    # who is there

    def rows_of(self, role: Role) -> Rows:
        """Rows of all objects that a role can stand for, oldest first."""
        rows = self._rows.get(role.token)
        if rows is None:
            rows = self._rows[role.token] = np.flatnonzero(self.member(role))
            self._note_run(rows)
        return rows

    def rows_of_kind(self, kind: int) -> Rows:
        name = f"#{kind}"
        rows = self._rows.get(name)
        if rows is None:
            rows = self._rows[name] = np.flatnonzero((self.kind == kind) & self.alive)
            self._note_run(rows)
        return rows

    def rows_with(self, kind: int, on: str, name: str) -> Rows:
        """Rows of a kind's objects for which a yes/no column is yes, kept as `name` until that or who is there changes."""
        rows = self._rows.get(name)
        if rows is None:
            rows = self.rows_of_kind(kind)
            yes = self.variables[on][rows]
            if not yes.all():
                rows = rows[yes]
                self._note_run(rows)
            self._rows[name] = rows
        return rows

    def switched_behaviour(self, on: str) -> None:
        """Note that a behaviour was switched: forgets who has it on."""
        for name in [n for n in self._rows if n.endswith(f" {on}")]:
            gone = self._rows.pop(name)
            # another array may get its identity
            if not any(gone is kept for kept in self._rows.values()):
                self.runs.pop(id(gone), None)
        self.any_moved = True

    def _note_run(self, rows: Rows) -> None:
        # rows that follow one another without a gap are read as a slice: nothing is copied
        if len(rows) and rows[-1] - rows[0] + 1 == len(rows):
            self.runs[id(rows)] = slice(int(rows[0]), int(rows[-1]) + 1)

    def member(self, role: Role) -> NDArray[np.bool_]:
        """For each row, whether the role can stand for it."""
        mask = self._members.get(role.token)
        if mask is None:
            if role.source == "all":
                mask = self.alive.copy()
            elif role.source == "tag":
                mask = self.tagged(role.of) & self.alive
            elif role.source == "object":
                mask = (self.id == self.program.index.objects[role.of].id) & self.alive
            else:
                mask = (self.kind == self.program.kind_number[role.of]) & self.alive
            self._members[role.token] = mask
        return mask

    def tagged(self, tag: str) -> NDArray[np.bool_]:
        """For each row, whether it carries a tag: its kind's, its own, or one that a rule has given it."""
        mask = self.tags.get(tag)
        if mask is None:
            of_kinds, own = self.program.carriers_of(tag)
            mask = self.tags[tag] = of_kinds[self.kind] | np.isin(self.id, own)
        return mask

    def structure_changed(self) -> None:
        """To be called when objects come or go: forgets who is there."""
        self._rows.clear()
        self.runs.clear()
        self.whole.clear()
        self.changed("there")
        self._members.clear()
        self._reach = None
        self.grids = ()
        self.neighbours = ()
        self.crowded = False
        self.sizes = None
        self.stirred = _NOT_KNOWN

    def rows_of_ids(self, ids: NDArray[np.int64]) -> Rows:
        """Row of each id, -1 where that object is gone."""
        if len(ids) == 1 or not len(self.id):
            return np.array([self.row_of_id(i) for i in ids.tolist()], dtype=np.int64)
        at = np.minimum(self.id.searchsorted(ids), len(self.id) - 1)
        return np.where((self.id[at] == ids) & self.alive[at], at, -1)

    def row_of_id(self, object_id: int) -> int:
        """Row of one id, -1 where that object is gone."""
        at = int(self.id.searchsorted(object_id))
        there = at < len(self.id) and self.id.item(at) == object_id and self.alive.item(at)
        return at if there else -1

    def name_of(self, object_id: int) -> str:
        """What an object is called: its own name, or its kind and number if a rule created it."""
        found = self.program.names.get(object_id)
        if found is not None:
            return found
        kind = self.program.kinds[self.created_of[object_id]].name
        return f"{kind} +{object_id - FIRST_CREATED_ID + 1}"

    # values

    def values_of(self, rows: Rows, key: str) -> Any:
        """A property or variable of some rows, one value each."""
        column = self.variables.get(key)
        if column is not None:
            return column.take(rows)
        if key == "facing":
            return half_open_degrees(self.angle[rows] + self.program.drawn_facing[self.kind[rows]])
        if key == "name":
            names = np.empty(len(rows), dtype=object)
            names[:] = [self.name_of(i) for i in self.id[rows].tolist()]
            return names
        return getattr(self, key).take(rows)

    def reach(self) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Half width and half height of the upright box about each row's shape, shape (rows,) each."""
        if self._reach is None:
            sizes = self.program.boxes[self.kind] * np.abs(self.scale)[:, None]
            turned = np.radians(self.angle)
            cos, sin = np.abs(np.cos(turned)), np.abs(np.sin(turned))
            self._reach = (
                sizes[:, 0] * cos + sizes[:, 1] * sin + sizes[:, 2],
                sizes[:, 0] * sin + sizes[:, 1] * cos + sizes[:, 2],
            )
        return self._reach

    def rows_where(self, what: str, of_kind: NDArray[np.bool_]) -> Rows:
        """Rows of the objects whose kind has a property, kept under `what` until objects come or go."""
        rows = self._rows.get(what)
        if rows is None:
            rows = self._rows[what] = np.flatnonzero(of_kind[self.kind] & self.alive)
        return rows

    def rows_known(self, what: str) -> Rows | None:
        """Rows kept under a name since objects came or went last."""
        return self._rows.get(what)

    def know_rows(self, what: str, rows: Rows) -> Rows:
        """Keep rows under a name until objects come or go."""
        self._rows[what] = rows
        return rows

    def rows_in_contact(self, *contacts: int) -> Rows:
        """Rows of the objects whose contact is one of these, kept until objects come or go or it changes."""
        what = f"contact {contacts}"
        rows = self._rows.get(what)
        if rows is None:
            rows = self._rows[what] = np.flatnonzero(np.isin(self.contact, contacts) & self.alive)
        return rows

    def changed(self, what: str) -> None:
        """Note that something changed that conditions may remember."""
        self.changes[what] = self.changes.get(what, 0) + 1

    def turned(self, rows: Rows) -> None:
        """Note that these objects turned."""
        self.touch_rows(rows)
        if self.program.any_box and self._reach is not None and self.program.is_box[self.kind[rows]].any():
            self._reach = None

    def touch_rows(self, rows: Rows) -> None:
        """Note that these objects moved, so that their contacts are looked at."""
        self.moved[rows] = True
        self.any_moved = True
        asked = self.program.poses_asked
        if asked:
            for kind in np.bincount(self.kind[rows]).nonzero()[0].tolist() if len(rows) else ():
                if kind in asked:
                    self.changed(asked[kind])

    def grew(self, rows: Rows) -> None:
        """Note that these objects have another size."""
        self.touch_rows(rows)
        self._reach = None
        self.grids = ()

    def topics(self) -> tuple[Topic, ...]:
        """What the player can talk about now."""
        row = self.row_of_id(self.talking) if self.talking else -1
        if row < 0:
            return ()
        kind = self.kind.item(row)
        offered = self.program.topic_conditions[kind]
        return tuple(
            topic
            for topic, asked in zip(self.program.kinds[kind].topics, offered, strict=True)
            if asked is None or self.holds_for(row, asked)
        )

    def holds_for(self, row: int, asked: Any) -> bool:
        """Whether a formula about one object, by its kind's name, holds for it; one without an answer does not."""
        from gatillo.sim.matching import Matches, View

        token_of_kind = self.program.kind_tokens[self.kind.item(row)]
        view = View(self, Matches(1, {token_of_kind: np.array([row], dtype=np.int64)}), 0)
        return bool(np.all(asked.evaluate(view))) and not view.faults

    def choices(self) -> tuple[int, tuple[str, ...]]:
        """What the player can choose now, and the id of what offers it: a menu's entries, or topics."""
        if self.menu is not None:
            return self.menu.prompt, self.menu.entries
        return self.talking, tuple(topic.name for topic in self.topics())

    def timer_seconds(self, name: str) -> float:
        """Seconds a timer has run."""
        gathered, since = self.timers.get(name, (0.0, None))
        return gathered + (self.time - since if since is not None else 0.0)

    def cut_off(self, sentence: str) -> None:
        """Note that something was left out in this tick because it would have taken too long."""
        if sentence not in self.cut:
            self.cut = (*self.cut, sentence)

    def mostly(self, rows: Rows) -> str:
        """The kind that most of some rows are of, by name."""
        return self.program.kinds[int(np.argmax(np.bincount(self.kind[rows])))].name

    # coming and going

    def append(self, kind: int, x: NDArray[np.float64], y: NDArray[np.float64]) -> Rows:
        """Add objects of a kind at points of shape (n,); their rows."""
        n = len(x)
        start = len(self.id)
        ids = np.arange(self.next_id, self.next_id + n, dtype=np.int64)
        self.next_id += n
        template = self.program.kinds[kind]
        new: dict[str, Any] = {
            "id": ids,
            "kind": np.full(n, kind),
            "x": x,
            "y": y,
            "angle": np.zeros(n),
            "scale": np.ones(n),
            "depth": np.full(n, template.depth),
            "vx": np.zeros(n),
            "vy": np.zeros(n),
            "mass": np.full(n, self.program.masses[kind]),
            "bounce": np.full(n, self.program.bounces[kind]),
            "friction": np.full(n, self.program.frictions[kind]),
            "gravity": np.full(n, self.program.gravities[kind]),
            "contact": np.full(n, self.program.contacts[kind]),
            "grounded": np.zeros(n, dtype=bool),
            "asleep": np.zeros(n, dtype=bool),
            "rests_on": np.zeros(n, dtype=np.int64),
            "shown": np.ones(n, dtype=bool),
            "alive": np.ones(n, dtype=bool),
            "died": np.zeros(n, dtype=np.int64),
            "moved": np.ones(n, dtype=bool),
        }
        for name in self.COLUMNS:
            setattr(self, name, np.concatenate((getattr(self, name), new[name])))
        starts = self.program.starts[kind]
        for name, column in self.variables.items():
            added = np.empty(n, dtype=column.dtype)
            added[:] = starts.get(name, "" if column.dtype == object else 0)
            self.variables[name] = np.concatenate((column, added))
        for tag, mask in self.tags.items():
            self.tags[tag] = np.concatenate((mask, np.full(n, tag in template.tags)))
        self.created_of.update(dict.fromkeys(ids.tolist(), kind))
        self.any_moved = True
        self.structure_changed()
        return np.arange(start, start + n)

    def pack(self) -> None:
        """Drop the rows of removed objects; the rest keep their order."""
        # those removed in this tick are kept for one more: rules above hear of them then
        staying = self.alive | (self.died >= self.tick)
        keep = np.flatnonzero(staying)
        for object_id in self.id[~staying].tolist():
            self.created_of.pop(object_id, None)
        for name in self.COLUMNS:
            setattr(self, name, getattr(self, name)[keep])
        self.variables = {name: column[keep] for name, column in self.variables.items()}
        self.tags = {tag: mask[keep] for tag, mask in self.tags.items()}
        self.structure_changed()

    def state_bytes(self) -> bytes:
        """The whole state as bytes, for comparing two worlds."""
        parts = [str((self.tick, sorted(self.level.items()), sorted(self.sayings.items()), self.next_id))]
        parts.append(str([(w.due, w.serial, w.turn, w.line, w.n) for w in self.waits]))
        parts.append(str((sorted(self.outbox.items()), self.alarms, sorted(self.held))))
        parts.append(str((sorted(self.items.items()), sorted(self.timers.items()), sorted(self.bonds))))
        parts.append(str((self.playing, self.offers, sorted(self.answering.items()), self.menu)))
        parts.append(str((sorted(self.prompt_rests.items()), self.prompt_events)))
        parts.append(str((self.arrivals, sorted(self.focus.items()), self.focus_events)))
        live = self.alive
        arrays = [getattr(self, name)[live] for name in self.COLUMNS]
        arrays += [self.variables[name][live] for name in sorted(self.variables)]
        raw = [a.tobytes() if a.dtype != object else str(a.tolist()).encode() for a in arrays]
        return "|".join(parts).encode() + b"".join(raw) + self.touching.tobytes()
