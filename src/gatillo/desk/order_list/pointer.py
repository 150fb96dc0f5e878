"""Pointing in the order list: what lies under the pointer, and what a press on it does."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QMouseEvent

from gatillo.desk.order_list.measures import LINE_X, SWITCH, TEXT_X
from gatillo.desk.session.telling import firing_words, look_words
from gatillo.sim.run.run import Cursor

if TYPE_CHECKING:
    from gatillo.desk.order_list.view import OrderView


class Pointing:
    """The pointer over an order list."""

    def __init__(self, view: OrderView) -> None:
        self.view = view
        self._drag = ""
        """What is being dragged: the split, the cursor, a rule or line, a value; or nothing."""

    def mark_at(self, point: QPointF) -> Cursor | None:
        """The firing whose mark lies under a point."""
        at = self.view.row_at(point.y())
        if at is None or point.x() < self.view.scale.left or self.view.rows[at].sort != "rule":
            return None
        turn = self.view.rows[at].turn
        if turn is None:
            return None
        tick = self.view.scale.tick(point.x())
        reach = max(0, int(5 / self.view.scale.pixels))
        marks = self.view.lanes.lane(turn)
        best: tuple[float, Cursor] | None = None
        sight = marks.between(tick - reach - 1, tick + reach + 1)
        trace = self.view.bench.run.trace
        for i in range(*sight.indices(len(marks.tick))):
            cursor = Cursor(int(marks.tick[i]), int(marks.position[i]))
            x = self.view.scale.mark_x(cursor.tick, cursor.position, trace.count_at(cursor.tick))
            off = abs(x - point.x())
            if off <= 10 and (best is None or off < best[0]):
                best = (off, cursor)
        return best[1] if best else None

    def press(self, event: QMouseEvent) -> None:
        """A button went down: take hold of what lies there, or do what it is for."""
        point = event.position()
        self.view.editor.close_editor(keep=True)
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if abs(point.x() - self.view.scale.left) < 4:
            self._drag = "split"
            return
        at = self.view.row_at(point.y())
        if point.x() > self.view.scale.left:
            self._press_lane(point, at)
            return
        if at is not None:
            self._press_left(point, at)

    def _press_lane(self, point: QPointF, at: int | None) -> None:
        mark = self.mark_at(point)
        if at is not None and self.view.rows[at].rule is not None:
            self.view.choose(at)
        verdict = self.view.rows[at].verdict if at is not None else None
        if mark is not None:
            self.view.bench.move_cursor(mark)
        elif verdict is not None and verdict.tick is not None:
            self.view.bench.move_cursor(self.view.bench.run.end_of(verdict.tick))
        else:
            self._drag = "cursor"
            self._scrub(point.x())

    def _press_left(self, point: QPointF, at: int) -> None:
        row = self.view.rows[at]
        self.view.choose(at)
        if row.sort == "section" and point.x() < 34:
            self.view.toggle_fold(at)
            return
        if row.sort == "rule":
            if SWITCH.adjusted(-3, -8, 3, 8).contains(
                QPointF(point.x(), point.y() - self.view.row_area(at).top())
            ):
                self.view.toggle_on(at)
                return
            if 54 <= point.x() < TEXT_X:
                self.view.toggle_fold(at)
                return
            if point.x() < 38:
                self._drag = "rule"
                return
        if row.sort == "line" and not row.within and point.x() < LINE_X:
            self._drag = "rule"
            return
        if row.sort == "new":
            self.view.writing.new_rule()
            return
        if row.sort == "more":
            self.view.writing.new_line()
            return
        for number, word in enumerate(self.view.slots_of(at)):
            if self.view.word_area(at, word).adjusted(-2, 0, 2, 0).contains(point):
                self.view.current_slot = number
                if self.view.dragging.hold(word, point.x()):
                    self._drag = "value"
                else:
                    self.view.edit_slot()
                return

    def _scrub(self, x: float) -> None:
        tick = self.view.scale.tick(
            min(max(x, self.view.scale.left), self.view.scale.left + self.view.scale.width)
        )
        self.view.bench.move_cursor(self.view.bench.run.end_of(tick))

    def move(self, event: QMouseEvent) -> None:
        """The pointer moved: what is held follows; else its shape says what can be done here."""
        x = event.position().x()
        if self._drag == "split":
            self.view.split = max(0.2, min(0.75, x / self.view.viewport().width()))
            self.view.resplit()
        elif self._drag == "cursor":
            self._scrub(x)
        elif self._drag == "rule":
            self.view.dragging.carry(event.position().y())
            self.view.viewport().update()
        elif self._drag == "value":
            self.view.dragging.pull(x, event.modifiers())
        else:
            over_split = abs(x - self.view.scale.left) < 4
            at = self.view.row_at(event.position().y())
            over_slot = (
                at is not None
                and any(self.view.word_area(at, w).contains(event.position()) for w in self.view.slots_of(at))
                and x < self.view.scale.left
            )
            shape = (
                Qt.CursorShape.SplitHCursor
                if over_split
                else Qt.CursorShape.PointingHandCursor
                if over_slot or self.mark_at(event.position())
                else Qt.CursorShape.ArrowCursor
            )
            self.view.viewport().setCursor(shape)

    def let_go(self) -> None:
        """The button went up."""
        was, self._drag = self._drag, ""
        if not self.view.dragging.let_go() and was == "value":
            self.view.edit_slot()

    def double_click(self, event: QMouseEvent) -> None:
        """Fold or unfold."""
        at = self.view.row_at(event.position().y())
        if (
            at is not None
            and event.position().x() < self.view.scale.left
            and self.view.rows[at].sort in ("rule", "section")
        ):
            self.view.toggle_fold(at)

    def words_at(self, point: QPointF) -> str:
        """What hovering a point tells: a firing's who and what, a finding, a verdict's reason, a whole sentence."""
        at = self.view.row_at(point.y())
        if at is None:
            return ""
        row = self.view.rows[at]
        if point.x() < self.view.scale.left:
            if row.problem:
                return row.problem
            runs = self.view.layout_.lay_out(row.words, self.view.bench.program.index)
            cut = runs and runs[-1].x + runs[-1].width > self.view.text_area(at).width()
            return " ".join(w.text for w in row.words) if cut else ""
        mark = self.mark_at(point)
        if mark is not None:
            return firing_words(self.view.bench.run, mark)
        if row.verdict is not None:
            return row.verdict.sentence()
        if row.sort == "rule" and row.turn is not None:
            return look_words(self.view.bench.run, row.turn, self.view.scale.tick(point.x()))
        return ""
