"""Variables of the level or of a kind: name, type and value, each in its row."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gatillo.desk.session.rename_things import delete_thing, take_name
from gatillo.desk.sheet.form import Form, Take
from gatillo.desk.sheet.part_menu import part_button
from gatillo.desk.sheet.trying_menu import TryingMenu
from gatillo.language.renaming import Sort
from gatillo.level import thing_edits
from gatillo.level.model import Reference, Value
from gatillo.level.roles import type_of

TYPES: tuple[tuple[str, str], ...] = (
    ("number", "number"),
    ("yes/no", "yes/no"),
    ("text", "text"),
    ("object", "object"),
    ("point", "point"),
)
STARTS: dict[str, Value] = {
    "number": 0.0,
    "yes/no": False,
    "text": "",
    "object": Reference(),
    "point": (0.0, 0.0),
}


def variable_fields(form: Form, kind: str | None) -> None:
    """The rows of all variables, and a button for one more."""
    bench = form.bench
    sort: Sort = "level variable" if kind is None else "kind variable"
    variables = thing_edits.variables_of(bench.level, kind)
    for at, variable in enumerate(variables):
        row = form.row()
        taken = [v.name for v in variables if v is not variable]
        name = form.line(
            f"variable-{at}-name",
            f"name of variable {variable.name}",
            variable.name,
            lambda text, v=variable, t=taken: take_name(bench, sort, v.name, text, t, kind=kind or ""),
        )
        name.setFixedWidth(120)
        row.addWidget(name)
        row.addWidget(
            form.combo(
                f"variable-{at}-type",
                f"type of {variable.name}",
                type_of(variable.value),
                TYPES,
                lambda chosen, v=variable: bench.edit(
                    thing_edits.set_variable(bench.level, kind, v.name, value=STARTS[chosen]),
                    f"make {v.name} a {chosen}",
                ),
            )
        )
        starts = value_field(
            form,
            f"variable-{at}-value",
            f"{variable.name} starts with",
            variable.value,
            lambda value, v=variable: bench.edit(
                thing_edits.set_variable(bench.level, kind, v.name, value=value),
                f"let {v.name} start with {value.to or 'nobody' if isinstance(value, Reference) else value}",
                join=f"variable {kind} {v.name}",
            ),
        )
        row.addWidget(starts)
        if type_of(variable.value) == "number":
            TryingMenu(bench, starts, f"{kind or 'level'}.{variable.name}")
        row.addWidget(
            form.remover(
                f"variable-{at}-remove",
                f"the variable {variable.name}",
                lambda v=variable: _delete(form, kind, v.name),
            )
        )
        form.column.addWidget(form.box(row))
    form.buttons(
        form.button("+ variable", "add-variable", lambda: _add(form, kind)),
        part_button(form, "variables", kind or "", variables, [v.name for v in variables]),
    )


def _add(form: Form, kind: str | None) -> None:
    level, name = thing_edits.add_variable(form.bench.level, kind)
    form.bench.edit(level, f"add the variable {name}")


def _delete(form: Form, kind: str | None, name: str) -> None:
    kept = form.bench.selection
    sort: Sort = "level variable" if kind is None else "kind variable"
    level = thing_edits.delete_variable(form.bench.level, kind, name)
    delete_thing(form.bench, sort, name, level, kind=kind or "")
    form.bench.select(kept)


def value_field(form: Form, name: str, label: str, value: Value, take: Take) -> QWidget:
    """Return a field for a value of any type."""
    if isinstance(value, bool):
        return form.combo(name, label, value, ((True, "yes"), (False, "no")), take)
    if isinstance(value, Reference):
        objects = [o.name for o in form.bench.level.objects if not value.kind or o.kind == value.kind]
        options = [("", "nobody"), *((o, o) for o in objects)]
        return form.combo(name, label, value.to, options, lambda to: take(Reference(to=to, kind=value.kind)))
    if isinstance(value, str):
        return form.line(name, label, value, take)
    if isinstance(value, tuple):
        x, y = value
        row = form.row()
        for axis, number, put in (
            ("x", x, lambda new: take((new, y))),
            ("y", y, lambda new: take((x, new))),
        ):
            spin = form.spin(f"{name}-{axis}", f"{label}, {axis}", number, put, decimals=3)
            spin.setFixedWidth(74)
            row.addWidget(spin)
        return form.box(row)
    field = form.spin(name, label, float(value), take, decimals=3)
    field.setFixedWidth(96)
    return field
