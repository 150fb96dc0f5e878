"""Opening, saving and leaving level files, with the questions before it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, QSettings, Qt, Signal
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.commands import Run
from gatillo.examples.starters import STARTERS
from gatillo.files.level_file import SUFFIX
from gatillo.files.unsaved import Left
from gatillo.level.model import empty_level

FILTER = f"Levels (*{SUFFIX})"


class FileCommands(QObject):
    """What the File menu does with levels."""

    shown = Signal()
    """Another level stands on the desk."""

    def __init__(self, bench: Workbench, settings: QSettings, window: QWidget) -> None:
        super().__init__(window)
        self.bench = bench
        self.settings = settings
        self.window_ = window
        self.ask: Callable[[str, str], str] = self._ask
        """Asks about unsaved work: gives “save”, “discard” or “cancel”. Tests put their own answer here."""
        self.choose: Callable[[str, str, tuple[str, ...]], str] = self._choose
        """Asks with these buttons, the first one by Enter, the last one by Escape: gives the words on the one that was pressed."""

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        return {
            "new": self.new_level,
            "open": self.open_dialog,
            "save": self.save,
            "save as": self.save_as,
            "save page": self.save_page,
        }

    def new_level(self) -> None:
        """Begin an empty level."""
        if self.may_leave(self.new_level):
            self.bench.document.take(empty_level())
            self.shown.emit()

    def open_dialog(self) -> None:
        """Ask for a level file and open it."""
        if not self.may_leave(self.open_dialog):
            return
        start = str(self.bench.path.parent if self.bench.path else Path.home())
        chosen, _ = QFileDialog.getOpenFileName(self.window_, "Open a level", start, FILTER)
        if chosen:
            self.open_path(Path(chosen), asked=True)

    def open_path(self, path: Path, *, study: bool = False, asked: bool = False) -> bool:
        """Open a level file. A study is opened as a copy without a file of its own.

        False when it is not opened; a large one is still being read when this gives True.
        """
        if not asked and not self.may_leave(lambda: self.open_path(path, study=study)):
            return False

        def opened() -> None:
            if study:
                self.bench.document.set_aside_path()
            else:
                self.remember(path)
            self.shown.emit()

        return self.bench.document.open(path, opened)

    def save(self, then: Callable[[], object] | None = None) -> bool:
        """Save where the level came from; a new one asks where. `then` is called when it is saved."""
        path = self.bench.path
        if path is None:
            return self.save_as(then)
        if self.bench.document.file.is_unseen():
            answer = self.choose(
                "The file has changed",
                f"“{path.name}” was changed by another program since it was opened or saved here. "
                "Saving now would replace that version.",
                ("Save under another name", "Replace it", "Cancel"),
            )
            if answer == "Save under another name":
                return self.save_as(then)
            if answer != "Replace it":
                return False
        return self.bench.document.save(path, then or (lambda: None))

    def save_as(self, then: Callable[[], object] | None = None) -> bool:
        """Ask where to save, and save there. `then` is called when it is saved."""
        name = "".join(c if c.isalnum() else "-" for c in self.bench.level.name.lower()).strip("-") or "level"
        start = str(self.bench.path or Path.home() / f"{name}{SUFFIX}")
        chosen, _ = QFileDialog.getSaveFileName(self.window_, "Save the level", start, FILTER)
        if not chosen:
            return False
        path = Path(chosen)
        if not path.name.endswith(SUFFIX):
            # the dialog has asked only about the name as it was typed
            path = path.with_name(path.name + SUFFIX)
            if (
                path.exists()
                and self.choose(
                    "The file exists",
                    f"“{path.name}” exists already. Saving would replace it.",
                    ("Replace it", "Cancel"),
                )
                != "Replace it"
            ):
                return False

        def saved() -> None:
            self.remember(path)
            if then is not None:
                then()

        return self.bench.document.save(path, saved)

    def save_page(self) -> None:
        """Ask for a file, and write the shown run there as a page for any browser, with the run beside it if there is one."""
        run = self.bench.run
        if run.done < run.length and not self.bench.take:
            self.bench.notify("The run is not over yet. Save it when it is.")
            return
        name = "".join(c if c.isalnum() else "-" for c in self.bench.level.name.lower()).strip("-") or "run"
        folder = self.bench.path.parent if self.bench.path else Path.home()
        chosen, _ = QFileDialog.getSaveFileName(
            self.window_, "Save the run as a page", str(folder / f"{name}.html"), "Pages (*.html)"
        )
        if chosen:
            path = Path(chosen)
            self.bench.notify(f"The page “{path.name}” is being written …")
            self.bench.answers.save_page(path, self.bench.beside.run, self.bench.beside.label)

    def may_leave(self, again: Callable[[], object]) -> bool:
        """Return whether the open level may be put away: saved, or its changes given up.

        When it has to be saved first and that takes a while, `again` is called once it is saved.
        """
        self.bench.player.stop()
        if not self.bench.document.history.unsaved:
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
        answers = {"Save": "save", "Discard the changes": "discard", "Cancel": "cancel"}
        return answers[self._choose(title, words, tuple(answers))]

    def _choose(self, title: str, words: str, answers: tuple[str, ...]) -> str:
        box = QMessageBox(QMessageBox.Icon.NoIcon, title, words, parent=self.window_)
        box.setTextFormat(Qt.TextFormat.PlainText)
        role = QMessageBox.ButtonRole
        roles = [role.AcceptRole, *[role.DestructiveRole] * (len(answers) - 2), role.RejectRole]
        buttons = {answer: box.addButton(answer, of) for answer, of in zip(answers, roles, strict=True)}
        box.setDefaultButton(buttons[answers[0]])
        box.exec()
        return next(
            (answer for answer, button in buttons.items() if box.clickedButton() is button), answers[-1]
        )

    def recent(self) -> list[Path]:
        """Level files that were open lately, the last one first."""
        found = self.settings.value("recent", [])
        return [Path(str(p)) for p in (found if isinstance(found, list) else [found]) if p]

    def remember(self, path: Path) -> None:
        """Note that a file was open, for the next start."""
        paths = [path.absolute(), *(p for p in self.recent() if p != path.absolute())]
        self.settings.setValue("recent", [str(p) for p in paths[:10]])

    def start_from(self, number: int) -> None:
        """Begin with one of the starters."""
        if self.may_leave(lambda: self.start_from(number)):
            self.bench.document.take(STARTERS[number][2]())
            self.shown.emit()

    def bring_back(self, left: Left) -> None:
        """Bring back work that was not saved when the program ended."""
        if self.may_leave(lambda: self.bring_back(left)) and self.bench.document.recover(left):
            self.shown.emit()
