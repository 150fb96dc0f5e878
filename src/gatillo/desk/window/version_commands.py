"""Other versions of the level: comparing with one, and settling what a merge left."""

from __future__ import annotations

from pathlib import Path

from gatillo.desk.session.version_page import SETTLE, Settling, difference_page, settle_page
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.ask_commands import Choose, ChooseFile
from gatillo.desk.window.commands import Run
from gatillo.files.level_file import SUFFIX, LevelFileError, read_level
from gatillo.files.revisions import NoRevisions, level_of, revisions
from gatillo.inspect.merging.settling import CannotChoose, Side, choose, questions, settle
from gatillo.level.model import Level

LAST_SAVE, OTHER_FILE = "the last save", "another file …"


class VersionCommands:
    """What the File menu does with other versions of the open level."""

    def __init__(self, bench: Workbench, choose: Choose, choose_file: ChooseFile) -> None:
        self.bench = bench
        self.choose = choose
        self.choose_file = choose_file
        self._deeds = Settling(self._choose, self._settle, self._compare, self._settle_all)

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        return {"compare level": self.compare, "settle merge": self.show_merge}

    # comparing

    def compare(self) -> None:
        """Ask for another version (the last save, a version that git keeps, another file) and show what differs."""
        path = self.bench.path
        kept = {}
        if path is not None:
            try:
                kept = {one.words(): one.hash for one in revisions(path)}
            except NoRevisions:
                # then there are the last save and other files
                kept = {}
        ways = [*([LAST_SAVE] if path is not None else []), OTHER_FILE, *kept]
        chosen = self.choose("Compare this level with:", ways)
        try:
            if chosen == LAST_SAVE and path is not None:
                self._show(read_level(path), f"the last save of “{path.name}”")
            elif chosen == OTHER_FILE:
                file = self.choose_file("Compare with a level", f"Levels (*{SUFFIX})")
                if file is not None:
                    self._show(read_level(file), f"“{file.name}”")
            elif chosen in kept and path is not None:
                self._show(level_of(path, kept[chosen]), f"“{path.name}” at {kept[chosen]}")
        except (LevelFileError, NoRevisions) as error:
            self.bench.notify(f"{error}.")

    def compare_with(self, path: Path) -> None:
        """Show what differs from the level in a file. Raises LevelFileError."""
        self._show(read_level(path), f"“{path.name}”")

    def _show(self, other: Level, label: str) -> None:
        bench = self.bench
        bench.answers.show(
            difference_page(
                other, bench.level, label, lambda: bench.beside.compare_with_version(other, label)
            )
        )

    # settling

    def show_merge(self) -> None:
        """Show what a merge left to be settled."""
        self.bench.answers.show(settle_page(self.bench.level, self._deeds))

    def show_if_left(self) -> None:
        """Show what a merge left, if the open level holds something."""
        many = len(self.bench.level.unsettled)
        if many:
            self.show_merge()
            changes = "1 change is" if many == 1 else f"{many} changes are"
            self.bench.notify(f"This level was merged; {changes} to be settled.")

    def _choose(self, number: int, side: Side) -> None:
        bench = self.bench
        about = questions(bench.level)[number].about
        try:
            bench.edit(choose(bench.level, number, side), f"take {side} of {about}")
        except CannotChoose as reason:
            bench.notify(f"{side.capitalize()} cannot be chosen: {reason}.")
        self.show_merge()

    def _compare(self, number: int, side: Side) -> None:
        bench = self.bench
        try:
            other = choose(bench.level, number, side)
        except CannotChoose as reason:
            bench.notify(f"{side.capitalize()} cannot be run: {reason}.")
            return
        bench.beside.compare_with_version(other, f"{side} of {questions(bench.level)[number].about}")

    def _settle(self, number: int) -> None:
        bench = self.bench
        about = questions(bench.level)[number].about
        bench.edit(settle(bench.level, number), f"settle {about}")
        self.show_merge()

    def _settle_all(self) -> None:
        level = self.bench.level
        for number in reversed(range(len(level.unsettled))):
            level = settle(level, number)
        self.bench.edit(level, "settle the merge")
        self.show_merge()

    def on_level(self) -> None:
        """Show the merge as it stands after an edit, where its page is shown."""
        page = self.bench.answers.page
        if page is not None and page.title == SETTLE and page.stale:
            self.show_merge()
