"""The sheet of a kind: shape, look, contact, tags, variables, behaviours, topics."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QVBoxLayout

from gatillo.desk.looks import plain
from gatillo.desk.session.rename_things import delete_thing, take_name
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.behaviour_fields import behaviour_fields
from gatillo.desk.sheet.form import Form
from gatillo.desk.sheet.look_fields import drawing_choice, look_fields
from gatillo.desk.sheet.own_fields import kinds_own_fields
from gatillo.desk.sheet.part_menu import part_button
from gatillo.desk.sheet.picture_field import picture_field
from gatillo.desk.sheet.variable_fields import variable_fields
from gatillo.level import thing_edits
from gatillo.level.model import Circle, Kind, Point, Readout, Rectangle, Topic
from gatillo.level.naming import name_problem, token

CONTACTS = (
    ("none", "none: touches nothing"),
    ("sensed", "sensed: noticed, but not pushed"),
    ("movable", "movable: solid, and can be pushed"),
    ("fixed", "fixed: solid and immovable"),
)


def kind_page(bench: Workbench, column: QVBoxLayout, kind: Kind) -> None:
    """Fields for everything that objects of a kind share."""
    form = Form(bench, column, "kind")

    def put(field: str, label: str):  # type: ignore[no-untyped-def]
        def take(value: object) -> None:
            level = thing_edits.set_kind(bench.level, kind.name, **{field: value})
            bench.edit(level, f"{label} of {kind.name}", join=f"kind {kind.name} {field}")

        return take

    taken = [k.name for k in bench.level.kinds if k is not kind] + [o.name for o in bench.level.objects]
    form.text("name", "name", kind.name, lambda text: take_name(bench, "kind", kind.name, text, taken))
    _shape(form, kind, put)
    form.swatches("colour", "colour", kind.colour, thing_edits.COLOURS, put("colour", "change the colour"))
    take_drawing = put("drawing", "change the drawing")
    form.add(
        "drawing",
        drawing_choice(
            form, "drawing", "drawing", kind.drawing, kind.colour, "none: the glyph", take_drawing
        ),
        "drawing",
    )
    if not (kind.drawing or kind.picture):
        form.text(
            "glyph", "glyph", kind.glyph, put("glyph", "change the glyph"), wide=False, hint="one letter"
        )
    picture_field(
        form,
        "picture",
        "picture",
        kind.picture,
        put("picture", "change the picture"),
        tip="A PNG or SVG in place of the plain shape",
    )
    form.number(
        "drawn facing °", "facing", kind.drawn_facing, put("drawn_facing", "change the drawn facing"), step=15
    )
    form.check("outline", "outline", kind.outline, put("outline", "change the outline"))
    scenery = form.check("scenery", "scenery", kind.scenery, put("scenery", "change what takes part"))
    scenery.setToolTip("Only drawn: rules cannot name it, nothing touches it, and it takes no part in runs")
    if kind.scenery:
        form.number("depth", "depth", kind.depth, put("depth", "change the depth"), step=1)
        _deletion(form, kind)
        return
    form.choice("contact", "contact", kind.contact, CONTACTS, put("contact", "change the contact"))
    if kind.contact in ("movable", "fixed"):
        _body(form, kind, put)
    form.number("depth", "depth", kind.depth, put("depth", "change the depth"), step=1)
    form.text(
        "tags", "tags", ", ".join(kind.tags), lambda text: _take_tags(bench, kind, text), hint="seed, ripe"
    )
    form.heading("Variables of each object")
    variable_fields(form, kind.name)
    behaviour_fields(form, kind)
    kinds_own_fields(form, kind)
    _points(form, kind)
    _topics(form, kind)
    look_fields(form, kind)
    _readouts(form, kind, put)
    _deletion(form, kind)


def _deletion(form: Form, kind: Kind) -> None:
    bench = form.bench
    form.heading("")
    many = sum(o.kind == kind.name for o in bench.level.objects)
    words = f"Delete {kind.name}" + (f" and its {many} object{'s' if many != 1 else ''}" if many else "")
    form.buttons(
        form.button(
            words,
            "delete",
            lambda: delete_thing(bench, "kind", kind.name, thing_edits.delete_kind(bench.level, kind.name)),
        )
    )


def _shape(form: Form, kind: Kind, put) -> None:  # type: ignore[no-untyped-def]
    shape = kind.shape
    take = put("shape", "change the shape")

    def other(chosen: str) -> None:
        if chosen == "circle" and isinstance(shape, Rectangle):
            take(Circle(radius=round((shape.width + shape.height) / 4, 1)))
        elif chosen == "rectangle" and isinstance(shape, Circle):
            take(Rectangle(width=shape.radius * 2, height=shape.radius * 2))

    options = (("circle", "circle"), ("rectangle", "rectangle"))
    form.choice("shape", "shape", "circle" if isinstance(shape, Circle) else "rectangle", options, other)
    if isinstance(shape, Circle):
        form.number("radius", "radius", shape.radius, lambda v: take(Circle(radius=v)), least=0.1)
    else:
        form.number("width", "width", shape.width, lambda v: take(replace(shape, width=v)), least=0.1)
        form.number("height", "height", shape.height, lambda v: take(replace(shape, height=v)), least=0.1)


def _body(form: Form, kind: Kind, put) -> None:  # type: ignore[no-untyped-def]
    """How a solid kind answers to being pushed."""
    if kind.contact == "movable":
        form.number("mass", "mass", kind.mass, put("mass", "change the mass"), least=0.01, step=0.5)
    for field, tip in (
        ("bounce", "How much of its speed is left after a hit: 0 none, 1 all"),
        ("friction", "0 slides on for ever, 1 stops at once"),
    ):
        number = form.number(
            field,
            field,
            getattr(kind, field),
            put(field, f"change the {field}"),
            least=0.0,
            most=1.0,
            step=0.05,
        )
        number.setToolTip(plain.tip(tip))


def _readouts(form: Form, kind: Kind, put) -> None:  # type: ignore[no-untyped-def]
    form.heading("Shown on each object")
    take = put("readouts", "change what is shown on objects")
    name = kind.name.replace(" ", "_")

    def change(at: int, **fields: str) -> None:
        take(tuple(replace(r, **fields) if i == at else r for i, r in enumerate(kind.readouts)))

    for at, readout in enumerate(kind.readouts):
        row = form.row()
        sorts = (("text", "text"), ("bar", "bar"))
        row.addWidget(
            form.combo(
                f"readout-{at}-shows", "shown as", readout.shows, sorts, lambda s, i=at: change(i, shows=s)
            )
        )
        row.addWidget(
            form.line(
                f"readout-{at}-value", "what is shown", readout.value, lambda t, i=at: change(i, value=t)
            )
        )
        if readout.shows == "bar":
            row.addWidget(form.label("of"))
            most = form.line(
                f"readout-{at}-most", "the full bar", readout.most, lambda t, i=at: change(i, most=t)
            )
            most.setFixedWidth(70)
            row.addWidget(most)
        row.addWidget(
            form.remover(
                f"readout-{at}-remove",
                f"readout {at + 1}",
                lambda i=at: take(tuple(r for j, r in enumerate(kind.readouts) if j != i)),
            )
        )
        form.column.addWidget(form.box(row))
    problems = [p.message for p in form.bench.program.problems if p.part == "readout" and p.rule == kind.name]
    if problems:
        form.words(problems[0])
    form.buttons(
        form.button(
            "+ text", "add-readout-text", lambda: take((*kind.readouts, Readout(value=f"{{{name}.name}}")))
        ),
        form.button(
            "+ bar",
            "add-readout-bar",
            lambda: take((*kind.readouts, Readout(value=f"{name}.scale", shows="bar"))),
        ),
        part_button(form, "readouts", kind.name, kind.readouts, [r.value for r in kind.readouts]),
    )


def _take_tags(bench: Workbench, kind: Kind, text: str) -> str | None:
    tags = tuple(dict.fromkeys(t.strip() for t in text.split(",") if t.strip()))
    problem = next((p for t in tags if (p := name_problem(t))), None)
    if problem is None:
        bench.edit(thing_edits.set_kind(bench.level, kind.name, tags=tags), f"change the tags of {kind.name}")
    return problem


# points


def _points(form: Form, kind: Kind) -> None:
    """Named points on each object: where something is attached or comes out, written as “hand of Gardener”."""
    bench = form.bench
    form.heading("Named points")

    def put(points: tuple[Point, ...], label: str) -> None:
        bench.edit(thing_edits.set_kind(bench.level, kind.name, points=points), label)

    def changed(at: int, **fields: object) -> tuple[Point, ...]:
        return tuple(replace(p, **fields) if j == at else p for j, p in enumerate(kind.points))

    for at, point in enumerate(kind.points):
        row = form.row()
        others = [p.name for p in kind.points if p is not point]
        row.addWidget(
            form.line(
                f"point-{at}-name",
                "point",
                point.name,
                lambda text, p=point, o=others: take_name(bench, "point", p.name, text, o),
            )
        )
        for axis in ("x", "y"):
            row.addWidget(form.label(axis))
            row.addWidget(
                form.spin(
                    f"point-{at}-{axis}",
                    f"{axis} of {point.name}",
                    getattr(point, axis),
                    lambda v, i=at, a=axis: put(changed(i, **{a: float(v)}), f"move a point of {kind.name}"),
                )
            )
        row.addWidget(
            form.remover(
                f"point-{at}-remove",
                f"the point {point.name}",
                lambda i=at: put(
                    tuple(p for j, p in enumerate(kind.points) if j != i), f"remove a point from {kind.name}"
                ),
            )
        )
        form.column.addWidget(form.box(row))
    names = {p.name for p in kind.points}
    name = next(n for n in ("hand", *(f"point {i}" for i in range(1, 1000))) if n not in names)
    form.buttons(
        form.button(
            "+ point",
            "add-point",
            lambda: put(
                (*kind.points, Point(name=name, x=kind.shape.halves[0])), f"add a point to {kind.name}"
            ),
            tip="A point that turns with the object; in rules, “hand of Gardener”",
        ),
        part_button(form, "points", kind.name, kind.points, [p.name for p in kind.points]),
    )


# topics


def _topics(form: Form, kind: Kind) -> None:
    bench = form.bench
    form.heading("Topics to talk about")

    def put(topics: tuple[Topic, ...], label: str) -> None:
        bench.edit(thing_edits.set_topics(bench.level, kind.name, topics), label)

    for at, topic in enumerate(kind.topics):
        row = form.row()
        others = [t.name for t in kind.topics if t is not topic]
        row.addWidget(
            form.line(
                f"topic-{at}-name",
                "topic",
                topic.name,
                lambda text, t=topic, o=others: take_name(bench, "topic", t.name, text, o),
            )
        )
        row.addWidget(
            form.line(
                f"topic-{at}-answer",
                f"answer to {topic.name}",
                topic.answer,
                lambda text, i=at: put(
                    tuple(replace(t, answer=text) if j == i else t for j, t in enumerate(kind.topics)),
                    f"change an answer of {kind.name}",
                ),
                hint="what they answer",
            )
        )
        row.addWidget(
            form.remover(
                f"topic-{at}-remove",
                f"the topic {topic.name}",
                lambda i=at: put(
                    tuple(t for j, t in enumerate(kind.topics) if j != i), f"remove a topic from {kind.name}"
                ),
            )
        )
        form.column.addWidget(form.box(row))
        form.text(
            "only if",
            f"topic-{at}-only",
            topic.only_if,
            lambda text, i=at: put(
                tuple(replace(t, only_if=text) if j == i else t for j, t in enumerate(kind.topics)),
                f"change when a topic of {kind.name} can be chosen",
            ),
            hint=f"always; or a formula, such as {token(kind.name)}.met",
        )
        for problem in bench.program.problems:
            if (problem.rule_index, problem.rule, problem.part, problem.line) == (-1, kind.name, "topic", at):
                form.finding(problem.message)
    name = f"topic {len(kind.topics) + 1}"
    form.buttons(
        form.button(
            "+ topic",
            "add-topic",
            lambda: put((*kind.topics, Topic(name=name)), f"add a topic to {kind.name}"),
        ),
        part_button(form, "topics", kind.name, kind.topics, [t.name for t in kind.topics]),
    )
