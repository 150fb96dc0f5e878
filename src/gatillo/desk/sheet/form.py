"""Fields of the sheet: each shows a value of the level, and takes another as an edit."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QCompleter,
    QDoubleSpinBox,
    QFormLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from gatillo.desk.looks import plain
from gatillo.desk.looks.flow_layout import AT_END, FlowLayout
from gatillo.desk.looks.plain import Words, tip
from gatillo.desk.looks.theme import kind_colour, text_font, theme
from gatillo.desk.looks.wheel import scrolls_unless_clicked
from gatillo.desk.session.workbench import Workbench

FARTHEST = 1e6
MANY_CHOICES = 100
FIELD = 26
Take = Callable[..., str | None]
"""Takes a field's value as an edit; gives a sentence if it will not do."""


class Number(QDoubleSpinBox):
    """A number, stepped by keys, and by the wheel once it was clicked."""

    def __init__(self) -> None:
        super().__init__()
        scrolls_unless_clicked(self)

    def textFromValue(self, value: float) -> str:
        return f"{value:.{self.decimals()}f}".rstrip("0").rstrip(".") if self.decimals() else f"{value:.0f}"


class Chooser(QComboBox):
    """A choice that the wheel changes only once it was clicked."""

    opening: Callable[[], Any] | None = None
    """Called once, before the list is first shown."""

    def __init__(self) -> None:
        super().__init__()
        scrolls_unless_clicked(self)

    def minimumSizeHint(self) -> QSize:
        # a long choice is cut where the sheet is narrow
        hint = super().minimumSizeHint()
        return QSize(min(hint.width(), TEXT), hint.height())

    def showPopup(self) -> None:
        if self.opening is not None:
            self.opening()
            self.opening = None
        super().showPopup()


TEXT = 130
"""Pixels that a line of text takes at least; it takes all that there is."""
LABEL = 104
"""Pixels that the label of a field takes at least."""


class Form:
    """A column of labelled fields. `prefix` makes their names, by which focus is kept and tests find them."""

    def __init__(self, bench: Workbench, column: QVBoxLayout, prefix: str) -> None:
        self.bench = bench
        self.column = column
        self.prefix = prefix
        # what the page is about: a field can give its value after that has changed
        self.level = bench.level
        self.document = bench.document.number
        self.selection = bench.selection
        self.rows = self._new_rows()

    def _new_rows(self) -> QFormLayout:
        rows = QFormLayout()
        rows.setHorizontalSpacing(14)
        rows.setVerticalSpacing(6)
        rows.setLabelAlignment(Qt.AlignmentFlag.AlignLeft)
        # with large letters a long field goes below its label, instead of beyond the edge
        rows.setRowWrapPolicy(QFormLayout.RowWrapPolicy.WrapLongRows)
        rows.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.ExpandingFieldsGrow)
        self.column.addLayout(rows)
        return rows

    def heading(self, words: str) -> None:
        """A heading; fields after it stand below it."""
        label = Words(words)
        label.setFont(text_font(0, bold=True))
        label.setObjectName("quiet")
        label.setWordWrap(True)
        label.setContentsMargins(0, 10, 0, 0)
        self.column.addWidget(label)
        self.rows = self._new_rows()

    def words(self, words: str, *, quiet: bool = True) -> QLabel:
        """Return a paragraph."""
        label = Words(words)
        label.setWordWrap(True)
        if quiet:
            label.setObjectName("quiet")
        self.column.addWidget(label)
        self.rows = self._new_rows()
        return label

    def full(self, widget: QWidget) -> None:
        """Put a widget into the form, as wide as the sheet."""
        self.column.addWidget(widget)
        self.rows = self._new_rows()

    def finding(self, words: str) -> None:
        """What is wrong with what is above, marked as findings are."""
        label = self.words(f"▲ {words[0].upper()}{words[1:]}.", quiet=False)
        label.setStyleSheet(f"color: {theme().finding.name()};")

    @staticmethod
    def label(words: str) -> QLabel:
        """Return a word between fields."""
        label = Words(words)
        label.setObjectName("quiet")
        return label

    def labelled(self, words: str, field: QWidget) -> None:
        """A row of the form; fields of one sheet stand below one another, whatever its headings."""
        label = Words(words)
        label.setMinimumWidth(LABEL)
        label.setBuddy(field)
        self.rows.addRow(label, field)

    def add(self, label: str, field: QWidget, name: str, *, said: str = "") -> None:
        """Put a field of one's own into the form."""
        self.named(field, name, said or label)
        self.labelled(label, field)

    def named(self, field: QWidget, name: str, label: str) -> None:
        """Give a field its name, and the words by which those who cannot see it know it."""
        field.setObjectName(f"{self.prefix}-{name}")
        field.setAccessibleName(label)
        field.setMinimumHeight(FIELD)

    def give(self, take: Take, value: Any) -> bool:
        """Give a field's value to what takes it; whether it will not do.

        The page may have been removed for another in the meantime, and what it was about may be gone.
        """
        bench = self.bench
        if bench.level is self.level:
            return self._show_problem(take(value))
        if bench.document.number != self.document or self.selection.within(bench.level) != self.selection:
            return False
        try:
            return self._show_problem(take(value))
        except (LookupError, StopIteration):
            # a part of it is gone: an expectation, a topic, a variable
            return False

    def _show_problem(self, problem: str | None) -> bool:
        if problem:
            self.bench.notify(problem[0].upper() + problem[1:] + ("" if problem.endswith(".") else "."))
        return bool(problem)

    def text(
        self,
        label: str,
        name: str,
        value: str,
        take: Take,
        *,
        wide: bool = True,
        hint: str = "",
        known: Sequence[str] = (),
    ) -> QLineEdit:
        """Return a line of text, taken when it is left or Enter is pressed; put back if it will not do."""
        field = self.line(name, label, value, take, hint=hint, known=known)
        if wide:
            field.setMinimumWidth(TEXT)
        self.labelled(label, field)
        return field

    def line(
        self, name: str, label: str, value: str, take: Take, *, hint: str = "", known: Sequence[str] = ()
    ) -> QLineEdit:
        """Return a text field outside a labelled row."""
        field = QLineEdit(value)
        self.named(field, name, label)
        field.setPlaceholderText(hint)
        field.setCursorPosition(0)
        if known:
            completer = QCompleter(list(known), field)
            completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
            completer.setFilterMode(Qt.MatchFlag.MatchContains)
            field.setCompleter(completer)

        def done() -> None:
            text = field.text().strip()
            # what is taken is the level's to undo, no longer the field's
            field.setModified(False)
            if text != value and self.give(take, text):
                field.setText(value)

        field.editingFinished.connect(done)
        return field

    def number(self, label: str, name: str, value: float, take: Take, **bounds: Any) -> Number:
        """Return a number with steps, in a labelled row; `bounds` as of `spin`."""
        field = self.spin(name, label, value, take, **bounds)
        # as wide as the others in the column, whatever numbers they may hold
        field.setMinimumWidth(TEXT)
        self.labelled(label, field)
        return field

    def spin(
        self,
        name: str,
        label: str,
        value: float,
        take: Take,
        *,
        least: float = -FARTHEST,
        most: float = FARTHEST,
        step: float = 1.0,
        decimals: int = 2,
        suffix: str = "",
        none: str = "",
    ) -> Number:
        """Return a number field outside a labelled row."""
        field = Number()
        self.named(field, name, label)
        field.setDecimals(decimals)
        field.setRange(least, most)
        field.setSingleStep(step)
        field.setSuffix(suffix)
        if none:
            field.setSpecialValueText(none)
        field.setKeyboardTracking(False)
        field.setValue(value)
        field.valueChanged.connect(lambda v: self.give(take, round(v, 6)))
        return field

    def choice(
        self, label: str, name: str, value: Any, options: Sequence[tuple[Any, str]], take: Take
    ) -> Chooser:
        """Return one of a few."""
        field = self.combo(name, label, value, options, take)
        self.labelled(label, field)
        return field

    def combo(
        self, name: str, label: str, value: Any, options: Sequence[tuple[Any, str]], take: Take
    ) -> Chooser:
        """Return a choice outside a labelled row."""
        field = Chooser()
        self.named(field, name, label)
        if len(options) > MANY_CHOICES:
            # else each is measured
            field.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            field.setMinimumContentsLength(12)
        field.addItems([shown for _, shown in options])
        known = [option for option, _ in options]
        field.setCurrentIndex(known.index(value) if value in known else -1)
        field.activated.connect(lambda at: self.give(take, known[at]))
        return field

    def check(self, label: str, name: str, value: bool, take: Take, *, words: str = "") -> QCheckBox:
        """Yes or no, with its label."""
        field = self.tick(name, value, take, words)
        field.setAccessibleName(label)
        self.labelled(label, field)
        return field

    def tick(self, name: str, value: bool, take: Take, words: str) -> QCheckBox:
        """Yes or no, for a field of several."""
        field = QCheckBox(words)
        self.named(field, name, words)
        field.setChecked(value)
        field.toggled.connect(lambda yes: self.give(take, yes))
        return field

    def checks(self, label: str, *fields: QCheckBox) -> None:
        """Several of them below one another, with one label."""
        holder = QWidget()
        column = QVBoxLayout(holder)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        for field in fields:
            column.addWidget(field)
        self.labelled(label, holder)

    def swatches(self, label: str, name: str, value: str, options: Sequence[str], take: Take) -> None:
        """A colour out of a few, or written as # and six digits."""
        row = self.row()
        for number, colour in enumerate(options, 1):
            button = QToolButton()
            button.setIcon(_swatch(colour, chosen=colour.lower() == value.lower()))
            button.setIconSize(QSize(18, 18))
            button.setProperty("small", "true")
            self.named(button, f"{name}-{number}", f"colour {number}")
            button.clicked.connect(lambda _=False, c=colour: self.give(take, c))
            row.addWidget(button)
        written = self.line(name, label, value, take)
        written.setFixedWidth(written.fontMetrics().horizontalAdvance("#DDDDDD") + 26)
        self.labelled(label, self.box(row))
        self.labelled("", written)

    def row(self) -> FlowLayout:
        """Return a row for several fields, which goes on below where the sheet is narrow."""
        return FlowLayout()

    def alone(self, field: QWidget) -> None:
        """Put a field into the form without a label, as wide as it needs to be."""
        row = self.row()
        row.addWidget(field)
        self.column.addWidget(self.box(row))
        self.rows = self._new_rows()

    def box(self, row: FlowLayout) -> QWidget:
        """Return a row of fields as one field."""
        holder = QWidget()
        holder.setLayout(row)
        return holder

    def button(self, words: str, name: str, run: Callable[..., Any], *, tip: str = "") -> QPushButton:
        """Return a button that does something."""
        button = QPushButton(words)
        self.named(button, name, tip or words)
        button.setToolTip(plain.tip(tip))
        button.clicked.connect(lambda _=False: run())
        return button

    def buttons(self, *buttons: QPushButton) -> None:
        """Buttons side by side, and below one another where the sheet is narrow."""
        row = self.row()
        for button in buttons:
            row.addWidget(button)
        self.column.addWidget(self.box(row))
        self.rows = self._new_rows()

    def remover(self, name: str, what: str, run: Callable[..., Any]) -> QToolButton:
        """Return a small button that takes something away."""
        button = QToolButton()
        button.setText("×")
        button.setProperty("small", "true")
        button.setProperty(AT_END, True)
        self.named(button, name, f"remove {what}")
        button.setToolTip(tip(f"Remove {what}"))
        button.clicked.connect(lambda _=False: run())
        return button


def _swatch(colour: str, *, chosen: bool) -> QIcon:
    pixmap = QPixmap(36, 36)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(Qt.GlobalColor.transparent)
    p = QPainter(pixmap)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setBrush(kind_colour(colour))
    p.setPen(theme().ink if chosen else QColor(0, 0, 0, 0))
    p.drawEllipse(2, 2, 14, 14)
    if chosen:
        p.setBrush(theme().panel)
        p.drawEllipse(6, 6, 6, 6)
    p.end()
    return QIcon(pixmap)
