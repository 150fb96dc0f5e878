"""The sheet of a kind: shape, look, contact, tags, variables, behaviours, topics."""

from __future__ import annotations

from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog, QSlider, QVBoxLayout, QWidget

from gatillo.catalogue.binding import bind
from gatillo.catalogue.choices import choices
from gatillo.catalogue.entry import CATALOGUE, Slot
from gatillo.desk.picture_import import import_picture
from gatillo.desk.sheet.form import Form
from gatillo.desk.sheet.naming_field import delete_thing, take_name
from gatillo.desk.sheet.variable_fields import variable_fields
from gatillo.desk.workbench import Workbench
from gatillo.level import thing_edits
from gatillo.level.model import Circle, Clause, Kind, Readout, Rectangle, Topic
from gatillo.level.naming import name_problem, spoken

CONTACTS = (
    ("none", "none: touches nothing"),
    ("sensed", "sensed: touching is noticed, nothing is pushed"),
    ("movable", "movable: solid, and can be pushed"),
    ("fixed", "fixed: solid, and stands fast"),
)


def kind_page(bench: Workbench, column: QVBoxLayout, kind: Kind) -> None:
    """Fields for everything that objects of a kind share."""
    form = Form(bench, column, "kind")

    def put(field: str, deed: str):  # type: ignore[no-untyped-def]
        def take(value: object) -> None:
            level = thing_edits.set_kind(bench.level, kind.name, **{field: value})
            bench.edit(level, f"{deed} of {kind.name}", join=f"kind {kind.name} {field}")

        return take

    taken = [k.name for k in bench.level.kinds if k is not kind] + [o.name for o in bench.level.objects]
    form.text("name", "name", kind.name, lambda text: take_name(bench, "kind", kind.name, text, taken))
    _shape(form, kind, put)
    form.swatches("colour", "colour", kind.colour, thing_edits.COLOURS, put("colour", "change the colour"))
    form.text("glyph", "glyph", kind.glyph, put("glyph", "change the glyph"), wide=False, hint="one letter")
    _picture(form, kind, put)
    form.number(
        "drawn facing °", "facing", kind.drawn_facing, put("drawn_facing", "change the drawn facing"), step=15
    )
    form.choice("contact", "contact", kind.contact, CONTACTS, put("contact", "change the contact"))
    form.number("depth", "depth", kind.depth, put("depth", "change the depth"), step=1)
    form.text(
        "tags", "tags", ", ".join(kind.tags), lambda text: _take_tags(bench, kind, text), hint="seed, ripe"
    )
    form.heading("Variables of each one")
    variable_fields(form, kind.name)
    form.heading("Behaviours")
    for number, behaviour in enumerate(kind.behaviours):
        _behaviour(form, kind, number, behaviour)
    have = {b.use for b in kind.behaviours}
    free = [(n, spoken(n)) for n, e in CATALOGUE.items() if e.group == "behaviour" and n not in have]
    if free:
        adder = form.combo(
            "add-behaviour", "add a behaviour", None, free, lambda use: _add_behaviour(bench, kind, use)
        )
        adder.setPlaceholderText("+ behaviour")
        form.alone(adder)
    _topics(form, kind)
    _readouts(form, kind, put)
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


def _picture(form: Form, kind: Kind, put) -> None:  # type: ignore[no-untyped-def]
    take = put("picture", "change the picture")

    def choose() -> None:
        path, _ = QFileDialog.getOpenFileName(
            None, "A picture for it", str(Path.home()), "Pictures (*.png *.svg)"
        )
        if path:
            try:
                take(import_picture(Path(path)))
            except ValueError as error:
                form.bench.told.emit(f"{error}.")

    row = form.row()
    row.addWidget(
        form.button("From a file …", "picture-choose", choose, tip="A PNG or SVG in place of the plain shape")
    )
    if kind.picture:
        row.addWidget(form.remover("picture-remove", "the picture", lambda: take("")))
    form.add("picture", form.box(row), "picture")


def _readouts(form: Form, kind: Kind, put) -> None:  # type: ignore[no-untyped-def]
    form.heading("Shown on each one")
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
    )


def _take_tags(bench: Workbench, kind: Kind, text: str) -> str | None:
    tags = tuple(dict.fromkeys(t.strip() for t in text.split(",") if t.strip()))
    problem = next((p for t in tags if (p := name_problem(t))), None)
    if problem is None:
        bench.edit(thing_edits.set_kind(bench.level, kind.name, tags=tags), f"change the tags of {kind.name}")
    return problem


# behaviours


def _add_behaviour(bench: Workbench, kind: Kind, use: str) -> None:
    bench.edit(thing_edits.add_behaviour(bench.level, kind.name, use), f"let {kind.name} {spoken(use)}")


def _behaviour(form: Form, kind: Kind, number: int, behaviour: Clause) -> None:
    bench, entry = form.bench, CATALOGUE.get(behaviour.use)
    head = form.row()
    title = form.words(spoken(behaviour.use), quiet=False)
    head.addWidget(title)
    head.addWidget(
        form.remover(
            f"behaviour-{number}-remove",
            f"the behaviour {spoken(behaviour.use)}",
            lambda: bench.edit(
                thing_edits.delete_behaviour(bench.level, kind.name, behaviour.use),
                f"take {spoken(behaviour.use)} from {kind.name}",
            ),
        )
    )
    form.column.addWidget(form.box(head))
    form.rows = form._new_rows()
    if entry is None:
        return
    for name, slot in entry.slots.items():
        text = behaviour.slots.get(name, slot.default)

        def take(value: object, n: str = name) -> str | None:
            return _set_behaviour(bench, kind, behaviour, n, value)

        _slot_field(form, f"behaviour-{number}-{name}", name, slot, text, take)


def _set_behaviour(bench: Workbench, kind: Kind, behaviour: Clause, name: str, value: object) -> str | None:
    text = f"{value:g}" if isinstance(value, float) else str(value)
    tried = replace(behaviour, slots={**behaviour.slots, name: text})
    problem = next(
        (p.message for p in bind(bench.program.index, tried, "behaviour").problems if p.slot == name), None
    )
    if problem is None:
        level = thing_edits.set_behaviour(bench.level, kind.name, behaviour.use, name, text)
        bench.edit(
            level,
            f"change {name} of {spoken(behaviour.use)} of {kind.name}",
            join=f"behaviour {kind.name} {behaviour.use} {name}",
        )
    return problem


def _slot_field(form: Form, name: str, label: str, slot: Slot, text: str, take) -> None:  # type: ignore[no-untyped-def]
    if slot.type in ("number", "seconds"):
        try:
            value = float(text)
        except ValueError:
            value = 0.0
        row = form.row()
        least = 0.0 if slot.type == "seconds" else -1e6
        spin = form.spin(
            name, slot.help or label, value, take, least=least, step=5.0 if abs(value) >= 20 else 0.1
        )
        row.addWidget(spin)
        row.addWidget(_slider(form.bench, spin, value))
        form.add(label, form.box(row), f"{name}-row", said=label)
        return
    if slot.type in ("choice", "key"):
        known = choices(form.bench.program.index, slot)
        form.choice(label, name, text, [(c, c) for c in known], take)
        return
    form.text(label, name, text, take, hint=slot.hint, known=choices(form.bench.program.index, slot))


def _slider(bench: Workbench, spin, value: float) -> QWidget:  # type: ignore[no-untyped-def]
    """A slider from 0 to about twice the value; the run follows while it is dragged."""
    slider = QSlider(Qt.Orientation.Horizontal)
    slider.setObjectName(f"{spin.objectName()}-slider")
    slider.setAccessibleName(spin.accessibleName())
    slider.setRange(0, 200)
    slider.setFixedWidth(120)
    whole = max(abs(value) * 2, 1.0)
    slider.setValue(round(200 * abs(value) / whole))
    slider.sliderPressed.connect(bench.begin_live)
    slider.sliderReleased.connect(bench.end_live)
    slider.sliderMoved.connect(lambda at: spin.setValue(round(at / 200 * whole, 2)))
    return slider


# topics


def _topics(form: Form, kind: Kind) -> None:
    bench = form.bench
    form.heading("Topics to talk about")

    def put(topics: tuple[Topic, ...], deed: str) -> None:
        bench.edit(thing_edits.set_topics(bench.level, kind.name, topics), deed)

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
                    tuple(t for j, t in enumerate(kind.topics) if j != i), f"take a topic from {kind.name}"
                ),
            )
        )
        form.column.addWidget(form.box(row))
    name = f"topic {len(kind.topics) + 1}"
    form.buttons(
        form.button(
            "+ topic",
            "add-topic",
            lambda: put((*kind.topics, Topic(name=name)), f"add a topic to {kind.name}"),
        )
    )
