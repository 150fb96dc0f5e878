"""Other versions of the open level, and its run as a page: the commands of the File menu beside opening and saving."""

from __future__ import annotations

import subprocess

import pytest
from hands import Hands
from msgspec.structs import replace
from PySide6.QtWidgets import QFileDialog, QLabel

from building import START, add, c, level, rule
from gatillo.files.level_file import read_level, write_level
from gatillo.formula.compiling import compile_formula
from gatillo.inspect.merging.levels import merge
from gatillo.inspect.watching import value_in
from gatillo.level import edits


def built(amount="1"):
    return level(
        rule("First", when=START, do=add("level.n", amount), id=1),
        rule("Second", when=c("every_tick"), do=add("level.m"), id=2),
        has={"n": 0.0, "m": 0.0},
    )


@pytest.fixture
def merged(open_window, qtbot, tmp_path):
    """Return a window into which a merged level was opened, of which the amount is to be settled."""
    window = open_window()
    file = tmp_path / "merged.gatillo"
    write_level(file, merge(built(), built("2"), built("5")))
    window.open_path(file)
    hands = Hands(qtbot, window)
    hands.rest()
    return window, hands


def n_at_the_end(window):
    run = window.bench.run
    return value_in(run.world_at(run.end_of(run.done)), compile_formula(run.program.index, "level.n"))


def test_a_merged_level_asks_what_it_is_to_have_and_each_side_can_be_played(merged):
    window, hands = merged
    page = window.bench.answers.page
    assert page.title == "Settle the merge"
    assert [root.sentence for root in page.roots] == ["rule “First”: do 1 amount"]
    assert [words for words, _ in page.offers[0]][:2] == ["● ours: “2”", "○ theirs: “5”"]
    assert any("must be settled" in finding.message for finding in window.bench.shown.findings)
    label = window.sheet.findChild(QLabel, "answer")
    label.linkActivated.emit("do:0.1")
    hands.rest()
    assert window.bench.level.order[0].do == (add("level.n", "5"),)
    assert n_at_the_end(window) == 5
    page = window.bench.answers.page
    assert [words for words, _ in page.offers[0]][:2] == ["○ ours: “2”", "● theirs: “5”"]
    # undone, the page says so
    window.actions_["undo"].trigger()
    hands.rest()
    assert window.bench.answers.page.offers[0][0][0] == "● ours: “2”"
    window.sheet.findChild(QLabel, "answer").linkActivated.emit("do:0.3")
    hands.rest()
    assert window.bench.level.unsettled == ()
    assert window.bench.level.order[0].do == (add("level.n", "2"),)
    assert "Nothing is left" in window.bench.answers.page.notes[0]


def test_the_other_side_is_laid_beside_this_one(merged, qtbot):
    window, _ = merged
    window.sheet.findChild(QLabel, "answer").linkActivated.emit("do:0.2")
    qtbot.waitUntil(lambda: window.bench.answers.page.title == "Comparison")
    assert window.bench.beside.label == "theirs of rule “First”: do 1 amount"
    assert "n: 5 in the other run, 2 in this run" in window.bench.answers.page.text()


def test_without_a_merge_the_command_says_so(open_window):
    window = open_window(built())
    told = []
    window.bench.notified.connect(told.append)
    window.actions_["settle merge"].trigger()
    assert "nothing is to be settled" in told[-1]


@pytest.fixture
def kept(open_window, qtbot, tmp_path):
    """Return a window with a level that git keeps, the hash of its first version, and hands."""
    file = tmp_path / "yard.gatillo"
    write_level(file, built())

    def git(*words):
        who = ("-c", "user.name=Ann", "-c", "user.email=ann@example.org")
        done = subprocess.run(["git", *who, *words], cwd=tmp_path, capture_output=True, text=True, check=True)
        return done.stdout.strip()

    git("init", "-q")
    git("add", "yard.gatillo")
    git("commit", "-qm", "The yard")
    write_level(file, built("3"))
    window = open_window()
    window.open_path(file)
    hands = Hands(qtbot, window)
    hands.rest()
    return window, hands, git("rev-parse", "--short", "HEAD")


def test_the_level_is_compared_with_the_last_save_a_kept_version_and_another_file(kept, qtbot, tmp_path):
    window, hands, first = kept
    bench, versions = window.bench, window.versions
    offered = []

    def choose(words, some):
        offered[:] = some
        return some[number]

    versions.choose = choose
    bench.edit(edits.switch_rule(bench.level, 2, False), "switch it off")
    hands.rest()
    number = 0
    window.actions_["compare level"].trigger()
    assert offered[:2] == ["the last save", "another file …"]
    assert offered[2].startswith("The yard (") and first in offered[2]
    assert [r.sentence for r in bench.answers.page.roots] == ["rule “Second”: switched off"]
    number = 2
    window.actions_["compare level"].trigger()
    page = bench.answers.page
    assert page.notes == [f"From “yard.gatillo” at {first} to this level:"]
    assert [r.sentence for r in page.roots] == [
        "rule “First”: do 1: add 1 to level.n → add 3 to level.n",
        "rule “Second”: switched off",
    ]
    # a row leads to its rule, and the runs are laid beside one another
    bench.answers.go((1,))
    state = window.order.state
    assert state.rows[state.current].rule.id == 2
    page.also[0][1]()
    qtbot.waitUntil(lambda: bench.answers.page.title == "Comparison")
    other = tmp_path / "other.gatillo"
    write_level(other, replace(bench.level, note="Another"))
    versions.choose_file = lambda *_: other
    number = 1
    window.actions_["compare level"].trigger()
    assert [r.sentence for r in bench.answers.page.roots] == ["the level: its note: “Another” → nothing"]
    told = []
    bench.notified.connect(told.append)
    other.write_text("{}")
    window.actions_["compare level"].trigger()
    assert "is not a level file" in told[-1]
    assert read_level(tmp_path / "yard.gatillo") == built("3")


def test_the_shown_run_is_saved_as_a_page(open_window, qtbot, tmp_path, monkeypatch):
    window = open_window(built())
    Hands(qtbot, window).rest()
    told = []
    window.bench.notified.connect(told.append)
    out = tmp_path / "run.html"
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(out), ""))
    window.actions_["save page"].trigger()
    qtbot.waitUntil(lambda: any("is written" in text for text in told))
    assert "<title>test: trial</title>" in out.read_text()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "no" / "run.html"), ""))
    window.actions_["save page"].trigger()
    qtbot.waitUntil(lambda: any("cannot be written" in text for text in told))
