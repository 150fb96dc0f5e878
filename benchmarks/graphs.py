"""Compare logic as rules and as graphs, idle graphs, and compiling graphs."""

from __future__ import annotations

from msgspec.structs import replace

from gatillo.graphs.conversion import as_graph
from gatillo.level.edits import change_logic
from gatillo.level.model import (
    FORMAT_VERSION,
    Circle,
    Clause,
    Graph,
    Kind,
    Level,
    Node,
    Object,
    Rule,
    Trial,
    Variable,
    Wire,
)
from gatillo.level.roles import all_logic

PAIRS = 15
IDLE = 2_000
MADE = 200


def as_graphs(level: Level) -> Level:
    """The level with every rule as the graph that it can be."""
    for _, _, entry in all_logic(level):
        if isinstance(entry, Rule):
            level = change_logic(
                level, entry.id, lambda rule: as_graph(rule) if isinstance(rule, Rule) else rule
            )
    return level


def chain(moths: int, *, drawn: bool) -> Level:
    """Thirty cards, or the rules that they stand for: conditions, each with an action at “yes”."""
    each = Clause(use="each_in_every_tick", slots={"who": "Moth"})
    conditions = [
        Clause(use="formula_holds", slots={"formula": f"Moth.n mod {at + 2} < {at + 1}"})
        for at in range(PAIRS)
    ]
    actions = [
        Clause(use="add_to", slots={"amount": f"1 + Moth.x / {at + 1}", "variable": "Moth.n"})
        for at in range(PAIRS)
    ]
    if not drawn:
        return level(
            moths,
            tuple(
                Rule(id=10 + at, name=f"rule {at}", when=(each,), if_=(asked,), do=(done,))
                for at, (asked, done) in enumerate(zip(conditions, actions, strict=True))
            ),
        )
    nodes = [Node(id=1, use=each.use, slots=each.slots)]
    wires = []
    for asked, done in zip(conditions, actions, strict=True):
        number = len(nodes) + 1
        nodes += [
            Node(id=number, use=asked.use, slots=asked.slots),
            Node(id=number + 1, use=done.use, slots=done.slots),
        ]
        wires += [Wire(start="1", end=str(number)), Wire(start=f"{number}.yes", end=str(number + 1))]
    return level(moths, (Graph(id=10, name="graph", nodes=tuple(nodes), wires=tuple(wires)),))


def idle(moths: int, *, graphs: int) -> Level:
    """The thirty cards, and graphs whose occasion never comes."""
    base = chain(moths, drawn=True)
    sleeping = tuple(
        Graph(
            id=100 + at,
            name=f"idle {at}",
            nodes=(
                Node(id=1, use="message_heard", slots={"message": "never"}),
                Node(id=2, use="add_to", slots={"amount": "1", "variable": "Moth.n"}),
            ),
            wires=(Wire(start="1", end="2"),),
        )
        for at in range(graphs)
    )
    return replace(base, order=(*base.order, *sleeping))


def many() -> Level:
    """Two hundred graphs of twenty cards."""
    graphs = []
    for at in range(MADE):
        nodes = [Node(id=1, use="each_in_every_tick", slots={"who": "Moth"})]
        wires = []
        for number in range(2, 21):
            sort = number % 3
            if sort == 0:
                nodes.append(
                    Node(
                        id=number,
                        use="formula_holds",
                        slots={"formula": f"Moth.x < {number * 10} and Moth.n > {at}"},
                    )
                )
            elif sort == 1:
                nodes.append(
                    Node(id=number, use="add_to", slots={"amount": "Moth.x * 2 + 1", "variable": "Moth.n"})
                )
            else:
                nodes.append(
                    Node(
                        id=number,
                        use="set_variable",
                        slots={"variable": "Lamp.n", "value": f"Moth.x + {number}"},
                    )
                )
            before = f"{number - 1}.yes" if (number - 1) % 3 == 0 else str(number - 1)
            wires.append(Wire(start=before, end=str(number)))
        graphs.append(Graph(id=1_000 + at, name=f"graph {at}", nodes=tuple(nodes), wires=tuple(wires)))
    return level(3, tuple(graphs))


def level(moths: int, order: tuple[Rule | Graph, ...]) -> Level:
    """Moths in a row and a lamp."""
    number = Variable(name="n", value=0.0)
    return Level(
        format=FORMAT_VERSION,
        name="graphs",
        kinds=(
            Kind(name="Moth", shape=Circle(radius=4.0), variables=(number,)),
            Kind(name="Lamp", shape=Circle(radius=8.0), variables=(number,)),
        ),
        objects=(
            *(
                Object(id=1 + at, kind="Moth", name=f"Moth {at + 1}", x=20.0 * at, y=0.0)
                for at in range(moths)
            ),
            Object(id=90_000, kind="Lamp", name="Lamp", x=0.0, y=200.0),
        ),
        order=order,
        trials=(Trial(name="bench", length=3_600.0),),
    )
