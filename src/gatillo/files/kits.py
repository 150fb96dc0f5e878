"""Kits: kinds with the rules that drive them, saved for other levels.

A kit is a level file without objects; whatever its rules speak of comes with it.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

from msgspec.structs import replace

from gatillo.catalogue.entries.own import OWN_LINES
from gatillo.language.own_behaviours import rename_behaviour
from gatillo.language.renaming import Sort, rename, rename_rules, uses
from gatillo.level.graphs import OWN
from gatillo.level.model import FORMAT_VERSION, Graph, Kind, Level, Logic, Reference, Rule, Section
from gatillo.level.naming import FreeNames, free_name
from gatillo.level.own_behaviours import own_behaviours, uses_of
from gatillo.level.roles import all_logic
from gatillo.level.rule_edits import add_rules
from gatillo.level.tidying import tidied

SUFFIX = ".gatillokit"


@dataclass(frozen=True, slots=True)
class Clash:
    """A name of the kit that the level has too; `same` says whether it is the same thing."""

    sort: Sort
    name: str
    free: str
    same: bool


def make_kit(level: Level, name: str, kinds: Collection[str]) -> Level:
    """Return a kit of some kinds: the rules that speak of them, and everything those rules speak of."""
    ids = {use.rule_id for kind in kinds for use in uses(level, "kind", kind)}
    rules = _with_own_nodes(level, tuple(entry for _, _, entry in all_logic(level) if entry.id in ids))
    spoken_of = replace(level, order=rules, trials=())
    wanted = {k.name for k in level.kinds if k.name in kinds or uses(spoken_of, "kind", k.name)}
    variables = [v for v in level.variables if uses(spoken_of, "level variable", v.name)]
    # and the kinds whose objects variables may refer to
    ahead = [*variables, *(v for k in level.kinds if k.name in wanted for v in k.variables)]
    while ahead:
        value = ahead.pop().value
        named = value.kind if isinstance(value, Reference) else ""
        if named and named not in wanted:
            wanted.add(named)
            ahead += next((k.variables for k in level.kinds if k.name == named), ())
    known = own_behaviours(level)
    has = {use.use for k in level.kinds if k.name in wanted for use in uses_of(k, known)}
    behaviours = tuple(
        e for e in level.order if isinstance(e, Section) and e.own is not None and e.name in has
    )
    theirs = {entry.id for section in behaviours for entry in section.rules}
    rules = tuple(entry for entry in rules if entry.id not in theirs)
    alone = replace(
        level,
        order=(*rules, *behaviours),
        trials=(),
        kinds=tuple(k for k in level.kinds if k.name in wanted),
    )
    kit = Level(
        format=FORMAT_VERSION,
        name=name,
        note=f"A kit: {', '.join(k.name for k in alone.kinds)}.",
        kinds=alone.kinds,
        variables=tuple(v for v in level.variables if uses(alone, "level variable", v.name)),
        places=tuple(p for p in level.places if uses(alone, "place", p.name)),
        clips=tuple(c for c in level.clips if uses(alone, "clip", c.name)),
        order=(*((Section(name=name, rules=rules),) if rules else ()), *behaviours),
    )
    # objects do not come with it
    return tidied(kit)


def clashes(level: Level, kit: Level) -> list[Clash]:
    """Return names that both have, each with a name that is free in both."""
    found: list[Clash] = []
    groups: tuple[tuple[Sort, dict[str, object], dict[str, object]], ...] = (
        ("kind", {k.name: k for k in kit.kinds}, {k.name: k for k in level.kinds}),
        ("place", {p.name: p for p in kit.places}, {p.name: p for p in level.places}),
        ("level variable", {v.name: v for v in kit.variables}, {v.name: v for v in level.variables}),
        ("clip", {c.name: c for c in kit.clips}, {c.name: c for c in level.clips}),
    )
    for sort, theirs, ours in groups:
        taken = {*theirs, *ours, *(o.name for o in level.objects)}
        for name, thing in theirs.items():
            if name in ours or (sort == "kind" and name in taken - set(theirs)):
                free = free_name(name, taken)
                taken.add(free)
                found.append(Clash(sort, name, free, ours.get(name) == thing))
    return found


def bring_kit(level: Level, kit: Level, names: dict[tuple[Sort, str], str]) -> Level:
    """Return the level with a kit brought in.

    `names` gives the kit's things new names, by their sort and name; what keeps a name that the level has
    too is taken to be the level's own.
    """
    for (sort, old), new in names.items():
        if new != old:
            kit = rename(kit, sort, old, new)
    kit = _with_free_behaviours(level, kit)
    ours = {k.name for k in level.kinds}
    variables = {v.name for v in level.variables}
    places, clips = {p.name for p in level.places}, {c.name for c in level.clips}
    level = replace(
        level,
        kinds=(*level.kinds, *(k for k in kit.kinds if k.name not in ours)),
        variables=(
            *level.variables,
            *(v for v in kit.variables if v.name not in variables),
        ),
        places=(*level.places, *(p for p in kit.places if p.name not in places)),
        clips=(*level.clips, *(c for c in kit.clips if c.name not in clips)),
    )
    level = _with_behaviours_of(level, kit)
    section = free_section(level, kit.name)
    here = {entry.name: entry for _, _, entry in all_logic(level)}
    free = FreeNames(entry.name for _, _, entry in (*all_logic(level), *all_logic(kit)))
    own: list[int] = []
    renamed: dict[str, str] = {}
    for _, _, entry in all_logic(kit):
        other = here.get(entry.name)
        if other is not None and _same_graph(entry, other):
            # an own node that the level has already
            continue
        own.append(entry.id)
        if other is not None:
            renamed[entry.name] = free.take(entry.name)
    kit = rename_rules(kit, renamed)
    known = own_behaviours(level)
    for brought in own_behaviours(kit).values():
        mine = [entry for entry in brought.rules if entry.id in own]
        if brought.name in known:
            # it is here already
            own = [number for number in own if all(entry.id != number for entry in mine)]
            continue
        empty = Section(name=brought.name, on=brought.on, note=brought.note, own=brought.own)
        level = replace(level, order=(*level.order, empty))
        level = add_rules(level, mine, section=brought.name)[0]
        own = [number for number in own if all(entry.id != number for entry in mine)]
    by_id = {entry.id: entry for _, _, entry in all_logic(kit)}
    if own or not own_behaviours(kit):
        level = replace(level, order=(*level.order, Section(name=section)))
    return add_rules(level, [by_id[number] for number in own], section=section)[0]


def _with_behaviours_of(level: Level, kit: Level) -> Level:
    """Return the level whose kinds have the own behaviours that kinds of a kit with the same names have."""
    theirs = {kind.name: kind.own for kind in kit.kinds}

    def with_own(kind: Kind) -> Kind:
        have = {use.use for use in kind.own}
        new = [use for use in theirs.get(kind.name, ()) if use.use not in have]
        return replace(kind, own=(*kind.own, *new)) if new else kind

    return replace(level, kinds=tuple(map(with_own, level.kinds)))


def _with_free_behaviours(level: Level, kit: Level) -> Level:
    """Return a kit whose own behaviours have other names than those of the level, unless they are the same."""
    here = own_behaviours(level)
    sections = FreeNames(e.name for e in (*level.order, *kit.order) if isinstance(e, Section))
    for name, theirs in own_behaviours(kit).items():
        mine = here.get(name)
        taken = any(isinstance(e, Section) and e.name == name for e in level.order)
        if taken and (mine is None or not _same_behaviour(mine, theirs)):
            kit = rename_behaviour(kit, name, sections.take(name))
    return kit


def _same_behaviour(one: Section, other: Section) -> bool:
    """Return whether two own behaviours are the same but for the numbers of their rules."""
    return one.own == other.own and [replace(e, id=0) for e in one.rules] == [
        replace(e, id=0) for e in other.rules
    ]


def _same_graph(one: Logic, other: Logic) -> bool:
    return isinstance(one, Graph) and isinstance(other, Graph) and replace(one, id=other.id) == other


def _with_own_nodes(level: Level, found: tuple[Logic, ...]) -> tuple[Logic, ...]:
    """Return these and the graphs that their cards and lines use, directly or not, in the order of the level."""
    graphs = {entry.name: entry for _, _, entry in all_logic(level) if isinstance(entry, Graph)}
    wanted, ahead = {entry.id for entry in found}, list(found)
    while ahead:
        entry = ahead.pop()
        lines = (
            (node.clause for node in entry.nodes)
            if isinstance(entry, Graph)
            else (*entry.if_, *entry.do, *entry.else_)
        )
        for line in lines:
            used = graphs.get(line.slots.get("graph", "")) if line.use in (OWN, *OWN_LINES) else None
            if used is not None and used.id not in wanted:
                wanted.add(used.id)
                ahead.append(used)
    return tuple(entry for _, _, entry in all_logic(level) if entry.id in wanted)


def free_section(level: Level, name: str) -> str:
    """Return a section's name that the level does not have."""
    taken = {e.name for e in level.order if isinstance(e, Section | Rule | Graph)}
    return name if name not in taken else free_name(name, taken)
