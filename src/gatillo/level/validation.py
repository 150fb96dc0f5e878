"""Checks of a level as a document: names unique and known, numbers in range.

A level that fails here is not loaded. What is wrong inside a rule is no reason to refuse the level:
it is a finding, shown at its line.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from itertools import pairwise

from gatillo.level.document import FARTHEST
from gatillo.level.drawings import DRAWINGS
from gatillo.level.graphs import structure_flaws
from gatillo.level.model import (
    Area,
    Circle,
    Clause,
    Graph,
    Kind,
    Level,
    Logic,
    Object,
    Reference,
    Route,
    Section,
    Shape,
    Trial,
    Value,
    Variant,
)
from gatillo.level.naming import did_you_mean, free_name_problem, name_problem, token
from gatillo.level.pictures import MOST_PIXELS, as_png, size_of
from gatillo.level.properties import PROPERTIES
from gatillo.level.roles import all_logic, type_of

COLOUR = re.compile(r"#[0-9A-Fa-f]{6}")
HARD_BOUNDS = {
    "most_objects": 50_000,
    "most_creations": 20_000,
    "most_messages": 100_000,
    "most_matches": 4_000_000,
    "most_repeats": 100_000,
}
"""Above these no level can set its own bounds; the schema has them too."""
LONGEST_TRIAL = 3_600.0
MOST_NESTED = 40
"""How deep lines may stand within one another; a file with deeper ones would not be read again."""


@dataclass(frozen=True, slots=True)
class Flaw:
    """Where a level does not hang together: a path like `$.objects[2].kind`, and a sentence."""

    path: str
    message: str


def flaws(level: Level) -> Iterator[Flaw]:
    """Everything that does not hang together, in the order of the document."""
    yield from _settings(level)
    yield from _unique(
        "variable", ((f"$.variables[{i}].name", v.name) for i, v in enumerate(level.variables))
    )
    yield from _kinds(level)
    yield from _pictures(level)
    yield from _unique("place", ((f"$.places[{i}].name", p.name) for i, p in enumerate(level.places)))
    yield from _references(level)
    clips = ((f"$.clips[{i}].name", clip.name) for i, clip in enumerate(level.clips))
    yield from _unique("clip", clips, free=True)
    for at, clip in enumerate(level.clips):
        times = [point.at for point in clip.points]
        if not times or times[0] < 0 or any(b <= a for a, b in pairwise(times)):
            yield Flaw(
                f"$.clips[{at}].points",
                "a clip needs at least one point, and each must be later than the one before",
            )
    for at, place in enumerate(level.places):
        if isinstance(place, Area):
            yield from _shape(f"$.places[{at}].shape", place.shape)
        elif isinstance(place, Route):
            yield from _stops(f"$.places[{at}].stops", place)
    yield from _objects(level)
    yield from _order(level)
    names = ((f"$.trials[{i}].name", t.name) for i, t in enumerate(level.trials))
    yield from _unique("trial", names, free=True)
    for at, trial in enumerate(level.trials):
        if not 0 < trial.length <= LONGEST_TRIAL:
            yield Flaw(
                f"$.trials[{at}].length",
                f"a trial lasts more than 0 and at most {LONGEST_TRIAL:g} s, not {trial.length:g}",
            )
        if any(not 10 <= rate <= 240 for rate in trial.rates):
            yield Flaw(f"$.trials[{at}].rates", "a tick rate must be between 10 and 240 a second")
        if not 1 <= trial.seeds <= 10_000:
            yield Flaw(f"$.trials[{at}].seeds", "a trial is checked over at least 1 and at most 10000 seeds")
        if not 0 <= trial.seed < 2**62:
            yield Flaw(f"$.trials[{at}].seed", "a seed is a whole number from 0 up")
        yield from _overrides(level, f"$.trials[{at}]", trial)
        for bar, keys in enumerate(trial.input.keys):
            if keys.end < keys.start:
                yield Flaw(
                    f"$.trials[{at}].input.keys[{bar}].to",
                    f"the key “{keys.key}” is released before it is pressed",
                )
    variants = ((f"$.variants[{i}].name", v.name) for i, v in enumerate(level.variants))
    yield from _unique("variant", variants, free=True)
    for at, variant in enumerate(level.variants):
        yield from _overrides(level, f"$.variants[{at}]", variant)


def _stops(path: str, route: Route) -> Iterator[Flaw]:
    for at, stop in enumerate(route.stops):
        if stop.time > 0 and stop.speed > 0:
            yield Flaw(
                f"{path}[{at}]", "the leg after a stop has a time or a speed, not both; set one of them to 0"
            )
        problem = free_name_problem(stop.message) if stop.message else None
        if problem:
            yield Flaw(f"{path}[{at}].message", problem)


def _references(level: Level) -> Iterator[Flaw]:
    """Yield values that refer to an object or a kind which is not there."""
    values: list[tuple[str, Value]] = [
        (f"$.variables[{i}].value", v.value) for i, v in enumerate(level.variables)
    ]
    for at, kind in enumerate(level.kinds):
        values += [(f"$.kinds[{at}].variables[{i}].value", v.value) for i, v in enumerate(kind.variables)]
    for at, thing in ((at, thing) for at, thing in enumerate(level.objects) if thing.values):
        values += [(f"$.objects[{at}].values.{name}", value) for name, value in thing.values.items()]
    kinds = {k.name for k in level.kinds}
    objects = {o.name: o.kind for o in level.objects}
    scenery = {k.name for k in level.kinds if k.scenery}
    for path, value in values:
        if not isinstance(value, Reference):
            continue
        if value.kind and value.kind not in kinds:
            yield Flaw(path, f"there is no kind called “{value.kind}”{did_you_mean(value.kind, kinds)}")
        if value.to and value.to not in objects:
            yield Flaw(path, f"there is no object called “{value.to}”{did_you_mean(value.to, objects)}")
        elif value.kind in scenery or objects.get(value.to) in scenery:
            said = value.to or value.kind
            yield Flaw(path, f"“{said}” is scenery, which takes no part: nothing can refer to it")
        elif value.to and value.kind and objects[value.to] != value.kind:
            yield Flaw(path, f"“{value.to}” is a {objects[value.to]}, so this cannot refer to it")


def _overrides(level: Level, where: str, trial: Trial | Variant) -> Iterator[Flaw]:
    known: dict[str, Value] = {v.name: v.value for v in level.variables}
    for name, value in trial.values.items():
        path = f"{where}.values.{name}"
        if name not in known:
            yield Flaw(path, f"the level has no variable “{name}”{did_you_mean(name, known)}")
        elif type_of(value) != type_of(known[name]):
            yield Flaw(path, f"“{name}” is a {type_of(known[name])}, so it cannot be {value!r}")
    switchable = {e.name for e in level.order} | {r.name for _, _, r in all_logic(level)}
    for field in ("on", "off"):
        for number, name in enumerate(getattr(trial, field)):
            if name not in switchable:
                missing = f"there is no rule or section called “{name}”{did_you_mean(name, switchable)}"
                yield Flaw(f"{where}.{field}[{number}]", missing)


def _settings(level: Level) -> Iterator[Flaw]:
    settings = level.settings
    if not 10 <= settings.rate <= 240:
        yield Flaw(
            "$.settings.rate", f"the tick rate must be between 10 and 240 a second, not {settings.rate}"
        )
    for name, most in HARD_BOUNDS.items():
        if not 1 <= getattr(settings, name) <= most:
            yield Flaw(f"$.settings.{name}", f"this bound is at least 1 and at most {most:,}")
    if settings.ground and not COLOUR.fullmatch(settings.ground):
        yield Flaw("$.settings.ground", f"“{settings.ground}” is no colour; write it as #0E6B50")
    if len(level.objects) > settings.most_objects:
        yield Flaw(
            "$.objects",
            f"the level has {len(level.objects):,} objects; its bound is {settings.most_objects:,}",
        )


def _pictures(level: Level) -> Iterator[Flaw]:
    """Yield pictures that cannot be shown, and the first that makes all together too large; a picture twice counts once."""
    places = [("$.settings.ground_picture", level.settings.ground_picture)]
    places += [(f"$.kinds[{at}].picture", kind.picture) for at, kind in enumerate(level.kinds)]
    places += [
        (f"$.kinds[{at}].looks[{i}].picture", look.picture)
        for at, kind in enumerate(level.kinds)
        for i, look in enumerate(kind.looks)
    ]
    pixels = 0
    seen: set[str] = set()
    for path, text in places:
        if not text or text in seen:
            continue
        seen.add(text)
        try:
            wide, high = size_of(as_png(text))
        except ValueError as error:
            yield Flaw(path, str(error))
            continue
        pixels += wide * high
        if pixels > MOST_PIXELS >= pixels - wide * high:
            yield Flaw(
                path,
                f"with this picture all of the level have {pixels:,} pixels; {MOST_PIXELS:,} are the most. Make some smaller",
            )


def _unique(what: str, names: Iterable[tuple[str, str]], *, free: bool = False) -> Iterator[Flaw]:
    seen: dict[str, str] = {}
    for path, name in names:
        problem = name_problem(name) if not free else free_name_problem(name)
        if problem:
            yield Flaw(path, problem)
        key = name if free else token(name)
        if key in seen:
            yield Flaw(
                path, f"two {what}s are called “{name}”; the other is {seen[key]}. Give one another name"
            )
        seen.setdefault(key, path.removeprefix("$."))


def _kinds(level: Level) -> Iterator[Flaw]:
    yield from _unique("kind", ((f"$.kinds[{i}].name", k.name) for i, k in enumerate(level.kinds)))
    for at, kind in enumerate(level.kinds):
        yield from _shape(f"$.kinds[{at}].shape", kind.shape)
        names = ((f"$.kinds[{at}].variables[{i}].name", v.name) for i, v in enumerate(kind.variables))
        yield from _unique("variable", names)
        yield from _drawing(f"$.kinds[{at}].drawing", kind.drawing)
        yield from _looks(f"$.kinds[{at}].looks", kind)
        if kind.scenery:
            for sort in ("variables", "behaviours", "topics", "readouts", "looks"):
                if getattr(kind, sort):
                    yield Flaw(
                        f"$.kinds[{at}].{sort}",
                        f"“{kind.name}” is scenery, which takes no part: it has no {sort}",
                    )
        if not 0 < kind.mass <= FARTHEST:
            yield Flaw(f"$.kinds[{at}].mass", f"a mass is above 0 and at most {FARTHEST:,.0f}")
        for part in ("bounce", "friction"):
            if not 0 <= getattr(kind, part) <= 1:
                yield Flaw(f"$.kinds[{at}].{part}", f"a {part} must be between 0 and 1")
        points = ((f"$.kinds[{at}].points[{i}].name", p.name) for i, p in enumerate(kind.points))
        yield from _unique("point", points)
        topics = ((f"$.kinds[{at}].topics[{i}].name", t.name) for i, t in enumerate(kind.topics))
        yield from _unique("topic", topics, free=True)
        for i, variable in enumerate(kind.variables):
            if variable.name in PROPERTIES and PROPERTIES[variable.name].named:
                yield Flaw(
                    f"$.kinds[{at}].variables[{i}].name",
                    f"every object already has “{variable.name}”; choose another name",
                )


def _drawing(path: str, drawing: str) -> Iterator[Flaw]:
    if drawing and drawing not in DRAWINGS:
        yield Flaw(path, f"there is no ready drawing “{drawing}”{did_you_mean(drawing, DRAWINGS)}")


def _looks(path: str, kind: Kind) -> Iterator[Flaw]:
    yield from _unique("look", ((f"{path}[{i}].name", look.name) for i, look in enumerate(kind.looks)))
    for i, look in enumerate(kind.looks):
        yield from _drawing(f"{path}[{i}].drawing", look.drawing)
        if look.colour and not COLOUR.fullmatch(look.colour):
            yield Flaw(f"{path}[{i}].colour", f"“{look.colour}” is no colour; write it as #0E6B50")


def _shape(path: str, shape: Shape) -> Iterator[Flaw]:
    sizes = (shape.radius,) if isinstance(shape, Circle) else (shape.width, shape.height)
    if not all(0 < size <= FARTHEST for size in sizes):
        yield Flaw(path, "a shape's size must be above 0")


def _objects(level: Level) -> Iterator[Flaw]:
    kinds = {kind.name: kind for kind in level.kinds}
    # one namespace: a role may name a kind or an object
    names = [k.name for k in level.kinds] + [o.name for o in level.objects]
    if len(set(map(token, names))) < len(names) or any(map(name_problem, names)):
        named = [(f"$.kinds[{i}].name", k.name) for i, k in enumerate(level.kinds)]
        named += [(f"$.objects[{i}].name", o.name) for i, o in enumerate(level.objects)]
        reported = {flaw.path for flaw in _kinds(level)}
        for flaw in _unique("object", named):
            if flaw.path not in reported:
                yield flaw
    ids: dict[int, int] = {}
    for at, thing in enumerate(level.objects):
        first = ids.setdefault(thing.id, at)
        if first != at or not 0 < thing.id < 1_000_000:
            path = f"$.objects[{at}]"
            if not 0 < thing.id < 1_000_000:
                yield Flaw(f"{path}.id", "an object's id must be between 1 and 999999")
            if first != at:
                yield Flaw(f"{path}.id", f"objects[{first}] has the id {thing.id} too; ids must differ")
        kind = kinds.get(thing.kind)
        if kind is None:
            hint = did_you_mean(thing.kind, kinds)
            yield Flaw(
                f"$.objects[{at}].kind",
                f"“{thing.name}” is of the kind “{thing.kind}”, which is not defined{hint}",
            )
        elif thing.values:
            yield from _values(f"$.objects[{at}]", thing, kind)
        if not (abs(thing.x) <= FARTHEST and abs(thing.y) <= FARTHEST and 0 < thing.scale <= 1e6):
            said = f"“{thing.name}” is out of range: keep x and y within ±1e9 and scale above 0"
            yield Flaw(f"$.objects[{at}]", said)
    yield from _attached(level)


def _attached(level: Level) -> Iterator[Flaw]:
    """Yield what is attached to nothing that there is, or to itself. Each object is passed once, however long the chains."""
    carriers = {thing.name: thing.attached for thing in level.objects}
    clear: set[str] = set()
    """Names that are known not to come back to themselves."""
    for at, thing in enumerate(level.objects):
        if not thing.attached:
            continue
        path = f"$.objects[{at}].attached"
        if thing.attached not in carriers:
            missing = f"there is no object called “{thing.attached}”{did_you_mean(thing.attached, carriers)}"
            yield Flaw(path, missing)
            continue
        if thing.name in clear:
            continue
        passed: dict[str, int] = {}
        name = thing.name
        while name in carriers and name not in clear and name not in passed:
            passed[name] = len(passed)
            name = carriers[name]
        round_from = passed.get(name, len(passed))
        clear.update(list(passed)[:round_from])
        if round_from == 0 and name == thing.name:
            yield Flaw(path, f"“{thing.name}” is attached to itself, by way of others; detach one of them")


def _values(path: str, thing: Object, kind: Kind) -> Iterator[Flaw]:
    known: dict[str, Value] = {v.name: v.value for v in kind.variables}
    for name, value in thing.values.items():
        if name not in known:
            yield Flaw(
                f"{path}.values.{name}",
                f"the kind “{kind.name}” has no variable “{name}”{did_you_mean(name, known)}",
            )
        elif type_of(value) != type_of(known[name]):
            yield Flaw(
                f"{path}.values.{name}", f"“{name}” is a {type_of(known[name])}, so it cannot be {value!r}"
            )


def _order(level: Level) -> Iterator[Flaw]:
    places: list[tuple[str, str, int]] = []
    for at, entry in enumerate(level.order):
        if isinstance(entry, Section):
            places += [(f"$.order[{at}].rules[{i}]", r.name, r.id) for i, r in enumerate(entry.rules)]
        else:
            places.append((f"$.order[{at}]", entry.name, entry.id))
    yield from _unique("rule", ((f"{path}.name", name) for path, name, _ in places), free=True)
    logic: list[tuple[str, Logic]] = []
    for at, entry in enumerate(level.order):
        if isinstance(entry, Section):
            logic += [(f"$.order[{at}].rules[{i}]", inner) for i, inner in enumerate(entry.rules)]
        else:
            logic.append((f"$.order[{at}]", entry))
    for path, entry in logic:
        if isinstance(entry, Graph):
            for where, message in structure_flaws(entry, path):
                yield Flaw(where, message)
    for path, entry in logic:
        yield from _nested(path, entry)
    sections = [(f"$.order[{i}].name", e.name) for i, e in enumerate(level.order) if isinstance(e, Section)]
    for path, name in sections:
        problem = free_name_problem(name)
        if problem:
            yield Flaw(path, problem)
    yield from _own_behaviours(level)
    seen: dict[int, str] = {}
    for path, name, number in places:
        if number in seen:
            yield Flaw(
                f"{path}.id",
                f"the rules “{seen[number]}” and “{name}” have the same id {number}; ids must differ",
            )
        seen.setdefault(number, name)


def _own_behaviours(level: Level) -> Iterator[Flaw]:
    """Yield what is wrong with own behaviours: their names are names of tags, and their settings are variables."""
    named: dict[str, str] = {}
    for at, entry in enumerate(level.order):
        if not isinstance(entry, Section) or entry.own is None:
            continue
        path = f"$.order[{at}]"
        problem = name_problem(entry.name)
        if problem:
            yield Flaw(f"{path}.name", problem)
        if entry.name in named:
            yield Flaw(
                f"{path}.name",
                f"two own behaviours are called “{entry.name}”; the other is {named[entry.name]}",
            )
        named.setdefault(entry.name, path.removeprefix("$."))
        settings = entry.own.settings
        for number, tag in enumerate(entry.own.tags):
            problem = name_problem(tag)
            if problem:
                yield Flaw(f"{path}.own.tags[{number}]", problem)
            elif tag == entry.name:
                yield Flaw(f"{path}.own.tags[{number}]", "an own behaviour is its own tag; give it another")
        yield from _unique(
            "setting", ((f"{path}.own.settings[{i}].name", s.name) for i, s in enumerate(settings))
        )
        for number, setting in enumerate(settings):
            where = f"{path}.own.settings[{number}]"
            if isinstance(setting.value, Reference):
                yield Flaw(f"{where}.value", "a setting is a number, yes or no, a text or a point")
            if setting.least is not None and setting.most is not None and setting.least > setting.most:
                yield Flaw(
                    f"{where}.least", f"the least, {setting.least:g}, is above the most, {setting.most:g}"
                )
    for at, kind in enumerate(level.kinds):
        twice = [use.use for i, use in enumerate(kind.own) if any(use.use == o.use for o in kind.own[:i])]
        if twice:
            yield Flaw(f"$.kinds[{at}].own", f"“{kind.name}” has the own behaviour “{twice[0]}” twice")


def _nested(path: str, entry: Logic) -> Iterator[Flaw]:
    """Yield the block of a rule, or the cards of a graph, whose lines stand too deep within one another."""
    blocks: dict[str, Iterable[Clause]] = (
        {"nodes": [node.clause for node in entry.nodes if node.of]}
        if isinstance(entry, Graph)
        else {"when": entry.when, "if": entry.if_, "do": entry.do, "else": entry.else_}
    )
    for name, block in blocks.items():
        within = [clause for clause in block if clause.of]
        deep = 1
        while within:
            deep += 1
            if deep > MOST_NESTED:
                yield Flaw(
                    f"{path}.{name}",
                    f"in “{entry.name}” lines stand more than {MOST_NESTED} deep within one another; take some out of the others",
                )
                break
            within = [inner for clause in within for inner in clause.of if inner.of]
