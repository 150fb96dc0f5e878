"""The main window: menus, run bar, and three regions: level, sheet, order."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QByteArray, QSettings, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QShowEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QInputDialog,
    QLineEdit,
    QMainWindow,
    QMessageBox,
    QPushButton,
    QSplitter,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from gatillo import __version__
from gatillo.desk.level_view.placement_tools import TOOLS
from gatillo.desk.level_view.shelf import Shelf
from gatillo.desk.level_view.view import LevelView
from gatillo.desk.looks.plain import Words
from gatillo.desk.looks.theme import choose_theme, text_font, theme
from gatillo.desk.order_list.rule_writer import RuleWriting
from gatillo.desk.order_list.view import OrderView
from gatillo.desk.session.workbench import Selection, Thing, ThingSort, Workbench
from gatillo.desk.sheet.level_page import add_kind, add_place, add_trial
from gatillo.desk.sheet.sheet import Sheet
from gatillo.desk.start.start_page import StartPage
from gatillo.desk.window.arrange_commands import ArrangeDeeds
from gatillo.desk.window.command_finder import CommandFinder
from gatillo.desk.window.expectation_commands import ExpectDeeds
from gatillo.desk.window.help_pages import CataloguePage, Tour
from gatillo.desk.window.keys_dialog import KeysDialog, chosen_keys
from gatillo.desk.window.kit_commands import KitDeeds
from gatillo.desk.window.menus import make_actions
from gatillo.desk.window.run_bar import RunBar
from gatillo.examples import study_path
from gatillo.examples.starters import STARTERS
from gatillo.files.level_file import SUFFIX
from gatillo.files.unsaved import Left
from gatillo.level.model import empty_level

FILTER = f"Levels (*{SUFFIX})"


class MainWindow(QMainWindow):
    """One level on the desk."""

    def __init__(self, bench: Workbench, settings: QSettings | None = None) -> None:
        super().__init__()
        self.bench: Workbench = bench
        bench.setParent(self)
        self.settings = settings or QSettings("gatillo", "gatillo")
        self.ask: Callable[[str, str], str] = self._ask
        """Asks about unsaved work: gives “save”, “discard” or “cancel”. Tests put their own answer here."""
        self.ask_name: Callable[[str], str | None] = self._ask_name
        self.tour: Tour | None = None
        self.actions_: dict[str, QAction] = {}
        self._message_timer = QTimer(self)
        self._message_timer.setSingleShot(True)
        self.kits = KitDeeds(self)
        self.arranging = ArrangeDeeds(self)
        self.expecting = ExpectDeeds(self)
        make_actions(self)
        self.level_view = LevelView(bench)
        self.shelf = Shelf(bench, self.level_view)
        self.order: OrderView = OrderView(bench)
        self.sheet = Sheet(bench)
        self.run_bar = RunBar(bench, self.actions_)
        self.shelf.newKindWanted.connect(self.new_kind)
        self._lay_out()
        self.resize(1280, 800)
        bench.fileChanged.connect(self._on_file)
        self._named_next = ""
        bench.levelChanged.connect(self._on_level)
        bench.levelChanged.connect(self._arm_named)
        bench.runningChanged.connect(self._on_running)
        bench.told.connect(self.tell)
        bench.awaitsFile.connect(self._on_awaits_file)
        bench.changedOnDisk.connect(self._on_changed_on_disk)
        self._on_file()
        self._on_level()
        self._restore()
        self.order.setFocus()

    # building

    def _lay_out(self) -> None:
        head = QWidget()
        head_row = QHBoxLayout(head)
        head_row.setContentsMargins(14, 0, 14, 0)
        title = Words("Level")
        title.setFont(text_font(0, bold=True))
        self.level_note = Words()
        self.level_note.setObjectName("quiet")
        head_row.addWidget(title)
        head_row.addSpacing(10)
        head_row.addWidget(self.level_note)
        head_row.addStretch(1)
        self.tool_buttons: dict[str, QToolButton] = {}
        for tool, label, tip in TOOLS:
            button = QToolButton()
            button.setObjectName("tool")
            button.setText(label)
            button.setToolTip(tip)
            button.setAccessibleName(f"Tool: {label}. {tip}")
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, t=tool: self.level_view.laying.choose(t))
            head_row.addWidget(button)
            self.tool_buttons[tool] = button
        self.level_view.toolChanged.connect(self._on_tool)
        self.level_view.placeDrawn.connect(lambda: self._type_name("place-name"))
        self._on_tool()
        head.setFixedHeight(30)
        self.level_head = head

        self.level_page = QWidget()
        column = QVBoxLayout(self.level_page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(head)
        column.addWidget(self._line())
        column.addWidget(self.level_view, 1)
        column.addWidget(self._line())
        column.addWidget(self.shelf)

        self.upper = QSplitter(Qt.Orientation.Horizontal)
        self.upper.addWidget(self.level_page)
        self.upper.addWidget(self.sheet)
        self.upper.setStretchFactor(0, 1)
        self.upper.setSizes([812, 468])
        self.upper.setHandleWidth(1)
        self.upper.setChildrenCollapsible(False)

        self.whole = QSplitter(Qt.Orientation.Vertical)
        self.whole.addWidget(self.upper)
        self.whole.addWidget(self.order)
        self.whole.setStretchFactor(0, 1)
        self.whole.setStretchFactor(1, 1)
        self.whole.setSizes([384, 350])
        self.whole.setHandleWidth(1)
        self.whole.setChildrenCollapsible(False)

        self.message = QFrame()
        message_row = QHBoxLayout(self.message)
        message_row.setContentsMargins(14, 6, 8, 6)
        self.message_words = Words()
        self.message_words.setWordWrap(True)
        close = QPushButton("Close")
        close.clicked.connect(self.message.hide)
        message_row.addWidget(self.message_words, 1)
        self.message_row = message_row
        self._offers: list[QPushButton] = []
        message_row.addWidget(close)
        self.message.hide()

        self.start_page = StartPage(self.recent)
        self.start_page.starterChosen.connect(self._start_from)
        self.start_page.fileChosen.connect(lambda path: self.open_path(path))
        self.start_page.studyChosen.connect(lambda name: self.open_path(study_path(name), study=True))
        self.start_page.leftChosen.connect(self._bring_back)
        self.start_page.openWanted.connect(self.open_dialog)
        body = self.desk = QWidget()
        column = self.desk_column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self._line())
        column.addWidget(self.run_bar)
        column.addWidget(self._line())
        column.addWidget(self.whole, 1)
        self.pages = QStackedWidget()
        self.pages.addWidget(body)
        self.pages.addWidget(self.start_page)
        whole = QWidget()
        column = QVBoxLayout(whole)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.message)
        column.addWidget(self.pages, 1)
        self.setCentralWidget(whole)
        self._message_timer.timeout.connect(self.message.hide)
        self._style_message()

    def _on_tool(self) -> None:
        for tool, button in self.tool_buttons.items():
            button.setChecked(tool == self.level_view.laying.tool)

    def _line(self) -> QFrame:
        line = QFrame()
        line.setFixedHeight(1)
        line.setObjectName("hairline")
        line.setStyleSheet(f"background: {theme().hairline.name()};")
        self._lines = [*getattr(self, "_lines", []), line]
        return line

    def _style_message(self) -> None:
        t = theme()
        self.message.setStyleSheet(
            f"QFrame {{ background: {t.selected.name()}; }} QLabel {{ color: {t.ink.name()}; }}"
        )
        self.level_head.setStyleSheet(f"background: {t.field.name()};")
        for line in self._lines:
            line.setStyleSheet(f"background: {t.hairline.name()};")

    # telling

    def tell(self, sentence: str) -> None:
        """Say something calmly, above the level, until it is closed or something else is said."""
        self.offer(sentence)
        self._message_timer.stop()
        if len(sentence) < 60:
            self._message_timer.start(4000)

    def offer(self, sentence: str, *deeds: tuple[str, Callable[[], object]]) -> None:
        """Say something, with buttons for what can be done about it."""
        for button in self._offers:
            button.hide()
            button.deleteLater()
        self._offers = []
        for words, deed in deeds:
            button = QPushButton(words)
            button.clicked.connect(lambda _=False, d=deed: self._do_offered(d))
            self.message_row.insertWidget(self.message_row.count() - 1, button)
            self._offers.append(button)
        self.message_words.setText(sentence)
        self._message_timer.stop()
        self.message.show()

    def _do_offered(self, deed: Callable[[], object]) -> None:
        self.message.hide()
        deed()

    def _keep_mine(self) -> None:
        self.bench.history.mark_unsaved()
        self._on_file()

    def _on_awaits_file(self, sentence: str) -> None:
        """A large file is being read or written; the window goes on meanwhile."""
        if not sentence:
            self.message.hide()
        elif sentence.startswith("Reading"):
            self.offer(sentence, ("Do not open it", self.bench.drop_file))
        else:
            self.offer(sentence)

    def _on_changed_on_disk(self) -> None:
        path = self.bench.path
        if path is None:
            return
        self.offer(
            f"“{path.name}” was changed on disk by another program. What you see here is still yours.",
            ("Load what is on disk", lambda: self.open_path(path, asked=True)),
            ("Keep mine", self._keep_mine),
        )

    # the start page

    def show_start(self) -> None:
        """Show the first page; the level on the desk stays as it is."""
        self.bench.stop()
        self.pages.setCurrentWidget(self.start_page)

    def _leave_start(self) -> None:
        self.pages.setCurrentWidget(self.desk)
        self.order.setFocus()

    def recent(self) -> list[Path]:
        """Level files that were open lately, the last one first."""
        found = self.settings.value("recent", [])
        return [Path(str(p)) for p in (found if isinstance(found, list) else [found]) if p]

    def _remember(self, path: Path) -> None:
        paths = [path.absolute(), *(p for p in self.recent() if p != path.absolute())]
        self.settings.setValue("recent", [str(p) for p in paths[:10]])

    def _start_from(self, number: int) -> None:
        if self.may_leave(lambda: self._start_from(number)):
            self.bench.take(STARTERS[number][2](), None)
            self._shown_anew()

    def _bring_back(self, left: Left) -> None:
        if self.may_leave(lambda: self._bring_back(left)) and self.bench.recover(left):
            self._shown_anew()

    def _on_file(self) -> None:
        name = self.bench.path.name if self.bench.path else "not saved yet"
        self.setWindowTitle(f"{self.bench.level.name} — {name}[*] — Gatillo")
        self.setWindowModified(self.bench.history.unsaved)

    def _on_level(self) -> None:
        history = self.bench.history
        for name, deed, word in (("undo", history.undoes, "Undo"), ("redo", history.redoes, "Redo")):
            self.actions_[name].setText(f"&{word}: {deed}" if deed else f"&{word}")
            self.actions_[name].setEnabled(deed is not None)
        level = self.bench.level
        many = len(level.objects)
        self.level_note.setText(
            f"{level.name} · {many:,} object{'s' if many != 1 else ''} · {level.settings.rate} ticks a second"
        )

    def _on_running(self) -> None:
        going = self.bench.running or self.bench.playing
        self.actions_["run"].setText("&Pause" if going else "&Run")

    # files

    def new_level(self) -> None:
        """Begin an empty level."""
        if self.may_leave(self.new_level):
            self.bench.take(empty_level(), None)
            self._shown_anew()

    def open_dialog(self) -> None:
        """Ask for a level file and open it."""
        if not self.may_leave(self.open_dialog):
            return
        start = str(self.bench.path.parent if self.bench.path else Path.home())
        chosen, _ = QFileDialog.getOpenFileName(self, "Open a level", start, FILTER)
        if chosen:
            self.open_path(Path(chosen), asked=True)

    def open_path(self, path: Path, *, study: bool = False, asked: bool = False) -> bool:
        """Open a level file. A study is opened as a copy without a file of its own.

        False when it is not opened; a large one is still being read when this gives True.
        """
        if not asked and not self.may_leave(lambda: self.open_path(path, study=study)):
            return False
        self.message.hide()

        def opened() -> None:
            if study:
                self.bench.set_aside_path()
            else:
                self._remember(path)
            self._shown_anew()

        return self.bench.open(path, opened)

    def _shown_anew(self) -> None:
        self._leave_start()
        self.order.forget_fit()
        self.order.fold_switched_off()
        self.order.fit()
        self.order.forget_fit()
        self.level_view.fit()

    def save(self, then: Callable[[], object] | None = None) -> bool:
        """Save where the level came from; a new one asks where. `then` is called when it is saved."""
        if self.bench.path is None:
            return self.save_as(then)
        return self.bench.save(self.bench.path, then or (lambda: None))

    def save_as(self, then: Callable[[], object] | None = None) -> bool:
        """Ask where to save, and save there. `then` is called when it is saved."""
        name = "".join(c if c.isalnum() else "-" for c in self.bench.level.name.lower()).strip("-") or "level"
        start = str(self.bench.path or Path.home() / f"{name}{SUFFIX}")
        chosen, _ = QFileDialog.getSaveFileName(self, "Save the level", start, FILTER)
        if not chosen:
            return False
        path = Path(chosen)
        path = path if path.suffix else path.with_suffix(SUFFIX)

        def saved() -> None:
            self._remember(path)
            if then is not None:
                then()

        return self.bench.save(path, saved)

    def may_leave(self, again: Callable[[], object]) -> bool:
        """Whether the open level may be put away: saved, or its changes given up.

        When it has to be saved first and that takes a while, `again` is called once it is saved.
        """
        self.bench.stop()
        if not self.bench.history.unsaved:
            return True
        answer = self.ask(
            "There are unsaved changes", f"“{self.bench.level.name}” has changes that are not saved."
        )
        if answer != "save":
            return answer == "discard"
        state = {"at once": True, "saved": False}

        def saved() -> None:
            state["saved"] = True
            if not state["at once"]:
                again()

        self.save(saved)
        state["at once"] = False
        return state["saved"]

    def _ask(self, title: str, words: str) -> str:
        box = QMessageBox(QMessageBox.Icon.NoIcon, title, words, parent=self)
        box.setTextFormat(Qt.TextFormat.PlainText)
        save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
        discard = box.addButton("Give up the changes", QMessageBox.ButtonRole.DestructiveRole)
        box.addButton("Cancel", QMessageBox.ButtonRole.RejectRole)
        box.setDefaultButton(save)
        box.exec()
        return (
            "save"
            if box.clickedButton() is save
            else "discard"
            if box.clickedButton() is discard
            else "cancel"
        )

    # other deeds

    def play(self) -> None:
        """Play by keys from the cursor, with the keyboard in the level view."""
        if self.bench.playing:
            self.bench.stop()
            return
        self.level_page.show()
        self.level_view.setFocus()
        self.bench.play()

    def order_writing(self) -> RuleWriting:
        """What writes into the order list."""
        return self.order.writing

    def new_kind(self) -> None:
        """A new kind, its name ready to be typed over."""
        self._named_next = add_kind(self.bench)
        self._type_name("kind-name")

    def _arm_named(self) -> None:
        """A new kind that has just been named is to be placed next."""
        old, thing = self._named_next, self.bench.selection.thing
        if not old or any(k.name == old for k in self.bench.level.kinds):
            return
        self._named_next = ""
        if thing is not None and thing.sort == "kind":
            self.level_view.arm(thing.name)

    def new_place(self, sort: str) -> None:
        """A new place, its name ready to be typed over."""
        add_place(self.bench, sort)
        self._type_name("place-name")

    def new_trial(self) -> None:
        """A new trial, its name ready to be typed over."""
        add_trial(self.bench)
        self._type_name("trial-name")

    def find_in_level(self) -> None:
        """Show the index of the whole level, with the keyboard in its search."""
        self.bench.select(Selection())
        self._type_name("index-search")

    def _type_name(self, name: str) -> None:
        self.sheet.show()
        field = self.sheet.findChild(QLineEdit, name)
        if field is not None:
            field.setFocus()
            field.selectAll()

    def show_thing(self, sort: ThingSort, name: str) -> None:
        """Open the sheet of something, with the keyboard in its first field."""
        self.bench.select(Selection(thing=Thing(sort, name)))
        self.sheet.show()
        self.sheet.focus_first()

    def _in_order(self) -> bool:
        """Whether a deed on what is selected means the order list's row."""
        return self.order.hasFocus() or (
            self.bench.selection.rule is not None and not self.level_view.hasFocus()
        )

    def delete(self) -> None:
        """Delete what is selected: lines, rules and sections in the order list, else objects."""
        if self._in_order():
            self.order.writing.delete()
        else:
            self.level_view.delete_selected()

    def duplicate(self) -> None:
        """Copy what is selected."""
        if self._in_order():
            self.order.writing.duplicate()
        else:
            self.level_view.duplicate_selected()

    def cut(self) -> None:
        """Copy the current rule and take it away."""
        self.order.writing.copy()
        self.order.writing.delete()

    def next_finding(self) -> None:
        """Select the next rule that has a finding."""
        ids = [f.rule_id for f in self.bench.findings if f.rule_id is not None]
        if not ids:
            self.tell(
                "There are no findings." if not self.bench.findings else self.bench.findings[0].sentence()
            )
            return
        ids = list(dict.fromkeys(ids))
        now = self.bench.selection.rule
        after = ids[(ids.index(now) + 1) % len(ids)] if now in ids else ids[0]
        self.bench.select(Selection(rule=after))

    def repair_rule(self) -> None:
        """Do the repair of the selected rule's first finding that has one."""
        found = self.bench.findings_of(self.bench.selection.rule)
        finding = next((f for f in found if f.repair is not None), None)
        if finding is None:
            self.tell("This rule has no finding with a repair.")
        else:
            self.bench.repair(finding)

    def choose_look(self, look: str) -> None:
        """Take the light or dark look, or the desktop's."""
        choose_theme(look)
        self.actions_[f"look {look}"].setChecked(True)
        self.settings.setValue("look", look)
        self._style_message()
        self.order.layout_.forget()
        self.run_bar.restyle()
        self.start_page.restyle()
        self.shelf.rebuild(anew=True)
        self.sheet.rebuild()
        for view in (self.order.viewport(), self.level_view):
            view.update()

    def _toggle_sheet(self) -> None:
        self.sheet.setVisible(self.sheet.isHidden())
        self._on_shown()

    def _toggle_overlay(self, name: str) -> None:
        self.level_view.overlays ^= {name}
        self.level_view.update()

    def _toggle_snap(self) -> None:
        self.level_view.laying.snaps = self.actions_["snap"].isChecked()

    def _toggle_level(self) -> None:
        self.level_page.setVisible(self.level_page.isHidden())
        self._on_shown()

    def _on_shown(self) -> None:
        self.actions_["show sheet"].setChecked(not self.sheet.isHidden())
        self.actions_["show level"].setChecked(not self.level_page.isHidden())
        self.upper.setVisible(not (self.sheet.isHidden() and self.level_page.isHidden()))

    def begin_tour(self) -> None:
        """A tour that builds one rule in a small level."""
        if not self.may_leave(self.begin_tour):
            return
        self.bench.take(STARTERS[1][2](), None)
        self._shown_anew()
        if self.tour is not None:
            self.tour.hide()
            self.tour.deleteLater()
        self.tour = Tour(self)
        self.desk_column.insertWidget(2, self.tour)
        self.tour.show()

    def show_catalogue(self) -> None:
        """The reference page of the catalogue."""
        CataloguePage(self).show()

    def rename_everywhere(self) -> None:
        """Rename what the current slot names, or what is selected, in the whole level."""
        if self.bench.selection.thing is not None and not self.order.slots_of(self.order.current):
            self._type_name(f"{self.bench.selection.thing.sort}-name")
        elif self.order.current_slot < 0 and self.bench.selection.rule is not None:
            self._type_name("rule-name")
        elif self.bench.selection.objects:
            self._type_name("object-name")
        else:
            self.order.writing.rename_everywhere(self.ask_name)

    def _ask_name(self, old: str) -> str | None:
        name, taken = QInputDialog.getText(self, "Rename everywhere", f"Another name for “{old}”:", text=old)
        return name if taken else None

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
            "see which fired, when and for whom.</p><p>MIT licence. Made with Qt through PySide6, NumPy, msgspec and lark.</p>",
        )

    # arrangement

    def _restore(self) -> None:
        for name, splitter in (("upper", self.upper), ("whole", self.whole)):
            state = self.settings.value(f"arrangement/{name}")
            if isinstance(state, QByteArray):
                splitter.restoreState(state)
        geometry = self.settings.value("arrangement/window")
        if isinstance(geometry, QByteArray):
            self.restoreGeometry(geometry)
        split = self.settings.value("arrangement/split")
        if split is not None:
            self.order.split = min(0.75, max(0.2, float(str(split))))
        chosen_keys(self.settings, self.actions_)
        look = str(self.settings.value("look", "desktop"))
        if look in ("light", "dark"):
            self.choose_look(look)

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self._on_shown()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.may_leave(self.close):
            event.ignore()
            return
        for name, splitter in (("upper", self.upper), ("whole", self.whole)):
            self.settings.setValue(f"arrangement/{name}", splitter.saveState())
        self.settings.setValue("arrangement/window", self.saveGeometry())
        self.settings.setValue("arrangement/split", self.order.split)
        self.bench.close()
        event.accept()
