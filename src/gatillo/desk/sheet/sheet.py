"""The sheet: what is selected, with its values at the cursor; nothing selected, the whole level."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QComboBox,
    QDoubleSpinBox,
    QFormLayout,
    QLabel,
    QLineEdit,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from gatillo.desk.sheet import words
from gatillo.desk.theme import text_font
from gatillo.desk.workbench import Selection, Workbench
from gatillo.level import edits
from gatillo.level.model import Object, Rule
from gatillo.level.naming import name_problem
from gatillo.level.renaming import rename_object
from gatillo.level.roles import all_rules

FARTHEST_SHOWN = 1_000_000.0
MODES = (
    ("each tick", "each tick it holds"),
    ("on becoming true", "when it becomes true"),
    ("first time only", "the first time only"),
)


class Sheet(QScrollArea):
    """Right-hand page. Its fields edit the level; its text follows the cursor."""

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bench = bench
        self.setWidgetResizable(True)
        self.setMinimumWidth(240)
        self.setAccessibleName("Sheet")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._tell: Callable[[], str] = lambda: ""
        self.live = QLabel()
        self.title = QLabel()
        self._shown: tuple[Selection, object] | None = None
        bench.levelChanged.connect(self.rebuild)
        bench.selectionChanged.connect(self.rebuild)
        bench.runChanged.connect(self.refresh)
        bench.judgedChanged.connect(self.refresh)
        bench.cursorMoved.connect(self._on_cursor)
        self.rebuild()

    def _on_cursor(self) -> None:
        self.refresh()

    def refresh(self) -> None:
        """Tell the moment at the cursor anew."""
        told = self._tell()
        if told != self.live.text():
            self.live.setText(told)

    def rebuild(self) -> None:
        """Show what is selected."""
        focus = self.focusWidget()
        focused = focus.objectName() if focus is not None and focus.hasFocus() else ""
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(8)
        self.title = QLabel()
        self.title.setWordWrap(True)
        self.title.setFont(text_font(3, bold=True))
        self.live = QLabel()
        self.live.setWordWrap(True)
        self.live.setTextFormat(Qt.TextFormat.RichText)
        self.live.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.live.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        bench = self.bench
        objects = [o for o in bench.level.objects if o.id in bench.selection.objects]
        rule = next((r for _, _, r in all_rules(bench.level) if r.id == bench.selection.rule), None)
        if rule is not None:
            self._rule_page(column, rule)
        elif len(objects) == 1:
            self._object_page(column, objects[0])
        elif objects:
            self._text_page(
                column, f"{len(objects)} objects", "Drag them or use the arrow keys to move them together."
            )
            self._tell = lambda: words.firing_html(bench)
        elif bench.selection.objects:
            created = min(bench.selection.objects)
            self._text_page(
                column,
                bench.world.name_of(created) if created in bench.world.id else "A created object",
                "A rule created this object during the run.",
            )
            self._tell = lambda: words.object_html(bench, created)
        else:
            self._text_page(column, bench.level.name, bench.level.note)
            self._tell = lambda: words.firing_html(bench) + words.level_html(bench)
        column.addWidget(self.live)
        column.addStretch(1)
        # a field of the old page may be what caused this: it must live until its event is over
        old = self.takeWidget()
        if old is not None:
            old.hide()
            old.deleteLater()
        self.setWidget(page)
        self.refresh()
        if focused:
            found = page.findChild(QWidget, focused)
            if found is not None:
                found.setFocus()

    def _text_page(self, column: QVBoxLayout, title: str, note: str) -> None:
        self.title.setText(title)
        column.addWidget(self.title)
        if note:
            label = QLabel(note)
            label.setWordWrap(True)
            label.setObjectName("quiet")
            column.addWidget(label)

    # an object

    def _object_page(self, column: QVBoxLayout, thing: Object) -> None:
        bench = self.bench
        self.title.setText(thing.name)
        column.addWidget(self.title)
        kind = QLabel(f"one {thing.kind}, placed by hand")
        kind.setObjectName("quiet")
        column.addWidget(kind)
        form = self._form()
        name = QLineEdit(thing.name)
        name.setObjectName("object-name")
        name.setAccessibleName("Name")
        name.editingFinished.connect(lambda: self._rename_object(thing, name))
        form.addRow("name", name)
        for label, field, step, least in (
            ("starts at x", "x", 1.0, -FARTHEST_SHOWN),
            ("starts at y", "y", 1.0, -FARTHEST_SHOWN),
            ("angle °", "angle", 5.0, -360.0),
            ("scale", "scale", 0.1, 0.01),
        ):
            form.addRow(label, self._number(thing, field, step, least))
        column.addLayout(form)
        self._tell = lambda: words.object_html(bench, thing.id) + words.firing_html(bench)

    def _number(self, thing: Object, field: str, step: float, least: float) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        box.setObjectName(f"object-{field}")
        box.setAccessibleName(field)
        box.setMinimumHeight(26)
        box.setDecimals(2)
        box.setRange(least, FARTHEST_SHOWN)
        box.setSingleStep(step)
        box.setKeyboardTracking(False)
        box.setValue(getattr(thing, field))
        box.valueChanged.connect(lambda value: self._set_object(thing, field, value))
        return box

    def _set_object(self, thing: Object, field: str, value: float) -> None:
        level = edits.set_object(self.bench.level, thing.id, **{field: round(value, 3)})
        self.bench.edit(level, f"change {field} of {thing.name}", join=f"{thing.id} {field}")

    def _rename_object(self, thing: Object, field: QLineEdit) -> None:
        name = field.text().strip()
        if name == thing.name:
            return
        taken = {o.name for o in self.bench.level.objects if o.id != thing.id} | {
            k.name for k in self.bench.level.kinds
        }
        problem = name_problem(name) or (f"“{name}” is taken; choose another name" if name in taken else None)
        if problem:
            self.bench.told.emit(problem[0].upper() + problem[1:] + ".")
            field.setText(thing.name)
            return
        self.bench.edit(rename_object(self.bench.level, thing.id, name), f"rename {thing.name} to {name}")

    # a rule

    def _rule_page(self, column: QVBoxLayout, rule: Rule) -> None:
        bench = self.bench
        self.title.setText(rule.name)
        column.addWidget(self.title)
        sentence = QLabel(words.rule_html(bench, rule))
        sentence.setWordWrap(True)
        column.addWidget(sentence)
        form = self._form()
        mode = QComboBox()
        mode.setObjectName("rule-fires")
        mode.setAccessibleName("When it fires")
        for value, shown in MODES:
            mode.addItem(shown, value)
        mode.setCurrentIndex([m for m, _ in MODES].index(rule.fires))
        mode.activated.connect(
            lambda at: self._change_rule(
                rule, "fires", MODES[at][0], f"let “{rule.name}” fire {MODES[at][1]}"
            )
        )
        form.addRow("fires", mode)
        rest = QDoubleSpinBox()
        rest.setObjectName("rule-cooldown")
        rest.setAccessibleName("Rest after a firing, in seconds")
        rest.setRange(0, 3600)
        rest.setDecimals(2)
        rest.setSingleStep(0.5)
        rest.setSuffix(" s")
        rest.setSpecialValueText("no rest")
        rest.setKeyboardTracking(False)
        rest.setValue(rule.cooldown)
        rest.valueChanged.connect(
            lambda value: self._change_rule(rule, "cooldown", value, f"let “{rule.name}” rest {value:g} s")
        )
        for field in (mode, rest):
            field.setMinimumHeight(26)
        form.addRow("then rests", rest)
        column.addLayout(form)
        self._tell = lambda: words.rule_counts_html(bench, rule.id) + words.firing_html(bench)

    def _change_rule(self, rule: Rule, field: str, value: object, deed: str) -> None:
        level = edits.change_rule(self.bench.level, rule.id, lambda r: replace(r, **{field: value}))
        self.bench.edit(level, deed, join=f"rule {rule.id} {field}")

    @staticmethod
    def _form() -> QFormLayout:
        form = QFormLayout()
        form.setHorizontalSpacing(14)
        form.setVerticalSpacing(6)
        form.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.FieldsStayAtSizeHint)
        return form
