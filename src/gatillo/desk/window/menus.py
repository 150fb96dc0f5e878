"""The menus, made from the table of commands."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial

from PySide6.QtGui import QAction, QActionGroup, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu

from gatillo.desk.looks import plain
from gatillo.desk.window.commands import STUDIES, Run, bound
from gatillo.desk.window.needs import Need
from gatillo.examples import example_names
from gatillo.files.level_file import SUFFIX


def make_menus(
    window: QMainWindow,
    runs: Mapping[str, Run],
    needs: Mapping[str, Need],
    open_study: Callable[[str], object],
    say: Callable[[str], object],
) -> dict[str, QAction]:
    """Put every command into its menu and return its action by name.

    While a menu is open, commands whose need is not met are greyed, and their tooltips say what to do. At all other
    times they are enabled: one that is called by its keys or in the finder and whose need is not met only calls
    `say` with that sentence.
    """
    menus: dict[str, QMenu] = {}
    greyed: dict[str, list[_Greyed]] = {}
    groups: dict[str, QActionGroup] = {}
    made: dict[str, QAction] = {}
    for command, run in bound(runs):
        menu = _menu(window, menus, command.menu)
        if command.parted:
            menu.addSeparator()
        action = made[command.name] = QAction(window.tr(command.label), window)
        action.setCheckable(command.checkable)
        action.triggered.connect(_runner(run, needs[command.needs], say))
        if command.keys is not None:
            action.setShortcut(QKeySequence(command.keys))
        words = command.tip or command.plain
        action.setToolTip(plain.tip(words))
        if command.needs:
            greyed.setdefault(command.menu, []).append(_Greyed(action, words, needs[command.needs]))
        if command.one_of:
            groups.setdefault(command.one_of, QActionGroup(window)).addAction(action)
        menu.addAction(action)
        if command.name == "open":
            _add_studies(_menu(window, menus, STUDIES), open_study)
    for path, entries in greyed.items():
        menus[path].aboutToShow.connect(partial(_grey, entries))
        menus[path].aboutToHide.connect(partial(_enable, entries))
    return made


def _runner(run: Run, need: Need, say: Callable[[str], object]) -> Callable[[], None]:
    """Return a function that runs a command where its need is met, and says what to do where it is not."""

    def checked() -> None:
        if need.met():
            run()
        else:
            say(need.otherwise)

    return checked


@dataclass(frozen=True, slots=True)
class _Greyed:
    """A command that is greyed while its need is not met."""

    action: QAction
    words: str
    need: Need


def _grey(entries: list[_Greyed]) -> None:
    for entry in entries:
        met = entry.need.met()
        entry.action.setEnabled(met)
        entry.action.setToolTip(plain.tip(entry.words if met else entry.need.otherwise))


def _enable(entries: list[_Greyed]) -> None:
    for entry in entries:
        entry.action.setEnabled(True)
        entry.action.setToolTip(plain.tip(entry.words))


def _menu(window: QMainWindow, menus: dict[str, QMenu], path: str) -> QMenu:
    """Return the menu at a path; make it at the first call."""
    if path not in menus:
        above, _, label = path.rpartition("/")
        menus[path] = (_menu(window, menus, above) if above else window.menuBar()).addMenu(window.tr(label))
        menus[path].setToolTipsVisible(True)
    return menus[path]


def _add_studies(menu: QMenu, open_study: Callable[[str], object]) -> None:
    for name in example_names():
        title = name.removesuffix(SUFFIX).lstrip("0123456789-").replace("-", " ").capitalize()
        menu.addAction(title).triggered.connect(lambda _=False, n=name: open_study(n))
