"""What comes into the window from elsewhere: pictures, the clipboard, and edits that no file could hold."""

from __future__ import annotations

import pytest
from hands import Hands
from msgspec.structs import replace
from PySide6.QtWidgets import QApplication, QFileDialog

from building import POD, START, add, c, level, rule, things
from drawing import card, graph
from gatillo.desk.graph_view.clipboard import CLIP_START as CARDS_START
from gatillo.desk.looks.picture_import import import_picture
from gatillo.desk.order_list.rule_writer import CLIP_START as RULES_START
from gatillo.desk.session.selection import Selection, Thing
from gatillo.level.model import Clause, Spot

SVG = (
    '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 90 90">'
)
SIMPLE = f'{SVG}<rect width="90" height="40"/></svg>'
USES = SVG + '<g id="a0"><rect width="9" height="9"/></g>'
USES += (
    "".join(f'<g id="a{n}">' + f'<use xlink:href="#a{n - 1}"/>' * 10 + "</g>" for n in range(1, 9)) + "</svg>"
)
DASHES = SVG + '<path stroke="black" stroke-dasharray="0.0001" d="M0 0 L90 90"/>' * 30_000 + "</svg>"


@pytest.mark.parametrize("drawing", [USES, DASHES], ids=["uses within uses", "dashes"])
def test_an_svg_that_asks_for_too_much_is_refused(tmp_path, drawing):
    path = tmp_path / "a.svg"
    path.write_text(drawing)
    with pytest.raises(ValueError, match=r"a\.svg.* to draw; make it simpler"):
        import_picture(path)


def test_an_svg_without_a_size_is_no_error(tmp_path, qapp):
    for name, drawing in (("none", f"{SVG}</svg>"), ("flat", SIMPLE.replace("0 0 90 90", "0 0 90 0"))):
        path = tmp_path / f"{name}.svg"
        path.write_text(drawing)
        try:
            assert import_picture(path).startswith("data:image/png")
        except ValueError as error:
            assert "is not an SVG drawing" in str(error)


@pytest.fixture
def window(open_window):
    built = level(
        rule("r", when=START, do=add("level.n")),
        graph("g", card(1, "level_starts"), card(2, "note", text="x"), wires="1>2", id=50),
        kinds=(POD,),
        objects=things("Pod", (0, 0)),
        has={"n": 0.0},
    )
    return open_window(built)


@pytest.mark.parametrize("drawing", [SIMPLE, USES], ids=["simple", "too much"])
def test_a_picture_is_brought_in_while_the_window_goes_on(window, qtbot, tmp_path, monkeypatch, drawing):
    path = tmp_path / "a.svg"
    path.write_text(drawing)
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(path), ""))
    window.bench.select(Selection(thing=Thing("kind", "Pod")))
    Hands(qtbot, window).press_button("kind-picture-choose")
    assert not window.bench.level.kinds[0].picture
    if drawing is SIMPLE:
        qtbot.waitUntil(lambda: bool(window.bench.level.kinds[0].picture))
    else:
        qtbot.waitUntil(lambda: "make it simpler" in window.message.words.text())
        assert not window.bench.level.kinds[0].picture


@pytest.mark.parametrize("junk", ["[" * 90_000, '{"of":' * 90_000, "\ud800", "", "null", "[1e999]"])
def test_junk_on_the_clipboard_is_a_sentence(window, junk):
    before = window.bench.level
    QApplication.clipboard().setText(RULES_START + junk)
    window.order.writer.paste()
    window.bench.select(Selection(rule=50))
    window.region.open_graph(50)
    QApplication.clipboard().setText(CARDS_START + junk)
    assert window.graph_page.commands.clipboard.paste()
    assert window.bench.level is before
    assert "clipboard" in window.message.words.text()


def test_many_pasted_rules_get_names_of_their_own_in_their_order(window):
    import msgspec

    rules = tuple(rule("r", when=START, do=add("level.n"), id=9) for _ in range(300))
    QApplication.clipboard().setText(RULES_START + msgspec.json.encode(rules).decode())
    window.order.writer.paste()
    names = [entry.name for entry in window.bench.level.order]
    assert names == ["r", *(f"r {n}" for n in range(1, 301)), "g"]
    assert len({entry.id for entry in window.bench.level.order}) == 302


@pytest.mark.parametrize("many", [2, 4_000])
def test_an_edit_that_no_file_could_hold_is_not_taken_at_any_size(open_window, many):
    built = level(
        rule("r", when=START, do=add("level.n")),
        kinds=(POD,),
        objects=things("Pod", *((12.0 * at, 0.0) for at in range(many))),
        has={"n": 0.0},
    )
    window = open_window(built)
    bench = window.bench
    deep = c("formula_holds", formula="yes")
    for _ in range(47):
        deep = Clause(use="any_of", of=(deep,))
    spots = tuple(Spot(name=f"S{n}", x=0.0, y=0.0) for n in range(5_001))
    last = bench.level.objects[-1]
    for wrong in (
        {"order": (replace(bench.level.order[0], if_=(deep,)),)},
        {"places": spots},
        {"objects": (*bench.level.objects[:-1], replace(last, name="Pod 1"))},
        {"objects": (*bench.level.objects[:-1], replace(last, x=1e12))},
        {"objects": (*bench.level.objects[:-1], replace(last, attached=last.name))},
        {"order": (rule("r", when=START, do=c("note", text="x" * 20_000)),)},
    ):
        bench.edit(replace(bench.level, **wrong), "wrong")
        assert bench.level == built, wrong.keys()
        assert "That cannot be done" in window.message.words.text()
    assert bench.document.history.undoes is None
