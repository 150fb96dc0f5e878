"""A field for a picture: choosing a file, and removing it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from gatillo.desk.looks.picture_import import SIDE, import_picture
from gatillo.desk.sheet.form import Form


def picture_field(
    form: Form,
    label: str,
    name: str,
    value: str,
    take: Callable[[str], object],
    *,
    tip: str,
    side: int = SIDE,
) -> None:
    """Put the field into a form; `side` is of the longer side, in pixels, as it is kept."""

    def choose() -> None:
        path, _ = QFileDialog.getOpenFileName(
            None, "A picture for it", str(Path.home()), "Pictures (*.png *.svg)"
        )
        if not path:
            return
        bench = form.bench

        def read(job: object) -> str | ValueError:
            try:
                return import_picture(Path(path), side)
            except ValueError as error:
                return error

        def brought(found: str | ValueError) -> None:
            if isinstance(found, ValueError):
                bench.notify(f"{found}.")
            else:
                take(found)

        bench.pictures.ask(read, brought)

    row = form.row()
    row.addWidget(form.button("From a file …", f"{name}-choose", choose, tip=tip))
    if value:
        row.addWidget(form.remover(f"{name}-remove", "the picture", lambda: take("")))
    form.add(label, form.box(row), name)
