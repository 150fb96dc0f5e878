"""One line of a rule or card of a graph, compiled: everything is looked up once, so that a tick need not."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from copy import copy
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, Literal

from gatillo.catalogue.contexts.values import Target, Watched
from gatillo.catalogue.declare.entry import Entry
from gatillo.catalogue.declare.facts import Fact, checked
from gatillo.formula.formula import Formula
from gatillo.language.binding import Argument, Bound, RoleArgument, VariableArgument, WhereArgument, Word
from gatillo.level.model import Clause, Rule
from gatillo.level.roles import Role
from gatillo.sim.spatial.random_draws import identity

if TYPE_CHECKING:
    pass

Part = Literal["when", "if", "do", "else"]
PARTS: tuple[Part, ...] = ("when", "if", "do", "else")


@dataclass(slots=True)
class CompiledLine:
    """One line of a rule, ready to run."""

    entry: Entry
    arguments: dict[str, Argument]
    part: Part
    number: int
    negated: bool
    identity: int
    """Keys its random draws."""
    roles: tuple[str, ...] = ()
    fixed: dict[str, Any] = field(default_factory=dict)
    worked_out: tuple[tuple[str, Formula], ...] = ()
    """Slots whose formula is evaluated over the matches."""
    role_slots: tuple[tuple[str, str], ...] = ()
    """Slots that hold a role, with its token."""
    targets: tuple[tuple[str, str, str], ...] = ()
    """Slots that name an object's variable to write: its column, and its owner's token."""
    places: tuple[str, ...] = ()
    """Slots that hold a point."""
    points: tuple[Formula, ...] = ()
    """For an action: the formulas among them."""
    subject: tuple[str, ...] = ()
    """Of its roles the one that its sentence names first, and those that must be there for it."""
    brings: bool = True
    """Whether roles that it looks for join its matches; within “none of” they do not."""
    own: tuple[str, Literal["rounds", "each"]] | None = None
    """For an action that reads what it writes: whose (a role's token, "" for the level's), and how it is then done:
    in rounds, each with one match for an object, or match by match."""
    of: tuple[CompiledLine, ...] = ()
    """Lines within it: a group's conditions, a repeat's actions."""
    once: bool = False
    at: tuple[int, str, int] = (0, "", 0)
    """Where it is: turn, part, line."""
    same_for_all: bool = False
    """Whether its slots hold the same for every match and every tick."""
    writes: dict[tuple[str, bool], tuple[str, tuple[str, str]]] = field(default_factory=dict)
    """Variables it writes, by column and whether they are an object's: plain name, and whose it is with that name."""
    pair: tuple[str, str, str] | None = None
    """For a condition about pairs: its two roles, and how near ones are found: `distance` or `contact`."""
    depends: tuple[str, ...] | None = None
    """For a condition that remembers: what its answer depends on."""
    card: int = 0
    """For an action of a graph: its card's number there."""
    wire: int = -1
    """For an action of a graph that follows another alone: by which wire."""
    texts: bool = False
    """Whether it works out a text for each match."""
    lone: tuple[str, Formula] | None = None
    """The formula that is all that its slots hold, with its slot."""
    quick: bool = False
    """For an action: whether it does the same for all matches at once, whatever they are, without an effect on the lines after it."""
    makes: bool = False
    """For an action: whether it, or a line within it, creates objects."""
    clause: Clause | None = None
    """As it is written."""
    joined_alone: bool = False
    """For a condition: whether, asked first of one object for each of its roles, it has to be asked of those only."""
    alone: Any = None
    """For an entry that can be done alone: how this line is done for one match (rules/lines_alone.py), False where it
    cannot; made when it is first wanted."""

    def fixed_role(self, slot: str) -> Role:
        """Return the role in a slot."""
        role = self.fixed[slot]
        assert isinstance(role, Role)
        return role


@dataclass(frozen=True, slots=True)
class Limits:
    """When matches that have passed the conditions may fire."""

    fires: str = "each tick"
    per_match: bool = False
    """Whether “first time only” is meant for each match, not once for all."""
    rest: int = 0
    """Ticks for which it does not fire after it has fired."""
    rest_per_match: bool = False
    meanwhile: str = "stack"
    """What becomes of a match that waits already: `ignore`, `restart`, or `stack`."""

    @property
    def plain(self) -> bool:
        """Whether it fires at each tick, without a rest."""
        return self.fires == "each tick" and not self.rest


UNLIMITED = Limits()


def ticks_of(seconds: float, rate: int) -> int:
    """Return the ticks in which a time has passed."""
    return math.ceil(seconds * rate - 1e-9)


def moved(line: CompiledLine, position: int) -> CompiledLine:
    """Return a line for a rule that has moved to another position in the order list; it must be numbered again."""
    if line.at[0] == position:
        return line
    other = copy(line)
    other.at = (position, *line.at[1:])
    other.of = tuple(moved(inner, position) for inner in line.of)
    return other


def _pair(entry: Entry, bound: Bound) -> tuple[str, str, str] | None:
    if entry.pair is None:
        return None
    found: list[str] = []
    for slot in entry.pair[:2]:
        argument = bound.arguments[slot]
        if isinstance(argument, RoleArgument):
            found.append(argument.role.token)
        elif isinstance(argument, WhereArgument) and argument.roles:
            if argument.formula is not None or {what for _, what in argument.reads} != {"x", "y"}:
                # a point by a formula, or a named point of an object, may lie far from its middle
                return None
            found.append(argument.roles[0])
    return (found[0], found[1], entry.pair[2]) if len(set(found)) == 2 else None


def subject_of(entry: Entry, bound: Bound) -> tuple[str, ...]:
    """Return the role first named in a line's sentence; for what a variable refers to, its owner before it."""
    for _, slot in entry.parts():
        argument = bound.arguments.get(slot) if slot is not None else None
        if isinstance(argument, RoleArgument | VariableArgument):
            if argument.role is not None:
                return (*((argument.role.via,) if argument.role.via else ()), argument.role.token)
        elif isinstance(argument, WhereArgument | Formula) and argument.roles:
            return argument.roles[:1]
    return ()


def effect_on_itself(
    entry: Entry, arguments: dict[str, Argument], kinds_of: Callable[[str], tuple[str, ...]]
) -> tuple[str, Literal["rounds", "each"]] | None:
    """Return whether an action reads what it writes, whose that is, and how it must then be done (`CompiledLine.own`)."""
    written: list[tuple[str, str]] = []
    for name, argument in arguments.items():
        if isinstance(argument, VariableArgument):
            written.append((argument.role.token if argument.role else "", argument.name))
        elif isinstance(argument, RoleArgument):
            written += [(argument.role.token, what) for what in entry.derived.writes.get(name, ())]
    reads: set[tuple[str, str]] = set()
    for argument in arguments.values():
        if isinstance(argument, Formula | WhereArgument):
            reads.update(argument.reads)
    found: tuple[str, Literal["rounds", "each"]] | None = None
    for owner, what in written:
        if not owner:
            if entry.derived.reads_what_it_writes or ("level", what) in reads:
                return owner, "each"
            continue
        others = [whose for whose, name in reads if name == what and whose not in (owner, "level")]
        if any(set(kinds_of(whose)) & set(kinds_of(owner)) for whose in others):
            return owner, "each"
        if entry.derived.reads_what_it_writes or (owner, what) in reads:
            found = owner, "rounds"
    return found


def facts_of(line: CompiledLine) -> list[Fact]:
    """Return the facts at which a line's rule must be looked at; none for a line that nothing wakes."""
    if line.entry.wakes is None:
        return []
    given: dict[str, Any] = {
        name: argument.role if isinstance(argument, RoleArgument) else getattr(argument, "text", None)
        for name, argument in line.arguments.items()
    }
    return checked(line.entry.wakes(**given), line.entry.name)


def steps_of(steps: tuple[CompiledLine, ...]) -> Iterator[CompiledLine]:
    """Lines and the lines within them."""
    for line in steps:
        yield line
        yield from steps_of(line.of)


def make_step(bound: Bound, entry: Entry, rule: Rule, part: Part, line: int, within: str) -> CompiledLine:
    """Return a bound clause as a line; what it draws at random is keyed by the rule and its place in it."""
    compiled = CompiledLine(
        entry,
        bound.arguments,
        part,
        line,
        bound.clause.negated,
        identity("rule", rule.id, part, line, within),
    )
    roles: dict[str, None] = {}
    worked_out: list[tuple[str, Formula]] = []
    role_slots: list[tuple[str, str]] = []
    for name, argument in bound.arguments.items():
        if isinstance(argument, RoleArgument):
            roles[argument.role.token] = None
            role_slots.append((name, argument.role.token))
            compiled.fixed[name] = argument.role
        elif isinstance(argument, VariableArgument):
            if part == "when":
                compiled.fixed[name] = Watched(argument.role, argument.key)
                continue
            if argument.role is not None:
                roles[argument.role.token] = None
        elif isinstance(argument, WhereArgument):
            roles.update(dict.fromkeys(argument.roles))
            compiled.fixed[name] = argument
            compiled.places = (*compiled.places, name)
            if argument.formula is not None and part in ("do", "else"):
                compiled.points = (*compiled.points, argument.formula)
        elif isinstance(argument, Word):
            compiled.fixed[name] = argument.text
        elif argument.constant is not None and entry.slots[name].type != "seconds":
            compiled.fixed[name] = argument.constant
        else:
            roles.update(dict.fromkeys(argument.roles))
            worked_out.append((name, argument))
    compiled.roles = tuple(roles)
    compiled.worked_out = tuple(worked_out)
    compiled.role_slots = tuple(role_slots)
    compiled.targets = tuple(
        (name, a.key, a.role.token if a.role else "")
        for name, a in bound.arguments.items()
        if isinstance(a, VariableArgument) and part != "when"
    )
    for name, key, owner in compiled.targets:
        if not owner:
            compiled.fixed[name] = Target(key, None)
    compiled.targets = tuple(target for target in compiled.targets if target[2])
    compiled.once = bound.clause.once
    compiled.makes = bool(entry.derived.creates)
    compiled.clause = bound.clause
    compiled.pair = _pair(entry, bound)
    compiled.subject = subject_of(entry, bound)
    compiled.same_for_all = not (
        compiled.worked_out or compiled.role_slots or compiled.targets or compiled.places
    )
    if len(worked_out) == 1 and not (
        compiled.fixed or compiled.role_slots or compiled.targets or compiled.places
    ):
        compiled.lone = worked_out[0]
    compiled.quick = (
        compiled.same_for_all
        and not (compiled.roles or compiled.once or entry.branch or entry.holds or entry.derived.waits)
        and not (entry.derived.creates or entry.derived.removes)
    )
    compiled.joined_alone = (
        part == "if" and bool(compiled.subject) and not entry.holds and compiled.pair is None
    )
    if entry.alone is None:
        compiled.alone = False
    compiled.texts = any(entry.slots[name].type == "text" for name, _ in worked_out)
    return compiled
