"""A rule or a graph in the order list, ready to run, and what its lines name that concerns the whole level."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from gatillo.formula.formula import Formula
from gatillo.language.binding import VariableArgument, Word
from gatillo.level.model import Rule
from gatillo.level.roles import Role
from gatillo.sim.program.compiled_graph import CompiledGraph
from gatillo.sim.program.compiled_line import PARTS, UNLIMITED, CompiledLine, Limits, Part, steps_of


@dataclass(frozen=True, slots=True)
class Named:
    """What the lines of a turn name that concerns the whole program."""

    switches: tuple[tuple[str, str], ...] = ()
    """Rules and sections that they switch: the type of the slot, and the name."""
    messages: tuple[str, ...] = ()
    written: tuple[tuple[str, str], ...] = ()
    """Variables that they write: the owner's role or “level”, and the name."""


def named_by(blocks: dict[Part, tuple[CompiledLine, ...]]) -> Named:
    """Return what lines name that concerns the whole program."""
    switches: list[tuple[str, str]] = []
    messages: dict[str, None] = {}
    written: dict[tuple[str, str], None] = {}
    for part in PARTS:
        for line in steps_of(blocks[part]):
            switches += [
                (line.entry.slots[name].type, line.fixed[name]) for name in line.entry.derived.switches
            ]
            for name, argument in line.arguments.items():
                if isinstance(argument, Word) and line.entry.slots[name].type == "message":
                    messages[argument.text] = None
                elif isinstance(argument, VariableArgument) and part in ("do", "else"):
                    written[whose(argument), argument.name] = None
    return Named(tuple(switches), tuple(messages), tuple(written))


def whose(variable: VariableArgument) -> str:
    """Return the role whose variable it is, or “level”."""
    return variable.role.text if variable.role else "level"


@dataclass(frozen=True, slots=True)
class Screen:
    """Two roles that must come within a distance before a condition can hold; `each` says whether it is asked for each of the first."""

    one: Role
    other: Role
    distance: float
    each: bool
    ran: tuple[tuple[int, int], ...] = ()
    """For a graph: the cards up to the condition, and the wires by which they are reached, -1 for the occasion."""
    passed: int = 1
    """How many conditions the turn says it looked at."""


@dataclass(slots=True)
class CompiledRule:
    """A rule in the order list, ready to run."""

    index: int
    source: Rule
    on: bool
    when: tuple[CompiledLine, ...]
    if_: tuple[CompiledLine, ...]
    do: tuple[CompiledLine, ...]
    else_: tuple[CompiledLine, ...]
    section: str = ""
    runs: bool = True
    """Without problems, and switched on or to be switched on by a rule."""
    switched: bool = False
    """Whether some rule switches it or its section."""
    limits: Limits = UNLIMITED
    plain: bool = True
    """Whether its limits are: it fires at each tick, without a rest."""
    named: Named = Named()
    stirs: tuple[str, ...] | None = None
    """What must change before a turn that has led to nobody can lead to somebody; None where not all of it is known."""
    screen: Screen | None = None
    """Two roles that must come near each other before it can lead to anybody."""
    graph: CompiledGraph | None = None
    """For a graph: its cards; the lines are those of its cards."""
    alone: Any = None
    """How its turn is taken for one match (rules/turns_alone.py), False where it is not; made when it is first wanted."""

    def block(self, part: Part) -> tuple[CompiledLine, ...]:
        """Return the lines of one part."""
        return {"when": self.when, "if": self.if_, "do": self.do, "else": self.else_}[part]


@dataclass(frozen=True, slots=True)
class Alarm:
    """An occasion that comes at times worked out by formulas."""

    rule_index: int
    line: int
    first: Formula
    period: Formula | None
    """None for one that comes once."""


def every_step(rule: CompiledRule) -> Iterator[CompiledLine]:
    """Yield every line of a turn, those within groups and repeats too."""
    return steps_of((*rule.when, *rule.if_, *rule.do, *rule.else_))
