"""A small game window that knows nothing of rules: another process runs the level, and this one draws it and sends keys.

    python -m gatillo.examples.play_over_the_wire [FILE]

It draws with Qt's painter, at 60 ticks a second. See docs/protocol.md.
"""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QWidget

from gatillo.examples import study_path
from gatillo.serving.client import Client, RemoteError, connect
from gatillo.serving.messages import Changed, ObjectShown

KEYS = {
    Qt.Key.Key_Left: "Left",
    Qt.Key.Key_Right: "Right",
    Qt.Key.Key_Up: "Up",
    Qt.Key.Key_Down: "Down",
    Qt.Key.Key_Space: "Space",
    Qt.Key.Key_Return: "Enter",
}
PAPER, INK = QColor("#F4EFE6"), QColor("#2B2A28")


class Game(QWidget):
    """The level as the changes tell it."""

    def __init__(self, client: Client) -> None:
        super().__init__()
        self.client = client
        self.opened = client.open(scripted=False)
        client.subscribe()
        self.kinds = {kind.name: kind for kind in self.opened.kinds}
        self.objects: dict[int, ObjectShown] = {o.id: o for o in client.objects().objects}
        self.values: dict[str, Any] = client.variables().values
        self.sayings: dict[int, str] = {}
        self.telling = ""
        self.over = False
        self.setWindowTitle(f"{self.opened.level}, over the wire")
        self.resize(int(self.opened.width), int(self.opened.height) + 30)
        self.setMouseTracking(True)
        self.timer = QTimer(self)
        self.timer.timeout.connect(self.tick)
        self.timer.start(round(1000 / self.opened.rate))

    # what comes

    def tick(self) -> None:
        """Let the other process run a tick, and take over what has changed."""
        if self.over:
            return
        try:
            self.client.step()
        except (RemoteError, ConnectionError, TimeoutError) as error:
            self.telling, self.over = str(error), True
        for change in self.client.changes():
            self.take(change)
        self.update()

    def take(self, change: Changed) -> None:
        """Take over what has changed in a tick."""
        for one in change.created:
            self.objects[one.id] = one
        for number in change.removed:
            del self.objects[number]
        for number, x, y, facing, scale in change.moved:
            one = self.objects[number]
            one.x, one.y, one.facing, one.scale = x, y, facing, scale
        for number in change.shown:
            self.objects[number].shown = True
        for number in change.hidden:
            self.objects[number].shown = False
        self.values |= change.values
        self.sayings |= dict(change.sayings)
        self.telling = self.telling if change.telling is None else change.telling
        self.over = change.over

    # what is pressed

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self._key(event, self.client.hold)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        self._key(event, self.client.release)

    def _key(self, event: QKeyEvent, send: Any) -> None:
        name = KEYS.get(Qt.Key(event.key()), event.text().upper())
        if event.isAutoRepeat() or not name or self.over:
            return
        try:
            send(keys=[name])
        except RemoteError:
            # a key that no rule can name
            return

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self.over:
            at = event.position()
            self.client.point(x=at.x(), y=self.opened.height - at.y())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not self.over:
            self.client.hold(keys=["pointer left"])

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if not self.over:
            self.client.release(keys=["pointer left"])

    # what is seen

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), PAPER)
        for one in self.objects.values():
            if one.shown:
                self._draw(painter, one)
        painter.setPen(INK)
        for number, text in self.sayings.items():
            if number in self.objects and text:
                one = self.objects[number]
                painter.drawText(QPointF(one.x + 12, self.opened.height - one.y - 12), text)
        values = ", ".join(f"{name} {value:g}" for name, value in self.values.items() if type(value) is float)
        painter.drawText(8, self.height() - 10, f"{self.telling}   {values}")

    def _draw(self, painter: QPainter, one: ObjectShown) -> None:
        kind = self.kinds[one.kind]
        colour = QColor(kind.colour)
        painter.save()
        painter.translate(one.x, self.opened.height - one.y)
        painter.rotate(-one.angle)
        painter.scale(one.scale, one.scale)
        painter.setPen(QPen(colour.darker(140), 1))
        painter.setBrush(QColor(colour.red(), colour.green(), colour.blue(), 60 if kind.scenery else 140))
        width, height = (2 * (kind.radius or 0),) * 2 if kind.radius else (kind.width or 0, kind.height or 0)
        box = QRectF(-width / 2, -height / 2, width, height)
        painter.drawEllipse(box) if kind.radius else painter.drawRect(box)
        painter.restore()


def main() -> None:
    """Play a level, Night shift if none is given."""
    app = QApplication(sys.argv)
    file = Path(sys.argv[1]) if len(sys.argv) > 1 else Path(study_path("night-shift.gatillo"))
    with connect(file) as client:
        game = Game(client)
        game.show()
        app.exec()


if __name__ == "__main__":
    main()
