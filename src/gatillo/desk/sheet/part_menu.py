"""The button beside a list of parts (variables, behaviours, expectations …): copying all or one of them, and pasting."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QApplication, QMenu, QPushButton

from gatillo.desk.sheet.form import Form
from gatillo.files import pasting
from gatillo.files.pasting import Part


def part_button(
    form: Form, part: Part, owner: str, items: Sequence[Any], names: Sequence[str]
) -> QPushButton:
    """Return a button with a menu that copies parts of a kind or a trial, and pastes such parts.

    `owner` is the kind or trial by name, "" for the level; `names` say what each of the items is called.
    """
    button = form.button(
        "Copy …", f"copy-{part}", lambda: None, tip=f"Copy {part}, or paste some that were copied"
    )
    # the menu is made when it is opened: the clipboard may have changed
    button.clicked.disconnect()
    button.clicked.connect(lambda: _menu(form, button, part, owner, items, names).popup(_below(button)))
    return button


def _below(button: QPushButton) -> QPoint:
    return button.mapToGlobal(button.rect().bottomLeft())


def _menu(
    form: Form, button: QPushButton, part: Part, owner: str, items: Sequence[Any], names: Sequence[str]
) -> QMenu:
    bench = form.bench
    menu = QMenu(button)
    menu.setObjectName(f"copy-{part}-menu")

    def copy(chosen: tuple[Any, ...]) -> None:
        copied = pasting.copied_parts(bench.level, part, owner, chosen)
        QApplication.clipboard().setText(pasting.as_text(copied))
        bench.notify(f"{pasting.counted(copied).capitalize()} copied.")

    if len(items) > 1:
        menu.addAction(f"Copy all {len(items)} {part}", lambda: copy(tuple(items)))
    for item, name in zip(items, names, strict=True):
        action = menu.addAction(f"Copy {name}".replace("&", "&&"))
        action.triggered.connect(lambda _=False, one=item: copy((one,)))
    if items:
        menu.addSeparator()
    try:
        copied = pasting.from_text(QApplication.clipboard().text())
    except ValueError:
        copied = None
    fits = copied is not None and copied.sort == part
    paste = menu.addAction(f"Paste {pasting.counted(copied)}" if fits and copied else f"Paste {part}")
    paste.setEnabled(fits)
    if fits and copied is not None:
        found = copied
        paste.triggered.connect(lambda: _paste(form, found, owner))
    return menu


def _paste(form: Form, copied: pasting.Copied, owner: str) -> None:
    bench = form.bench
    try:
        pasted = pasting.paste(bench.level, copied, onto=owner)
    except ValueError as error:
        bench.notify(str(error))
        return
    bench.edit(pasted.level, pasted.label)
