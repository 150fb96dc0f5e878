"""The sheet of a place: a spot, an area or a route."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from msgspec.structs import replace
from PySide6.QtWidgets import QToolButton, QVBoxLayout

from gatillo.catalogue.entries.timed_moves import EASINGS
from gatillo.desk.looks import plain
from gatillo.desk.looks.flow_layout import FlowLayout
from gatillo.desk.session.rename_things import delete_thing, take_name, told_uses
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.form import Form
from gatillo.formula.values import half_open_degrees
from gatillo.level import thing_edits
from gatillo.level.model import Area, Circle, Place, Rectangle, Route, Spot, Stop
from gatillo.level.naming import free_name_problem


class Put(Protocol):
    """What edits a place, under a label."""

    def __call__(self, label: str, **fields: object) -> None: ...


def place_page(bench: Workbench, column: QVBoxLayout, place: Place) -> None:
    """Fields of a place."""
    form = Form(bench, column, "place")
    sort = {Spot: "spot", Area: "area", Route: "route"}[type(place)]

    def put(label: str, **fields: object) -> None:
        level = thing_edits.set_place(bench.level, place.name, **fields)
        bench.edit(level, f"{label} {place.name}", join=f"place {place.name} {' '.join(fields)}")

    taken = [p.name for p in bench.level.places if p is not place]
    form.text("name", "name", place.name, lambda text: take_name(bench, "place", place.name, text, taken))
    if isinstance(place, Spot | Area):
        form.number("x", "x", place.x, lambda v: put("move", x=v))
        form.number("y", "y", place.y, lambda v: put("move", y=v))
    if isinstance(place, Area):
        _shape(form, place, put)
    if isinstance(place, Route):
        _stops(form, place, put)
    used = told_uses(bench.level, "place", place.name)
    form.words(f"This {sort} is used by {used}." if used else f"No rule uses this {sort} yet.")
    form.buttons(
        form.button(
            f"Delete {place.name}",
            "delete",
            lambda: delete_thing(
                bench, "place", place.name, thing_edits.delete_place(bench.level, place.name)
            ),
        )
    )


def _shape(form: Form, place: Area, put: Put) -> None:
    shape = place.shape

    def other(chosen: str) -> None:
        if chosen == "circle" and isinstance(shape, Rectangle):
            put("change the shape of", shape=Circle(radius=round((shape.width + shape.height) / 4, 1)))
        elif chosen == "rectangle" and isinstance(shape, Circle):
            put("change the shape of", shape=Rectangle(width=shape.radius * 2, height=shape.radius * 2))

    options = (("circle", "circle"), ("rectangle", "rectangle"))
    form.choice("shape", "shape", "circle" if isinstance(shape, Circle) else "rectangle", options, other)
    if isinstance(shape, Circle):
        form.number(
            "radius", "radius", shape.radius, lambda v: put("resize", shape=Circle(radius=v)), least=0.1
        )
    else:
        form.number(
            "width", "width", shape.width, lambda v: put("resize", shape=replace(shape, width=v)), least=0.1
        )
        form.number(
            "height",
            "height",
            shape.height,
            lambda v: put("resize", shape=replace(shape, height=v)),
            least=0.1,
        )


def _stops(form: Form, place: Route, put: Put) -> None:
    form.heading("Stops: x, y, pause in seconds")
    for at, stop in enumerate(place.stops):
        _fields_of(form, place, at, stop, put)
    last = place.stops[-1] if place.stops else Stop(x=0.0, y=0.0)
    added = Stop(x=last.x + 40.0, y=last.y)
    form.buttons(form.button("+ stop", "add-stop", lambda: put("add a stop to", stops=(*place.stops, added))))


def _fields_of(form: Form, place: Route, at: int, stop: Stop, put: Put) -> None:
    """A row with the place and the pause of a stop, and below it what else happens there, which can be folded away."""
    number = at + 1

    def change(**fields: object) -> None:
        stops = tuple(replace(s, **fields) if i == at else s for i, s in enumerate(place.stops))
        put("change a stop of", stops=stops)

    row = form.row()
    for field, least in (("x", -1e6), ("y", -1e6), ("pause", 0.0)):
        row.addWidget(
            form.spin(
                f"stop-{at}-{field}",
                f"{field} of stop {number}",
                getattr(stop, field),
                lambda v, f=field: change(**{f: v}),
                least=least,
            )
        )
    more = QToolButton()
    more.setText("…")
    more.setProperty("small", "true")
    more.setCheckable(True)
    form.named(more, f"stop-{at}-more", f"more about stop {number}")
    more.setToolTip(plain.tip("The leg after it, a message, and which way to face there"))
    row.addWidget(more)
    row.addWidget(
        form.remover(
            f"stop-{at}-remove",
            f"stop {number}",
            lambda: put("remove a stop from", stops=tuple(s for j, s in enumerate(place.stops) if j != at)),
        )
    )
    form.rows.addRow(str(number), form.box(row))
    there = form.box(_there(form, at, stop, change))
    form.rows.addRow("", there)
    for problem in form.bench.program.problems:
        if (problem.rule_index, problem.rule, problem.part, problem.line) == (-1, place.name, "stop", at):
            form.finding(problem.message)
    said = stop.has_own_leg or bool(stop.message or stop.where) or stop.facing is not None
    more.setChecked(said)
    form.rows.setRowVisible(there, said)
    rows = form.rows
    more.toggled.connect(lambda shown: rows.setRowVisible(there, shown))


def _there(form: Form, at: int, stop: Stop, change: Callable[..., None]) -> FlowLayout:
    """Return the fields for what happens at a stop: the leg after it, the message, the facing."""
    number = at + 1
    row = form.row()
    where = form.line(
        f"stop-{at}-where",
        f"where stop {number} is",
        stop.where,
        lambda text: change(where=text),
        hint="where it is drawn",
    )
    where.setToolTip(plain.tip("An object, a place or a formula of a point, in the place of x and y"))
    row.addWidget(form.label("at"))
    row.addWidget(where)
    sorts = (("", "leg as usual"), ("time", "leg takes"), ("speed", "leg at"))
    sort = "time" if stop.time > 0 else "speed" if stop.speed > 0 else ""
    starts = {"time": {"time": 1.0, "speed": 0.0}, "speed": {"time": 0.0, "speed": 60.0}}
    row.addWidget(
        form.combo(
            f"stop-{at}-leg",
            f"the leg after stop {number}",
            sort,
            sorts,
            lambda chosen: change(**starts.get(chosen, {"time": 0.0, "speed": 0.0})),
        )
    )
    if sort:
        row.addWidget(
            form.spin(
                f"stop-{at}-{sort}",
                f"{sort} of the leg after stop {number}",
                getattr(stop, sort),
                lambda v: change(**{sort: v}),
                least=0.01,
                suffix=" s" if sort == "time" else "",
            )
        )
    easings = [("", "easing as usual"), *((easing, easing) for easing in EASINGS)]
    row.addWidget(
        form.combo(
            f"stop-{at}-easing",
            f"easing of the leg after stop {number}",
            stop.easing,
            easings,
            lambda chosen: change(easing=chosen),
        )
    )

    def faces(text: str) -> str | None:
        if not text:
            change(facing=None)
            return None
        try:
            angle = float(text.removesuffix("°"))
        except ValueError:
            return f"“{text}” is no direction; write it in degrees, 0 to the right, 90 up"
        change(facing=float(half_open_degrees(angle)))
        return None

    shown = "" if stop.facing is None else f"{stop.facing:g}"
    facing = form.line(f"stop-{at}-facing", f"facing at stop {number}", shown, faces, hint="faces °")
    facing.setFixedWidth(80)
    row.addWidget(facing)
    row.addWidget(
        form.line(
            f"stop-{at}-message",
            f"message at stop {number}",
            stop.message,
            lambda text: _take_message(text, change),
            hint="sends a message",
            known=list(form.bench.program.messages),
        )
    )
    return row


def _take_message(text: str, change: Callable[..., None]) -> str | None:
    problem = free_name_problem(text) if text else None
    if problem is None:
        change(message=text)
    return problem
