"""Pointing in the order list: what lies under the pointer, and what a press on it does."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QPoint, QPointF, Qt, Signal
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QAbstractScrollArea

from gatillo.catalogue import CATALOGUE
from gatillo.desk.order_list.bar_drag import BarDrag
from gatillo.desk.order_list.drag import Drag
from gatillo.desk.order_list.geometry import ListGeometry
from gatillo.desk.order_list.list_state import ListState, reached_of
from gatillo.desk.order_list.row_sizes import LINE_X, SWITCH, TEXT_X
from gatillo.desk.order_list.rows import NEW
from gatillo.desk.order_list.rule_writer import RuleWriter, edited_slot
from gatillo.desk.session.moment_words import firing_words, look_words, step_words
from gatillo.desk.writing.pointing import Named
from gatillo.desk.writing.words import Word
from gatillo.level.edits import line_at
from gatillo.level.model import Rule
from gatillo.level.naming import token
from gatillo.sim.run.run import Cursor

NEAR_A_SLOT, FARTHEST_SLOT = 7.0, 400.0
"""Pixels from a slot's word within which a click means it, and a double click."""
NEAR_A_FLAG = 8
"""Pixels from a flag on the time axis within which it is meant."""
MARK_MENU = ("ask why", "ask caused", "next of it", "previous of it", "stop at it")
STRETCH_MENU = ("ask why not", "ask never", "next of it", "previous of it", "stop at it")
EMPTY_MENU = ("new rule", "new graph", "new section", "paste")
_WHOLE = ("rule up", "rule down", "duplicate", "cut", "copy", "paste", "delete")
ROW_MENUS = {
    "rule": (
        "new line",
        "new else",
        "rule on",
        "unfold",
        "rename",
        "to graph",
        "try values",
        "ask never",
        "stop at it",
        "expect as now",
        *_WHOLE,
    ),
    "graph": (
        "open graph",
        "rule on",
        "rename",
        "to rule",
        "ask never",
        "stop at it",
        "expect as now",
        *_WHOLE,
    ),
    "line": (
        "try values",
        "new line",
        "negate",
        "group any_of",
        "group all_of",
        "group none_of",
        "rule up",
        "rule down",
        "delete",
    ),
    "section": ("new rule", "unfold", "rule on", "rename", "rule up", "rule down", "delete"),
    "new": EMPTY_MENU,
    "more": ("new line", "new else"),
    "expectation": ("this trial",),
    "input": ("this trial", "play keys", "split bar", "delete"),
    "watch": ("this trial", "ask value"),
}
"""By what lies under the pointer: the commands that fit it (window/commands.py)."""


class Pointer(QObject):
    """The pointer over an order list."""

    splitMoved = Signal()
    """The two halves have another share of the width."""

    def __init__(
        self,
        state: ListState,
        geometry: ListGeometry,
        drag: Drag,
        bars: BarDrag,
        writer: RuleWriter,
        area: QAbstractScrollArea,
    ) -> None:
        super().__init__(area)
        self.state = state
        self.geometry = geometry
        self.drag = drag
        self.bars = bars
        self.writer = writer
        self.area = area
        self.on_graph: Callable[[int], None] = lambda number: None
        """Told of a graph whose row is pressed twice."""
        self.on_new: Callable[[str], None] = lambda command: None
        """Told of a command that adds something at the end of the list."""
        self.on_marks: Callable[[Cursor, Cursor, QPoint], None] = lambda one, other, where: None
        """Told of a mark that was dragged onto another, with where that is on the screen."""
        self.drawn: tuple[QPointF, QPointF] | None = None
        """The line that is being drawn from a mark."""
        self._drawn_from: Cursor | None = None
        self.on_ask: Callable[[], None] = lambda: None
        """Told of a lane that is pressed twice, at a mark or between marks."""
        self._stretched_from = 0
        """The tick at which the stretch that is being marked begins."""
        self._drag = ""
        """What is being dragged: the split, the cursor, a rule or line, a value, a key bar, a mark; or nothing."""

    def mark_at(self, point: QPointF) -> Cursor | None:
        """Return the firing whose mark lies under a point."""
        at = self.geometry.row_at(point.y())
        if at is not None and self.state.rows[at].sort == "card":
            return self._card_at(at, point)
        if (
            at is None
            or point.x() < self.geometry.scale.left
            or self.state.rows[at].sort not in ("rule", "graph")
        ):
            return None
        rule_index = self.state.rows[at].rule_index
        if rule_index is None:
            return None
        tick = self.geometry.scale.tick(point.x())
        reach = max(0, int(5 / self.geometry.scale.pixels))
        marks = self.state.lanes.lane(rule_index)
        best: tuple[float, Cursor] | None = None
        sight = marks.between(tick - reach - 1, tick + reach + 1)
        trace = self.state.bench.run.trace
        for i in range(*sight.indices(len(marks.tick))):
            cursor = Cursor(int(marks.tick[i]), int(marks.position[i]))
            x = self.geometry.scale.mark_x(cursor.tick, cursor.position, trace.count_at(cursor.tick))
            off = abs(x - point.x())
            if off <= 10 and (best is None or off < best[0]):
                best = (off, cursor)
        return best[1] if best else None

    def _card_at(self, at: int, point: QPointF) -> Cursor | None:
        """Return the moment after a card ran, whose mark lies under a point."""
        row, scale = self.state.rows[at], self.geometry.scale
        if row.rule_index is None or point.x() < scale.left:
            return None
        marks = self.state.lanes.card(row.rule_index, row.card)
        tick, reach = scale.tick(point.x()), int(4 / scale.pixels)
        sight = marks.between(tick - reach, tick + reach)
        if sight.start == sight.stop:
            return None
        best = min(range(sight.start, sight.stop), key=lambda i: abs(int(marks.tick[i]) - tick))
        return Cursor(int(marks.tick[best]), int(marks.firings[best]), int(marks.step[best]))

    def press(self, event: QMouseEvent) -> None:
        """A button went down: take hold of what lies there, or do what it is for."""
        point = event.position()
        self.writer.editor.close_editor(keep=True)
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if abs(point.x() - self.geometry.scale.left) < 4:
            self._drag = "split"
            return
        at = self.geometry.row_at(point.y())
        if point.x() > self.geometry.scale.left:
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self._drag = "stretch"
                self._stretched_from = self._tick_at(point.x())
                self.state.bench.mark_stretch(None)
                return
            self._press_lane(point, at)
            return
        if at is not None:
            self._press_left(point, at)

    def _press_lane(self, point: QPointF, at: int | None) -> None:
        mark = self.mark_at(point)
        if at is not None and self.state.rows[at].entry is not None:
            self.state.choose(at)
        verdict = self.state.rows[at].verdict if at is not None else None
        if mark is not None:
            self.state.bench.move_cursor(mark)
            if not mark.step:
                self._drag, self._drawn_from, self.drawn = "mark", mark, (point, point)
        elif at is not None and self.bars.take_hold(self.state.rows[at], point):
            self.state.choose(at)
            self._drag = "bar"
        elif verdict is not None and verdict.tick is not None:
            self.state.bench.move_cursor(self.state.bench.run.end_of(verdict.tick))
        else:
            self._drag = "cursor"
            self._scrub(point.x())

    def _press_left(self, point: QPointF, at: int) -> None:
        row = self.state.rows[at]
        self.state.choose(at)
        if (row.sort == "section" or row.keys) and point.x() < 34:
            self.state.toggle_fold(at)
            return
        if row.sort in ("rule", "graph"):
            if SWITCH.adjusted(-3, -8, 3, 8).contains(
                QPointF(point.x(), point.y() - self.geometry.row_area(at).top())
            ):
                self.state.toggle_on(at)
                return
            if 54 <= point.x() < TEXT_X:
                self.state.toggle_fold(at)
                return
            if point.x() < 38:
                self._drag = "rule"
                return
        if row.sort == "line" and not row.within and point.x() < LINE_X:
            self._drag = "rule"
            return
        if row.sort == "new":
            command = self._new_under(at, point)
            if command == "new rule":
                self.writer.new_rule()
            else:
                self.on_new(command)
            return
        if row.sort == "more":
            self.writer.new_line()
            return
        number = self._slot_near(at, point, NEAR_A_SLOT)
        if number is not None:
            self.state.current_slot = number
            if self.drag.hold(self.state.slots_of(at)[number], point.x()):
                self._drag = "value"
            else:
                self.writer.edit_slot(listing=True)

    def _slot_near(self, at: int, point: QPointF, reach: float) -> int | None:
        """Return the slot of a row that is nearest to a point, by its number; None where none is near."""
        best: tuple[float, int] | None = None
        for number, word in enumerate(self.state.slots_of(at)):
            area = self.geometry.word_area(at, word)
            off = max(area.left() - point.x(), point.x() - area.right(), 0.0)
            if off <= reach and (best is None or off < best[0]):
                best = off, number
        return best[1] if best is not None else None

    def _new_under(self, at: int, point: QPointF) -> str:
        """Return the command of what can be added that lies under a point: a rule, unless it is another's words."""
        areas = {
            c: self.geometry.word_area(at, w) for w in self.state.rows[at].words if (c := NEW.get(w.text))
        }
        return next((c for c, area in areas.items() if area.contains(point)), "new rule")

    def named_at(self, point: QPointF) -> Named | None:
        """Return what is named under a point: the rule of a mark or row, or what a slot of a rule's line names."""
        at = self.geometry.row_at(point.y())
        if at is None:
            return None
        row = self.state.rows[at]
        if point.x() < self.geometry.scale.left and row.rule is not None:
            number = self._slot_near(at, point, 0.0)
            named = self._slot_name(row.rule, self.state.slots_of(at)[number]) if number is not None else None
            if named is not None:
                return named
        if row.entry is None or row.sort in ("more", "new") or point.x() < TEXT_X:
            return None
        if point.x() > self.geometry.scale.left and self.mark_at(point) is None:
            return None
        return Named(row.entry.name, "rule")

    @staticmethod
    def _slot_name(rule: Rule, word: Word) -> Named | None:
        if word.part is None:
            return None
        clause = line_at(rule, word.part, word.line, word.within)
        entry = CATALOGUE.get(clause.use)
        text = clause.slots.get(word.slot, "")
        if entry is None or not text:
            return None
        kind = entry.slots[word.slot].kind
        if kind.holds == "name":
            return Named(text, kind.name)
        return (
            Named(text, "kind")
            if kind.holds == "role"
            else Named(text, "place")
            if kind.holds == "where"
            else None
        )

    def drop(self, point: QPointF, name: str) -> None:
        """A name was dropped: it fills the slot under the pointer, or begins a line about it."""
        at = self.geometry.row_at(point.y())
        number = self._slot_near(at, point, NEAR_A_SLOT) if at is not None else None
        if at is not None and number is not None and (rule := self.state.rows[at].rule) is not None:
            word = self.state.slots_of(at)[number]
            declared = edited_slot(self.state.bench.index_at(rule.id), rule, word).declared
            text = token(name) if declared.kind.holds == "formula" else name
            self.state.set_slot(rule, word, text)
            return
        if at is not None:
            self.state.choose(at)
        row = self.state.rows[at] if at is not None else None
        if row is not None and row.rule is not None:
            self.writer.new_line(f"{name} ")
        else:
            self.writer.new_rule(f"{name} ")

    def _tick_at(self, x: float) -> int:
        """Return the tick under a pixel, or at the end of the lanes that is nearer to it."""
        scale = self.geometry.scale
        return scale.tick(min(max(x, scale.left), scale.left + scale.width))

    def _scrub(self, x: float) -> None:
        self.state.bench.move_cursor(self.state.bench.run.end_of(self._tick_at(x)))

    def move(self, event: QMouseEvent) -> None:
        """The pointer moved: what is held follows; else its shape says what can be done here."""
        x = event.position().x()
        if self._drag == "split":
            self.geometry.split = max(0.2, min(0.75, x / self.area.viewport().width()))
            self.splitMoved.emit()
        elif self._drag == "cursor":
            self._scrub(x)
        elif self._drag == "stretch":
            first, last = sorted((self._stretched_from, self._tick_at(x)))
            self.state.bench.mark_stretch((first, last) if last > first else None)
        elif self._drag == "rule":
            self.drag.carry(event.position().y())
            self.area.viewport().update()
        elif self._drag == "value":
            self.drag.pull(x, event.modifiers())
        elif self._drag == "bar":
            self.bars.pull(x)
        elif self._drag == "mark" and self.drawn is not None:
            self.drawn = self.drawn[0], event.position()
            self.area.viewport().update()
        else:
            over_split = abs(x - self.geometry.scale.left) < 4
            at = self.geometry.row_at(event.position().y())
            over_slot = (
                at is not None
                and any(
                    self.geometry.word_area(at, w).contains(event.position()) for w in self.state.slots_of(at)
                )
                and x < self.geometry.scale.left
            )
            shape = (
                Qt.CursorShape.SplitHCursor
                if over_split or self._over_bar(at, event.position()) in ("start", "end")
                else Qt.CursorShape.OpenHandCursor
                if self._over_bar(at, event.position())
                else Qt.CursorShape.PointingHandCursor
                if over_slot or self.mark_at(event.position())
                else Qt.CursorShape.ArrowCursor
            )
            self.area.viewport().setCursor(shape)

    def _over_bar(self, at: int | None, point: QPointF) -> str:
        """Return which part of a key bar is under a point that can be dragged; "" for none."""
        if at is None or point.x() < self.geometry.scale.left:
            return ""
        found = self.bars.under(self.state.rows[at], point)
        return found[1] if found is not None else ""

    def let_go(self, event: QMouseEvent) -> None:
        """The button went up."""
        was, self._drag = self._drag, ""
        if was == "bar":
            if not self.bars.let_go() and self.state.chosen_bar is None:
                # a click beside the bars
                self._scrub(event.position().x())
            return
        if was == "mark":
            self.drawn = None
            self.area.viewport().update()
            other = self.mark_at(event.position())
            if other is not None and not other.step and self._drawn_from not in (None, other):
                self.on_marks(self._drawn_from, other, event.globalPosition().toPoint())
            return
        if not self.drag.let_go() and was == "value":
            self.writer.edit_slot(listing=True)

    def double_click(self, event: QMouseEvent) -> None:
        """Fold or unfold; a graph is opened; in a lane it is asked why."""
        at = self.geometry.row_at(event.position().y())
        if event.position().x() > self.geometry.scale.left + 4:
            if at is not None and self.state.rows[at].sort in ("rule", "graph"):
                self.on_ask()
            return
        graph = self.state.rows[at].graph if at is not None else None
        if graph is not None and event.position().x() < self.geometry.scale.left:
            self.on_graph(graph.id)
            return
        if at is None:
            return
        number = self._slot_near(at, event.position(), FARTHEST_SLOT)
        if event.position().x() >= TEXT_X and number is not None:
            # anywhere in a sentence the nearest slot is meant
            self.state.choose(at)
            self.state.current_slot = number
            self.writer.edit_slot(listing=True)
        elif self.state.rows[at].sort in ("rule", "section") or self.state.rows[at].keys:
            self.state.toggle_fold(at)

    def commands_at(self, point: QPointF, at: int | None = None) -> tuple[str, ...]:
        """Return the commands that fit what lies at a point; that is selected, and the cursor put there."""
        in_lane = at is None and point.x() > self.geometry.scale.left
        at = self.geometry.row_at(point.y()) if at is None else at
        if at is None:
            return EMPTY_MENU
        row = self.state.rows[at]
        self.state.choose(at)
        if in_lane and row.sort in ("rule", "graph"):
            mark = self.mark_at(point)
            if mark is not None:
                self.state.bench.move_cursor(mark)
                return MARK_MENU
            self._scrub(point.x())
            return STRETCH_MENU
        return ROW_MENUS.get(row.sort, ())

    def words_at(self, point: QPointF) -> str:
        """Return what hovering a point shows: a firing's who and what, a finding, a verdict's reason, a whole sentence."""
        at = self.geometry.row_at(point.y())
        if at is None:
            return self._flag_words(point)
        row = self.state.rows[at]
        if point.x() < self.geometry.scale.left:
            if row.problem:
                return row.problem
            reached = reached_of(self.state, row)
            if reached:
                return f"In all trials: {reached}."
            runs = self.geometry.words.lay_out(row.words, self.state.bench.program.index)
            cut = runs and runs[-1].x + runs[-1].width > self.geometry.text_area(at).width()
            return " ".join(w.text for w in row.words) if cut else ""
        mark = self.mark_at(point)
        if mark is not None:
            if mark.step:
                return step_words(self.state.bench.run, mark)
            return firing_words(self.state.bench.run, mark)
        if row.verdict is not None:
            return row.verdict.sentence()
        if row.sort in ("rule", "graph") and row.rule_index is not None:
            return look_words(self.state.bench.run, row.rule_index, self.geometry.scale.tick(point.x()))
        return ""

    def _flag_words(self, point: QPointF) -> str:
        """Return what was changed where a flag stands on the time axis under a point."""
        bench, scale = self.state.bench, self.geometry.scale
        near = [f for f in bench.flags if abs(scale.middle(f.tick) - point.x()) < NEAR_A_FLAG]
        if not near:
            return ""
        return "\n".join(f"{flag.tick / bench.program.rate:.3f} s: {flag.label}" for flag in near)
