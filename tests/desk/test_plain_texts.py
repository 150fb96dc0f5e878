"""Texts of a level are only text: markup in any of them is shown as it stands, and no file that it names is read."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest
from msgspec.structs import replace
from PySide6.QtCore import QEvent, QModelIndex, QPoint, QPointF, Qt
from PySide6.QtGui import QHelpEvent, QTextDocumentFragment
from PySide6.QtGui import Qt as Text
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QLabel,
    QTextEdit,
    QToolTip,
    QWidget,
)

from building import START, c, heard, kind, level, rule, run, things
from gatillo import desk
from gatillo.desk.looks.plain import tip
from gatillo.desk.session.selection import Selection, Thing
from gatillo.files.level_file import write_level
from gatillo.level.expectations import FiresTimes, HoldsAt
from gatillo.level.model import Graph, Node, Readout, Section, Topic, Variable, Wire

MARK = "<img src='/dev/null'><b>x</b>"


def marked():
    built = level(
        Section(
            name=f"section {MARK}",
            note=MARK,
            rules=(rule(f"in {MARK}", when=heard(f"m {MARK}"), do=c("tell_player", text=MARK), id=5),),
        ),
        rule(
            f"rule {MARK}",
            when=START,
            do=[
                c("say", text=MARK, who="Pod", time="9"),
                c("send_message", message=f"m {MARK}"),
                c("note", text=MARK),
                c("start_timer", timer=f"t {MARK}"),
                c("give", count="1", item=f"i {MARK}", who="Pod"),
            ],
            id=6,
            note=MARK,
        ),
        rule(
            f"faulty {MARK}",
            when=c("every_tick"),
            if_=c("formula_holds", formula=f'1 / level.n > 0 and "{MARK}" <> ""'),
            do=c("note", text=MARK),
            id=7,
        ),
        rule(f"wrong {MARK}", when=heard(f"other {MARK}"), do=c("remove", who=MARK), id=8),
        kinds=(
            kind(
                "Pod",
                8,
                has={"t": MARK},
                note=MARK,
                glyph=MARK,
                topics=(Topic(name=f"topic {MARK}", answer=MARK),),
                readouts=(Readout(value=MARK),),
                behaviours=(c("prompt", text=MARK, by="Pod", entries=f"a {MARK} | b"),),
            ),
        ),
        objects=things("Pod", (20, 20)),
        has={"n": 0.0, "text": MARK},
        expect=(FiresTimes(rule=f"rule {MARK}", times=3), HoldsAt(formula=f'"{MARK}" = "y"')),
    )
    trial = replace(built.trials[0], name=f"trial {MARK}", note=MARK, watches=(f'"{MARK}"', MARK))
    return replace(
        built, name=f"level {MARK}", note=MARK, trials=(trial,),
        variables=(*built.variables, Variable(name="noted", value=1.0, note=MARK)),
    )  # fmt: skip


def rich(text: str) -> bool:
    return "<" in text


HINTS = (
    Qt.ItemDataRole.ToolTipRole,
    Qt.ItemDataRole.StatusTipRole,
    Qt.ItemDataRole.WhatsThisRole,
)
"""Of an entry in a list: what Qt shows as rich text if it looks like it."""


def hints_of(view: QAbstractItemView) -> list[str]:
    """What the entries of a list would show as markup."""
    model = view.model()
    # of tables the first column has what they say of themselves
    places = [model.index(row, 0) for row in range(model.rowCount(QModelIndex()))]
    said = [str(place.data(role) or "") for place in places for role in HINTS]
    return [words for words in said if "<img" in words and rich(words)]


def amiss(root: QWidget) -> list[str]:
    """What would show the mark as markup: labels, tooltips, list entries, editors of rich text."""
    found = []
    for widget in [root, *root.findChildren(QWidget)]:
        for what, text in (
            ("tooltip", widget.toolTip()),
            ("status", widget.statusTip()),
            ("what", widget.whatsThis()),
        ):
            if "<img" in text and rich(text):
                found.append(f"{what} of {widget.objectName()}: {text[:90]}")
        if isinstance(widget, QLabel) and "<img" in widget.text():
            plain = widget.textFormat() == Qt.TextFormat.PlainText
            if not plain:
                found.append(f"label {widget.objectName()}: {widget.text()[:90]}")
        if isinstance(widget, QAbstractItemView) and widget.model() is not None:
            found += [f"entry of {widget.objectName()}: {words[:90]}" for words in hints_of(widget)]
        if isinstance(widget, QTextEdit) and "<img" in widget.toHtml():
            found.append(f"editor {widget.objectName()}")
        assert (
            not isinstance(widget, QAbstractButton)
            or "<img" not in widget.toolTip()
            or not rich(widget.toolTip())
        )
    return found


def test_markup_in_any_text_of_a_level_is_shown_as_it_stands(open_window, qtbot):
    built = marked()
    window = open_window(built)
    bench = window.bench
    pages = [
        Selection(),
        Selection(rule=5),
        Selection(rule=6),
        Selection(rule=7),
        Selection(rule=8),
        Selection(objects=frozenset({1})),
    ]
    names = {
        "kind": "Pod",
        "trial": f"trial {MARK}",
        "section": f"section {MARK}",
        "message": f"m {MARK}",
        "timer": f"t {MARK}",
        "item": f"i {MARK}",
        "level": built.name,
    }
    pages += [Selection(thing=Thing(sort, name)) for sort, name in names.items()]
    wrong: list[str] = []
    shown = 0
    for page in pages:
        bench.select(page)
        for tick in (0, 1, 2, 30):
            bench.move_cursor(bench.run.end_of(tick))
            qtbot.wait(1)
            wrong += amiss(window)
        shown += sum(
            "<img" in label.text() or "&lt;img" in label.text() for label in window.findChildren(QLabel)
        )
    assert not wrong, "\n".join(dict.fromkeys(wrong))
    assert shown > 10, "the marks are there, as text"


def test_tooltips_over_lanes_and_rules_show_markup_as_it_stands(open_window, qtbot):
    window = open_window(marked())
    view = window.order
    told = set()
    for y in range(4, view.viewport().height(), 7):
        for x in range(4, view.viewport().width(), 23):
            told.add(view.pointer.words_at(QPointF(x, y)))
    assert any("<img" in words for words in told if words)
    assert not any(rich(tip(words)) and "<img" in tip(words) for words in told if words)


def test_tooltips_over_cards_show_markup_as_it_stands(open_window, qtbot):
    say = Node(id=2, use="say", slots={"who": "Pod", "text": MARK, "time": "1"}, at=(20, 120))
    drawn = Graph(
        id=40,
        name="g",
        nodes=(Node(id=1, use="level_starts", at=(20, 20)), say),
        wires=(Wire(start="1", end="2"),),
    )
    built = marked()
    window = open_window(replace(built, order=(*built.order, drawn)))
    window.bench.select(Selection(rule=40))
    window.region.open_graph(40)
    view = window.graph_page.view
    shown = []
    show = QToolTip.showText
    try:
        QToolTip.showText = lambda at, words, widget: shown.append(words)
        for y in range(0, view.height(), 9):
            for x in range(0, view.width(), 31):
                at = QPoint(x, y)
                QApplication.sendEvent(view, QHelpEvent(QEvent.Type.ToolTip, at, view.mapToGlobal(at)))
    finally:
        QToolTip.showText = show
    assert any("img src" in words for words in shown)
    assert not [words for words in shown if Text.mightBeRichText(words) and MARK in words]


SHOWN = {"setToolTip", "setStatusTip", "setWhatsThis", "showText"}


def test_nothing_shows_a_tooltip_but_a_written_one_or_one_made_plain():
    """Every tooltip of the desk is a text that stands in the code, or goes through `tip`."""
    found = []
    for path in sorted(Path(desk.__file__).parent.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if not (
                isinstance(node, ast.Call)
                and isinstance(node.func, ast.Attribute)
                and node.func.attr in SHOWN
            ):
                continue
            words = node.args[1 if node.func.attr == "showText" else 0]
            choices = (words.body, words.orelse) if isinstance(words, ast.IfExp) else (words,)
            for one in choices:
                made_plain = isinstance(one, ast.Call) and ast.unparse(one.func).rpartition(".")[2] == "tip"
                if not (isinstance(one, ast.Constant) or made_plain):
                    found.append(f"{path.name}:{node.lineno}: {ast.unparse(one)}")
    assert found == []


def test_the_start_page_and_questions_show_markup_as_it_stands(open_window, qtbot, tmp_path):
    path = tmp_path / "a<img src=x>.gatillo"
    write_level(path, marked())
    window = open_window(marked())
    assert window.open_path(path)
    window.bench.notify(f"told {MARK}")
    window.show_start() if hasattr(window, "show_start") else None
    qtbot.wait(1)
    assert not amiss(window)


@pytest.mark.parametrize("words", ["plain", "a < b", "two\nlines", MARK, "<b>bold</b>", "a & b", "&lt;b&gt;"])
def test_a_tip_shows_its_words_as_they_are(words):
    made = tip(words)
    shown = QTextDocumentFragment.fromHtml(made).toPlainText() if Text.mightBeRichText(made) else made
    assert shown == words


def test_marked_texts_change_nothing_in_the_run():
    assert (
        run(replace(marked(), order=marked().order[1:2], trials=level().trials), 5).world.display.sayings[1][
            0
        ]
        == MARK
    )
