"""Without a keyboard: what stands in a slot is chosen from lists; and with large letters in a small window."""

from __future__ import annotations

import pytest
from hands import Hands
from msgspec.structs import replace
from PySide6.QtCore import QPoint, QPointF, QSettings, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QToolButton
from test_drawing_graphs import GRAPH, does_as_the_studys_own, opened, pixel, shape, study_12
from test_drawing_graphs import yard as drawing_yard

from building import c, kind, level, rule, things
from conftest import settle
from gatillo.desk.application import make_application
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.main_window import MainWindow
from gatillo.desk.writing.formula_help import put_behind, what_comes_next
from gatillo.desk.writing.typed_line import READING
from gatillo.examples import study_path
from gatillo.formula.compiling import compile_formula
from gatillo.level.model import Graph
from gatillo.level.roles import Index, all_logic
from gatillo.level.rule_edits import delete_rule

LARGE = 13.0
"""Points: 1.4 times the desktop's."""


def yard():
    moves = rule(
        "moves",
        when=c("every_tick"),
        if_=c("formula_holds", formula="yes"),
        do=c("move_by", who="Moth", dx="1", dy="0"),
    )
    return level(
        moves,
        kinds=(kind("Moth", 5), kind("Lamp", 8)),
        objects=(*things("Moth", (10, 10)), *things("Lamp", (90, 10))),
        has={"n": 0.0},
    )


def click_slot(hands: Hands, window, text: str) -> None:
    """Click the word of a slot in the order list."""
    order = window.order
    for at in range(len(order.state.rows)):
        for word in order.state.slots_of(at):
            if word.text == text:
                hands.click(order.viewport(), order.geometry_.word_area(at, word).center().toPoint())
                return
    raise AssertionError(text)


def test_who_is_meant_is_chosen_from_a_list_by_two_clicks(open_window, qtbot):
    window = open_window(yard())
    hands = Hands(qtbot, window)
    click_slot(hands, window, "Moth")
    hands.pick_offered("Lamp")
    assert window.order.writer.editor.field is None
    assert window.bench.level.order[0].do[0].slots["who"] == "Lamp"
    assert (hands.presses, hands.clicks) == (0, 2)


def test_a_formula_is_clicked_together_and_taken_by_a_click_beside_it(open_window, qtbot):
    window = open_window(yard())
    hands = Hands(qtbot, window)
    click_slot(hands, window, "yes")
    field = window.order.writer.editor.field
    (everything,) = field.actions()
    everything.trigger()
    for word in ("distance(", "Moth", ",", "Lamp", ")", "<", "1", "0", "0", "and", "level.n", "=", "0"):
        hands.pick_offered(word)
    assert field.text() == "distance(Moth, Lamp) < 100 and level.n = 0"
    QApplication.activePopupWidget().close()
    order = window.order
    hands.click(order.viewport(), order.viewport().rect().bottomLeft())
    assert window.bench.level.order[0].if_[0].slots["formula"] == field.text()
    assert hands.presses == 0


FORMULAS = [
    "level.n",
    "-Moth.x + 2 * 3",
    "not level.n > 1 and yes",
    "distance(Moth, Lamp) <= 20 or time < 3",
    "(Moth.x + Lamp.y) mod 4",
    "min(Moth.x, level.n, 10) ^ 2",
    "if(Moth.x >= 2, 1, 0) <> 1",
]


@pytest.mark.parametrize("formula", FORMULAS)
def test_what_can_come_next_is_offered_for_any_formula_and_spaced_as_one_writes(formula):
    index = Index(yard())
    made = ""
    while made != formula:
        rest = formula[len(made) :]
        fits = [
            one
            for one in what_comes_next(index, made)
            if formula.startswith(put_behind(made, one).rstrip()) and len(put_behind(made, one)) > len(made)
        ]
        assert fits, (made, rest)
        made = max((put_behind(made, one) for one in fits), key=len)
    compile_formula(index, made)


class Pointer:
    """Draws in the graph that is open, by the mouse alone."""

    def __init__(self, hands: Hands, window: MainWindow) -> None:
        self.hands = hands
        self.window = window
        self.view = window.graph_page.view

    def shape(self, number: int):
        return shape(self.window, number)

    def show_all(self) -> None:
        buttons = self.window.findChildren(QToolButton, "tool")
        self.hands.click(
            next(b for b in buttons if b.property("command") == "show-all-cards" and b.isVisible())
        )

    def take(self, use: str) -> int:
        """Click what is offered; the number of the new card."""
        line = self.view.writer.line
        uses = [line.model.item(at).data(READING).clause.use for at in range(line.model.rowCount())]
        self.hands.pick_listed(line.list, uses.index(use))
        graph = [e for _, _, e in all_logic(self.window.bench.level) if isinstance(e, Graph)][-1]
        return max(node.id for node in graph.nodes)

    def card_on_ground(self, at: QPointF, use: str) -> int:
        point = pixel(self.view, at).toPoint()
        QTest.mouseDClick(self.view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, point)
        self.hands.clicks += 2
        return self.take(use)

    def next_card(self, number: int, port: str, x: float, y: float, use: str) -> int:
        """Draw a wire from an output to empty ground, and click what is to stand there."""
        start = self.shape(number).output_at(port)
        self.wire(start, start + QPointF(x, y))
        return self.take(use)

    def wire(self, start: QPointF, end: QPointF) -> None:
        self.hands.drag(self.view, pixel(self.view, start), pixel(self.view, end))

    def word(self, number: int, slot: str) -> QPointF:
        card = self.shape(number)
        word = next(w for w in card.words if w.run.word.slot == slot)
        return pixel(self.view, word.area.translated(card.area.topLeft()).center())

    def pull(self, number: int, slot: str, pixels: float) -> None:
        """Drag a number."""
        at = self.word(number, slot)
        self.hands.drag(self.view, at, at + QPointF(pixels, 0))

    def pick(self, *words: str) -> None:
        for word in words:
            self.hands.pick_offered(word)

    def has(self, number: int, **slots: str) -> None:
        """The roles at hand were filled in already, as the sentence was offered."""
        node = self.shape(number).node
        assert {name: node.slots.get(name) for name in slots} == slots

    def choose(self, number: int, slot: str, word: str) -> None:
        self.hands.click(self.view, self.word(number, slot).toPoint())
        self.pick(word)

    def put_together(self, number: int, slot: str, *words: str) -> None:
        """Click a formula together."""
        self.hands.click(self.view, self.word(number, slot).toPoint())
        self.hands.click(self.view.writer.editor.field.findChild(QToolButton))
        self.pick(*words)
        self.leave()

    def leave(self) -> None:
        """Click beside the list and the field."""
        popup = QApplication.activePopupWidget()
        if popup is not None:
            popup.close()
            self.hands.clicks += 1
        self.hands.click(self.view, self.view.rect().bottomLeft() + QPoint(4, -4))
        QTest.qWait(10)


def test_study_12s_graph_is_drawn_by_the_mouse_alone(open_window, qtbot, record_property):
    whole, wanted = study_12()
    window = open_window(delete_rule(whole, wanted.id))
    settle(qtbot, window)
    hands = Hands(qtbot, window)
    window.actions_["graph instead"].trigger()
    hands.choose_command("Graph", "New graph")
    QTest.qWait(20)
    mouse = Pointer(hands, window)
    tick = mouse.card_on_ground(QPointF(300, -20), "every_tick")
    ray = mouse.next_card(tick, "then", -150, 60, "first_along_ray")
    mouse.pick("Tool", "Gardener")
    mouse.pull(ray, "reach", -120)
    hold = mouse.next_card(ray, "yes", 0, 50, "hold")
    mouse.put_together(hold, "value", "tick")
    mouse.choose(hold, "per", "all matches")
    rays = mouse.next_card(hold, "then", 0, 50, "add_to")
    mouse.pick("level.ray ticks")
    change = mouse.next_card(rays, "then", 0, 50, "on_change")
    mouse.show_all()
    seen = mouse.next_card(change, "begins", -40, 60, "set_variable")
    mouse.pick("Tool.seen")
    mouse.put_together(seen, "value", "yes")
    mouse.next_card(seen, "then", 0, 60, "add_to")
    mouse.pick("Tool.changes")
    mouse.show_all()
    lost = mouse.next_card(change, "ends", 200, 60, "set_variable")
    mouse.pick("Tool.seen")
    mouse.put_together(lost, "value", "no")
    # in ticks in which the ray found nothing
    older = mouse.next_card(tick, "then", 250, 70, "formula_holds")
    mouse.leave()
    cones = mouse.next_card(older, "yes", 0, 60, "add_to")
    mouse.pick("level.cone ticks")
    mouse.show_all()
    cone = mouse.next_card(cones, "then", 0, 60, "in_cone")
    mouse.has(cone, b="Tool", a="Gardener")
    mouse.pull(cone, "distance", 120)
    mouse.pull(cone, "angle", 20)
    best = mouse.next_card(cone, "yes", 0, 60, "best_by")
    mouse.leave()
    mouse.show_all()
    mouse.wire(mouse.shape(best).output_at("kept"), mouse.shape(change).area.center())
    arc = mouse.card_on_ground(mouse.shape(best).area.bottomLeft() + QPointF(-260, 80), "formula")
    turned = ("radians(", "abs(", "bearing(", "Gardener", ",")
    far = ("*", "distance(", "Gardener", ",", "Tool", ")")
    mouse.put_together(arc, "value", *turned, "Tool", ")", ")", ")", *far)
    mouse.wire(mouse.shape(arc).value_at(""), mouse.shape(best).slot_at("value"))
    when = mouse.card_on_ground(mouse.shape(older).area.topRight() + QPointF(60, -60), "formula")
    mouse.put_together(when, "value", "a", "<", "tick")
    mouse.show_all()
    mouse.wire(mouse.shape(hold).value_at(""), mouse.shape(when).area.center())
    mouse.wire(mouse.shape(when).value_at(""), mouse.shape(older).slot_at("formula"))
    does_as_the_studys_own(window.bench.level, whole, wanted)
    record_property("building", f"study 12, its graph by the mouse|{hands.presses}|{hands.clicks}")
    assert hands.presses == 0
    # the aim of 60 is not met: the formula alone is 15 words, and fourteen cards are 29 clicks
    assert hands.count < 104, hands.count


def test_a_value_that_no_name_waits_for_comes_into_a_formula_by_a_new_one(open_window, qtbot):
    window, _ = opened(open_window, qtbot, drawing_yard(), "sort")
    hands, view = Hands(qtbot, window), window.graph_page.view
    view.fit()
    value = replace(GRAPH.nodes[-1], id=6, at=(-460.0, 320.0))
    graph = replace(GRAPH, nodes=(*GRAPH.nodes, value))
    window.bench.edit(replace(window.bench.level, order=(graph,)), "one more")
    view.fit()
    QApplication.processEvents()
    hands.drag(view, pixel(view, shape(window, 5).value_at("")), pixel(view, shape(window, 6).area.center()))
    assert [(w.start, w.end) for w in window.bench.level.order[0].values] == [("5", "6.a")]
    assert "use a in the formula" in window.message.words.text()


@pytest.fixture
def large(tmp_path, qtbot):
    """The whole level in a small window with large letters."""
    application = make_application()
    before = application.font()
    font = application.font()
    font.setPointSizeF(LARGE)
    application.setFont(font)
    window = MainWindow(Workbench(None), QSettings(str(tmp_path / "s.ini"), QSettings.Format.IniFormat))
    window.files.ask = lambda *_: "discard"
    qtbot.addWidget(window)
    window.resize(1024, 700)
    window.show()
    yield window
    window.close()
    application.setFont(before)


def test_with_large_letters_the_window_stays_small_and_no_page_reaches_beyond_the_sheet(large, qtbot):
    large.open_path(study_path("01-seed-pods.gatillo"))
    settle(qtbot, large)
    assert large.width() == 1024
    names = [("level", ""), *(("kind", k.name) for k in large.bench.level.kinds)]
    names += [("trial", t.name) for t in large.bench.level.trials]
    for sort, name in names:
        large.bench.select(Selection(thing=Thing(sort, name)))
        QApplication.processEvents()
        QTest.qWait(5)
        sheet = large.sheet
        assert sheet.widget().width() <= sheet.viewport().width(), (sort, name)
    assert large.width() == 1024


def test_with_large_letters_the_gallery_has_as_many_columns_as_fit(large, qtbot):
    large.show_start()
    QApplication.processEvents()
    cards = large.start_page.cards
    right = large.start_page.mapToGlobal(large.start_page.rect().bottomRight()).x()
    assert all(card.mapToGlobal(card.rect().bottomRight()).x() <= right for card in cards)
    assert len({card.x() for card in cards}) == 2
    large.resize(1500, 800)
    QApplication.processEvents()
    assert len({card.x() for card in cards}) == 3


def test_the_wheel_goes_through_the_list_wherever_the_pointer_was_left(open_window, qtbot):
    window, _ = opened(open_window, qtbot, drawing_yard(), "sort")
    hands, view = Hands(qtbot, window), window.graph_page.view
    view.fit()
    zoom = view.zoom
    start = shape(window, 4).output_at("then")
    hands.drag(view, pixel(view, start), pixel(view, start + QPointF(0, 60)))
    place = QPointF(5, 5)
    nothing = Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase
    turned = QWheelEvent(place, view.mapToGlobal(place), QPoint(), QPoint(0, -240), *nothing, False)
    QApplication.sendEvent(view, turned)
    assert view.writer.line.list.verticalScrollBar().value() > 0
    assert view.zoom == zoom


def test_a_new_graphs_row_is_in_sight_in_the_list_that_became_lower(open_window, qtbot):
    rules = [rule(f"r{at}", when=c("every_tick"), do=c("note", text="x"), id=100 + at) for at in range(30)]
    window = open_window(level(*rules, kinds=(kind("Moth", 5),)))
    window.bench.select(Selection(rule=129))
    window.actions_["new graph"].trigger()
    QTest.qWait(30)
    order = window.order
    number = window.bench.selection.rule
    area = order.geometry_.row_area(order.state.row_of(number))
    assert area.top() > 0 and area.bottom() <= order.viewport().height()
