"""Layouts in and out: drawings of other makers' libraries become objects and places, and are read again; tables of objects too."""

from __future__ import annotations

import csv
import io
from xml.etree import ElementTree

import drawsvg
import pytest
import svgwrite
from msgspec.structs import replace
from typer.testing import CliRunner

from building import add, c, kind, level, rule, things
from gatillo.cli.main import app
from gatillo.examples import example_names, study_path
from gatillo.files.layout.objects_csv import objects_as_csv, take_csv
from gatillo.files.layout.svg_in import NoDrawing, read_drawing, suggested, take_drawing
from gatillo.files.layout.svg_out import level_svg
from gatillo.files.level_file import encode_level, read_level, write_level
from gatillo.level.model import Area, Circle, Object, Rectangle, Reference, Route, Stop, Variable
from gatillo.level.validation import flaws
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import run_trial

LEVELS = [read_level(study_path(name)) for name in sorted(example_names())]


def yard():
    return level(
        rule("r", when=c("every_tick"), do=add("level.n"), id=1),
        kinds=(
            kind("Moth", 5, has={"fuel": 2.0, "lit": False}),
            kind("Wall", box=(10, 100), contact="fixed"),
        ),
        objects=things("Moth", (10, 20)),
        has={"n": 0.0},
    )


def taken(lv, text, **meanings):
    drawing = read_drawing(text)
    return take_drawing(lv, drawing, suggested(lv, drawing) | meanings)


def placed(lv, name):
    found = next(o for o in lv.objects if o.name == name)
    return found.kind, found.x, found.y, found.angle, found.scale


# drawings by other makers' libraries


def test_a_drawing_written_by_one_library():
    drawing = svgwrite.Drawing(size=("800mm", "500mm"), viewBox="0 0 800 500")
    moths = drawing.add(drawing.g(id="moths", transform="translate(100,0)"))
    moths.add(drawing.circle(center=(0, 100), r=5, id="Dusk"))
    moths.add(drawing.circle(center=(20, 100), r=10))
    walls = drawing.add(drawing.g(id="Wall"))
    walls.add(
        drawing.rect(insert=(195, 100), size=(10, 100), transform="rotate(30 200 150)", id="North_wall")
    )
    drawing.add(drawing.g(id="areas")).add(drawing.rect(insert=(300, 300), size=(60, 40), id="yard"))
    drawing.add(drawing.g(id="routes")).add(drawing.path(d="M 10 10 L 50 10 C 60 20 70 30 90 50", id="walk"))
    drawing.add(drawing.g(id="notes")).add(drawing.rect(insert=(0, 0), size=(9, 9)))
    made = taken(yard(), drawing.tostring())
    assert made.problems == []
    assert placed(made.level, "Dusk") == ("Moth", 100, 400, 0, 1)
    assert placed(made.level, "Moth 2") == ("Moth", 120, 400, 0, 2)
    assert placed(made.level, "North wall") == ("Wall", 200, 350, -30, 1)
    assert made.level.places == (
        Area(name="yard", x=330, y=180, shape=Rectangle(width=60, height=40)),
        Route(name="walk", stops=(Stop(x=10, y=490), Stop(x=50, y=490), Stop(x=90, y=450))),
    )
    assert made.added == 5


def test_a_drawing_written_by_another_library():
    drawing = drawsvg.Drawing(400, 300, origin=(0, 0))
    group = drawsvg.Group(id="Moths")
    group.append(drawsvg.Circle(50, 60, 5, id="Dawn"))
    drawing.append(group)
    drawing.append(drawsvg.Circle(200, 100, 30, class_="area", id="pond"))
    drawing.append(drawsvg.Rectangle(0, 0, 400, 300, class_="ground", fill="#335544"))
    drawing.append(drawsvg.Lines(0, 0, 40, 0, 40, 30, close=False, class_="route", id="edge"))
    made = taken(yard(), drawing.as_svg())
    assert made.problems == []
    assert placed(made.level, "Dawn") == ("Moth", 50, 240, 0, 1)
    assert made.level.places[0] == Area(name="pond", x=200, y=200, shape=Circle(radius=30))
    assert [(s.x, s.y) for s in made.level.places[1].stops] == [(0, 300), (40, 300), (40, 270)]
    assert (made.level.settings.width, made.level.settings.height, made.level.settings.ground) == (
        400,
        300,
        "#335544",
    )


def test_read_again_it_moves_what_it_placed_and_rules_stay():
    def drawn(x, points):
        drawing = svgwrite.Drawing(viewBox="0 0 800 500")
        drawing.add(drawing.g(id="moths")).add(drawing.circle(center=(x, 100), r=5, id="Dusk"))
        drawing.add(drawing.g(id="routes")).add(drawing.polyline(points, id="walk"))
        return drawing.tostring()

    first = taken(yard(), drawn(100, [(0, 0), (10, 0)])).level
    walk = replace(
        first.places[0], stops=(replace(first.places[0].stops[0], pause=2.0), first.places[0].stops[1])
    )
    dusk = next(o for o in first.objects if o.name == "Dusk")
    kept = replace(dusk, tags=("old",), values={"fuel": 9.0})
    edited = replace(
        first, places=(walk,), objects=tuple(kept if o.id == dusk.id else o for o in first.objects)
    )
    again = taken(edited, drawn(150, [(0, 0), (30, 0), (30, 30)]))
    assert (again.changed, again.added) == (2, 0)
    moved = next(o for o in again.level.objects if o.name == "Dusk")
    assert moved == replace(kept, x=150.0)
    assert [(s.x, s.pause) for s in again.level.places[0].stops] == [(0, 2), (30, 0), (30, 0)]
    assert again.level.order == edited.order


def test_what_cannot_be_so_is_told():
    drawing = svgwrite.Drawing(viewBox="0 0 800 500")
    drawing.add(drawing.g(id="Wall")).add(drawing.rect(insert=(0, 0), size=(10, 300), id="Long"))
    drawing.add(drawing.g(id="routes")).add(drawing.circle(center=(0, 0), r=5, id="dot"))
    drawing.add(drawing.g(id="moths")).add(drawing.circle(center=(0, 0), r=5, id="Long_wall"))
    lv = yard()
    lv = replace(lv, objects=(*lv.objects, Object(id=7, kind="Wall", name="Long wall", x=0, y=0)))
    made = taken(lv, drawing.tostring())
    assert any("a Wall is 10 × 100, and objects are scaled as a whole" in one for one in made.problems)
    assert any("a route is drawn as a line" in one for one in made.problems)
    assert any("there is a Wall of that name" in one for one in made.problems)
    assert any("is no kind" in one for one in taken(lv, drawing.tostring(), Wall="Wal").problems)


HOSTILE = {
    "not XML": ("<svg", "it is not XML"),
    "not SVG": ("<html/>", "it is no SVG"),
    "entities": (
        '<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg">&b;</svg>',
        "entities",
    ),
    "a file": (
        '<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/passwd">]><svg xmlns="http://www.w3.org/2000/svg"><text>&x;</text></svg>',
        "entities",
    ),
    "uses of uses": (
        '<svg xmlns="http://www.w3.org/2000/svg"><defs><g id="a"><rect width="1" height="1"/></g>'
        '<g id="b"><use href="#a"/><use href="#a"/></g></defs><use href="#b"/></svg>',
        "uses what itself uses",
    ),
    "too many": (
        '<svg xmlns="http://www.w3.org/2000/svg">' + "<rect/>" * 20_001 + "</svg>",
        "more than 20,000",
    ),
}


@pytest.mark.parametrize("name", HOSTILE)
def test_a_hostile_drawing_is_refused_in_a_sentence(name):
    text, words = HOSTILE[name]
    with pytest.raises(NoDrawing, match=words):
        read_drawing(text)


@pytest.mark.parametrize(
    "shape",
    [
        '<rect width="1e999" height="1"/>',
        '<rect width="NaN" height="1"/>',
        '<circle r="-3"/>',
        '<path d="M 0 0 L nowhere"/>',
        '<path d=""/>',
        '<rect width="5" height="5" transform="matrix(1 0 0"/>',
        '<rect width="5" height="5" transform="scale(0)"/>',
        '<circle cx="1e300" r="1e300"/>',
        '<polyline points="1,2 3"/>',
        '<use href="#self" id="self"/>',
        '<ellipse rx="1" ry="0"/>',
    ],
)
def test_a_broken_shape_breaks_nothing(shape):
    text = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><g id="moths">{shape}</g><g id="routes">{shape}</g><g id="areas">{shape}</g></svg>'
    try:
        made = taken(yard(), text)
    except NoDrawing as reason:
        assert str(reason)
        return
    assert not list(flaws(made.level))
    encode_level(made.level)


# out and in


@pytest.mark.parametrize("lv", LEVELS, ids=lambda lv: lv.name)
def test_every_level_drawn_and_read_again_is_the_same(lv):
    text = level_svg(lv)
    root = ElementTree.fromstring(text)
    shown = [o for o in lv.objects if o.shown]
    names = {
        e.get("data-name")
        for e in root.iter()
        if e.tag.endswith(("circle", "rect", "polyline")) and e.get("data-name")
    }
    assert names == {o.name for o in shown} | {p.name for p in lv.places}
    made = taken(lv, text)
    assert made.level == replace(lv, settings=made.level.settings) and made.added == 0
    assert (made.level.settings.width, made.level.settings.height) == (lv.settings.width, lv.settings.height)


def test_a_moment_of_a_run_is_drawn():
    lv = read_level(study_path("01-seed-pods.gatillo"))
    run = run_trial(Program(lv))
    root = ElementTree.fromstring(level_svg(lv, run.world))
    drawn = {e.get("data-name"): e.get("transform") for e in root.iter() if e.get("transform")}
    row = int(run.world.alive.nonzero()[0][0])
    x, y = run.world.x.item(row), run.world.y.item(row)
    place = f"translate({x:g} {lv.settings.height - y:g})"
    assert drawn[run.world.name_of(run.world.id.item(row))].startswith(place)
    assert "Pod 1" not in drawn


@pytest.mark.parametrize("lv", LEVELS, ids=lambda lv: lv.name)
def test_every_table_read_again_changes_nothing(lv):
    text = objects_as_csv(lv)
    rows = list(csv.DictReader(io.StringIO(text)))
    assert [(int(r["id"]), r["name"], float(r["x"])) for r in rows] == [
        (o.id, o.name, o.x) for o in lv.objects
    ]
    made = take_csv(lv, text)
    assert (made.level, made.problems) == (lv, [])


def test_a_table_changes_adds_and_tells_what_it_does_not_understand():
    lv = replace(yard(), variables=(Variable(name="n", value=0.0), Variable(name="whom", value=Reference())))
    made = take_csv(
        lv,
        "id,kind,name,x,y,angle,scale,tags,fuel,lit\n"
        '1,,,,,90,,"old lit",3.5,yes\n'
        ",Moth,Dusk,5,6,,,,,\n"
        ",Moth,,7,8,,2,,1,no\n"
        ",Moht,,7,8,,,,,\n"
        ",Moth,Dawn,x,8,,,,,\n"
        ",Wall,,1,2,,,,4,\n"
        ",Moth,,1,,,,,,\n"
        ",Moth,Moth,1,2,,,,,\n"
        "9999999,Moth,,1,2,,,,,\n"
        "1,,,,,,0,,,\n"
        "1,,,,,,,,,,more\n"
        "one,,,,,,,,,\n",
    )
    assert (made.changed, made.added) == (1, 2)
    first = made.level.objects[0]
    assert (first.angle, first.tags, first.values) == (90.0, ("old", "lit"), {"fuel": 3.5, "lit": True})
    assert [(o.name, o.x, o.scale) for o in made.level.objects[1:]] == [("Dusk", 5, 1), ("Moth 2", 7, 2)]
    told = "\n".join(made.problems)
    for words in (
        "row 5: there is no kind “Moht”; did you mean “Moth”",
        "row 6: “x” is no number for x",
        "row 7: Wall has no variable “fuel”",
        "row 8: a new object needs x and y",
        "row 9: two objects are called “Moth”",
        "row 10: an object's id must be between",
        "row 11: that cannot stand in a level",
        "row 12: it has more fields",
        "row 13: “one” is no id",
    ):
        assert words in told, told
    assert len(made.problems) == 9
    assert not list(flaws(made.level))
    assert "names no column" in take_csv(lv, "a,b\n1,2\n").problems[0]
    assert take_csv(lv, "").problems


def test_the_commands(tmp_path):
    file = tmp_path / "yard.gatillo"
    write_level(file, yard())

    def call(*words):
        return CliRunner().invoke(app, [*map(str, words)])

    assert call("export", file, "-o", tmp_path / "a.svg").exit_code == 0
    assert call("export", file, "-o", tmp_path / "a.csv").exit_code == 0
    assert call("export", file, "-o", tmp_path / "b.svg", "--tick", "3").exit_code == 0
    assert call("export", file, "-o", tmp_path / "a.png").exit_code == 2
    shown = call("import", file, tmp_path / "a.svg", "--table")
    assert shown.output == "Moth (1): Moth\n"
    text = (tmp_path / "a.svg").read_text().replace("translate(10 480)", "translate(33 480)")
    (tmp_path / "a.svg").write_text(text)
    done = call("import", file, tmp_path / "a.svg", "-o", tmp_path / "new.gatillo")
    assert (done.exit_code, read_level(tmp_path / "new.gatillo").objects[0].x) == (0, 33)
    assert read_level(file) == yard()
    (tmp_path / "a.csv").write_text("id,kind,name,x,y\n1,,,44,\n,Moht,,1,1\n")
    done = call("import", file, tmp_path / "a.csv")
    assert done.exit_code == 1 and "did you mean “Moth”" in done.output
    assert read_level(file).objects[0].x == 44
    assert call("import", file, tmp_path / "a.svg", "--as", "Moth=nothing").output.endswith(
        "0 changed, 0 added\n"
    )
    assert call("import", file, tmp_path / "a.svg", "--as", "Mo=nothing").exit_code == 2
    assert call("import", file, tmp_path / "no.svg").exit_code == 2
    (tmp_path / "bad.svg").write_text("<svg")
    assert "it is not XML" in call("import", file, tmp_path / "bad.svg").output
