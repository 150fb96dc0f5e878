"""Questions that the window asks in dialogs."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QInputDialog, QWidget


class Questions:
    """Dialogs over the window; None where one is put away."""

    def __init__(self, parent: QWidget) -> None:
        self.parent = parent

    def name(self, old: str) -> str | None:
        """Another name for something, to be carried to the whole level."""
        title, words = "Rename everywhere", f"Another name for “{old}”:"
        name, taken = QInputDialog.getText(self.parent, title, words, text=old)
        return name if taken else None

    def text(self, words: str, before: str) -> str | None:
        """Return a line of text."""
        text, taken = QInputDialog.getText(self.parent, "Ask", words, text=before)
        return text.strip() if taken else None

    def one_of(self, words: str, some: list[str]) -> str | None:
        """Return one of some texts."""
        chosen, taken = QInputDialog.getItem(self.parent, "Ask", words, some, 0, False)
        return chosen if taken else None

    def file(self, words: str, sort: str) -> Path | None:
        """Return a file that is there; `sort` as file dialogs write it: `Traces (*.jsonl)`."""
        chosen, _ = QFileDialog.getOpenFileName(self.parent, words, "", sort)
        return Path(chosen) if chosen else None
