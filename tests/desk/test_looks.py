"""How kinds look: ready drawings, their marks beside names, and what is said above objects."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRect, QSize
from PySide6.QtGui import QColor, QFontMetricsF, QImage, QPainter
from PySide6.QtWidgets import QLineEdit, QWidget

from building import add, c, kind, level, rule, things
from gatillo.desk.level_view.marks import bubbles
from gatillo.desk.looks.drawings import draw_ready, sheet
from gatillo.desk.looks.flow_layout import AT_END, FlowLayout
from gatillo.desk.looks.small_pictures import MARK, kind_mark
from gatillo.desk.looks.theme import text_font
from gatillo.level.drawings import DRAWINGS, drawing_for
from gatillo.level.model import Kind
from gatillo.level.thing_edits import add_kind
from gatillo.level.validation import flaws


def drawn(of: Kind, side: int = 120) -> QImage:
    image = QImage(side, side, QImage.Format.Format_ARGB32)
    image.fill(QColor("white"))
    p = QPainter(image)
    p.translate(side / 2, side / 2)
    assert draw_ready(p, of, 2.0)
    p.end()
    return image


def inked(image: QImage) -> set[tuple[int, int]]:
    return {
        (x, y)
        for x in range(image.width())
        for y in range(image.height())
        if image.pixelColor(x, y).lightness() < 225
    }


def test_the_sheet_has_a_drawing_for_each_name_and_no_other(qapp):
    assert sorted(sheet()) == sorted(DRAWINGS)


@pytest.mark.parametrize("name", DRAWINGS)
def test_each_drawing_puts_ink_within_its_shape_in_the_colour_of_the_kind(qapp, name):
    found = drawn(replace(kind("Thing", 20), colour="#A5483B", drawing=name))
    points = inked(found)
    assert len(points) > 60
    assert all((x - 59.5) ** 2 + (y - 59.5) ** 2 < 51**2 for x, y in points)
    darkest = min((found.pixelColor(x, y) for x, y in points), key=lambda col: col.lightness())
    assert darkest.red() > darkest.blue()


def test_a_drawing_is_turned_to_where_its_kind_says_it_looks(qapp):
    right = replace(kind("Head", 20), drawing="goose")
    up = replace(right, drawn_facing=90.0)
    middle = 60
    beak = {(x, y) for x, y in inked(drawn(right)) if x > middle + 25}
    assert beak
    assert not {p for p in inked(drawn(up)) if p[0] > middle + 25}
    assert {p for p in inked(drawn(up)) if p[1] < middle - 25}


def test_bricks_lie_along_a_wall_whichever_way_it_is_long(qapp):
    wide = inked(drawn(replace(kind("Wall", box=(50, 10)), drawing="bricks")))
    high = inked(drawn(replace(kind("Wall", box=(10, 50)), drawing="bricks")))
    assert max(x for x, _ in wide) - min(x for x, _ in wide) > 80
    assert max(y for _, y in high) - min(y for _, y in high) > 80
    assert abs(len(wide) - len(high)) < 0.2 * len(wide)


def test_an_unknown_drawing_is_a_flaw_that_says_which_was_meant():
    built = level(kinds=(replace(kind("Moth", 5), drawing="mooth"),))
    assert [f.message for f in flaws(built)] == ["there is no ready drawing “mooth”; did you mean “moth”?"]


@pytest.mark.parametrize(
    ("name", "drawing"),
    [("Moth", "moth"), ("Swarm moth", "moth"), ("seed bomb", "seed bomb"), ("Nobody", "")],
)
def test_a_name_that_speaks_of_a_drawing_brings_it(name, drawing):
    assert drawing_for(name) == drawing
    built, called = add_kind(level(), name)
    assert next(k for k in built.kinds if k.name == called).drawing == drawing


def test_what_a_sentence_speaks_of_is_marked_with_its_look(qapp):
    moth = replace(kind("Moth", 5), drawing="moth")
    assert kind_mark(moth).toImage() != kind_mark(replace(moth, drawing="lamp")).toImage()
    assert (
        kind_mark(replace(moth, drawing="", glyph="m")).toImage()
        != kind_mark(replace(moth, drawing="", glyph="n")).toImage()
    )


def test_the_mark_makes_room_before_the_name(open_window):
    r = rule("r", when=c("touches", a="Moth", b="anything"), do=add("level.n"))
    window = open_window(level(r, kinds=(kind("Moth", 5),), objects=things("Moth", (0, 0)), has={"n": 0.0}))
    order, index = window.order, window.bench.program.index
    row = next(i for i, found in enumerate(order.state.rows) if found.sort == "rule")
    runs = order.geometry_.words.lay_out(order.state.rows[row].words, index)
    moth = next(run for run in runs if run.word.text == "Moth")
    anything = next(run for run in runs if run.word.text == "anything")
    name = order.geometry_.words.font("role")[1].horizontalAdvance("Moth")
    assert moth.width - name >= MARK
    assert anything.mark is None


SPOKEN = st.lists(
    st.tuples(
        st.sampled_from(["quiet", "honk?", "Here, take it."]), st.integers(0, 400), st.integers(60, 200)
    ),
    min_size=1,
    max_size=9,
)


@given(SPOKEN)
def test_what_is_said_never_lies_upon_what_another_says(qapp, said):
    found = bubbles([(text, QPointF(x, y)) for text, x, y in said], QFontMetricsF(text_font(0)), 420)
    for at, one in enumerate(found):
        assert one.box.left() >= 0 and one.box.right() <= 420
        for other in found[at + 1 :]:
            assert not one.box.intersects(other.box)
    assert sum(len(b.speakers) for b in found) == len(said)


def test_a_crowd_that_says_the_same_shares_one_bubble(qapp):
    crowd = [("quiet", QPointF(100 + 9 * i, 200 + 5 * i)) for i in range(6)]
    found = bubbles(crowd, QFontMetricsF(text_font(0)), 420)
    assert [b.words for b in found] == ["quiet  ×6"]


def test_a_row_gives_way_a_little_before_it_goes_on_below(qtbot):
    holder = QWidget()
    qtbot.addWidget(holder)
    row = FlowLayout(holder)
    fields = [QWidget() for _ in range(3)]
    for field, wide in zip(fields, (100, 60, 30), strict=True):
        field.setMinimumSize(10, 20)
        field.sizeHint = lambda wide=wide: QSize(wide, 20)
        row.addWidget(field)
    for width, rows in ((198, 1), (193, 1), (180, 2)):
        holder.resize(width, 100)
        row.setGeometry(QRect(0, 0, width, 100))
        assert len({field.y() for field in fields}) == rows, width
        assert max(field.geometry().right() for field in fields) < width
    # the widest, and by next to nothing
    row.setGeometry(QRect(0, 0, 193, 100))
    assert [field.width() for field in fields] == [95, 60, 30]


def test_what_takes_a_row_away_stands_at_its_right_edge(qtbot):
    holder = QWidget()
    qtbot.addWidget(holder)
    row = FlowLayout(holder)
    field, remover = QWidget(), QWidget()
    remover.setProperty(AT_END, True)
    for part, wide in ((field, 100), (remover, 30)):
        part.sizeHint = lambda wide=wide: QSize(wide, 20)
        row.addWidget(part)
    row.setGeometry(QRect(0, 0, 300, 50))
    assert (remover.x(), remover.width(), remover.y()) == (270, 30, field.y())
    row.setGeometry(QRect(0, 0, 110, 50))
    assert remover.x() == 80 and remover.y() > field.y()


def test_a_field_that_is_written_into_fills_a_row_that_reaches_to_the_edge(qtbot):
    holder = QWidget()
    qtbot.addWidget(holder)
    row = FlowLayout(holder)
    field, remover = QLineEdit(), QWidget()
    remover.setProperty(AT_END, True)
    remover.sizeHint = lambda: QSize(30, 20)
    for part in (field, remover):
        row.addWidget(part)
    row.setGeometry(QRect(0, 0, 400, 50))
    assert field.geometry().right() + 5 == remover.x() == 370
    field.setFixedWidth(90)
    row.setGeometry(QRect(0, 0, 400, 50))
    assert field.width() == 90 and remover.x() == 370
