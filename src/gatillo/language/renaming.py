"""Renaming throughout a level, and finding where a name is used.

What a slot's text is (a role, a formula, a plain name) is known from the catalogue, so a word that only
looks like the name is left alone.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal, TypeVar

from msgspec.structs import replace

from gatillo.catalogue.cards.graph_cards import CARDS
from gatillo.catalogue.declare.entry import CATALOGUE
from gatillo.catalogue.declare.slot_types import SLOT_TYPES
from gatillo.formula.function_table import FUNCTIONS
from gatillo.formula.syntax import FormulaError, parse, texts_given
from gatillo.level.expectations import (
    RULE,
    Expectation,
)
from gatillo.level.graphs import OWN, given_as_text, given_in
from gatillo.level.model import (
    Clause,
    Graph,
    Level,
    Logic,
    Node,
    Place,
    Reference,
    Route,
    Rule,
    Section,
    Stop,
    Trial,
    Value,
    Variant,
)
from gatillo.level.naming import token
from gatillo.level.roles import Index

Sort = Literal[
    "kind",
    "object",
    "place",
    "tag",
    "level variable",
    "kind variable",
    "rule",
    "section",
    "trial",
    "variant",
    "message",
    "timer",
    "item",
    "topic",
    "clip",
    "entry",
    "point",
    "look",
]

Switched = TypeVar("Switched", Trial, Variant)
Change = Callable[[str, str], str]
"""From the type of a slot and the text in it to its new text."""


@dataclass(frozen=True, slots=True)
class Use:
    """Where something is spoken of: in a rule (with its id), or elsewhere."""

    where: str
    rule_id: int | None = None


def rename(level: Level, sort: Sort, old: str, new: str, *, kind: str = "") -> Level:
    """Return the level with a thing renamed wherever it is spoken of; `kind` owns a kind's variable."""
    change = _change(level, sort, old, new, kind)
    level = _named_anew(level, sort, {old: new}, kind)
    return _in_clauses(level, change, sort, {old: new})


def rename_rules(level: Level, names: Mapping[str, str]) -> Level:
    """Return the level with rules and graphs renamed wherever they are spoken of, all in one go: from old names to new ones."""
    change = _change_of("rule", names, _same, _same, [])
    return _in_clauses(_named_anew(level, "rule", names, ""), change, "rule", names)


def uses(level: Level, sort: Sort, name: str, *, kind: str = "") -> list[Use]:
    """Return every rule, behaviour and trial that speaks of a thing."""
    # what a renaming would change is what speaks of it
    changed = f"{name} x9x"
    other = _in_clauses(level, _change(level, sort, name, changed, kind), sort, {name: changed})
    found: list[Use] = []
    for mine, theirs in zip(level.order, other.order, strict=True):
        if isinstance(mine, Section) and isinstance(theirs, Section):
            found += [
                Use(f"the {_word_for(a)} “{a.name}”", a.id)
                for a, b in zip(mine.rules, theirs.rules, strict=True)
                if _clauses_of(a) != _clauses_of(b)
            ]
        elif (
            isinstance(mine, Section)
            or isinstance(theirs, Section)
            or _clauses_of(mine) == _clauses_of(theirs)
        ):
            continue
        else:
            found.append(Use(f"the {_word_for(mine)} “{mine.name}”", mine.id))
    for a, b in zip(level.kinds, other.kinds, strict=True):
        if a.readouts != b.readouts:
            found.append(Use(f"a readout of {a.name}"))
        if a.look != b.look:
            found.append(Use(f"the look of {a.name}"))
        if a.behaviours != b.behaviours:
            found.append(Use(f"a behaviour of {a.name}"))
    routes = zip(level.places, other.places, strict=True)
    found += [
        Use(f"the route {a.name}")
        for a, b in routes
        if isinstance(a, Route) and isinstance(b, Route) and a.stops != b.stops
    ]
    found += [Use(f"the trial “{a.name}”") for a, b in zip(level.trials, other.trials, strict=True) if a != b]
    pairs = zip(level.variants, other.variants, strict=True)
    found += [Use(f"the variant “{a.name}”") for a, b in pairs if a != b]
    return found


def _word_for(entry: Logic) -> str:
    return "rule" if isinstance(entry, Rule) else "graph"


def _clauses_of(entry: Logic) -> tuple[Any, ...]:
    if isinstance(entry, Graph):
        return entry.for_, entry.nodes
    return (entry.when, entry.if_, entry.do, entry.else_)


# what changes in a slot's text


def _change(level: Level, sort: Sort, old: str, new: str, kind: str) -> Change:
    owners: list[str] = []
    if sort in ("kind", "object", "place", "tag"):
        words = _role_words(sort, old, new)
        formula = _formula_names(sort, old, new)
    elif sort == "level variable":
        owners = ["level"]
        words = _owned_words(f"{old} of level", f"{new} of level")
        formula = _members(r"level", old, new, also=[(f"{token(old)}_of_level", f"{token(new)}_of_level")])
    elif sort == "kind variable":
        owners = _owners(level, kind)
        words = _reference_words(owners, old, new)
        tokens = "|".join(re.escape(token(o)) for o in sorted(owners, key=len, reverse=True))
        formula = _members(
            tokens,
            old,
            new,
            also=[(f"{token(old)}_of_{token(o)}", f"{token(new)}_of_{token(o)}") for o in owners],
        )
    elif sort == "point":
        words, formula = _point_words(old, new), _same
    else:
        words = formula = _same
    return _change_of(sort, {old: new}, words, formula, owners)


def _change_of(
    sort: Sort,
    names: Mapping[str, str],
    words: Callable[[str], str],
    formula: Callable[[str], str],
    owners: list[str],
) -> Change:
    """Return what a slot's text becomes: `words` changes roles, `formula` formulas, `owners` own a renamed variable."""
    quoted = _quoted_names(sort, names)
    variables = {token(old): new for old, new in names.items()}

    def change(type: str, text: str) -> str:
        kind = SLOT_TYPES[type]
        if sort in kind.renamed and text.strip() in names:
            return names[text.strip()]
        if kind.holds == "entries":
            return (
                " | ".join(_entry(e.strip(), sort, names, formula) for e in text.split("|"))
                if text.strip()
                else text
            )
        if kind.holds == "given":
            return _given_anew(text, change)
        if kind.holds == "formula" or (kind.may_be_formula(text) and kind.holds == "where"):
            return quoted(_outside_quotes(text, formula))
        if kind.holds in ("role", "where"):
            return words(text)
        if kind.holds == "variable":
            owner, dot, name = text.rpartition(".")
            mine = variables.get(token(name.strip())) if owner.strip() in owners else None
            return f"{words(owner)}{dot}{mine or name}"
        if kind.holds == "text":
            return re.sub(r"\{[^{}]*\}", lambda m: quoted(formula(m.group())), text)
        return text

    return change


def change_of_role(old: str, new: str) -> Change:
    """Return what a slot's text becomes when another role stands for one: `tool` for `Lantern`, `tool.x` for `Lantern.x`."""
    words, formula = _role_words("kind", old, new), _formula_names("kind", old, new)

    def change(type: str, text: str) -> str:
        kind = SLOT_TYPES[type]
        if kind.holds == "given":
            return _given_anew(text, change)
        if kind.holds == "formula" or (kind.may_be_formula(text) and kind.holds == "where"):
            return _outside_quotes(text, formula)
        if kind.holds in ("role", "where"):
            return words(text)
        if kind.holds == "variable":
            owner, dot, name = text.rpartition(".")
            return f"{words(owner)}{dot}{name}"
        if kind.holds == "text":
            return re.sub(r"\{[^{}]*\}", lambda m: formula(m.group()), text)
        return new if "kind" in kind.renamed and text.strip() == old else text

    return change


def change_slots(clause: Clause, change: Change) -> Clause:
    """Return a line with the texts in its slots changed, and in the lines within it."""
    entry = CATALOGUE.get(clause.use) or CARDS.get(clause.use)
    if entry is None:
        return clause
    slots = {
        name: change(entry.slots[name].type, text)
        if name in entry.slots
        else _role_or_formula(text, change)
        if clause.use == OWN
        else text
        for name, text in clause.slots.items()
    }
    return replace(clause, slots=slots, of=tuple(change_slots(inner, change) for inner in clause.of))


def change_entry(entry: Logic, change: Change) -> Logic:
    """Return a rule or graph with the texts in the slots of all its lines or cards changed."""
    if isinstance(entry, Graph):

        def node(found: Node) -> Node:
            changed = change_slots(found.clause, change)
            return replace(found, slots=changed.slots, of=changed.of)

        return replace(entry, for_=change("kind", entry.for_), nodes=tuple(map(node, entry.nodes)))
    blocks = {
        part: tuple(change_slots(clause, change) for clause in getattr(entry, part))
        for part in ("when", "if_", "do", "else_")
    }
    return replace(entry, **blocks)


def change_for(level: Level, sort: Sort, old: str, new: str, kind: str = "") -> Change:
    """Return what a slot's text becomes when a thing is called otherwise; `kind` owns a kind's variable."""
    return _change(level, sort, old, new, kind)


def _role_or_formula(text: str, change: Change) -> str:
    """Return what is given to an own node, which may be a role or a formula, changed."""
    role = change("role", text)
    return role if role != text else change("value", text)


def _given_anew(text: str, change: Change) -> str:
    """Return what a line gives to an own node, changed; what cannot be read stays."""
    try:
        given = given_in(text)
    except ValueError:
        return text
    changed = {name: _role_or_formula(value, change) for name, value in given.items()}
    return given_as_text(changed) if changed != given else text


def _entry(text: str, sort: Sort, names: Mapping[str, str], formula: Callable[[str], str]) -> str:
    """Return one entry of a menu, with the condition under which it is offered."""
    name, when, asked = text.partition(" if ")
    called = names.get(name.strip(), name) if sort == "entry" else name
    return f"{called}{when}{formula(asked)}"


def _point_words(old: str, new: str) -> Callable[[str], str]:
    """`hand of Gardener`, where something is to be."""
    before = f"{old} of "
    return lambda text: new + text.strip()[len(old) :] if text.strip().startswith(before) else text


def _quoted_names(sort: Sort, names: Mapping[str, str]) -> Callable[[str], str]:
    """Return names in double quotes that a function of formulas takes, as in timer("oven")."""
    if sort == "kind":
        return _compared_kinds(names)
    by = [f.name for f in FUNCTIONS.values() if sort in f.arguments]
    if not by:
        return _same
    pattern = re.compile(rf'\b({"|".join(by)})(\([^"()]*)"([^"]*)"')
    return lambda text: pattern.sub(
        lambda m: f'{m.group(1)}{m.group(2)}"{names.get(m.group(3), m.group(3))}"', text
    )


def _compared_kinds(names: Mapping[str, str]) -> Callable[[str], str]:
    """Return names of kinds in double quotes that kind(A) is compared with."""

    def renamed(found: re.Match[str]) -> str:
        name = found["name"]
        return found.group().replace(f'"{name}"', f'"{names.get(name, name)}"')

    after = re.compile(r'\bkind\([^()]*\)\s*(?:=|<>)\s*"(?P<name>[^"]*)"')
    before = re.compile(r'"(?P<name>[^"]*)"\s*(?:=|<>)\s*kind\(')
    return lambda text: before.sub(renamed, after.sub(renamed, text))


def _same(text: str) -> str:
    return text


def _outside_quotes(text: str, change: Callable[[str], str]) -> str:
    pieces = re.split(r'("(?:[^"]|"")*")', text)
    return "".join(p if p.startswith('"') else change(p) for p in pieces)


def _role_words(sort: Sort, old: str, new: str) -> Callable[[str], str]:
    """Roles as they are written: the name itself, or after “another”, “new”, “any”, “… of”."""
    before = r"(?:any |another |third )" if sort == "tag" else r"(?:|another |third |new |.* of )"
    if sort == "tag":
        before = r"(?:any |another |third |.* of any )"
    pattern = re.compile(rf"^({before}){re.escape(old).replace('_', '[_ ]').replace(chr(92) + ' ', '[_ ]')}$")

    def words(text: str) -> str:
        return pattern.sub(lambda m: m.group(1) + new, text.strip()) if pattern.match(text.strip()) else text

    return words


def _formula_names(sort: Sort, old: str, new: str) -> Callable[[str], str]:
    before = (
        r"(?:any_|another_|third_|\w+_of_any_)" if sort == "tag" else r"(?:|another_|third_|new_|\w+_of_)"
    )
    pattern = re.compile(rf"(?<![\w.])({before}){re.escape(token(old))}(?!\w)")
    return lambda text: pattern.sub(lambda m: m.group(1) + token(new), text)


def _members(owners: str, old: str, new: str, also: list[tuple[str, str]]) -> Callable[[str], str]:
    """`owner.old` in formulas, and roles that go by way of the variable."""
    member = re.compile(rf"(?<![\w.])({owners})\.{re.escape(token(old))}(?!\w)")
    others = [(re.compile(rf"(?<![\w.]){re.escape(a)}(?!\w)"), b) for a, b in also]

    def formula(text: str) -> str:
        text = member.sub(lambda m: f"{m.group(1)}.{token(new)}", text) if owners else text
        for pattern, other in others:
            text = pattern.sub(other, text)
        return text

    return formula


def _owned_words(old: str, new: str) -> Callable[[str], str]:
    return lambda text: new if text.strip() == old else text


def _owners(level: Level, kind: str) -> list[str]:
    """Return every role that can only stand for objects of a kind."""
    return [r.text for r in Index(level).role_tokens.values() if r.kinds == (kind,)]


def _reference_words(owners: list[str], old: str, new: str) -> Callable[[str], str]:
    known = {f"{old} of {owner}": f"{new} of {owner}" for owner in owners}
    return lambda text: known.get(text.strip(), text)


# going through the level


def _in_clauses(level: Level, change: Change, sort: Sort, names: Mapping[str, str]) -> Level:
    def clause(found: Clause) -> Clause:
        return change_slots(found, change)

    def clauses(found: tuple[Clause, ...]) -> tuple[Clause, ...]:
        return tuple(map(clause, found))

    def rule(found: Logic) -> Logic:
        return change_entry(found, change)

    order = tuple(
        replace(e, rules=tuple(map(rule, e.rules))) if isinstance(e, Section) else rule(e)
        for e in level.order
    )
    kinds = tuple(
        replace(
            k,
            behaviours=clauses(k.behaviours),
            topics=tuple(replace(t, only_if=change("yes/no formula", t.only_if)) for t in k.topics),
            readouts=tuple(
                replace(
                    r,
                    value=change("text" if r.shows == "text" else "number", r.value),
                    most=change("number", r.most),
                )
                for r in k.readouts
            ),
            look=_look_formula(change("value", k.look), sort, names),
        )
        for k in level.kinds
    )
    trials = tuple(_trial(t, change, sort, names) for t in level.trials)
    variants = tuple(_switches_named(v, sort, names) for v in level.variants)
    level = replace(level, order=order, kinds=kinds, trials=trials, variants=variants)
    places = tuple(_stops_renamed(place, sort, change, names) for place in level.places)
    return replace(level, places=places) if places != level.places else level


def _look_formula(formula: str, sort: Sort, names: Mapping[str, str]) -> str:
    """Return a formula that gives looks by name, under their names now."""
    if sort != "look":
        return formula
    try:
        texts = texts_given(parse(formula))
    except FormulaError:
        return formula
    for text in reversed(texts):
        if text.value in names:
            formula = f'{formula[: text.start]}"{names[str(text.value)]}"{formula[text.end :]}'
    return formula


def _switches_named(given: Switched, sort: Sort, names: Mapping[str, str]) -> Switched:
    """Return what a trial or a variant switches and starts otherwise, under its names now."""

    def named(name: str, *sorts: Sort) -> str:
        return names.get(name, name) if sort in sorts else name

    return replace(
        given,
        values={named(n, "level variable"): v for n, v in given.values.items()},
        on=tuple(named(n, "rule", "section") for n in given.on),
        off=tuple(named(n, "rule", "section") for n in given.off),
    )


def _trial(trial: Trial, change: Change, sort: Sort, names: Mapping[str, str]) -> Trial:
    def named(name: str, *sorts: Sort) -> str:
        return names.get(name, name) if sort in sorts else name

    def formula(text: str) -> str:
        return change("yes/no formula", text)

    def expectation(found: Expectation) -> Expectation:
        return found.changed(
            lambda holds, text: named(text, "rule") if holds == RULE else change(holds, text)
        )

    choices = tuple(replace(c, text=named(c.text, "topic", "entry")) for c in trial.input.choices)
    # an empty input stays the one that is not written
    recorded = replace(trial.input, choices=choices) if choices != trial.input.choices else trial.input
    return replace(
        _switches_named(trial, sort, names),
        expectations=tuple(map(expectation, trial.expectations)),
        watches=tuple(map(formula, trial.watches)),
        input=recorded,
    )


def _named_anew(level: Level, sort: Sort, names: Mapping[str, str], kind: str) -> Level:
    """Return the things themselves under their new names, and plain references to them."""

    def named(name: str) -> str:
        return names.get(name, name)

    def value(found: Value) -> Value:
        if isinstance(found, Reference):
            to = named(found.to) if sort == "object" else found.to
            return replace(found, to=to, kind=named(found.kind) if sort == "kind" else found.kind)
        return found

    if sort in ("kind", "object"):
        level = replace(
            level,
            variables=tuple(replace(v, value=value(v.value)) for v in level.variables),
            kinds=tuple(
                replace(
                    k,
                    name=named(k.name) if sort == "kind" else k.name,
                    variables=tuple(replace(v, value=value(v.value)) for v in k.variables),
                )
                for k in level.kinds
            ),
            objects=tuple(
                replace(
                    o,
                    kind=named(o.kind) if sort == "kind" else o.kind,
                    name=named(o.name) if sort == "object" else o.name,
                    values={n: value(v) for n, v in o.values.items()},
                    attached=named(o.attached) if sort == "object" else o.attached,
                )
                for o in level.objects
            ),
        )
    elif sort == "place":
        level = replace(level, places=tuple(replace(p, name=named(p.name)) for p in level.places))
    elif sort == "clip":
        level = replace(level, clips=tuple(replace(c, name=named(c.name)) for c in level.clips))
    elif sort == "tag":
        level = replace(
            level,
            kinds=tuple(replace(k, tags=tuple(map(named, k.tags))) for k in level.kinds),
            objects=tuple(replace(o, tags=tuple(map(named, o.tags))) for o in level.objects),
            order=tuple(_tags_renamed(e, named) for e in level.order),
        )
    elif sort == "topic":
        level = replace(
            level,
            kinds=tuple(
                replace(k, topics=tuple(replace(t, name=named(t.name)) for t in k.topics))
                for k in level.kinds
            ),
        )
    elif sort == "point":
        level = replace(
            level,
            kinds=tuple(
                replace(k, points=tuple(replace(p, name=named(p.name)) for p in k.points))
                for k in level.kinds
            ),
        )
    elif sort == "look":
        level = replace(
            level,
            kinds=tuple(
                replace(k, looks=tuple(replace(one, name=named(one.name)) for one in k.looks))
                for k in level.kinds
            ),
        )
    elif sort == "level variable":
        level = replace(level, variables=tuple(replace(v, name=named(v.name)) for v in level.variables))
    elif sort == "kind variable":
        level = replace(
            level,
            kinds=tuple(
                replace(k, variables=tuple(replace(v, name=named(v.name)) for v in k.variables))
                if k.name == kind
                else k
                for k in level.kinds
            ),
            objects=tuple(
                replace(o, values={named(n): v for n, v in o.values.items()}) if o.kind == kind else o
                for o in level.objects
            ),
        )
    elif sort in ("rule", "section"):
        level = _order_renamed(level, sort, named)
    elif sort == "variant":
        level = replace(level, variants=tuple(replace(v, name=named(v.name)) for v in level.variants))
    elif sort == "trial":
        level = replace(level, trials=tuple(replace(t, name=named(t.name)) for t in level.trials))
    return level


def _stops_renamed(place: Place, sort: Sort, change: Change, names: Mapping[str, str]) -> Place:
    """Return a place; if it is a route, with what its stops send and where they are under the names now."""
    if not isinstance(place, Route) or not any(s.message or s.where for s in place.stops):
        return place

    def stop(found: Stop) -> Stop:
        message = names.get(found.message, found.message) if sort == "message" else found.message
        return replace(found, message=message, where=change("where", found.where) if found.where else "")

    return replace(place, stops=tuple(map(stop, place.stops)))


def _tags_renamed(entry: Section | Logic, named: Callable[[str], str]) -> Section | Logic:
    """Return an entry of the order list; an own behaviour with the tags by which kinds have it under their names now."""
    if not isinstance(entry, Section) or entry.own is None or not entry.own.tags:
        return entry
    return replace(entry, own=replace(entry.own, tags=tuple(map(named, entry.own.tags))))


def _order_renamed(level: Level, sort: Sort, named: Callable[[str], str]) -> Level:
    def rule(found: Logic) -> Logic:
        return replace(found, name=named(found.name)) if sort == "rule" else found

    order = tuple(
        replace(e, name=named(e.name) if sort == "section" else e.name, rules=tuple(map(rule, e.rules)))
        if isinstance(e, Section)
        else rule(e)
        for e in level.order
    )
    return replace(level, order=order)
