"""The region at the left upper side: the level, with a graph or the trials beside it, below it, or in its place."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

from PySide6.QtCore import QByteArray, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QSplitter, QToolButton, QVBoxLayout, QWidget

from gatillo.desk.graph_view.page import GraphPage
from gatillo.desk.looks import plain
from gatillo.desk.looks.plain import ShortWords
from gatillo.desk.looks.theme import text_font, theme

HEIGHT = 30
WAYS = {"beside": "Beside the level", "below": "Below the level", "instead": "In the place of the level"}
"""Where a graph or the trials stand, and how that is called."""
MOST_LETTERS = 32
HALVES = [1_000, 1_000, 1_000]
"""The level and what stands with it share the room evenly."""
Shown = Literal["", "graph", "trials"]
"""What stands with the level."""


class _Half(QWidget):
    """A page with a head: a tab with its name, and tools."""

    def __init__(self, page: QWidget, tab: QToolButton, *head: QWidget) -> None:
        super().__init__()
        self.head = QWidget()
        self.head.setFixedHeight(HEIGHT)
        row = QHBoxLayout(self.head)
        row.setContentsMargins(10, 0, 8, 0)
        row.setSpacing(6)
        row.addWidget(tab)
        row.addSpacing(4)
        for at, widget in enumerate(head):
            row.addWidget(widget, 1 if at == 0 else 0)
        self.line = QWidget()
        self.line.setFixedHeight(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.head)
        column.addWidget(self.line)
        column.addWidget(page, 1)


class Region(QWidget):
    """The level with its tools and shelf, and a graph or the page of all trials where one is open."""

    changed = Signal()
    """A graph or the trials are shown or put away, or stand elsewhere."""

    def __init__(
        self,
        level: QWidget,
        level_tools: QWidget,
        level_note: QWidget,
        graph: GraphPage,
        trials: QWidget,
    ) -> None:
        super().__init__()
        self.graph = graph
        self.way = "beside"
        """Where a graph or the trials stand: a name of `WAYS`."""
        self.tabs: dict[str, QToolButton] = {}
        self._sizes: dict[str, QByteArray] = {}
        self.level_half = _Half(level, self._tab("level", self.show_level), level_note, level_tools)
        self.tabs["level"].setText("Level")
        self._back = self._tool("Level", "Back to the level", self.show_level)
        self._away = self._tool("Close", "Put the graph away", self.show_level)
        self.graph_half = _Half(
            graph.view, self._tab("graph", self.show_graph), graph.head, self._back, self._away
        )
        note = ShortWords("Run them, and say what must hold")
        note.setObjectName("quiet")
        self._trials_away = self._tool("Close", "Put the trials away", self.show_level)
        self.trials_half = _Half(trials, self._tab("trials", self.show_trials), note, self._trials_away)
        self.tabs["trials"].setText("Trials")
        self.splitter = QSplitter(Qt.Orientation.Horizontal)
        self.splitter.setHandleWidth(1)
        self.splitter.setChildrenCollapsible(False)
        self.splitter.addWidget(self.level_half)
        self.splitter.addWidget(self.graph_half)
        self.splitter.addWidget(self.trials_half)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.splitter)
        self._parted: set[str] = set()
        """The ways in which the region has been parted once."""
        self._shows: Shown = ""
        graph.shown.connect(self._on_graph)
        self._arrange()
        self._on_graph()
        self.restyle()

    def _tab(self, name: str, run: Callable[[], None]) -> QToolButton:
        tab = self.tabs[name] = QToolButton()
        tab.setObjectName("tab")
        tab.setFont(text_font(0, bold=True))
        tab.setCheckable(True)
        tab.setChecked(True)
        tab.clicked.connect(run)
        return tab

    def _tool(self, words: str, tip: str, run: Callable[[], None]) -> QToolButton:
        tool = QToolButton()
        tool.setObjectName("tool")
        tool.setText(words)
        tool.setToolTip(plain.tip(tip))
        tool.setAccessibleName(tip)
        tool.clicked.connect(run)
        return tool

    @property
    def shows_graph(self) -> bool:
        """Whether a graph is shown."""
        return self._shows == "graph"

    @property
    def shows_trials(self) -> bool:
        """Whether the page of all trials is shown."""
        return self._shows == "trials"

    @property
    def shows_level(self) -> bool:
        """Whether the level is shown."""
        return not self._shows or self.way != "instead"

    def show_level(self) -> None:
        """Put the graph or the trials away."""
        self.graph.view.leave()
        self._turn("")

    def show_trials(self) -> None:
        """Show the page of all trials."""
        self.graph.view.leave()
        self._turn("trials")
        self.show()

    def show_graph(self) -> None:
        """Show the graph that was opened last."""
        self._turn("graph" if self.graph.graph is not None else "")
        if self.shows_graph:
            self.show()
            self.graph.view.setFocus()

    def open_graph(self, graph_id: int) -> None:
        """Show a graph."""
        if not self.shows_graph:
            # its page has its size before the sheet is fitted into it
            self._turn("graph")
        self.graph.open_graph(graph_id)
        self.show_graph()

    def stand(self, way: str) -> None:
        """Let graphs stand beside the level, below it or in its place."""
        if way in WAYS and way != self.way:
            self._sizes[self.way] = self.splitter.saveState()
            self.way = way
            self._arrange()
            self.changed.emit()

    def saved(self) -> QByteArray:
        """Return how the region is parted, to be kept."""
        return self.splitter.saveState()

    def restore(self, way: str, parted: QByteArray | None) -> None:
        """Take an arrangement that was kept."""
        self.stand(way)
        if parted is not None:
            self.splitter.restoreState(parted)
            self._parted.add(way)
            self._arrange()

    def _turn(self, shows: Shown) -> None:
        self._shows = shows
        self._arrange()
        self.changed.emit()
        if shows and self.way not in self._parted and self.isVisible():
            self._parted.add(self.way)
            self.splitter.setSizes(HALVES)

    def _arrange(self) -> None:
        below = self.way == "below"
        wanted = Qt.Orientation.Vertical if below else Qt.Orientation.Horizontal
        if self.splitter.orientation() != wanted:
            self.splitter.setOrientation(wanted)
            kept = self._sizes.get(self.way)
            if kept is None or not self.splitter.restoreState(kept):
                self.splitter.setSizes(HALVES)
            self.splitter.setOrientation(wanted)
        self.graph_half.setVisible(self.shows_graph)
        self.trials_half.setVisible(self.shows_trials)
        self.level_half.setVisible(self.shows_level)
        self._back.setVisible(self.way == "instead")
        self._away.setVisible(self.way != "instead")

    def _on_graph(self) -> None:
        graph = self.graph.graph
        name = graph.name if graph is not None else ""
        shown = name if len(name) < MOST_LETTERS else f"{name[: MOST_LETTERS - 2]}…"
        self.tabs["graph"].setText(f"Graph: {shown}".replace("&", "&&"))
        if graph is None and self.shows_graph:
            self.show_level()

    def restyle(self) -> None:
        """The theme or the font has changed."""
        t = theme()
        for half in (self.level_half, self.graph_half, self.trials_half):
            half.head.setStyleSheet(f"background: {t.field.name()};")
            half.line.setStyleSheet(f"background: {t.hairline.name()};")
        self.splitter.setStyleSheet(f"QSplitter::handle {{ background: {t.hairline.name()}; }}")
        for tab in self.tabs.values():
            tab.setChecked(True)
            tab.setStyleSheet(
                "QToolButton { border: none; border-bottom: 2px solid transparent; padding: 4px 6px 2px 6px;"
                f" color: {t.ink.name()}; background: {t.field.name()}; }}"
                f"QToolButton:focus {{ border-bottom: 2px dotted {t.cursor.name()}; }}"
            )
        self.graph.restyle()
