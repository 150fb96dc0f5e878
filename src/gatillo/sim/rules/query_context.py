"""The world as occasions and conditions see it: implements `QueryApi`."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Candidates, Numbers, Rows, Watched
from gatillo.formula.functions import inside_area
from gatillo.formula.values import spread
from gatillo.level.naming import token
from gatillo.level.roles import Role
from gatillo.sim.collision.contacts import contact_candidates, pair_codes
from gatillo.sim.collision.raycast import clear_to, clear_views, first_hits
from gatillo.sim.interaction.focus import focus_changes, has_focus
from gatillo.sim.interaction.prompts import are_offered, prompt_events
from gatillo.sim.matching.match_table import View
from gatillo.sim.motion.clips import clip_ended
from gatillo.sim.program.bodies import FIXED, MOVABLE, SENSED, on_column
from gatillo.sim.rules.work import A_MEETING, FEW_RAYS
from gatillo.sim.world.world import FIRST_CREATED_ID, World

Ids = NDArray[np.int64]
Yes = NDArray[np.bool_]
_LEVEL_ID = np.zeros(1, dtype=np.int64)


class QueryContext(QueryApi):
    """Answers what a line asks; `line` says which line that is, `view` over which matches."""

    def __init__(self, world: World) -> None:
        self.world = world
        self.tick = world.tick
        self.dt = world.dt
        self.rate = world.program.rate
        self.pointer_moved = world.input.pointer_moved
        self.chosen = world.prompts.topic
        self.line: tuple[int, str, int] = (0, "", 0)
        self.view: View | None = None
        self.spent = 0
        """What has been done for rays, in matches looked at (work.py)."""

    @property
    def in_conversation(self) -> bool:
        return self.world.prompts.talking != 0

    def talker(self, role: Role) -> Rows:
        return self._members([self.world.prompts.talking] if self.world.prompts.talking else [], role)

    def recall(self, otherwise: Any) -> Any:
        return self.world.rules.lines.get(self.line, otherwise)

    def remember(self, value: Any) -> None:
        self.world.rules.lines[self.line] = value

    def key_state(self, key: str) -> tuple[bool, bool, bool]:
        return key in self.world.input.pressed, key in self.world.input.held, key in self.world.input.released

    # objects

    def rows_of(self, role: Role) -> Rows:
        return self.world.rows_of(role)

    def ids(self, rows: Rows) -> Ids:
        return self.world.id[rows]

    def rows(self, ids: Ids) -> Rows:
        return self.world.rows_of_ids(ids)

    def place(self, rows: Rows) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        return self.world.x[rows], self.world.y[rows]

    def facing(self, rows: Rows) -> NDArray[np.float64]:
        found: NDArray[np.float64] = self.world.values_of(rows, "facing")
        return found

    def property(self, rows: Rows, name: str) -> Any:
        return self.world.values_of(rows, name)

    def of_kind(self, rows: Rows, kind: str) -> Yes:
        return np.asarray(self.world.kind[rows] == self.world.program.kind_number[kind])

    def tagged(self, rows: Rows, tag: str) -> Yes:
        return self.world.tagged(tag)[rows]

    def shows_look(self, rows: Rows, look: str) -> Yes:
        shown = self.world.display.looks
        return np.fromiter((shown.get(i) == look for i in self.world.id[rows].tolist()), bool, len(rows))

    def attached(self, a: Rows, b: Rows) -> Yes:
        bonds, ids = self.world.movement.bonds, self.world.id
        pairs = zip(ids[a].tolist(), ids[b].tolist(), strict=True)
        return np.fromiter((one in bonds and bonds[one].carrier == other for one, other in pairs), dtype=bool)

    def items(self, rows: Rows, item: str) -> NDArray[np.float64]:
        held = self.world.items
        return np.array([held.get((i, item), 0.0) for i in self.world.id[rows].tolist()])

    def values(self, watched: Watched) -> tuple[Ids, Any]:
        return _values_in(self.world, watched)

    def laid_out(self, watched: Watched) -> tuple[Ids, Any]:
        caches, program = self.world.caches, self.world.program
        if caches.laid_out is None or caches.laid_out.program is not program:
            caches.laid_out = World(program, self.world.seed)
        return _values_in(caches.laid_out, watched)

    # coming and going

    def created_since(self, first_id: int, role: Role) -> tuple[int, Rows]:
        rows = self.world.rows_of(role)
        return self.world.next_id, rows[self.world.id[rows] >= max(first_id, FIRST_CREATED_ID)]

    def removed_since(self, tick: int, role: Role) -> Rows:
        world = self.world
        # what this rule's own tick removed after its turn is reported at its next one
        gone = (~world.alive & (world.died >= max(tick, 1))).nonzero()[0]
        heard = world.rules.lines.get((*self.line, "told"), frozenset())
        meant = world.meant(role)
        mine = [row for row in gone.tolist() if world.id.item(row) not in heard and meant[row]]
        world.rules.lines[(*self.line, "told")] = frozenset(world.id[gone].tolist())
        return np.array(mine, dtype=np.int64)

    # prompts, behaviours, clips

    def prompts(self, what: str, a: Role, by: Role, entry: str) -> tuple[Rows, Rows]:
        return prompt_events(self.world, what, a, by, entry)

    def are_offered(self, a: Rows, by: Rows) -> Yes:
        return are_offered(self.world, a, by)

    def behaves(self, rows: Rows, behaviour: str) -> Yes:
        world = self.world
        name = token(behaviour)
        kinds = {b.kind for b in world.program.behaviours if b.entry.name == name}
        column = world.variables.get(on_column(name))
        if column is None:
            # the behaviour has an error on every kind that uses it, so there is no column
            return np.zeros(len(rows), dtype=bool)
        on: Yes = column[rows]
        return np.isin(world.kind[rows], list(kinds)) & on

    def arrived(self, what: str, role: Role) -> tuple[Rows, Ids]:
        found = [(i, number) for kind, i, number in self.world.movement.arrivals if kind == what]
        if not found:
            return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
        ids, numbers = (np.array(part, dtype=np.int64) for part in zip(*found, strict=True))
        rows = self.world.rows_of_ids(ids)
        there = rows >= 0
        there[there] = self.world.member(role)[rows[there]]
        order = np.lexsort((numbers[there], rows[there]))
        return rows[there][order], numbers[there][order]

    def focus_changes(self, what: str, a: Role, by: Role) -> tuple[Rows, Rows]:
        return focus_changes(self.world, what, a, by)

    def has_focus(self, a: Rows, by: Rows) -> Yes:
        return has_focus(self.world, a, by)

    def clip_ended(self, clip: str, role: Role) -> Rows:
        return clip_ended(self.world, clip, role)

    # contact, pointer, areas

    def contacts(self, state: str, a: Role, b: Role) -> Candidates:
        return contact_candidates(self.world, state, a, b)

    def are_touching(self, a: Rows, b: Rows) -> Yes:
        one, other = self.world.id[a], self.world.id[b]
        codes = pair_codes(one, other)
        return np.isin(codes, self.world.contacts.touching)

    def under(self, role: Role, front_only: bool) -> Rows:
        rows = self._members(self.world.input.under, role)
        # several match in the order of their age, as everywhere
        return rows[:1] if front_only else np.sort(rows)

    def under_ids(self) -> Ids:
        return np.array(self.world.input.under, dtype=np.int64)

    def over_changes(self, role: Role) -> tuple[Rows, Rows]:
        now, before = self.world.input.under, self.world.input.was_under
        come, gone = (sorted(set(a) - set(b)) for a, b in ((now, before), (before, now)))
        return self._members(come, role), self._members(gone, role)

    def _members(self, ids: Any, role: Role) -> Rows:
        rows = self.world.rows_of_ids(np.array(ids, dtype=np.int64))
        rows = rows[rows >= 0]
        return rows[self.world.member(role)[rows]]

    def in_area(self, state: str, role: Role, area: str) -> Rows:
        empty = np.zeros(0, dtype=np.int64)
        now = self.world.contacts.inside.get(area, empty)
        if state != "in":
            before = self.world.contacts.was_inside.get(area, empty)
            a, b = (now, before) if state == "entered" else (before, now)
            now = np.setdiff1d(a, b, assume_unique=True)
        return self._members(now, role)

    def were_in(self, role: Role, area: str) -> int:
        before = self.world.contacts.was_inside.get(area)
        if before is None:
            return 0
        # one that has gone since was there all the same
        return int(np.count_nonzero(self.world.meant(role) & np.isin(self.world.id, before)))

    def inside(self, rows: Rows, area: str) -> Yes:
        return np.asarray(
            inside_area(self.world.program.index.areas[area], self.world.x[rows], self.world.y[rows])
        )

    def count(self, kind: str, area: str | None) -> int:
        rows = self.world.rows_of_kind(self.world.program.kind_number[kind])
        return len(rows) if area is None else int(np.count_nonzero(self.inside(rows, area)))

    def first_hit(self, rows: Rows, angle: Numbers, reach: Numbers) -> Rows:
        if len(rows) > FEW_RAYS:
            self.spent += len(rows) * len(self.world.rows_in_contact(SENSED, MOVABLE, FIXED)) // A_MEETING
        return first_hits(self.world, rows, self.facing(rows) + angle, reach)

    def clear_view(self, a: Rows, b: Rows) -> Yes:
        if len(a) > FEW_RAYS:
            self.spent += len(a) * len(self.world.rows_in_contact(FIXED)) // A_MEETING
        return clear_views(self.world, a, b)

    def clear_view_to(self, a: Rows, x: Numbers, y: Numbers) -> Yes:
        if len(a) > FEW_RAYS:
            self.spent += len(a) * len(self.world.rows_in_contact(FIXED)) // A_MEETING
        return clear_to(self.world, a, spread(x, len(a)), spread(y, len(a)))

    # rules and time

    def senders(self, message: str, role: Role) -> Rows:
        ids = self.world.messages.heard_from.get(message, {})
        rows = self._members(sorted(ids), role)
        return rows

    def sent_numbers(self, message: str, rows: Rows) -> NDArray[np.float64]:
        sent = self.world.messages.heard_from.get(message, {})
        return np.array([sent.get(i, 0.0) for i in self.world.id[rows].tolist()], dtype=np.float64)

    def heard(self, message: str) -> int:
        return self.world.messages.heard.get(message, 0)

    def last_fired(self, rule: str) -> int:
        return self.world.rules.fired_at.get(self.world.program.index.rule_names[rule], 0)

    def timer(self, name: str) -> float:
        return self.world.timer_seconds(name)

    def matches(self) -> int:
        assert self.view is not None
        return self.view.n

    def draw(self) -> NDArray[np.float64]:
        assert self.view is not None
        return self.view.draw(1 << 40)


def _values_in(world: World, watched: Watched) -> tuple[Ids, Any]:
    if watched.role is None:
        value = world.level[watched.name]
        return _LEVEL_ID, np.array([value], dtype=object if isinstance(value, str) else None)
    rows = world.rows_of(watched.role)
    return world.id[rows], world.values_of(rows, watched.name).copy()
