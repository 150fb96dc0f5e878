"""Dragging in the order list: numbers sideways, rules to another place."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractScrollArea

from gatillo.desk.order_list.list_state import ListState
from gatillo.desk.order_list.row_sizes import HEADER, ROW
from gatillo.desk.order_list.rows import Row
from gatillo.desk.writing.number_drag import PLAIN_NUMBER, dragged
from gatillo.desk.writing.words import Word
from gatillo.language.sentence import sentence
from gatillo.level import rule_edits
from gatillo.level.edits import Part, clauses_of


@dataclass(slots=True)
class Held:
    """A number being dragged sideways: of which rule and word, from which value and pixel."""

    rule: int
    word: Word
    value: float
    x: float
    moved: bool = False


class Drag:
    """What the pointer has taken hold of in the left half of the list."""

    def __init__(self, state: ListState, area: QAbstractScrollArea) -> None:
        self.state = state
        self.area = area
        self.bench = state.bench
        self.held: Held | None = None
        self.drop_at: int | None = None
        """Before which row the rule or line that is carried would be put."""

    def hold(self, word: Word, x: float) -> bool:
        """Begin to drag a number sideways; False where there is no plain number."""
        row = self.state.current_row()
        if word.sort != "value" or row is None or row.rule is None or not PLAIN_NUMBER.fullmatch(word.text):
            return False
        self.held = Held(row.rule.id, word, float(word.text), x)
        return True

    def pull(self, x: float, modifiers: Qt.KeyboardModifier) -> None:
        """The number follows the pointer, and the run the number."""
        held = self.held
        assert held is not None
        if abs(x - held.x) < 4 and not held.moved:
            return
        if not held.moved:
            self.bench.begin_live()
        held.moved = True
        text = dragged(held.value, x - held.x, modifiers)
        rule = rule_edits.rule_of(self.bench.level, held.rule)
        self.state.set_slot(
            rule, held.word, text, join=f"drag {held.rule} {held.word.part} {held.word.line} {held.word.slot}"
        )

    def let_go(self) -> bool:
        """Return the button went up; False where nothing was dragged."""
        held, self.held = self.held, None
        drop, self.drop_at = self.drop_at, None
        if drop is not None:
            self._drop(drop)
        if held is not None and held.moved:
            self.bench.end_live()
        return drop is not None or (held is not None and held.moved)

    def carry(self, y: float) -> None:
        """Carry the current rule or line to a height: `drop_at` is the row before which it would stand."""
        bar = self.area.verticalScrollBar()
        if y < HEADER + 12:
            bar.setValue(bar.value() - ROW // 2)
        elif y > self.area.viewport().height() - 12:
            bar.setValue(bar.value() + ROW // 2)
        at = int((y - HEADER + bar.value() + ROW / 2) // ROW)
        row = self.state.current_row()
        if row is not None and row.sort == "line":
            self.drop_at = self._place_for_line(row, at)
            return
        for place in range(max(0, at), len(self.state.rows)):
            if self.state.rows[place].sort in ("rule", "section", "new"):
                self.drop_at = place
                return
        self.drop_at = None

    def _place_for_line(self, row: Row, at: int) -> int | None:
        """Return the row before which a carried line may be put: a line of its sort, or the end of such lines."""
        for place in (at, at + 1, at - 1):
            if 0 <= place < len(self.state.rows) and self._target(row, place) is not None:
                return place
        return None

    def _target(self, row: Row, at: int) -> tuple[int, Part, int] | None:
        """Rule, part and line before which a line would stand if it were put before a row."""
        here, above = self.state.rows[at], self.state.rows[at - 1] if at else None
        if here.rule is not None and _of_one_sort(row, here):
            assert here.part is not None
            return here.rule.id, here.part, here.line
        if above is not None and above.rule is not None and _of_one_sort(row, above):
            assert above.part is not None
            return above.rule.id, above.part, above.line + 1
        return None

    def _drop(self, at: int) -> None:
        """Put the current rule or line before a row."""
        row, target = self.state.current_row(), self.state.rows[at]
        if row is not None and row.sort == "line":
            self._drop_line(row, at)
            return
        if row is None or row.rule is None or target.rule is row.rule:
            return
        rule = row.rule
        if target.rule is not None:
            level = rule_edits.put_rule(self.bench.level, rule.id, before=target.rule.id)
        else:
            # at the end of what is above
            above = next(
                (
                    r
                    for r in reversed(self.state.rows[:at])
                    if r.sort in ("rule", "section") and r.rule is not rule
                ),
                None,
            )
            section = above.section.name if above is not None and above.section is not None else ""
            if above is not None and above.rule is not None:
                section = rule_edits.section_of(self.bench.level, above.rule.id)
            level = rule_edits.put_rule(self.bench.level, rule.id, before=None, section=section)
        self.bench.edit(level, f"move “{rule.name}”")
        self.state.show_rule(rule.id)

    def _drop_line(self, row: Row, at: int) -> None:
        target = self._target(row, at)
        assert row.rule is not None and row.part is not None
        if target is None:
            return
        words = sentence(clauses_of(row.rule, row.part)[row.line])
        level = rule_edits.carry_line(self.bench.level, row.rule.id, row.part, row.line, *target)
        self.bench.edit(level, f"move “{words}”")


def _of_one_sort(line: Row, other: Row) -> bool:
    """Return whether two rows are lines of a rule's own that may change places."""
    if other.sort != "line" or other.within or other.part is None or line.part is None:
        return False
    return line.part == other.part or {line.part, other.part} <= {"do", "else"}
