"""What the order list shows and where its reader is in it, apart from painting and pointing."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from gatillo.desk.order_list.lane_data import LaneData
from gatillo.desk.order_list.rows import Row, build_rows, refresh_input
from gatillo.desk.session.answers import PARTLY
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.writing.words import Word
from gatillo.level import edits, rule_edits
from gatillo.level.model import KeyBar, Rule, Section


class ListState(QObject):
    """Rows, the current one and its slot, and what is folded; rows are built when they are next asked for."""

    rowsChanged = Signal()
    """The rows are others; emitted at once, before they are rebuilt."""
    currentChanged = Signal()
    """Another row or slot is the current one."""
    rowWanted = Signal(int)
    """A row is to be brought into sight."""

    def __init__(self, bench: Workbench, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self.folded: set[str] = set()
        """Names of sections whose rules are not shown."""
        self.inputs_folded = True
        """Whether the keys of a trial's input share one row."""
        self.opened: set[int] = set()
        """Ids of rules whose lines are shown, and of graphs whose cards are."""
        self.draft: tuple[int | None, str] | None = None
        """Where a rule is being typed: after a rule by id, or at the end of a section."""
        self.chosen_bar: KeyBar | None = None
        """The bar of the trial's input that keys and commands are about."""
        self.current = 0
        self.current_slot = -1
        self._rows: list[Row] | None = None
        self._lanes: LaneData | None = None
        self._overlaid: LaneData | None = None
        bench.levelChanged.connect(self.mark_stale)
        bench.judgedChanged.connect(self.mark_stale)
        bench.runChanged.connect(self._on_run)
        bench.takes.changed.connect(self.mark_stale)
        bench.runningChanged.connect(self.mark_stale)
        bench.trialChosen.connect(self.fold_switched_off)
        bench.selectionChanged.connect(self._on_selection)

    def forget(self) -> None:
        """Forget which rules are unfolded and which row is the current one: another level has other rules."""
        self.opened.clear()
        self.current, self.current_slot = 0, -1
        self.mark_stale()

    # rows

    @property
    def rows(self) -> list[Row]:
        """All rows from top to bottom."""
        if self._rows is None:
            self.folded &= {e.name for e in self.bench.level.order if isinstance(e, Section)}
            self._rows = build_rows(self.bench, self.folded, self.opened, self.draft, self.inputs_folded)
            self.current = min(self.current, len(self._rows) - 1)
        return self._rows

    @property
    def lanes(self) -> LaneData:
        """When the rules of the viewed run fired."""
        if self._lanes is None or self._lanes.program is not self.bench.program:
            self._lanes = LaneData(self.bench.shown.latest, self.bench.program)
        return self._lanes

    @property
    def overlaid(self) -> LaneData | None:
        """When they fired in the run from before the edit, as long as the new one has not come so far."""
        run = self.bench.shown.overlaid
        if run is None:
            return None
        if (
            self._overlaid is None
            or self._overlaid.run is not run
            or self._overlaid.program is not self.bench.program
        ):
            self._overlaid = LaneData(run, self.bench.program)
        return self._overlaid

    def mark_stale(self) -> None:
        """What rows are made of has changed."""
        self._rows = None
        self.rowsChanged.emit()

    def _on_run(self) -> None:
        self._lanes = None
        if self._rows is None or not self.bench.player.playing or not refresh_input(self.bench, self._rows):
            self.mark_stale()

    def current_row(self) -> Row | None:
        """Return the row that keys act on."""
        return self.rows[self.current] if 0 <= self.current < len(self.rows) else None

    def slots_of(self, at: int) -> list[Word]:
        """Return the editable words of a row, from left to right."""
        return [w for w in self.rows[at].words if w.editable] if 0 <= at < len(self.rows) else []

    def row_of(self, rule_id: int) -> int | None:
        """Return which row is a rule's own."""
        for at, row in enumerate(self.rows):
            if row.sort in ("rule", "graph") and row.entry is not None and row.entry.id == rule_id:
                return at
        return None

    def row_of_card(self, graph_id: int, card: int) -> int | None:
        """Return which row is a card's own, where its graph is unfolded."""
        for at, row in enumerate(self.rows):
            if row.sort == "card" and row.card == card and row.graph is not None and row.graph.id == graph_id:
                return at
        return None

    # where its reader is

    def stand_at(self, at: int, slot: int = -1) -> None:
        """Make a row and one of its slots current and let it be seen; what is selected stays."""
        self.current, self.current_slot = at, slot
        self.rowWanted.emit(at)
        self.currentChanged.emit()

    def choose(self, at: int) -> None:
        """Make a row the current one, and select its rule."""
        self.current, self.current_slot = at, -1
        if self.chosen_bar is not None and self.chosen_bar not in self.rows[at].bars:
            self.chosen_bar = None
        row, bench = self.rows[at], self.bench
        if row.entry is not None:
            cards = frozenset({row.card}) if row.card else frozenset()
            bench.select(Selection(rule=row.entry.id, cards=cards))
        elif row.section is not None:
            bench.select(Selection(thing=Thing("section", row.section.name)))
        elif row.sort in ("input", "watch", "expectation") and bench.level.trials:
            bench.select(Selection(thing=Thing("trial", bench.trial.name)))
        else:
            bench.select(Selection())
        self.currentChanged.emit()

    def show_rule(self, rule_id: int) -> None:
        """Make a rule's row the current one, and let it be seen."""
        at = self.row_of(rule_id)
        if at is not None:
            self.stand_at(at)

    def _on_selection(self) -> None:
        rule, cards = self.bench.selection.rule, self.bench.selection.cards
        thing = self.bench.selection.thing
        at = self.row_of(rule) if rule is not None else None
        if thing is not None and thing.sort == "section":
            at = next(
                (
                    i
                    for i, row in enumerate(self.rows)
                    if row.section is not None and row.section.name == thing.name
                ),
                None,
            )
        lane = self.row_of_card(rule, next(iter(cards))) if rule is not None and len(cards) == 1 else None
        if lane is not None:
            self.current, self.current_slot = lane, -1
            self.rowWanted.emit(lane)
        elif at is not None:
            row = self.rows[at]
            here = self.rows[self.current] if self.current < len(self.rows) else None
            if here is None or (here.entry, here.section) != (row.entry, row.section):
                self.current, self.current_slot = at, -1
            self.rowWanted.emit(at)
        self.currentChanged.emit()

    def show_selected(self) -> None:
        """Scroll the row of the selected rule or graph into sight, if the list has become lower."""
        rule = self.bench.selection.rule
        at = self.row_of(rule) if rule is not None else None
        if at is not None:
            self.rowWanted.emit(at)

    def walk(self, by: int) -> None:
        """Some rows down or up."""
        self.choose(max(0, min(len(self.rows) - 1, self.current + by)))
        self.rowWanted.emit(self.current)

    def walk_slots(self, by: int) -> bool:
        """On to the next slot of the rule, or back; False when the rule has no more."""
        if 0 <= self.current_slot + by < len(self.slots_of(self.current)):
            self.current_slot += by
            self.currentChanged.emit()
            return True
        rule = self.rows[self.current].rule if self.rows else None
        at = self.current + by
        while rule is not None and 0 <= at < len(self.rows) and self.rows[at].rule is rule:
            slots = self.slots_of(at)
            if self.rows[at].sort == "line" and slots:
                self.stand_at(at, 0 if by > 0 else len(slots) - 1)
                return True
            at += by
        self.current_slot = -1
        self.currentChanged.emit()
        return False

    # folding

    def fold_switched_off(self) -> None:
        """Fold the sections that are switched off: for a level just opened."""
        order = self.bench.program.level.order
        self.folded = {e.name for e in order if isinstance(e, Section) and not e.on}
        self.mark_stale()

    def toggle_fold(self, at: int) -> None:
        """Fold or unfold a section or a rule."""
        row = self.rows[at]
        if row.section is not None:
            self.folded ^= {row.section.name}
        elif row.keys:
            self.inputs_folded = not self.inputs_folded
        elif row.entry is not None:
            self.opened ^= {row.entry.id}
            if row.sort in ("line", "card"):
                self.current = next(i for i, r in enumerate(self.rows) if r.entry is row.entry)
        self.mark_stale()

    def open_rule(self, rule_id: int) -> None:
        """Show a rule's lines."""
        if rule_id not in self.opened:
            self.opened.add(rule_id)
            self.mark_stale()

    def begin_draft(self, after: int | None, section: str) -> None:
        """A rule is being typed: after a rule by id, or at the end of a section."""
        self.folded.discard(section)
        self.draft = (after, section)
        self.mark_stale()

    def end_draft(self) -> None:
        """No rule is being typed any more."""
        if self.draft is not None:
            self.draft = None
            self.mark_stale()

    # edits of what is current

    def toggle_on(self, at: int) -> None:
        """Switch a rule or a section on or off."""
        row, bench = self.rows[at], self.bench
        if row.section is not None:
            on = not row.section.on
            level = edits.switch_section(bench.level, row.section.name, on)
            bench.edit(level, f"switch “{row.section.name}” {'on' if on else 'off'}")
        elif row.entry is not None:
            on = not row.entry.on
            level = edits.switch_rule(bench.level, row.entry.id, on)
            bench.edit(level, f"switch “{row.entry.name}” {'on' if on else 'off'}")

    def move_section(self, name: str, by: int) -> None:
        """Move a section up or down in the order."""
        level = rule_edits.move_section(self.bench.level, name, by)
        self.bench.edit(level, f"move the section “{name}” {'up' if by < 0 else 'down'}")
        self.choose(next(i for i, r in enumerate(self.rows) if r.section and r.section.name == name))

    def move_rule(self, by: int) -> None:
        """Move the current rule up or down in the order."""
        rule = self.rows[self.current].entry if self.rows else None
        if rule is None:
            return
        level = edits.move_rule(self.bench.level, rule.id, by)
        self.bench.edit(level, f"move “{rule.name}” {'up' if by < 0 else 'down'}")
        self.show_rule(rule.id)

    def set_slot(self, rule: Rule, word: Word, text: str, *, join: str = "") -> None:
        """Put an edited text into the level."""
        assert word.part is not None
        try:
            level = edits.set_slot(
                self.bench.level, rule.id, word.part, word.line, word.slot, text, word.within
            )
        except LookupError:
            self.bench.notify(f"The line in “{rule.name}” is gone, so “{text}” was not entered.")
            return
        self.bench.edit(level, f"change {word.slot} of “{rule.name}” to {text}", join)


def reached_of(state: ListState, row: Row) -> str:
    """Return what the trials do not reach of a row, in words; "" where they reach all of it, or that has not been asked.

    A folded rule or graph says it of its lines and cards too. It is asked with Checks › What the trials reach.
    """
    if row.entry is None or row.sort not in ("rule", "graph", "line", "card"):
        return ""
    place = ""
    if row.sort == "card":
        place = f"card {row.card}"
    elif row.sort == "line" and row.part is not None:
        place = edits.place_of(row.part, (row.line, *row.within))
    answers = state.bench.answers
    found = answers.reached_of(row.entry.id, place)
    if found is None or not found.counts:
        return ""
    if not found.whole:
        return found.one_way or found.state
    parts = answers.missed_in(row.entry.id) if row.folded and row.sort in ("rule", "graph") else 0
    return f"{PARTLY}: {parts} of its lines or cards" if parts else ""
