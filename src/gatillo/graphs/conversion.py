"""Converting rules to graphs, and graphs that are drawn like a rule to rules. The trace stays the same to the byte."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field
from itertools import pairwise

from msgspec import convert, to_builtins
from msgspec.structs import replace

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.cards.graph_cards import (
    ALL_HOLD,
    CARDS,
    EACH_MATCH,
    ELSE_FIRING,
    FIRING,
    GATHER,
    MATCHES,
    PASS,
    find_output,
    ports_of,
)
from gatillo.catalogue.cards.own_nodes import faces
from gatillo.catalogue.entries.own import OWN_DOES, OWN_LINES, OWN_SAYS
from gatillo.language.binding import ClauseGroup, why_not_a
from gatillo.level.document import FARTHEST
from gatillo.level.graphs import OUTPUT, OWN, given_in, wires_of
from gatillo.level.model import Clause, Graph, Node, Rule, Wire

GROUP_OF: dict[str, ClauseGroup] = {
    "when": "occasion",
    "if": "condition",
    "do": "action",
    "else": "action",
}
"""By part of a rule: what its lines must be."""
DOWN, ASIDE = 90.0, 360.0
"""Pixels from one card of a chain to the next, and from one chain to another."""


HOLDS = "formula_holds"
"""The condition that asks for a yes/no value."""


class NoConversion(Exception):
    """A rule or a graph that cannot be turned into the other; the message says what is in the way."""


@dataclass(frozen=True, slots=True)
class Drawn:
    """A rule as a graph, and where its cards stand in the rule."""

    graph: Graph
    lines: dict[int, tuple[str, int]] = field(default_factory=dict)
    """By card: the part and the line that it is."""
    answers: dict[int, int] = field(default_factory=dict)
    """By card through which goes what has passed a condition: its line."""
    wrong: tuple[tuple[str, int, str], ...] = ()
    """What cannot be: part, line, a sentence."""


def as_graph(rule: Rule, graphs: Mapping[str, Graph] | None = None) -> Graph:
    """Return a rule as cards; `graphs` are those of the level, by name, for the own nodes that it speaks of.

    Raises NoConversion where it has lines of which the catalogue knows nothing, or that cannot be cards.
    """
    clauses = (*rule.when, *rule.if_, *rule.do, *rule.else_)
    unknown = next((c.use for c in clauses if c.use not in CATALOGUE), None)
    if unknown is not None:
        raise NoConversion(f"“{rule.name}” cannot be a graph: there is nothing called “{unknown}”")
    drawn = _Drawing(rule, graphs or {}, counted=False).drawn()
    if drawn.wrong:
        raise NoConversion(f"“{rule.name}” cannot be a graph: {drawn.wrong[0][2]}")
    return drawn.graph


def drawn_rule(rule: Rule, graphs: Mapping[str, Graph]) -> Drawn:
    """Return a rule as cards together with the rule line that each comes from, and what could not be converted."""
    return _Drawing(rule, graphs, counted=True).drawn()


def speaks_of_own_nodes(rule: Rule) -> bool:
    """Return whether some line of a rule is an own node."""
    return any(clause.use in OWN_LINES for clause in _all((*rule.when, *rule.if_, *rule.do, *rule.else_)))


def _all(clauses: Iterable[Clause]) -> Iterator[Clause]:
    for clause in clauses:
        yield clause
        yield from _all(clause.of)


def _waits(clause: Clause) -> bool:
    entry = CATALOGUE.get(clause.use)
    return entry is not None and entry.derived.waits


class _Drawing:
    def __init__(self, rule: Rule, graphs: Mapping[str, Graph], counted: bool) -> None:
        self.rule = rule
        self.counted = counted
        """Whether those that pass conditions go through a card of their own."""
        self.graphs = graphs
        self.nodes: list[Node] = []
        self.wires: list[Wire] = []
        self.values: list[Wire] = []
        self.lines: dict[int, tuple[str, int]] = {}
        self.answers: dict[int, int] = {}
        self.wrong: list[tuple[str, int, str]] = []
        self.at: tuple[str, int] = ("when", 0)
        """The part and the line that is being drawn."""
        self.own = speaks_of_own_nodes(rule)

    def drawn(self) -> Drawn:
        rule = self.rule
        self.look_within()
        occasions = rule.when or (Clause(use="every_tick"),)
        ends = []
        for at, clause in enumerate(occasions):
            self.at = ("when", at)
            ends += self.card(clause, [], aside=at)
        if len(ends) > 1:
            ends = [self.put(GATHER, ends)]
        no = ""
        self.at = ("if", 0)
        if rule.else_ and len(rule.if_) == 1 and self.own:
            ends, no = self.only_condition(rule.if_[0], ends)
        elif rule.else_:
            ends = [self.put(ALL_HOLD, ends, of=rule.if_)]
            no = f"{self.nodes[-1].id}.no"
        else:
            for at, clause in enumerate(rule.if_):
                self.at = ("if", at)
                ends = self.card(clause, ends)
                ends = self.passed(at, ends)
        limits = _limits(rule)
        if limits or not rule.do or self.own:
            ends = [self.put(FIRING, ends, limits)]
        self.actions("do", rule.do, ends)
        if no:
            # a firing of its own, for those that fail
            ends = [self.put(ELSE_FIRING, [no], aside=1)]
            if _takes(rule):
                ends = [self.put(FIRING, ends, _takes(rule), aside=1)]
            self.actions("else", rule.else_, ends, aside=1)
        graph = Graph(
            id=rule.id,
            name=rule.name,
            on=rule.on,
            nodes=tuple(self.nodes),
            wires=tuple(self.wires),
            values=tuple(self.values),
            note=rule.note,
        )
        return Drawn(graph, self.lines, self.answers, tuple(self.wrong))

    def look_within(self) -> None:
        """Tell of own nodes where they cannot stand."""
        rule = self.rule
        for part, clauses in (("if", rule.if_), ("do", rule.do), ("else", rule.else_)):
            for at, clause in enumerate(clauses):
                if any(inner.use in OWN_LINES for inner in _all(clause.of)):
                    self.wrong.append(
                        (part, at, "an own node cannot stand within another line; put it above or below")
                    )
        if rule.else_ and len(rule.if_) > 1:
            own = next((at for at, c in enumerate(rule.if_) if c.use in OWN_LINES), None)
            if own is not None:
                why = "above an “else”, an own node must be the only condition; put the others into it"
                self.wrong.append(("if", own, why))

    def actions(self, part: str, clauses: tuple[Clause, ...], ends: list[str], aside: int = 0) -> None:
        for at, clause in enumerate(clauses):
            self.at = (part, at)
            ends = self.card(clause, ends, aside=aside)
            if _waits(clause):
                last = at + 1 == len(clauses)
                if self.rule.one_at_a_time or last:
                    # what goes on is a firing, whether anything follows or not
                    ends = [self.put(FIRING, ends, _one_at_a_time(self.rule), aside=aside)]

    def card(self, clause: Clause, ends: list[str], aside: int = 0) -> list[str]:
        """Return a line as a card; gives the outputs along which the chain goes on."""
        if clause.use in OWN_LINES:
            return self.own_card(clause, ends, aside)
        if wrong := why_not_a(GROUP_OF[self.at[0]], clause.use):
            self.wrong.append((*self.at, wrong))
            return ends
        number = self.add(
            Node(id=1, use=clause.use, slots=clause.slots, once=clause.once, of=clause.of), ends, aside
        )
        entry = CATALOGUE[clause.use]
        if entry.group == "condition":
            return [f"{number}.no" if clause.negated else f"{number}.yes"]
        return [f"{number}.after" if entry.derived.waits else str(number)]

    def only_condition(self, clause: Clause, ends: list[str]) -> tuple[list[str], str]:
        """Return the one condition above an else: where those that pass it go on, and those that fail."""
        if clause.use not in OWN_LINES:
            ends = [self.put(ALL_HOLD, ends, of=(clause,))]
            no = f"{self.nodes[-1].id}.no"
        else:
            yes = self.own_card(clause, ends, 0)
            other = self.other_port(clause)
            if not other:
                self.wrong.append((*self.at, self.no_other(clause)))
            ends, no = yes, f"{self.nodes[-1].id}.{other}"
        return self.passed(0, ends), no

    def passed(self, line: int, ends: list[str]) -> list[str]:
        """Return where those that have passed a condition go on: through a card by which they are counted."""
        if not (self.own and self.counted):
            return ends
        ends = [self.put(PASS, ends)]
        self.answers[self.nodes[-1].id] = line
        return ends

    def own_card(self, clause: Clause, ends: list[str], aside: int) -> list[str]:
        """Return an own node's card, with what is given to it."""
        name = clause.slots.get("graph", "")
        try:
            given = given_in(clause.slots.get("given", ""))
        except ValueError as error:
            self.wrong.append((*self.at, str(error)))
            given = {}
        used = self.graphs.get(name)
        slots = {"graph": name, **given}
        if used is None:
            # reported when it is looked up
            self.add(Node(id=1, use=OWN, slots=slots), [], aside)
            return ends
        outputs = list(faces(used, OUTPUT, MATCHES))
        if clause.use == OWN_SAYS and not outputs:
            return [self.asked(clause, slots, ends, aside)]
        number = self.add(Node(id=1, use=OWN, slots=slots), ends, aside)
        if clause.use == OWN_DOES:
            return [f"{number}.{outputs[0]}"] if outputs else ends
        if not outputs:
            self.wrong.append((*self.at, f"“{name}” has no output for those that it keeps; give it one"))
            return ends
        if clause.negated:
            other = self.other_port(clause, negated=False)
            if not other:
                self.wrong.append((*self.at, self.no_other(clause)))
            return [f"{number}.{other}"]
        return [f"{number}.{self.port(outputs)}"]

    def asked(self, clause: Clause, slots: dict[str, str], ends: list[str], aside: int) -> str:
        """Return a condition that asks for the yes/no value of an own node."""
        source = self.add(Node(id=1, use=OWN, slots=slots), [], aside + 1)
        number = self.add(Node(id=1, use=HOLDS), ends, aside)
        self.values.append(Wire(start=str(source), end=f"{number}.formula"))
        return f"{number}.no" if clause.negated else f"{number}.yes"

    def port(self, outputs: list[str]) -> str:
        return next((o for o in ("yes", "kept") if o in outputs), outputs[0])

    def other_port(self, clause: Clause, negated: bool | None = None) -> str:
        """Return the output for those that a condition does not let through; "" if there is none."""
        used = self.graphs.get(clause.slots.get("graph", ""))
        outputs = list(faces(used, OUTPUT, MATCHES)) if used is not None else []
        if clause.use == OWN_SAYS and not outputs:
            return "yes" if clause.negated else "no"
        yes = self.port(outputs) if outputs else ""
        other = next((o for o in ("no", "rest", *outputs) if o in outputs and o != yes), "")
        return yes if clause.negated and negated is None else other

    def no_other(self, clause: Clause) -> str:
        return f"“{clause.slots.get('graph', '')}” has no output for those that do not pass; give it one called no"

    def put(
        self,
        use: str,
        ends: list[str],
        slots: dict[str, str] | None = None,
        of: tuple[Clause, ...] = (),
        aside: int = 0,
    ) -> str:
        """Return a card that only graphs have."""
        number = self.add(Node(id=1, use=use, slots=slots or {}, of=of), ends, aside)
        return f"{number}.yes" if use == ALL_HOLD else str(number)

    def add(self, node: Node, ends: list[str], aside: int) -> int:
        number = len(self.nodes) + 1
        self.lines[number] = self.at
        # occasions stand beside one another, all else below what leads to it
        down = 0.0 if not ends else (number - (len(self.rule.when) or 1)) * DOWN
        self.nodes.append(replace(node, id=number, at=(aside * ASIDE, down)))
        self.wires += [Wire(start=end, end=str(number)) for end in ends]
        return number


def _takes(rule: Rule) -> dict[str, str]:
    if rule.once_for_all:
        return {"takes": "one for all"}
    return _one_at_a_time(rule)


def _one_at_a_time(rule: Rule) -> dict[str, str]:
    return {"takes": "one at a time"} if rule.one_at_a_time else {}


def _limits(rule: Rule) -> dict[str, str]:
    """Return what a rule says of when it fires, as the slots of a card; empty for one that fires whenever it can."""
    found: dict[str, str] = {}
    if rule.fires != "each tick":
        found["fires"] = rule.fires
        if rule.fires == "first time only" and rule.first_per == "object":
            found["per"] = EACH_MATCH
    if rule.cooldown:
        found["rest"] = repr(rule.cooldown)
        if rule.cooldown_per == "object":
            found["rest_per"] = EACH_MATCH
    found |= _takes(rule)
    waits = any(map(_waits, (*rule.do, *rule.else_)))
    if rule.while_waiting != "stack" and waits:
        found["meanwhile"] = rule.while_waiting
    return found


def as_rule_again(graph: Graph) -> Rule:
    """Return a graph that is drawn as a rule would be, as that rule. Raises NoConversion with the card that is in the way."""
    return _Reading(graph).rule()


_OF_RULES = {GATHER, ALL_HOLD, FIRING, ELSE_FIRING}
"""Cards that only graphs have, but that say what a rule may say too."""


class _Reading:
    def __init__(self, graph: Graph) -> None:
        self.graph = graph
        self.nodes = {node.id: node for node in graph.nodes}
        self.follows: dict[int, list[tuple[str, int]]] = {}
        self.seen: list[int] = []
        self.late: set[str] = set()
        """How matches are taken after waits."""

    def refused(self, number: int, why: str) -> NoConversion:
        return NoConversion(f"“{self.graph.name}” cannot be a rule: card {number} {why}")

    def rule(self) -> Rule:
        graph = self.graph
        if graph.for_:
            raise NoConversion(f"“{graph.name}” cannot be a rule: it takes its turn for each {graph.for_}")
        for node in graph.nodes:
            if (node.use in CARDS and node.use not in _OF_RULES) or ports_of(node.use) is None:
                raise self.refused(node.id, "is one that only graphs have")
        taking = next((end for _, end in wires_of(graph, values=True)), None)
        if taking is not None:
            raise self.refused(taking.node, "takes a value by a wire")
        for start, end in wires_of(graph):
            ports = ports_of(self.nodes[start.node].use)
            output = (find_output(ports, start.port) if ports is not None else None) or start.port
            self.follows.setdefault(start.node, []).append((output, end.node))
        when, number = self.occasions()
        if_, number, otherwise = self.conditions(number)
        limits: dict[str, str] = {}
        fires = number is not None and self.nodes[number].use == FIRING
        if number is not None and fires:
            limits = self.see(number).slots
            number = self.next_of(number, "then")
        takes = limits.get("takes", "all at once")
        do = self.actions(number, takes)
        else_: tuple[Clause, ...] = ()
        if otherwise is not None:
            else_ = self.otherwise(otherwise, takes)
        left = next((n for n in sorted(self.nodes) if n not in self.seen), None)
        if left is not None:
            raise self.refused(left, "does not hang on the chain")
        if not do and not fires:
            raise NoConversion(f"“{graph.name}” cannot be a rule: it does nothing")
        late = next((b for a, b in pairwise(self.seen) if b < a), None)
        if late is not None:
            raise self.refused(late, "comes later in the chain than its number says; renumber it")
        waits = any(map(_waits, (*do, *else_)))
        rule = Rule(
            id=graph.id,
            name=graph.name,
            on=graph.on,
            when=when,
            if_=if_,
            do=do,
            else_=else_,
            note=graph.note,
            while_waiting="stack" if waits else "ignore",
        )
        return self.limited(rule, limits)

    def see(self, number: int) -> Node:
        """Return the card, which is on the way."""
        if number in self.seen:
            raise self.refused(number, "is come to again")
        self.seen.append(number)
        return self.nodes[number]

    def next_of(self, number: int, *outputs: str) -> int | None:
        """Return the card to which one alone leads, at one of these outputs."""
        ways = self.follows.get(number, [])
        if len(ways) > 1:
            raise self.refused(number, "leads to several cards")
        if ways and ways[0][0] not in outputs:
            raise self.refused(number, f"goes on at “{ways[0][0]}”")
        return ways[0][1] if ways else None

    def occasions(self) -> tuple[tuple[Clause, ...], int | None]:
        """Return the occasions, and the card to which they lead: several over one that gathers what they bring."""
        plain = [n for n in sorted(self.nodes) if self.nodes[n].use in CATALOGUE]
        found = [n for n in plain if CATALOGUE[self.nodes[n].use].group == "occasion"]
        when = tuple(self.see(n).clause for n in found)
        following = {self.next_of(n, "then") for n in found}
        gather = next(iter(following), None)
        if len(found) == 1 and (gather is None or self.nodes[gather].use != GATHER):
            return when, gather
        if len(found) < 2 or len(following) != 1 or gather is None or self.nodes[gather].use != GATHER:
            raise NoConversion(
                f"“{self.graph.name}” cannot be a rule: it has {len(found) or 'no'} occasions, and not one card “all that have come” for them"
            )
        self.see(gather)
        return when, self.next_of(gather, "then")

    def conditions(self, number: int | None) -> tuple[tuple[Clause, ...], int | None, int | None]:
        """Return the conditions, the card to which they lead, and the card at which its else begins."""
        found: list[Clause] = []
        while number is not None:
            use = self.nodes[number].use
            group = "" if use in CARDS else CATALOGUE[use].group
            if use != ALL_HOLD and group not in ("condition", "pick"):
                break
            ways = dict(self.follows.get(number, []))
            fails = next((to for o, to in ways.items() if o in ("no", "rest")), None)
            if fails is not None and self.nodes[fails].use == ELSE_FIRING and len(ways) <= 2:
                if found:
                    raise self.refused(number, "has an else of its own; let one card hold all the conditions")
                if len(self.follows[number]) != len(ways):
                    raise self.refused(number, "leads to several cards")
                node = self.see(number)
                inner = node.of if use == ALL_HOLD else (node.clause,)
                return inner, next((to for to in ways.values() if to != fails), None), fails
            if use == ALL_HOLD:
                found += self.see(number).of
                number = self.next_of(number, "yes")
                continue
            clause = self.see(number).clause
            negated = group == "condition" and "no" in ways
            found.append(replace(clause, negated=negated))
            number = self.next_of(number, "yes", "no", "kept")
        return tuple(found), number, None

    def otherwise(self, number: int, takes: str) -> tuple[Clause, ...]:
        """Return the lines of an else."""
        self.see(number)
        following = self.next_of(number, "then")
        if following is not None and self.nodes[following].use == FIRING:
            if set(self.see(following).slots) - {"takes"}:
                raise self.refused(following, "says for the else alone when it fires")
            mine = self.nodes[following].slots.get("takes", "all at once")
            last, following = following, self.next_of(following, "then")
        else:
            mine, last = "all at once", number
        if mine != takes:
            raise self.refused(last, "takes its matches in another way than what is done above")
        found = self.actions(following, takes)
        if not found:
            raise self.refused(last, "leads to nothing")
        return found

    def actions(self, number: int | None, takes: str) -> tuple[Clause, ...]:
        """Return a chain of actions; after a wait, what makes of it a firing."""
        found: list[Clause] = []
        while number is not None:
            node = self.see(number)
            entry = CATALOGUE.get(node.use)
            if entry is None or entry.group != "action":
                why = (
                    "is a condition below an action"
                    if entry is not None
                    else "is one that only graphs have there"
                )
                raise self.refused(number, why)
            found.append(node.clause)
            before, number = number, self.next_of(number, "after" if entry.derived.waits else "then")
            if not entry.derived.waits:
                continue
            late = "all at once"
            if number is not None and self.nodes[number].use == FIRING:
                slots = self.see(number).slots
                if set(slots) - {"takes"}:
                    raise self.refused(number, "states a second time when it fires")
                late = slots.get("takes", late)
                begins, number = number, self.next_of(number, "then")
                if number is not None and late == "all at once":
                    raise self.refused(begins, "begins a firing in the middle of a chain")
            elif number is None:
                raise self.refused(before, "has nothing after its wait")
            self.late.add(late)
            if takes != "one for all" and late != takes:
                raise self.refused(before, "takes its matches in another way after its wait")
        return tuple(found)

    def limited(self, rule: Rule, slots: dict[str, str]) -> Rule:
        """Return the rule with what a card says of when it fires."""
        number = next((n.id for n in self.graph.nodes if n.use == FIRING), 0)
        text = slots.get("rest", "0").strip()
        try:
            rest = float(text)
        except ValueError:
            raise self.refused(number, f"rests “{text}”, which is no plain number") from None
        options = {name: slots.get(name, slot.default) for name, slot in CARDS[FIRING].slots.items()}
        wrong = next(
            (n for n, s in CARDS[FIRING].slots.items() if s.options and options[n] not in s.options), None
        )
        if wrong is not None or not 0 <= rest <= FARTHEST:
            raise self.refused(number, "has a slot with a mistake; correct it first")
        takes, late = options["takes"], self.late - {"all at once"}
        if len(self.late) > 1:
            raise self.refused(number, "takes its matches in another way than what comes after a wait")
        waiting = options["meanwhile"] if "meanwhile" in slots else rule.while_waiting
        return convert(
            {
                **to_builtins(rule),
                "fires": options["fires"],
                "first_per": "object" if options["per"] == EACH_MATCH else "rule",
                "cooldown": rest,
                "cooldown_per": "object" if options["rest_per"] == EACH_MATCH else "rule",
                "once_for_all": takes == "one for all",
                "one_at_a_time": takes == "one at a time" or "one at a time" in late,
                "while_waiting": waiting,
            },
            Rule,
        )
