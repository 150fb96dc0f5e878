"""Own behaviours in the sheet: what a section that is one has, and what a kind has of them."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from gatillo.desk.looks.plain import Words
from gatillo.desk.looks.theme import text_font
from gatillo.desk.session.rename_things import delete_thing
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.behaviour_fields import slider_beside
from gatillo.desk.sheet.form import Form
from gatillo.desk.sheet.trying_menu import TryingMenu
from gatillo.desk.sheet.variable_fields import STARTS, TYPES, value_field
from gatillo.formula.values import write_out
from gatillo.inspect.sweep.targets import target_of_own
from gatillo.language.own_behaviours import rename_behaviour, rename_setting
from gatillo.level import own_edits
from gatillo.level.model import Kind, OwnBehaviour, OwnSetting, OwnUse, Section, Value
from gatillo.level.naming import name_problem
from gatillo.level.own_behaviours import uses_of
from gatillo.level.roles import type_of

SETTING_TYPES = tuple((type_, said) for type_, said in TYPES if type_ != "object")


# a section that is one


def own_behaviour_fields(form: Form, section: Section) -> None:
    """The sentence and the settings of an own behaviour, and the kinds that have it; for a plain section, a button to make it one."""
    bench, own = form.bench, section.own
    if own is None:
        form.heading("Own behaviour")
        form.words(
            "Made an own behaviour, these rules can be given to any kind, with settings. In them “self” is each object "
            "that has it."
        )
        form.buttons(
            form.button("Make it an own behaviour", "make-own", lambda: _make(bench, section.name)),
        )
        return
    form.heading("An own behaviour")
    form.words("In its rules “self” is each object that has it: “self touches Lamp”, “self.speed * dt”.")
    form.text(
        "sentence",
        "sentence",
        own.sentence,
        lambda text: bench.edit(
            own_edits.set_own(bench.level, section.name, sentence=text),
            f"change the sentence of “{section.name}”",
        ),
        hint="flutters at {speed}",
    )
    form.heading("Its settings")
    for number, setting in enumerate(own.settings):
        _setting_row(form, section.name, number, setting, [s.name for s in own.settings])
    form.buttons(form.button("+ setting", "add-setting", lambda: _add(bench, section.name)))
    form.heading("Kinds that have it")
    form.text(
        "by tags",
        "tags",
        ", ".join(own.tags),
        lambda text: _take_tags(bench, section.name, text),
        hint="all kinds with a tag: seed, ripe",
        known=list(bench.program.index.tags),
    )
    by_tag = {*own.tags}
    for kind in bench.level.kinds:
        if kind.scenery:
            continue
        has = any(use.use == section.name for use in kind.own)
        tagged = sorted(by_tag.intersection(kind.tags))
        form.check(
            kind.name,
            f"has-{kind.name}",
            has,
            lambda yes, k=kind: _give(bench, k, section.name, yes),
            words=f"has it by its tag {tagged[0]}" if tagged and not has else "",
        )
    form.buttons(
        form.button(
            "Make it a plain section",
            "unmake-own",
            lambda: _unmake(bench, section.name),
            tip="No kind has it then",
        )
    )


def take_behaviour_name(bench: Workbench, old: str, new: str, taken: list[str]) -> str | None:
    """Rename an own behaviour and follow it with the selection; a sentence if the name will not do."""
    problem = name_problem(new)
    if problem:
        return problem
    if new != old and new in taken:
        return f"“{new}” is taken; choose another name"
    bench.document.selection = Selection(thing=Thing("section", new))
    bench.edit(rename_behaviour(bench.level, old, new), f"rename {old} to {new}")
    return None


def _take_tags(bench: Workbench, name: str, text: str) -> str | None:
    tags = tuple(dict.fromkeys(t.strip() for t in text.split(",") if t.strip()))
    problem = next((p for t in tags if (p := name_problem(t))), None)
    if problem is None and name in tags:
        problem = f"“{name}” is the behaviour itself; give it another tag"
    if problem is None:
        bench.edit(own_edits.set_own(bench.level, name, tags=tags), f"change which kinds have “{name}”")
    return problem


def _make(bench: Workbench, name: str) -> None:
    problem = name_problem(name)
    if problem:
        bench.notify(f"Give it another name first: {problem}.")
        return
    bench.edit(own_edits.make_own(bench.level, name), f"make “{name}” an own behaviour")


def _unmake(bench: Workbench, name: str) -> None:
    bench.edit(own_edits.unmake_own(bench.level, name), f"make “{name}” a plain section")


def _add(bench: Workbench, name: str) -> None:
    level, setting = own_edits.add_setting(bench.level, name)
    bench.edit(level, f"add the setting {setting}")


def _give(bench: Workbench, kind: Kind, name: str, yes: bool) -> None:
    if yes:
        bench.edit(own_edits.give_own(bench.level, kind.name, name), f"let {kind.name} have “{name}”")
    else:
        bench.edit(own_edits.take_own(bench.level, kind.name, name), f"take “{name}” from {kind.name}")


def _setting_row(form: Form, behaviour: str, number: int, setting: OwnSetting, names: list[str]) -> None:
    bench, row = form.bench, form.row()

    def rename(text: str) -> str | None:
        problem = name_problem(text)
        if problem:
            return problem
        if text != setting.name and text in names:
            return f"“{text}” is taken; choose another name"
        level = rename_setting(bench.level, behaviour, setting.name, text)
        bench.edit(level, f"rename {setting.name} to {text}")
        return None

    def put(label: str, **fields: object) -> None:
        level = own_edits.change_setting(bench.level, behaviour, setting.name, **fields)
        bench.edit(level, f"{label} of {setting.name}", join=f"setting {behaviour} {setting.name}")

    name = form.line(f"setting-{number}-name", f"name of setting {setting.name}", setting.name, rename)
    name.setFixedWidth(110)
    row.addWidget(name)
    row.addWidget(
        form.combo(
            f"setting-{number}-type",
            f"type of {setting.name}",
            type_of(setting.value),
            SETTING_TYPES,
            lambda chosen: put("change the type", value=STARTS[chosen], least=None, most=None),
        )
    )
    row.addWidget(
        value_field(
            form,
            f"setting-{number}-value",
            f"usual {setting.name}",
            setting.value,
            lambda value: put("change the value", value=value),
        )
    )

    def delete() -> None:
        kept = bench.selection
        level = own_edits.delete_setting(bench.level, behaviour, setting.name)
        delete_thing(bench, "kind variable", f"{behaviour} {setting.name}", level)
        bench.select(kept)

    row.addWidget(form.remover(f"setting-{number}-remove", f"the setting {setting.name}", delete))
    form.column.addWidget(form.box(row))
    if type_of(setting.value) != "number":
        return
    bounds = form.row()
    for field, words in (("least", "from"), ("most", "to")):
        bounds.addWidget(form.label(words))
        given = getattr(setting, field)
        bounds.addWidget(
            form.line(
                f"setting-{number}-{field}",
                f"{field} {setting.name}",
                "" if given is None else f"{given:g}",
                lambda text, f=field: _put_bound(put, setting, f, text),
                hint="any",
            )
        )
    form.column.addWidget(form.box(bounds))


def _put_bound(put, setting: OwnSetting, field: str, text: str) -> str | None:  # type: ignore[no-untyped-def]
    if not text.strip():
        put("change the range", **{field: None})
        return None
    try:
        value = float(text)
    except ValueError:
        return "write a number, or nothing for any"
    least, most = (value, setting.most) if field == "least" else (setting.least, value)
    if least is not None and most is not None and least > most:
        return f"the least, {least:g}, would be above the most, {most:g}"
    put("change the range", **{field: value})
    return None


# a kind


def kinds_own_fields(form: Form, kind: Kind) -> None:
    """The own behaviours that a kind has, with their settings, and a choice of another."""
    bench = form.bench
    own = bench.program.index.own_behaviours
    for number, use in enumerate(kind.own):
        _use(form, kind, number, use, own.get(use.use))
    by_tag = uses_of(kind, own)[len(kind.own) :]
    for number, use in enumerate(by_tag):
        _use_by_tag(form, kind, number, use.use)
    free = [(name, name) for name in own if all(use.use != name for use in (*kind.own, *by_tag))]
    if free:
        form.choice(
            "own behaviour",
            "add-own",
            "",
            (("", "give it another …"), *free),
            lambda name: _give(bench, kind, name, True) if name else None,
        )


def _use_by_tag(form: Form, kind: Kind, number: int, name: str) -> None:
    """A row for an own behaviour that a kind has by a tag: it can get settings of its own."""
    bench, row = form.bench, form.row()
    title = Words(name)
    title.setFont(text_font(0, bold=True))
    row.addWidget(title)
    row.addWidget(form.label("by its tag"))
    row.addWidget(
        form.button(
            "its rules",
            f"tagged-{number}-open",
            lambda: bench.select(Selection(thing=Thing("section", name))),
            tip="Go to the own behaviour",
        )
    )
    row.addWidget(
        form.button(
            "own settings",
            f"tagged-{number}-give",
            lambda: _give(bench, kind, name, True),
            tip=f"Let {kind.name} have settings of its own for it",
        )
    )
    form.column.addWidget(form.box(row))


def _use(form: Form, kind: Kind, number: int, use: OwnUse, section: Section | None) -> None:
    bench, head = form.bench, form.row()
    title = Words(use.use)
    title.setFont(text_font(0, bold=True))
    head.addWidget(title)
    head.addWidget(
        form.button(
            "its rules",
            f"own-{number}-open",
            lambda: bench.select(Selection(thing=Thing("section", use.use))),
            tip="Go to the own behaviour",
        )
    )
    head.addWidget(
        form.remover(
            f"own-{number}-remove",
            f"the own behaviour {use.use}",
            lambda: _give(bench, kind, use.use, False),
        )
    )
    form.column.addWidget(form.box(head))
    line = len(kind.behaviours) + number
    for problem in bench.program.problems:
        at = (problem.rule_index, problem.rule, problem.part, problem.line)
        if at == (-1, kind.name, "behaviour", line):
            form.finding(problem.message)
    if section is None or section.own is None:
        return
    if section.own.sentence:
        form.words(_filled(section.own, use))
    for setting in section.own.settings:
        _use_setting(form, kind, number, use, setting)


def _filled(own: OwnBehaviour, use: OwnUse) -> str:
    """Return the sentence of an own behaviour with a kind's values in the places of its settings."""
    sentence = own.sentence
    for setting in own.settings:
        value = use.values.get(setting.name, setting.value)
        said = write_out(complex(*value) if isinstance(value, tuple) else value)
        sentence = sentence.replace(f"{{{setting.name}}}", str(said))
    return sentence


def _use_setting(form: Form, kind: Kind, number: int, use: OwnUse, setting: OwnSetting) -> None:
    bench, name = form.bench, f"own-{number}-{setting.name}"
    value = use.values.get(setting.name, setting.value)

    def take(new: Value | None) -> None:
        level = own_edits.set_use(bench.level, kind.name, use.use, setting.name, new)
        bench.edit(
            level,
            f"change {setting.name} of {use.use} of {kind.name}",
            join=f"own {kind.name} {use.use} {setting.name}",
        )

    row = form.row()
    label = f"{setting.name} of {use.use}"
    field: QWidget
    if isinstance(value, float | int) and not isinstance(value, bool):
        spin = form.spin(
            name,
            label,
            float(value),
            take,
            least=-1e6 if setting.least is None else setting.least,
            most=1e6 if setting.most is None else setting.most,
            step=5.0 if abs(value) >= 20 else 0.1,
        )
        field = spin
        row.addWidget(spin)
        TryingMenu(bench, spin, target_of_own(kind.name, use.use, setting.name))
        row.addWidget(slider_beside(bench, spin, float(value), setting.least, setting.most))
    else:
        field = value_field(form, name, label, value, take)
        row.addWidget(field)
    if setting.name in use.values:
        reset = form.button(
            "as usual", f"{name}-reset", lambda: take(None), tip=f"Use the behaviour's own {setting.name}"
        )
        reset.setFont(text_font(-1))
        row.addWidget(reset)
    form.labelled(setting.name, form.box(row))
