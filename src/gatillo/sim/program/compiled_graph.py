"""Compiled graphs: cards as compiled lines, and what each of their outputs leads to."""

from __future__ import annotations

from dataclasses import dataclass, field

from gatillo.catalogue.cards.graph_cards import (
    Card,
    Ports,
)
from gatillo.formula.formula import Formula
from gatillo.graphs.conversion import Drawn
from gatillo.level.model import Clause, Graph, Node
from gatillo.level.roles import Index, Role
from gatillo.sim.program.compiled_line import CompiledLine, Limits, Part
from gatillo.sim.program.flattening import Origin

SELF = "self"
PART_OF: dict[str, Part] = {"occasion": "when", "condition": "if", "pick": "if", "action": "do"}
Follows = tuple[tuple[int, str, int], ...]
"""Cards, the inputs by which they are reached, and the numbers of the wires, in the order of the wires."""


@dataclass(slots=True)
class CompiledCard:
    """One card, ready to run."""

    node: Node
    ports: Ports
    line: CompiledLine | None = None
    """For a card of the catalogue."""
    card: Card | None = None
    """For a card that only graphs have."""
    outputs: dict[str, Follows] = field(default_factory=dict)
    words: dict[str, str] = field(default_factory=dict)
    formulas: dict[str, Formula] = field(default_factory=dict)
    roles: tuple[str, ...] = ()
    """The roles that those formulas speak of."""
    identity: int = 0
    key: tuple[int, int] = (0, 0)
    """Under which graph and card it keeps what it keeps."""
    lines: tuple[CompiledLine, ...] = ()
    """For a card that holds conditions: those."""
    limits: Limits | None = None
    """For a card that begins firings: when."""
    chained: int = 0
    """For an action: how many actions follow it and one another alone, as lines below one another, itself counted."""
    chain_next: int = 0
    """The first of those that follow; 0 for none."""
    chain_end: int = 0
    """The last of them; itself where none follows."""


@dataclass(frozen=True, slots=True)
class Straight:
    """A graph that is one straight way: an occasion, conditions one after another, and all its actions one after another."""

    occasion: CompiledCard
    conditions: tuple[tuple[int, tuple[CompiledLine, ...], int], ...]
    """Their numbers, the lines that they are or hold, and the wires by which they are reached."""
    wire: int
    """By which the first action is reached."""


@dataclass(slots=True)
class CompiledGraph:
    """A graph, ready to run: its cards by number."""

    graph: Graph
    kind: int | None
    """For each object of which kind it takes its turn, by number; None where it speaks of roles as rules do."""
    cards: dict[int, CompiledCard]
    occasions: tuple[int, ...]
    actions: dict[str, tuple[int, ...]]
    """By part: of each of its lines the card."""
    gathers: tuple[int, ...]
    """Cards that keep what comes until the occasions have had their turn."""
    watchful: tuple[int, ...]
    """Cards that may do something though nothing reaches them in a tick."""
    roles: dict[str, Role]
    """The roles that its cards may name, by token."""
    index: Index
    """The names that its cards may use: the level's, and `self`."""
    origins: dict[int, Origin] = field(default_factory=dict)
    """Where the cards of own nodes come from."""
    wire_of: tuple[int, ...] | None = None
    """By wire of the graph with own nodes in their places: its number in the document, -1 for one within an own node."""
    straight: Straight | None = None
    """Where it is nothing but that, so that its turn needs no more than a rule's."""
    drawn: Drawn | None = None
    """For a rule that speaks of own nodes: the graph that it is run as, and where its cards stand in it."""

    def line_of(self, card: int) -> tuple[str, int]:
        """Return where a fault or a problem of a card is: as part and line; for a graph `card` and its number."""
        return self.drawn.lines.get(card, ("do", 0)) if self.drawn is not None else ("card", card)

    def place_of(self, number: int) -> tuple[int, str]:
        """Return the card that a person sees, and before what is said of it the way to a card within it."""
        origin = self.origins.get(number)
        return (number, "") if origin is None else (origin.card, f"{origin.way}: ")

    def number_of(self, line: CompiledLine) -> int:
        """Return the number of a line's card; of a line within a card, that card's."""
        for number, card in self.cards.items():
            for made in (card.line,) if card.line is not None else card.lines:
                if made is line or (made.part, made.number) == (line.part, line.number):
                    return number
        return 0


Lines = dict[Part, list[tuple[Node, Clause]]]
"""By part: each line with the card that it is, or that holds it."""
