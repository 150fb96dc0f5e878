"""A rule as a graph, always, and a graph that is drawn like one as a rule. Both leave the trace as it was, to the byte."""

from __future__ import annotations

from itertools import pairwise

from msgspec import convert, to_builtins
from msgspec.structs import replace

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.cards import (
    ALL_HOLD,
    CARDS,
    EACH_MATCH,
    ELSE_FIRING,
    FIRING,
    GATHER,
    find_output,
    ports_of,
)
from gatillo.level.graphs import wires_of
from gatillo.level.model import FARTHEST, Clause, Graph, Node, Rule, Wire

DOWN, ASIDE = 90.0, 360.0
"""Pixels from one card of a chain to the next, and from one chain to another."""


class NoConversion(Exception):
    """A rule or a graph that cannot be turned into the other; the message says what is in the way."""


def as_graph(rule: Rule) -> Graph:
    """A rule as cards. Raises NoConversion where it has lines of which the catalogue knows nothing."""
    clauses = (*rule.when, *rule.if_, *rule.do, *rule.else_)
    unknown = next((c.use for c in clauses if c.use not in CATALOGUE), None)
    if unknown is not None:
        raise NoConversion(f"“{rule.name}” cannot be a graph: there is nothing called “{unknown}”")
    return _Drawing(rule).drawn()


class _Drawing:
    def __init__(self, rule: Rule) -> None:
        self.rule = rule
        self.nodes: list[Node] = []
        self.wires: list[Wire] = []

    def drawn(self) -> Graph:
        rule = self.rule
        occasions = rule.when or (Clause(use="every_tick"),)
        ends = [self.card(clause, [], aside=at) for at, clause in enumerate(occasions)]
        if len(ends) > 1:
            ends = [self.put(GATHER, ends)]
        no = ""
        if rule.else_:
            ends = [self.put(ALL_HOLD, ends, of=rule.if_)]
            no = f"{self.nodes[-1].id}.no"
        else:
            for clause in rule.if_:
                ends = [self.card(clause, ends)]
        limits = _limits(rule)
        if limits or not rule.do:
            ends = [self.put(FIRING, ends, limits)]
        self.actions(rule.do, ends)
        if no:
            # a firing of its own, for those that fail
            ends = [self.put(ELSE_FIRING, [no], aside=1)]
            if _takes(rule):
                ends = [self.put(FIRING, ends, _takes(rule), aside=1)]
            self.actions(rule.else_, ends, aside=1)
        return Graph(
            id=rule.id,
            name=rule.name,
            on=rule.on,
            nodes=tuple(self.nodes),
            wires=tuple(self.wires),
            note=rule.note,
        )

    def actions(self, clauses: tuple[Clause, ...], ends: list[str], aside: int = 0) -> None:
        for at, clause in enumerate(clauses):
            ends = [self.card(clause, ends, aside=aside)]
            if CATALOGUE[clause.use].waits:
                last = at + 1 == len(clauses)
                if self.rule.one_at_a_time or last:
                    # what goes on is a firing, whether anything follows or not
                    ends = [self.put(FIRING, ends, _one_at_a_time(self.rule), aside=aside)]

    def card(self, clause: Clause, ends: list[str], aside: int = 0) -> str:
        """A line as a card; gives the output along which the chain goes on."""
        number = self.add(
            Node(id=1, use=clause.use, slots=clause.slots, once=clause.once, of=clause.of), ends, aside
        )
        entry = CATALOGUE[clause.use]
        if entry.group == "condition":
            return f"{number}.no" if clause.negated else f"{number}.yes"
        return f"{number}.after" if entry.waits else str(number)

    def put(
        self,
        use: str,
        ends: list[str],
        slots: dict[str, str] | None = None,
        of: tuple[Clause, ...] = (),
        aside: int = 0,
    ) -> str:
        """A card that only graphs have."""
        number = self.add(Node(id=1, use=use, slots=slots or {}, of=of), ends, aside)
        return f"{number}.yes" if use == ALL_HOLD else str(number)

    def add(self, node: Node, ends: list[str], aside: int) -> int:
        number = len(self.nodes) + 1
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
    """What a rule says of when it fires, as the slots of a card; empty for one that fires whenever it can."""
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
    waits = any(CATALOGUE[c.use].waits for c in (*rule.do, *rule.else_))
    if rule.while_waiting != "stack" and waits:
        found["meanwhile"] = rule.while_waiting
    return found


def as_rule_again(graph: Graph) -> Rule:
    """A graph that is drawn as a rule would be, as that rule. Raises NoConversion with the card that is in the way."""
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
        waits = any(CATALOGUE[c.use].waits for c in (*do, *else_))
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
        """The card, which is on the way."""
        if number in self.seen:
            raise self.refused(number, "is come to again")
        self.seen.append(number)
        return self.nodes[number]

    def next_of(self, number: int, *outputs: str) -> int | None:
        """The card to which one alone leads, at one of these outputs."""
        ways = self.follows.get(number, [])
        if len(ways) > 1:
            raise self.refused(number, "leads to several cards")
        if ways and ways[0][0] not in outputs:
            raise self.refused(number, f"goes on at “{ways[0][0]}”")
        return ways[0][1] if ways else None

    def occasions(self) -> tuple[tuple[Clause, ...], int | None]:
        """The occasions, and the card to which they lead: several over one that gathers what they bring."""
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
        """The conditions, the card to which they lead, and the card at which its else begins."""
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
        """The lines of an else."""
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
        """A chain of actions; after a wait, what makes of it a firing."""
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
            before, number = number, self.next_of(number, "after" if entry.waits else "then")
            if not entry.waits:
                continue
            late = "all at once"
            if number is not None and self.nodes[number].use == FIRING:
                slots = self.see(number).slots
                if set(slots) - {"takes"}:
                    raise self.refused(number, "says anew when it fires")
                late = slots.get("takes", late)
                begins, number = number, self.next_of(number, "then")
                if number is not None and late == "all at once":
                    raise self.refused(begins, "begins a firing in the middle of a chain")
            elif number is None:
                raise self.refused(before, "leads after its wait to nothing")
            self.late.add(late)
            if takes != "one for all" and late != takes:
                raise self.refused(before, "goes on after its wait with its matches taken in another way")
        return tuple(found)

    def limited(self, rule: Rule, slots: dict[str, str]) -> Rule:
        """The rule with what a card says of when it fires."""
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
            raise self.refused(number, "has a slot that does not fit; mend it first")
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
