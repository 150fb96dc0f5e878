"""Saving and adding kits."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QDialog, QFileDialog, QWidget

from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.commands import Run
from gatillo.desk.window.kit_dialogs import KitClashes, KitKinds
from gatillo.files.kits import SUFFIX, Clash, bring_kit, clashes, make_kit
from gatillo.files.level_file import LevelFileError, read_level, write_level
from gatillo.language.renaming import Sort
from gatillo.level.model import Level, Section
from gatillo.level.validation import flaws


class KitCommands:
    """What the File menu does with kits."""

    def __init__(self, bench: Workbench, parent: QWidget) -> None:
        self.bench = bench
        self.parent = parent
        self.ask_names: Callable[[list[Clash]], dict[tuple[Sort, str], str] | None] = self._ask_names
        """Asks what to call things of a kit whose names are taken; None when it is put away."""

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        return {"save kit": self.save, "bring kit": self.bring_dialog}

    def save(self) -> None:
        """Save kinds with the rules that drive them."""
        thing = self.bench.selection.thing
        chosen = thing.name if thing is not None and thing.sort == "kind" else ""
        dialog = KitKinds(self.bench.level, chosen, self.parent)
        if dialog.exec() != QDialog.DialogCode.Accepted or not dialog.kinds():
            return
        kit = make_kit(self.bench.level, dialog.name.text().strip() or "Kit", dialog.kinds())
        start = str(Path.home() / f"{kit.name.lower().replace(' ', '-')}{SUFFIX}")
        path, _ = QFileDialog.getSaveFileName(self.parent, "Save the kit", start, f"Kits (*{SUFFIX})")
        if path:
            self.write(Path(path).with_suffix(SUFFIX), kit)

    def write(self, path: Path, kit: Level) -> None:
        """Write a kit, and say what is in it."""
        try:
            write_level(path, kit)
        except LevelFileError as error:
            self.bench.notify(str(error))
            return
        rules = sum(len(e.rules) for e in kit.order if isinstance(e, Section))
        self.bench.notify(f"Saved {len(kit.kinds)} kinds and {rules} rules as {path.name}.")

    def bring_dialog(self) -> None:
        """Ask for a kit and bring it in."""
        path, _ = QFileDialog.getOpenFileName(self.parent, "Add a kit", str(Path.home()), f"Kits (*{SUFFIX})")
        if path:
            self.bring(Path(path))

    def bring(self, path: Path) -> None:
        """Bring a kit into the level; names that both have are asked about."""
        try:
            kit = read_level(path)
        except LevelFileError as error:
            self.bench.notify(str(error))
            return
        found = clashes(self.bench.level, kit)
        names = self.ask_names(found) if found else {}
        if names is None:
            return
        level = bring_kit(self.bench.level, kit, names)
        flaw = next(flaws(level), None)
        if flaw is not None:
            self.bench.notify(f"The kit was not added: {flaw.message}.")
            return
        self.bench.edit(level, f"add the kit {kit.name}")

    def _ask_names(self, found: list[Clash]) -> dict[tuple[Sort, str], str] | None:
        dialog = KitClashes(found, self.parent)
        return dialog.names() if dialog.exec() == QDialog.DialogCode.Accepted else None
