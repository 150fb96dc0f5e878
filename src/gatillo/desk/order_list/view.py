"""The order list with its lanes: one scrolled picture, painted from rows."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QDragEnterEvent,
    QDragMoveEvent,
    QDropEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QRegion,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QToolTip, QWidget

from gatillo.desk.looks.plain import tip
from gatillo.desk.looks.read_aloud import Role, let_be_read
from gatillo.desk.looks.theme import text_font, theme
from gatillo.desk.order_list.bar_drag import BarDrag
from gatillo.desk.order_list.drag import Drag
from gatillo.desk.order_list.geometry import ListGeometry
from gatillo.desk.order_list.lane_painter import LanePainter
from gatillo.desk.order_list.lanes.scale import NUMBERED
from gatillo.desk.order_list.list_state import ListState
from gatillo.desk.order_list.pointer import Pointer
from gatillo.desk.order_list.row_painter import RowPainter
from gatillo.desk.order_list.row_sizes import HEADER, LEAST_PIXELS, MOST_PIXELS, ROW
from gatillo.desk.order_list.rows_aloud import moment_aloud, rows_aloud
from gatillo.desk.order_list.rule_writer import RuleWriter, is_typed
from gatillo.desk.session.glow import Glow, goes_on
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.writing.pointing import NAME_MIME, Named, name_in
from gatillo.inspect.sweep.targets import target_at_line, targets

ALT_SHIFT = Qt.KeyboardModifier.AltModifier | Qt.KeyboardModifier.ShiftModifier


class OrderView(QAbstractScrollArea):
    """Rows of rules on the left, their lanes of time on the right."""

    zoomChanged = Signal()
    graphWanted = Signal(int)
    """A graph is to be shown beside the level."""
    newWanted = Signal(str)
    """Something is to be added at the end of the list, by the command that does it."""
    asked = Signal()
    """Why is asked of what is selected now, at the cursor."""
    markedPair = Signal(object, object, object)
    """One firing's mark was dragged onto another's: both, and the place of the screen."""
    menuWanted = Signal(object, object)
    """A menu is wanted at a place of the screen, with these commands."""

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self.state = ListState(bench, self)
        self.geometry_ = ListGeometry(self.state, self)
        self.scale = self.geometry_.scale
        self.writer = RuleWriter(self.state, self.geometry_, self)
        self.drag = Drag(self.state, self)
        self.bars = BarDrag(self.state, self.geometry_)
        self.pointer = Pointer(self.state, self.geometry_, self.drag, self.bars, self.writer, self)
        self.pointer.on_marks = self.markedPair.emit
        self.pointer.on_graph = self.graphWanted.emit
        self.pointer.on_ask = self.asked.emit
        self.pointer.on_new = self.newWanted.emit
        self.pointer.splitMoved.connect(self._refresh)
        self._fitted = False
        self._lit: set[int] = set()
        """The rows that were lit when they were painted last."""
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(0)
        self._soon.timeout.connect(self._refresh)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Order of rules and their lanes")
        self.aloud = let_be_read(
            self,
            Role.List,
            lambda: rows_aloud(self.state, self.geometry_, self.graphWanted.emit),
            self.viewport(),
        )
        for told in (
            self.state.rowsChanged,
            self.state.currentChanged,
            bench.cursorMoved,
            bench.runChanged,
            self.verticalScrollBar().valueChanged,
        ):
            told.connect(self.aloud.changed)
        self.viewport().setMouseTracking(True)
        self.setAcceptDrops(True)
        self.setMinimumHeight(120)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        # all of it is painted: what is there can then be moved instead of repainted
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.horizontalScrollBar().valueChanged.connect(self._on_scrolled)
        self.state.rowsChanged.connect(self._soon.start)
        self.state.currentChanged.connect(self.viewport().update)
        self.state.rowWanted.connect(self._show_row)
        bench.document.replaced.connect(self.writer.give_up)
        bench.document.replaced.connect(self.state.forget)
        bench.runChanged.connect(self._on_run)
        bench.cursorMoved.connect(self._on_cursor)
        bench.progressed.connect(self._update_lanes)
        bench.stretchChanged.connect(self.viewport().update)
        bench.answers.changed.connect(self.viewport().update)
        bench.answers.ruleWanted.connect(self.state.show_rule)
        bench.beside.changed.connect(self.viewport().update)
        self._refresh()

    # what is shown

    def _refresh(self) -> None:
        """Take up other rows: once for all that changed in a turn of the event loop."""
        self._soon.stop()
        self._set_scroll_bars()
        self.writer.reopen_in_place()
        self.viewport().update()

    def _on_run(self) -> None:
        if not self._fitted and self.bench.run.done > 0:
            self.fit()

    def _on_cursor(self) -> None:
        if not (self.bench.player.running or self.bench.player.playing):
            self.aloud.announce(lambda: moment_aloud(self.state))
        x = self.scale.middle(self.bench.cursor.tick)
        margin = min(60.0, self.scale.width / 6)
        if not self.scale.left + margin <= x <= self.scale.left + self.scale.width - margin:
            if self.bench.player.running or self.bench.player.playing:
                self.scroll_to(self.bench.cursor.tick - 0.2 * self.scale.width / self.scale.pixels)
            else:
                self.scroll_to(self.bench.cursor.tick - 0.5 * self.scale.width / self.scale.pixels)
        self._update_lanes()

    def _show_row(self, at: int) -> None:
        if self._soon.isActive():
            # there may be more rows than the scroll bar knows of
            self._refresh()
        area, bar = self.geometry_.row_area(at), self.verticalScrollBar()
        if area.top() < HEADER:
            bar.setValue(int(bar.value() - (HEADER - area.top())))
        elif area.bottom() > self.viewport().height():
            bar.setValue(int(bar.value() + area.bottom() - self.viewport().height()))
        self.viewport().update()

    # zooming and scrolling time

    def fit(self) -> None:
        """Show the whole run."""
        self.geometry_.lay_out()
        ticks = max(self.bench.run.done, self.bench.run.length) + 1
        self.scale.pixels = max(LEAST_PIXELS, min(MOST_PIXELS, self.scale.width / (ticks * 1.01)))
        self._fitted = self.bench.run.done > 0
        self.scroll_to(0)
        self.zoomChanged.emit()

    def forget_fit(self) -> None:
        """Fit the next run that comes: another level was opened."""
        self._fitted = False

    def zoom(self, factor: float, around: float | None = None) -> None:
        """Make ticks wider or narrower, keeping the tick under pixel `around` (or the cursor) in place."""
        x = self.scale.middle(self.bench.cursor.tick) if around is None else around
        if not self.scale.left <= x <= self.scale.left + self.scale.width:
            x = self.scale.left + self.scale.width / 2
        tick = (x - self.scale.left) / self.scale.pixels + self.scale.first
        self.scale.pixels = max(LEAST_PIXELS, min(MOST_PIXELS, self.scale.pixels * factor))
        self.scroll_to(tick - (x - self.scale.left) / self.scale.pixels)
        self.zoomChanged.emit()

    def zoom_to(self, pixels: float) -> None:
        """Make ticks this wide, with the cursor in the middle."""
        self.scale.pixels = pixels
        self.scroll_to(self.bench.cursor.tick + 0.5 - 0.5 * self.scale.width / pixels)
        self.zoomChanged.emit()

    def scroll_to(self, first: float) -> None:
        """Scroll the lanes so that they begin at a tick."""
        room = self.scale.width / self.scale.pixels
        most = max(0.0, max(self.bench.run.done, self.bench.run.length) + 2 - room)
        self.scale.first = max(0.0, min(first, most))
        self._set_scroll_bars()
        self._update_lanes()

    def _update_lanes(self) -> None:
        """Time has moved, not the rules: the right half is repainted, and the rows that light up or fade."""
        left = int(self.scale.left) - 1
        self.viewport().update(left, 0, self.viewport().width() - left, self.viewport().height())
        lit = self._rows_lit() if goes_on(self.bench) else set[int]()
        for at in lit | self._lit:
            self.viewport().update(self._left_of(at))
        self._lit = lit

    def _rows_lit(self) -> set[int]:
        """Return the rows in sight whose rules fired a moment ago."""
        glow, tick = Glow(self.bench), self.bench.cursor.tick
        scrolled = self.verticalScrollBar().value()
        first, last = scrolled // ROW, (scrolled + self.viewport().height()) // ROW + 1
        rows, lanes = self.state.rows, self.state.lanes
        return {
            at
            for at in range(max(0, first), min(len(rows), last))
            if rows[at].sort in ("rule", "graph") and glow.of(lanes.last_fired(rows[at].rule_index, tick)[1])
        }

    def scrollContentsBy(self, dx: int, dy: int) -> None:
        # what is painted already is moved; only the rows that come into sight are painted
        view = self.viewport()
        if dy:
            view.scroll(0, dy, QRect(0, HEADER, view.width(), view.height() - HEADER))
            self.writer.reopen_in_place()

    def _set_scroll_bars(self) -> None:
        self.geometry_.lay_out()
        room = self.scale.width / self.scale.pixels
        most = max(0.0, max(self.bench.run.done, self.bench.run.length) + 2 - room)
        bar = self.horizontalScrollBar()
        bar.blockSignals(True)
        bar.setRange(0, int(most * 10))
        bar.setPageStep(int(room * 10))
        bar.setSingleStep(max(1, int(room)))
        bar.setValue(int(self.scale.first * 10))
        bar.blockSignals(False)
        height = self.viewport().height() - HEADER
        self.verticalScrollBar().setRange(0, max(0, len(self.state.rows) * ROW - height + 6))
        self.verticalScrollBar().setPageStep(max(1, height))
        self.verticalScrollBar().setSingleStep(ROW)

    def _on_scrolled(self, value: int) -> None:
        self.scale.first = value / 10
        self._update_lanes()

    def resizeEvent(self, event: object) -> None:
        self._set_scroll_bars()
        if not self._fitted:
            self.fit()

    # painting

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self.viewport())
        # an error must not leave the painter open: Qt would crash on it
        try:
            with self.bench.worker_held():
                self._paint(p, QRectF(event.rect()), event.region())
        finally:
            p.end()

    def _paint(self, p: QPainter, exposed: QRectF, region: QRegion) -> None:
        """Paint what is exposed: all of it, the right half, or the rows that were scrolled into sight."""
        self.geometry_.lay_out()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        whole = QRectF(self.viewport().rect())
        p.fillRect(exposed, theme().panel)
        scrolled = self.verticalScrollBar().value() - HEADER
        first = max(0, int(max(exposed.top(), HEADER) + scrolled) // ROW)
        last = int(exposed.bottom() + scrolled) // ROW + 1
        sight = range(first, min(len(self.state.rows), last))
        painter, rows = (
            LanePainter(self.bench, self.state.lanes, self.scale, self.state.overlaid, self.state.chosen_bar),
            RowPainter(self.state, self.geometry_, focused=self.hasFocus()),
        )
        lanes = QRectF(self.scale.left, HEADER, self.scale.width, whole.height() - HEADER)
        if exposed.bottom() > HEADER:
            p.setClipRect(QRectF(0, HEADER, whole.width(), whole.height() - HEADER))
            p.fillRect(lanes, theme().paper)
            for at in sight:
                rows.ground(p, at)
            self._paint_lanes(p, painter, lanes, sight)
            if exposed.left() < self.scale.left:
                seen = [at for at in sight if region.intersects(self._left_of(at))]
                self._paint_rules(p, rows, seen)
        self._paint_progress(p, lanes)
        p.setClipping(False)
        if exposed.top() < HEADER:
            rows.header(p, whole, painter)
        rows.divide(p, whole)

    def _paint_lanes(self, p: QPainter, painter: LanePainter, lanes: QRectF, sight: range) -> None:
        p.setClipRect(lanes)
        painter.frame.grid(p, lanes)
        for at in sight:
            painter.rows.row(p, self.state.rows[at], self.geometry_.lane_area(at))
        painter.frame.stretch(p, lanes)
        painter.frame.cursor(p, lanes, 0)
        if self.scale.pixels >= NUMBERED:
            painter.arrows.threads(p, self._row_heights())
        if self.bench.answers.page is not None:
            painter.arrows.causes(p, self._row_heights())
        self._paint_drawn(p)
        for at in sight:
            painter.marks.firings(p, self.state.rows[at], self.geometry_.lane_area(at))
            painter.marks.card_runs(p, self.state.rows[at], self.geometry_.lane_area(at))
            painter.marks.lines(p, self.state.rows[at], self.geometry_.lane_area(at))

    def _left_of(self, at: int) -> QRect:
        """Return the left half of a row."""
        return QRect(0, int(self.geometry_.row_area(at).top()), int(self.scale.left) - 1, ROW)

    def _paint_rules(self, p: QPainter, rows: RowPainter, sight: Sequence[int]) -> None:
        p.setClipRect(QRectF(0, HEADER, self.scale.left, self.viewport().height() - HEADER))
        for at in sight:
            rows.left(p, at)
        self._paint_free(p)
        if self.drag.drop_at is not None:
            y = self.geometry_.row_area(self.drag.drop_at).top()
            p.setPen(QPen(theme().cursor, 2))
            p.drawLine(QPointF(8, y), QPointF(self.scale.left - 8, y))

    def progress_words(self) -> str:
        """Return how far the run that is being made has come, and what is shown pale meanwhile."""
        bench = self.bench
        done, length = bench.progress or (0, max(1, bench.run.length))
        words = f"Running the trial: {100 * done // max(1, length)} %" if done else "Running the trial …"
        return words + ("; pale: before the edit" if bench.shown.overlaid is not None else "")

    def _paint_progress(self, p: QPainter, lanes: QRectF) -> None:
        """While a run is being made: that it is, and how far it has come."""
        bench = self.bench
        if bench.player.playing or (bench.progress is None and bench.run.done):
            return
        done, length = bench.progress or (0, max(1, bench.run.length))
        t, words = theme(), self.progress_words()
        p.setClipRect(lanes)
        p.setFont(text_font(-1))
        wide = p.fontMetrics().horizontalAdvance(words) + 24
        # at the right, where it has not come to yet
        box = QRectF(lanes.right() - wide - 14, lanes.top() + 10, wide, 24)
        p.setPen(QPen(t.hairline, 1))
        p.setBrush(t.panel)
        p.drawRect(box)
        p.fillRect(QRectF(box.left(), box.bottom() - 3, box.width() * done / max(1, length), 3), t.cursor)
        p.setPen(t.ink)
        p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_drawn(self, p: QPainter) -> None:
        """Paint the line that is being drawn from one mark to another."""
        drawn = self.pointer.drawn
        if drawn is not None:
            p.setPen(QPen(theme().cursor, 2, Qt.PenStyle.DashLine))
            p.drawLine(*drawn)

    def _paint_free(self, p: QPainter) -> None:
        """Two hairlines: how far up and down the selected entry may go without any difference in this run."""
        free = self.bench.answers.free(self.bench.selection.rule)
        if free is None:
            return
        tops: dict[int, float] = {}
        bottoms: dict[int, float] = {}
        for at, row in enumerate(self.state.rows):
            if row.rule_index is not None:
                area = self.geometry_.row_area(at)
                tops.setdefault(row.rule_index, area.top())
                bottoms[row.rule_index] = area.bottom()
        t, right = theme(), self.scale.left
        p.setFont(text_font(-2))
        for y, words in (
            (tops.get(free[0]), "may go up to here: no difference"),
            (bottoms.get(free[1]), "may go down to here: no difference"),
        ):
            if y is None:
                continue
            p.setPen(QPen(t.held, 1.6))
            p.drawLine(QPointF(40, y), QPointF(right - 8, y))
            wide = p.fontMetrics().horizontalAdvance(words) + 10
            box = QRectF(right - 14 - wide, y - 7.5, wide, 15)
            p.fillRect(box, t.panel)
            p.setPen(t.held)
            p.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _row_heights(self) -> dict[int, float]:
        found: dict[int, float] = {}
        for at, row in enumerate(self.state.rows):
            if row.sort in ("rule", "graph") and row.rule_index is not None:
                found[row.rule_index] = self.geometry_.row_area(at).center().y()
        return found

    def number_now(self) -> str:
        """Return how the current number is spoken of: that of the current slot, or the first of the current row; "" for none."""
        state = self.state
        row, slots = state.current_row(), state.slots_of(state.current)
        if row is None or row.rule is None:
            return ""
        chosen = slots[state.current_slot : state.current_slot + 1] if state.current_slot >= 0 else slots
        known = {target.name for target in targets(self.bench.level)}
        for word in chosen:
            if word.part is not None:
                name = target_at_line(row.rule, word.part, word.line, word.slot, word.within)
                if name in known:
                    return name
        return ""

    # pointing

    def named_at(self, point: QPoint, kind: bool) -> Named | None:
        """Return what is named at a point, for a name to be filled in."""
        return self.pointer.named_at(QPointF(self.viewport().mapFrom(self, point)))

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasFormat(NAME_MIME):
            event.acceptProposedAction()

    def dragMoveEvent(self, event: QDragMoveEvent) -> None:
        if event.mimeData().hasFormat(NAME_MIME):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        name = name_in(event.mimeData())
        if name:
            self.pointer.drop(event.position(), name)
            event.acceptProposedAction()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.pointer.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.pointer.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.pointer.let_go(event)

    def _enter(self) -> None:
        """Edit the row's slot; a graph is opened."""
        row = self.state.current_row()
        if row is not None and row.graph is not None:
            self.graphWanted.emit(row.graph.id)
        else:
            self.writer.edit_slot()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.pointer.double_click(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        # by the menu key it is of the current row
        by_key = event.reason() == QContextMenuEvent.Reason.Keyboard
        at = self.state.current if by_key else None
        point = self.geometry_.row_area(self.state.current).center() if by_key else QPointF(event.pos())
        names = self.pointer.commands_at(point, at)
        if names:
            where = self.viewport().mapToGlobal(point.toPoint()) if by_key else event.globalPos()
            self.menuWanted.emit(where, names)

    def wheelEvent(self, event: QWheelEvent) -> None:
        delta = event.angleDelta()
        if not event.modifiers() and self.writer.line.scroll(event):
            return
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.2 ** (delta.y() / 120), event.position().x())
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier or abs(delta.x()) > abs(delta.y()):
            steps = (delta.x() or delta.y()) / 120
            self.scroll_to(self.scale.first - steps * 60 / self.scale.pixels)
        else:
            super().wheelEvent(event)

    def viewportEvent(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip:
            words = self.pointer.words_at(QPointF(event.pos()))  # type: ignore[attr-defined]
            if words:
                QToolTip.showText(event.globalPos(), tip(words), self.viewport())  # type: ignore[attr-defined]
            else:
                QToolTip.hideText()
            return True
        return super().viewportEvent(event)

    # keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, modifiers = event.key(), event.modifiers()
        if modifiers & Qt.KeyboardModifier.AltModifier and key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.writer.move_current(-1 if key == Qt.Key.Key_Up else 1)
            return
        if modifiers in (Qt.KeyboardModifier.ShiftModifier, ALT_SHIFT):
            by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(key), 0)
            if by and self.bars.nudge(by, end_only=modifiers == ALT_SHIFT):
                return
        if modifiers & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier):
            super().keyPressEvent(event)
            return
        runs: dict[int, Callable[[], None]] = {
            Qt.Key.Key_Up: lambda: self.state.walk(-1),
            Qt.Key.Key_Down: lambda: self.state.walk(1),
            Qt.Key.Key_Left: lambda: self.bench.moment.step_tick(-1),
            Qt.Key.Key_Right: lambda: self.bench.moment.step_tick(1),
            Qt.Key.Key_Space: lambda: self.state.toggle_on(self.state.current),
            Qt.Key.Key_Return: self._enter,
            Qt.Key.Key_Enter: self._enter,
            Qt.Key.Key_Period: lambda: self.state.toggle_fold(self.state.current),
            Qt.Key.Key_Plus: lambda: self.zoom(1.5),
            Qt.Key.Key_Minus: lambda: self.zoom(1 / 1.5),
        }
        run = runs.get(key)
        row = self.state.current_row()
        if run is not None:
            run()
        elif is_typed(event.text()):
            # a word begun on a rule is its next line, elsewhere a new rule
            (self.writer.new_line if row is not None and row.rule is not None else self.writer.new_rule)(
                event.text()
            )
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        # Tab walks a rule's slots before it leaves the list
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            way = {Qt.Key.Key_Tab: 1, Qt.Key.Key_Backtab: -1}.get(Qt.Key(event.key()), 0)
            if way and self.state.walk_slots(way):
                return True
        return super().event(event)
