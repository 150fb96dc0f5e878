"""The order list with its lanes: one scrolled picture, painted from rows."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QAbstractScrollArea, QToolTip, QWidget

from gatillo.desk.looks.plain import tip
from gatillo.desk.looks.theme import theme
from gatillo.desk.order_list.drag import Dragging
from gatillo.desk.order_list.lane_data import LaneData
from gatillo.desk.order_list.lane_painter import NUMBERED, LanePainter, TimeScale
from gatillo.desk.order_list.measures import HEADER, LEAST_PIXELS, LINE_X, MOST_PIXELS, ROW, TEXT_X
from gatillo.desk.order_list.pointer import Pointing
from gatillo.desk.order_list.row_painter import RowPainter
from gatillo.desk.order_list.rows import Row, Word, build_rows
from gatillo.desk.order_list.rule_writer import RuleWriting, is_typed
from gatillo.desk.order_list.sentence_layout import SentenceLayout
from gatillo.desk.order_list.slot_editor import SlotEditor
from gatillo.desk.session.workbench import Selection, Thing, Workbench
from gatillo.level import edits, rule_edits
from gatillo.level.model import Rule, Section


class OrderView(QAbstractScrollArea):
    """Rows of rules on the left, their lanes of time on the right."""

    zoomChanged = Signal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self.rows: list[Row] = []
        self.folded: set[str] = set()
        self.opened: set[int] = set()
        self.layout_ = SentenceLayout()
        self.scale = TimeScale()
        self.lanes = LaneData(bench.run)
        self.split = 0.42
        self.current = 0
        self.current_slot = -1
        self.dragging = Dragging(self)
        self.pointing = Pointing(self)
        self._fitted = False
        self.editor = SlotEditor(self.viewport(), bench)
        self.editor.taken.connect(self.set_slot)
        self.editor.walked.connect(self._walk_slots)
        self.new_row_after: tuple[int | None, str] | None = None
        """Where a rule is being typed: after a rule by id, or at the end of a section."""
        self.writing = RuleWriting(self)
        self.editor.closed.connect(self._on_editor_closed)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Order of rules and their lanes")
        self.viewport().setMouseTracking(True)
        self.setMinimumHeight(120)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        # all of it is painted: what is there can then be moved instead of painted anew
        self.viewport().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.horizontalScrollBar().valueChanged.connect(self._on_scrolled)
        self._document = bench.document
        bench.levelChanged.connect(self._on_level)
        bench.runChanged.connect(self._on_run)
        bench.judgedChanged.connect(self.rebuild)
        bench.cursorMoved.connect(self._on_cursor)
        bench.trialChosen.connect(self.fold_switched_off)
        bench.selectionChanged.connect(self._on_selection)
        self.rebuild()

    # what is shown

    def _on_level(self) -> None:
        if self._document != self.bench.document:
            # what was being written belongs to a level that is no longer here
            self._document = self.bench.document
            self.editor.close_editor(keep=False)
            self.writing.line.close_line()
            self.new_row_after = None
        self.rebuild()

    def rebuild(self) -> None:
        """Take the rows anew from the level."""
        self.folded &= {e.name for e in self.bench.level.order if isinstance(e, Section)}
        self.rows = build_rows(self.bench, self.folded, self.opened, self.new_row_after)
        self.current = min(self.current, len(self.rows) - 1)
        self._set_scroll_bars()
        self.writing.reopen_in_place()
        self.viewport().update()

    def fold_switched_off(self) -> None:
        """Fold the sections that are switched off: for a level just opened."""
        order = self.bench.program.level.order
        self.folded = {e.name for e in order if isinstance(e, Section) and not e.on}
        self.rebuild()

    def _on_run(self) -> None:
        self.lanes = LaneData(self.bench.run)
        self.rebuild()
        if not self._fitted and self.bench.run.done > 0:
            self.fit()

    def _on_cursor(self) -> None:
        x = self.scale.middle(self.bench.cursor.tick)
        margin = min(60.0, self.scale.width / 6)
        if not self.scale.left + margin <= x <= self.scale.left + self.scale.width - margin:
            if self.bench.running or self.bench.playing:
                self.scroll_to(self.bench.cursor.tick - 0.2 * self.scale.width / self.scale.pixels)
            else:
                self.scroll_to(self.bench.cursor.tick - 0.5 * self.scale.width / self.scale.pixels)
        self._update_lanes()

    def _on_selection(self) -> None:
        rule = self.bench.selection.rule
        if rule is not None:
            for at, row in enumerate(self.rows):
                if row.sort == "rule" and row.rule is not None and row.rule.id == rule:
                    if self.rows[self.current].rule is not row.rule:
                        self.current, self.current_slot = at, -1
                    self.show_row(at)
        self.viewport().update()

    # zooming and scrolling time

    def fit(self) -> None:
        """Show the whole run."""
        self._lay_out()
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
        """Let the lanes begin at a tick."""
        room = self.scale.width / self.scale.pixels
        most = max(0.0, max(self.bench.run.done, self.bench.run.length) + 2 - room)
        self.scale.first = max(0.0, min(first, most))
        self._set_scroll_bars()
        self._update_lanes()

    def _update_lanes(self) -> None:
        """Time has moved, not the rules: the right half is painted anew."""
        left = int(self.scale.left) - 1
        self.viewport().update(left, 0, self.viewport().width() - left, self.viewport().height())

    def scrollContentsBy(self, dx: int, dy: int) -> None:
        # what is painted already is moved; only the rows that come into sight are painted
        view = self.viewport()
        if dy:
            view.scroll(0, dy, QRect(0, HEADER, view.width(), view.height() - HEADER))
            self.writing.reopen_in_place()

    def resplit(self) -> None:
        """The two halves have another share of the width."""
        self._set_scroll_bars()
        self.viewport().update()

    def _set_scroll_bars(self) -> None:
        self._lay_out()
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
        self.verticalScrollBar().setRange(0, max(0, len(self.rows) * ROW - height + 6))
        self.verticalScrollBar().setPageStep(max(1, height))
        self.verticalScrollBar().setSingleStep(ROW)

    def _on_scrolled(self, value: int) -> None:
        self.scale.first = value / 10
        self._update_lanes()

    def _lay_out(self) -> None:
        width = self.viewport().width()
        self.scale.left = float(round(width * self.split))
        self.scale.width = max(20.0, width - self.scale.left)

    def resizeEvent(self, event: object) -> None:
        self._set_scroll_bars()
        if not self._fitted:
            self.fit()

    # geometry

    def row_area(self, at: int) -> QRectF:
        """The whole width of a row."""
        top = HEADER + at * ROW - self.verticalScrollBar().value()
        return QRectF(0, top, self.viewport().width(), ROW)

    def row_at(self, y: float) -> int | None:
        """The row at a height, or None."""
        if y < HEADER:
            return None
        at = int((y - HEADER + self.verticalScrollBar().value()) // ROW)
        return at if 0 <= at < len(self.rows) else None

    def text_area(self, at: int) -> QRectF:
        """Where a row's sentence stands."""
        row = self.rows[at]
        area = self.row_area(at)
        left = {"line": LINE_X, "more": LINE_X, "note": LINE_X, "section": 34.0, "new": TEXT_X}.get(
            row.sort, TEXT_X if row.sort == "rule" else 40.0
        )
        return QRectF(left, area.top(), self.scale.left - left - 10, ROW)

    def _lane_area(self, at: int) -> QRectF:
        area = self.row_area(at)
        return QRectF(self.scale.left, area.top(), self.scale.width, ROW)

    def show_row(self, at: int) -> None:
        area, bar = self.row_area(at), self.verticalScrollBar()
        if area.top() < HEADER:
            bar.setValue(int(bar.value() - (HEADER - area.top())))
        elif area.bottom() > self.viewport().height():
            bar.setValue(int(bar.value() + area.bottom() - self.viewport().height()))

    def current_row(self) -> Row | None:
        """The row that keys act on."""
        return self.rows[self.current] if 0 <= self.current < len(self.rows) else None

    def show_rule(self, rule_id: int) -> None:
        """Make a rule's row the current one, and let it be seen."""
        for at, row in enumerate(self.rows):
            if row.sort == "rule" and row.rule is not None and row.rule.id == rule_id:
                self.current, self.current_slot = at, -1
                self.show_row(at)
                self.viewport().update()
                return

    def _on_editor_closed(self, kept: bool) -> None:
        self.setFocus()
        self.writing.slot_closed(kept)

    def slots_of(self, at: int) -> list[Word]:
        """The editable words of a row, from left to right."""
        return [w for w in self.rows[at].words if w.editable] if 0 <= at < len(self.rows) else []

    def word_area(self, at: int, word: Word) -> QRectF:
        """Where a word of a row stands."""
        area = self.text_area(at)
        for run in self.layout_.lay_out(self.rows[at].words, self.bench.program.index):
            if run.word == word:
                width = min(run.width, max(20.0, area.right() - area.left() - run.x))
                return QRectF(area.left() + run.x, area.top(), width, ROW)
        return area

    # painting

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self.viewport())
        # an error must not leave the painter open: Qt would crash on it
        try:
            with self.bench.worker_held():
                self._paint(p, QRectF(event.rect()))
        finally:
            p.end()

    def _paint(self, p: QPainter, exposed: QRectF) -> None:
        """Paint what is exposed: all of it, the right half, or the rows that were scrolled into sight."""
        self._lay_out()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        whole = QRectF(self.viewport().rect())
        p.fillRect(exposed, theme().panel)
        scrolled = self.verticalScrollBar().value() - HEADER
        first = max(0, int(max(exposed.top(), HEADER) + scrolled) // ROW)
        last = int(exposed.bottom() + scrolled) // ROW + 1
        sight = range(first, min(len(self.rows), last))
        painter, rows = LanePainter(self.bench, self.lanes, self.scale), RowPainter(self)
        lanes = QRectF(self.scale.left, HEADER, self.scale.width, whole.height() - HEADER)
        if exposed.bottom() > HEADER:
            p.setClipRect(QRectF(0, HEADER, whole.width(), whole.height() - HEADER))
            p.fillRect(lanes, theme().paper)
            for at in sight:
                rows.ground(p, at)
            self._paint_lanes(p, painter, lanes, sight)
            if exposed.left() < self.scale.left:
                self._paint_rules(p, rows, sight)
        p.setClipping(False)
        if exposed.top() < HEADER:
            rows.header(p, whole, painter)
        rows.divide(p, whole)

    def _paint_lanes(self, p: QPainter, painter: LanePainter, lanes: QRectF, sight: range) -> None:
        p.setClipRect(lanes)
        painter.grid(p, lanes)
        for at in sight:
            painter.row(p, self.rows[at], self._lane_area(at))
        painter.cursor(p, lanes, 0)
        if self.scale.pixels >= NUMBERED:
            painter.threads(p, self._row_heights())
        for at in sight:
            painter.marks(p, self.rows[at], self._lane_area(at))

    def _paint_rules(self, p: QPainter, rows: RowPainter, sight: range) -> None:
        p.setClipRect(QRectF(0, HEADER, self.scale.left, self.viewport().height() - HEADER))
        for at in sight:
            rows.left(p, at)
        if self.dragging.drop_at is not None:
            y = self.row_area(self.dragging.drop_at).top()
            p.setPen(QPen(theme().cursor, 2))
            p.drawLine(QPointF(8, y), QPointF(self.scale.left - 8, y))

    def _row_heights(self) -> dict[int, float]:
        found: dict[int, float] = {}
        for at, row in enumerate(self.rows):
            if row.sort == "rule" and row.turn is not None:
                found[row.turn] = self.row_area(at).center().y()
        return found

    # pointing

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.pointing.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.pointing.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.pointing.let_go()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.pointing.double_click(event)

    def choose(self, at: int) -> None:
        """Make a row the current one, and select its rule."""
        self.current, self.current_slot = at, -1
        row = self.rows[at]
        if row.rule is not None:
            self.bench.select(Selection(rule=row.rule.id))
        elif row.section is not None:
            self.bench.select(Selection(thing=Thing("section", row.section.name)))
        elif row.sort in ("input", "watch", "expectation") and self.bench.level.trials:
            self.bench.select(Selection(thing=Thing("trial", self.bench.trial.name)))
        else:
            self.bench.select(Selection())
        self.viewport().update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        delta = event.angleDelta()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoom(1.2 ** (delta.y() / 120), event.position().x())
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier or abs(delta.x()) > abs(delta.y()):
            steps = (delta.x() or delta.y()) / 120
            self.scroll_to(self.scale.first - steps * 60 / self.scale.pixels)
        else:
            super().wheelEvent(event)

    def viewportEvent(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip:
            words = self.pointing.words_at(QPointF(event.pos()))  # type: ignore[attr-defined]
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
            self.move_current(-1 if key == Qt.Key.Key_Up else 1)
            return
        if modifiers & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier):
            super().keyPressEvent(event)
            return
        deeds: dict[int, Callable[[], None]] = {
            Qt.Key.Key_Up: lambda: self._walk(-1),
            Qt.Key.Key_Down: lambda: self._walk(1),
            Qt.Key.Key_Left: lambda: self.bench.step_tick(-1),
            Qt.Key.Key_Right: lambda: self.bench.step_tick(1),
            Qt.Key.Key_Space: lambda: self.toggle_on(self.current),
            Qt.Key.Key_Return: self.edit_slot,
            Qt.Key.Key_Enter: self.edit_slot,
            Qt.Key.Key_Period: lambda: self.toggle_fold(self.current),
            Qt.Key.Key_Plus: lambda: self.zoom(1.5),
            Qt.Key.Key_Minus: lambda: self.zoom(1 / 1.5),
        }
        deed = deeds.get(key)
        row = self.current_row()
        if deed is not None:
            deed()
        elif is_typed(event.text()):
            # a word begun on a rule is its next line, elsewhere a new rule
            (self.writing.new_line if row is not None and row.rule is not None else self.writing.new_rule)(
                event.text()
            )
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        # Tab walks a rule's slots before it leaves the list
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            way = {Qt.Key.Key_Tab: 1, Qt.Key.Key_Backtab: -1}.get(Qt.Key(event.key()), 0)
            if way and self._walk_slots(way):
                return True
        return super().event(event)

    def _walk(self, by: int) -> None:
        self.choose(max(0, min(len(self.rows) - 1, self.current + by)))
        self.show_row(self.current)

    def _walk_slots(self, by: int) -> bool:
        """On to the next slot of the rule, or back; False when the rule has no more."""
        many = len(self.slots_of(self.current))
        if 0 <= self.current_slot + by < many:
            self.current_slot += by
            self.viewport().update()
            return True
        rule = self.rows[self.current].rule if self.rows else None
        at = self.current + by
        while rule is not None and 0 <= at < len(self.rows) and self.rows[at].rule is rule:
            slots = self.slots_of(at)
            if self.rows[at].sort == "line" and slots:
                self.current, self.current_slot = at, 0 if by > 0 else len(slots) - 1
                self.show_row(at)
                self.viewport().update()
                return True
            at += by
        self.current_slot = -1
        self.viewport().update()
        return False

    # deeds

    def toggle_fold(self, at: int) -> None:
        """Fold or unfold a section or a rule."""
        row = self.rows[at]
        if row.section is not None:
            self.folded ^= {row.section.name}
        elif row.rule is not None:
            self.opened ^= {row.rule.id}
            if row.sort == "line":
                self.current = next(i for i, r in enumerate(self.rows) if r.rule is row.rule)
        self.rebuild()

    def toggle_on(self, at: int) -> None:
        """Switch a rule or a section on or off."""
        row = self.rows[at]
        bench = self.bench
        if row.section is not None:
            on = not row.section.on
            level = edits.switch_section(bench.level, row.section.name, on)
            bench.edit(level, f"switch “{row.section.name}” {'on' if on else 'off'}")
        elif row.rule is not None:
            on = not row.rule.on
            bench.edit(
                edits.switch_rule(bench.level, row.rule.id, on),
                f"switch “{row.rule.name}” {'on' if on else 'off'}",
            )

    def move_current(self, by: int) -> None:
        """Move the current line within its rule, or the current rule or section in the order."""
        row = self.current_row()
        if row is not None and row.section is not None:
            name = row.section.name
            level = rule_edits.move_section(self.bench.level, name, by)
            self.bench.edit(level, f"move the section “{name}” {'up' if by < 0 else 'down'}")
            self.choose(next(i for i, r in enumerate(self.rows) if r.section and r.section.name == name))
        elif not self.writing.move_line(by):
            self.move_rule(by)

    def move_rule(self, by: int) -> None:
        """Move the current rule up or down in the order."""
        rule = self.rows[self.current].rule if self.rows else None
        if rule is None:
            return
        self.bench.edit(
            edits.move_rule(self.bench.level, rule.id, by), f"move “{rule.name}” {'up' if by < 0 else 'down'}"
        )
        self.current = next(
            (
                i
                for i, r in enumerate(self.rows)
                if r.sort == "rule" and r.rule is not None and r.rule.id == rule.id
            ),
            self.current,
        )
        self.show_row(self.current)
        self.viewport().update()

    def edit_slot(self) -> None:
        """Edit the current slot in place; with none chosen, the first."""
        slots = self.slots_of(self.current)
        row = self.current_row()
        if row is not None and row.sort == "new":
            self.writing.new_rule()
        elif row is not None and row.sort == "more":
            self.writing.new_line()
        if not slots:
            return
        if not 0 <= self.current_slot < len(slots):
            self.current_slot = 0
        word = slots[self.current_slot]
        rule = self.rows[self.current].rule
        assert rule is not None and word.part is not None
        self.editor.open_editor(rule, word, self.word_area(self.current, word))

    def set_slot(self, rule: Rule, word: Word, text: str, *, join: str = "") -> None:
        """Put an edited text into the level."""
        assert word.part is not None
        try:
            level = edits.set_slot(
                self.bench.level, rule.id, word.part, word.line, word.slot, text, word.within
            )
        except LookupError:
            self.bench.told.emit(f"The line in “{rule.name}” is gone, so “{text}” has no place any more.")
            return
        self.bench.edit(level, f"change {word.slot} of “{rule.name}” to {text}", join)
