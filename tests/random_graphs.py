"""Random graphs of moths and lamps, by a seed."""

from __future__ import annotations

from drawing import card
from gatillo.level.model import Graph, Node, Wire
from random_logic import RandomLogic

OUTPUTS = {
    "formula_holds": ("yes", "no"),
    "on_change": ("begins", "ends"),
    "count_to": ("at", "before"),
    "each": ("one", "done"),
    "in_order": ("1", "2"),
    "wait": ("then", "after"),
    "beat": ("beat",),
}
INPUTS = {
    "first_time": ("in", "in", "again"),
    "gate": ("in", "in", "open", "close"),
    "count_to": ("in", "in", "reset"),
    "both_come": ("1", "2"),
    "beat": ("in", "in", "stop"),
}
TAKES = {"set_variable": "value", "add_to": "amount", "multiply": "factor"}


def outputs_of(node):
    if node.use == "switch_by":
        return (*node.slots["cases"].split(", "), "else")
    return OUTPUTS.get(node.use, ("then",))


class RandomGraphs(RandomLogic):
    """Random graphs, by a seed."""

    def occasion_card(self, number):
        pick = self.any.choice
        return pick(
            [
                card(number, "each_in_every_tick", who="Moth"),
                card(number, "each_in_every_tick", who=pick(["Moth", "Lamp"])),
                card(number, "every_seconds", period="0.25", first="0.25"),
                card(number, "message_heard", message="go"),
            ]
        )

    def action_card(self, number):
        clause = self.write()
        if self.any.random() < 0.3:
            clause = self.other(("send_message", "create"))
        return Node(id=number, use=clause.use, slots=clause.slots, once=clause.once)

    def control_card(self, number):
        pick = self.any.choice
        per = pick(["each match", "each match", "all matches"])
        return pick(
            [
                card(number, "formula_holds", formula=self.comparison()),
                card(number, "formula_holds", formula=self.comparison()),
                card(number, "first_time", per=per),
                card(number, "gate", per=per, start=pick(["open", "closed"])),
                card(number, "count_to", count=pick(["2", "3", "1.5"]), per=per),
                card(number, "each"),
                card(number, "both_come"),
                card(number, "in_order"),
                card(number, "gather"),
                card(number, "on_change"),
                card(number, "beat", period=pick(["0.2", "0.15", "0.4"])),
                card(
                    number,
                    "switch_by",
                    value=pick(["tick mod 3", "(Moth.p + tick) mod 4"]),
                    cases=pick(["0, 1", "2"]),
                ),
                card(number, "wait", time=pick(["0", "0.1", "0.25"])),
                card(number, "hold", value=self.formula(), per="all matches"),
            ]
        )

    def graph(self, number):
        pick = self.any.choice
        self.created = False
        first = pick([1, 1, 2])
        nodes = [self.occasion_card(at) for at in range(1, first + 1)]
        nodes += [
            self.action_card(at) if self.any.random() < 0.4 else self.control_card(at)
            for at in range(first + 1, first + self.any.randint(4, 10))
        ]
        wires = {}
        for node in nodes[first:]:
            for _ in range(pick([1, 1, 1, 2])):
                before = pick(nodes[: node.id - 1])
                start = f"{before.id}.{pick(outputs_of(before))}"
                end = f"{node.id}.{pick(INPUTS.get(node.use, ('in',)))}"
                wires[start, end] = Wire(start=start, end=end)
        shuffled = list(wires.values())
        self.any.shuffle(shuffled)
        return Graph(
            id=100 + number,
            name=f"g{number}",
            nodes=tuple(nodes),
            wires=tuple(shuffled),
            values=self.values(nodes),
        )

    def values(self, nodes):
        """Some slots that take their values by wire, of cards that give one."""
        givers = [
            node for node in nodes if node.use in ("hold", "count_to") and node.slots["per"] == "all matches"
        ]
        takers = [node for node in nodes if node.use in TAKES and self.any.random() < 0.5]
        return tuple(
            Wire(start=str(self.any.choice(givers).id), end=f"{node.id}.{TAKES[node.use]}")
            for node in takers
            if givers
        )

    def level(self):
        return self.place(lambda: (self.graph(at + 1) for at in range(2)))
