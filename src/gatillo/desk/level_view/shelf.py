"""The shelf: the level's kinds, to drag or click into the level."""

from __future__ import annotations

from PySide6.QtCore import QByteArray, QPoint, QSize, Qt, Signal
from PySide6.QtGui import QDrag, QIcon, QMouseEvent
from PySide6.QtWidgets import QApplication, QHBoxLayout, QScrollArea, QToolButton, QWidget

from gatillo.desk.level_view.object_commands import ObjectCommands
from gatillo.desk.level_view.placement_tools import KIND_MIME, PlacementTools
from gatillo.desk.looks import plain
from gatillo.desk.looks.plain import Words
from gatillo.desk.looks.small_pictures import kind_picture
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.writing.pointing import Named, mime_of
from gatillo.level.model import Kind

HEIGHT = 44


class _KindButton(QToolButton):
    """One kind: dragged into the level, or clicked to place it with the next click there."""

    def __init__(self, kind: Kind, objects: ObjectCommands) -> None:
        super().__init__()
        self.kind = kind
        self.objects = objects
        self._press: QPoint | None = None
        self.setObjectName("shelf")
        self.setText(kind.name)
        self.setIcon(QIcon(kind_picture(kind)))
        self.setIconSize(QSize(24, 24))
        self.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.setCheckable(True)
        self.setToolTip(
            plain.tip(
                f"Drag into the level, or click here and then where you want a {kind.name}.\n"
                "Enter places one in the middle."
            )
        )
        self.setAccessibleName(f"Place a {kind.name}")

    def named_at(self, point: QPoint, kind: bool) -> Named | None:
        """Return the kind, for its name to be filled in."""
        return Named(self.kind.name, "kind")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._press = event.position().toPoint()
        super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        start = self._press
        if (
            start is None
            or (event.position().toPoint() - start).manhattanLength() < QApplication.startDragDistance()
        ):
            return
        self._press = None
        self.setDown(False)
        drag = QDrag(self)
        data = mime_of(self.kind.name)
        data.setData(KIND_MIME, QByteArray(self.kind.name.encode()))
        drag.setMimeData(data)
        picture = kind_picture(self.kind, 32)
        drag.setPixmap(picture)
        drag.setHotSpot(QPoint(16, 16))
        drag.exec(Qt.DropAction.CopyAction)

    def keyPressEvent(self, event: object) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):  # type: ignore[attr-defined]
            self.objects.place_in_middle(self.kind.name)
            return
        super().keyPressEvent(event)  # type: ignore[arg-type]


class Shelf(QScrollArea):
    """The kinds of the level in a row."""

    newKindWanted = Signal()

    def __init__(
        self,
        bench: Workbench,
        tools: PlacementTools,
        objects: ObjectCommands,
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self.bench = bench
        self.tools = tools
        self.objects = objects
        self._kinds: tuple[Kind, ...] | None = None
        self.setFixedHeight(HEIGHT)
        self.setWidgetResizable(True)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.buttons: list[_KindButton] = []
        bench.levelChanged.connect(self.rebuild)
        tools.armedChanged.connect(self._show_armed)
        self.rebuild()

    def rebuild(self, *, anew: bool = False) -> None:
        """Show the kinds of the level; `anew`: even if they are the same (the theme changed)."""
        kinds = self.bench.level.kinds
        if kinds == self._kinds and not anew:
            return
        self._kinds = kinds
        inner = QWidget()
        row = QHBoxLayout(inner)
        row.setContentsMargins(8, 2, 8, 2)
        row.setSpacing(2)
        self.buttons = []
        for kind in kinds:
            button = _KindButton(kind, self.objects)
            button.clicked.connect(lambda checked, k=kind.name: self._clicked(k, checked))
            row.addWidget(button)
            self.buttons.append(button)
        if not kinds:
            words = Words("No kinds yet. A kind is what objects of one sort share:")
            words.setObjectName("quiet")
            row.addWidget(words)
        self.add = QToolButton()
        self.add.setObjectName("shelf-add")
        self.add.setText("+ kind")
        self.add.setAccessibleName("New kind")
        self.add.setToolTip("Make a new kind of object")
        self.add.clicked.connect(lambda: self.newKindWanted.emit())
        row.addWidget(self.add)
        row.addStretch(1)
        old = self.takeWidget()
        if old is not None:
            old.hide()
            old.deleteLater()
        self.setWidget(inner)

    def _clicked(self, kind: str, checked: bool) -> None:
        self.tools.arm(kind if checked else None)
        self.bench.select(Selection(thing=Thing("kind", kind)))

    def _show_armed(self) -> None:
        for button in self.buttons:
            button.setChecked(button.kind.name == self.tools.armed)
