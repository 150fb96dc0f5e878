"""The main window: menus, run bar, and three regions: level, sheet, order."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QByteArray, QEvent, QObject, QPoint, QSettings, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QKeyEvent, QKeySequence, QShowEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QDialog,
    QFrame,
    QMainWindow,
    QMenu,
    QMessageBox,
    QSplitter,
    QStackedWidget,
    QToolBar,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from gatillo import __version__
from gatillo.desk.graph_view.page import GraphPage
from gatillo.desk.level_view.overlays import OVERLAYS
from gatillo.desk.level_view.placement_tools import TOOLS
from gatillo.desk.level_view.scenery_painter import scenery_of
from gatillo.desk.level_view.shelf import Shelf
from gatillo.desk.level_view.view import LevelView
from gatillo.desk.looks import plain
from gatillo.desk.looks.icons import icon
from gatillo.desk.looks.plain import ShortWords
from gatillo.desk.looks.theme import choose_theme, look_signals, theme
from gatillo.desk.order_list.view import OrderView
from gatillo.desk.session.idle_collector import IdleCollector
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.stops import Stops
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.sheet import Sheet
from gatillo.desk.start.start_page import StartPage
from gatillo.desk.window.arrange_commands import ArrangeCommands
from gatillo.desk.window.ask_commands import AskCommands
from gatillo.desk.window.ask_dialogs import Questions
from gatillo.desk.window.command_finder import CommandFinder
from gatillo.desk.window.commands import Run
from gatillo.desk.window.expectation_commands import ExpectationCommands
from gatillo.desk.window.field_undo import FieldUndo
from gatillo.desk.window.file_commands import FileCommands
from gatillo.desk.window.graph_menu import GraphMenu
from gatillo.desk.window.help_pages import CataloguePage, Tour
from gatillo.desk.window.keyboard_commands import KeyboardCommands
from gatillo.desk.window.keys_dialog import KeysDialog, chosen_keys
from gatillo.desk.window.kit_commands import KitCommands
from gatillo.desk.window.layout_commands import LayoutCommands
from gatillo.desk.window.logic_commands import LogicCommands
from gatillo.desk.window.menus import make_menus
from gatillo.desk.window.message_bar import MessageBar
from gatillo.desk.window.needs import needs_of
from gatillo.desk.window.panes import Pane, shows_and_hides
from gatillo.desk.window.region import WAYS, Region
from gatillo.desk.window.run_bar import RunBar
from gatillo.desk.window.selection_commands import SelectionCommands
from gatillo.desk.window.thing_commands import ThingCommands
from gatillo.desk.window.version_commands import VersionCommands
from gatillo.examples import study_path
from gatillo.examples.starters import STARTERS
from gatillo.files.kept_takes import Take
from gatillo.files.level_file import SUFFIX
from gatillo.kernels import SENTENCE
from gatillo.sim.run.run import Cursor

if TYPE_CHECKING:
    from gatillo.desk.trials.trials_page import TrialsPage

LOOKS = ("desktop", "light", "dark")
FILTER = f"Levels (*{SUFFIX})"

NARROW_SHEET = 360
"""How wide the sheet is at first beside a level and a graph."""
GRAPH_SHARE = 0.64
"""Which part of the height a graph has at first, beside the order list."""


class MainWindow(QMainWindow):
    """One level on the desk."""

    def __init__(self, bench: Workbench, settings: QSettings | None = None) -> None:
        super().__init__()
        self.bench: Workbench = bench
        bench.setParent(self)
        self.settings = settings or QSettings("gatillo", "gatillo")
        questions = Questions(self)
        self.ask_name: Callable[[str], str | None] = questions.name
        self.ask_text: Callable[[str, str], str | None] = questions.text
        self.tour: Tour | None = None
        self.message = MessageBar()
        self.files = FileCommands(bench, self.settings, self)
        self.files.shown.connect(self._shown_anew)
        self.kits = KitCommands(bench, self)
        self.arranging = ArrangeCommands(bench, self)
        self.expecting = ExpectationCommands(bench)
        self.graph_page = GraphPage(bench, self)
        self.level_view = LevelView(bench)
        self.shelf = Shelf(bench, self.level_view.tools, self.level_view.objects)
        self.order: OrderView = OrderView(bench)
        self.sheet = Sheet(bench)
        self.run_bar = RunBar(bench)
        self.start_page = StartPage(self.files.recent)
        self._lines: list[QFrame] = []
        self.region = self._make_region()
        self.panes = self._make_panes()
        self.logic = LogicCommands(bench, self.region.open_graph, self)
        self.stops = Stops(bench, self.settings)
        self.asking = AskCommands(
            bench, self.stops, lambda *words: self.ask_text(*words), questions.one_of, questions.file
        )
        self.layouts = LayoutCommands(bench, self)
        self.versions = VersionCommands(bench, questions.one_of, questions.file)
        bench.answers.changed.connect(self.versions.on_level)
        tools, objects = self.level_view.tools, self.level_view.objects
        self.things = ThingCommands(bench, self.sheet, tools, objects, self.level_view.setFocus)
        self.editing = SelectionCommands(
            bench,
            self.order.writer,
            objects,
            self.graph_page,
            keyboard=lambda: (
                "order" if self.order.hasFocus() else "level" if self.level_view.hasFocus() else ""
            ),
            shows_graph=lambda: self.region.shows_graph,
            remove_bar=self.order.bars.remove,
            type_name=self.things.type_name,
            ask_name=lambda old: self.ask_name(old),
            paste_at=self.level_view.paste_point,
        )
        self.keyboard = KeyboardCommands(
            bench, self.things.put_in_middle, [pane.widget for pane in self.panes if pane.focusable]
        )
        self.graph_menu = GraphMenu(bench, self.graph_page, self.region)
        self.actions_: dict[str, QAction] = make_menus(
            self,
            self._runs(),
            needs_of(bench, self.graph_page, lambda: self.region.shows_graph),
            self._open_study,
            bench.notify,
        )
        self.level_view.ends_play = self._ends_play
        bench.player.values_wanted = lambda: self.region.shows_graph and self.graph_page.has_values
        self.field_undo = FieldUndo(self)
        self.collector = IdleCollector(bench)
        self.run_bar.fill(self.actions_)
        self.shelf.newKindWanted.connect(self.things.new_kind)
        self._lay_out()
        self.order.graphWanted.connect(self.region.open_graph)
        for view in (self.order.viewport(), self.graph_page.view):
            self.stops.changed.connect(view.update)
        self.order.asked.connect(self.asking.why)
        self.order.newWanted.connect(self._add_at_end)
        self.order.menuWanted.connect(self.show_menu)
        self.order.markedPair.connect(self._offer_between)
        self.level_view.menuWanted.connect(self.show_menu)
        self._heights: dict[bool, list[int]] = {}
        """For the level and for a graph: how the window is parted between it and the order list."""
        self._widths: dict[bool, list[int]] = {}
        """Without and with a graph: how the upper half is parted between the region and the sheet."""
        self._showed_graph = False
        self.region.changed.connect(self._on_region)
        self.actions_["look desktop"].setChecked(True)
        for signal in look_signals():
            signal.connect(self._on_desktop_look)
        self.actions_["graph beside"].setChecked(True)
        room = self.screen().availableSize()
        self.resize(min(1280, room.width()), min(800, room.height()))
        bench.fileChanged.connect(self._on_file)
        bench.levelChanged.connect(self._on_level)
        bench.runningChanged.connect(self._on_running)
        bench.notified.connect(self.message.say)
        bench.document.replaced.connect(self.message.hide)
        bench.awaitsFile.connect(self._on_awaits_file)
        bench.changedOnDisk.connect(self._on_changed_on_disk)
        bench.goneFromDisk.connect(self._on_gone_from_disk)
        bench.takes.ended.connect(self._on_take)
        bench.tryWanted.connect(self.try_values)
        self._on_file()
        self._on_level()
        self._restore()
        self.order.setFocus()

    def _add_at_end(self, command: str) -> None:
        """Add a graph or a section at the end of the order list."""
        self.bench.select(Selection())
        self.actions_[command].trigger()

    def _runs(self) -> dict[str, Run]:
        """Return every command by name, with what it does."""
        bench, order, writer, level_view = self.bench, self.order, self.order.writer, self.level_view
        rows = order.state
        return {
            **self.files.runs(),
            **self.kits.runs(),
            **self.arranging.runs(),
            **self.expecting.runs(),
            **self.logic.runs(),
            **self.keyboard.runs(),
            **self.graph_menu.runs(),
            **self.asking.runs(),
            **self.versions.runs(),
            **self.layouts.runs(),
            **self.things.runs(),
            **self.editing.runs(),
            "start page": self.show_start,
            "close": self.close,
            "undo": bench.document.undo,
            "redo": bench.document.redo,
            "new rule": writer.new_rule,
            "new line": writer.new_line,
            "new else": lambda: writer.new_line(parts=("else",)),
            "new section": writer.new_section,
            "negate": writer.negate,
            "group any_of": lambda: writer.group("any_of"),
            "group all_of": lambda: writer.group("all_of"),
            "group none_of": lambda: writer.group("none_of"),
            "rule on": lambda: rows.toggle_on(rows.current),
            "rule up": lambda: writer.move_current(-1),
            "rule down": lambda: writer.move_current(1),
            "unfold": lambda: rows.toggle_fold(rows.current),
            "start": bench.moment.to_start,
            "back tick": lambda: bench.moment.step_tick(-1),
            "back firing": lambda: bench.moment.step_firing(-1),
            "run": bench.player.toggle_run,
            "firing": lambda: bench.moment.step_firing(1),
            "back step": lambda: bench.moment.step_within(-1),
            "step": lambda: bench.moment.step_within(1),
            "tick": lambda: bench.moment.step_tick(1),
            "end": bench.moment.to_end,
            "play keys": self.play,
            "play start": lambda: self.play(0),
            "play again": self.play_again,
            "play mark": lambda: self.play(bench.stretch[0] if bench.stretch is not None else None),
            "loop": self.loop,
            "try values": lambda: self.try_values(order.number_now()),
            "trials": self.show_trials,
            "split bar": self._split_bar,
            "keep script": bench.keep_take_as_script,
            "keep trial": bench.keep_take_as_trial,
            "show script": bench.show_script,
            **{f"overlay {name}": partial(self._toggle_overlay, name) for name, _ in OVERLAYS},
            "tall sheet": self._stretch_sheet,
            "follow": level_view.follow_selected,
            "snap": self._toggle_snap,
            "zoom in": lambda: order.zoom(1.5),
            "zoom out": lambda: order.zoom(1 / 1.5),
            "numbered": lambda: order.zoom_to(56.0),
            "fit run": order.fit,
            "fit level": level_view.fit,
            **shows_and_hides(self.panes, self._on_shown),
            **{f"graph {way}": partial(self._stand_graph, way) for way in WAYS},
            **{f"look {look}": partial(self.choose_look, look) for look in LOOKS},
            "high contrast": lambda: self.choose_look(self.look, self.actions_["high contrast"].isChecked()),
            "tour": self.begin_tour,
            "catalogue": self.show_catalogue,
            "find command": self.find_command,
            "keys": self.show_keys,
            "about": self.show_about,
        }

    # building

    def _make_region(self) -> Region:
        """Make the pane with the level, its tools and its shelf, or a graph."""
        self.level_note = ShortWords()
        self.level_note.setObjectName("quiet")
        # what has no room in a narrow window unfolds at its end
        tools = self.tools = QToolBar()
        tools.setObjectName("tools")
        self.tool_buttons: dict[str, QToolButton] = {}
        for tool, label, tip in TOOLS:
            button = QToolButton()
            button.setObjectName("tool")
            button.setText(label)
            button.setToolTip(plain.tip(tip))
            button.setAccessibleName(f"Tool: {label}. {tip}")
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, t=tool: self.level_view.tools.choose(t))
            tools.addWidget(button)
            self.tool_buttons[tool] = button
        self.level_view.tools.toolChanged.connect(self._on_tool)
        self._on_tool()

        self.level_page = QWidget()
        column = QVBoxLayout(self.level_page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.level_view, 1)
        column.addWidget(self._line())
        column.addWidget(self.shelf)
        self.trials_holder = QWidget()
        self._trials_column = QVBoxLayout(self.trials_holder)
        self._trials_column.setContentsMargins(0, 0, 0, 0)
        return Region(self.level_page, tools, self.level_note, self.graph_page, self.trials_holder)

    @cached_property
    def trials_page(self) -> TrialsPage:
        """The page of all trials, made when it is wanted first: it takes as long as a tenth of the window."""
        from gatillo.desk.trials.trials_page import TrialsPage

        page = TrialsPage(self.bench)
        self._trials_column.addWidget(page)
        self.trials_holder.setFocusProxy(page.table)
        return page

    def _restyle_trials(self) -> None:
        if "trials_page" in self.__dict__:
            self.trials_page.restyle()

    def _make_panes(self) -> tuple[Pane, ...]:
        order, graph = self.order, self.graph_page.view

        def restyle_order() -> None:
            order.geometry_.words.forget()
            order.viewport().update()

        return (
            Pane("run bar", self.run_bar, "above", self.run_bar.restyle),
            Pane("region", self.region, "beside", self.region.restyle, focusable=False, command="show level"),
            Pane("level", self.level_view, "within", self.level_view.update),
            Pane("graph", graph, "within", graph.update),
            Pane("trials", self.trials_holder, "within", self._restyle_trials),
            Pane("shelf", self.shelf, "within", lambda: self.shelf.rebuild(anew=True)),
            Pane("sheet", self.sheet, "beside", self.sheet.rebuild, command="show sheet"),
            Pane("order list", order, "below", restyle_order),
            Pane("start page", self.start_page, "within", self.start_page.restyle, focusable=False),
            Pane("messages", self.message, "within", self.message.restyle, focusable=False),
        )

    def _lay_out(self) -> None:
        self.upper = QSplitter(Qt.Orientation.Horizontal)
        self.whole = QSplitter(Qt.Orientation.Vertical)
        self.whole.addWidget(self.upper)
        for pane in self.panes:
            if pane.place in ("beside", "below"):
                (self.upper if pane.place == "beside" else self.whole).addWidget(pane.widget)
        self.upper.setStretchFactor(0, 1)
        self.upper.setSizes([812, 468])
        self.upper.setHandleWidth(1)
        self.upper.setChildrenCollapsible(False)

        self.whole.setStretchFactor(0, 1)
        self.whole.setStretchFactor(1, 1)
        self.whole.setSizes([384, 350])
        self.whole.setHandleWidth(1)
        self.whole.setChildrenCollapsible(False)
        self.outer = QSplitter(Qt.Orientation.Horizontal)
        self.outer.addWidget(self.whole)
        self.outer.setStretchFactor(0, 1)
        self.outer.setHandleWidth(1)
        self.outer.setChildrenCollapsible(False)

        self.start_page.starterChosen.connect(self.files.start_from)
        self.start_page.fileChosen.connect(lambda path: self.open_path(path))
        self.start_page.studyChosen.connect(self._open_study)
        self.start_page.leftChosen.connect(self.files.bring_back)
        self.start_page.openWanted.connect(self.files.open_dialog)
        body = self.desk = QWidget()
        column = self.desk_column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._line())
        for pane in self.panes:
            if pane.place == "above":
                column.addWidget(pane.widget)
                column.addWidget(self._line())
        column.addWidget(self.outer, 1)
        self.pages = QStackedWidget()
        self.pages.addWidget(body)
        self.pages.addWidget(self.start_page)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.pages, 1)
        self.setCentralWidget(whole)
        # it lies over the pages: nothing moves away under the pointer
        self.message.setParent(whole)
        whole.installEventFilter(self)
        self._restyle()

    def _on_tool(self) -> None:
        for tool, button in self.tool_buttons.items():
            button.setChecked(tool == self.level_view.tools.tool)

    def _line(self) -> QFrame:
        line = QFrame()
        line.setFixedHeight(1)
        line.setObjectName("hairline")
        line.setStyleSheet(f"background: {theme().hairline.name()};")
        self._lines.append(line)
        return line

    def _restyle(self) -> None:
        t = theme()
        unfolds = self.tools.findChild(QToolButton, "qt_toolbar_ext_button")
        if unfolds is not None:
            unfolds.setIcon(icon("more", t.ink))
            unfolds.setStyleSheet("padding: 0px; border: none;")
            unfolds.setToolTip("More tools")
        for line in self._lines:
            line.setStyleSheet(f"background: {t.hairline.name()};")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Make Enter press the button that has the keyboard, as Space does."""
        button = QApplication.focusWidget()
        enters = event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if enters and isinstance(button, QAbstractButton) and button.isEnabled():
            button.click()
        else:
            super().keyPressEvent(event)

    # telling

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if (
            event.type() == QEvent.Type.Resize
            and watched is self.message.parent()
            and self.message.isVisible()
        ):
            self.message.lie_over()
        return super().eventFilter(watched, event)

    def _stay_with_mine(self) -> None:
        document = self.bench.document
        document.file.take_as_seen()
        document.history.mark_unsaved()
        document.save_draft()
        self._on_file()

    def _on_awaits_file(self, sentence: str) -> None:
        """A large file is being read or written; the window goes on meanwhile."""
        if not sentence:
            self.message.hide()
        elif sentence.startswith("Reading"):
            self.message.offer(sentence, ("Do not open it", self.bench.document.drop_file))
        else:
            self.message.offer(sentence)

    def _on_changed_on_disk(self) -> None:
        path = self.bench.path
        if path is None:
            return
        self.message.offer(
            f"“{path.name}” was changed on disk by another program. This window still shows your version.",
            ("Load the version on disk", lambda: self.open_path(path, asked=True)),
            ("Keep mine", self._stay_with_mine),
        )

    def _on_gone_from_disk(self) -> None:
        path = self.bench.path
        if path is not None:
            self._stay_with_mine()
            self.message.offer(
                f"“{path.name}” was removed or moved by another program. Your level is still here.",
                ("Save it there again", lambda: self.files.save()),
                ("Save as …", lambda: self.files.save_as()),
            )

    # the start page

    def show_start(self) -> None:
        """Show the first page; the level on the desk stays as it is."""
        self.bench.player.stop()
        self.pages.setCurrentWidget(self.start_page)

    def _leave_start(self) -> None:
        self.pages.setCurrentWidget(self.desk)
        self.order.setFocus()

    def _shown_anew(self) -> None:
        self._leave_start()
        self.order.forget_fit()
        self.order.state.fold_switched_off()
        self.order.fit()
        self.order.forget_fit()
        self.level_view.fit()
        self.versions.show_if_left()

    def open_path(self, path: Path, *, study: bool = False, asked: bool = False) -> bool:
        """Open a level file (FileCommands.open_path)."""
        self.message.hide()
        return self.files.open_path(path, study=study, asked=asked)

    def _open_study(self, name: str) -> None:
        self.open_path(study_path(name), study=True)

    def _on_file(self) -> None:
        name = self.bench.path.name if self.bench.path else "not saved yet"
        self.setWindowTitle(f"{self.bench.level.name} — {name}[*] — Gatillo")
        self.setWindowModified(self.bench.document.history.unsaved)

    def _on_level(self) -> None:
        history = self.bench.document.history
        for name, label, word in (("undo", history.undoes, "Undo"), ("redo", history.redoes, "Redo")):
            self.actions_[name].setText(f"&{word}: {label}" if label else f"&{word}")
            self.actions_[name].setEnabled(label is not None)
        level = self.bench.level
        scenery = len(scenery_of(level))
        many = len(level.objects) - scenery
        beside = f" and {scenery:,} of scenery" if scenery else ""
        self.level_note.setText(
            f"{many:,} object{'s' if many != 1 else ''}{beside} · {level.settings.rate} ticks a second"
        )

    def _on_running(self) -> None:
        going = self.bench.player.running or self.bench.player.playing
        self.actions_["run"].setText("&Pause" if going else "&Run")

    # other commands

    def play(self, tick: int | None = None) -> None:
        """Play from a tick, or from the cursor, with the keyboard in the level view. While playing, stop."""
        if self.bench.player.playing:
            self.bench.player.stop()
            return
        self._get_ready_to_play()
        self.bench.player.play_from(self.bench.cursor.tick if tick is None else tick)

    def show_trials(self) -> None:
        """Show the page of all trials; where it is shown already, put it away."""
        if self.region.shows_trials:
            self.region.show_level()
            self.order.setFocus()
            return
        page = self.trials_page
        self.region.show_trials()
        page.table.setFocus()

    def _split_bar(self) -> None:
        if not self.order.bars.split():
            self.bench.notify("Click a key's bar in the lanes first; it is split at the cursor.")

    def _offer_between(self, one: Cursor, other: Cursor, where: QPoint) -> None:
        """A mark was dragged onto another: offer what could be expected of the two firings."""
        menu = QMenu(self)
        menu.setObjectName("between-marks")
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for expectation in self.expecting.between(one, other):
            words = f"Expect: {expectation.sentence()}".replace("&", "&&")
            menu.addAction(words, partial(self.expecting.add, expectation))
        if menu.isEmpty():
            menu.addAction("Nothing about these two firings can be expected").setEnabled(False)
        menu.popup(where)

    def try_values(self, target: str = "") -> None:
        """Open the window that tries values, for a number by its name."""
        # pyqtgraph takes as long to import as the whole window to open
        from gatillo.desk.trying.try_values import TryValues

        self.trying = TryValues(self.bench, target, self)
        self.trying.show()

    def loop(self) -> None:
        """Run the marked stretch round and round; once more, stop."""
        bench = self.bench
        if bench.player.loops:
            bench.player.stop()
        elif bench.stretch is not None:
            bench.player.loop(*bench.stretch)

    def play_again(self) -> None:
        """Play once more from where the last play began. While playing, stop and begin again."""
        self._get_ready_to_play()
        self.bench.play_again()

    def _ends_play(self, event: QKeyEvent) -> bool:
        """Whether a key is that of a command that plays: the same key stops."""
        pressed = QKeySequence(event.keyCombination())
        return any(
            self.actions_[name].shortcut() == pressed
            for name in ("play keys", "play start", "play again", "play mark")
        )

    def _get_ready_to_play(self) -> None:
        self.message.hide()
        self.region.show()
        if not self.region.shows_level:
            self.region.show_level()
        self.level_view.setFocus()

    def _on_take(self, take: Take) -> None:
        """Offer what can be done with what was just played."""
        bench = self.bench
        self.message.offer(
            f"Take {take.number}: {take.seconds:.1f} s. The trial is as it was.",
            ("Play again", self.play_again),
            ("Keep as this trial's script", bench.keep_take_as_script),
            ("Keep as a new trial", bench.keep_take_as_trial),
            ("Back to the script", bench.show_script),
        )

    @property
    def look(self) -> str:
        """The look that is chosen: `desktop`, `light` or `dark`."""
        return next(look for look in LOOKS if self.actions_[f"look {look}"].isChecked())

    def _on_desktop_look(self) -> None:
        self.choose_look(self.look)

    def choose_look(self, look: str, strong: bool | None = None) -> None:
        """Take the light or dark look, or the desktop's; `strong` says whether with high contrast, and is kept as it is if not given."""
        if strong is not None:
            self.settings.setValue("high contrast", strong)
        kept = (
            self.settings.value("high contrast", None, bool)
            if self.settings.contains("high contrast")
            else None
        )
        chosen = choose_theme(look, None if kept is None else bool(kept))
        self.actions_[f"look {look}"].setChecked(True)
        self.actions_["high contrast"].setChecked(chosen.strong)
        self.settings.setValue("look", look)
        self._restyle()
        for pane in self.panes:
            pane.restyle()

    def _stand_graph(self, way: str) -> None:
        self.region.stand(way)
        self.actions_[f"graph {way}"].setChecked(True)

    def _toggle_overlay(self, name: str) -> None:
        self.level_view.overlays ^= {name}
        self.level_view.update()

    def _toggle_snap(self) -> None:
        self.level_view.tools.snaps = self.actions_["snap"].isChecked()

    def _on_shown(self) -> None:
        for pane in self.panes:
            if pane.command:
                self.actions_[pane.command].setChecked(not pane.widget.isHidden())
        beside = [
            pane.widget for pane in self.panes if pane.place == "beside" and pane.widget in self._upper()
        ]
        self.upper.setVisible(not all(widget.isHidden() for widget in beside))

    def _upper(self) -> list[QWidget | None]:
        """Return what stands in the upper half: the region, and the sheet unless it takes the whole height."""
        return [self.upper.widget(at) for at in range(self.upper.count())]

    def _stretch_sheet(self) -> None:
        """Let the sheet take the whole height at the right, or only the upper half."""
        tall = self.actions_["tall sheet"].isChecked()
        wide = self.sheet.width()
        (self.outer if tall else self.upper).addWidget(self.sheet)
        if tall:
            self.outer.setSizes([max(300, self.width() - wide), wide])
        else:
            self.upper.setSizes([max(300, self.width() - wide), wide])
        self._on_shown()

    def _on_region(self) -> None:
        """A graph and the trials want more height than the level; each keeps what it was given."""
        graph = self.region.shows_graph or self.region.shows_trials
        if graph == self._showed_graph:
            return
        self._heights[self._showed_graph] = self.whole.sizes()
        self._widths[self._showed_graph] = self.upper.sizes()
        self._showed_graph = graph
        wide = sum(self.upper.sizes())
        narrow = [wide - NARROW_SHEET, NARROW_SHEET]
        self.upper.setSizes(self._widths.get(graph, narrow if graph and wide else self.upper.sizes()))
        total = sum(self.whole.sizes())
        share = [int(total * GRAPH_SHARE), total - int(total * GRAPH_SHARE)]
        self.whole.setSizes(self._heights.get(graph, share if graph else [384, 350]))
        QTimer.singleShot(0, self.order.state.show_selected)

    def begin_tour(self) -> None:
        """A tour that builds one rule in a small level."""
        if not self.files.may_leave(self.begin_tour):
            return
        self.bench.document.take(STARTERS[1][2]())
        self._shown_anew()
        if self.tour is not None:
            self.tour.hide()
            self.tour.deleteLater()
        self.tour = Tour(self.bench, self.order.writer.line, self.desk)
        self.desk_column.insertWidget(2, self.tour)
        self.tour.show()

    def show_catalogue(self) -> None:
        """The reference page of the catalogue."""
        CataloguePage(self).show()

    def show_menu(self, where: QPoint, names: tuple[str, ...]) -> None:
        """A menu at a place of the screen, of commands by their names."""
        menu = QMenu(self)
        menu.setObjectName("at-the-pointer")
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for name in names:
            menu.addAction(self.actions_[name])
        menu.popup(where)

    def find_command(self) -> None:
        """Do any command by a few letters of its name."""
        CommandFinder(self.actions_.values(), self).exec()

    def show_keys(self) -> None:
        """List every command with its keys, and let them be changed."""
        KeysDialog(self.actions_, self.settings, self).exec()

    def show_about(self) -> None:
        """What this is."""
        QMessageBox.about(
            self,
            "About Gatillo",
            f"<b>Gatillo {__version__}</b><p>Event rules for level designers: write them, run them, "
            f"see which fired, when and for which objects.</p><p>Installed {SENTENCE}.</p><p>MIT licence. Made with Qt through PySide6, NumPy, msgspec and lark.</p>",
        )

    # arrangement

    def _restore(self) -> None:
        for name, splitter in (("upper", self.upper), ("whole", self.whole)):
            state = self.settings.value(f"arrangement/{name}")
            if isinstance(state, QByteArray):
                splitter.restoreState(state)
        if str(self.settings.value("arrangement/tall sheet", "false")).lower() == "true":
            self.actions_["tall sheet"].setChecked(True)
            self._stretch_sheet()
        way = str(self.settings.value("arrangement/graph", "beside"))
        if way in WAYS:
            parted = self.settings.value("arrangement/graph parted")
            self.region.restore(way, parted if isinstance(parted, QByteArray) else None)
            self.actions_[f"graph {way}"].setChecked(True)
        geometry = self.settings.value("arrangement/window")
        if isinstance(geometry, QByteArray):
            self.restoreGeometry(geometry)
        split = self.settings.value("arrangement/split")
        with contextlib.suppress(ValueError):
            part = float(str(split))
            if 0.2 <= part <= 0.75:
                self.order.geometry_.split = part
        chosen_keys(self.settings, self.actions_)
        look = str(self.settings.value("look", "desktop"))
        if look in ("light", "dark") or self.settings.contains("high contrast") or theme().strong:
            self.choose_look(look if look in LOOKS else "desktop")

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._on_shown()

    def closeEvent(self, event: QCloseEvent) -> None:
        field = QApplication.focusWidget()
        if field is not None and field.window() in (self, *self.findChildren(QDialog)):
            # it gives its value before the level is asked about, and while all that it speaks of is there
            field.clearFocus()
        if not self.files.may_leave(self.close):
            if field is not None:
                field.setFocus()
            event.ignore()
            return
        for name, splitter in (("upper", self.upper), ("whole", self.whole)):
            self.settings.setValue(f"arrangement/{name}", splitter.saveState())
        self.settings.setValue("arrangement/tall sheet", self.actions_["tall sheet"].isChecked())
        self.settings.setValue("arrangement/graph", self.region.way)
        self.settings.setValue("arrangement/graph parted", self.region.saved())
        self.settings.setValue("arrangement/window", self.saveGeometry())
        self.settings.setValue("arrangement/split", self.order.geometry_.split)
        self.collector.close()
        self.bench.close()
        event.accept()
