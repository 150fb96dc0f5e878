"""The sheet of an object placed by hand: where it starts, and the values of its own."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QVBoxLayout

from gatillo.desk.looks.theme import text_font
from gatillo.desk.session.rename_things import take_name
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.behaviour_fields import own_settings
from gatillo.desk.sheet.form import Form
from gatillo.desk.sheet.variable_fields import value_field
from gatillo.level import edits
from gatillo.level.arranging import attach
from gatillo.level.model import Object, Value
from gatillo.level.naming import name_problem


def object_page(bench: Workbench, column: QVBoxLayout, thing: Object) -> None:
    """Fields of one object."""
    form = Form(bench, column, "object")
    form.buttons(
        form.button(
            f"one {thing.kind} · open the kind",
            "kind",
            lambda: bench.select(Selection(thing=Thing("kind", thing.kind))),
        )
    )

    def put(field: str, value: object) -> None:
        level = edits.set_object(bench.level, thing.id, **{field: value})
        bench.edit(level, f"change {field} of {thing.name}", join=f"{thing.id} {field}")

    taken = [o.name for o in bench.level.objects if o is not thing] + [k.name for k in bench.level.kinds]
    form.text("name", "name", thing.name, lambda text: take_name(bench, "object", thing.name, text, taken))
    for label, field, step, least in (
        ("starts at x", "x", 1.0, -1e6),
        ("starts at y", "y", 1.0, -1e6),
        ("angle °", "angle", 5.0, -360.0),
        ("scale", "scale", 0.1, 0.01),
    ):
        form.number(
            label,
            field,
            getattr(thing, field),
            lambda v, f=field: put(f, round(v, 3)),
            step=step,
            least=least,
        )
    form.text(
        "tags of its own",
        "tags",
        ", ".join(thing.tags),
        lambda text: _take_tags(bench, thing, text),
        hint="staff, tall",
    )
    carriers = [("", "nothing"), *((o.name, o.name) for o in bench.level.objects if o is not thing)]
    form.choice("attached to", "attached", thing.attached, carriers, lambda name: _attach(bench, thing, name))
    form.check("shown", "shown", thing.shown, lambda yes: put("shown", yes))
    kind = next(k for k in bench.level.kinds if k.name == thing.kind)
    if kind.variables:
        form.heading("Values it starts with")
    for variable in kind.variables:
        own = variable.name in thing.values
        row = form.row()
        value = thing.values.get(variable.name, variable.value)
        row.addWidget(
            value_field(
                form,
                f"value-{variable.name}",
                f"{variable.name} starts with",
                value,
                lambda v, n=variable.name: _set_value(bench, thing, n, v),
            )
        )
        if own:
            reset = form.button(
                "own · as its kind",
                f"value-{variable.name}-reset",
                lambda n=variable.name: _set_value(bench, thing, n, None),
                tip=f"Use the kind's {variable.name} again",
            )
            reset.setFont(text_font(-1))
            row.addWidget(reset)
        else:
            row.addWidget(form.label("as its kind"))
        form.labelled(variable.name, form.box(row))
    own_settings(form, thing, kind)


def _attach(bench: Workbench, thing: Object, carrier: str) -> str | None:
    try:
        level = attach(bench.level, thing.id, carrier)
    except ValueError as error:
        return str(error)
    bench.edit(level, f"attach {thing.name} to {carrier}" if carrier else f"detach {thing.name}")
    return None


def _set_value(bench: Workbench, thing: Object, name: str, value: Value | None) -> None:
    values = {n: v for n, v in thing.values.items() if n != name}
    if value is not None:
        values[name] = value
    level = edits.set_object(bench.level, thing.id, values=values)
    label = f"let {thing.name} have its kind's {name}" if value is None else f"change {name} of {thing.name}"
    bench.edit(level, label, join=f"{thing.id} value {name}")


def _take_tags(bench: Workbench, thing: Object, text: str) -> str | None:
    tags = tuple(dict.fromkeys(t.strip() for t in text.split(",") if t.strip()))
    problem = next((p for t in tags if (p := name_problem(t))), None)
    if problem is None:
        level = edits.change_objects(bench.level, (thing.id,), lambda o: replace(o, tags=tags))
        bench.edit(level, f"change the tags of {thing.name}")
    return problem
