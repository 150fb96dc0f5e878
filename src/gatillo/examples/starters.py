"""Levels to start from: small, whole, and ready to be run."""

from __future__ import annotations

from collections.abc import Callable

from gatillo.level.model import (
    FORMAT_VERSION,
    Circle,
    Clause,
    Input,
    KeyBar,
    Kind,
    Level,
    Object,
    PointerMove,
    Rectangle,
    Rule,
    Section,
    Trial,
    Variable,
    empty_level,
)


def walker() -> Level:
    """Someone who walks by keys, a wall, and something to find."""
    steer = Clause(use="steer_by_keys", slots={"speed": "120", "turning": "180"})
    touch = Clause(use="begins_to_touch", slots={"a": "Walker", "b": "Find"})
    say = Clause(use="say", slots={"text": "found!", "who": "Walker", "time": "1"})
    return Level(
        format=FORMAT_VERSION,
        name="A walker",
        note="Someone who walks by keys. Press Ctrl+P and the arrow keys to walk; what you press becomes the trial's script.",
        kinds=(
            Kind(
                name="Walker",
                shape=Circle(radius=13.0),
                colour="#0E6B50",
                glyph="W",
                drawing="person",
                contact="movable",
                depth=1.0,
                behaviours=(steer,),
            ),
            Kind(name="Find", shape=Circle(radius=9.0), colour="#A5483B", glyph="f", drawing="crystal"),
            Kind(
                name="Wall",
                shape=Rectangle(width=16.0, height=160.0),
                colour="#5B6470",
                drawing="bricks",
                contact="fixed",
            ),
        ),
        objects=(
            Object(id=1, kind="Walker", name="Walker 1", x=120.0, y=250.0),
            Object(id=2, kind="Find", name="Find 1", x=320.0, y=250.0),
            Object(id=3, kind="Wall", name="Wall 1", x=520.0, y=250.0),
        ),
        order=(Section(name="Finding", rules=(Rule(id=1, name="Found", when=(touch,), do=(say,)),)),),
        trials=(
            Trial(name="Walk ahead", length=5.0, input=Input(keys=(KeyBar(key="Up", start=0.5, end=3.5),))),
        ),
    )


def pointer() -> Level:
    """Return a thing that can be dragged by the pointer."""

    def clause(use: str, **slots: str) -> Clause:
        return Clause(use=use, slots=slots)

    front = "the front-most only"
    rules = (
        Rule(
            id=1,
            name="Take hold",
            when=(clause("pointer_pressed_on", button="left", a="Thing", which=front),),
            do=(clause("set_variable", variable="Thing.held", value="yes"),),
        ),
        Rule(
            id=2,
            name="Drag",
            when=(clause("every_tick"),),
            if_=(clause("formula_holds", formula="Thing.held"),),
            do=(clause("put_at", who="Thing", where="pointer"),),
        ),
        Rule(
            id=3,
            name="Let go",
            when=(clause("pointer_released", button="left"),),
            do=(clause("set_variable", variable="Thing.held", value="no"),),
        ),
    )
    return Level(
        format=FORMAT_VERSION,
        name="Dragging",
        note="A thing that follows the pointer while the button is held. Press Ctrl+P and drag it.",
        kinds=(
            Kind(
                name="Thing",
                shape=Rectangle(width=60.0, height=40.0),
                colour="#2B6C99",
                glyph="t",
                drawing="crate",
                variables=(Variable(name="held", value=False),),
            ),
        ),
        objects=(Object(id=1, kind="Thing", name="Thing 1", x=260.0, y=260.0),),
        order=(Section(name="Dragging", rules=rules),),
        trials=(
            Trial(
                name="Drag to the right",
                length=4.0,
                input=Input(
                    keys=(KeyBar(key="pointer left", start=1.0, end=2.6),),
                    pointer=(
                        PointerMove(at=0.2, x=260.0, y=260.0),
                        PointerMove(at=1.2, x=260.0, y=260.0),
                        PointerMove(at=2.4, x=560.0, y=200.0, glide=True),
                    ),
                ),
            ),
        ),
    )


STARTERS: tuple[tuple[str, str, Callable[[], Level]], ...] = (
    ("Empty level", "nothing but a trial to run", empty_level),
    ("A walker", "walks by keys, finds something", walker),
    ("Dragging", "a thing dragged by the pointer", pointer),
)
"""Name, what it is, and how it is made."""
