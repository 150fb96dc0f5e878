"""The sheet: every kind of thing has its page, and every field is an edit."""

from __future__ import annotations

import pytest
from hands import CTRL, Hands
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QLineEdit, QListWidget, QSlider, QWidget

from building import START, add, c, kind, level, rule, things
from gatillo.desk.looks.plain import GAP
from gatillo.desk.session.selection import Selection, Thing
from gatillo.level import thing_edits
from gatillo.level.model import (
    Area,
    Circle,
    Clip,
    ClipPoint,
    Look,
    Rectangle,
    Reference,
    Route,
    Spot,
    Stop,
    Topic,
)

WAVE = (ClipPoint(at=0, x=0, y=0), ClipPoint(at=1, x=40, y=0), ClipPoint(at=2, x=40, y=20, turn=30))
STEER = c("steer_by_keys", speed="60")


def yard():
    return level(
        rule(
            "Sow", when=START, if_=c("in_area", who="Gardener", place="bed"), do=add("Gardener.tired"), id=1
        ),
        kinds=(
            kind("Gardener", 8, has={"tired": 1.0, "friend": Reference()}, behaviours=(STEER,)),
            kind("Wall", box=(10, 60), contact="fixed"),
        ),
        objects=(*things("Gardener", (50, 50)), *things("Wall", (90, 50), first=5)),
        places=(
            Area(name="bed", x=50, y=50, shape=Rectangle(width=40, height=40)),
            Spot(name="gate", x=9, y=9),
            Route(name="round", stops=(Stop(x=0, y=0), Stop(x=9, y=9))),
        ),
        clips=(Clip(name="wave", points=WAVE),),
        has={"n": 0.0},
    )


@pytest.fixture
def at_work(open_window, qtbot):
    window = open_window(yard())
    return window, Hands(qtbot, window)


def show(window, sort, name):
    window.bench.select(Selection(thing=Thing(sort, name)))


def kind_of(window, name="Gardener"):
    return next(k for k in window.bench.level.kinds if k.name == name)


def test_a_kinds_look_and_contact_are_edited(at_work):
    window, hands = at_work
    show(window, "kind", "Gardener")
    hands.put("kind-radius", "12")
    hands.put("kind-glyph", "g")
    hands.press_button("kind-colour-3")
    hands.choose("kind-contact", "movable")
    hands.choose("kind-shape", "rectangle")
    hands.put("kind-width", "30")
    hands.put("kind-tags", "staff, tall")
    found = kind_of(window)
    assert found.shape == Rectangle(width=30, height=24)
    assert (found.glyph, found.colour, found.contact, found.tags) == (
        "g",
        "#A5483B",
        "movable",
        ("staff", "tall"),
    )


def test_looks_are_added_edited_renamed_chosen_by_a_formula_and_removed(at_work):
    window, hands = at_work
    show(window, "kind", "Gardener")
    hands.press_button("kind-add-look")
    hands.press_button("kind-add-look")
    hands.put("kind-look-0-name", "tired")
    hands.choose("kind-look-0-drawing", "leaf")
    hands.put("kind-look-0-colour", "#A5483B")
    hands.put("kind-look-0-scale", "1.5")
    hands.put("kind-shown", 'if(Gardener.tired > 3, "tired", "")')
    gardener = kind_of(window)
    assert gardener.looks[0] == Look(name="tired", drawing="leaf", colour="#A5483B", scale=1.5)
    assert gardener.look == 'if(Gardener.tired > 3, "tired", "")'
    hands.put("kind-look-0-name", "weary")
    assert kind_of(window).look == 'if(Gardener.tired > 3, "weary", "")'
    hands.put("kind-look-0-colour", "red")
    assert kind_of(window).looks[0].colour == "#A5483B"
    assert "no colour" in window.message.words.text()
    hands.press_button("kind-look-1-remove")
    assert [look.name for look in kind_of(window).looks] == ["weary"]


def test_a_look_is_drawn_in_the_level_and_named_on_the_objects_page(at_work):
    window, hands = at_work
    bench = window.bench
    look = Look(name="loud", colour="#C8442B", scale=2.0)
    gardener = replace(kind_of(window), looks=(look,), look='if(time > 0, "loud", "")')
    bench.edit(replace(bench.level, kinds=(gardener, *bench.level.kinds[1:])), "a look")
    hands.rest()
    bench.select(Selection(objects=(1,)))
    before = window.level_view.grab().toImage()
    bench.move_cursor(bench.run.end_of(5))
    assert window.level_view.grab().toImage() != before
    assert "loud" in window.sheet.live.text()


def test_a_tag_that_is_no_name_is_told_and_put_back(at_work):
    window, hands = at_work
    show(window, "kind", "Gardener")
    hands.put("kind-tags", "9lives")
    assert "must start with a letter" in window.message.words.text()
    assert kind_of(window).tags == ()
    assert hands.field("kind-tags").text() == ""


def test_a_kind_is_renamed_through_the_whole_level(at_work):
    window, hands = at_work
    show(window, "kind", "Gardener")
    hands.put("kind-name", "Head gardener")
    assert window.bench.level.objects[0].kind == "Head gardener"
    assert window.bench.level.order[0].do[0].slots["variable"] == "Head gardener.tired"
    assert window.sheet.title.text() == "Head gardener"
    hands.put("kind-name", "Wall")
    assert "“Wall” is taken" in window.message.words.text()


def test_the_sheet_follows_a_kind_whose_new_name_is_taken_back(at_work):
    window, hands = at_work
    show(window, "kind", "Gardener")
    hands.put("kind-name", "Warden")
    window.bench.document.undo()
    assert window.sheet.title.text() == "Gardener"
    window.bench.document.redo()
    assert window.sheet.title.text() == "Warden"


def test_variables_are_added_typed_valued_renamed_and_removed(at_work):
    window, hands = at_work
    show(window, "kind", "Wall")
    hands.press_button("kind-add-variable")
    hands.put("kind-variable-0-name", "open")
    hands.choose("kind-variable-0-type", "yes/no")
    hands.choose("kind-variable-0-value", "yes")
    assert kind_of(window, "Wall").variables[0].value is True
    hands.choose("kind-variable-0-type", "point")
    hands.put("kind-variable-0-value-x", "30")
    hands.put("kind-variable-0-value-y", "-4.5")
    assert kind_of(window, "Wall").variables[0].value == (30.0, -4.5)
    hands.press_button("kind-variable-0-remove")
    assert kind_of(window, "Wall").variables == ()


def test_taking_away_what_is_used_says_where_it_is_used(at_work):
    window, hands = at_work
    show(window, "place", "bed")
    assert "used by the rule “Sow”" in " ".join(label.text() for label in window.sheet.findChildren(QLabel))
    hands.press_button("place-delete")
    assert [p.name for p in window.bench.level.places] == ["gate", "round"]
    assert "the rule “Sow” still speaks of it" in window.message.words.text()


def test_behaviours_are_added_set_by_field_and_slider_and_removed(at_work):
    window, hands = at_work
    show(window, "kind", "Gardener")
    hands.put("kind-behaviour-0-speed", "90")
    assert kind_of(window).behaviours[0].slots["speed"] == "90"
    slider = hands.field("kind-behaviour-0-speed-slider")
    assert isinstance(slider, QSlider)
    slider.sliderMoved.emit(50)
    assert kind_of(window).behaviours[0].slots["speed"] == "45"
    hands.press_button("kind-behaviour-0-remove")
    assert kind_of(window).behaviours == ()
    hands.add_behaviour("prompt")
    hands.put("kind-behaviour-0-by", "Gardner")
    assert "did you mean “Gardener”" in window.message.words.text()
    hands.put("kind-behaviour-0-by", "Gardener")
    assert kind_of(window).behaviours[0].slots["by"] == "Gardener"


def test_topics_and_readouts_are_edited(at_work):
    window, hands = at_work
    show(window, "kind", "Gardener")
    hands.press_button("kind-add-topic")
    hands.put("kind-topic-0-name", "the frost")
    hands.put("kind-topic-0-answer", "Tonight.")
    assert kind_of(window).topics == (Topic(name="the frost", answer="Tonight."),)
    hands.press_button("kind-add-readout-bar")
    hands.put("kind-readout-0-value", "Gardener.tired")
    hands.put("kind-readout-0-most", "4")
    hands.rest()
    from gatillo.inspect.readouts import shown_readouts

    assert [r.full for r in shown_readouts(window.bench.world)] == [0.25]


def test_an_objects_own_values_are_told_apart_and_given_back(at_work):
    window, hands = at_work
    window.bench.select(Selection(frozenset({1})))
    hands.put("object-value-tired", "5")
    assert window.bench.level.objects[0].values == {"tired": 5.0}
    hands.press_button("object-value-tired-reset")
    assert window.bench.level.objects[0].values == {}
    hands.choose("object-value-friend", "Wall 1")
    assert window.bench.level.objects[0].values == {"friend": Reference(to="Wall 1")}
    hands.choose("object-attached", "Wall 1")
    assert window.bench.level.objects[0].attached == "Wall 1"


def test_an_object_cannot_be_attached_in_a_circle(at_work):
    window, hands = at_work
    window.bench.select(Selection(frozenset({1})))
    hands.choose("object-attached", "Wall 1")
    window.bench.select(Selection(frozenset({5})))
    hands.choose("object-attached", "Gardener 1")
    assert "which it carries itself" in window.message.words.text()
    assert window.bench.level.objects[1].attached == ""


def test_places_are_edited(at_work):
    window, hands = at_work
    show(window, "place", "bed")
    hands.put("place-width", "80")
    hands.choose("place-shape", "circle")
    assert window.bench.level.places[0].shape == Circle(radius=30.0)
    show(window, "place", "round")
    hands.press_button("place-add-stop")
    hands.put("place-stop-2-pause", "1.5")
    assert window.bench.level.places[2].stops[2] == Stop(x=49, y=9, pause=1.5)
    hands.press_button("place-stop-0-remove")
    assert len(window.bench.level.places[2].stops) == 2


def test_what_happens_at_a_stop_is_edited_and_drawn(at_work):
    window, hands = at_work
    show(window, "place", "round")

    def stop():
        return next(p for p in window.bench.level.places if p.name == "round").stops[0]

    plain = window.level_view.grab().toImage()
    hands.press_button("place-stop-0-more")
    hands.choose("place-stop-0-leg", "leg takes")
    hands.put("place-stop-0-time", "2.5")
    hands.choose("place-stop-0-easing", "easing in")
    hands.put("place-stop-0-facing", "270")
    hands.put("place-stop-0-message", "off we go")
    assert stop() == Stop(x=0, y=0, time=2.5, easing="easing in", facing=-90.0, message="off we go")
    assert window.level_view.grab().toImage() != plain
    hands.put("place-stop-0-where", "Wall 1")
    assert stop().where == "Wall 1"
    hands.put("place-stop-0-where", "Wal 1")
    assert any("Wall" in label.text() for label in window.sheet.findChildren(QLabel) if "▲" in label.text())
    hands.choose("place-stop-0-leg", "leg at")
    assert (stop().time, stop().speed) == (0.0, 60.0)
    hands.put("place-stop-0-facing", "up")
    assert stop().facing == -90.0 and "no direction" in window.message.words.text()
    hands.click(hands.field("place-stop-0-facing"))
    hands.key(Qt.Key.Key_A, CTRL)
    hands.key(Qt.Key.Key_Backspace)
    hands.key(Qt.Key.Key_Return)
    assert stop().facing is None


def test_a_dragged_stop_keeps_what_happens_there(at_work):
    window, hands = at_work
    bench = window.bench
    stops = (Stop(x=0, y=0, time=2.0, message="go"), Stop(x=90, y=90))
    bench.edit(thing_edits.set_place(bench.level, "round", stops=stops), "stops")
    show(window, "place", "round")
    hands.rest()
    view = window.level_view
    start, end = view.to_pixels(0, 0), view.to_pixels(40, 20)
    hands.drag(view, start, end)
    moved = next(p for p in bench.level.places if p.name == "round").stops[0]
    assert (moved.x, moved.y) != (0, 0) and (moved.time, moved.message) == (2.0, "go")


def clip(window):
    return window.bench.level.clips[0]


def test_a_clip_is_opened_from_the_index_and_edited(at_work):
    window, hands = at_work
    hands.click(hands.field("index-search"))
    hands.enter("wave clip")
    assert window.bench.selection.thing == Thing("clip", "wave")
    hands.put("clip-length", "4")
    assert [p.at for p in clip(window).points] == [0, 2, 4]
    hands.put("clip-size", "0.5")
    assert clip(window).points[-1] == ClipPoint(at=4, x=20, y=10, turn=30)
    hands.press_button("clip-mirror")
    assert clip(window).points[-1] == ClipPoint(at=4, x=-20, y=10, turn=-30)
    hands.press_button("clip-reverse")
    assert clip(window).points[-1] == ClipPoint(at=4, x=20, y=-10, turn=30)
    hands.press_button("clip-smooth")
    assert clip(window).points[1] == ClipPoint(at=2, x=5, y=-7.5, turn=22.5)
    hands.press_button("clip-no-turns")
    assert {p.turn for p in clip(window).points} == {0.0}
    hands.put("clip-from", "2")
    hands.press_button("clip-cut")
    assert clip(window).length == 2
    hands.put("clip-point-1-y", "7")
    assert clip(window).points[1].y == 7
    hands.put("clip-point-0-at", "5")
    assert "later than the one before" in window.message.words.text()
    hands.put("clip-name", "sway")
    assert clip(window).name == "sway" and window.sheet.title.text() == "sway"
    hands.key(Qt.Key.Key_D, CTRL)
    assert [c.name for c in window.bench.level.clips] == ["sway", "sway 1"]
    hands.press_button("clip-delete")
    assert [c.name for c in window.bench.level.clips] == ["sway"]


def test_a_clip_is_played_on_its_page(at_work, qtbot):
    window, hands = at_work
    show(window, "clip", "wave")
    picture = hands.field("clip-path")
    hands.press_button("clip-play")
    qtbot.waitUntil(lambda: (picture.at or 0) > 0.05)
    playing = picture.grab().toImage()
    hands.press_button("clip-play")
    assert picture.at is None and picture.grab().toImage() != playing


def test_a_trials_keys_expectations_and_watches_are_edited(at_work):
    window, hands = at_work
    hands.two_strokes(Qt.Key.Key_E)
    hands.put("trial-length", "3")
    hands.put("trial-rates", "30, 60")
    hands.press_button("trial-add-key")
    hands.choose("trial-key-0-key", "Left")
    hands.put("trial-key-0-from", "2")
    assert "cannot be released before it is pressed" in window.message.words.text()
    hands.choose("trial-add-expectation", "one rule fires before another")
    hands.choose("trial-add-expectation", "a formula holds")
    hands.put("trial-expect-1-formula", "level.m = 1")
    assert "no variable “m”" in window.message.words.text()
    hands.put("trial-expect-1-formula", "level.n = 0")
    hands.put("trial-watch-0", "level.n")
    hands.press_button("trial-expect-0-remove")
    trial = window.bench.trial
    assert (trial.length, trial.rates, trial.watches) == (3.0, (30, 60), ("level.n",))
    assert [type(e).__name__ for e in trial.expectations] == ["HoldsAt"]
    assert trial.input.keys[0].key == "Left"


def test_the_levels_settings_and_variables_are_edited(at_work):
    window, hands = at_work
    hands.two_strokes(Qt.Key.Key_L)
    hands.put("level-name", "The yard")
    hands.put("level-rate", "30")
    hands.press_button("level-add-variable")
    hands.put("level-variable-1-name", "2wrong")
    assert "must start with a letter" in window.message.words.text()
    hands.put("level-variable-1-name", "pods")
    level_ = window.bench.level
    assert (level_.name, level_.settings.rate, [v.name for v in level_.variables]) == (
        "The yard",
        30,
        ["n", "pods"],
    )


def test_the_index_finds_everything_and_opens_it(at_work):
    window, hands = at_work
    hands.key(Qt.Key.Key_F, CTRL)
    hands.type("gat")
    found = hands.field("index-list")
    assert isinstance(found, QListWidget)
    assert found.item(0).text().startswith("gate")
    hands.key(Qt.Key.Key_Return)
    assert window.bench.selection.thing == Thing("place", "gate")
    hands.key(Qt.Key.Key_F, CTRL)
    hands.enter("sow")
    assert window.bench.selection.rule == 1


def test_the_rules_page_says_how_often_it_fires_and_edits_when(at_work):
    window, hands = at_work
    hands.rest()
    window.bench.select(Selection(rule=1))
    assert "<b>1</b> time in this trial" in window.sheet.live.text()
    hands.choose("rule-fires", "first time only")
    hands.choose("rule-first-per", "for each object")
    hands.put("rule-cooldown", "2")
    hands.put("rule-name", "Sow once")
    made = window.bench.level.order[0]
    assert (made.fires, made.first_per, made.cooldown, made.name) == (
        "first time only",
        "object",
        2.0,
        "Sow once",
    )


def test_every_field_of_every_page_has_a_name_for_those_who_cannot_see_it(at_work):
    window, _ = at_work
    pages = [
        Selection(),
        Selection(frozenset({1})),
        Selection(rule=1),
        *(Selection(thing=Thing(s, n)) for s, n in (("kind", "Gardener"), ("place", "round"), ("level", ""))),
        Selection(thing=Thing("clip", "wave")),
        Selection(thing=Thing("trial", "trial")),
    ]
    for page in pages:
        window.bench.select(page)
        for field in window.sheet.widget().findChildren(QWidget):
            takes_focus = field.focusPolicy() & Qt.FocusPolicy.TabFocus and field.isVisibleTo(window.sheet)
            inner = isinstance(field, QLineEdit) and field.objectName() == "qt_spinbox_lineedit"
            if takes_focus and not inner and field.objectName() != "qt_scrollarea_viewport":
                assert field.accessibleName() or getattr(field, "text", str)(), (page, field)


def test_a_picture_is_brought_in_and_bad_ones_are_refused(at_work, tmp_path):
    from gatillo.desk.looks.picture_import import import_picture, picture_of

    good = tmp_path / "leaf.svg"
    good.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><rect width="9" height="9"/></svg>'
    )
    text = import_picture(good)
    assert picture_of(text).width() == 192
    for name, body, says in (
        (
            "a.svg",
            '<svg xmlns="http://www.w3.org/2000/svg"><image href="http://x/y.png"/></svg>',
            "loads something else",
        ),
        (
            "b.svg",
            '<!DOCTYPE a [<!ENTITY b "c">]><svg>&b;</svg>',
            "cannot be read safely|that can be read safely",
        ),
        ("c.png", "not a picture", "is not a"),
    ):
        bad = tmp_path / name
        bad.write_text(body)
        with pytest.raises(ValueError, match=says):
            import_picture(bad)
    window, _ = at_work
    pictured = replace(window.bench.level.kinds[0], picture=text)
    window.bench.edit(replace(window.bench.level, kinds=(pictured, *window.bench.level.kinds[1:])), "picture")
    assert not window.grab().isNull()


def test_a_new_kinds_letter_follows_its_name_until_it_is_chosen(at_work):
    window, hands = at_work
    hands.new_kind("Warden")
    assert kind_of(window, "Warden").glyph == "W"
    hands.put("kind-glyph", "o")
    hands.put("kind-name", "Bean")
    assert kind_of(window, "Bean").glyph == "o"


def test_a_new_kind_is_drawn_as_its_name_says_until_another_drawing_is_chosen(at_work):
    window, hands = at_work
    hands.new_kind("Moth")
    assert kind_of(window, "Moth").drawing == "moth"
    hands.put("kind-name", "Lamp")
    assert kind_of(window, "Lamp").drawing == "lamp"
    hands.choose("kind-drawing", "flame")
    hands.put("kind-name", "Beetle")
    assert kind_of(window, "Beetle").drawing == "flame"
    window.bench.document.undo()
    window.bench.document.undo()
    assert kind_of(window, "Lamp").drawing == "lamp"
    hands.choose("kind-drawing", "")
    hands.put("kind-glyph", "L")
    assert (kind_of(window, "Lamp").drawing, kind_of(window, "Lamp").glyph) == ("", "L")


def test_a_kind_gets_named_points_that_are_moved_renamed_everywhere_and_taken_away(at_work):
    window, hands = at_work
    show(window, "kind", "Gardener")
    hands.press_button("kind-add-point")
    hands.put("kind-point-0-x", "12")
    hands.put("kind-point-0-y", "-3")
    assert [(p.name, p.x, p.y) for p in kind_of(window).points] == [("hand", 12, -3)]
    level_before = window.bench.level
    put = rule("Put", when=START, do=c("put_at", who="Wall", where="hand of Gardener"), id=9)
    window.bench.edit(replace(level_before, order=(*level_before.order, put)), "add a rule")
    show(window, "kind", "Gardener")
    hands.put("kind-point-0-name", "fist")
    assert window.bench.level.order[1].do[0].slots["where"] == "fist of Gardener"
    hands.press_button("kind-point-0-remove")
    assert kind_of(window).points == ()
    assert any("fist" in p.message for p in window.bench.program.problems), "what spoke of it says so"


def test_a_setting_becomes_a_formula_and_a_mistake_in_it_is_told(at_work):
    window, hands = at_work
    show(window, "kind", "Gardener")
    hands.press_button("kind-behaviour-0-speed-as-formula")
    hands.put("kind-behaviour-0-speed-formula", "Gardener.tired * 10")
    assert kind_of(window).behaviours[0].slots["speed"] == "Gardener.tired * 10"
    hands.put("kind-behaviour-0-speed", "Gardener.tried * 10")
    assert kind_of(window).behaviours[0].slots["speed"] == "Gardener.tired * 10"
    hands.put("kind-behaviour-0-speed", "40")
    assert kind_of(window).behaviours[0].slots["speed"] == "40"


def test_a_topic_gets_a_condition(at_work):
    window, hands = at_work
    show(window, "kind", "Gardener")
    hands.press_button("kind-add-topic")
    hands.put("kind-topic-0-only", "Gardener.tired > 0")
    assert kind_of(window).topics[0].only_if == "Gardener.tired > 0"
    hands.put("kind-topic-0-only", "Gardener.tried > 0")
    told = " ".join(label.text() for label in window.sheet.findChildren(QLabel))
    assert "has no variable “tried”" in told


def test_a_trial_says_how_many_faults_it_expects_and_when_it_has_others(open_window, qtbot):
    built = level(
        rule("r", when=START, if_=c("formula_holds", formula="1 / level.n > 0"), do=add("level.n"), id=1),
        has={"n": 0.0},
    )
    window = open_window(built)
    hands = Hands(qtbot, window)
    show(window, "trial", "trial")
    told = " ".join(label.text() for label in window.sheet.findChildren(QLabel))
    assert "there was 1 fault; the trial expects none" in told
    hands.put("trial-faults", "1")
    assert window.bench.level.trials[0].faults == 1


def test_the_text_about_the_moment_takes_the_height_that_it_needs_and_its_parts_do_not_overlap(at_work):
    window, _hands = at_work
    live = window.sheet.live
    window.bench.select(Selection())
    parts = [part for part in live.findChildren(QLabel) if part.isVisible()]
    assert parts and "Variables" in live.text()
    assert live.height() == sum(part.height() for part in parts) + GAP * (len(parts) - 1)
    assert all(part.height() >= part.heightForWidth(part.width()) for part in parts)
    before = live.height()
    live.set_parts(["<p>one<p>two<p>three<p>four<p>five<p>six<p>seven<p>eight", "<p>and more"])
    first, second = (part for part in live.findChildren(QLabel) if part.isVisible())
    assert live.height() > before and second.y() == first.height() + GAP
    live.set_parts(["", "<p>and more"])
    assert live.text() == "<p>and more" and second.y() == 0 and live.height() == second.height()
