"""Graphs run by a plain loop, written from docs/graphs.md: card after card, one match after the other."""

from __future__ import annotations

import math
from types import SimpleNamespace

from msgspec.structs import replace

from gatillo.level.model import Graph
from plain_run import Match, PlainRun, ages, agree, roles_in


def by_roles(matches):
    """Matches parted by the roles that they have, as first come."""
    parts = {}
    for match in matches:
        parts.setdefault(tuple(match), []).append(match)
    return parts.values()


class PlainGraphs(PlainRun):
    """As a plain run, of graphs: what cards keep is kept by card and key."""

    def __init__(self, level):
        super().__init__(level)
        self.graphs = [entry for entry in level.order if isinstance(entry, Graph)]
        self.kept = {}

    def step(self):
        self.tick += 1
        for wait in self.begins():
            self.gathered = {}
            self.start(wait.graph, wait.card, "after", wait.matches, "resumed")
            self.hand_together(wait.graph, "resumed")
        for graph in self.graphs:
            self.take(graph)

    def take(self, graph):
        self.begun, self.gathered, self.arrived = {}, {}, {}
        cards = sorted(graph.nodes, key=lambda node: node.id)
        for card in cards:
            if card.use == "beat":
                self.beat(graph, card)
        for card in cards:
            found = self.come(card)
            if found:
                self.start(graph, card, "then", found, "do")
        for card in cards:
            if card.use == "on_change":
                self.ends(graph, card)
        self.hand_together(graph, "do")

    def card_gather(self, graph, card, entered, matches):
        self.gathered.setdefault(card.id, []).append(matches)
        return []

    def hand_together(self, graph, way):
        while self.gathered:
            number = min(self.gathered)
            come = self.gathered.pop(number)
            together = self.together(come)
            for at, match in enumerate(together):
                match.log = [entry for some in come for entry in self.entries(some, match, at)]
            card = next(node for node in graph.nodes if node.id == number)
            self.start(graph, card, "then", together, way)

    def together(self, come):
        """Each combination once, in the order of age; who has no role is there as often as most came."""
        if len(come) == 1:
            return [Match(match) for match in come[0]]
        roles = list(dict.fromkeys(role for some in come for role in some[0]))
        if not roles:
            return [Match() for _ in max(come, key=len)]
        whole = {}
        for some in come:
            for match in self.with_roles([Match(one) for one in some], roles):
                whole.setdefault(self.key(match), Match({role: match[role] for role in roles}))
        return sorted(whole.values(), key=ages)

    @staticmethod
    def entries(some, match, at):
        """What was created for those of some matches of which this one was made."""
        mine = [one for place, one in enumerate(some) if (agree(one, match) if match else place == at)]
        return [(*one.newest()[:1], dict(one), one.newest()[1]) for one in mine if one.newest()]

    def come(self, card):
        if card.use == "each_in_every_tick":
            return self.joined([Match()], card.slots["who"])
        if card.use == "message_heard":
            return [Match() for _ in range(self.heard.get(card.slots["message"], 0))]
        if card.use == "every_seconds":
            period = float(card.slots["period"])
            return (
                [Match()]
                if self.tick in {math.ceil((n + 1) * period * self.rate - 1e-9) for n in range(99)}
                else []
            )
        return []

    # along the wires

    def start(self, graph, card, output, matches, way):
        self.firing = None
        self.way = way
        self.lead(graph, card, output, matches)
        if self.firing is not None:
            self.fired.insert(self.firing[0], (self.tick, graph.name, way, self.firing[1]))

    def lead(self, graph, card, output, matches):
        if not matches:
            return
        for wire in graph.wires:
            number, _, port = wire.start.partition(".")
            if int(number) == card.id and (port or self.first_output(card)) == output:
                at, _, entered = wire.end.partition(".")
                self.run(
                    graph,
                    next(n for n in graph.nodes if n.id == int(at)),
                    entered,
                    [match.alone() for match in matches],
                )

    def first_output(self, card):
        return {
            "formula_holds": "yes", "on_change": "begins", "count_to": "at", "each": "one", "beat": "beat",
            "in_order": "1",
        }.get(card.use, "then")  # fmt: skip

    def run(self, graph, card, entered, matches):
        control = getattr(self, f"card_{card.use}", None)
        if control is not None:
            # each output is led to its end before the next
            for output, some in control(graph, card, entered, matches):
                self.lead(graph, card, output, some)
            return
        if self.firing is None:
            self.firing = (len(self.fired), len(matches))
        if card.use == "wait":
            self.put_off(graph, card, matches)
        else:
            self.act(SimpleNamespace(id=0), (replace(card, slots=self.slots(graph, card)),), matches)
        self.lead(graph, card, "then", matches)

    def slots(self, graph, card):
        """What an action's slots hold, where values come by wire what the cards that give them keep for all matches."""
        slots = dict(card.slots)
        for wire in graph.values:
            number, _, slot = wire.end.partition(".")
            if int(number) == card.id:
                slots[slot] = repr(self.kept.get((graph.id, int(wire.start)), {}).get(None, 0))
        return slots

    def card_hold(self, graph, card, entered, matches):
        matches = self.with_roles(matches, roles_in(card.slots["value"]))
        for value in [self.value(card.slots["value"], match) for match in matches]:
            self.memory(graph, card)[None] = value
        return [("then", matches)]

    def put_off(self, graph, card, matches):
        matches = self.with_roles(matches, roles_in(card.slots["time"]))
        ticks = [max(1, math.ceil(self.value(card.slots["time"], m) * self.rate - 1e-9)) for m in matches]
        for lasts in sorted(set(ticks)):
            some = [match for match, n in zip(matches, ticks, strict=True) if n == lasts]
            self.waits.append(SimpleNamespace(due=self.tick + lasts, graph=graph, card=card, matches=some))

    # cards that only graphs have

    def per(self, card, match):
        per = card.slots.get("per", "each match")
        if per == "all matches":
            return None
        return self.key(match) if per == "each match" else match[per].id

    def memory(self, graph, card):
        return self.kept.setdefault((graph.id, card.id), {})

    def card_formula_holds(self, graph, card, entered, matches):
        formula = card.slots["formula"]
        roles = roles_in(formula)
        # what was created above is there already, and not looked for
        matches = self.with_roles(matches, [role for role in roles if role == "new_Lamp"])
        units = self.with_roles(matches, roles[:1])
        yes, no = [], []
        for unit in units:
            found = [one for one in self.with_roles([unit], roles) if self.value(formula, one)]
            yes += found
            no += [] if found else [unit]
        return [("yes", yes), ("no", no)]

    def card_in_order(self, graph, card, entered, matches):
        return [(str(n), matches) for n in range(1, 9)]

    def card_first_time(self, graph, card, entered, matches):
        used = self.memory(graph, card)
        keys = [self.per(card, match) for match in matches]
        if entered == "again":
            for key in keys:
                used.pop(key, None)
            return []
        fresh = [match for match, key in zip(matches, keys, strict=True) if key not in used]
        used.update(dict.fromkeys(keys, True))
        return [("then", fresh)]

    def card_gate(self, graph, card, entered, matches):
        opened = self.memory(graph, card)
        keys = [self.per(card, match) for match in matches]
        if entered in ("open", "close"):
            opened.update(dict.fromkeys(keys, entered == "open"))
            return []
        first = card.slots.get("start", "closed") == "open"
        return [("then", [m for m, key in zip(matches, keys, strict=True) if opened.get(key, first)])]

    def card_count_to(self, graph, card, entered, matches):
        counts = self.memory(graph, card)
        if entered == "reset":
            for match in matches:
                counts.pop(self.per(card, match), None)
            return []
        matches = self.with_roles(matches, roles_in(card.slots["count"]))
        at, before = [], []
        for match, wanted in [(match, self.value(card.slots["count"], match)) for match in matches]:
            key = self.per(card, match)
            counts[key] = counts.get(key, 0) + 1
            (at if counts[key] >= wanted else before).append(match)
            if counts[key] >= wanted:
                counts[key] = 0
        return [("at", at), ("before", before)]

    def card_each(self, graph, card, entered, matches):
        return [*(("one", [match]) for match in matches), ("done", matches)]

    def card_both_come(self, graph, card, entered, matches):
        come = self.memory(graph, card)
        if come.get("tick") != self.tick:
            come.update({"tick": self.tick, "1": set(), "2": set(), "both": set()})
        other = come["2" if entered == "1" else "1"]
        self.arrived.setdefault(card.id, []).append(matches)
        both = [match for match in matches if self.key(match) in other - come["both"]]
        for at, match in enumerate(both):
            match.log = [entry for some in self.arrived[card.id] for entry in self.entries(some, match, at)]
        come[entered] |= {self.key(match) for match in matches}
        come["both"] |= {self.key(match) for match in both}
        return [("then", both)]

    def card_switch_by(self, graph, card, entered, matches):
        cases = card.slots["cases"].split(", ")
        matches = self.with_roles(matches, roles_in(card.slots["value"]))
        said = [f"{self.value(card.slots['value'], match):g}" for match in matches]
        parts = {case: [m for m, word in zip(matches, said, strict=True) if word == case] for case in cases}
        rest = [m for m, word in zip(matches, said, strict=True) if word not in cases]
        return [*parts.items(), ("else", rest)]

    def card_on_change(self, graph, card, entered, matches):
        memory, begun = self.memory(graph, card), self.begun.setdefault(card.id, {})
        was = memory.get(self.tick - 1, {})
        fresh = [m for m in matches if self.key(m) not in was and self.key(m) not in begun]
        begun.update({self.key(match): match for match in matches})
        memory[self.tick] = begun
        return [("begins", fresh)]

    def ends(self, graph, card):
        was, now = self.memory(graph, card).get(self.tick - 1, {}), self.begun.get(card.id, {})
        for gone in by_roles(match for key, match in was.items() if key not in now):
            self.start(graph, card, "ends", self.again(gone), "do")

    def again(self, matches):
        """Of matches that were kept in mind those that are there yet, in the order of age."""
        there = [m.alone() for m in matches if all(thing in self.objects for thing in m.values())]
        return sorted(there, key=ages)

    def card_beat(self, graph, card, entered, matches):
        due = self.memory(graph, card)
        for match in matches:
            if entered == "stop":
                due.pop(self.key(match), None)
            else:
                period = self.value(card.slots["period"], match)
                due.setdefault(self.key(match), (self.tick / self.rate + period, match))
        return []

    def beat(self, graph, card):
        due = self.memory(graph, card)
        now = {
            key: match for key, (at, match) in due.items() if math.ceil(at * self.rate - 1e-9) <= self.tick
        }
        beating = [self.again(some) for some in by_roles(now.values())]
        for key in now:
            at, gone = due[key][0], True
            for match in (match for going in beating for match in going):
                if self.key(match) == key:
                    later = at + self.value(card.slots["period"], match)
                    due[key], gone = (max(later, (self.tick + 0.5) / self.rate), match), False
            if gone:
                del due[key]
        for going in beating:
            self.start(graph, card, "beat", going, "do")
