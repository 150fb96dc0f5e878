"""What is asked and answered over a connection: a record for the parameters and the result of each method.

The schema of the protocol, the checks of what comes in and the methods of the client are made from these.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta, Struct

Name = Annotated[str, Meta(max_length=1_000)]
Text = Annotated[str, Meta(max_length=10_000)]
Far = Annotated[float, Meta(ge=-1e9, le=1e9)]
Tick = Annotated[int, Meta(ge=0, le=1_000_000)]
Plain = float | bool | str | tuple[float, float]
"""A number, yes or no, a text or a point."""


class Params(Struct, kw_only=True, forbid_unknown_fields=True):
    """Base of the parameters of a method."""


class Result(Struct, kw_only=True, omit_defaults=True):
    """Base of results and of what is told without being asked."""


# a level and its run


class Open(Params):
    """Open a level and a trial of it, before its first tick. Without `file` and `level`, the level that the server was started with."""

    file: Text = ""
    """A level file, from the folder of the level that the server was started with."""
    level: dict[str, Any] | None = None
    """A level as it stands in a file."""
    trial: Name = ""
    """The name of a trial; without it, the first."""
    rate: Annotated[int, Meta(ge=10, le=240)] | None = None
    seed: Annotated[int, Meta(ge=0)] | None = None
    scripted: bool = True
    """Whether the trial's own keys, pointer and choices are played. Without them only what comes over the connection is."""


class KindShown(Result):
    """A kind, and how its objects are drawn: a circle has a radius, a rectangle a width and a height."""

    name: str
    colour: str
    radius: float | None = None
    width: float | None = None
    height: float | None = None
    scenery: bool = False


class Opened(Result):
    """The level and trial that are open."""

    level: str
    trial: str
    rate: int
    length: int
    """Ticks that the trial has."""
    width: float
    height: float
    kinds: list[KindShown]
    rules: list[str]
    """Rules and graphs, in the order in which they take their turns."""
    trials: list[str]
    problems: list[str] = []
    """Why rules cannot run at all, in sentences."""


class Moment(Result):
    """Where the cursor is: after so many firings of a tick, and within the next one after so many steps."""

    tick: int
    position: int
    seconds: float
    done: int
    """The last tick that has been run."""
    step: int = 0
    over: bool = False
    """Whether the trial has come to its end."""
    stopped: str = ""
    """At which stop a run was held."""


class Step(Params):
    """Go on, or back, by ticks, firings, or steps (an action's line, a card). What has not been run yet is run."""

    by: Literal["tick", "firing", "step"] = "tick"
    count: Annotated[int, Meta(ge=1, le=1_000_000)] = 1
    back: bool = False


class Go(Params):
    """Go to a tick, and within it to a moment after so many firings; without `position`, to its end."""

    tick: Tick
    position: Annotated[int, Meta(ge=0, le=1_000_000)] | None = None


class RunOn(Params):
    """Run on by so many ticks, or to the trial's end, or until a stop is met."""

    ticks: Annotated[int, Meta(ge=1, le=1_000_000)] | None = None


class Stop(Params):
    """Hold each run where a rule fires or a formula becomes true. Several stops can be set; none of both clears all."""

    rule: Name = ""
    formula: Text = ""


class Stops(Result):
    """The stops that are set."""

    rules: list[str]
    formulas: list[str]


# input and changes from outside


class Keys(Params):
    """Keys by name: `A`, `Space`, `Up`, `pointer left`. They come in at the next tick after the cursor."""

    keys: Annotated[list[Name], Meta(max_length=100)]


class Point(Params):
    """Put the pointer at a place of the level."""

    x: Far
    y: Far


class Choose(Params):
    """Choose a topic or an entry of a menu."""

    text: Name


class Set(Params):
    """Set a variable of the level, or of an object, from outside: at the beginning of the next tick, before anything moves or fires."""

    variable: Name
    value: Plain
    object: Name = ""


class Move(Params):
    """Put an object at a place from outside, and turn it."""

    object: Name
    x: Far
    y: Far
    angle: Far | None = None


class Send(Params):
    """Send a message from outside; it is heard in the tick after the next."""

    message: Name


class Accepted(Result):
    """In which tick something comes in. What had been run after the cursor is no more."""

    tick: int


# looking


class Objects(Params):
    """Look at objects at the cursor: those of some names, of a kind, or all."""

    names: Annotated[list[Name], Meta(max_length=50_000)] | None = None
    kind: Name = ""


class ObjectShown(Result):
    """An object: x to the right and y up in level units, angles in degrees counter-clockwise from the right."""

    id: int
    name: str
    kind: str
    x: float
    y: float
    angle: float
    facing: float
    scale: float = 1.0
    shown: bool = True
    values: dict[str, Any] = {}
    """Its variables."""


class ObjectsShown(Result):
    objects: list[ObjectShown]


class Nothing(Params):
    """No parameters."""


class VariablesShown(Result):
    values: dict[str, Any]
    """Level variables by name; a reference is an object's name, or “” for nobody."""


class Value(Params):
    """A formula's value at the cursor. One about a kind is that of its oldest object."""

    formula: Text


class ValueShown(Result):
    value: Any
    """A number, yes or no, a text or a point; null where there is no answer."""
    unanswered: str = ""
    """Why there is no answer."""


class Matches(Params):
    """Who took part in a firing."""

    tick: Tick
    position: Annotated[int, Meta(ge=1, le=1_000_000)]


class MatchesShown(Result):
    rule: str
    matches: int
    roles: dict[str, list[str]]
    """By role the names of objects, an entry for each match."""


class Firings(Params):
    """What has fired in a tick, or in all ticks up to the last one that was run."""

    tick: Tick | None = None


class FiringShown(Result):
    tick: int
    place: int
    """Among the firings of its tick, from 1."""
    rule: str
    matches: int
    way: str
    """`do`, `else`, or `resumed` after a wait."""


class FiringsShown(Result):
    firings: list[FiringShown]


class Why(Params):
    """Why a rule fired in a tick; without a tick, why it fired first. `about` names objects that took part."""

    rule: Name
    tick: Tick | None = None
    about: Annotated[list[Name], Meta(max_length=20)] = []
    depth: Annotated[int, Meta(ge=0, le=10)] = 3


class WhyNot(Why):
    """Why a rule did not fire in a tick; without a tick, why it never fired."""


class WhyValue(Params):
    """Why a formula has its value at the end of a tick; without a tick, of the cursor's."""

    formula: Text
    tick: Tick | None = None
    depth: Annotated[int, Meta(ge=0, le=10)] = 3


class ReasonGiven(Result):
    sentence: str
    tick: int
    because: list[ReasonGiven] = []


class Verdicts(Result):
    """Of each expectation of the trial: its sentence, and whether it held; null where it could not be judged."""

    verdicts: list[VerdictShown]
    passed: bool


class VerdictShown(Result):
    sentence: str
    held: bool | None


class FaultsShown(Result):
    faults: list[str]


# told without being asked


class Changed(Result):
    """What has changed in a tick, to a connection that has subscribed. What is left out has not changed."""

    tick: int
    seconds: float
    moved: list[tuple[int, float, float, float, float]] = []
    """Of each object that has moved or turned: id, x, y, facing, scale."""
    values: dict[str, Any] = {}
    """Level variables."""
    own: list[tuple[int, str, Any]] = []
    """Variables of objects: id, variable, value."""
    created: list[ObjectShown] = []
    removed: list[int] = []
    shown: list[int] = []
    hidden: list[int] = []
    looks: list[tuple[int, str]] = []
    """Of each object that is drawn otherwise: id and the name of its look, “” for the plain one."""
    firings: list[FiringShown] = []
    messages: list[str] = []
    notes: list[str] = []
    """What rules noted, and what came from outside."""
    faults: list[str] = []
    sayings: list[tuple[int, str]] = []
    """What objects say now: id and text."""
    telling: str | None = None
    """What is told to the player."""
    over: bool = False


METHODS: dict[str, tuple[type[Params], type[Result], str]] = {
    "open": (Open, Opened, "Open a level and a trial of it."),
    "step": (Step, Moment, "Go on or back by ticks, firings or steps."),
    "go": (Go, Moment, "Go to a moment that has been run, or run up to it."),
    "run": (RunOn, Moment, "Run on, to a stop or the end."),
    "stop": (Stop, Stops, "Set a stop, or clear all."),
    "hold": (Keys, Accepted, "Press keys; they stay down until they are released."),
    "release": (Keys, Accepted, "Let keys go."),
    "point": (Point, Accepted, "Move the pointer."),
    "choose": (Choose, Accepted, "Choose a topic or an entry of a menu."),
    "set": (Set, Accepted, "Set a variable from outside."),
    "move": (Move, Accepted, "Move an object from outside."),
    "send": (Send, Accepted, "Send a message from outside."),
    "objects": (Objects, ObjectsShown, "Objects at the cursor."),
    "variables": (Nothing, VariablesShown, "Level variables at the cursor."),
    "value": (Value, ValueShown, "A formula's value at the cursor."),
    "matches": (Matches, MatchesShown, "Who took part in a firing."),
    "firings": (Firings, FiringsShown, "What has fired, in order."),
    "faults": (Nothing, FaultsShown, "What went wrong while running."),
    "verdicts": (Nothing, Verdicts, "What the trial expects, and whether it held."),
    "why": (Why, ReasonGiven, "Why a rule fired."),
    "why_not": (WhyNot, ReasonGiven, "Why a rule did not fire."),
    "why_value": (WhyValue, ReasonGiven, "Why a value is what it is."),
    "subscribe": (Nothing, Moment, "Be told after each tick what has changed in it."),
    "unsubscribe": (Nothing, Moment, "Be told no more."),
}
"""Each method: its parameters, its result, and what it does."""
NOTIFICATIONS: dict[str, type[Result]] = {"changed": Changed}
"""What a server tells without being asked."""


def schema() -> dict[str, Any]:
    """Return a JSON Schema in which `#/$defs/step.params`, `step.result` and `changed.params` describe the messages."""
    kinds = [t for asked, told, _ in METHODS.values() for t in (asked, told)] + list(NOTIFICATIONS.values())
    refs, defs = msgspec.json.schema_components(dict.fromkeys(kinds), ref_template="#/$defs/{name}")
    by_type = dict(zip(dict.fromkeys(kinds), refs, strict=True))
    named: dict[str, Any] = dict(defs)
    for method, (asked, told, words) in METHODS.items():
        named[f"{method}.params"] = {**by_type[asked], "title": words}
        named[f"{method}.result"] = by_type[told]
    for name, told in NOTIFICATIONS.items():
        named[f"{name}.params"] = by_type[told]
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Messages of gatillo serve",
        "description": "Parameters and results of each method of gatillo serve; the envelope is that of JSON-RPC 2.0.",
        "$defs": named,
    }
