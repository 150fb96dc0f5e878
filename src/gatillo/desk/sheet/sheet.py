"""The sheet: what is selected, with its values at the cursor; nothing selected, the whole level."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from gatillo.desk.looks.plain import LiveText, Rich, Words
from gatillo.desk.looks.theme import text_font
from gatillo.desk.session.glow import goes_on
from gatillo.desk.session.selection import ThingSort
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet import moment_page as words
from gatillo.desk.sheet.answer_page import answer_page
from gatillo.desk.sheet.clip_page import clip_page
from gatillo.desk.sheet.graph_page import graph_page
from gatillo.desk.sheet.kind_page import kind_page
from gatillo.desk.sheet.level_page import index_page, level_page
from gatillo.desk.sheet.object_page import object_page
from gatillo.desk.sheet.place_page import place_page
from gatillo.desk.sheet.questions import about_rule, ask, follow
from gatillo.desk.sheet.rule_page import rule_page, section_page
from gatillo.desk.sheet.trial_page import trial_page
from gatillo.desk.sheet.variant_page import variant_page
from gatillo.desk.sheet.word_page import WORD_SORTS, word_page
from gatillo.level.model import Graph, Section
from gatillo.level.roles import all_logic

AT_THE_CURSOR = "At the cursor"
EVERY = 1_000
"""Milliseconds between two texts about the moment while a run goes on."""


class Sheet(QScrollArea):
    """Right-hand page. Its fields edit the level; its text follows the cursor."""

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self.setWidgetResizable(True)
        self.setMinimumWidth(300)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName("Sheet")
        self.live = LiveText(AT_THE_CURSOR)
        self.title = Words()
        self._tell: Callable[[], Sequence[str]] = lambda: ()
        """Returns what is said of the moment at the cursor: parts of rich text."""
        self._shown: object = None
        self._building = False
        self._again = False
        self._lately = QTimer(self)
        """While a run goes on: no other text until it is over."""
        self._lately.setSingleShot(True)
        self._lately.setInterval(EVERY)
        bench.levelChanged.connect(self.rebuild)
        bench.selectionChanged.connect(self.rebuild)
        bench.runChanged.connect(self.refresh)
        bench.judgedChanged.connect(self.refresh)
        bench.cursorMoved.connect(self.refresh)
        bench.runningChanged.connect(self.refresh)
        bench.answers.changed.connect(self._on_answer)
        self.rebuild()

    def refresh(self) -> None:
        """Describe the moment at the cursor again; while a value is dragged the level and the lanes show it."""
        if self.bench.live:
            return
        if goes_on(self.bench) and self._lately.isActive():
            # a page of text at each picture could not be read, and takes as long as all the rest
            return
        self._lately.start()
        self.live.set_parts(self._tell())

    def focus_first(self) -> None:
        """Put the keyboard into the first field."""
        for field in self.findChildren(QWidget):
            if field.focusPolicy() & Qt.FocusPolicy.TabFocus and field.isVisibleTo(self):
                field.setFocus()
                return

    def rebuild(self) -> None:
        """Show what is selected; the field that has the focus keeps it, and the page its place."""
        if self.bench.live:
            # what is being dragged must not be removed, and nothing else has changed
            return
        if self._building:
            # a field of the page that is removed has given its value: that is an edit
            self._again = True
            return
        self._building = True
        try:
            self._build()
        finally:
            self._building = False
        if self._again:
            self._again = False
            self.rebuild()

    def _build(self) -> None:
        focus = self.focusWidget()
        focused = focus.objectName() if focus is not None and focus.hasFocus() else ""
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        self.title = Words()
        self.title.setWordWrap(True)
        self.title.setFont(text_font(3, bold=True))
        column.addWidget(self.title)
        self.live = LiveText(AT_THE_CURSOR)
        self.live.linkActivated.connect(lambda link: follow(self.bench, link))
        self._fill(column)
        column.addWidget(self.live)
        column.addStretch(1)
        same = self._shown == self.bench.selection
        self._shown = self.bench.selection
        place = self.verticalScrollBar().value()
        # a field of the old page may be what caused this: it must live until its event is over
        old = self.takeWidget()
        if old is not None:
            old.hide()
            old.deleteLater()
        self.setWidget(page)
        self.refresh()
        if same:
            self.verticalScrollBar().setValue(place)
        if focused:
            found = page.findChild(QWidget, focused)
            if found is not None:
                found.setFocus()

    def _on_answer(self) -> None:
        if self.bench.answers.page is not None and self.isHidden():
            self.show()
        self.rebuild()

    def _fill(self, column: QVBoxLayout) -> None:
        bench, level = self.bench, self.bench.level
        page = bench.answers.page
        if page is not None:
            self.title.setText(page.title)
            answer_page(bench, column, page)
            self._tell = lambda: ()
            return
        if bench.answers.last is not None:
            back = Rich(ask("back:", "‹ back to the answer"))
            back.setAccessibleName("Back to the answer")
            back.linkActivated.connect(lambda link: follow(bench, link))
            column.addWidget(back)
        selection = bench.selection
        objects = [o for o in level.objects if o.id in selection.objects]
        rule = next((r for _, _, r in all_logic(level) if r.id == selection.rule), None)
        self._tell = lambda: (words.firing_html(bench),)
        if rule is not None:
            self.title.setText(rule.name)
            if isinstance(rule, Graph):
                graph_page(bench, column, rule)
            else:
                rule_page(bench, column, rule)
            rule_id = rule.id
            card = next(iter(selection.cards)) if len(selection.cards) == 1 else 0
            if card and isinstance(rule, Graph):
                drawn = rule
                self._tell = lambda: (words.card_html(bench, drawn, card), words.firing_html(bench))
                return
            self._tell = lambda: (
                words.rule_counts_html(bench, rule_id) + about_rule(bench, rule_id),
                words.firing_html(bench),
            )
        elif selection.thing is not None:
            self._thing(column, selection.thing.sort, selection.thing.name)
        elif len(objects) == 1:
            self.title.setText(objects[0].name)
            object_page(bench, column, objects[0])
            object_id = objects[0].id
            self._tell = lambda: (words.object_html(bench, object_id), words.firing_html(bench))
        elif objects:
            self.title.setText(f"{len(objects)} objects")
            self._quiet(column, "Drag them or use the arrow keys to move them together.")
        elif selection.objects:
            created = min(selection.objects)
            there = created in bench.world.id
            self.title.setText(bench.world.name_of(created) if there else "A created object")
            self._quiet(column, "A rule created this object during the run.")
            self._tell = lambda: (words.object_html(bench, created),)
        else:
            self.title.setText(level.name)
            self._quiet(column, level.note)
            index_page(bench, column)
            self._tell = lambda: (
                words.firing_html(bench),
                words.variables_html(bench),
                words.verdicts_html(bench),
            )

    def _thing(self, column: QVBoxLayout, sort: ThingSort, name: str) -> None:
        bench, level = self.bench, self.bench.level
        self.title.setText(name or level.name)
        if sort == "kind":
            kind_page(bench, column, next(k for k in level.kinds if k.name == name))
        elif sort == "place":
            place_page(bench, column, next(p for p in level.places if p.name == name))
        elif sort == "clip":
            clip_page(bench, column, next(c for c in level.clips if c.name == name))
        elif sort == "trial":
            trial_page(bench, column, next(t for t in level.trials if t.name == name))
            self._tell = lambda: (words.verdicts_html(bench),)
        elif sort == "variant":
            variant_page(bench, column, next(v for v in level.variants if v.name == name))
        elif sort == "section":
            section_page(
                bench, column, next(e for e in level.order if isinstance(e, Section) and e.name == name)
            )
        elif sort in WORD_SORTS:
            word_page(bench, column, sort, name)
        else:
            level_page(bench, column)

    @staticmethod
    def _quiet(column: QVBoxLayout, note: str) -> None:
        if note:
            label = Words(note)
            label.setWordWrap(True)
            label.setObjectName("quiet")
            column.addWidget(label)
