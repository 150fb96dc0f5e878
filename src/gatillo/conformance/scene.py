"""The scene of which the small levels are made: a few moths and lamps, a wall, some places, and a little input."""

from __future__ import annotations

from msgspec.structs import replace

from gatillo.catalogue.declare.entry import Entry
from gatillo.level.model import (
    Area,
    Choice,
    Circle,
    Clause,
    Clip,
    ClipPoint,
    Graph,
    Input,
    KeyBar,
    Kind,
    Level,
    Logic,
    Look,
    Node,
    Object,
    OwnBehaviour,
    OwnUse,
    Point,
    PointerMove,
    Rectangle,
    Reference,
    Route,
    Rule,
    Section,
    Settings,
    Spot,
    Stop,
    Topic,
    Trial,
    Variable,
    Wire,
)

RATE, SECONDS = 30, 2.0
MOTH = Kind(
    name="Moth",
    shape=Circle(radius=6),
    contact="movable",
    tags=("insect",),
    variables=(Variable(name="n", value=0.0), Variable(name="seen", value=False)),
    behaviours=(Clause(use="steer_eight_ways", slots={"speed": "60"}),),
    points=(Point(name="head", x=6, y=0),),
    looks=(Look(name="bright", colour="#C28A1E"),),
    own=(OwnUse(use="lively"),),
)
LAMP = Kind(
    name="Lamp",
    shape=Circle(radius=8),
    variables=(Variable(name="n", value=0.0),),
    behaviours=(
        Clause(
            use="prompt",
            slots={"text": "light it", "by": "Moth", "key": "E", "reach": "80", "entries": "light | leave"},
        ),
    ),
    topics=(Topic(name="oil", answer="There is none."),),
)
WALL = Kind(name="Wall", shape=Rectangle(width=10, height=80), contact="fixed")
PLACES = (
    Area(name="yard", x=60, y=0, shape=Rectangle(width=40, height=60)),
    Spot(name="gate", x=30, y=40),
    Route(name="round", stops=(Stop(x=0, y=0), Stop(x=60, y=0), Stop(x=60, y=40))),
)
CLIPS = (Clip(name="flutter", points=(ClipPoint(at=0.1, x=2, y=3), ClipPoint(at=0.4, x=8, y=-2, turn=40))),)
OBJECTS = (
    Object(id=1, kind="Moth", name="Moth 1", x=0, y=0),
    Object(id=2, kind="Moth", name="Moth 2", x=-40, y=10, angle=30),
    Object(id=3, kind="Lamp", name="Lamp 1", x=50, y=0),
    Object(id=4, kind="Lamp", name="Lamp 2", x=20, y=60),
    Object(id=5, kind="Wall", name="Wall 1", x=110, y=0),
)
INPUT = Input(
    keys=(
        KeyBar(key="Right", start=0.2, end=1.2),
        KeyBar(key="E", start=0.3, end=0.5),
        KeyBar(key="E", start=0.9, end=1.0),
        KeyBar(key="Space", start=0.4, end=0.8),
        KeyBar(key="pointer left", start=0.6, end=1.1),
    ),
    pointer=(PointerMove(at=0.1, x=0, y=0), PointerMove(at=1.0, x=60, y=10, glide=True)),
    choices=(Choice(at=0.7, text="oil"), Choice(at=0.8, text="light")),
)
VARIABLES = (
    Variable(name="n", value=0.0),
    Variable(name="m", value=0.0),
    Variable(name="on", value=False),
    Variable(name="word", value=""),
    Variable(name="whom", value=Reference(to="Lamp 1", kind="Lamp")),
)
WATCHES = (
    "level.n",
    "level.m",
    *(f"{who}.{what}" for who in ("Moth_1", "Moth_2") for what in ("x", "y", "facing")),
)
FILL = {
    "where": "Lamp",
    "area": "yard",
    "message": "go",
    "yes/no formula": "Moth.x > 10",
    "number variable": "level.n",
    "variable": "level.n",
    "yes/no variable": "level.on",
    "rule": "Clock",
    "kind": "Moth",
    "timer": "oven",
    "route": "round",
    "behaviour": "steer eight ways",
    "item": "pod",
    "tag": "insect",
    "number": "2",
    "clip": "flutter",
    "section": "Work",
    "look": "bright",
    "setting": "steer eight ways: speed",
    "point": "head",
    "entries": "light | leave",
    "entry": "light",
    "topic": "oil",
    "own node": "near",
}
"""By type of slot: what stands there where the entry itself begins with nothing."""
ROLES = ("Moth", "Lamp", "Wall")


def plainest(entry: Entry, **given: str) -> Clause:
    """Return an entry in its plainest use in this scene: its defaults, and names of the scene where it has none."""
    roles = iter(ROLES)
    slots = {}
    for name, slot in entry.slots.items():
        text = given.get(name, slot.default) or FILL.get(slot.type, "")
        if slot.type == "role" and not slot.default and name not in given:
            text = next(roles)
        if text:
            slots[name] = text
    return Clause(use=entry.name, slots=slots, of=(count("level.m"),) if entry.branch else ())


def count(variable: str, amount: str = "1") -> Clause:
    """Return the action that adds to a variable."""
    return Clause(use="add_to", slots={"variable": variable, "amount": amount})


def says_go() -> Rule:
    """Return a rule that sends and counts, so that there is something to hear and to wait for."""
    every = Clause(use="every_seconds", slots={"period": "0.4", "first": "0.4"})
    return Rule(
        id=90,
        name="Clock",
        when=(every,),
        do=(Clause(use="send_message", slots={"message": "go"}), count("level.m")),
    )


def near() -> Graph:
    """Return an own node that parts the matches whose moth is near a lamp from the others, and counts them."""
    cards = (
        Node(id=1, use="input", slots={"name": "in"}),
        Node(id=2, use="within", slots={"who": "Moth", "distance": "60", "where": "Lamp"}),
        Node(id=3, use="add_to", slots={"variable": "level.m", "amount": "1"}),
        Node(id=4, use="output", slots={"name": "near"}),
        Node(id=5, use="output", slots={"name": "far"}),
    )
    wires = (Wire("1", "2"), Wire("2.yes", "3"), Wire("3", "4"), Wire("2.no", "5"))
    return Graph(id=91, name="near", nodes=cards, wires=wires)


def scene(
    name: str, *order: Logic | Section, note: str = "", behaviours: tuple[Clause, ...] | None = None
) -> Level:
    """Return a level of the scene with some rules; with other behaviours of moths if they are given."""
    moth = MOTH if behaviours is None else replace(MOTH, behaviours=behaviours)
    return Level(
        format=1,
        name=name,
        note=note,
        settings=Settings(rate=RATE, width=300, height=200),
        variables=VARIABLES,
        kinds=(moth, LAMP, WALL),
        places=PLACES,
        clips=CLIPS,
        objects=OBJECTS,
        order=(
            *order,
            says_go(),
            Section(name="Work", rules=()),
            Section(name="lively", own=OwnBehaviour(sentence="lively"), rules=()),
        ),
        trials=(Trial(name="trial", length=SECONDS, input=INPUT, watches=WATCHES),),
    )
