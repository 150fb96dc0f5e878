"""The menus, made from the table of commands."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtGui import QAction, QActionGroup, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu

from gatillo.desk.looks import plain
from gatillo.desk.window.commands import STUDIES, Run, bound
from gatillo.examples import example_names
from gatillo.files.level_file import SUFFIX


def make_menus(
    window: QMainWindow, runs: Mapping[str, Run], open_study: Callable[[str], object]
) -> dict[str, QAction]:
    """Put every command into its menu; by its name the action that stands for it."""
    menus: dict[str, QMenu] = {}
    groups: dict[str, QActionGroup] = {}
    made: dict[str, QAction] = {}
    for command, run in bound(runs):
        menu = _menu(window, menus, command.menu)
        if command.parted:
            menu.addSeparator()
        action = made[command.name] = QAction(window.tr(command.label), window)
        action.setCheckable(command.checkable)
        action.triggered.connect(lambda _=False, r=run: r())
        if command.keys is not None:
            action.setShortcut(QKeySequence(command.keys))
        action.setToolTip(plain.tip(command.tip or command.plain))
        if command.one_of:
            groups.setdefault(command.one_of, QActionGroup(window)).addAction(action)
        menu.addAction(action)
        if command.name == "open":
            _add_studies(_menu(window, menus, STUDIES), open_study)
    return made


def _menu(window: QMainWindow, menus: dict[str, QMenu], path: str) -> QMenu:
    """The menu at a path, made when it is first asked for."""
    if path not in menus:
        above, _, label = path.rpartition("/")
        menus[path] = (_menu(window, menus, above) if above else window.menuBar()).addMenu(window.tr(label))
    return menus[path]


def _add_studies(menu: QMenu, open_study: Callable[[str], object]) -> None:
    for name in example_names():
        title = name.removesuffix(SUFFIX).lstrip("0123456789-").replace("-", " ").capitalize()
        menu.addAction(title).triggered.connect(lambda _=False, n=name: open_study(n))
