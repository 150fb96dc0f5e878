"""The start page, what a crash left, other windows and writers, commands, keys, kits, the tour."""

from __future__ import annotations

import pytest
from hands import CTRL, ENTER, SHIFT, Hands
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QPushButton

from building import START, c, kind, level, rule, things
from gatillo.desk.level_view.picture import seen_amid
from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.start.start_page import Card
from gatillo.desk.window.command_finder import CommandFinder
from gatillo.desk.window.keys_dialog import KeysDialog
from gatillo.examples import example_names, picture_path, study_path
from gatillo.examples.starters import STARTERS
from gatillo.files.kits import bring_kit, clashes, make_kit
from gatillo.files.level_file import read_level, write_level
from gatillo.files.unsaved import state_folder
from gatillo.level.model import Section, Spot
from gatillo.level.validation import flaws
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import run_trial


def start_page(window, qtbot):
    window.show_start()
    page = window.start_page
    qtbot.waitUntil(lambda: not page._waiting)
    return page


def test_the_gallery_shows_every_study_with_a_picture_and_opens_it_as_a_copy(open_window, qtbot):
    window = open_window()
    page = start_page(window, qtbot)
    assert [card.study for card in page.cards] == example_names()
    assert all(not card.picture.isNull() and card.line and card.accessibleName() for card in page.cards)
    card = page.findChild(Card, "study-08-the-key.gatillo")
    Hands(qtbot, window).click(card)
    assert window.bench.level.name == "The key"
    assert window.bench.path is None
    assert window.pages.currentWidget() is window.desk


def test_a_study_is_shown_as_it_looks_amid_its_trial():
    beetles = read_level(study_path("09-beetles.gatillo"))
    assert not any(o.kind == "Beetle" for o in beetles.objects)
    amid = seen_amid(beetles)
    assert {o.kind for o in amid.objects} - {o.kind for o in beetles.objects} == {"Beetle"}
    assert replace(amid, objects=beetles.objects) == beetles


@pytest.mark.parametrize("dark", [False, True])
def test_every_example_comes_with_a_picture_in_both_looks(dark):
    assert all(picture_path(name, dark=dark).exists() for name in example_names())


def test_the_first_starter_has_the_keyboard(open_window, qtbot):
    window = open_window()
    window.show_start()
    qtbot.waitUntil(
        lambda: (
            QApplication.focusWidget() is not None and QApplication.focusWidget().objectName() == "starter-0"
        )
    )
    Hands(qtbot, window).key(Qt.Key.Key_Space)
    assert window.bench.level.name == "New level"


def test_a_level_begins_from_a_starter_by_keyboard_alone(open_window, qtbot):
    window = open_window()
    page = start_page(window, qtbot)
    buttons = [b for b in page.side.findChildren(QPushButton) if b.isVisible()]
    buttons[1].setFocus()
    Hands(qtbot, window).key(Qt.Key.Key_Space)
    assert window.bench.level.name == "A walker"


@pytest.mark.parametrize("name", [s[0] for s in STARTERS])
def test_a_starter_is_a_whole_level(name):
    made = next(make() for n, _, make in STARTERS if n == name)
    assert list(flaws(made)) == []
    program = Program(made)
    assert program.problems == []
    assert run_trial(program).trace.faults == []


def test_levels_open_lately_are_offered(open_window, qtbot, tmp_path):
    window = open_window()
    path = tmp_path / "mine.gatillo"
    assert window.bench.document.save(path)
    window.files.remember(path)
    page = start_page(window, qtbot)
    recent = [b for b in page.findChildren(QPushButton, "recent-0") if b.isVisible()]
    Hands(qtbot, window).click(recent[0])
    assert window.bench.path == path


def test_a_command_is_found_by_a_few_letters_and_done(open_window, qtbot):
    window = open_window()
    finder = CommandFinder(window.actions_.values(), window)
    finder.show()
    finder.field.setText("to end")
    assert finder.list.count() >= 1
    finder.take()
    assert window.bench.cursor.tick == window.bench.run.done


def test_keys_are_changed_kept_and_never_given_twice(open_window, qtbot):
    window = open_window()
    dialog = KeysDialog(window.actions_, window.settings, window)
    editor = dialog.editors["tick"]
    editor.setKeySequence(QKeySequence("Ctrl+Alt+9"))
    editor.editingFinished.emit()
    assert window.actions_["tick"].shortcut().toString() == "Ctrl+Alt+9"
    other = dialog.editors["firing"]
    other.setKeySequence(QKeySequence("Ctrl+Alt+9"))
    other.editingFinished.emit()
    assert "is already “Next tick”" in dialog.problem.text()
    assert window.actions_["firing"].shortcut().toString() == "Ctrl+Shift+Right"
    from gatillo.desk.session.workbench import Workbench
    from gatillo.desk.window.main_window import MainWindow

    again = MainWindow(Workbench(), window.settings)
    qtbot.addWidget(again)
    assert again.actions_["tick"].shortcut().toString() == "Ctrl+Alt+9"


# kits


def yard():
    return level(
        Section(
            name="all",
            rules=(
                rule("to lamp", do=c("move_toward", who="Moth", where="Lamp", speed="level.pace"), id=1),
                rule("apart", when=START, do=c("put_at", who="Goose", where="gate"), id=2),
            ),
        ),
        kinds=(kind("Moth", 4), kind("Lamp", 5), kind("Goose", 6)),
        objects=things("Moth", (0, 0)),
        has={"pace": 9.0, "other": 0.0},
        places=(Spot(name="gate", x=1, y=1),),
    )


def test_a_kit_takes_the_rules_of_its_kinds_and_what_they_speak_of():
    kit = make_kit(yard(), "Moths", ["Moth"])
    assert [k.name for k in kit.kinds] == ["Moth", "Lamp"]
    assert [v.name for v in kit.variables] == ["pace"]
    assert kit.places == ()
    assert [r.name for r in kit.order[0].rules] == ["to lamp"]
    assert Program(kit).problems == []


def test_a_kit_is_brought_in_under_other_names_or_onto_the_levels_own():
    kit, here = make_kit(yard(), "Moths", ["Moth"]), yard()
    found = clashes(here, kit)
    assert {(f.sort, f.name, f.same) for f in found} == {
        ("kind", "Moth", True),
        ("kind", "Lamp", True),
        ("level variable", "pace", True),
    }
    both = bring_kit(here, kit, {(f.sort, f.name): f.free for f in found})
    assert [k.name for k in both.kinds] == ["Moth", "Lamp", "Goose", "Moth 2", "Lamp 1"]
    assert both.order[-1].rules[0].do[0].slots["speed"] == "level.pace_1"
    onto = bring_kit(here, kit, {})
    assert [k.name for k in onto.kinds] == ["Moth", "Lamp", "Goose"]
    for made in (both, onto):
        assert list(flaws(made)) == []
        assert Program(made).problems == []


def test_a_kit_is_saved_and_brought_in_from_the_window(open_window, tmp_path):
    window = open_window(yard())
    path = tmp_path / "moths.gatillokit"
    window.kits.write(path, make_kit(window.bench.level, "Moths", ["Moth"]))
    assert "2 kinds and 1 rules" in window.message.words.text()
    assert read_level(path).name == "Moths"
    window.bench.document.take(level(kinds=(kind("Lamp", 9),)))
    window.kits.ask_names = lambda found: {(f.sort, f.name): f.free for f in found}
    window.kits.bring(path)
    assert [k.name for k in window.bench.level.kinds] == ["Lamp", "Moth", "Lamp 1"]
    assert window.bench.document.history.undoes == "add the kit Moths"


# help


def test_the_tour_goes_on_as_each_step_is_done(open_window, qtbot):
    window = open_window()
    window.begin_tour()
    hands = Hands(qtbot, window)
    hands.rest()
    tour = window.tour
    window.order.setFocus()
    hands.key(ENTER, CTRL)
    assert tour.at == 1
    hands.enter("walker touches find")
    assert tour.at == 2
    hands.enter("remove find")
    hands.key(ENTER)
    assert tour.at == 3
    hands.rest()
    window.bench.move_cursor(window.bench.run.next_firing(window.bench.cursor))
    assert tour.at == 4
    made = next(
        t.source for t in window.bench.program.rules if t.source.do and t.source.do[0].use == "remove"
    )
    window.order.state.show_rule(made.id)
    window.order.state.choose(window.order.state.current)
    hands.key(Qt.Key.Key_E, CTRL | SHIFT)
    hands.rest()
    assert [v.outcome for v in window.bench.shown.verdicts] == ["held"]
    tour.end()
    assert not tour.isVisible()


def test_the_catalogue_is_read_and_searched_inside_the_program(open_window, qtbot):
    window = open_window()
    window.show_catalogue()
    from gatillo.desk.window.help_pages import CataloguePage

    (page,) = window.findChildren(CataloguePage)
    page.search.setText("jitter")
    assert page.page.textCursor().selectedText() == "jitter"
    page.close()
    QApplication.processEvents()


def test_a_picture_of_the_program_shows_nothing_of_the_users(qtbot, tmp_path, monkeypatch):
    import os

    from gatillo.desk import shots

    mine = os.environ["GATILLO_STATE"]
    seen = []

    def look(window):
        seen.append((state_folder(), window.files.recent()))

    monkeypatch.setitem(shots.VIEWS, "look", ("light", look))
    path = tmp_path / "secret.gatillo"
    write_level(path, level())
    shots.save_shot(path, "look", tmp_path / "out.png")
    ((folder, recent),) = seen
    assert str(folder) != mine
    assert recent == []
    assert os.environ["GATILLO_STATE"] == mine


def test_no_study_is_read_for_a_start_page_that_nobody_sees(open_window):
    window = open_window()
    window.choose_look("dark")
    assert not window.start_page._timer.isActive()
    assert all(card.picture.isNull() for card in window.start_page.cards)


def test_enter_presses_the_button_that_has_the_keyboard(open_window, qtbot):
    window = open_window()
    window.show_start()
    qtbot.waitUntil(lambda: isinstance(QApplication.focusWidget(), QPushButton))
    QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: not window.start_page.isVisible())
    assert not window.bench.level.kinds


def test_without_a_pointer_a_thing_is_put_into_the_level_and_the_parts_are_gone_through(open_window, qtbot):
    window = open_window(level(kinds=(kind("Moth", 5), kind("Lamp", 8)), objects=things("Moth", (10, 10))))
    hands = Hands(qtbot, window)
    window.bench.select(Selection(thing=Thing("kind", "Lamp")))
    hands.key(Qt.Key.Key_K, CTRL | SHIFT)
    first = window.bench.level.objects[-1]
    at = window.level_view.to_pixels(first.x, first.y)
    assert (at - window.level_view.rect().center().toPointF()).manhattanLength() < 4
    hands.key(Qt.Key.Key_Right, times=3)
    assert window.bench.level.objects[-1] == replace(first, x=first.x + 3)
    assert first.kind == "Lamp"
    parts = (window.level_view, window.shelf, window.sheet, window.order, window.run_bar)
    for part in (*parts[1:], parts[0]):
        hands.key(Qt.Key.Key_Tab, CTRL)
        assert part is hands.focus() or part.isAncestorOf(hands.focus()), part
    hands.key(Qt.Key.Key_Backtab, CTRL | SHIFT)
    assert window.run_bar.isAncestorOf(hands.focus())
