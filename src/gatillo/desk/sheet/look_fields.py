"""The fields of a kind's looks: each with a name, a drawing or picture, a colour and a size, and which one is shown."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QSize

from gatillo.desk.looks.small_pictures import drawing_icon
from gatillo.desk.session.rename_things import take_name
from gatillo.desk.sheet.form import Chooser, Form, Take
from gatillo.desk.sheet.part_menu import part_button
from gatillo.desk.sheet.picture_field import picture_field
from gatillo.level import thing_edits
from gatillo.level.drawings import DRAWINGS
from gatillo.level.model import Kind, Look
from gatillo.level.naming import free_name, token
from gatillo.level.validation import COLOUR

MOST_SHOWN = 16
"""Rows of the list of drawings that are shown at once."""


def drawing_choice(
    form: Form,
    name: str,
    label: str,
    value: str,
    colour: str,
    none: str,
    take: Take,
) -> Chooser:
    """Return a list of the ready drawings, each with a small picture in a colour; `none` says what no drawing means."""
    options = (("", none), *((drawing, drawing) for drawing in DRAWINGS))
    field = form.combo(name, label, value, options, take)
    field.setIconSize(QSize(18, 18))
    field.setMaxVisibleItems(MOST_SHOWN)
    # a list with a bar of its own, not one as high as the screen
    field.setStyleSheet("combobox-popup: 0;")

    def draw(at: int) -> None:
        if options[at][0]:
            field.setItemIcon(at, drawing_icon(options[at][0], colour))

    # the rest when they are looked at
    draw(max(0, field.currentIndex()))

    def draw_all() -> None:
        for at in range(len(options)):
            draw(at)

    field.opening = draw_all
    return field


def look_fields(form: Form, kind: Kind) -> None:
    """Add the looks of a kind to its page, and the formula that decides between them."""
    form.heading("Looks")
    for at, look in enumerate(kind.looks):
        _fields_of(form, kind, at, look)
    if kind.looks:
        first = kind.looks[0].name
        form.text(
            "shown",
            "shown",
            kind.look,
            lambda text: _put(form, kind, "change which look is shown", look=text),
            hint=f'as rules say; or if({token(kind.name)}.scale > 1, "{first}", "")',
        )
    for problem in form.bench.program.problems:
        if (problem.rule_index, problem.rule, problem.part) == (-1, kind.name, "look"):
            form.finding(problem.message)
    for found in form.bench.shown.findings:
        if (found.rule, found.rule_id, found.part, found.severity) == (kind.name, None, "look", "warning"):
            form.finding(found.message)
    form.buttons(
        form.button(
            "+ look",
            "add-look",
            lambda: _put(form, kind, "add a look", looks=(*kind.looks, _new(kind))),
            tip="Another way to draw its objects, which rules or a formula can show",
        ),
        part_button(form, "looks", kind.name, kind.looks, [look.name for look in kind.looks]),
    )


def _new(kind: Kind) -> Look:
    return Look(name=free_name("look", [look.name for look in kind.looks]), colour=kind.colour)


def _put(form: Form, kind: Kind, label: str, **fields: object) -> None:
    bench = form.bench
    bench.edit(thing_edits.set_kind(bench.level, kind.name, **fields), f"{label} of {kind.name}")


def _fields_of(form: Form, kind: Kind, at: int, look: Look) -> None:
    def put(field: str, label: str) -> Callable[[Any], None]:
        def take(value: Any) -> None:
            changed = replace(look, **{field: value})
            looks = tuple(changed if i == at else other for i, other in enumerate(kind.looks))
            _put(form, kind, f"{label} of the look {look.name}", looks=looks)

        return take

    def colour(text: str) -> str | None:
        if text and not COLOUR.fullmatch(text):
            return f"“{text}” is no colour; write it as #0E6B50"
        put("colour", "change the colour")(text)
        return None

    row = form.row()
    others = [other.name for other in kind.looks if other is not look]
    row.addWidget(
        form.line(
            f"look-{at}-name",
            "look",
            look.name,
            lambda text: take_name(form.bench, "look", look.name, text, others),
        )
    )
    looks = tuple(other for other in kind.looks if other is not look)
    row.addWidget(
        form.remover(
            f"look-{at}-remove",
            f"the look {look.name}",
            lambda: _put(form, kind, "remove a look", looks=looks),
        )
    )
    form.labelled("name", form.box(row))
    said = f"drawing of {look.name}"
    form.add(
        "drawing",
        drawing_choice(
            form,
            f"look-{at}-drawing",
            said,
            look.drawing,
            look.colour or kind.colour,
            "the kind's own",
            put("drawing", "change the drawing"),
        ),
        f"look-{at}-drawing",
        said=said,
    )
    form.text("colour", f"look-{at}-colour", look.colour, colour, wide=False, hint="the kind's own")
    form.number(
        "drawn × size",
        f"look-{at}-scale",
        look.scale,
        put("scale", "change the size"),
        least=0.05,
        most=20.0,
        step=0.1,
    )
    picture_field(
        form,
        "picture",
        f"look-{at}-picture",
        look.picture,
        put("picture", "change the picture"),
        tip=f"A PNG or SVG for the look {look.name}",
    )
