"""Help while a formula is typed: completing the name at the cursor, and its value at the run's cursor."""

from __future__ import annotations

import re

import numpy as np
from PySide6.QtCore import QObject, QStringListModel, Qt, QTimer
from PySide6.QtWidgets import QAbstractItemView, QCompleter, QLineEdit

from gatillo.catalogue.declare.slot_types import SLOT_TYPES
from gatillo.desk.session.workbench import Workbench
from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import PROPERTY_TYPES, Formula
from gatillo.formula.function_table import FUNCTIONS
from gatillo.formula.syntax import FormulaError
from gatillo.formula.values import write_out
from gatillo.level.model import Graph
from gatillo.level.roles import Index, all_logic
from gatillo.sim.matching.match_table import Matches, View

MOST_SHOWN = 12
"""Of what is offered, so many at once; the rest is come to by the wheel."""
_NAME = re.compile(r"[^\W\d][\w.]*$")


def names_after(index: Index, begun: str) -> list[str]:
    """Return what the name that is being typed may become: roles, variables, places, functions."""
    owner, dot, _ = begun.rpartition(".")
    if dot:
        if owner == "level":
            return [f"level.{t}" for t in index.level_tokens]
        if owner == "pointer":
            return ["pointer.x", "pointer.y"]
        role = index.role_tokens.get(owner)
        if role is not None:
            return [f"{owner}.{name}" for name in (*index.variable_tokens(role), *PROPERTY_TYPES)]
        if owner in index.place_tokens:
            return [f"{owner}.x", f"{owner}.y"]
        return []
    functions = [f"{name}(" for name in (*FUNCTIONS, "if")]
    words = ["level.", "pointer.", "time", "dt", "tick", "yes", "no", "nobody"]
    return [
        *(f"level.{t}" for t in index.level_tokens),
        *index.role_tokens,
        *index.place_tokens,
        *words,
        *functions,
    ]


def readable(index: Index) -> list[str]:
    """Return what texts most often contain: variables of the level, and the names and variables of objects."""
    own = [[f"{role}.name", *names_after(index, f"{role}.")] for role in index.role_tokens]
    return [*names_after(index, "level."), *(name for names in own for name in names)]


OPERATORS = ("+", "-", "*", "/", "^", "mod", "=", "<>", "<", "<=", ">", ">=", "and", "or", ",", ")")
_OPERAND = re.compile(r"""([\w."”]|\))\s*$""")
_WORD = re.compile(r"(?:^|[^\w.])(and|or|not|mod)\s*$")


def _is_whole(before: str) -> bool:
    """Return whether a text ends with a value, so that an operator comes next."""
    return _OPERAND.search(before) is not None and _WORD.search(before) is None


def put_behind(before: str, what: str) -> str:
    """Return the text of a formula with one of what can come next behind it, spaced as one writes."""
    owner, dot, _ = what.rpartition(".")
    if dot and owner and before.endswith((owner, f"{owner}.")):
        return before.removesuffix(".").removesuffix(owner) + what
    if what == "," or what == "not":
        return f"{before}{what} "
    if what in OPERATORS and what != ")" and _is_whole(before):
        return f"{before.rstrip()} {what} "
    return before + what


NAMED_IN = {"timer": "timer", "items": "item", "sent": "message", "key_down": "key"}
"""By function: the type of slot whose names it takes in quotes."""


def _function_about(before: str) -> str:
    """Return the function whose parentheses are open where a text ends; "" for none."""
    depth = 0
    for at in range(len(before) - 1, -1, -1):
        depth += {")": 1, "(": -1}.get(before[at], 0)
        if depth < 0:
            found = _NAME.search(before[:at])
            return found.group() if found else ""
    return ""


def _quoted_names(index: Index, function: str) -> list[str]:
    """Return the names, in quotes, that a function takes: of timers, items, graphs and the like."""
    if function in ("kept", "kept_for"):
        names = [entry.name for _, _, entry in all_logic(index.level) if isinstance(entry, Graph)]
    elif function in NAMED_IN:
        found = SLOT_TYPES[NAMED_IN[function]].names
        names = list(found(index, ())) if found is not None else []
    else:
        names = []
    return [f'"{name}"' for name in names]


def what_comes_next(index: Index, before: str) -> list[str]:
    """Return what can stand after the text of a formula: what goes on with it, or what a value can be made of."""
    begun = _NAME.search(before)
    if begun and begun.group().endswith("."):
        return names_after(index, begun.group())
    if not _is_whole(before):
        names = names_after(index, "")
        functions = [name for name in names if name.endswith("(")]
        quoted = _quoted_names(index, _function_about(before))
        values = [name for name in names if name not in functions]
        return [*quoted, *values, *"0123456789", "-", "(", "not", *functions]
    members = names_after(index, f"{begun.group()}.") if begun else []
    digits = [*"0123456789", "."] if before[-1:].isdigit() else []
    return [*members, *OPERATORS, *digits]


class NameCompleter(QObject):
    """Completes the name before the text cursor; the rest of the formula stays."""

    def __init__(
        self, field: QLineEdit, index: Index, *, in_braces: bool, also: tuple[str, ...] = ()
    ) -> None:
        """Complete what is typed into a field. `also` are names that may stand there beside the level's."""
        super().__init__(field)
        self.also = also
        self.field = field
        self.index = index
        self.in_braces = in_braces
        self.model = QStringListModel(self)
        self.completer = QCompleter(self.model, self)
        self.completer.setWidget(field)
        self.completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self.completer.setFilterMode(Qt.MatchFlag.MatchContains)
        self.completer.setMaxVisibleItems(MOST_SHOWN)
        self._list().setObjectName("offers")
        self.completer.activated.connect(self._take)
        self._listing = False
        """Whether all that can come next is listed, not what a name that is typed may become."""
        field.textEdited.connect(lambda _: self.refresh())

    def begun(self) -> str:
        """Return the name before the text cursor, as far as it is typed."""
        text = self.field.text()[: self.field.cursorPosition()]
        if self.in_braces and text.rfind("{") <= text.rfind("}"):
            return ""
        found = _NAME.search(text)
        return found.group() if found else ""

    def _list(self) -> QAbstractItemView:
        popup = self.completer.popup()
        assert popup is not None
        return popup

    def refresh(self) -> None:
        """Offer what the name may become."""
        self._listing = False
        begun = self.begun()
        names = names_after(self.index, begun) if begun else []
        if not begun or begun in names:
            self._list().hide()
            return
        self.model.setStringList(names)
        self.completer.setCompletionPrefix(begun)
        if self.completer.completionCount():
            self._list().setCurrentIndex(self.completer.completionModel().index(0, 0))
            area = self.field.rect()
            area.setWidth(max(240, area.width()))
            self.completer.complete(area)
        else:
            self._list().hide()

    def list_all(self) -> None:
        """Offer all that can come next, to be clicked together: in the place of what is selected, or at the text cursor."""
        if self.in_braces:
            names = [f"{{{name}}}" for name in readable(self.index)]
        else:
            before = self.field.text()[: self._start()]
            names = [*what_comes_next(self.index, before), *(self.also if not _is_whole(before) else ())]
        self._listing = True
        self.model.setStringList(names)
        self.completer.setCompletionPrefix("")
        area = self.field.rect()
        area.setWidth(max(240, area.width()))
        self.completer.complete(area)

    def _start(self) -> int:
        """Return where what is put in begins: at what is selected, or at the text cursor."""
        at = self.field.selectionStart()
        return at if at >= 0 else self.field.cursorPosition()

    def _take(self, name: str) -> None:
        end = self.field.cursorPosition()
        start = end - len(self.begun())
        text = self.field.text()
        if self._listing:
            start = self._start()
            end = start + len(self.field.selectedText())
            if not self.in_braces:
                start, name = 0, put_behind(text[:start], name)
        self.field.setText(text[:start] + name + text[end:])
        self.field.setCursorPosition(start + len(name))
        if self._listing:
            # goes on until the list is left by a click beside it
            QTimer.singleShot(0, self.list_all)


def value_now(bench: Workbench, source: str) -> str:
    """Return the formula's value at the cursor of the run, for the first object of each role; "" if it has none."""
    world = bench.world
    try:
        formula: Formula = compile_formula(world.program.index, source)
    except FormulaError:
        return ""
    if formula.constant is not None or formula.type in ("object", "place"):
        return ""
    rows: dict[str, np.ndarray] = {}
    names: list[str] = []
    for token in formula.roles:
        role = world.program.index.role_tokens[token]
        if role.source == "reference":
            return ""
        there = world.rows_of(role)
        there = there[~np.isin(there, [r[0] for r in rows.values()])]
        if not len(there):
            return f"there is no {role.text} at this tick"
        rows[token] = there[:1]
        names.append(world.name_of(world.id.item(there[0])))
    view = View(world, Matches(1, rows), 0)
    with np.errstate(all="ignore"):
        value = formula.evaluate(view)
    if view.faults:
        return f"at tick {bench.cursor.tick}: {view.faults[0][1]}"
    shown = value if isinstance(value, float | bool | str) else np.asarray(value).reshape(-1)[0]
    if isinstance(shown, float | np.floating):
        shown = round(float(shown), 3)
    return f"= {write_out(shown)} at tick {bench.cursor.tick}" + (f" for {', '.join(names)}" if names else "")
