"""Edits of what a level is made of: kinds, variables, places, clips, trials."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace

from gatillo.level.drawings import drawing_for
from gatillo.level.edits import change_trial
from gatillo.level.expectations import Expectation, SameOrder
from gatillo.level.model import (
    Area,
    Circle,
    Clause,
    Clip,
    ClipPoint,
    KeyBar,
    Kind,
    Level,
    Place,
    Rectangle,
    Route,
    Spot,
    Stop,
    Topic,
    Trial,
    Variable,
    Variant,
)
from gatillo.level.naming import free_name
from gatillo.level.tidying import tidied

COLOURS = ("#0E6B50", "#2B6C99", "#A5483B", "#7A5B2E", "#8A4B7D", "#44535F", "#6B6A1E", "#B0562A")
"""Colours for kinds that can be told apart by people who see colours differently."""


def _taken(level: Level) -> set[str]:
    return {k.name for k in level.kinds} | {o.name for o in level.objects}


def add_kind(level: Level, name: str = "") -> tuple[Level, str]:
    """Return a new kind with a free name and the next colour; the level and its name."""
    name = name if name and name not in _taken(level) else free_name(name or "Kind", _taken(level))
    kind = Kind(
        name=name,
        shape=Circle(radius=12.0),
        colour=COLOURS[len(level.kinds) % len(COLOURS)],
        glyph=name[0].upper(),
        drawing=drawing_for(name),
    )
    return replace(level, kinds=(*level.kinds, kind)), name


def change_kind(level: Level, name: str, change: Callable[[Kind], Kind]) -> Level:
    """Return the level with one kind changed."""
    return replace(level, kinds=tuple(change(k) if k.name == name else k for k in level.kinds))


def follow_name(kind: Kind, old: str) -> Kind:
    """Return a kind that was called `old`: a letter and a drawing that came from its name follow it."""
    if kind.glyph == old[0].upper():
        kind = replace(kind, glyph=kind.name[0].upper())
    drawing = drawing_for(kind.name)
    if drawing and not kind.picture and kind.drawing in ("", drawing_for(old)):
        kind = replace(kind, drawing=drawing)
    return kind


def set_kind(level: Level, name: str, **fields: Any) -> Level:
    """Give fields of a kind new values."""
    changed = change_kind(level, name, lambda k: replace(k, **fields))
    # what becomes scenery can be referred to no longer
    return tidied(changed) if "scenery" in fields else changed


def delete_kind(level: Level, name: str) -> Level:
    """Take a kind out of the level, with all its objects. Rules that speak of it stay, with findings."""
    kinds = tuple(k for k in level.kinds if k.name != name)
    return tidied(replace(level, kinds=kinds, objects=tuple(o for o in level.objects if o.kind != name)))


# variables, of the level or of a kind


def variables_of(level: Level, kind: str | None) -> tuple[Variable, ...]:
    """Return the variables of a kind, or of the level. Raises KeyError."""
    if kind is None:
        return level.variables
    for found in level.kinds:
        if found.name == kind:
            return found.variables
    raise KeyError(kind)


def _with_variables(level: Level, kind: str | None, variables: tuple[Variable, ...]) -> Level:
    if kind is None:
        return replace(level, variables=variables)
    return set_kind(level, kind, variables=variables)


def add_variable(level: Level, kind: str | None, name: str = "") -> tuple[Level, str]:
    """Return a new number variable of a kind (or of the level); the level and its name."""
    taken = {v.name for v in variables_of(level, kind)}
    name = name if name and name not in taken else free_name(name or "number", taken)
    return _with_variables(level, kind, (*variables_of(level, kind), Variable(name=name))), name


def set_variable(level: Level, kind: str | None, name: str, **fields: Any) -> Level:
    """Give fields of a variable new values. A value of another type takes away the objects' own values."""
    variables = tuple(replace(v, **fields) if v.name == name else v for v in variables_of(level, kind))
    return tidied(_with_variables(level, kind, variables))


def delete_variable(level: Level, kind: str | None, name: str) -> Level:
    """Take a variable away, with the values that objects and trials give it."""
    kept = tuple(v for v in variables_of(level, kind) if v.name != name)
    return tidied(_with_variables(level, kind, kept))


# behaviours and topics of a kind


def add_behaviour(level: Level, kind: str, use: str) -> Level:
    """Give a kind a behaviour, with its usual settings."""
    return change_kind(level, kind, lambda k: replace(k, behaviours=(*k.behaviours, Clause(use=use))))


def set_behaviour(level: Level, kind: str, use: str, slot: str, text: str) -> Level:
    """Change one setting of a kind's behaviour."""

    def change(found: Kind) -> Kind:
        behaviours = tuple(
            replace(b, slots={**b.slots, slot: text}) if b.use == use else b for b in found.behaviours
        )
        return replace(found, behaviours=behaviours)

    return change_kind(level, kind, change)


def delete_behaviour(level: Level, kind: str, use: str) -> Level:
    """Take a behaviour from a kind."""
    return change_kind(
        level, kind, lambda k: replace(k, behaviours=tuple(b for b in k.behaviours if b.use != use))
    )


def set_topics(level: Level, kind: str, topics: tuple[Topic, ...]) -> Level:
    """Return what can be talked about with objects of a kind."""
    return set_kind(level, kind, topics=topics)


# places


def add_place(level: Level, place: Place) -> tuple[Level, str]:
    """Put a place into the level, under a free name; the level and its name."""
    taken = {p.name for p in level.places}
    stem = place.name or type(place).__name__.lower()
    name = stem if place.name and stem not in taken else free_name(stem, taken)
    return replace(level, places=(*level.places, replace(place, name=name))), name


BESIDE = 20.0
"""Level units to the right and down at which the copy of a place lies."""


def copy_kind(level: Level, name: str) -> tuple[Level, str]:
    """Return a copy of a kind beside it, with all that it has but its objects and rules; the level and its name."""
    kinds = list(level.kinds)
    at = next(i for i, kind in enumerate(kinds) if kind.name == name)
    copy = follow_name(replace(kinds[at], name=free_name(name, _taken(level))), name)
    kinds.insert(at + 1, copy)
    return replace(level, kinds=tuple(kinds)), copy.name


def copy_place(level: Level, name: str) -> tuple[Level, str]:
    """Return a copy of a place a little to the right and below it; the level and its name."""
    old = next(place for place in level.places if place.name == name)
    copy: Place
    if isinstance(old, Route):
        stops = tuple(replace(stop, x=stop.x + BESIDE, y=stop.y - BESIDE) for stop in old.stops)
        copy = replace(old, stops=stops)
    else:
        copy = replace(old, x=old.x + BESIDE, y=old.y - BESIDE)
    return add_place(level, replace(copy, name=free_name(name, {p.name for p in level.places})))


def copy_trial(level: Level, name: str) -> tuple[Level, str]:
    """Return a copy of a trial below it, with its input, expectations and watches; the level and its name."""
    trials = list(level.trials)
    at = next(i for i, trial in enumerate(trials) if trial.name == name)
    copy = replace(trials[at], name=free_name(name, [trial.name for trial in trials]))
    trials.insert(at + 1, copy)
    return replace(level, trials=tuple(trials)), copy.name


def copy_variant(level: Level, name: str) -> tuple[Level, str]:
    """Return a copy of a variant below it; the level and its name."""
    variants = list(level.variants)
    at = next(i for i, variant in enumerate(variants) if variant.name == name)
    copy = replace(variants[at], name=free_name(name, [variant.name for variant in variants]))
    variants.insert(at + 1, copy)
    return replace(level, variants=tuple(variants)), copy.name


def new_spot(x: float, y: float) -> Spot:
    """Return a spot at a point, still without a name."""
    return Spot(name="", x=round(x, 1), y=round(y, 1))


def new_area(x: float, y: float, width: float, height: float, *, circle: bool = False) -> Area:
    """Return an area with its middle at x, y."""
    shape = (
        Circle(radius=round(max(width, height) / 2, 1))
        if circle
        else Rectangle(width=round(width, 1), height=round(height, 1))
    )
    return Area(name="", x=round(x, 1), y=round(y, 1), shape=shape)


def new_route(stops: list[tuple[float, float]]) -> Route:
    """Return a route through some points, still without a name."""
    return Route(name="", stops=tuple(Stop(x=round(x, 1), y=round(y, 1)) for x, y in stops))


def set_place(level: Level, name: str, **fields: Any) -> Level:
    """Give fields of a place new values."""
    return replace(level, places=tuple(replace(p, **fields) if p.name == name else p for p in level.places))


def move_place(level: Level, name: str, dx: float, dy: float) -> Level:
    """Move a place; a route with all its stops."""

    def moved(place: Place) -> Place:
        if isinstance(place, Route):
            stops = tuple(replace(s, x=round(s.x + dx, 1), y=round(s.y + dy, 1)) for s in place.stops)
            return replace(place, stops=stops)
        return replace(place, x=round(place.x + dx, 1), y=round(place.y + dy, 1))

    return replace(level, places=tuple(moved(p) if p.name == name else p for p in level.places))


def delete_place(level: Level, name: str) -> Level:
    """Take a place out of the level. Rules that speak of it stay, with findings."""
    return replace(level, places=tuple(p for p in level.places if p.name != name))


def add_clip(level: Level, points: tuple[ClipPoint, ...]) -> tuple[Level, str]:
    """Put a recorded motion into the level, under a free name; the level and its name."""
    name = free_name("clip", {clip.name for clip in level.clips})
    return replace(level, clips=(*level.clips, Clip(name=name, points=points))), name


# trials


def add_trial(level: Level) -> tuple[Level, str]:
    """Return a new trial; the level and its name."""
    name = free_name("Trial", {t.name for t in level.trials})
    return replace(level, trials=(*level.trials, Trial(name=name))), name


def trial_of_take(level: Level, trial: Trial) -> tuple[Level, str]:
    """Add a copy of a trial that has other input, without its expectations; the level and the name of the copy."""
    name = free_name(trial.name, {t.name for t in level.trials})
    new = replace(trial, name=name, expectations=(), fails=0, note="")
    return replace(level, trials=(*level.trials, new)), name


def delete_trial(level: Level, name: str) -> Level:
    """Return the level without a trial."""
    return replace(level, trials=tuple(t for t in level.trials if t.name != name))


def add_variant(level: Level) -> tuple[Level, str]:
    """Return a new variant that changes nothing yet; the level and its name."""
    name = free_name("Variant", {v.name for v in level.variants})
    return replace(level, variants=(*level.variants, Variant(name=name))), name


def delete_variant(level: Level, name: str) -> Level:
    """Return the level without a variant."""
    return replace(level, variants=tuple(v for v in level.variants if v.name != name))


def add_expectation(level: Level, trial: str, expectation: Expectation) -> Level:
    """Add an expectation to a trial."""
    return change_trial(level, trial, lambda t: replace(t, expectations=(*t.expectations, expectation)))


def set_expectation(
    level: Level, trial: str, at: int, was: Expectation, expectation: Expectation | None
) -> Level:
    """Put another expectation in the place of one; None takes it away. Raises LookupError if that one is not there."""

    def change(found: Trial) -> Trial:
        kept = list(found.expectations)
        if kept[at : at + 1] != [was]:
            raise LookupError(f"“{trial}” does not expect that any more")
        kept[at : at + 1] = [expectation] if expectation is not None else []
        return replace(found, expectations=tuple(kept))

    return change_trial(level, trial, change)


def accept_order(level: Level, trial: str, made: SameOrder) -> Level:
    """Let a trial accept an order of firing, in the place of the one that it accepted before."""

    def change(found: Trial) -> Trial:
        kept = tuple(one for one in found.expectations if not isinstance(one, SameOrder))
        return replace(found, expectations=(*kept, made))

    return change_trial(level, trial, change)


def set_bars(level: Level, trial: str, bars: tuple[KeyBar, ...]) -> Level:
    """Return the keys that a trial holds down."""
    ordered = tuple(sorted(bars, key=lambda b: (b.start, b.key)))
    return change_trial(level, trial, lambda t: replace(t, input=replace(t.input, keys=ordered)))
