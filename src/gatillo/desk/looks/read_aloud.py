"""What a screen reader hears of a view that paints itself: its things as items, each with its state and what can be done with it.

Qt asks for it only while something listens. Each item stands for a place in the list of things, which is made anew when it is
asked for after the view has changed.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from weakref import WeakKeyDictionary

from PySide6 import QtGui
from PySide6.QtCore import QObject, QPoint, QRect
from PySide6.QtGui import QAccessible, QAccessibleEvent, QAccessibleInterface
from PySide6.QtWidgets import QAccessibleWidget, QWidget

Role = QAccessible.Role
Deed = Callable[[], object]
MOST_ITEMS = 5_000
"""Things of a view that are read; more are told in the last one."""


@dataclass(slots=True)
class Heard:
    """One thing as it is read: its name, more about it, where it is in its view, its state, its parts, and what can be done with it."""

    name: str
    detail: str = ""
    area: QRect = field(default_factory=QRect)
    role: Role = Role.ListItem
    selected: bool = False
    checked: bool | None = None
    """For what can be switched: whether it is on."""
    folded: bool | None = None
    """For what can be unfolded: whether it is folded."""
    deeds: dict[str, Deed] = field(default_factory=dict)
    """By a word for it: what can be done. The first is what a press does."""
    parts: Callable[[], list[Heard]] | None = None


Things = Callable[[], Sequence[Heard]]


def let_be_read(view: QWidget, role: Role, things: Things, on: QWidget | None = None) -> ReadView:
    """Let a screen reader read what a view shows; `on` is the widget in whose place the areas are, the view if none is given."""
    _install()
    read = ReadView(view, role, things, on or view)
    _READ[view] = read
    return read


class ReadView:
    """The things of a view, worked out when they are asked for, and told of when they change."""

    def __init__(self, view: QWidget, role: Role, things: Things, on: QWidget) -> None:
        self.view, self.role, self.on = view, role, on
        self._things = things
        self._known: list[Heard] | None = None
        self._item: _View | None = None
        self._current = -1

    def things(self) -> list[Heard]:
        """Return the things as they are now."""
        if self._known is None:
            self._known = list(self._things())[:MOST_ITEMS]
        return self._known

    def changed(self) -> None:
        """Forget the things, since the view shows others or another state; announce the one that is selected now."""
        self._known = None
        if self._item is None or not QAccessible.isActive():
            return
        current = next((at for at, one in enumerate(self.things()) if one.selected), -1)
        if current >= 0 and current != self._current and self.view.hasFocus():
            item = self._item.child(current)
            assert item is not None
            QAccessible.updateAccessibility(QAccessibleEvent(item, QAccessible.Event.Focus))
        self._current = current

    def announce(self, words: Callable[[], str]) -> None:
        """Let something be said at once, such as what fires at the cursor; worked out only while something listens.

        Not with a Qt before 6.8.
        """
        event = getattr(QtGui, "QAccessibleAnnouncementEvent", None)
        if event is not None and self._item is not None and QAccessible.isActive():
            QAccessible.updateAccessibility(event(self.view, words()))

    def interface(self) -> _View:
        """Return what Qt asks, made once."""
        if self._item is None:
            self._item = _View(self)
        return self._item


_READ: WeakKeyDictionary[QWidget, ReadView] = WeakKeyDictionary()
_installed: list[Callable[[str, QObject], QAccessibleInterface | None]] = []


def _install() -> None:
    if not _installed:

        def made(name: str, of: QObject) -> QAccessibleInterface | None:
            read = _READ.get(of) if isinstance(of, QWidget) else None
            return read.interface() if read is not None else None

        # held, as Qt does not
        _installed.append(made)
        QAccessible.installFactory(made)


class _View(QAccessibleWidget):
    """A view as Qt's bridges ask it."""

    def __init__(self, read: ReadView) -> None:
        super().__init__(read.view, read.role, read.view.accessibleName())
        self.read = read
        self._items: list[_Item] = []
        """Never given up: a bridge may still ask one whose thing is gone."""

    def childCount(self) -> int:
        return len(self.read.things())

    def child(self, index: int) -> _Item | None:  # type: ignore[override]
        if not 0 <= index < len(self.read.things()):
            return None
        while len(self._items) <= index:
            self._items.append(_registered(_Item(self.read, self, (len(self._items),))))
        return self._items[index]

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return next((at for at, one in enumerate(self._items) if one is child), -1)

    def focusChild(self) -> QAccessibleInterface | None:  # type: ignore[override]
        at = next((at for at, one in enumerate(self.read.things()) if one.selected), -1)
        return self.child(at) if at >= 0 and self.read.view.hasFocus() else None


def _registered(item: _Item) -> _Item:
    QAccessible.registerAccessibleInterface(item)
    return item


class _Item(QAccessibleWidget):
    """One thing, by the way to it: its place among the view's things, and its place among the parts of that."""

    def __init__(self, read: ReadView, above: _View | _Item, way: tuple[int, ...]) -> None:
        super().__init__(read.view, Role.ListItem, "")
        self.read, self.above, self.way = read, above, way
        self._items: list[_Item] = []

    def heard(self) -> Heard | None:
        """Return the thing; None once there are fewer."""
        some: Sequence[Heard] = self.read.things()
        found: Heard | None = None
        for at in self.way:
            if at >= len(some):
                return None
            found = some[at]
            some = found.parts() if found.parts is not None else []
        return found

    # as Qt asks

    def object(self) -> None:  # type: ignore[override]
        # it stands for a part of its view, and not for the view
        return None

    def isValid(self) -> bool:
        return self.heard() is not None

    def parent(self) -> QAccessibleInterface:
        return self.above

    def _parts(self) -> Sequence[Heard]:
        found = self.heard()
        return found.parts() if found is not None and found.parts is not None else []

    def childCount(self) -> int:
        return len(self._parts())

    def child(self, index: int) -> _Item | None:  # type: ignore[override]
        if not 0 <= index < len(self._parts()):
            return None
        while len(self._items) <= index:
            self._items.append(_registered(_Item(self.read, self, (*self.way, len(self._items)))))
        return self._items[index]

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return next((at for at, one in enumerate(self._items) if one is child), -1)

    def text(self, what: QAccessible.Text) -> str:
        found = self.heard()
        if found is None:
            return ""
        return {QAccessible.Text.Name: found.name, QAccessible.Text.Description: found.detail}.get(what, "")

    def rect(self) -> QRect:
        found, on = self.heard(), self.read.on
        if found is None:
            return QRect()
        return QRect(on.mapToGlobal(QPoint(found.area.x(), found.area.y())), found.area.size())

    def role(self) -> Role:
        found = self.heard()
        return found.role if found is not None else Role.ListItem

    def state(self) -> QAccessible.State:
        state = QAccessible.State()
        found = self.heard()
        if found is None:
            state.invalid = True
            return state
        state.selectable = state.focusable = True
        state.selected = found.selected
        state.focused = found.selected and self.read.view.hasFocus()
        state.offscreen = not self.read.on.rect().intersects(found.area)
        if found.checked is not None:
            state.checkable, state.checked = True, found.checked
        if found.folded is not None:
            state.expandable = True
            state.expanded, state.collapsed = not found.folded, found.folded
        return state

    def actionNames(self) -> list[str]:
        found = self.heard()
        return list(found.deeds) if found is not None else []

    def localizedActionName(self, name: str) -> str:
        return name

    def localizedActionDescription(self, name: str) -> str:
        return ""

    def keyBindingsForAction(self, name: str) -> list[str]:
        return []

    def doAction(self, name: str) -> None:
        found = self.heard()
        if found is not None and name in found.deeds:
            found.deeds[name]()
            self.read.changed()
