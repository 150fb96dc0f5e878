"""Roles: how rules name objects, and which objects a role can stand for.

A role is written as the name of a kind (any object of it), of one object, as `any TAG`, or as
`anything`. `another Moth` and `third Moth` are further roles of the kind Moth, never the same object as `Moth`;
`new Pod` is the object that an action above has created; `target of Hatch` is the object that the
variable `target` of Hatch refers to, `lead of level` the one that a level variable refers to.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

from gatillo.level.model import (
    Area,
    Clause,
    Clip,
    Graph,
    Kind,
    Level,
    Logic,
    Object,
    Place,
    Reference,
    Route,
    Rule,
    Section,
    Trial,
    Value,
    Variable,
)
from gatillo.level.naming import KnownNames, name_problem, spoken, token
from gatillo.level.own_behaviours import SELF, own_behaviours, with_own_behaviours
from gatillo.level.scenery import without_scenery

OTHERS = ("another", "third")
"""Before the name of a kind: a second and a third role of that kind."""
TAG_GIVERS: dict[str, tuple[str, str]] = {}
"""By action that gives objects a tag: its slots with the tag and with the objects. The catalogue fills it as it is declared."""
ValueType = Literal["number", "yes/no", "text", "object", "place", "point"]


def type_of(value: Value) -> ValueType:
    """Return the type of variable that starts with this value."""
    if isinstance(value, Reference):
        return "object"
    if isinstance(value, bool):
        return "yes/no"
    if isinstance(value, tuple):
        return "point"
    return "text" if isinstance(value, str) else "number"


@dataclass(frozen=True, slots=True)
class Role:
    """A role as a rule uses it. `token` is its name in formulas, `kinds` the kinds it can be of."""

    text: str
    token: str
    source: Literal["kind", "object", "tag", "all", "reference"]
    kinds: tuple[str, ...]
    of: str
    new: bool = False
    via: str = ""
    """For a reference: the token of the role whose variable it is, "" for the level's."""
    object_id: int = 0
    """For one object: its id."""

    @property
    def can_own(self) -> bool:
        """Whether a variable can be made for it: of one kind, or as a setting of the own behaviour whose rules say `self`."""
        return len(self.kinds) == 1 or self.text == SELF

    @property
    def base(self) -> str:
        """The role without “another” or “third”, distinguished from them by never being the same object."""
        return self.token.removeprefix("another_").removeprefix("third_")


class Index:
    """A level's names, looked up fast; built once for a level."""

    def __init__(self, level: Level, before: Index | None = None) -> None:
        """Look a level's names up; what those of `before` have in common with them is taken from there."""
        self.scenery = frozenset(kind.name for kind in level.kinds if kind.scenery)
        """Kinds that no name looked up here can mean."""
        self.level = level = with_own_behaviours(without_scenery(level))
        self.own_behaviours = own_behaviours(level)
        """The sections that are own behaviours, by name."""
        self.compiled: dict[object, Any] = {}
        """Formulas compiled against these names (formula/compiling.py), so that none is compiled twice."""
        self._known: dict[str, KnownNames] = {}
        self.kinds: dict[str, Kind] = {k.name: k for k in level.kinds}
        self.objects: dict[str, Object] = {o.name: o for o in level.objects}
        self.places: dict[str, Place] = {p.name: p for p in level.places}
        self.variables: dict[str, Variable] = {v.name: v for v in level.variables}
        self.trials: dict[str, Trial] = {t.name: t for t in level.trials}
        self.tags: dict[str, tuple[str, ...]] = {}
        for kind in level.kinds:
            for tag in kind.tags:
                self.tags[tag] = (*self.tags.get(tag, ()), kind.name)
        for thing in level.objects:
            for tag in thing.tags:
                if tag.startswith("-"):
                    # it is not carried at first
                    continue
                if thing.kind not in self.tags.get(tag, ()):
                    self.tags[tag] = (*self.tags.get(tag, ()), thing.kind)
        self._given_by: dict[int, tuple[Logic, list[Clause]]] = {}
        self._tags_given(level, before._given_by if before is not None else {})
        if before is not None and "role_tokens" in before.__dict__ and self._roles_from == before._roles_from:
            self.role_tokens = before.role_tokens

    @cached_property
    def _roles_from(self) -> tuple[object, ...]:
        """All that decides which roles there are."""
        named = [(o.name, o.kind, o.id) for o in self.level.objects]
        return self.level.kinds, self.level.variables, self.tags, named

    def _tags_given(self, level: Level, before: dict[int, tuple[Logic, list[Clause]]]) -> None:
        """Kinds whose objects rules may give a tag."""
        for _, _, entry in all_logic(level):
            # a level's rules are seldom others than those of the level before
            found = before.get(id(entry))
            if found is None or found[0] is not entry:
                found = entry, [c for c in _every(*_acting(entry)) if c.use in TAG_GIVERS]
            self._given_by[id(entry)] = found
        for clause in [c for _, given in self._given_by.values() for c in given]:
            tag, who = (clause.slots.get(slot, "").strip() for slot in TAG_GIVERS[clause.use])
            if name_problem(tag) is not None:
                continue
            name = who.split(" ", 1)[1] if who.startswith((*OTHERS, "new ")) and " " in who else who
            kinds: tuple[str, ...] = (name,) if name in self.kinds else ()
            if name in self.objects:
                kinds = (self.objects[name].kind,)
            elif not kinds:
                kinds = self.tags.get(name.removeprefix("any "), tuple(self.kinds))
            self.tags[tag] = tuple(dict.fromkeys((*self.tags.get(tag, ()), *kinds)))

    @cached_property
    def points(self) -> dict[str, tuple[str, ...]]:
        """Every named point, with the kinds that have it."""
        found: dict[str, tuple[str, ...]] = {}
        for kind in self.level.kinds:
            for point in kind.points:
                found[point.name] = (*found.get(point.name, ()), kind.name)
        return found

    @cached_property
    def level_tokens(self) -> dict[str, ValueType]:
        """Level variables by the token a formula uses, with their types."""
        return {token(v.name): type_of(v.value) for v in self.level.variables}

    @cached_property
    def _variable_types(self) -> dict[str, dict[str, ValueType]]:
        """Return the variables of each kind by token, with their types."""
        return {
            # the first of a name counts, as long as a second has not been renamed
            kind: {token(v.name): type_of(v.value) for v in reversed(found.variables)}
            for kind, found in self.kinds.items()
        }

    @cached_property
    def place_tokens(self) -> dict[str, Place]:
        """Places by the token a formula uses."""
        return {token(p.name): p for p in self.level.places}

    @cached_property
    def kind_tokens(self) -> dict[str, str]:
        """Names of kinds by the token a formula uses."""
        return {token(k): k for k in self.kinds}

    @cached_property
    def topics(self) -> dict[str, tuple[str, ...]]:
        """Every topic, with the kinds that know it."""
        found: dict[str, tuple[str, ...]] = {}
        for kind in self.level.kinds:
            for topic in kind.topics:
                found[topic.name] = (*found.get(topic.name, ()), kind.name)
        return found

    @cached_property
    def looks(self) -> dict[str, tuple[str, ...]]:
        """Every look, with the kinds that have it."""
        found: dict[str, tuple[str, ...]] = {}
        for kind in self.level.kinds:
            for look in kind.looks:
                found[look.name] = (*found.get(look.name, ()), kind.name)
        return found

    @cached_property
    def clips(self) -> dict[str, Clip]:
        """Recorded motions by name."""
        return {clip.name: clip for clip in self.level.clips}

    @cached_property
    def behaviours(self) -> tuple[str, ...]:
        """Every behaviour that some kind has, as it is spoken of."""
        ready = (spoken(b.use) for k in self.level.kinds for b in k.behaviours)
        own = (use.use for k in self.level.kinds for use in k.own if use.use in self.own_behaviours)
        return tuple(dict.fromkeys((*ready, *own)))

    @cached_property
    def areas(self) -> dict[str, Area]:
        """The places that are areas, by name."""
        return {name: place for name, place in self.places.items() if isinstance(place, Area)}

    @cached_property
    def routes(self) -> dict[str, Route]:
        """The places that are routes, by name."""
        return {name: place for name, place in self.places.items() if isinstance(place, Route)}

    @cached_property
    def rule_names(self) -> dict[str, int]:
        """The position in the order list of every rule and graph, by its name."""
        return {entry.name: position for position, _, entry in all_logic(self.level)}

    @cached_property
    def section_names(self) -> dict[str, tuple[int, ...]]:
        """The positions of every section's rules, by its name."""
        found: dict[str, tuple[int, ...]] = {e.name: () for e in self.level.order if isinstance(e, Section)}
        for position, section, _ in all_logic(self.level):
            if section is not None:
                found[section.name] = (*found[section.name], position)
        return found

    @cached_property
    def role_tokens(self) -> dict[str, Role]:
        """Every role this level allows, by token."""
        found: dict[str, Role] = {}

        def add(
            text: str,
            source: Literal["kind", "object", "tag", "all"],
            kinds: tuple[str, ...],
            of: str,
            object_id: int = 0,
        ) -> None:
            found[token(text)] = Role(text, token(text), source, kinds, of, object_id=object_id)
            if source != "object":
                for before in OTHERS:
                    other = f"{before} {text.removeprefix('any ')}"
                    found.setdefault(token(other), Role(other, token(other), source, kinds, of))

        for tag, kinds in self.tags.items():
            add(f"any {tag}", "tag", kinds, tag)
        for name in self.kinds:
            add(name, "kind", (name,), name)
            text = f"new {name}"
            found[token(text)] = Role(text, token(text), "kind", (name,), name, new=True)
        for name, thing in self.objects.items():
            add(name, "object", (thing.kind,), name, thing.id)
        everything = tuple(self.kinds)
        found["anything"] = Role("anything", "anything", "all", everything, "")
        self._add_references(found, everything)
        return found

    def _add_references(self, found: dict[str, Role], everything: tuple[str, ...]) -> None:
        def kinds_of(value: Value) -> tuple[str, ...]:
            named = value.kind if isinstance(value, Reference) else ""
            return (named,) if named in self.kinds else everything

        for variable in self.level.variables:
            if isinstance(variable.value, Reference):
                text = f"{variable.name} of level"
                kinds = kinds_of(variable.value)
                found[token(text)] = Role(text, token(text), "reference", kinds, token(variable.name))
        for owner in [r for r in found.values() if r.source != "reference"]:
            for kind in owner.kinds[:1]:
                for variable in self.kinds[kind].variables:
                    name = token(variable.name)
                    if isinstance(variable.value, Reference) and self.variable_type(owner, name) == "object":
                        text = f"{variable.name} of {owner.text}"
                        found[token(text)] = Role(
                            text, token(text), "reference", kinds_of(variable.value), name, via=owner.token
                        )

    def role(self, text: str) -> Role | None:
        """Return the role that this text names, or None. Spaces and underscores are the same here."""
        return self.role_tokens.get(token(text.strip()))

    def variable_type(self, role: Role, name: str) -> ValueType | None:
        """Return the type of a variable (by token) that every kind of the role has, or None."""
        types = {self._variable_types[kind].get(name) for kind in role.kinds}
        return types.pop() if len(types) == 1 else None

    def variable_tokens(self, role: Role) -> list[str]:
        """Tokens of the variables of the role's kinds, for suggestions."""
        return sorted({token(v.name) for k in role.kinds for v in self.kinds[k].variables})

    def unknown_role(self, text: str) -> str:
        """Return a sentence for a role that this level does not have."""
        if text in self.scenery:
            return f"“{text}” is scenery: it takes no part in a run, so that no rule can mean it. Let it take part on its kind's page"
        known = self.known(
            "roles",
            lambda: [r.text for r in self.role_tokens.values() if not r.text.startswith((*OTHERS, "new "))],
        )
        return f"there is no kind, object or tag called “{text}”{known.hint(text)}"

    def known(self, what: str, names: Callable[[], Iterable[str]]) -> KnownNames:
        """Return names of the level with which mistyped ones are compared; put together once for each `what`."""
        found = self._known.get(what)
        if found is None:
            found = self._known[what] = KnownNames(names())
        return found


def _acting(entry: Logic) -> tuple[tuple[Clause, ...], ...]:
    """Return the lines that may be actions."""
    if isinstance(entry, Rule):
        return entry.do, entry.else_
    return (tuple(node.clause for node in entry.nodes),)


def _every(*blocks: tuple[Clause, ...]) -> Iterator[Clause]:
    for block in blocks:
        for clause in block:
            yield clause
            yield from _every(clause.of)


def all_rules(level: Level) -> Iterator[tuple[int, Section | None, Rule]]:
    """Yield each rule with its position in the order list (from 0, graphs counted too) and its section."""
    for position, section, entry in all_logic(level):
        if isinstance(entry, Rule):
            yield position, section, entry


def all_logic(level: Level) -> Iterator[tuple[int, Section | None, Logic]]:
    """Yield each rule and graph with its position in the order list (from 0) and its section."""
    position = 0
    for entry in level.order:
        if isinstance(entry, Section):
            for rule in entry.rules:
                yield position, entry, rule
                position += 1
        else:
            yield position, None, entry
            position += 1


def every_clause(level: Level) -> Iterator[Clause]:
    """Yield every line of every rule, those within groups and repeats too, and every card of every graph."""

    def within(clauses: Iterable[Clause]) -> Iterator[Clause]:
        for clause in clauses:
            yield clause
            yield from within(clause.of)

    for _, _, entry in all_logic(level):
        if isinstance(entry, Graph):
            yield from within(node.clause for node in entry.nodes)
        else:
            yield from within((*entry.when, *entry.if_, *entry.do, *entry.else_))
