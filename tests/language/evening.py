"""The level that the typed lines of the corpus speak of: an evening with lamps, pods and a cart."""

from __future__ import annotations

from building import c, kind, level, rule, send, things
from gatillo.level.graphs import INPUT, OUTPUT
from gatillo.level.model import (
    Area,
    Clip,
    ClipPoint,
    Graph,
    Look,
    Node,
    Point,
    Rectangle,
    Route,
    Section,
    Spot,
    Stop,
    Topic,
    Wire,
)
from gatillo.level.roles import Index

_NEAR = Graph(
    id=50,
    name="near the lamp",
    nodes=(
        Node(id=1, use=INPUT, slots={"name": "in", "carries": "matches"}),
        Node(id=2, use="within", slots={"who": "Gardener", "distance": "50", "where": "Lamp"}),
        Node(id=3, use=OUTPUT, slots={"name": "yes", "carries": "matches"}),
    ),
    wires=(Wire(start="1", end="2"), Wire(start="2.yes", end="3")),
)
EVENING = level(
    rule("Bang", when=c("key_pressed", key="B"), do=send("bang"), id=1),
    rule(
        "Open the door",
        when=c("message_heard", message="pod gathered"),
        do=c("start_timer", timer="oven"),
        id=2,
    ),
    rule("Count", when=c("message_heard", message="good night"), do=c("start_timer", timer="cake"), id=3),
    rule(
        "Hand over",
        when=c("message_heard", message="arrived"),
        do=(
            c("give", count="1", item="key", who="Gardener"),
            c("give", count="1", item="tool", who="Gardener"),
            c("give", count="1", item="brass key", who="Gardener"),
        ),
        id=4,
    ),
    Section(name="evening", rules=(_NEAR,)),
    kinds=(
        kind(
            "Gardener",
            5,
            tags=("staff",),
            has={"tired": 0.0},
            points=(Point(name="hand"),),
            topics=(Topic(name="the key"),),
        ),
        kind("Pod", 5, tags=("ripe",), has={"age": 0.0}),
        kind(
            "Lamp",
            5,
            has={"lit": False, "fuel": 50.0},
            behaviours=(c("spin"),),
            looks=(Look(name="bright"), Look(name="dim")),
        ),
        kind("Moth", 5),
        kind("Beetle", 5),
        kind("Crate", 5),
        kind("Cart", 5),
        kind("Plate", 5),
        kind("Shutter", 5),
        kind(
            "Door", 5, has={"open": False}, behaviours=(c("prompt", by="Gardener", entries="lift | lower"),)
        ),
    ),
    objects=(
        *things("Gardener", (0, 0)),
        *things("Pod", (9, 9), (30, 30), first=10),
        *things("Lamp", (9, 90), (90, 30), first=20),
        *things("Moth", (50, 50), (60, 60), first=30),
        *things("Door", (-50, 50), first=40),
        *things("Cart", (-50, 90), first=41),
    ),
    places=(
        Area(name="yard", x=0, y=0, shape=Rectangle(width=90, height=90)),
        Area(name="shed", x=200, y=0, shape=Rectangle(width=90, height=90)),
        Spot(name="gate", x=1, y=2),
        Route(name="rails", stops=(Stop(x=0, y=0), Stop(x=50, y=0))),
    ),
    clips=(Clip(name="wave", points=(ClipPoint(at=0, x=0, y=0), ClipPoint(at=1, x=5, y=0))),),
    has={"pods": 0.0, "wind": 3.0, "done": False, "mood": "calm"},
)
INDEX = Index(EVENING)
