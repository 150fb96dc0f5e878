"""Prompts, settled in the Contact phase: which prompt is offered to which object, and what the held keys complete.

An answerer is offered, for each key, the nearest prompt that can be answered (the older of two equally
near ones). While the key is held it stays the same prompt for as long as it can be answered.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.prompts import PromptApi
from gatillo.catalogue.contexts.values import Numbers, PromptTerms, Rows
from gatillo.kernels.mathematics import length
from gatillo.level.roles import Role
from gatillo.sim.collision.proximity import within_reach
from gatillo.sim.collision.raycast import clear_views
from gatillo.sim.interaction.talk import holds_for
from gatillo.sim.matching.match_table import Matches, View
from gatillo.sim.motion.by_kernel import asked_by_kernel
from gatillo.sim.program.bodies import Behaviour
from gatillo.sim.world.records import Answering, Menu, Offer
from gatillo.sim.world.world import World

FEW_PAIRS = 64
"""Up to so many prompts times answerers are looked at one by one."""
_NOBODY = np.zeros(0, dtype=np.int64)


@dataclass(frozen=True, slots=True)
class _Term:
    """One prompt and one who could answer it now."""

    prompt: int
    by: int
    away: float
    terms: PromptTerms
    hold: float
    rest: float
    behaviour: int


class PromptContext(PromptApi):
    """The prompts offered in a tick: implements `PromptApi`."""

    def __init__(self, world: World) -> None:
        self.world = world
        self.can: list[_Term] = []
        self.behaviour = 0

    def offer(self, rows: Rows, terms: PromptTerms, hold: Numbers, reach: Numbers, rest: Numbers) -> None:
        """Note who could answer the prompts of these objects."""
        world, whom = self.world, self.world.rows_of(terms.by)
        if len(rows) * len(whom) <= FEW_PAIRS:
            near = self._few_near(rows, whom, reach)
        else:
            most = world.program.level.settings.most_matches
            at, answerers, _ = within_reach(world, rows, whom, reach, most)
            near = list(zip(at.tolist(), rows[at].tolist(), answerers.tolist(), strict=True))
        near = [one for one in near if one[1] != one[2] and world.shown.item(one[1])]
        if terms.clear_view and near:
            _, prompts, answerers = np.array(near, dtype=np.int64).T
            clear = clear_views(world, answerers, prompts).tolist()
            near = [one for one, sees in zip(near, clear, strict=True) if sees]
        for position, row, by in near:
            away = length(world.x.item(row) - world.x.item(by), world.y.item(row) - world.y.item(by))
            self.can.append(
                _Term(
                    world.id.item(row),
                    world.id.item(by),
                    away,
                    terms,
                    float(hold[position]),
                    float(rest[position]),
                    self.behaviour,
                )
            )

    def _few_near(self, rows: Rows, whom: Rows, reach: Numbers) -> list[tuple[int, int, int]]:
        """Return which of a few prompts are within reach of whom: its position, its row and that of the answerer."""
        world, answerers = self.world, whom.tolist()
        found = []
        for position, row in enumerate(rows.tolist()):
            x, y, far = world.x.item(row), world.y.item(row), reach[position]
            found += [
                (position, row, by)
                for by in answerers
                if length(x - world.x.item(by), y - world.y.item(by)) <= far
            ]
        return found


def settle_prompts(world: World, behaviours: list[tuple[int, Behaviour, Rows]]) -> None:
    """Offer, begin, complete and break off prompts in this tick.

    `behaviours` are the level's prompts: number, behaviour, and rows of those that have it switched on.
    """
    if world.caches.any_moved:
        offering = PromptContext(world)
        for number, behaviour, rows in behaviours:
            if asked_by_kernel(world, behaviour, rows) == 0:
                continue
            offering.behaviour = number
            settings = {name: world.variables[column][rows] for name, column in behaviour.columns.items()}
            behaviour.entry.compute(offering, rows, **behaviour.words, **settings)
        # the nearest first, of equally near ones the older
        world.prompts.answerable = tuple(sorted(offering.can, key=lambda t: (t.away, t.prompt)))
    terms: tuple[_Term, ...] = world.prompts.answerable
    prompts = world.prompts
    if not (terms or prompts.answering or prompts.menu is not None or prompts.rests):
        # nothing is offered, under way or resting
        prompts.events = prompts.offers = ()
        return
    idle = not (prompts.answering or prompts.menu is not None or prompts.rests)
    if idle and not any(term.terms.key in world.input.pressed for term in terms):
        # nothing begins, goes on or ends: of each key the nearest is offered
        first: dict[tuple[int, str], _Term] = {}
        for term in terms:
            first.setdefault((term.by, term.terms.key), term)
        prompts.events = ()
        prompts.offers = tuple(
            Offer(t.prompt, by, key, None, t.hold, t.behaviour) for (by, key), t in sorted(first.items())
        )
        return
    events: list[tuple[str, int, int, str]] = []
    can = {(term.by, term.terms.key, term.prompt): term for term in terms}
    going = _go_on(world, can, events)
    # the press that leaves a menu does not open it again
    busy = set(going) | (
        {(world.prompts.menu.by, world.prompts.menu.key)} if world.prompts.menu is not None else set()
    )
    _answer_menu(world, can, events)
    rests = {p: until for p, until in world.prompts.rests.items() if until > world.time + 1e-9}
    nearest: dict[tuple[int, str], _Term] = {}
    for term in terms:
        if term.prompt not in rests and (term.by, term.terms.key) not in busy:
            nearest.setdefault((term.by, term.terms.key), term)
    opened: Menu | None = world.prompts.menu
    for (by, key), term in sorted(nearest.items()):
        if key not in world.input.pressed:
            continue
        events.append(("begun", term.prompt, by, ""))
        going[(by, key)] = Answering(term.prompt, world.time, term.hold)
    still: dict[tuple[int, str], Answering] = {}
    for (by, key), answering in sorted(going.items()):
        if world.time - answering.since < answering.hold - 1e-9:
            still[(by, key)] = answering
            continue
        term = can[(by, key, answering.prompt)]
        events.append(("completed", answering.prompt, by, ""))
        if term.rest > 0:
            rests[answering.prompt] = world.time + term.rest
        entries = _offered_entries(world, answering.prompt, term.terms.entries)
        if entries:
            opened = Menu(answering.prompt, by, key, entries)
        nearest.pop((by, key), None)
    world.prompts.answering, world.prompts.rests, world.prompts.menu = still, rests, opened
    world.prompts.events = tuple(events)
    world.prompts.offers = tuple(
        [
            Offer(a.prompt, by, key, a.since, a.hold, can[(by, key, a.prompt)].behaviour)
            for (by, key), a in still.items()
        ]
        + [
            Offer(t.prompt, by, key, None, t.hold, t.behaviour)
            for (by, key), t in sorted(nearest.items())
            if (by, key) not in still
        ]
    )


def _offered_entries(world: World, prompt: int, entries: tuple[str, ...]) -> tuple[str, ...]:
    """Return the entries of a menu whose condition holds as it opens."""
    row = world.row_of_id(prompt)
    if row < 0 or not entries:
        return entries
    conditions, kind = world.program.entry_conditions, world.kind.item(row)
    asked = [(entry, conditions.get((kind, entry))) for entry in entries]
    return tuple(entry for entry, formula in asked if formula is None or holds_for(world, row, formula))


def _go_on(
    world: World, can: dict[tuple[int, str, int], _Term], events: list[tuple[str, int, int, str]]
) -> dict[tuple[int, str], Answering]:
    """Return the answers under way that go on; the rest are broken off."""
    going: dict[tuple[int, str], Answering] = {}
    for (by, key), answering in sorted(world.prompts.answering.items()):
        down = key in world.input.held and key not in world.input.released
        # let go just in time is not too early
        long_enough = world.time - answering.since >= answering.hold - 1e-9
        if (down or long_enough) and (by, key, answering.prompt) in can:
            going[(by, key)] = answering
        else:
            events.append(("broken off", answering.prompt, by, ""))
    return going


def _answer_menu(
    world: World, can: dict[tuple[int, str, int], _Term], events: list[tuple[str, int, int, str]]
) -> None:
    """Take what was chosen from the open menu; one that is left or closed by its key is broken off."""
    menu = world.prompts.menu
    if menu is None:
        return
    if world.prompts.chosen_entry in menu.entries:
        events.append(("chosen", menu.prompt, menu.by, world.prompts.chosen_entry))
        world.prompts.menu = None
    elif (menu.by, menu.key, menu.prompt) not in can or menu.key in world.input.pressed:
        events.append(("broken off", menu.prompt, menu.by, ""))
        world.prompts.menu = None


def prompt_events(world: World, what: str, a: Role, by: Role, entry: str) -> tuple[Rows, Rows]:
    """Return rows of the prompts to which something happened in this tick, and of who did it."""
    pairs = [(p, w) for kind, p, w, e in world.prompts.events if kind == what and e == entry]
    if not pairs:
        return _NOBODY, _NOBODY
    rows = world.rows_of_ids(np.array(pairs, dtype=np.int64).reshape(-1)).reshape(-1, 2)
    rows = rows[(rows >= 0).all(axis=1)]
    rows = rows[world.member(a)[rows[:, 0]] & world.member(by)[rows[:, 1]]]
    return rows[:, 0], rows[:, 1]


def are_offered(world: World, a: Rows, by: Rows) -> NDArray[np.bool_]:
    """Return which pairs of rows are a prompt and one to which it is offered."""
    pairs = {(offer.prompt, offer.by) for offer in world.prompts.offers}
    ids = zip(world.id[a].tolist(), world.id[by].tolist(), strict=True)
    return np.fromiter((pair in pairs for pair in ids), dtype=bool, count=len(a))


def prompt_text(world: World, offer: Offer) -> str:
    """Return the words of a prompt, with the values they hold now."""
    row = world.row_of_id(offer.prompt)
    behaviour = world.program.behaviours[offer.behaviour]
    formula: Any = behaviour.words["text"]
    kind = world.program.kinds[behaviour.kind].name
    token = next(t for t, r in world.program.index.role_tokens.items() if r.source == "kind" and r.of == kind)
    words = formula.evaluate(View(world, Matches(1, {token: np.array([row])}), 0))
    return str(words if isinstance(words, str) else words[0])
