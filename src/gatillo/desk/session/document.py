"""The document: the level that is open, its history and its file, the viewed trial and what is selected."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from gatillo.desk.session.history import History
from gatillo.desk.session.open_file import LevelFile, nothing
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.worker import Gate
from gatillo.files.level_file import LevelFileError, why_not_written
from gatillo.files.unsaved import Left, recover, throw_away
from gatillo.level import edits
from gatillo.level.model import Level, Trial, empty_level
from gatillo.level.tidying import tidied
from gatillo.level.validation import flaws
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


def _why_not_saved(level: Level) -> str:
    """Return why a level could not be saved and opened again, or ""."""
    flaw = next(flaws(level), None)
    return flaw.message if flaw is not None else why_not_written(level)


class Document(QObject):
    """Edits go through here, and so do opening and saving."""

    levelChanged = Signal()
    """The level is another one (an edit, undo, or a file opened)."""
    replaced = Signal()
    """Another level was begun or opened in its place; emitted before it is shown."""
    takesWanted = Signal(str)
    """A level was opened: takes that a crash left of it may be taken over, or those of this process."""
    fileChanged = Signal()
    """The file's name or whether it is saved has changed."""
    selectionChanged = Signal()
    awaitsFile = Signal(str)
    """A file is being read or written, in a sentence; with "" that is over."""
    changedOnDisk = Signal()
    """The file was written by another program."""
    goneFromDisk = Signal()
    """The file was removed or moved by another program."""
    notified = Signal(str)

    def __init__(self, level: Level, gate: Gate, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.history = History(level)
        self.number = 0
        """Counts the documents that have been open."""
        self.trial_name = ""
        self.selection = Selection()
        self.pause: Callable[[], object] = nothing
        """Called before the level changes: what runs is paused."""
        self.goes_on_with: Callable[[Level], bool] = lambda level: False
        """Whether what runs can go on with an edited level, so that it need not be paused."""
        self.show: Callable[[bool, Run | None], object] = lambda fresh, ready: None
        """Called with the level changed: whether it is another document, and its run where one is made already."""
        self.file = LevelFile(gate, self)
        self.file.notified.connect(self.notified)
        self.file.awaited.connect(self.awaitsFile)
        self.file.changedOnDisk.connect(self.changedOnDisk)
        self.file.goneFromDisk.connect(self.goneFromDisk)

    @property
    def level(self) -> Level:
        """The level as it is now."""
        return self.history.level

    @property
    def trial(self) -> Trial:
        """The trial that is viewed: the chosen one, else the first."""
        trials = self.level.trials or empty_level().trials
        return next((t for t in trials if t.name == self.trial_name), trials[0])

    # edits

    def edit(self, level: Level, label: str, join: str = "") -> None:
        """Take an edited level; `label` names the edit for undo. Edits with the same `join` are undone together.

        A level that could not be saved, or not opened again, is not taken: a message says why.
        """
        level = tidied(level)
        if edits.same(level, self.level):
            return
        if not self.goes_on_with(level):
            self.pause()
        why = _why_not_saved(level)
        if why and not _why_not_saved(self.level):
            self.notified.emit(f"That cannot be done: {why}.")
            self.levelChanged.emit()
            return
        self.change(lambda: self.history.do(level, label, join))

    def change(self, step: Callable[[], object]) -> None:
        """Take a step in the history and show the level it leads to. If that raises, the level stays as it was."""
        try:
            with self.history.restored_on_error():
                step()
                self.show(False, None)
        except BaseException:
            self.levelChanged.emit()
            raise

    def undo(self) -> None:
        """Undo the last edit."""
        if self.history.undoes is not None:
            self._step_history(self.history.undo)

    def redo(self) -> None:
        """Redo the edit that was undone last."""
        if self.history.redoes is not None:
            self._step_history(self.history.redo)

    def _step_history(self, step: Callable[[], object]) -> None:
        self.pause()
        before = self.level

        def go() -> None:
            step()
            self.selection = self.selection.renamed(before, self.level)
            viewed = Selection(thing=Thing("trial", self.trial_name)).renamed(before, self.level).thing
            self.trial_name = viewed.name if viewed is not None else ""

        self.change(go)

    # the selection

    def select(self, selection: Selection) -> None:
        """Select something else."""
        if selection != self.selection:
            self.selection = selection
            self.selectionChanged.emit()

    def save_draft(self) -> None:
        """Save the level beside its file while it has unsaved edits, so that a crash loses nothing."""
        self.file.save_draft(self.level if self.history.unsaved else None, self.path)

    # files

    @property
    def path(self) -> Path | None:
        """Where the level is saved; None while it has no file of its own."""
        return self.file.path

    def open(self, path: Path, then: Callable[[], object] = nothing) -> bool:
        """Open a level file and call `then`; if it cannot be read, say why and keep the open level.

        A large one is read in a worker: then True says no more than that it is being read.
        """
        level, document = self.level, self.number

        def wanted() -> bool:
            return self.number == document and (self.level is level or not self.history.unsaved)

        def opened(level: Level, run: Run) -> None:
            self._put_on(level, run)
            self.takesWanted.emit("")
            then()

        return self.file.read(path, wanted, opened)

    def drop_file(self) -> None:
        """Cancel reading a file."""
        self.file.drop()

    def set_aside_path(self) -> None:
        """The level is a copy without a file of its own."""
        self.file.forget_path()
        self.fileChanged.emit()

    def recover(self, left: Left) -> bool:
        """Bring back unsaved work; it is unsaved again until it is saved."""
        try:
            level = recover(left)
        except LevelFileError as error:
            self.notified.emit(str(error))
            return False
        self.take(level)
        if left.of is not None:
            self.file.take_up(left.of, left.when)
        self.history.mark_unsaved()
        self.file.save_draft(level, left.of)
        self.takesWanted.emit(left.owner)
        throw_away(left)
        self.fileChanged.emit()
        self.notified.emit(
            f"“{left.name}” is as it was when the program ended. Save it to keep it"
            + (f" in {left.of.name}." if left.of else ".")
        )
        return True

    def take(self, level: Level) -> None:
        """Open a level that has no file of its own."""
        self.file.forget_path()
        self._put_on(level)

    def _put_on(self, level: Level, ready: Run | None = None) -> None:
        if ready is None:
            # made first: if that fails, the open document stays
            trial = (level.trials or empty_level().trials)[0]
            ready = Run(Program(edits.as_tried(level, trial)), trial)
        self.pause()
        self.history = History(level)
        self.number += 1
        self.trial_name = ""
        self.selection = Selection()
        self.replaced.emit()
        self.selectionChanged.emit()
        self.show(True, ready)

    def save(self, path: Path, then: Callable[[], object] = nothing) -> bool:
        """Save the level and call `then`; when that fails, say why.

        A large one is written in a worker: then True says no more than that it is being written.
        """
        level, document = self.level, self.number

        def saved() -> None:
            self.history.mark_saved(level)
            if not self.history.unsaved:
                self.file.save_draft(None, path)
            self.fileChanged.emit()
            then()

        return self.file.write(path, level, lambda: self.number == document, saved)
