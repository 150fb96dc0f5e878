"""The small changes to a level that its trials should notice (DeMillo, Lipton, Sayward: Hints on test data selection, 1978)."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from msgspec.structs import replace

from gatillo.catalogue.cards.graph_cards import sentence_of
from gatillo.catalogue.declare.entry import CATALOGUE, Slot
from gatillo.catalogue.declare.named_types import is_own_node
from gatillo.graphs.outline import card_words
from gatillo.inspect.sweep.targets import NUMBER, start_targets
from gatillo.language.sentence import sentence
from gatillo.level import edits, graph_edits, rule_edits, thing_edits
from gatillo.level.edits import Part, every_line, place_of
from gatillo.level.model import Clause, Graph, Kind, Level, Logic, Rule, Section, Variable, Wire
from gatillo.level.naming import spoken
from gatillo.level.roles import all_logic

Sort = Literal[
    "condition left out",
    "condition negated",
    "comparison",
    "number",
    "firing",
    "neighbours swapped",
    "action left out",
    "wire left out",
    "outputs swapped",
    "behaviour left out",
    "yes or no",
]
OPPOSITES = {">": ">=", ">=": ">", "<": "<=", "<=": "<", "=": "<>", "<>": "="}
"""What each comparison is changed into."""
FIRING = {
    "each tick": "on becoming true",
    "on becoming true": "each tick",
    "first time only": "each tick",
}
PARTS_OF_TEN = (1.1, 0.9)
_QUOTED = re.compile(r'"[^"]*"')
_COMPARISON = re.compile(r">=|<=|<>|>|<|=")


@dataclass(frozen=True, slots=True)
class Mutant:
    """A level with one small change."""

    rule: int
    """The id of the rule or graph that is changed; 0 for a variable or a behaviour."""
    name: str
    """The name of the rule, graph or kind; `level` for its variables."""
    place: str
    """Where in it, as `if 2`, `do 3.1`, `card 4`; empty for the whole."""
    sort: Sort
    words: str
    """What is changed: “left out: the moth is within 40 of the lamp”, “3 becomes 3.3 in …”."""
    make: Callable[[Level], Level]
    """Returns the level with the change."""

    def sentence(self) -> str:
        """Return where the change is and what it is."""
        where = f"“{self.name}”" if self.rule else self.name
        return f"{where}{f', {self.place}' if self.place else ''}: {self.words}"


def mutants(level: Level) -> list[Mutant]:
    """Return every small change of a level's logic, behaviours and first values; for equal levels the same in the same order."""
    return list(_mutants(level))


def _mutants(level: Level) -> Iterator[Mutant]:
    for _, _, entry in all_logic(level):
        yield from _of_graph(entry) if isinstance(entry, Graph) else _of_rule(entry)
    yield from _swapped_rules(level)
    for kind in level.kinds:
        yield from _of_behaviours(kind)
    for target in start_targets(level):
        for number in _near(target.text):
            owner, _, name = target.name.partition(".")

            def put(lv: Level, n: str = number, to: Callable[[Level, str], Level] = target.put) -> Level:
                return to(lv, n)

            yield Mutant(0, owner, "", "number", f"{name} starts at {number} instead of {target.text}", put)
    yield from _yes_or_no(level)


# rules


def _of_rule(rule: Rule) -> Iterator[Mutant]:
    if rule.fires in FIRING:
        other = FIRING[rule.fires]

        def fire(lv: Level) -> Level:
            return rule_edits.set_rule(lv, rule.id, fires=other)

        yield Mutant(rule.id, rule.name, "", "firing", f"fires {other} instead of {rule.fires}", fire)
    parts: tuple[tuple[Part, tuple[Clause, ...]], ...] = (
        ("when", rule.when),
        ("if", rule.if_),
        ("do", rule.do),
        ("else", rule.else_),
    )
    for part, lines in parts:
        for path, clause in every_line(lines):
            yield from _of_line(rule, part, path, clause)


def _of_line(rule: Rule, part: Part, path: tuple[int, ...], clause: Clause) -> Iterator[Mutant]:
    place, words = place_of(part, path), sentence(clause)

    def mutant(sort: Sort, label: str, change: Callable[[Clause], Clause | None]) -> Mutant:
        def make(lv: Level) -> Level:
            return edits.change_line_at(lv, rule.id, part, path[0], path[1:], change)

        return Mutant(rule.id, rule.name, place, sort, label, make)

    entry = CATALOGUE.get(clause.use)
    group = entry.group if entry is not None else ""
    if group == "condition":
        yield mutant("condition left out", f"left out: {words}", lambda _: None)
        yield mutant(
            "condition negated", f"the opposite of: {words}", lambda c: replace(c, negated=not c.negated)
        )
    elif group == "action":
        yield mutant("action left out", f"left out: {words}", lambda _: None)
        after = _line_after(rule, part, path)
        if after is not None and after != clause:
            label = f"done after what follows it: {words}"
            yield Mutant(rule.id, rule.name, place, "neighbours swapped", label, _swap(rule, part, path))
    for sort, label, slot, text in _slots(entry.slots if entry is not None else {}, clause.slots):

        def changed(c: Clause, slot: str = slot, text: str = text) -> Clause:
            return replace(c, slots={**c.slots, slot: text})

        yield mutant(sort, f"{label} in: {words}", changed)


def _line_after(rule: Rule, part: Part, path: tuple[int, ...]) -> Clause | None:
    lines = edits.clauses_of(rule, part)
    for at in path[:-1]:
        lines = lines[at].of
    return lines[path[-1] + 1] if path[-1] + 1 < len(lines) else None


def _swap(rule: Rule, part: Part, path: tuple[int, ...]) -> Callable[[Level], Level]:
    at = path[-1]

    def swapped(lines: Sequence[Clause]) -> list[Clause]:
        return [*lines[:at], lines[at + 1], lines[at], *lines[at + 2 :]]

    def make(level: Level) -> Level:
        if len(path) == 1:
            return rule_edits.change_lines(level, rule.id, part, swapped)
        return edits.change_line_at(
            level, rule.id, part, path[0], path[1:-1], lambda c: replace(c, of=tuple(swapped(c.of)))
        )

    return make


def _swapped_rules(level: Level) -> Iterator[Mutant]:
    lists: list[tuple[Logic, ...]] = [e.rules for e in level.order if isinstance(e, Section)]
    alone: list[Logic] = []
    for entry in level.order:
        if isinstance(entry, Section):
            lists.append(tuple(alone))
            alone = []
        else:
            alone.append(entry)
    lists.append(tuple(alone))
    for rules in lists:
        for first, then in pairwise(rules):
            if not (_has_turns(first) and _has_turns(then)):
                continue
            label = f"takes its turn after “{then.name}”"

            def make(lv: Level, number: int = first.id) -> Level:
                return edits.move_rule(lv, number, 1)

            yield Mutant(first.id, first.name, "", "neighbours swapped", label, make)


def _has_turns(entry: Logic) -> bool:
    return not (isinstance(entry, Graph) and is_own_node(entry))


# graphs


def _of_graph(graph: Graph) -> Iterator[Mutant]:
    words = {node.id: card_words(node) for node in graph.nodes}
    for node in graph.nodes:
        entry = sentence_of(node.use)
        for sort, label, slot, text in _slots(entry.slots if entry is not None else {}, node.slots):

            def put(lv: Level, card: int = node.id, slot: str = slot, text: str = text) -> Level:
                return graph_edits.set_card_slot(lv, graph.id, card, slot, text)

            where = f"card {node.id}"
            yield Mutant(graph.id, graph.name, where, sort, f"{label} in: {words[node.id]}", put)
        yield from _swapped_outputs(graph, node.id, words[node.id])
    for at, wire in enumerate(graph.wires):
        start, end = wire.start.partition(".")[0], wire.end.partition(".")[0]
        place = f"card {start}"

        def cut(lv: Level, wire: Wire = wire) -> Level:
            return graph_edits.cut_wire(lv, graph.id, wire)

        label = f"left out: the wire from card {wire.start} to card {end}"
        yield Mutant(graph.id, graph.name, place, "wire left out", label, cut)
        then = next((n for n in range(at + 1, len(graph.wires)) if graph.wires[n].start == wire.start), None)
        if then is not None:

            def turn(lv: Level, wire: Wire = wire) -> Level:
                return graph_edits.renumber_wire(lv, graph.id, wire, 1)

            label = (
                f"the wire to card {end} comes after that to card {graph.wires[then].end.partition('.')[0]}"
            )
            yield Mutant(graph.id, graph.name, place, "neighbours swapped", label, turn)


def _swapped_outputs(graph: Graph, card: int, words: str) -> Iterator[Mutant]:
    turned = {f"{card}.yes": f"{card}.no", f"{card}.no": f"{card}.yes"}
    if not any(wire.start in turned for wire in graph.wires):
        return

    def make(level: Level) -> Level:
        def changed(g: Graph) -> Graph:
            wires = tuple(replace(w, start=turned.get(w.start, w.start)) for w in g.wires)
            return replace(g, wires=wires)

        return graph_edits.change_graph(level, graph.id, changed)

    yield Mutant(graph.id, graph.name, f"card {card}", "outputs swapped", f"the opposite of: {words}", make)


# behaviours and first values


def _of_behaviours(kind: Kind) -> Iterator[Mutant]:
    for at, behaviour in enumerate(kind.behaviours):
        entry, words = CATALOGUE.get(behaviour.use), sentence(behaviour)
        place = f"behaviour {spoken(behaviour.use)}"

        def without(lv: Level, at: int = at) -> Level:
            return thing_edits.change_kind(
                lv, kind.name, lambda k: replace(k, behaviours=(*k.behaviours[:at], *k.behaviours[at + 1 :]))
            )

        yield Mutant(0, kind.name, place, "behaviour left out", f"left out: {words}", without)
        for sort, label, slot, text in _slots(entry.slots if entry is not None else {}, behaviour.slots):

            def put(lv: Level, at: int = at, slot: str = slot, text: str = text) -> Level:
                def changed(k: Kind) -> Kind:
                    mine = list(k.behaviours)
                    mine[at] = replace(mine[at], slots={**mine[at].slots, slot: text})
                    return replace(k, behaviours=tuple(mine))

                return thing_edits.change_kind(lv, kind.name, changed)

            yield Mutant(0, kind.name, place, sort, f"{label} in: {words}", put)


def _yes_or_no(level: Level) -> Iterator[Mutant]:
    owners: list[tuple[str | None, tuple[Variable, ...]]] = [(None, level.variables)]
    owners += [(kind.name, kind.variables) for kind in level.kinds]
    for owner, variables in owners:
        for variable in variables:
            if not isinstance(variable.value, bool):
                continue
            new = not variable.value

            def put(lv: Level, owner: str | None = owner, name: str = variable.name, to: bool = new) -> Level:
                return thing_edits.set_variable(lv, owner, name, value=to)

            label = f"{variable.name} starts as {'yes' if new else 'no'}"
            yield Mutant(0, owner or "level", "", "yes or no", label, put)


# texts


def _slots(declared: Mapping[str, Slot], given: Mapping[str, str]) -> Iterator[tuple[Sort, str, str, str]]:
    """Yield each change of a comparison or number in some slots: its sort, words for it, the slot and its new text."""
    for name, slot in declared.items():
        text = given.get(name, slot.default)
        if slot.type == "choice":
            if text in OPPOSITES and OPPOSITES[text] in slot.options:
                yield "comparison", f"{text} becomes {OPPOSITES[text]}", name, OPPOSITES[text]
            continue
        if slot.kind.holds != "formula" or not text:
            continue
        hidden = _QUOTED.sub(lambda found: " " * len(found[0]), text)
        for found in _COMPARISON.finditer(hidden):
            other = OPPOSITES[found[0]]
            new = f"{text[: found.start()]}{other}{text[found.end() :]}"
            yield "comparison", f"{found[0]} becomes {other}", name, new
        for found in NUMBER.finditer(hidden):
            for number in _near(found[0]):
                new = f"{text[: found.start()]}{number}{text[found.end() :]}"
                yield "number", f"{found[0]} becomes {number}", name, new


def _near(text: str) -> tuple[str, ...]:
    """Return a number a tenth larger and a tenth smaller; for 0 it is 1."""
    value = float(text)
    return tuple(f"{value * part:.10g}" for part in PARTS_OF_TEN) if value else ("1",)
