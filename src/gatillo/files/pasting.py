"""Copying things of a level and pasting them, into the same level or another: as text for the clipboard.

What is copied is a small level with only that in it. Rules and cards have texts of their own (`desk/order_list`,
`desk/graph_view`).
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any, Literal, get_args

import msgspec
from msgspec.structs import replace

from gatillo.files.kits import bring_kit, make_kit
from gatillo.language.renaming import rename
from gatillo.level.edits import change_trial, free_object_id
from gatillo.level.model import (
    FORMAT_VERSION,
    Circle,
    Clause,
    Kind,
    Level,
    Object,
    Reference,
    Route,
    Section,
    Trial,
    Value,
    Variable,
)
from gatillo.level.naming import free_name
from gatillo.level.own_behaviours import own_behaviours, uses_of
from gatillo.level.thing_edits import add_place, change_kind, variables_of
from gatillo.level.tidying import tidied

START = "gatillo things\n"
"""With what the text of copied things begins."""
BESIDE = 20.0
"""Level units by which what is pasted is set off, where no point is given."""
Sort = Literal["objects", "kind", "place", "clip", "trial", "variant"]
"""Things that are selected as a whole."""
KindPart = Literal["behaviours", "variables", "readouts", "looks", "points", "topics"]
TrialPart = Literal["expectations", "watches", "keys"]
Part = KindPart | TrialPart
"""What a kind, a trial or (variables) the level has several of."""
KIND_PARTS: tuple[str, ...] = get_args(KindPart)
TRIAL_PARTS: tuple[str, ...] = get_args(TrialPart)


class Copied(msgspec.Struct, frozen=True):
    """What has been copied: of which sort it is, and a level with only that."""

    sort: Sort | Part
    level: Level
    count: int = 1
    """How many there are."""


@dataclass(frozen=True, slots=True)
class Pasted:
    """A level in which something has been pasted, the label of that edit, and what is new: ids of objects, or a name."""

    level: Level
    label: str
    objects: tuple[int, ...] = ()
    name: str = ""


def as_text(copied: Copied) -> str:
    """Return what has been copied as text for the clipboard."""
    return START + msgspec.json.encode(copied).decode()


def from_text(text: str) -> Copied | None:
    """Return what a text of the clipboard holds, or None if it holds no things.

    Raises ValueError with a sentence if it holds only a part of them.
    """
    if not text.startswith(START):
        return None
    try:
        return msgspec.json.decode(text[len(START) :].encode(), type=Copied)
    except (msgspec.MsgspecError, UnicodeError, RecursionError):
        raise ValueError("The clipboard contains only a part of what was copied; copy it again.") from None


# copying


def copied_objects(level: Level, ids: Collection[int]) -> Copied:
    """Return some objects, with their kinds and the own behaviours that those have."""
    objects = tuple(o for o in level.objects if o.id in ids)
    wanted = {o.kind for o in objects}
    kinds = tuple(k for k in level.kinds if k.name in wanted)
    return Copied("objects", _with_only(level, kinds=kinds, objects=objects), len(objects))


def copied_thing(level: Level, sort: Sort, name: str, *, with_rules: bool = False) -> Copied:
    """Return a kind, place, clip, trial or variant; a kind perhaps with its rules and what they speak of."""
    if sort == "kind" and with_rules:
        kit = make_kit(level, name, [name])
        # the kind itself first: it is the one that is meant
        kinds = sorted(kit.kinds, key=lambda kind: kind.name != name)
        return Copied("kind", replace(kit, kinds=tuple(kinds)))
    if sort == "kind":
        return Copied("kind", _with_only(level, kinds=tuple(k for k in level.kinds if k.name == name)))
    of = {"place": "places", "clip": "clips", "trial": "trials", "variant": "variants"}[sort]
    found = tuple(thing for thing in getattr(level, of) if thing.name == name)
    return Copied(sort, _with_only(level, **{of: found}))


def copied_parts(level: Level, part: Part, owner: str, items: tuple[Any, ...]) -> Copied:
    """Return some parts of a kind or a trial by its name, or variables of the level (then `owner` is empty)."""
    if part in TRIAL_PARTS:
        trial = Trial(name=owner or "trial")
        trial = (
            replace(trial, input=replace(trial.input, keys=items))
            if part == "keys"
            else replace(trial, **{part: items})
        )
        return Copied(part, _with_only(level, trials=(trial,)), len(items))
    if not owner:
        return Copied(part, _with_only(level, variables=items), len(items))
    return Copied(
        part,
        _with_only(level, kinds=(replace(_bare(owner), **{part: items}),)),
        len(items),
    )


def _bare(name: str) -> Kind:
    return Kind(name=name, shape=Circle(radius=1.0))


def _with_only(level: Level, **things: Any) -> Level:
    """Return a level with these things, and the own behaviours of kinds among them."""
    known = own_behaviours(level)
    has = {use.use for kind in things.get("kinds", ()) for use in uses_of(kind, known)}
    order = tuple(e for e in level.order if isinstance(e, Section) and e.own is not None and e.name in has)
    return Level(format=FORMAT_VERSION, name=level.name, order=order, **things)


# pasting


def paste(level: Level, copied: Copied, at: tuple[float, float] | None = None, onto: str = "") -> Pasted:
    """Return the level with what was copied.

    Objects and places come to the point `at`, in level units. Names that are taken get the next free number. Parts go to the kind
    or trial `onto` by its name, variables without it to the level. Raises ValueError with a sentence where there is nothing to put
    them onto.
    """
    if copied.sort == "objects":
        return _objects(level, copied, at)
    if copied.sort == "kind":
        return _kind(level, copied.level)
    if copied.sort == "place":
        return _place(level, copied.level, at)
    if copied.sort in ("clip", "trial", "variant"):
        return _named(level, copied)
    if copied.sort in TRIAL_PARTS:
        return _trial_parts(level, copied, onto)
    return _kind_parts(level, copied, onto)


def _objects(level: Level, copied: Copied, at: tuple[float, float] | None) -> Pasted:
    objects = copied.level.objects
    if not objects:
        raise ValueError("There are no objects on the clipboard.")
    level = _with_kinds(level, copied.level)
    xs, ys = [o.x for o in objects], [o.y for o in objects]
    dx, dy = BESIDE, -BESIDE
    if at is not None:
        dx, dy = at[0] - (min(xs) + max(xs)) / 2, at[1] - (min(ys) + max(ys)) / 2
    taken = {o.name for o in level.objects} | {k.name for k in level.kinds}
    here = {o.name for o in level.objects}
    groups = {o.group for o in level.objects if o.group}
    new_names: dict[str, str] = {}
    new_groups: dict[str, str] = {}
    for thing in objects:
        name = thing.name if thing.name not in taken else free_name(thing.kind, taken)
        taken.add(name)
        new_names[thing.name] = name
        if thing.group and thing.group not in new_groups:
            group = thing.group if thing.group not in groups else free_name("group", groups)
            groups.add(group)
            new_groups[thing.group] = group

    def value(given: Value) -> Value:
        if isinstance(given, Reference) and given.to in new_names:
            return replace(given, to=new_names[given.to])
        return given

    number = free_object_id(level)
    made: list[Object] = []
    for offset, thing in enumerate(objects):
        carrier = new_names.get(thing.attached, thing.attached if thing.attached in here else "")
        made.append(
            replace(
                thing,
                id=number + offset,
                name=new_names[thing.name],
                x=round(thing.x + dx, 3),
                y=round(thing.y + dy, 3),
                attached=carrier,
                group=new_groups.get(thing.group, ""),
                values={name: value(v) for name, v in thing.values.items()},
            )
        )
    level = tidied(replace(level, objects=(*level.objects, *made)))
    many = f"{len(made)} objects" if len(made) != 1 else made[0].name
    return Pasted(level, f"paste {many}", objects=tuple(o.id for o in made))


def _with_kinds(level: Level, other: Level) -> Level:
    """Return the level with the kinds of another that it lacks; what references they have that are not there are nobody."""
    here = {k.name for k in level.kinds}
    missing = tuple(k for k in other.kinds if k.name not in here)
    if not missing:
        return level
    has = {use.use for kind in missing for use in uses_of(kind, own_behaviours(other))}
    if not has:
        return replace(level, kinds=(*level.kinds, *missing))
    order = tuple(e for e in other.order if isinstance(e, Section) and e.name in has)
    return bring_kit(level, replace(other, objects=(), kinds=missing, order=order), {})


def _kind(level: Level, other: Level) -> Pasted:
    kind = other.kinds[0] if other.kinds else None
    if kind is None:
        raise ValueError("There is no kind on the clipboard.")
    taken = {k.name for k in level.kinds} | {o.name for o in level.objects}
    name = kind.name if kind.name not in taken else free_name(kind.name, taken)
    if other.order:
        level = bring_kit(level, other, {("kind", kind.name): name})
    else:
        level = replace(level, kinds=(*level.kinds, rename(other, "kind", kind.name, name).kinds[0]))
    return Pasted(tidied(level), f"paste the kind {name}", name=name)


def _place(level: Level, other: Level, at: tuple[float, float] | None) -> Pasted:
    if not other.places:
        raise ValueError("There is no place on the clipboard.")
    place = other.places[0]
    points = [(s.x, s.y) for s in place.stops] if isinstance(place, Route) else [(place.x, place.y)]
    xs, ys = [x for x, _ in points] or [0.0], [y for _, y in points] or [0.0]
    dx, dy = BESIDE, -BESIDE
    if at is not None:
        dx, dy = at[0] - (min(xs) + max(xs)) / 2, at[1] - (min(ys) + max(ys)) / 2
    taken = {p.name for p in level.places}
    name = place.name if place.name not in taken else free_name(place.name, taken)
    if isinstance(place, Route):
        stops = tuple(replace(s, x=round(s.x + dx, 1), y=round(s.y + dy, 1)) for s in place.stops)
        place = replace(place, name=name, stops=stops)
    else:
        place = replace(place, name=name, x=round(place.x + dx, 1), y=round(place.y + dy, 1))
    level, name = add_place(level, place)
    return Pasted(level, f"paste {name}", name=name)


def _named(level: Level, copied: Copied) -> Pasted:
    of = {"clip": "clips", "trial": "trials", "variant": "variants"}[copied.sort]
    found, here = getattr(copied.level, of), getattr(level, of)
    if not found:
        raise ValueError(f"There is no {copied.sort} on the clipboard.")
    taken = {thing.name for thing in here}
    name = found[0].name if found[0].name not in taken else free_name(found[0].name, taken)
    level = tidied(replace(level, **{of: (*here, replace(found[0], name=name))}))
    return Pasted(level, f"paste the {copied.sort} {name}", name=name)


def _trial_parts(level: Level, copied: Copied, onto: str) -> Pasted:
    if not any(t.name == onto for t in level.trials) or not copied.level.trials:
        raise ValueError(f"Open the page of a trial first, to paste {copied.sort} into it.")
    given = copied.level.trials[0]

    def added(trial: Trial) -> Trial:
        if copied.sort == "keys":
            return replace(trial, input=replace(trial.input, keys=(*trial.input.keys, *given.input.keys)))
        if copied.sort == "watches":
            return replace(trial, watches=tuple(dict.fromkeys((*trial.watches, *given.watches))))
        return replace(trial, expectations=(*trial.expectations, *given.expectations))

    level = change_trial(level, onto, added)
    return Pasted(level, f"paste {counted(copied)} into “{onto}”", name=onto)


def counted(copied: Copied) -> str:
    """Return how many of which sort have been copied, in words."""
    one = {"expectations": "expectation", "watches": "watch", "keys": "key"}.get(
        copied.sort, copied.sort.removesuffix("s")
    )
    return f"{copied.count} {one if copied.count == 1 else copied.sort}"


def _kind_parts(level: Level, copied: Copied, onto: str) -> Pasted:
    kind = next((k for k in level.kinds if k.name == onto), None)
    if copied.sort == "variables":
        given = copied.level.kinds[0].variables if copied.level.kinds else copied.level.variables
        return _paste_variables(level, given, onto if kind is not None else "", copied)
    if kind is None or not copied.level.kinds:
        raise ValueError(f"Open the page of a kind first, to paste {copied.sort} into it.")
    # what speaks of its own object names it by its kind
    source = rename(copied.level, "kind", copied.level.kinds[0].name, onto).kinds[0]
    items = getattr(source, copied.sort)

    def added(found: Kind) -> Kind:
        here = getattr(found, copied.sort)
        if copied.sort == "behaviours":
            return replace(found, behaviours=_with_behaviours(here, items))
        if copied.sort == "readouts":
            return replace(found, readouts=(*here, *items))
        taken = {one.name for one in here}
        new = []
        for one in items:
            name = one.name if one.name not in taken else free_name(one.name, taken)
            taken.add(name)
            new.append(replace(one, name=name))
        return replace(found, **{copied.sort: (*here, *new)})

    level = change_kind(level, onto, added)
    return Pasted(level, f"paste {counted(copied)} into {onto}", name=onto)


def _with_behaviours(here: tuple[Clause, ...], given: tuple[Clause, ...]) -> tuple[Clause, ...]:
    """Return behaviours with others added; one that is there already gets the settings of the other."""
    new = {clause.use: clause for clause in given}
    there = tuple(new.pop(clause.use, clause) for clause in here)
    return (*there, *(clause for clause in given if clause.use in new))


def _paste_variables(level: Level, given: tuple[Variable, ...], onto: str, copied: Copied) -> Pasted:
    taken = {v.name for v in variables_of(level, onto or None)}
    new: list[Variable] = []
    for variable in given:
        name = variable.name if variable.name not in taken else free_name(variable.name, taken)
        taken.add(name)
        new.append(replace(variable, name=name))
    level = (
        change_kind(level, onto, lambda k: replace(k, variables=(*k.variables, *new)))
        if onto
        else replace(level, variables=(*level.variables, *new))
    )
    return Pasted(tidied(level), f"paste {counted(copied)}" + (f" into {onto}" if onto else ""), name=onto)
