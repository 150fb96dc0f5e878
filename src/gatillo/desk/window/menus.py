"""The menus: every command, its keys and what it does."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QActionGroup, QKeySequence

from gatillo.desk.level_view.overlays import OVERLAYS
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import SUFFIX
from gatillo.level.arranging import align, distribute, group, ungroup

if TYPE_CHECKING:
    from gatillo.desk.window.main_window import MainWindow


def make_actions(window: MainWindow) -> None:
    """Make every command of the window, in its menu."""
    bar = window.menuBar()
    file, edit, level, run, checks, view, help_ = (
        bar.addMenu(n) for n in ("&File", "&Edit", "&Level", "&Run", "&Checks", "&View", "&Help")
    )
    bench = window.bench
    add(window, file, "new", "&New level", window.new_level, QKeySequence.StandardKey.New)
    add(window, file, "start page", "S&tart page", window.show_start, "Ctrl+Shift+O")
    add(window, file, "open", "&Open …", window.open_dialog, QKeySequence.StandardKey.Open)
    studies = file.addMenu("Open a &study")
    for name in study_names():
        title = name.removesuffix(SUFFIX).partition("-")[2].replace("-", " ").capitalize()
        studies.addAction(title).triggered.connect(
            lambda _=False, n=name: window.open_path(study_path(n), study=True)
        )
    file.addSeparator()
    add(window, file, "save", "&Save", window.save, QKeySequence.StandardKey.Save)
    add(window, file, "save as", "Save &as …", window.save_as, "Ctrl+Shift+S")
    file.addSeparator()
    add(window, file, "save kit", "Save a &kit …", window.kits.save)
    add(window, file, "bring kit", "&Bring in a kit …", window.kits.bring_dialog)
    file.addSeparator()
    add(window, file, "close", "&Close", window.close, "Ctrl+Q")

    add(window, edit, "undo", "&Undo", bench.undo, QKeySequence.StandardKey.Undo)
    add(window, edit, "redo", "&Redo", bench.redo, "Ctrl+Shift+Z")

    edit.addSeparator()
    add(window, edit, "cut", "Cu&t the rule", window.cut, QKeySequence.StandardKey.Cut)
    add(
        window,
        edit,
        "copy",
        "&Copy the rule",
        lambda: window.order.writing.copy(),
        QKeySequence.StandardKey.Copy,
    )
    add(
        window,
        edit,
        "paste",
        "&Paste rules",
        lambda: window.order.writing.paste(),
        QKeySequence.StandardKey.Paste,
    )
    add(window, edit, "duplicate", "&Duplicate", window.duplicate, "Ctrl+D", "Duplicate what is selected")
    add(window, edit, "delete", "De&lete", window.delete, "Del", "Delete what is selected")

    add(window, level, "new kind", "New &kind", window.new_kind, "Ctrl+K")
    places = level.addMenu("New &place")
    add(window, places, "new spot", "&Spot", lambda: window.new_place("spot"), "Ctrl+Alt+S")
    add(window, places, "new area", "&Area", lambda: window.new_place("area"), "Ctrl+Alt+A")
    add(window, places, "new route", "&Route", lambda: window.new_place("route"), "Ctrl+Alt+R")
    add(window, level, "new trial", "New &trial", window.new_trial, "Ctrl+Alt+T")
    level.addSeparator()
    add(
        window,
        level,
        "settings",
        "Level &settings and variables",
        lambda: window.show_thing("level", ""),
        "Ctrl+Alt+L",
    )
    add(
        window,
        level,
        "this trial",
        "The trial's keys and e&xpectations",
        lambda: window.show_thing("trial", window.bench.trial.name),
        "Ctrl+Alt+E",
    )
    add(window, level, "index", "&Find in the level", window.find_in_level, "Ctrl+F")
    arrange = level.addMenu("&Arrange objects")
    for edge in ("left", "right", "top", "bottom", "middle across", "middle up"):
        add(
            window,
            arrange,
            f"align {edge}",
            f"Align: {edge}",
            lambda e=edge: window.arranging.arrange(f"align {e}", align, e),
        )
    add(
        window,
        arrange,
        "spread x",
        "Spread evenly across",
        lambda: window.arranging.arrange("spread", distribute, "x"),
    )
    add(
        window,
        arrange,
        "spread y",
        "Spread evenly up",
        lambda: window.arranging.arrange("spread", distribute, "y"),
    )
    add(window, arrange, "row", "Copies in a ro&w …", window.arranging.copies_in_row, "Ctrl+Shift+D")
    add(window, arrange, "ring", "Copies in a r&ing …", window.arranging.copies_in_ring, "Ctrl+Alt+D")
    add(
        window,
        arrange,
        "group objects",
        "&Group",
        lambda: window.arranging.arrange("group", group),
        "Ctrl+Alt+G",
    )
    add(
        window,
        arrange,
        "ungroup objects",
        "&Ungroup",
        lambda: window.arranging.arrange("ungroup", ungroup),
        "Ctrl+Alt+U",
    )
    level.addSeparator()
    writing = window.order_writing
    add(window, level, "new rule", "New r&ule", lambda: writing().new_rule(), "Ctrl+Return")
    add(window, level, "new line", "New l&ine in the rule", lambda: writing().new_line(), "Ctrl+L")
    add(
        window,
        level,
        "new else",
        "New &else line in the rule",
        lambda: writing().new_line(parts=("else",)),
        "Ctrl+Shift+L",
    )
    add(window, level, "new section", "New se&ction", lambda: writing().new_section(), "Ctrl+Shift+Return")
    add(window, level, "negate", "Turn the condition r&ound (not)", lambda: writing().negate(), "Ctrl+B")
    groups = level.addMenu("&Group the condition")
    for name, label, keys in (
        ("any_of", "a&ny of these", "Ctrl+G"),
        ("all_of", "&all of these", "Ctrl+Shift+G"),
        ("none_of", "&none of these", None),
    ):
        add(window, groups, f"group {name}", label, lambda g=name: writing().group(g), keys)
    level.addSeparator()
    add(
        window,
        level,
        "select all",
        "Select &all objects",
        lambda: window.level_view.select_all(),
        "Ctrl+Shift+A",
    )
    level.addSeparator()
    add(window, level, "rename", "Re&name everywhere …", window.rename_everywhere, "F2")
    add(
        window,
        level,
        "rule on",
        "Switch the rule on or &off",
        lambda: window.order.toggle_on(window.order.current),
        "Ctrl+T",
    )
    add(
        window, level, "rule up", "Move the rule or line u&p", lambda: window.order.move_current(-1), "Alt+Up"
    )
    add(
        window,
        level,
        "rule down",
        "Move the rule or line dow&n",
        lambda: window.order.move_current(1),
        "Alt+Down",
    )
    add(
        window,
        level,
        "unfold",
        "&Fold or unfold",
        lambda: window.order.toggle_fold(window.order.current),
        "Ctrl+.",
    )

    add(window, run, "start", "To &start", bench.to_start, "Ctrl+Home", "To the start: the level as laid out")
    add(window, run, "back tick", "&Back a tick", lambda: bench.step_tick(-1), "Ctrl+Left")
    add(window, run, "back firing", "Ba&ck a firing", lambda: bench.step_firing(-1), "Ctrl+Shift+Left")
    add(window, run, "run", "&Run or pause", bench.toggle_run, "Ctrl+R")
    add(window, run, "firing", "A &firing on", lambda: bench.step_firing(1), "Ctrl+Shift+Right")
    add(window, run, "tick", "A &tick on", lambda: bench.step_tick(1), "Ctrl+Right")
    add(window, run, "end", "To &end", bench.to_end, "Ctrl+End")
    run.addSeparator()
    add(
        window,
        run,
        "play keys",
        "&Play by keys and record",
        window.play,
        "Ctrl+P",
        "Play from the cursor by keys; what you press is recorded into the trial",
    )

    add(
        window,
        checks,
        "expect as now",
        "&Expect what is selected to do as it did",
        window.expecting.as_now,
        "Ctrl+Shift+E",
        "A rule: to fire as often as it did. Objects: to stand where they do at the cursor",
    )
    add(window, checks, "next finding", "&Next finding", window.next_finding, "Ctrl+Shift+J")
    add(window, checks, "repair", "&Repair this rule's finding", window.repair_rule, "Ctrl+J")

    shown = view.addMenu("Show &over the level")
    for name, label in OVERLAYS:
        add(window, shown, f"overlay {name}", label, lambda n=name: window._toggle_overlay(n), checkable=True)
    add(window, view, "snap", "S&nap to the grid", window._toggle_snap, "Ctrl+Shift+N", checkable=True)
    view.addSeparator()
    add(window, view, "zoom in", "Wider &ticks", lambda: window.order.zoom(1.5), "Ctrl+Shift++")
    add(window, view, "zoom out", "Narrower t&icks", lambda: window.order.zoom(1 / 1.5), "Ctrl+Shift+-")
    add(
        window,
        view,
        "numbered",
        "Ticks wide enough for the &order of firing",
        lambda: window.order.zoom_to(56.0),
        "Ctrl+1",
    )
    add(window, view, "fit run", "The whole &run", lambda: window.order.fit(), "Ctrl+0")
    add(window, view, "fit level", "The whole &level", lambda: window.level_view.fit(), "Ctrl+9")
    view.addSeparator()
    add(window, view, "show sheet", "&Sheet", window._toggle_sheet, "Ctrl+2", checkable=True)
    add(window, view, "show level", "Le&vel", window._toggle_level, "Ctrl+3", checkable=True)
    view.addSeparator()
    looks = QActionGroup(window)
    for look, label in (
        ("desktop", "Look: as the &desktop"),
        ("light", "Look: l&ight"),
        ("dark", "Look: d&ark"),
    ):
        action = add(
            window,
            view,
            f"look {look}",
            label,
            lambda chosen=look: window.choose_look(chosen),
            checkable=True,
        )
        looks.addAction(action)
    window.actions_["look desktop"].setChecked(True)
    add(window, help_, "tour", "First &steps: a tour", window.begin_tour)
    add(window, help_, "catalogue", "What &rules can be made of", window.show_catalogue, "Ctrl+F1")
    add(window, help_, "find command", "&Find a command", window.find_command, "Ctrl+Shift+F")
    add(window, help_, "keys", "&Keys and pointing", window.show_keys, "F1")
    add(window, help_, "about", "&About Gatillo", window.show_about)


def add(
    window: MainWindow,
    menu: object,
    name: str,
    label: str,
    deed: Callable[..., object],
    keys: object = None,
    tip: str = "",
    *,
    checkable: bool = False,
) -> QAction:
    action = QAction(window.tr(label), window)
    action.setCheckable(checkable)
    action.triggered.connect(lambda _=False: deed())
    if keys is not None:
        action.setShortcut(QKeySequence(keys))  # type: ignore[call-overload]
    action.setToolTip(tip or label.replace("&", "").replace(" …", ""))
    menu.addAction(action)  # type: ignore[attr-defined]
    window.actions_[name] = action
    return action
