"""The sheet of a variant: what it switches, its start values, and comparing it with the shown run."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QVBoxLayout

from gatillo.desk.session.rename_things import take_name
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.form import Form
from gatillo.level import thing_edits
from gatillo.level.edits import change_variant
from gatillo.level.model import Level, Reference, Section, Value, Variant

SWITCHES = (("", "as it is"), ("on", "on"), ("off", "off"))
NOTHING = ""


def variant_page(bench: Workbench, column: QVBoxLayout, variant: Variant) -> None:
    """Fields of a variant."""
    form = Form(bench, column, "variant")

    def put(label: str, **fields: object) -> None:
        level = change_variant(bench.level, variant.name, lambda v: replace(v, **fields))
        bench.edit(level, f"{label} of “{variant.name}”", join=f"variant {variant.name} {' '.join(fields)}")

    taken = [v.name for v in bench.level.variants if v is not variant]
    form.text(
        "name", "name", variant.name, lambda text: take_name(bench, "variant", variant.name, text, taken)
    )
    form.text(
        "note", "note", variant.note, lambda text: put("change the note", note=text), hint="what it tries"
    )
    form.buttons(
        form.button(
            "Compare it with this run",
            "beside",
            lambda: bench.beside.compare_with_variant(variant.name),
            tip="Run the trial with it, and show what differs",
        ),
        form.button("Delete the variant", "delete", lambda: _delete(bench, variant)),
    )
    _switched(form, bench, variant, put)
    _started(form, bench, variant, put)


def _delete(bench: Workbench, variant: Variant) -> None:
    bench.select(Selection())
    bench.edit(thing_edits.delete_variant(bench.level, variant.name), f"delete the variant “{variant.name}”")


def switchable(level: Level) -> list[str]:
    """Return the names of all rules, graphs and sections, in their order."""
    found: list[str] = []
    for entry in level.order:
        found.append(entry.name)
        if isinstance(entry, Section):
            found += [rule.name for rule in entry.rules]
    return list(dict.fromkeys(found))


def _switched(form: Form, bench: Workbench, variant: Variant, put) -> None:  # type: ignore[no-untyped-def]
    """A choice for each entry that it switches, and one to switch another."""
    form.heading("Switched")

    def switch(name: str, way: str) -> None:
        if name == NOTHING:
            return
        on = tuple(n for n in variant.on if n != name) + ((name,) if way == "on" else ())
        off = tuple(n for n in variant.off if n != name) + ((name,) if way == "off" else ())
        put("switch", on=on, off=off)

    for name in switchable(bench.level):
        way = "on" if name in variant.on else "off" if name in variant.off else ""
        if way:
            form.choice(name, f"switch-{name}", way, SWITCHES, lambda w, n=name: switch(n, w))
    rest = [(n, n) for n in switchable(bench.level) if n not in (*variant.on, *variant.off)]
    if rest:
        form.choice(
            "also",
            "switch",
            NOTHING,
            ((NOTHING, "switch off another …"), *rest),
            lambda n: switch(n, "off"),
        )


def _started(form: Form, bench: Workbench, variant: Variant, put) -> None:  # type: ignore[no-untyped-def]
    """A field for each variable of the level that it starts otherwise, and a choice of another."""
    form.heading("Level variables with other start values")
    known = {v.name: v.value for v in bench.level.variables if not isinstance(v.value, Reference | tuple)}

    def start(name: str, value: Value | None) -> None:
        if name == NOTHING:
            return
        values = {n: v for n, v in variant.values.items() if n != name}
        put("start otherwise", values=values if value is None else {**values, name: value})

    for name, value in variant.values.items():
        if isinstance(value, bool):
            form.check(name, f"value-{name}", value, lambda yes, n=name: start(n, yes), words="yes")
        elif isinstance(value, float | int):
            form.number(name, f"value-{name}", float(value), lambda v, n=name: start(n, float(v)))
        elif isinstance(value, str):
            form.text(name, f"value-{name}", value, lambda text, n=name: start(n, text))
        form.buttons(
            form.button(f"{name} as it is", f"as-it-is-{name}", lambda _=False, n=name: start(n, None))
        )
    rest = [(n, n) for n in known if n not in variant.values]
    if rest:
        form.choice(
            "also",
            "start",
            NOTHING,
            ((NOTHING, "change another variable …"), *rest),
            lambda n: start(n, known.get(n)),
        )


def add_variant(bench: Workbench) -> None:
    """A new variant, shown."""
    level, name = thing_edits.add_variant(bench.level)
    bench.edit(level, f"add the variant “{name}”")
    bench.select(Selection(thing=Thing("variant", name)))
