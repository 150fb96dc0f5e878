"""The region at the left upper side: the level, or a graph beside it, with a tab for each."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QToolButton, QVBoxLayout, QWidget

from gatillo.desk.graph_view.page import GraphPage
from gatillo.desk.looks.theme import text_font, theme

HEIGHT = 30


class Region(QWidget):
    """One page at a time: the level with its tools and shelf, or a graph."""

    changed = Signal()
    """Another page is shown."""

    def __init__(self, level: QWidget, level_tools: QWidget, level_note: QWidget, graph: GraphPage) -> None:
        super().__init__()
        self.level = level
        self.graph = graph
        self.tabs: dict[str, QToolButton] = {}
        self.head = QWidget()
        self.head.setFixedHeight(HEIGHT)
        row = QHBoxLayout(self.head)
        row.setContentsMargins(10, 0, 14, 0)
        row.setSpacing(6)
        for name, words, run in (("level", "Level", self.show_level), ("graph", "", self.show_graph)):
            tab = QToolButton()
            tab.setObjectName("tab")
            tab.setText(words)
            tab.setFont(text_font(0, bold=True))
            tab.setCheckable(True)
            tab.clicked.connect(run)
            row.addWidget(tab)
            self.tabs[name] = tab
        row.addSpacing(4)
        self.heads = QStackedWidget()
        level_head = QWidget()
        level_row = QHBoxLayout(level_head)
        level_row.setContentsMargins(0, 0, 0, 0)
        level_row.addWidget(level_note, 1)
        level_row.addWidget(level_tools)
        self.heads.addWidget(level_head)
        self.heads.addWidget(graph.head)
        row.addWidget(self.heads, 1)
        self.line = QWidget()
        self.line.setFixedHeight(1)
        self.stack = QStackedWidget()
        self.stack.addWidget(level)
        self.stack.addWidget(graph.view)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.head)
        column.addWidget(self.line)
        column.addWidget(self.stack, 1)
        graph.shown.connect(self._on_graph)
        self._on_graph()
        self.restyle()

    @property
    def shows_graph(self) -> bool:
        """Whether the graph is the page that is shown."""
        return self.stack.currentWidget() is self.graph.view

    def show_level(self) -> None:
        """Show the level."""
        self.graph.view.leave()
        self._turn_to(0)

    def show_graph(self) -> None:
        """Show the graph that was opened last."""
        self._turn_to(1 if self.graph.graph is not None else 0)
        if self.shows_graph:
            self.show()
            self.graph.view.setFocus()

    def open_graph(self, graph_id: int) -> None:
        """Show a graph."""
        self.graph.open_graph(graph_id)
        self.show_graph()

    def _turn_to(self, page: int) -> None:
        self.heads.setCurrentIndex(page)
        self.stack.setCurrentIndex(page)
        for at, tab in enumerate(self.tabs.values()):
            tab.setChecked(at == page)
        self.changed.emit()

    def _on_graph(self) -> None:
        graph = self.graph.graph
        tab = self.tabs["graph"]
        tab.setVisible(graph is not None)
        name = graph.name if graph is not None else ""
        tab.setText(
            f"Graph: {name}".replace("&", "&&")
            if len(name) < 32
            else f"Graph: {name[:30]}…".replace("&", "&&")
        )
        if graph is None and self.shows_graph:
            self.show_level()
        elif not self.shows_graph:
            self.tabs["level"].setChecked(True)

    def restyle(self) -> None:
        """The theme or the font has changed."""
        t = theme()
        self.head.setStyleSheet(
            f"background: {t.field.name()};"
            f"QToolButton#tab {{ border: none; padding: 3px 8px; color: {t.quiet.name()}; }}"
        )
        self.line.setStyleSheet(f"background: {t.hairline.name()};")
        for tab in self.tabs.values():
            tab.setStyleSheet(
                "QToolButton { border: none; border-bottom: 2px solid transparent; padding: 4px 6px 2px 6px;"
                f" color: {t.quiet.name()}; background: {t.field.name()}; }}"
                f"QToolButton:checked {{ color: {t.ink.name()}; border-bottom: 2px solid {t.cursor.name()}; }}"
                f"QToolButton:focus {{ border-bottom: 2px dotted {t.cursor.name()}; }}"
            )
        self.graph.restyle()
