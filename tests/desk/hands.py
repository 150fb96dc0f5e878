"""A pair of hands: real key presses and clicks on the real window, counted."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QComboBox,
    QDoubleSpinBox,
    QLineEdit,
    QListView,
    QListWidget,
    QWidget,
)

from conftest import settle  # type: ignore[attr-defined]

LEFT = Qt.MouseButton.LeftButton
CTRL = Qt.KeyboardModifier.ControlModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier
ALT = Qt.KeyboardModifier.AltModifier
NONE = Qt.KeyboardModifier.NoModifier
ENTER = Qt.Key.Key_Return


class Hands:
    """Types and clicks; `presses` and `clicks` say how much of it."""

    def __init__(self, qtbot, window) -> None:
        self.qtbot = qtbot
        self.window = window
        self.presses = 0
        self.clicks = 0

    @property
    def count(self) -> int:
        return self.presses + self.clicks

    def focus(self) -> QWidget:
        found = QApplication.focusWidget()
        assert found is not None
        return found

    def two_strokes(self, key: Qt.Key) -> None:
        """Press Ctrl+M, and then a key."""
        self.key(Qt.Key.Key_M, CTRL)
        self.key(key)

    def key(self, key: Qt.Key, modifiers: Qt.KeyboardModifier = NONE, times: int = 1) -> None:
        for _ in range(times):
            QTest.keyClick(self.focus(), key, modifiers)
            self.presses += 1
            QApplication.processEvents()

    def type(self, text: str) -> None:
        """Type a text, key by key, where the keyboard is."""
        for character in text:
            QTest.keyClicks(self.focus(), character)
            self.presses += 1
        QApplication.processEvents()

    def enter(self, text: str) -> None:
        """Type a text and Enter."""
        self.type(text)
        self.key(ENTER)
        # what follows a taken line opens in the next turn of the event loop
        QTest.qWait(5)

    def rest(self) -> None:
        """Wait until the run has followed."""
        settle(self.qtbot, self.window)

    def field(self, name: str) -> QWidget:
        # a page that was replaced may still wait for its end
        found = [w for w in self.window.findChildren(QWidget, name) if w.isVisible()]
        assert found, name
        return found[0]

    def click(self, widget: QWidget, at: QPoint | None = None, modifiers: Qt.KeyboardModifier = NONE) -> None:
        QTest.mouseClick(widget, LEFT, modifiers, at if at is not None else widget.rect().center())
        self.clicks += 1
        QApplication.processEvents()

    def press_button(self, name: str) -> None:
        self.click(self.field(name))

    def choose(self, name: str, words: str) -> None:
        """Open a list of choices and click the one that has these words."""
        box = self.field(name)
        assert isinstance(box, QComboBox)
        at = next(i for i in range(box.count()) if words in box.itemText(i))
        self.click(box)
        view = box.view()
        self.qtbot.waitUntil(view.isVisible)
        view.scrollTo(box.model().index(at, 0))
        item = view.visualRect(box.model().index(at, 0)).center()
        item.setX(min(item.x(), view.viewport().width() // 2))
        # a list takes no click until the pointer has moved onto one of its lines
        QTest.mouseMove(view.viewport(), item + QPoint(12, 4))
        QTest.mouseMove(view.viewport(), item)
        QApplication.processEvents()
        self.click(view.viewport(), item)

    def add_behaviour(self, words: str) -> None:
        """Open the list of behaviours in a kind's page, and click the one of this name."""
        self.press_button("kind-add-behaviour")
        found = self.field("kind-behaviour-list")
        assert isinstance(found, QListWidget)
        item = next(i for i in map(found.item, range(found.count())) if i.text() == words)
        found.scrollToItem(item)
        QApplication.processEvents()
        self.click(found.viewport(), found.visualItemRect(item).center())

    def put(self, name: str, value: str) -> None:
        """Click into a field, select what is there and type another value."""
        field = self.field(name)
        self.click(field.lineEdit() if isinstance(field, QDoubleSpinBox) else field)
        assert isinstance(self.focus(), QLineEdit | QDoubleSpinBox), self.focus()
        self.key(Qt.Key.Key_A, CTRL)
        self.enter(value)

    def place(self, kind: str, *points: tuple[float, float]) -> None:
        """Take a kind from the shelf and click where it is to stand; with Shift for more than one."""
        button = next(b for b in self.window.shelf.buttons if b.kind.name == kind)
        self.click(button)
        view = self.window.level_view
        for point in points:
            self.click(view, view.to_pixels(*point).toPoint(), SHIFT if len(points) > 1 else NONE)
        if len(points) > 1:
            self.key(Qt.Key.Key_Escape)

    def put_down(self, *points: tuple[float, float]) -> None:
        """Click where the kind at hand is to stand; all but the last with Shift, which keeps it at hand."""
        view = self.window.level_view
        assert view.tools.armed is not None
        for at, point in enumerate(points, 1):
            self.click(view, view.to_pixels(*point).toPoint(), SHIFT if at < len(points) else NONE)

    def expect_as_now(self) -> None:
        """Expect what happened, and wait for the verdict."""
        self.rest()
        self.key(Qt.Key.Key_E, CTRL | SHIFT)
        self.rest()

    def click_new_rule(self) -> None:
        """Click the row in which a new rule is typed."""
        order = self.window.order
        at = next(i for i, r in enumerate(order.state.rows) if r.sort == "new")
        words = next(w for w in order.state.rows[at].words if w.text == "+ rule")
        self.click(order.viewport(), order.geometry_.word_area(at, words).center().toPoint())

    def hold(self, key: Qt.Key, until) -> None:
        """Hold a key down until something is so."""
        focus = self.focus()
        QTest.keyPress(focus, key)
        self.presses += 1
        self.qtbot.waitUntil(until)
        QTest.keyRelease(focus, key)

    def new_kind(self, name: str) -> None:
        self.key(Qt.Key.Key_K, CTRL)
        self.enter(name)

    def new_rule(self, *lines: str) -> None:
        """Take the line that is open, if one is, and type another rule below; its last line stays open."""
        self.key(ENTER, CTRL)
        QTest.qWait(5)
        for line in lines[:-1]:
            self.enter(line)
        self.type(lines[-1])

    def drag(self, view: QWidget, start: QPointF, end: QPointF) -> None:
        QTest.mousePress(view, LEFT, NONE, start.toPoint())
        QTest.mouseMove(view, ((start + end) / 2).toPoint())
        QTest.mouseMove(view, end.toPoint())
        QTest.mouseRelease(view, LEFT, NONE, end.toPoint())
        self.clicks += 1
        QApplication.processEvents()

    def choose_command(self, menu: str, words: str) -> None:
        """Click a menu of the menu bar, and a command in it."""
        bar = self.window.menuBar()
        top = next(a for a in bar.actions() if a.text().replace("&", "") == menu)
        self.click(bar, bar.actionGeometry(top).center())
        popup = top.menu()
        self.qtbot.waitUntil(popup.isVisible)
        action = next(a for a in popup.actions() if a.text().replace("&", "") == words)
        self.click(popup, popup.actionGeometry(action).center())

    def pick_listed(self, popup: QAbstractItemView, at: int) -> None:
        """Click a line of a list, which is scrolled to first."""
        index = popup.model().index(at, 0)
        popup.scrollTo(index)
        point = popup.visualRect(index).center()
        QTest.mouseMove(popup.viewport(), point)
        self.click(popup.viewport(), point)
        QTest.qWait(10)

    def pick_offered(self, text: str) -> None:
        """Click a line of the list that lies over the window, of what may stand in a slot."""
        (popup,) = [w for w in QApplication.topLevelWidgets() if isinstance(w, QListView) and w.isVisible()]
        rows = [popup.model().index(at, 0).data() for at in range(popup.model().rowCount())]
        self.pick_listed(popup, rows.index(text))
