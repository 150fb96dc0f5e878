"""What the lines of a level read and write: of each kind, of the level, and which of several.

Entries say it in the names of their slots (catalogue/declare/entry_effects.py), formulas of the roles that they speak of; here it is told
of the kinds that these can be. Explanations, order findings and replay after an edit stand on it: it may name too much, but
what is not named is neither read nor written (tests/sim/test_touched.py changes everything else and looks).
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from gatillo.catalogue.contexts.effects import ANYBODY, SELF, Touch
from gatillo.catalogue.declare.entry import Entry
from gatillo.formula.formula import CHANCE, EVERY, PROPERTY_TYPES, SAYING, TELLING, Formula
from gatillo.language.binding import Argument, RoleArgument, VariableArgument, WhereArgument, Word, bind
from gatillo.level.model import Kind
from gatillo.level.naming import spoken
from gatillo.level.roles import Index, Role
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule, every_step

LEVEL = ""
"""In the place of a kind: what belongs to the level."""
_OF_NOBODY = {
    "pointer": "input",
    "key": "input",
    "clock": "clock",
    "timer": "timer",
    "message": "message",
    "held": "own",
    TELLING: TELLING,
}
"""By the owner in a formula's `reads`: what that is."""
_CONSTANT = frozenset({"name"})


@dataclass(frozen=True, slots=True)
class Access:
    """Something that is read or written: what (catalogue/declare/entry_effects.py), of which kind, and which of several."""

    what: str
    kind: str = LEVEL
    named: str = ""
    """Of a variable, message, timer …: its name; "" for any of them."""

    def meets(self, other: Access) -> bool:
        """Return whether both may be the same thing."""
        same = self.what == other.what and self.kind == other.kind
        return same and (self.named == other.named or not self.named or not other.named)


@dataclass(frozen=True, slots=True)
class Site:
    """Something that a line reads or writes, of which: the token of a role, "" for the level, ANYBODY for all of the kind."""

    access: Access
    role: str = ""


@dataclass(frozen=True, slots=True)
class Touched:
    """All that something reads and writes."""

    reads: frozenset[Access] = frozenset()
    writes: frozenset[Access] = frozenset()

    def __or__(self, other: Touched) -> Touched:
        return Touched(self.reads | other.reads, self.writes | other.writes)


def touched_by_rule(index: Index, rule: CompiledRule) -> Touched:
    """Return what a rule reads and writes, all its lines together; that it is switched on is read too."""
    found = Touched()
    index = names_of(index, rule)
    for line in every_step(rule):
        found |= touched_by_line(index, line)
    switches = [f"rule {rule.source.name}"] + ([f"section {rule.section}"] if rule.section else [])
    own = {Access("switch", LEVEL, name) for name in switches}
    return Touched(found.reads | own, found.writes | {Access("fired", LEVEL, rule.source.name)})


def names_of(index: Index, rule: CompiledRule) -> Index:
    """Return the names that the lines of a turn may use: the level's, in a graph for each of a kind with `self` beside them."""
    return rule.graph.index if rule.graph is not None else index


def touched_by_line(index: Index, line: CompiledLine) -> Touched:
    """Return what a line reads and writes, without the lines within it."""
    return _touched(index, line.entry, line.arguments, ())


def touched_by_behaviour(index: Index, kind: Kind, line: int) -> Touched:
    """Return what a behaviour of a kind reads and writes; `line` is its place among the kind's behaviours."""
    clause = kind.behaviours[line]
    bound = bind(index, clause, "behaviour")
    if bound.entry is None:
        return Touched()
    found = _touched(index, bound.entry, bound.arguments, (kind.name,))
    said = spoken(bound.entry.name)
    own = {Access("setting", kind.name, f"{said}: {slot}") for slot in bound.entry.slots}
    return Touched(
        found.reads | own | {Access("on", kind.name, said), Access("there", kind.name)}, found.writes
    )


def touched_by_formula(index: Index, formula: Formula) -> frozenset[Access]:
    """Return what a formula reads."""
    return frozenset(site.access for site in sites_of(index, formula.reads)) | _there(index, formula.roles)


def reads_of(index: Index, line: CompiledLine) -> list[Site]:
    """Return what a line reads beside who is there, each of which."""
    touches = line.entry.touches()
    found = [s for touch in touches.reads for s in _placed(index, touch, line.arguments, ())]
    for argument in line.arguments.values():
        if isinstance(argument, Formula | WhereArgument):
            found += sites_of(index, argument.reads)
    return sorted(set(found), key=repr)


def writes_of(index: Index, line: CompiledLine) -> list[Site]:
    """Return what a line writes, each of which."""
    touches = line.entry.touches()
    found = {s for touch in touches.writes for s in _placed(index, touch, line.arguments, ())}
    return sorted(found, key=repr)


def sites_of(index: Index, reads: Iterable[tuple[str, str]]) -> list[Site]:
    """Return what a formula's `reads` are, each of which."""
    return [site for owner, name in reads for site in _read_by_formula(index, owner, name)]


def _touched(index: Index, entry: Entry, arguments: dict[str, Argument], own: tuple[str, ...]) -> Touched:
    touches = entry.touches()
    reads = {s.access for touch in touches.reads for s in _placed(index, touch, arguments, own)}
    writes = {s.access for touch in touches.writes for s in _placed(index, touch, arguments, own)}
    for slot, argument in arguments.items():
        if isinstance(argument, Formula):
            reads |= touched_by_formula(index, argument)
        elif isinstance(argument, WhereArgument):
            reads |= _there(index, argument.roles)
            reads |= {s.access for s in sites_of(index, argument.reads)}
        elif isinstance(argument, RoleArgument | VariableArgument):
            reads |= _found_by(index, argument.role) if argument.role is not None else frozenset()
        elif isinstance(argument, Word) and entry.slots[slot].type == "kind":
            reads.add(Access("there", argument.text))
    return Touched(frozenset(reads), frozenset(writes))


def _placed(
    index: Index, touch: Touch, arguments: dict[str, Argument], own: tuple[str, ...]
) -> Iterator[Site]:
    """Yield what an entry touches, of the kinds that stand in its slots."""
    kinds: Iterable[str] = (LEVEL,)
    of: dict[str, str] = {}
    """By kind: the role that stands for it, where one does."""
    named = _named(touch, arguments)
    if touch.of == ANYBODY:
        kinds = index.kinds
        of = dict.fromkeys(kinds, ANYBODY)
    elif touch.of == SELF:
        kinds = own
    elif touch.of:
        argument = arguments.get(touch.of)
        if isinstance(argument, VariableArgument):
            kinds, named = (argument.role.kinds if argument.role else (LEVEL,)), argument.name
            of = dict.fromkeys(kinds, argument.role.token if argument.role else "")
            if touch.what == "variable" and argument.name in PROPERTY_TYPES:
                for kind in kinds:
                    yield Site(Access(argument.name, kind), of[kind])
                return
        elif isinstance(argument, RoleArgument):
            kinds = argument.role.kinds
            of = dict.fromkeys(kinds, argument.role.token)
        elif isinstance(argument, WhereArgument):
            of = {kind: role for role in argument.roles for kind in index.role_tokens[role].kinds}
            kinds = list(of)
        elif isinstance(argument, Word):
            kinds = (argument.text,)
            of = {argument.text: ANYBODY}
    what = touch.what
    if what.startswith("{"):
        chosen = arguments.get(what.strip("{}"))
        what = chosen.text if isinstance(chosen, Word) else what
    for kind in kinds:
        yield Site(Access(what, kind, named), of.get(kind, ""))


def _named(touch: Touch, arguments: dict[str, Argument]) -> str:
    if touch.named.startswith("="):
        return touch.named.removeprefix("=")
    word = arguments.get(touch.named)
    if not isinstance(word, Word):
        return ""
    # a rule and a section may have the same name
    return f"{touch.named} {word.text}" if touch.what == "switch" else word.text


def _read_by_formula(index: Index, owner: str, name: str) -> Iterator[Site]:
    if owner in _OF_NOBODY:
        yield Site(Access(_OF_NOBODY[owner], LEVEL, name if owner in ("timer", "message") else ""))
        if owner == "timer":
            yield Site(Access("clock"))
    elif owner == CHANCE:
        # another draw in each tick
        yield from (Site(Access("chance")), Site(Access("clock")))
    elif owner == "level":
        yield Site(Access("variable", LEVEL, name))
    else:
        kind = owner.removeprefix(f"{EVERY} ")
        of = owner if kind == owner else ANYBODY
        for one in index.role_tokens[owner].kinds if kind == owner else (kind,):
            if name.startswith("item "):
                yield Site(Access("item", one, name.removeprefix("item ")), of)
            elif name == SAYING:
                # what is said ends by itself
                yield from (Site(Access(SAYING, one), of), Site(Access("clock")))
            elif name in PROPERTY_TYPES or name == "there":
                if name not in _CONSTANT:
                    yield Site(Access(name, one), of)
            else:
                yield Site(Access("variable", one, name), of)


def _there(index: Index, roles: Iterable[str]) -> frozenset[Access]:
    return frozenset(access for token in roles for access in _found_by(index, index.role_tokens[token]))


def _found_by(index: Index, role: Role) -> frozenset[Access]:
    """Return what decides who a role can stand for."""
    found = {Access("there", kind) for kind in role.kinds}
    if role.source == "tag":
        found |= {Access("tag", kind, role.of) for kind in role.kinds}
    elif role.source == "reference":
        owners = index.role_tokens[role.via].kinds if role.via else (LEVEL,)
        found |= {Access("variable", owner, role.of) for owner in owners}
        if role.via:
            found |= _found_by(index, index.role_tokens[role.via])
    return frozenset(found)
