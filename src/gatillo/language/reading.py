"""Readings of a typed line: the sentences that it may be, with what they leave open."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from gatillo.catalogue.cards.graph_cards import CARD_ENTRIES
from gatillo.catalogue.declare.entry import CATALOGUE, Entry, Group, Slot
from gatillo.catalogue.declare.named_types import is_own_node
from gatillo.catalogue.declare.slot_types import WRITABLE
from gatillo.formula.compiling import compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.language.level_names import names_of
from gatillo.level.edits import Part
from gatillo.level.graphs import OUTPUT, OWN
from gatillo.level.model import Clause, Graph, Reference, Value
from gatillo.level.naming import name_problem, token
from gatillo.level.own_behaviours import SELF
from gatillo.level.roles import Index, all_logic

GROUPS_OF: dict[Part, tuple[Group, ...]] = {
    "when": ("occasion",),
    "if": ("condition", "pick"),
    "do": ("action",),
    "else": ("action",),
}


ACTIONS: tuple[Part, ...] = ("do", "else")
"""The parts that have actions."""
ROUGH = 2.6
"""What a reading costs that has little to do with the words that were typed, though none of them is left out."""


@dataclass(frozen=True, slots=True)
class Offer:
    """A name in a reading that the level lacks: what was typed, and what may be meant."""

    slot: str
    typed: str
    make: str = ""
    """What can be made of that name: “kind”, “object”, “spot”, “area”, “route”, “level variable”, “kind variable”, “message”, “item” …"""
    owner: str = ""
    """For a variable: the role before its dot, "level" for the level."""
    filled: str = ""
    """For a name that was only begun: the name that the slot has been given. Such an offer needs no answer."""
    accepted: bool = False
    """Whether it was chosen to make that name."""

    def nearest(self, index: Index, entry: Entry) -> list[str]:
        """Return the existing names that look most like it, as the slot writes them."""
        if self.filled:
            return [self.filled]
        slot = entry.slots.get(self.slot)
        return nearest_names(index, slot, self) if slot is not None else []


def nearest_names(index: Index, slot: Slot, offer: Offer) -> list[str]:
    """Return the existing names that look most like the name that an offer is about, as a slot writes them."""
    names = names_of(index)
    if offer.make.endswith("variable") or slot.kind.holds == "variable" or slot.kind.has_formulas:
        return names.near_variable(offer.typed.rpartition(".")[2], offer.owner)
    return names.table(slot).near(offer.typed)


@dataclass(frozen=True, slots=True)
class Reading:
    """A sentence that a typed line may be, or several lines of a rule. Lower cost is the better reading."""

    clause: Clause
    part: Part
    cost: float
    unread: tuple[str, ...] = ()
    """Typed words that have no place in it."""
    offers: tuple[Offer, ...] = ()
    remark: str = ""
    """What should be known of it, such as an amount in each tick."""
    named: str = ""
    """The object that was named last in the line."""
    subject: str = ""
    """The object that its words name first."""
    sure: bool = False
    """Whether it was chosen though it says only roughly what was typed."""
    lines: tuple[Reading, ...] = ()
    """The readings of its lines, if it is several lines of a rule; its clause and part are those of the first."""
    rule: Mapping[str, Any] = field(default_factory=dict)
    """What it says of how often the rule fires, as fields of `Rule`: `{"cooldown": 2.0}` of “… at most once every 2 s”."""

    @property
    def entry(self) -> Entry:
        """The entry whose sentence it is."""
        if self.clause.use == OWN:
            return own_entry(self.clause.slots["graph"])
        return CATALOGUE.get(self.clause.use) or CARD_ENTRIES[self.clause.use]

    @property
    def label(self) -> str:
        """The small word before it."""
        if self.clause.use == OWN:
            return "own node"
        return "card" if self.clause.use in CARD_ENTRIES else self.part

    @property
    def all_lines(self) -> tuple[Reading, ...]:
        """Its lines; itself, if it is one."""
        return self.lines or (self,)

    def questions(self, index: Index) -> list[Offer]:
        """Return the offers that need an answer before it is taken: names nearly like others, and those that cannot be made."""
        return [
            offer
            for line in self.all_lines
            for offer in line.offers
            if not (offer.filled or offer.accepted) and (not offer.make or offer.nearest(index, line.entry))
        ]

    @property
    def all_unread(self) -> tuple[str, ...]:
        """The words that are not read in any of its lines."""
        return (*self.unread, *(word for line in self.lines for word in line.unread))

    @property
    def is_rough(self) -> bool:
        """Whether it says only roughly what was typed though every word is read, so that it is asked about before it is taken."""
        # what is lost for a word that is not read, or a name that the level lacks, is told with that
        costs = [line.cost for line in self.all_lines if not (line.offers or line.unread)]
        return max(costs, default=0.0) >= ROUGH and not self.sure

    @property
    def is_whole(self) -> bool:
        """Whether it leaves nothing open: every word is read, every name known and every slot filled."""
        return not (self.all_unread or self.offers or self.empty_slots())

    def new_variables(self, index: Index) -> list[tuple[str, str, Value]]:
        """Variables that it names and the level lacks: owner (`level` or a kind), name, and what it starts with."""
        found: list[tuple[str, str, Value]] = []
        for line in self.all_lines:
            found += _new_variables(index, line)
        return list(dict.fromkeys(found))

    def empty_slots(self) -> list[str]:
        """Slots still to be filled."""
        return [
            name
            for name, slot in self.entry.slots.items()
            if not self.clause.slots.get(name, slot.default) and not slot.kind.optional
        ]


def _new_variables(index: Index, reading: Reading) -> list[tuple[str, str, Value]]:
    found: list[tuple[str, str, Value]] = []
    for name, slot in reading.entry.slots.items():
        owner, dot, variable = reading.clause.slots.get(name, "").rpartition(".")
        if slot.kind.holds == "variable" and dot and _is_new(index, owner, variable):
            value = reading.clause.slots.get("value", "")
            yes_no = slot.kind.gives == "yes/no" or value in ("yes", "no")
            text = not slot.kind.gives and value.startswith('"')
            starts: Value = False if yes_no else "" if text else 0.0
            role = index.role(value) if not slot.kind.gives else None
            if role is not None:
                starts = Reference(kind=role.kinds[0] if len(role.kinds) == 1 else "")
            elif not slot.kind.gives and value and _is_point(index, value):
                starts = (0.0, 0.0)
            found.append((_kind_of(index, owner), variable, starts))
    for offer in reading.offers:
        slot_ = reading.entry.slots.get(offer.slot)
        written = reading.clause.slots.get(offer.slot, "")
        if slot_ is not None and slot_.kind.may_be_formula(written) and offer.make.endswith("variable"):
            start: Value = False if slot_.kind.gives == "yes/no" and written.endswith(offer.typed) else 0.0
            if slot_.kind.holds == "where" and _depth_at(written, offer.typed) == 0:
                # what a place is made of is a point, but within brackets a number
                start = (0.0, 0.0)
            found.append((_kind_of(index, offer.owner), offer.typed, start))
    return found


def _is_point(index: Index, text: str) -> bool:
    """Return whether a value is a point, or names what stands somewhere: `(30, 40)`, `Lamp`, `pointer`."""
    try:
        compile_formula(index, text, "point")
    except FormulaError:
        return False
    return True


def _depth_at(text: str, name: str) -> int:
    """Return in how many brackets a name stands in a formula."""
    before = text.partition(name)[0]
    return before.count("(") - before.count(")")


def _kind_of(index: Index, owner: str) -> str:
    """Return the kind that a role's new variable would belong to; `level` for the level's."""
    role = index.role(owner)
    if role is not None and role.source == "tag" and owner == SELF:
        # a setting of the own behaviour whose rule this is
        return SELF
    return (
        role.kinds[0]
        if role is not None and owner not in index.kinds and owner != "level" and role.kinds
        else owner
    )


def _is_new(index: Index, owner: str, variable: str) -> bool:
    if name_problem(variable) or variable in WRITABLE:
        return False
    if owner == "level":
        return token(variable) not in index.level_tokens
    role = index.role(owner)
    if role is not None and role.source == "tag" and owner == SELF:
        return index.variable_type(role, token(variable)) is None
    if role is None or len(role.kinds) != 1:
        return False
    return token(variable) not in {token(v.name) for v in index.kinds[role.kinds[0]].variables}


def own_nodes_of(index: Index) -> list[str]:
    """Return the own nodes of a level, by their names."""
    return [e.name for _, _, e in all_logic(index.level) if isinstance(e, Graph) and is_own_node(e)]


def own_entry(name: str) -> Entry:
    """Return an own node as a sentence: its name."""
    return replace(
        CARD_ENTRIES[OUTPUT],
        name=OWN,
        sentence=name,
        help="An own node of this level.",
        slots={},
        wordings=(),
    )
