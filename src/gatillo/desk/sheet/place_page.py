"""The sheet of a place: a spot, an area or a route."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QVBoxLayout

from gatillo.desk.session.rename_things import delete_thing, take_name, told_uses
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.form import Form
from gatillo.level import thing_edits
from gatillo.level.model import Area, Circle, Place, Rectangle, Route, Spot, Stop


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


def _shape(form: Form, place: Area, put) -> None:  # type: ignore[no-untyped-def]
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


def _stops(form: Form, place: Route, put) -> None:  # type: ignore[no-untyped-def]
    def change(at: int, **fields: float) -> None:
        stops = tuple(replace(s, **fields) if i == at else s for i, s in enumerate(place.stops))
        put("change a stop of", stops=stops)

    form.heading("Stops: x, y, pause in seconds")
    for at, stop in enumerate(place.stops):
        row = form.row()
        for field, least in (("x", -1e6), ("y", -1e6), ("pause", 0.0)):
            row.addWidget(
                form.spin(
                    f"stop-{at}-{field}",
                    f"{field} of stop {at + 1}",
                    getattr(stop, field),
                    lambda v, i=at, f=field: change(i, **{f: v}),
                    least=least,
                )
            )
        row.addWidget(
            form.remover(
                f"stop-{at}-remove",
                f"stop {at + 1}",
                lambda i=at: put(
                    "remove a stop from", stops=tuple(s for j, s in enumerate(place.stops) if j != i)
                ),
            )
        )
        form.rows.addRow(str(at + 1), form.box(row))
    last = place.stops[-1] if place.stops else Stop(x=0.0, y=0.0)
    form.buttons(
        form.button(
            "+ stop",
            "add-stop",
            lambda: put("add a stop to", stops=(*place.stops, replace(last, x=last.x + 40.0, pause=0.0))),
        )
    )
