"""The numbers of a level that several values can be tried for: variables, settings of behaviours, slots, numbers in formulas."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from difflib import get_close_matches

from msgspec.structs import replace

from gatillo.catalogue.cards.graph_cards import sentence_of
from gatillo.catalogue.declare.entry import CATALOGUE, Slot
from gatillo.level import edits, graph_edits, own_edits, thing_edits
from gatillo.level.edits import Part
from gatillo.level.model import Clause, Graph, Kind, Level, Rule
from gatillo.level.naming import spoken
from gatillo.level.own_behaviours import own_behaviours, uses_of
from gatillo.level.roles import all_logic

NUMBER = re.compile(r"(?<![\w.\"])\d+(?:\.\d+)?(?![\w.\"])")
_PARTS: tuple[tuple[Part, str], ...] = (("when", "when"), ("if", "if_"), ("do", "do"), ("else", "else_"))


class SweepError(ValueError):
    """What is to be tried cannot be: a sentence says why."""


@dataclass(frozen=True, slots=True)
class Target:
    """One number of a level."""

    name: str
    """How it is spoken of: “level.wanted”, “Moth chase.speed”, “rule Count: do 1.amount”; with “#2”, the second number of its formula."""
    text: str
    """What it is now."""
    put: Callable[[Level, str], Level]
    """Returns the level with another text in its place."""


def targets(level: Level) -> list[Target]:
    """Return every number of a level that can be tried: of the level, of kinds, of rules and graphs in their order."""
    return list(_targets(level))


def find_target(level: Level, name: str) -> Target:
    """Return the number of that name, in any case of letters. Raises SweepError if there is none."""
    known = {target.name.lower(): target for target in _targets(level)}
    plain = " ".join(name.split()).lower()
    if plain in known:
        return known[plain]
    near = [known[n].name for n in get_close_matches(plain, known, n=3, cutoff=0.5)]
    hint = f"; did you mean {' or '.join(f'“{n}”' for n in near)}?" if near else ""
    raise SweepError(f"there is no number “{name}” to try{hint}")


def target_at_line(rule: Rule, part: Part, line: int, slot: str, within: tuple[int, ...] = ()) -> str:
    """Return how the number in a slot of a rule's line is spoken of."""
    at = ".".join(str(n + 1) for n in (line, *within))
    return f"rule {rule.name}: {part} {at}.{slot}"


def target_at_card(graph: Graph, card: int, slot: str) -> str:
    """Return how the number in a slot of a graph's card is spoken of."""
    return f"graph {graph.name}: card {card}.{slot}"


def target_of_behaviour(kind: Kind, number: int, slot: str) -> str:
    """Return how a setting of the behaviour at a place in a kind's list, from 0, is spoken of."""
    use = kind.behaviours[number].use
    before = sum(b.use == use for b in kind.behaviours[:number])
    return f"{kind.name} {spoken(use)}{f' {before + 1}' if before else ''}.{slot}"


def start_targets(level: Level) -> Iterator[Target]:
    """Yield the numbers that variables start with and that own behaviours are set to."""
    for variable in level.variables:
        yield from _of_variable(None, variable.name, variable.value)
    for kind in level.kinds:
        for variable in kind.variables:
            yield from _of_variable(kind.name, variable.name, variable.value)
        yield from _of_own_behaviours(level, kind)


def _targets(level: Level) -> Iterator[Target]:
    yield from start_targets(level)
    for kind in level.kinds:
        for number, behaviour in enumerate(kind.behaviours):
            yield from _of_behaviour(kind, number, behaviour)
    for _, _, entry in all_logic(level):
        if isinstance(entry, Graph):
            yield from _of_graph(entry)
        else:
            for part, attribute in _PARTS:
                yield from _of_lines(entry, part, getattr(entry, attribute), ())


def _of_variable(kind: str | None, name: str, value: object) -> Iterator[Target]:
    if isinstance(value, bool) or not isinstance(value, int | float):
        return

    def put(level: Level, text: str) -> Level:
        try:
            number = float(text)
        except ValueError:
            raise SweepError(f"“{text}” is not a number, but {kind or 'level'}.{name} is one") from None
        return thing_edits.set_variable(level, kind, name, value=number)

    yield Target(f"{kind or 'level'}.{name}", f"{value:g}", put)


def _of_behaviour(kind: Kind, number: int, behaviour: Clause) -> Iterator[Target]:
    entry = CATALOGUE.get(behaviour.use)
    for slot, declared in entry.slots.items() if entry is not None else ():
        if not _is_number(declared):
            continue

        def put(level: Level, text: str, slot: str = slot) -> Level:
            def changed(k: Kind) -> Kind:
                mine = list(k.behaviours)
                mine[number] = replace(mine[number], slots={**mine[number].slots, slot: text})
                return replace(k, behaviours=tuple(mine))

            return thing_edits.change_kind(level, kind.name, changed)

        name = target_of_behaviour(kind, number, slot)
        yield from _with_constants(name, behaviour.slots.get(slot, declared.default), put)


def target_of_own(kind: str, behaviour: str, setting: str) -> str:
    """Return how a setting of an own behaviour is spoken of, as a kind has it."""
    return f"{kind} {behaviour}.{setting}"


def _of_own_behaviours(level: Level, kind: Kind) -> Iterator[Target]:
    known = own_behaviours(level)
    for use in uses_of(kind, known):
        section = known.get(use.use)
        for setting in section.own.settings if section is not None and section.own is not None else ():
            value = use.values.get(setting.name, setting.value)
            if isinstance(value, bool) or not isinstance(value, int | float):
                continue
            name = target_of_own(kind.name, use.use, setting.name)

            def put(
                level: Level,
                text: str,
                behaviour: str = use.use,
                setting: str = setting.name,
                name: str = name,
            ) -> Level:
                try:
                    number = float(text)
                except ValueError:
                    raise SweepError(f"“{text}” is not a number, but {name} is one") from None
                return own_edits.set_use(level, kind.name, behaviour, setting, number)

            yield Target(name, f"{value:g}", put)


def _of_lines(rule: Rule, part: Part, lines: tuple[Clause, ...], above: tuple[int, ...]) -> Iterator[Target]:
    for number, clause in enumerate(lines):
        entry, way = CATALOGUE.get(clause.use), (*above, number)
        for slot, declared in entry.slots.items() if entry is not None else ():
            if not _is_number(declared):
                continue

            def put(level: Level, text: str, slot: str = slot, way: tuple[int, ...] = way) -> Level:
                return edits.set_slot(level, rule.id, part, way[0], slot, text, way[1:])

            name = target_at_line(rule, part, way[0], slot, way[1:])
            yield from _with_constants(name, clause.slots.get(slot, declared.default), put)
        yield from _of_lines(rule, part, clause.of, way)


def _of_graph(graph: Graph) -> Iterator[Target]:
    for node in graph.nodes:
        entry = sentence_of(node.use)
        for slot, declared in entry.slots.items() if entry is not None else ():
            if not _is_number(declared):
                continue

            def put(level: Level, text: str, card: int = node.id, slot: str = slot) -> Level:
                return graph_edits.set_card_slot(level, graph.id, card, slot, text)

            name = target_at_card(graph, node.id, slot)
            yield from _with_constants(name, node.slots.get(slot, declared.default), put)


def _is_number(slot: Slot) -> bool:
    """Whether a slot holds a formula that can be a number."""
    return slot.kind.holds == "formula" and slot.kind.gives in ("number", "")


def _with_constants(name: str, text: str, put: Callable[[Level, str], Level]) -> Iterator[Target]:
    """Yield a slot, and each number of its formula where it is more than one number."""
    if not text:
        return
    yield Target(name, text, put)
    if NUMBER.fullmatch(text.lstrip("-")):
        return
    for count, found in enumerate(NUMBER.finditer(text), 1):
        start, end = found.span()

        def put_constant(level: Level, number: str, start: int = start, end: int = end) -> Level:
            return put(level, f"{text[:start]}{number if float_like(number) else f'({number})'}{text[end:]}")

        yield Target(f"{name}#{count}", found.group(), put_constant)


def float_like(text: str) -> bool:
    """Return whether a text is a plain number that is not negative."""
    return NUMBER.fullmatch(text) is not None
