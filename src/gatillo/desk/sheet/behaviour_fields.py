"""Behaviours in the sheet: those of a kind with their settings, and an object's own settings of them."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QScrollArea, QSlider, QWidget

from gatillo.catalogue.declare.entry import CATALOGUE, Slot
from gatillo.desk.looks.plain import Words
from gatillo.desk.looks.theme import text_font
from gatillo.desk.looks.wheel import scrolls_unless_clicked
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.behaviour_finder import BehaviourFinder
from gatillo.desk.sheet.form import Form
from gatillo.desk.sheet.part_menu import part_button
from gatillo.desk.sheet.trying_menu import TryingMenu
from gatillo.inspect.sweep.targets import target_of_behaviour
from gatillo.language.binding import bind
from gatillo.language.choices import choices, usual_slots
from gatillo.level import edits, thing_edits
from gatillo.level.model import Clause, Kind, Object
from gatillo.level.naming import spoken
from gatillo.level.own_behaviours import uses_of


def behaviour_fields(form: Form, kind: Kind) -> None:
    """The behaviours of a kind, and a list to choose another from."""
    bench = form.bench
    form.heading("Behaviours")
    for number, behaviour in enumerate(kind.behaviours):
        _behaviour(form, kind, number, behaviour)
    have = {b.use for b in kind.behaviours}
    free = [n for n, e in CATALOGUE.items() if e.group == "behaviour" and n not in have]
    if free:
        finder = BehaviourFinder(
            f"{form.prefix}-behaviour",
            free,
            lambda use: form.give(lambda u: _add_behaviour(bench, kind, u), use),
        )
        finder.hide()

        def find() -> None:
            finder.toggle()
            QTimer.singleShot(0, lambda: _show_all_of(finder))

        form.buttons(
            form.button("+ behaviour", "add-behaviour", find, tip="Choose another behaviour for this kind"),
            part_button(
                form,
                "behaviours",
                kind.name,
                kind.behaviours,
                [spoken(b.use) for b in kind.behaviours],
            ),
        )
        form.column.addWidget(finder)


def _show_all_of(widget: QWidget) -> None:
    """Scroll the sheet so that a part of it is seen whole."""
    above = widget.parentWidget()
    while above is not None and not isinstance(above, QScrollArea):
        above = above.parentWidget()
    if above is not None:
        above.ensureWidgetVisible(widget, 0, 8)


def _add_behaviour(bench: Workbench, kind: Kind, use: str) -> None:
    level = thing_edits.add_behaviour(bench.level, kind.name, use)
    for slot, text in usual_slots(bench.program.index, kind.name, CATALOGUE[use]).items():
        level = thing_edits.set_behaviour(level, kind.name, use, slot, text)
    bench.edit(level, f"let {kind.name} {spoken(use)}")


def _behaviour(form: Form, kind: Kind, number: int, behaviour: Clause) -> None:
    bench, entry = form.bench, CATALOGUE.get(behaviour.use)
    head = form.row()
    title = Words(spoken(behaviour.use))
    title.setFont(text_font(0, bold=True))
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
    if entry is None:
        return
    form.words(entry.help)
    for problem in bench.program.problems:
        if (problem.rule_index, problem.rule, problem.part, problem.line) == (
            -1,
            kind.name,
            "behaviour",
            number,
        ):
            form.finding(f"{problem.slot}: {problem.message}" if problem.slot else problem.message)
    for name, slot in entry.slots.items():
        text = behaviour.slots.get(name, slot.default)

        def take(value: object, n: str = name) -> str | None:
            return _set_behaviour(bench, kind, behaviour, n, value)

        target = target_of_behaviour(kind, number, name)
        _slot_field(form, f"behaviour-{number}-{name}", spoken(name), slot, text, take, target)


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
            f"change {spoken(name)} of {spoken(behaviour.use)} of {kind.name}",
            join=f"behaviour {kind.name} {behaviour.use} {name}",
        )
    return problem


def _slot_field(form: Form, name: str, label: str, slot: Slot, text: str, take, target: str = "") -> None:  # type: ignore[no-untyped-def]
    if slot.type in ("number", "seconds"):
        try:
            value = float(text)
        except ValueError:
            line = form.text(label, name, text, take, hint=slot.hint)
            if target:
                TryingMenu(form.bench, line, target)
            return
        row = form.row()
        least = 0.0 if slot.type == "seconds" else -1e6
        spin = form.spin(
            name, slot.help or label, value, take, least=least, step=5.0 if abs(value) >= 20 else 0.1
        )
        row.addWidget(spin)
        if target:
            TryingMenu(form.bench, spin, target)
        slider = slider_beside(form.bench, spin, value)
        row.addWidget(slider)
        row.addWidget(_formula_instead(form, name, label, text, take, (spin, slider), row))
        form.add(label, form.box(row), f"{name}-row", said=label)
        return
    if slot.type == "choice" or slot.kind.presses:
        known = choices(form.bench.program.index, slot)
        form.choice(label, name, text, [(c, c) for c in known], take)
        return
    form.text(label, name, text, take, hint=slot.hint, known=choices(form.bench.program.index, slot))


def _formula_instead(form: Form, name: str, label: str, text: str, take, instead, row) -> QWidget:  # type: ignore[no-untyped-def]
    """Return a small button that puts a line for a formula in the place of a number."""
    line = form.line(f"{name}-formula", f"{label}, as a formula", text, take, hint="a number or a formula")
    line.hide()
    row.addWidget(line)

    def change() -> None:
        for widget in (*instead, button):
            widget.hide()
        line.show()
        line.setFocus()
        line.selectAll()

    button = form.button(
        "formula",
        f"{name}-as-formula",
        change,
        tip=f"Let {label} be a formula that is computed in every tick",
    )
    button.setFont(text_font(-1))
    return button


def slider_beside(  # type: ignore[no-untyped-def]
    bench: Workbench, spin, value: float, least: float | None = None, most: float | None = None
) -> QWidget:
    """Return a slider over a range, or from 0 to about twice the value; the run follows while it is dragged."""
    slider = QSlider(Qt.Orientation.Horizontal)
    scrolls_unless_clicked(slider)
    slider.setObjectName(f"{spin.objectName()}-slider")
    slider.setAccessibleName(spin.accessibleName())
    slider.setRange(0, 200)
    slider.setFixedWidth(120)
    low = 0.0 if least is None else least
    whole = max(abs(value) * 2, 1.0) if most is None else max(most - low, 1e-9)
    slider.setValue(round(200 * ((abs(value) if least is None else value) - low) / whole))
    slider.sliderPressed.connect(bench.begin_live)
    slider.sliderReleased.connect(bench.end_live)
    slider.sliderMoved.connect(lambda at: spin.setValue(round(low + at / 200 * whole, 2)))
    return slider


# an object's own


def own_settings(form: Form, thing: Object, kind: Kind) -> None:
    """Which behaviours an object has on from the start, and its own numbers for them."""
    bench = form.bench
    _of_own_behaviours(form, thing, kind)
    for number, behaviour in enumerate(kind.behaviours):
        entry = CATALOGUE.get(behaviour.use)
        if entry is None:
            continue
        said = spoken(behaviour.use)
        form.heading(said[0].upper() + said[1:])
        on = thing.settings.get(said, True)
        form.check(
            "from the start",
            f"setting-{number}",
            bool(on),
            lambda yes, n=said: _set_setting(bench, thing, n, None if yes else False),
            words="on",
        )
        for name, slot in entry.slots.items():
            if slot.type not in ("number", "seconds"):
                continue
            key = f"{said}: {name}"
            try:
                usual = float(behaviour.slots.get(name, slot.default))
            except ValueError:
                continue
            least = 0.0 if slot.type == "seconds" else -1e6
            _own_number(form, thing, key, name, f"setting-{number}", usual, least)


def _of_own_behaviours(form: Form, thing: Object, kind: Kind) -> None:
    bench = form.bench
    for number, use in enumerate(uses_of(kind, bench.program.index.own_behaviours)):
        section = bench.program.index.own_behaviours.get(use.use)
        if section is None or section.own is None:
            continue
        form.heading(use.use[0].upper() + use.use[1:])
        form.check(
            "from the start",
            f"own-{number}",
            thing.settings.get(use.use, True) is not False,
            lambda yes, n=use.use: _set_setting(bench, thing, n, None if yes else False),
            words="on",
        )
        for setting in section.own.settings:
            usual = use.values.get(setting.name, setting.value)
            if isinstance(usual, bool) or not isinstance(usual, float | int):
                continue
            _own_number(
                form, thing, f"{use.use}: {setting.name}", setting.name, f"own-{number}", float(usual)
            )


def _own_number(
    form: Form, thing: Object, key: str, name: str, prefix: str, usual: float, least: float = -1e6
) -> None:
    """A number among an object's own settings, and a way back to its kind's."""
    row = form.row()
    row.addWidget(
        form.spin(
            f"{prefix}-{name}",
            f"{spoken(name)} of {key.partition(': ')[0]}",
            float(thing.settings.get(key, usual)),
            lambda v: _set_setting(form.bench, thing, key, float(v)),
            least=least,
        )
    )
    if key in thing.settings:
        reset = form.button(
            "own · as its kind",
            f"{prefix}-{name}-reset",
            lambda: _set_setting(form.bench, thing, key, None),
            tip=f"Use the kind's {spoken(name)} again",
        )
        reset.setFont(text_font(-1))
        row.addWidget(reset)
    else:
        row.addWidget(form.label("as its kind"))
    form.labelled(spoken(name), form.box(row))


def _set_setting(bench: Workbench, thing: Object, name: str, value: float | bool | None) -> None:
    settings = {n: v for n, v in thing.settings.items() if n != name}
    if value is not None:
        settings[name] = value
    level = edits.set_object(bench.level, thing.id, settings=settings)
    label = f"let {thing.name} have its kind's {name}" if value is None else f"change {name} of {thing.name}"
    bench.edit(level, label, join=f"{thing.id} setting {name}")
