"""The page of a graph: its name and the way into own nodes, a field to find cards, and the sheet."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QToolButton, QWidget

from gatillo.catalogue.declare.named_types import is_own_node
from gatillo.desk.graph_view.graph_commands import GraphCommands
from gatillo.desk.graph_view.view import GraphView
from gatillo.desk.looks import plain
from gatillo.desk.looks.plain import ShortWords, Words
from gatillo.desk.session.glow import goes_on
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.workbench import Workbench
from gatillo.level.graphs import OWN
from gatillo.level.model import Graph
from gatillo.level.roles import all_logic


class GraphPage(QObject):
    """A graph, and the way that led to it: what is at the head of the region, and the sheet."""

    shown = Signal()
    """Another graph is shown, or its name has changed."""

    def __init__(self, bench: Workbench, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self.commands = GraphCommands(bench, self)
        self.view = GraphView(bench, self.commands)
        self.view.opened.connect(self.go_into)
        self._told: list[int] = []
        self.way: list[int] = []
        """The graphs from which one went into own nodes, and the one that is shown."""
        self.head = QWidget()
        self.row = QHBoxLayout(self.head)
        self.row.setContentsMargins(0, 0, 0, 0)
        self.row.setSpacing(4)
        self.crumbs = QWidget()
        self.crumb_row = QHBoxLayout(self.crumbs)
        self.crumb_row.setContentsMargins(0, 0, 0, 0)
        self.crumb_row.setSpacing(4)
        self.row.addWidget(self.crumbs)
        self.note = ShortWords()
        self.note.setObjectName("quiet")
        self.row.addWidget(self.note, 1)
        self.finding = QLineEdit()
        self.finding.setObjectName("find-card")
        self.finding.setPlaceholderText("find")
        self.finding.setToolTip(plain.tip("Find a card of this graph"))
        self.finding.setAccessibleName("Find a card of this graph")
        self.finding.setMinimumWidth(60)
        self.finding.setMaximumWidth(130)
        self.finding.returnPressed.connect(self._find)
        self.row.addWidget(self.finding)
        for name, words, tip, run in (
            ("tidy-cards", "Tidy", "Lay the cards out from top to bottom", self.commands.cards.tidy),
            ("show-all-cards", "All", "Show the whole graph", self.view.fit),
        ):
            button = QToolButton()
            button.setObjectName("tool")
            button.setProperty("command", name)
            button.setText(words)
            button.setToolTip(plain.tip(tip))
            button.setAccessibleName(f"{words}: {tip}")
            button.clicked.connect(lambda _=False, run=run: run())
            self.row.addWidget(button)
        bench.levelChanged.connect(self._on_level)
        bench.selectionChanged.connect(self._tell)
        bench.cursorMoved.connect(self._tell)
        bench.runningChanged.connect(self._tell)
        self.restyle()

    def restyle(self) -> None:
        """The theme or the font has changed."""
        self.commands.opened.forget()
        self.view.update()

    @property
    def graph(self) -> Graph | None:
        """The graph that is shown."""
        return self.commands.opened.graph

    @property
    def has_values(self) -> bool:
        """Whether the graph that is shown has wires of values."""
        return self.graph is not None and bool(self.graph.values)

    def open_graph(self, graph_id: int) -> None:
        """Show a graph by itself."""
        self.way = [graph_id]
        self._show()

    def go_into(self, name: str) -> None:
        """Show an own node that the graph uses."""
        found = self.commands.opened.graphs.get(name)
        if found is None:
            self.bench.notify(f"There is no own node called “{name}”.")
            return
        self.way = [*self.way, found.id]
        self._show()

    def go_back_to(self, graph_id: int) -> None:
        """Show a graph of the way again."""
        self.way = self.way[: self.way.index(graph_id) + 1]
        self._show()

    def _show(self) -> None:
        self.view.show_graph(self.way[-1])
        if self.bench.selection.rule != self.way[-1]:
            self.bench.select(Selection(rule=self.way[-1]))
        self._crumbs()
        self.shown.emit()

    def _on_level(self) -> None:
        known = {e.id for _, _, e in all_logic(self.bench.level) if isinstance(e, Graph)}
        if any(number not in known for number in self.way):
            self.way = [number for number in self.way if number in known]
            if self.way:
                self.view.show_graph(self.way[-1])
        self._crumbs()
        self.shown.emit()

    def _crumbs(self) -> None:
        while (item := self.crumb_row.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        names = {e.id: e.name for _, _, e in all_logic(self.bench.level)}
        for at, number in enumerate(self.way[:-1]):
            back = QToolButton()
            back.setObjectName("tool")
            back.setText(names.get(number, ""))
            back.setAccessibleName(f"Back to “{names.get(number, '')}”")
            back.clicked.connect(lambda _=False, n=number: self.go_back_to(n))
            self.crumb_row.addWidget(back)
            self.crumb_row.addWidget(Words("in it" if at == len(self.way) - 2 else "·"))
        self.crumbs.setVisible(len(self.way) > 1)
        self._tell()

    def _tell(self) -> None:
        graph = self.graph
        if goes_on(self.bench) and self._told == self.way:
            return
        self._told = list(self.way) if goes_on(self.bench) else []
        if graph is None:
            self.note.setText("")
            return
        position = self.bench.program.index.rule_names.get(graph.name)
        words = []
        if is_own_node(graph):
            uses = sum(
                node.slots.get("graph") == graph.name
                for _, _, e in all_logic(self.bench.level)
                if isinstance(e, Graph)
                for node in e.nodes
                if node.use == OWN
            )
            words.append(f"own node, used {uses} time{'s' if uses != 1 else ''}")
        elif position is not None:
            words.append(f"{position + 1}. in the order")
        if graph.for_:
            words.append(f"for each {graph.for_}")
        if self.bench.cursor.tick and not goes_on(self.bench):
            many = len(self.view.ran.cards)
            words.append(f"{many} card{'s' if many != 1 else ''} ran" if many else "did not run in this tick")
        self.note.setText(" · ".join(words))

    def _find(self) -> None:
        if not self.view.find_card(self.finding.text()):
            self.bench.notify(f"No card of this graph contains “{self.finding.text()}”.")
