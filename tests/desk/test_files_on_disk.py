"""The window and its files: what a crash left, what another program does to the open file, and where nothing can be kept."""

from __future__ import annotations

import os
from pathlib import Path

import pytest
from hands import CTRL, Hands
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QFileDialog, QLabel, QLineEdit, QPushButton, QToolButton

from another_process import another_process
from building import POD, START, add, level, rule
from gatillo.desk.session.selection import Selection
from gatillo.files.level_file import read_level, write_level
from gatillo.files.owners import state_folder
from gatillo.files.unsaved import left_behind


def start_page(window, qtbot):
    window.show_start()
    page = window.start_page
    qtbot.waitUntil(lambda: not page._waiting)
    return page


def leave_work(folder):
    """Leave unsaved work as a crash does."""
    for left in left_behind():
        left.file.unlink()
    with another_process(folder / "never.gatillo", state_folder()):
        pass


@pytest.fixture
def opened(open_window, tmp_path):
    """A window with a file open, and the file."""
    window = open_window()
    path = tmp_path / "shared.gatillo"
    write_level(path, level())
    assert window.open_path(path)
    return window, path


def told(window, words):
    return lambda: words in window.message.words.text()


def offer(window, words):
    return next(button for button in window.message._offers if button.text() == words)


def test_unsaved_work_is_kept_after_an_edit_and_gone_after_saving(open_window, qtbot, tmp_path):
    window = open_window()
    bench = window.bench
    folder = state_folder()
    before = set(folder.glob("*.unsaved"))
    bench.edit(level(has={"n": 1.0}), "change")
    bench.document.file.flush()
    (kept,) = set(folder.glob("*.unsaved")) - before
    bench.document.save(tmp_path / "a.gatillo")
    qtbot.waitUntil(lambda: not kept.exists())


def test_what_a_crash_left_is_brought_back_unsaved(open_window, qtbot, tmp_path):
    leave_work(tmp_path)
    window = open_window()
    page = start_page(window, qtbot)
    offered = [b for b in page.findChildren(QPushButton, "left-0") if b.isVisible()]
    Hands(qtbot, window).click(offered[0])
    assert window.bench.level.name == "New level"
    assert window.bench.document.history.unsaved
    assert left_behind() == []


@pytest.mark.parametrize("newer", [False, True])
def test_work_that_was_brought_back_does_not_replace_a_newer_file_unasked(open_window, tmp_path, newer):
    path = tmp_path / "mine.gatillo"
    write_level(path, level(has={"theirs": 1.0}))
    for left in left_behind():
        left.file.unlink()
    with another_process(path, state_folder(), of=path):
        pass
    (left,) = left_behind()
    os.utime(path, (left.when + 60, left.when + 60) if newer else (left.when - 60, left.when - 60))
    window = open_window()
    window.files.bring_back(left)
    assert window.bench.path == path
    window.files.choose = lambda *_: "Cancel" if newer else pytest.fail("asked")
    assert window.files.save() == (not newer)
    assert [v.name for v in read_level(path).variables] == (["theirs"] if newer else [])


def test_what_a_crash_left_can_be_thrown_away(open_window, qtbot, tmp_path):
    leave_work(tmp_path)
    window = open_window()
    page = start_page(window, qtbot)
    (away,) = [b for b in page.findChildren(QToolButton, "left-0-away") if b.isVisible()]
    Hands(qtbot, window).click(away)
    assert left_behind() == []


def test_what_cannot_be_read_in_the_state_folder_is_told_on_the_start_page(open_window, qtbot):
    odd = state_folder() / "²-x.unsaved"
    odd.parent.mkdir(parents=True, exist_ok=True)
    odd.write_text("nothing")
    page = start_page(open_window(), qtbot)
    try:
        (words,) = [label.text() for label in page.findChildren(QLabel, "unreadable-work")]
        assert "²-x.unsaved" in words
    finally:
        odd.unlink()


def test_a_file_open_in_another_window_is_told(open_window, tmp_path):
    window = open_window()
    path, link = tmp_path / "shared.gatillo", tmp_path / "link.gatillo"
    write_level(path, level())
    link.symlink_to(path)
    with another_process(path, state_folder()) as other:
        window.open_path(link)
        assert f"process {other.pid}" in window.message.words.text()


def test_a_file_changed_on_disk_is_noticed_and_can_be_loaded(opened, qtbot):
    window, path = opened
    write_level(path, level(has={"from elsewhere": 1.0}))
    qtbot.waitUntil(told(window, "changed on disk"))
    Hands(qtbot, window).click(offer(window, "Load the version on disk"))
    assert [v.name for v in window.bench.level.variables] == ["from elsewhere"]


def test_saving_is_no_change_on_disk(open_window, qtbot, tmp_path):
    window = open_window()
    path = tmp_path / "mine.gatillo"
    window.bench.document.save(path)
    window.bench.edit(level(has={"n": 1.0}), "change")
    window.bench.document.save(path)
    qtbot.wait(200)
    assert not told(window, "changed on disk")()
    assert not window.bench.document.file.is_unseen()


@pytest.mark.parametrize("answer", ["Cancel", "Replace it", "Save under another name"])
def test_ctrl_s_does_not_replace_what_another_program_wrote_without_asking(
    opened, qtbot, monkeypatch, answer
):
    window, path = opened
    window.bench.edit(level(has={"mine": 1.0}), "change")
    write_level(path, level(has={"theirs": 1.0}))
    asked = []
    window.files.choose = lambda title, words, answers: asked.append(words) or answer
    other = path.with_name("mine.gatillo")
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(other), ""))
    QTest.keyClick(window, Qt.Key.Key_S, CTRL)
    assert "changed by another program" in asked[0]
    on_disk = [v.name for v in read_level(path).variables]
    assert on_disk == (["mine"] if answer == "Replace it" else ["theirs"])
    assert other.exists() == (answer == "Save under another name")
    assert window.bench.document.history.unsaved == (answer == "Cancel")


def test_a_version_that_was_kept_to_is_saved_over_without_another_question(opened, qtbot):
    window, path = opened
    write_level(path, level(has={"theirs": 1.0}))
    qtbot.waitUntil(told(window, "changed on disk"))
    Hands(qtbot, window).click(offer(window, "Keep mine"))
    window.files.choose = lambda *_: pytest.fail("asked")
    assert window.files.save()
    assert read_level(path) == window.bench.level


@pytest.mark.parametrize("moved", [False, True])
def test_a_file_that_was_removed_or_moved_is_told_and_saved_again(opened, qtbot, moved):
    window, path = opened
    path.rename(path.with_name("elsewhere.gatillo")) if moved else path.unlink()
    qtbot.waitUntil(told(window, "was removed or moved"))
    assert window.bench.document.history.unsaved
    Hands(qtbot, window).click(offer(window, "Save it there again"))
    assert read_level(path) == window.bench.level


def test_a_file_that_was_removed_and_written_again_is_not_replaced_unasked(opened, qtbot):
    window, path = opened
    path.unlink()
    qtbot.waitUntil(told(window, "was removed or moved"))
    write_level(path, level(has={"theirs": 1.0}))
    qtbot.waitUntil(told(window, "changed on disk"))
    window.files.choose = lambda *_: "Cancel"
    assert not window.files.save()
    assert [v.name for v in read_level(path).variables] == ["theirs"]


def test_save_as_without_the_ending_asks_before_it_replaces(open_window, monkeypatch, tmp_path):
    window = open_window()
    there = tmp_path / "a.b.gatillo"
    write_level(there, level(has={"theirs": 1.0}))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "a.b"), ""))
    window.files.choose = lambda *_: "Cancel"
    assert not window.files.save_as()
    assert [v.name for v in read_level(there).variables] == ["theirs"]
    window.files.choose = lambda *_: "Replace it"
    assert window.files.save_as()
    assert read_level(there) == window.bench.level


@pytest.fixture
def odd_state(monkeypatch, tmp_path):
    """A state folder in which nothing can be kept: it is a file."""
    odd = tmp_path / "state"
    odd.write_text("")
    monkeypatch.setenv("GATILLO_STATE", str(odd))
    return odd


def test_where_nothing_can_be_kept_the_window_opens_and_says_so_once(odd_state, open_window, qtbot):
    window = open_window()
    start_page(window, qtbot)
    for number in (1.0, 2.0):
        window.bench.edit(level(has={"n": number}), "change")
        window.bench.document.file.flush()
        if number == 1.0:
            qtbot.waitUntil(told(window, "is not saved for recovery"))
            assert str(odd_state) in window.message.words.text()
            window.message.say("read")
    qtbot.wait(50)
    assert told(window, "read")()
    assert odd_state.read_text() == ""


@pytest.mark.parametrize(
    ("key", "value"),
    [("arrangement/split", "wide"), ("arrangement/split", "nan"), ("recent", ["x" * 5_000]), ("arrangement/upper", "x")],
)  # fmt: skip
def test_settings_that_say_nothing_are_passed_over(open_window, qtbot, key, value):
    from gatillo.desk.session.workbench import Workbench
    from gatillo.desk.window.main_window import MainWindow

    settings = open_window().settings
    before = settings.value(key)
    settings.setValue(key, value)
    try:
        again = MainWindow(Workbench(), settings)
        qtbot.addWidget(again)
        again.show()
        start_page(again, qtbot)
        assert 0.2 <= again.order.geometry_.split <= 0.75
    finally:
        settings.setValue(key, before) if before is not None else settings.remove(key)


def test_a_level_from_a_pipe_is_refused_at_once(open_window, tmp_path):
    window = open_window()
    pipe = tmp_path / "pipe.gatillo"
    os.mkfifo(pipe)
    assert not window.open_path(Path(pipe))
    assert "pipe" in window.message.words.text()


def test_what_is_typed_in_a_field_when_the_window_closes_is_asked_about(open_window, qtbot, tmp_path):
    window = open_window(level(rule("r", when=START, do=add("level.n")), has={"n": 0.0}, kinds=(POD,)))
    path = tmp_path / "a.gatillo"
    assert window.bench.document.save(path)
    window.bench.select(Selection(rule=window.bench.level.order[0].id))
    hands = Hands(qtbot, window)
    field = window.findChild(QLineEdit, "rule-name")
    field.setFocus()
    hands.type("x")
    asked = []
    window.files.ask = lambda *_: asked.append(window.bench.level.order[0].name) or "save"
    window.close()
    assert len(asked) == 1 and "x" in asked[0]
    assert "x" in read_level(path).order[0].name


def test_a_window_closes_while_a_field_of_a_dialog_has_the_keyboard(open_window, qtbot):
    window = open_window(level(has={"n": 1.0}))
    window.try_values()
    field = window.trying.findChild(QComboBox)
    field.setFocus()
    qtbot.waitUntil(field.hasFocus)
    window.close()
    assert not field.hasFocus()
