"""The document: a level and everything in it, as frozen data.

An edit never changes a level; it makes a new one that shares what stayed the same. Lengths are in
level units, angles in degrees counter-clockwise from +x, times in seconds.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from msgspec import Meta
from msgspec.structs import replace

from gatillo.level.document import Doc, Duration, Measure, Part, Rate, Size, SlotText
from gatillo.level.expectations import Expectation

FORMAT_VERSION = 1


class Reference(Doc, frozen=True):
    """The value of a variable that refers to an object: its name, or "" for nobody.

    With `kind` it can only refer to objects of that kind, whose variables rules can then speak of.
    """

    to: str = ""
    kind: str = ""


Value = float | bool | str | Reference | tuple[float, float]
"""What a variable can hold: a number, yes/no, text, a reference to an object, or a point (x and y in level units)."""


class Circle(Doc, frozen=True, tag="circle", tag_field="is"):
    radius: Size

    @property
    def halves(self) -> tuple[float, float]:
        """Half its width and half its height."""
        return self.radius, self.radius


class Rectangle(Doc, frozen=True, tag="rectangle", tag_field="is"):
    width: Size
    height: Size

    @property
    def halves(self) -> tuple[float, float]:
        """Half its width and half its height."""
        return self.width / 2, self.height / 2


Shape = Circle | Rectangle


class Variable(Doc, frozen=True):
    """A variable and the value it starts with; the value's type is the variable's type."""

    name: str
    value: Value = 0.0
    note: str = ""


class Clause(Doc, frozen=True, rename={"slots": "with"}):
    """One use of a catalogue entry: which entry, and the text in each of its slots.

    A slot's text is a formula, a role, or a name, as the entry declares. `of` holds the lines within
    a group of conditions or a repeat; `once` lets an action be done once for all matches.
    """

    use: str
    slots: dict[str, SlotText] = {}
    negated: bool = False
    once: bool = False
    of: tuple[Clause, ...] = ()


class Topic(Doc, frozen=True):
    """Something that can be talked about with objects of a kind, and what they answer."""

    name: str
    answer: str = ""
    only_if: str = ""
    """A yes/no formula that speaks of the one talked to by its kind's name; without one it can always be chosen."""


class Readout(Doc, frozen=True):
    """What hangs on each object of a kind: a text with values in braces, or a bar from 0 to `most`.

    Formulas speak of the object by its kind's name.
    """

    value: str
    shows: Literal["text", "bar"] = "text"
    most: str = "1"


class Point(Doc, frozen=True):
    """A named point on the objects of a kind, such as a hand: its offset from the middle at angle 0 and scale 1."""

    name: str
    x: Measure = 0.0
    y: Measure = 0.0


class Look(Doc, frozen=True):
    """One way to draw the objects of a kind. What it leaves empty is as the kind has it."""

    name: str
    drawing: str = ""
    picture: str = ""
    glyph: str = ""
    colour: str = ""
    scale: Size = 1.0
    """By how much it is drawn larger; the shape that touches others stays."""

    def of(self, kind: Kind) -> Kind:
        """Return the kind as it is drawn in this look, but for the scale."""
        drawn = self.drawing or self.picture or self.glyph
        return replace(
            kind,
            drawing=self.drawing if drawn else kind.drawing,
            picture=self.picture if drawn else kind.picture,
            glyph=self.glyph if drawn else kind.glyph,
            colour=self.colour or kind.colour,
        )


Contact = Literal["none", "sensed", "movable", "fixed"]


class OwnUse(Doc, frozen=True, rename={"values": "with"}):
    """An own behaviour that a kind has: its name, and the settings that are others than the behaviour's."""

    use: str
    values: dict[str, Value] = {}


class Kind(Doc, frozen=True):
    """The template that objects of one sort share."""

    name: str
    shape: Shape
    colour: str = "#44535F"
    glyph: str = ""
    drawing: str = ""
    """One of the ready drawings, drawn in its colour within its shape in place of the glyph."""
    drawn_facing: Measure = 0.0
    contact: Contact = "sensed"
    mass: Size = 1.0
    bounce: Part = 0.0
    """How much of its speed is left after a hit: 0 none, 1 all."""
    friction: Part = 0.0
    """0 slides on for ever, 1 stops at once. With no gravity, the part of its speed lost in a tenth of a second;
    with gravity it rubs on what it lies on, with coefficient f / (1 - f)."""
    depth: Measure = 0.0
    points: tuple[Point, ...] = ()
    tags: tuple[str, ...] = ()
    variables: tuple[Variable, ...] = ()
    behaviours: tuple[Clause, ...] = ()
    topics: tuple[Topic, ...] = ()
    readouts: tuple[Readout, ...] = ()
    picture: str = ""
    """A PNG as a data URL, drawn in place of the plain shape."""
    outline: bool = True
    """Whether a line is drawn about its shape."""
    looks: tuple[Look, ...] = ()
    """Other ways to draw its objects, which rules can show by name."""
    look: str = ""
    """A text formula that gives the look to show, by name, at each moment; without one, rules decide. It speaks of the object
    by its kind's name."""
    own: tuple[OwnUse, ...] = ()
    """The own behaviours that it has (level/own_behaviours.py)."""
    scenery: bool = False
    """Only looked at: its objects take no part in a run (level/scenery.py)."""
    note: str = ""


class Object(Doc, frozen=True):
    """One individual placed by hand. `id` is its age: lower ids are older."""

    id: int
    kind: str
    name: str
    x: Measure
    y: Measure
    angle: Measure = 0.0
    scale: Size = 1.0
    depth: Measure | None = None
    shown: bool = True
    tags: tuple[str, ...] = ()
    values: dict[str, Value] = {}
    settings: dict[str, float | bool] = {}
    """Its own settings of its kind's behaviours: `chase: speed` a number, `chase` whether it is on."""
    attached: str = ""
    """The object it is attached to from the start, by name."""
    group: str = ""
    """Objects of one group are selected and moved as one while laying out."""


class Spot(Doc, frozen=True, tag="spot", tag_field="is"):
    name: str
    x: Measure
    y: Measure


class Area(Doc, frozen=True, tag="area", tag_field="is"):
    """A rectangle or circle with its middle at x, y."""

    name: str
    x: Measure
    y: Measure
    shape: Shape


Easing = Literal["", "at constant speed", "easing in", "easing out", "easing in and out"]


class Stop(Doc, frozen=True):
    """A stop of a route, and how what walks there goes on.

    `time` (seconds) or `speed` (units a second) and `easing` are those of the leg that follows, whichever way the route is
    walked; what is not set is as the behaviour or the rule has it.
    """

    x: Measure
    y: Measure
    pause: Duration = 0.0
    time: Duration = 0.0
    speed: Annotated[float, Meta(ge=0, le=1e9)] = 0.0
    easing: Easing = ""
    message: str = ""
    """A message that each object sends when it arrives."""
    facing: Measure | None = None
    """The direction in degrees in which it faces there."""
    where: str = ""
    """A place, an object or a formula of a point, where the stop is at each moment in the place of x and y. A formula names what
    walks there by its kind."""

    @property
    def has_own_leg(self) -> bool:
        """Whether the leg that follows has a time, a speed or an easing of its own."""
        return self.time > 0 or self.speed > 0 or bool(self.easing)


class Route(Doc, frozen=True, tag="route", tag_field="is"):
    name: str
    stops: tuple[Stop, ...] = ()


Place = Spot | Area | Route


class ClipPoint(Doc, frozen=True):
    """Where a recorded motion has come to at a time: an offset from where it began, and degrees turned."""

    at: Duration
    x: Measure
    y: Measure
    turn: Measure = 0.0


class Clip(Doc, frozen=True):
    """A recorded motion, to be played on objects: points in the order of their times, in seconds."""

    name: str
    points: tuple[ClipPoint, ...] = ()

    @property
    def length(self) -> float:
        """Seconds from its beginning to its end."""
        return self.points[-1].at if self.points else 0.0


FiringMode = Literal["each tick", "on becoming true", "first time only"]
Scope = Literal["rule", "object"]


class Rule(
    Doc,
    frozen=True,
    tag="rule",
    tag_field="is",
    rename={"if_": "if", "else_": "else", "do": "do", "when": "when"},
):
    """One row of logic. `id` keys the rule's random draws and never changes."""

    id: int
    name: str
    on: bool = True
    when: tuple[Clause, ...] = ()
    if_: tuple[Clause, ...] = ()
    do: tuple[Clause, ...] = ()
    else_: tuple[Clause, ...] = ()
    fires: FiringMode = "each tick"
    first_per: Scope = "rule"
    cooldown: Duration = 0.0
    cooldown_per: Scope = "rule"
    once_for_all: bool = False
    one_at_a_time: bool = False
    while_waiting: Literal["ignore", "restart", "stack"] = "ignore"
    note: str = ""


OnSheet = tuple[Measure, Measure]
"""A place on a graph's sheet: to the right, and down, in pixels at 100 %."""


class Node(Doc, frozen=True, rename={"slots": "with"}):
    """A card of a graph: one use of a catalogue entry, or of a card that only graphs have.

    `id` is its number in the graph: occasions take their turns by it. `of` holds the lines within it: of a repeat, an if, a card of conditions.
    """

    id: Annotated[int, Meta(ge=1, le=1_000_000)]
    use: str
    slots: dict[str, SlotText] = {}
    at: OnSheet = (0.0, 0.0)
    once: bool = False
    """For an action: it is done once for all matches."""
    of: tuple[Clause, ...] = ()

    @property
    def clause(self) -> Clause:
        """What it uses, as a line of a rule would."""
        return Clause(use=self.use, slots=self.slots, once=self.once, of=self.of)


class Wire(Doc, frozen=True, rename={"start": "from", "end": "to"}):
    """From a card's output to a card's input: `3.yes` to `5`; the plain number of a card with one of them only.

    Wires at one output take their turns in the order in which they stand.
    """

    start: str
    end: str


class Frame(Doc, frozen=True):
    """A titled box about some cards, for people."""

    title: str
    at: OnSheet = (0.0, 0.0)
    size: tuple[Size, Size] = (200.0, 120.0)
    folded: bool = False


class Remark(Doc, frozen=True):
    """A note on a graph's sheet, for people."""

    text: str
    at: OnSheet = (0.0, 0.0)


MOST_CARDS = 10_000
"""Cards that a graph may have on its own sheet; own nodes hold more."""
Wires = Annotated[tuple[Wire, ...], Meta(max_length=2 * MOST_CARDS)]


class Graph(Doc, frozen=True, tag="graph", tag_field="is", rename={"for_": "for"}):
    """Logic as cards and wires: an entry of the order list like a rule. `id` keys its random draws and never changes.

    `for_` names a kind: the graph then takes its turn for each object of it, which every card calls `self`.
    """

    id: int
    name: str
    on: bool = True
    for_: str = ""
    nodes: Annotated[tuple[Node, ...], Meta(max_length=MOST_CARDS)] = ()
    wires: Wires = ()
    """What carries matches."""
    values: Wires = ()
    """What carries values into slots: `7` to `5.amount`."""
    frames: tuple[Frame, ...] = ()
    notes: tuple[Remark, ...] = ()
    shared: bool = False
    """For an own node: what its cards hold, count and let through once is kept for all its uses together."""
    note: str = ""


Logic = Rule | Graph
"""What takes a turn in the order list."""


class OwnSetting(Doc, frozen=True):
    """A setting of an own behaviour: the value that it has where a kind gives no other, and for a number its range."""

    name: str
    value: Value = 0.0
    least: float | None = None
    most: float | None = None


class OwnBehaviour(Doc, frozen=True):
    """What makes a section a behaviour that kinds can be given: a sentence, with its settings in braces, and the settings."""

    sentence: str = ""
    settings: tuple[OwnSetting, ...] = ()
    tags: tuple[str, ...] = ()
    """Every kind with one of these tags has it too."""


class Section(Doc, frozen=True, tag="section", tag_field="is"):
    """Entries of the order list under a title, switched on and off together."""

    name: str
    on: bool = True
    rules: tuple[Logic, ...] = ()
    note: str = ""
    own: OwnBehaviour | None = None
    """For an own behaviour: its rules speak of each object that has it as `self`."""


class KeyBar(Doc, frozen=True, rename={"start": "from", "end": "to"}):
    """A key held down from one time to another (seconds)."""

    key: str
    start: Duration
    end: Duration


class PointerMove(Doc, frozen=True):
    """Where the pointer is from a time on; with `glide` it goes there in a straight line from where it was."""

    at: Duration
    x: Measure
    y: Measure
    glide: bool = False


class Choice(Doc, frozen=True):
    """A topic chosen in a conversation, or an entry in a prompt's menu, at a time."""

    at: Duration
    text: str


class Input(Doc, frozen=True):
    """A trial's scripted input. Times are seconds, so one script serves every tick rate.

    A pointer button is a key: `pointer left`, `pointer middle`, `pointer right`.
    """

    keys: tuple[KeyBar, ...] = ()
    pointer: tuple[PointerMove, ...] = ()
    choices: tuple[Choice, ...] = ()


class Trial(Doc, frozen=True):
    """A repeatable run: length in seconds, seed, scripted input, what must hold.

    Checked at each of `rates` (the level's own if none is given) and over `seeds` seeds, from `seed` up.

    `values` overrides what level variables start with; `on` and `off` name rules and sections that
    this trial switches, so that variants of a level can be tried side by side.
    """

    name: str
    length: float = 10.0
    seed: int = 1
    seeds: int = 1
    rates: tuple[Rate, ...] = ()
    input: Input = Input()
    expectations: tuple[Expectation, ...] = ()
    watches: tuple[str, ...] = ()
    faults: Annotated[int, Meta(ge=0, le=1_000_000)] = 0
    """How many faults its run is expected to have; with any other number it does not pass."""
    fails: Annotated[int, Meta(ge=0, le=100_000)] = 0
    """Of a trial of a mistake: how many of its expectations are to catch it. With any other number failing it does not pass."""
    values: dict[str, Value] = {}
    on: tuple[str, ...] = ()
    off: tuple[str, ...] = ()
    note: str = ""


class Variant(Doc, frozen=True):
    """A way to run a level otherwise, to lay beside another run: rules and sections switched, level variables started otherwise."""

    name: str
    values: dict[str, Value] = {}
    on: tuple[str, ...] = ()
    off: tuple[str, ...] = ()
    note: str = ""


class Settings(Doc, frozen=True):
    """Level-wide settings and bounds. Rate is in ticks a second."""

    rate: Rate = 60
    width: Size = 800.0
    height: Size = 500.0
    ground: str = ""
    """A colour, with which the ground is tinted as a shape is; without one it is plain."""
    ground_picture: str = ""
    """A PNG as a data URL, drawn over the whole ground."""
    gravity: Annotated[float, Meta(ge=-1e6, le=1e6)] = 0.0
    """Pulls movable objects down, in units a second per second; 0 for a view from above."""
    most_objects: Annotated[int, Meta(ge=1, le=50_000)] = 20_000
    most_creations: Annotated[int, Meta(ge=1, le=20_000)] = 2_000
    most_messages: Annotated[int, Meta(ge=1, le=100_000)] = 10_000
    most_matches: Annotated[int, Meta(ge=1, le=4_000_000)] = 1_000_000
    most_repeats: Annotated[int, Meta(ge=1, le=100_000)] = 10_000


class Unsettled(Doc, frozen=True):
    """What two versions of a level changed, each in its own way, when they were merged: the level holds what `ours` says.

    `path` leads to it from the level's first field on: fields by name, items of a list by position, or by id or name as
    `{"id": 3}`. Where a side has nothing there, it is left out. With `order` it is the order of a list, and a side says the names or
    ids of its items. A path that begins with `name of` is of a name: the sort of thing follows, and its kind.
    """

    path: tuple[str | int | dict[str, str | int], ...] = ()
    base: Any = None
    ours: Any = None
    theirs: Any = None
    order: bool = False


class Level(Doc, frozen=True, rename={"format": "gatillo"}):
    """The document: one `.gatillo` file."""

    # required, so that it is always written: readers look at it first
    format: int
    name: str
    note: str = ""
    settings: Settings = Settings()
    variables: tuple[Variable, ...] = ()
    kinds: tuple[Kind, ...] = ()
    places: Annotated[tuple[Place, ...], Meta(max_length=5_000)] = ()
    clips: tuple[Clip, ...] = ()
    objects: tuple[Object, ...] = ()
    order: tuple[Section | Logic, ...] = ()
    trials: tuple[Trial, ...] = ()
    variants: tuple[Variant, ...] = ()
    unsettled: tuple[Unsettled, ...] = ()
    """What a merge left to be settled (inspect/merging)."""


def empty_level(name: str = "New level") -> Level:
    """Return a level with nothing in it but a trial to run."""
    return Level(format=FORMAT_VERSION, name=name, trials=(Trial(name="First try"),))
