"""From a drawn graph to a compiled one: its cards become compiled lines, its wires what follows on each output."""

from __future__ import annotations

from collections.abc import Callable
from copy import copy
from dataclasses import replace
from typing import Literal, Protocol

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.cards.graph_cards import (
    ALL_HOLD,
    ALL_MATCHES,
    CARDS,
    EACH_MATCH,
    ELSE_FIRING,
    FIRING,
    GATHER,
    cases_of,
    find_input,
    find_output,
    ports_of,
)
from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula
from gatillo.formula.frame import Frame
from gatillo.formula.syntax import FormulaError
from gatillo.language.binding import Bound, VariableArgument, bind, point_by_formula
from gatillo.level.graphs import End, circle, end_of, longest_way, wires_of
from gatillo.level.model import Clause, Graph, Node, Reference, Rule
from gatillo.level.naming import did_you_mean, token
from gatillo.level.roles import Index, Role, ValueType
from gatillo.sim.program.compiled_graph import PART_OF, SELF, CompiledCard, CompiledGraph, Lines, Straight
from gatillo.sim.program.compiled_line import PARTS, CompiledLine, Limits, Part, ticks_of
from gatillo.sim.spatial.random_draws import identity

_GROUPS: dict[Part, Literal["occasion", "condition", "action"]] = {
    "when": "occasion",
    "if": "condition",
    "do": "action",
    "else": "action",
}
MOST_GIVING = 100
"""So many cards may give one another values in a row."""
_BLANK = {
    "number": "0",
    "seconds": "0",
    "yes/no formula": "yes",
    "value": "0",
    "text": "",
    "where": "pointer",
}
"""What is in a slot that a wire fills, while its line is looked up."""


class LineMaker(Protocol):
    """Makes a line of a program ready, and notes what is wrong with it."""

    def __call__(
        self, rule: Rule, part: Part, line: int, clause: Clause, bound: Bound, index: Index
    ) -> CompiledLine | None:
        """Return the line, or None with problems."""


Problems = Callable[[Node | None, str, str], None]
"""Note what is wrong: at which card, in which slot, and a sentence."""


def index_for(index: Index, kind: str) -> Index:
    """Return the names of a level as the cards of a graph for each object of a kind may use them: with `self`."""
    other = copy(index)
    other.compiled = {}
    roles = dict(index.role_tokens)
    roles[SELF] = Role(SELF, SELF, "kind", (kind,), kind)
    for variable in index.kinds[kind].variables:
        if isinstance(variable.value, Reference):
            text = f"{variable.name} of {SELF}"
            kinds = (variable.value.kind,) if variable.value.kind in index.kinds else tuple(index.kinds)
            roles[token(text)] = Role(text, token(text), "reference", kinds, token(variable.name), via=SELF)
    other.role_tokens = roles
    return other


def lines_of(graph: Graph) -> Lines:
    """Return the cards of a graph as the lines of a rule, in the order of their numbers."""
    found: Lines = {part: [] for part in PARTS}
    apart = _apart(graph)
    for node in sorted(graph.nodes, key=lambda n: n.id):
        if node.use == ALL_HOLD:
            found["if"] += [(node, clause) for clause in node.of]
            continue
        entry = CATALOGUE.get(node.use)
        if entry is None or entry.group not in PART_OF:
            continue
        found["else" if node.id in apart else PART_OF[entry.group]].append((node, node.clause))
    return found


def _apart(graph: Graph) -> set[int]:
    """Return the actions that are come to by an “else” alone: they are lines of the rule's else, with its draws."""
    elses = {node.id for node in graph.nodes if node.use == ELSE_FIRING}
    if not elses:
        return set()
    follows: dict[int, list[int]] = {}
    entered: set[int] = set()
    for start, end in wires_of(graph):
        follows.setdefault(start.node, []).append(end.node)
        entered.add(end.node)

    def reached(first: set[int]) -> set[int]:
        found, ahead = set(first), list(first)
        while ahead:
            new = [n for n in follows.get(ahead.pop(), ()) if n not in found and n not in elses]
            found.update(new)
            ahead += new
        return found

    others = reached({node.id for node in graph.nodes if node.id not in entered} - elses)
    groups = {node.id: entry.group for node in graph.nodes if (entry := CATALOGUE.get(node.use)) is not None}
    return {n for n in reached(elses) - others if groups.get(n) == "action"}


def as_rule(graph: Graph, cards: Lines) -> Rule:
    """Return the cards of a graph as the lines of a rule, by their parts."""
    lines = {part: tuple(clause for _, clause in found) for part, found in cards.items()}
    return Rule(
        id=graph.id,
        name=graph.name,
        on=graph.on,
        when=lines["when"],
        if_=lines["if"],
        do=lines["do"],
        else_=lines["else"],
        while_waiting="stack",
        note=graph.note,
    )


def compile_graph(
    index: Index,
    graph: Graph,
    rule: Rule,
    lines: Lines,
    kinds: dict[str, int],
    rate: int,
    make_line: LineMaker,
    problem: Problems,
    shared: dict[int, tuple[int, int]],
    before: CompiledGraph | None = None,
) -> tuple[CompiledGraph, dict[Part, tuple[CompiledLine, ...]]]:
    """Return a graph made ready, and its lines by their parts; what is wrong is given to `problem`.

    `shared` are the cards that keep what they keep under another graph and card. `before` is a graph without a fault that has
    the same wires and card numbers as far as both have any; the lines of cards that are still the same are taken from it.
    """
    return _Lowering(index, graph, rule, lines, kinds, rate, make_line, problem, shared, before).lowered()


def _has_the_same_ports(before: CompiledCard | None, card: CompiledCard) -> bool:
    """Return whether a card has the inputs and outputs that it had, so that the same wires lead to the same places."""
    if before is None:
        return False
    one, other = before.node, card.node
    return one is other or (one.use == other.use and one.slots.get("cases") == other.slots.get("cases"))


class _Lowering:
    def __init__(
        self,
        index: Index,
        graph: Graph,
        rule: Rule,
        lines: Lines,
        kinds: dict[str, int],
        rate: int,
        make_line: LineMaker,
        problem: Problems,
        shared: dict[int, tuple[int, int]],
        before: CompiledGraph | None,
    ) -> None:
        self.graph = graph
        self.before = before.cards if before is not None else {}
        self.same_wires = before is not None and before.graph.wires == graph.wires
        self.shared = shared
        self.rule = rule
        self.given = lines
        self.rate = rate
        self.kinds = kinds
        self.make_line = make_line
        self.problem = problem
        self.nodes = {node.id: node for node in graph.nodes}
        if graph.for_ and graph.for_ not in index.kinds:
            problem(
                None, "for", f"there is no kind called “{graph.for_}”{did_you_mean(graph.for_, index.kinds)}"
            )
        self.index = index_for(index, graph.for_) if graph.for_ in index.kinds else index
        self.cards: dict[int, CompiledCard] = {}
        self.values: dict[End, Formula | None] = {}
        """What cards give, as far as it has been worked out."""
        self.into: dict[int, dict[str, End]] = {}
        """By card and slot: from where a value comes."""

    def lowered(self) -> tuple[CompiledGraph, dict[Part, tuple[CompiledLine, ...]]]:
        """Return all of it."""
        for node in sorted(self.graph.nodes, key=lambda n: n.id):
            ports = ports_of(node.use)
            if ports is None:
                known = [*CARDS, *(n for n, e in CATALOGUE.items() if e.group in PART_OF)]
                self.problem(node, "", f"there is no card “{node.use}”{did_you_mean(node.use, known)}")
                continue
            self.cards[node.id] = CompiledCard(node, ports, card=CARDS.get(node.use))
        self.take_wires()
        if self.take_values():
            for number, card in self.cards.items():
                if card.card is not None:
                    card.identity = identity("card", self.graph.id, number)
                card.key = self.shared.get(number, (self.graph.id, number))
            blocks = self.lines()
            for card in self.cards.values():
                if card.card is not None:
                    self.take_card(card)
        else:
            blocks = dict.fromkeys(PARTS, ())
        self.find_chains()
        occasions = tuple(n for n, c in self.cards.items() if c.line is not None and c.line.part == "when")
        actions = {
            part: tuple(n for n, c in self.cards.items() if c.line is not None and c.line.part == part)
            for part in ("do", "else")
        }
        gathers = tuple(n for n, c in self.cards.items() if c.node.use == GATHER)
        watchful = tuple(n for n, c in self.cards.items() if c.card is not None and c.card.watches)
        kind = self.kinds.get(self.graph.for_) if self.graph.for_ else None
        roles = self.index.role_tokens
        return CompiledGraph(
            self.graph,
            kind,
            self.cards,
            occasions,
            actions,
            gathers,
            watchful,
            roles,
            self.index,
            straight=self.find_straight(occasions),
        ), blocks

    def find_straight(self, occasions: tuple[int, ...]) -> Straight | None:
        """Return the graph as one straight way, where it is one; no card stands beside it."""
        if len(occasions) != 1:
            return None
        card = first = self.cards[occasions[0]]
        conditions: list[tuple[int, tuple[CompiledLine, ...], int]] = []
        asked = 0
        follows = card.outputs.get("then", ())
        while len(card.outputs) == len(follows) == 1:
            number, _, wire = follows[0]
            card = self.cards[number]
            line = card.line
            if line is not None and line.part == "do":
                whole = line.number == 0 and 1 + len(conditions) + card.chained == len(self.cards)
                ends = not self.cards[card.chain_end].outputs and not line.entry.derived.waits
                return Straight(first, tuple(conditions), wire) if whole and ends else None
            lines = (line,) if line is not None else card.lines
            if not lines or [each.number for each in lines] != list(range(asked, asked + len(lines))):
                return None
            conditions.append((number, lines, wire))
            asked += len(lines)
            follows = card.outputs.get(card.ports.outputs[0], ())
        return None

    def find_chains(self) -> None:
        """Record for each action the actions that can be done with it in one go."""
        for card in reversed(self.cards.values()):
            line = card.line
            if line is None or line.part not in ("do", "else"):
                continue
            card.chained, card.chain_next, card.chain_end = 1, 0, card.node.id
            line.card = card.node.id
            follows = card.outputs.get("then", ())
            if line.entry.derived.waits or len(follows) != 1:
                continue
            after = self.cards[follows[0][0]]
            below = after.line is not None and (after.line.part, after.line.number) == (
                line.part,
                line.number + 1,
            )
            if below:
                assert after.line is not None
                card.chained, card.chain_next = after.chained + 1, after.node.id
                card.chain_end = after.chain_end
                after.line.wire = follows[0][2]
        self.pair_branches()

    def pair_branches(self) -> None:
        """Tell of each “otherwise” that is not done right after an “if”."""
        paired: set[int] = set()
        for card in self.cards.values():
            if card.line is not None and card.line.entry.branch == "if" and card.chain_next:
                paired.add(card.chain_next)
        for number, card in self.cards.items():
            if card.line is not None and card.line.entry.branch == "otherwise" and number not in paired:
                self.problem(
                    card.node,
                    "",
                    "there is no “if” just above this “otherwise”; wire it to one alone, with the next number",
                )

    # signals

    def take_wires(self) -> None:
        """Record for each output the cards that it leads to."""
        if self.same_wires and all(_has_the_same_ports(self.before.get(n), c) for n, c in self.cards.items()):
            for number, card in self.cards.items():
                card.outputs = self.before[number].outputs
            return
        edges: list[tuple[int, int]] = []
        led: dict[tuple[int, str], list[tuple[int, str, int]]] = {}
        for number, wire in enumerate(self.graph.wires):
            start, end = end_of(wire.start), end_of(wire.end)
            one = self.cards.get(start.node) if start is not None else None
            other = self.cards.get(end.node) if end is not None else None
            if start is None or end is None or one is None or other is None:
                continue
            output = find_output(one.ports, start.port, cases_of(one.node.slots.get("cases", "1, 2")))
            entered = find_input(other.ports, end.port)
            if output is None:
                self.problem(one.node, "", self.no_port(one, start.port, "output", one.ports.outputs))
            elif entered is None:
                self.problem(other.node, "", self.no_port(other, end.port, "input", other.ports.inputs))
            else:
                led.setdefault((start.node, output), []).append((end.node, entered, number))
                if output not in one.ports.later:
                    edges.append((start.node, end.node))
        for (number, output), follows in led.items():
            self.cards[number].outputs[output] = tuple(follows)
        round_ = circle(edges)
        if round_:
            way = " → ".join(str(number) for number in (*round_, round_[0]))
            self.problem(
                self.nodes[round_[0]],
                "",
                f"these cards lead back to the first: {way}; let the way lead over a wait",
            )

    def no_port(self, card: CompiledCard, port: str, what: str, there: tuple[str, ...]) -> str:
        """Return a sentence for a port that a card does not have."""
        if not there:
            return f"“{card.node.use}” has no {what} for matches"
        return f"“{card.node.use}” has no {what} “{port}”; there are: {', '.join(there)}"

    # values

    def take_values(self) -> bool:
        """Note from where each slot's value comes; whether none comes from itself, or from too far."""
        edges: list[tuple[int, int]] = []
        for start, end in wires_of(self.graph, values=True):
            source, target = self.cards.get(start.node), self.cards.get(end.node)
            if source is None or target is None:
                continue
            if not source.ports.gives:
                self.problem(source.node, "", f"“{source.node.use}” gives no value")
            elif not end.port:
                self.problem(
                    target.node, "", "a value goes into a slot: write its name after the card's number"
                )
            elif end.port in self.into.get(end.node, {}):
                self.problem(
                    target.node, end.port, "two values come into this slot; take one of the wires away"
                )
            else:
                self.into.setdefault(end.node, {})[end.port] = start
                edges.append((start.node, end.node))
        round_ = circle(edges)
        if round_:
            way = " → ".join(str(number) for number in (*round_, round_[0]))
            self.problem(self.nodes[round_[0]], "", f"these values are made of one another: {way}")
            return False
        along = longest_way(edges)
        if len(along) > MOST_GIVING:
            self.problem(
                self.nodes[along[-1]],
                "",
                f"this value comes over {len(along)} cards, from card {along[0]} on; at most {MOST_GIVING} may give "
                "one another values in a row. Let a variable keep what some of them come to",
            )
            return False
        return True

    def value_of(self, end: End) -> Formula | None:
        """Return what a card gives, to be worked out over the matches of the card that asks; None where something is wrong with it."""
        end = End(end.node)
        if end not in self.values:
            self.values[end] = None
            card = self.cards[end.node]
            self.values[end] = self.given_by(card)
        return self.values[end]

    def given_by(self, card: CompiledCard) -> Formula | None:
        key = (self.graph.id, card.node.id)
        assert card.card is not None
        if card.card.value == "count":
            return _held("number", card.key, 0.0)
        kept = self.formula(card, "value")
        if kept is None:
            return None
        if card.card.value == "formula":
            return _pulled(kept, key, card.identity)
        otherwise = {"number": 0.0, "yes/no": False, "text": "", "point": 0j}.get(kept.type, 0)
        return _held(kept.type, card.key, otherwise)

    def formula(self, card: CompiledCard, slot: str) -> Formula | None:
        """Return the formula in a slot of a card that only graphs have, or what is wired to it."""
        came = self.into.get(card.node.id, {})
        assert card.card is not None
        takes_names = card.card.value == "formula"
        if slot in came and not takes_names:
            return self.value_of(came[slot])
        text = card.node.slots.get(slot, card.card.slots[slot].default)
        inputs: dict[str, Formula] = {}
        if takes_names:
            for name, source in came.items():
                given = self.value_of(source)
                if given is not None:
                    inputs[name] = given
        try:
            found = compile_formula(self.index, text, inputs=inputs)
        except FormulaError as error:
            self.problem(card.node, slot, error.message)
            return None
        if found.type in ("object", "place"):
            self.problem(card.node, slot, "this is no number, yes/no, text or point")
            return None
        return found

    def take_card(self, card: CompiledCard) -> None:
        """Make the slots of a card that only graphs have ready."""
        assert card.card is not None
        for slot, declared in card.card.slots.items():
            if declared.kind.holds == "formula":
                found = self.formula(card, slot)
                if found is None:
                    continue
                if declared.type in ("number", "seconds") and found.type != "number":
                    self.problem(card.node, slot, "a number is needed here")
                card.formulas[slot] = found
            else:
                text = card.node.slots.get(slot, declared.default).strip()
                if declared.options and text not in declared.options:
                    self.problem(card.node, slot, f"“{text}” is not one of: {', '.join(declared.options)}")
                if declared.kind.all_matches and text not in (EACH_MATCH, ALL_MATCHES):
                    role = self.index.role(text)
                    if role is None:
                        self.problem(card.node, slot, self.index.unknown_role(text))
                    text = role.token if role is not None else text
                card.words[slot] = text
        for slot in card.node.slots:
            if slot not in card.card.slots:
                there = ", ".join(card.card.slots) or "none"
                self.problem(card.node, slot, f"“{card.node.use}” has no slot “{slot}”; there are: {there}")
        card.roles = tuple(dict.fromkeys(role for f in card.formulas.values() for role in f.roles))
        if card.node.of and not card.card.holds:
            self.problem(card.node, "", f"“{card.node.use}” cannot hold lines of its own")
        if card.node.use == FIRING:
            self.take_limits(card)

    def take_limits(self, card: CompiledCard) -> None:
        """Make ready what a card says of when it fires."""
        rest = card.formulas.get("rest")
        if rest is not None and rest.constant is None:
            self.problem(card.node, "rest", "a plain number of seconds is needed here")
        seconds = rest.constant if rest is not None and isinstance(rest.constant, float) else 0.0
        words = card.words
        if seconds < 0:
            self.problem(card.node, "rest", "a time cannot be below 0")
        card.limits = Limits(
            words["fires"],
            words["per"] == EACH_MATCH,
            ticks_of(max(0.0, seconds), self.rate),
            words["rest_per"] == EACH_MATCH,
            words["meanwhile"],
        )

    # lines

    def lines(self) -> dict[Part, tuple[CompiledLine, ...]]:
        """Return the cards of the catalogue as lines, by their parts and numbers."""
        blocks: dict[Part, tuple[CompiledLine, ...]] = {}
        for part, lines in self.given.items():
            made: list[CompiledLine] = []
            for number, (node, clause) in enumerate(lines):
                card = self.cards[node.id]
                if card.card is None:
                    one = card.line = self.line(card, part, number)
                else:
                    bound = bind(self.index, clause, _GROUPS[part])
                    one = self.make_line(self.rule, part, number, clause, bound, self.index)
                    if one is not None:
                        card.lines = (*card.lines, one)
                if one is not None:
                    made.append(one)
            blocks[part] = tuple(made)
        return blocks

    def line(self, card: CompiledCard, part: Part, number: int) -> CompiledLine | None:
        """Return a card of the catalogue as a line, with what is wired to its slots in their place."""
        entry, node = CATALOGUE[card.node.use], card.node
        kept = self.before.get(node.id)
        if kept is not None and kept.node is node and kept.line is not None and node.id not in self.into:
            made = kept.line
            if (made.part, made.number) == (part, number):
                return made
        wired: dict[str, Formula] = {}
        blanks = dict(node.slots)
        for slot, source in self.into.get(node.id, {}).items():
            declared = entry.slots.get(slot)
            if declared is None:
                there = ", ".join(entry.slots) or "none"
                self.problem(node, slot, f"“{node.use}” has no slot “{slot}”; there are: {there}")
            elif declared.type not in _BLANK:
                self.problem(node, slot, f"no value can come into this slot; it wants {declared.hint}")
            elif part == "when":
                self.problem(node, slot, "an occasion's slots take no values; write a formula there")
            else:
                given = self.value_of(source)
                if given is not None:
                    wired[slot], blanks[slot] = given, _BLANK[declared.type]
        clause = replace_slots(node.clause, blanks)
        bound = bind(self.index, clause, _GROUPS[part])
        for slot, given in wired.items():
            bound.problems = [p for p in bound.problems if p.slot != slot]
            wanted = _wanted(entry.slots[slot].type, bound)
            if wanted and given.type != wanted:
                self.problem(node, slot, f"here must come a {wanted}, but this is a {given.type}")
            bound.arguments[slot] = point_by_formula(given) if wanted == "point" else given
        return self.make_line(self.rule, part, number, clause, bound, self.index)


def replace_slots(clause: Clause, slots: dict[str, str]) -> Clause:
    """Return the clause with other texts in its slots."""
    return (
        clause
        if slots == clause.slots
        else Clause(use=clause.use, slots=slots, once=clause.once, of=clause.of)
    )


def _wanted(type: str, bound: Bound) -> str:
    if type in ("number", "seconds"):
        return "number"
    if type == "where":
        return "point"
    if type == "yes/no formula":
        return "yes/no"
    if type == "value":
        target = next((a for a in bound.arguments.values() if isinstance(a, VariableArgument)), None)
        return target.type if target is not None else ""
    return ""


def _pulled(inner: Formula, key: tuple[int, int], number: int) -> Formula:
    """Return a card's formula: worked out once for each table in a turn, with draws of its own."""

    def evaluate(f: Frame) -> object:
        return f.pulled(key, number, inner.evaluate)

    return replace(inner, evaluate=evaluate, constant=None, steady=False, given=True, always=inner.constant)


def _held(type: ValueType, key: tuple[int, int], otherwise: object) -> Formula:
    """Return what a card keeps, for each match."""
    return Formula("held", type, (), (("held", str(key[1])),), lambda f: f.held(key, otherwise), given=True)
