"""The page of all trials: running them, typing what must hold, seeing what is reached, and accepting an order."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from building import EVERY_TICK, add, c, level, rule
from conftest import settle
from gatillo.inspect.expectations import accepted
from gatillo.level.expectations import FiresTimes, HoldsAt, SameOrder
from gatillo.level.model import Input, KeyBar, Trial
from gatillo.level.rule_edits import rule_of

ENTER = Qt.Key.Key_Return


def yard():
    """A level that counts presses of Space, with a trial that holds, one that fails and one of a rule that is not there."""
    made = level(
        rule("Count", when=c("key_pressed", key="Space"), do=add("level.n"), id=1),
        rule("Tire", when=EVERY_TICK, if_=c("formula_holds", formula="level.n > 2"), do=add("level.m"), id=2),
        has={"n": 0.0, "m": 0.0},
    )
    pressed = Input(keys=(KeyBar(key="Space", start=0.2, end=0.3),))
    trials = (
        Trial(
            name="Once",
            length=1.0,
            input=pressed,
            rates=(30, 60),
            expectations=(HoldsAt(formula="level.n = 1", time=0.9),),
        ),
        Trial(name="Nothing", length=1.0, expectations=(HoldsAt(formula="level.n = 1", time=0.5),)),
        Trial(name="Lost", length=1.0, expectations=(FiresTimes(rule="Gone"),)),
    )
    return replace(made, trials=trials)


@pytest.fixture
def opened(open_window, qtbot):
    window = open_window(yard())
    QTest.keySequence(window, "Ctrl+M, 6")
    qtbot.waitUntil(lambda: window.trials_page.isVisible())
    return window


def run_all(qtbot, window):
    QTest.mouseClick(window.trials_page.run_all, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: not window.bench.trial_runs.busy)


def came(window):
    table = window.trials_page.table
    return [table.item(at, 1).text() for at in range(table.rowCount())]


def expect(window, text):
    line = window.trials_page.expected.line
    line.setFocus()
    line.clear()
    QTest.keyClicks(line, text)
    QTest.keyClick(line, ENTER)


def test_all_trials_are_run_at_their_rates_and_each_says_what_came_of_it(opened, qtbot):
    page = opened.trials_page
    assert came(opened)[1:] == ["– not run", "– not run"]
    run_all(qtbot, opened)
    assert came(opened) == ["✓ 1 holds, 2 runs", "✗ 1 of 1 fails", "? 1 not judged"]
    assert page.said.text() == "1 pass, 1 fail, 1 not judged"
    assert page.table.item(0, 0).text() == "Once\n1 s · seed 1 · 30, 60"
    assert page.table.item(0, 2).text().endswith("%")
    assert "level.n is 0" in page.table.item(1, 1).toolTip()


def test_an_edit_makes_results_old_and_says_so(opened, qtbot):
    run_all(qtbot, opened)
    bench = opened.bench
    tire = replace(rule_of(bench.level, 2), name="Rest")
    order = tuple(tire if entry.id == 2 else entry for entry in bench.level.order)
    bench.edit(replace(bench.level, order=order), "rename a rule")
    settle(qtbot, opened)
    # the viewed trial is judged again by itself
    assert came(opened) == [
        "✓ 1 holds at one rate",
        "– before an edit: 1 of 1 fails",
        "– before an edit: 1 not judged",
    ]


def test_some_are_run_and_what_runs_can_be_broken_off(opened, qtbot):
    page = opened.trials_page
    page.table.selectRow(1)
    QTest.mouseClick(page.run_some, Qt.MouseButton.LeftButton)
    assert page.stop.isEnabled() and not page.run_all.isEnabled()
    QTest.mouseClick(page.stop, Qt.MouseButton.LeftButton)
    assert not opened.bench.trial_runs.busy
    assert came(opened)[2] == "– not run"


def test_a_click_views_the_trial_and_a_failed_expectation_leads_to_its_tick(opened, qtbot):
    page = opened.trials_page
    page.table.selectRow(1)
    settle(qtbot, opened)
    assert opened.bench.trial.name == "Nothing"
    rows = page.expected.table
    assert (
        rows.item(0, 1)
        .text()
        .startswith("level.n = 1 holds at 0.5 s\nfailed: at 0.500 s, tick 30: it is not true then")
    )
    rows.setFocus()
    rows.selectRow(0)
    QTest.keyClick(rows, ENTER)
    assert opened.bench.cursor.tick == 30


def test_what_must_hold_is_typed_and_changed_and_removed(opened, qtbot):
    page, bench = opened.trials_page, opened.bench
    expect(opened, "count exactly once")
    settle(qtbot, opened)
    assert bench.trial.expectations[-1] == FiresTimes(rule="Count", times=1)
    assert page.expected.table.item(1, 0).text() == "✓"
    page.expected.table.selectRow(1)
    QTest.mouseClick(page.expected.change, Qt.MouseButton.LeftButton)
    assert page.expected.line.text() == "“Count” fires exactly 1 time"
    expect(opened, "count at most 2 times by 0.5 s")
    settle(qtbot, opened)
    assert bench.trial.expectations[-1] == FiresTimes(rule="Count", how="at most", times=2, end=0.5)
    page.expected.table.selectRow(1)
    QTest.mouseClick(page.expected.whatever, Qt.MouseButton.LeftButton)
    assert bench.trial.expectations[-1].any_input
    page.expected.table.setFocus()
    QTest.keyClick(page.expected.table, Qt.Key.Key_Delete)
    assert len(bench.trial.expectations) == 1
    bench.document.undo()
    assert len(bench.trial.expectations) == 2


def test_a_line_that_is_not_understood_stays_and_says_why(opened, qtbot):
    expect(opened, "counted once")
    line = opened.trials_page.expected.line
    assert line.text() == "counted once" and opened.trials_page.expected.said.text()
    assert len(opened.bench.trial.expectations) == 1
    expect(opened, "level.n = 1")
    assert "say when it must hold" in opened.trials_page.expected.said.text()


def test_what_all_trials_reach_is_listed_and_leads_to_the_rule(opened, qtbot):
    page = opened.trials_page
    page.tabs.setCurrentWidget(page.reached)
    assert "Run all trials" in page.reached.said.text()
    run_all(qtbot, opened)
    table = page.reached.table
    rows = [[table.item(at, n).text() for n in range(3)] for at in range(table.rowCount())]
    assert ["Tire", "", "never passed"] in rows
    page.reached.missed.setChecked(False)
    assert table.rowCount() > len(rows)
    at = next(at for at in range(table.rowCount()) if table.item(at, 0).text() == "Tire")
    table.selectRow(at)
    table.setFocus()
    QTest.keyClick(table, ENTER)
    assert opened.bench.selection.rule == 2
    # the order list is marked too
    assert opened.bench.answers.missed_in(2)


def test_an_order_of_firing_is_accepted_after_its_difference_is_shown(opened, qtbot):
    bench = opened.bench
    bench.choose_trial("Once")
    settle(qtbot, opened)
    opened.actions_["accept order"].trigger()
    page = bench.answers.page
    assert "has accepted no order yet. This run has 1 firing" in page.notes[0]
    page.also[0][1]()
    settle(qtbot, opened)
    assert bench.trial.expectations[-1] == accepted(bench.run)
    # another order: the difference comes first
    bars = (KeyBar(key="Space", start=0.2, end=0.3), KeyBar(key="Space", start=0.5, end=0.6))
    changed = replace(bench.trial, input=Input(keys=bars))
    bench.edit(replace(bench.level, trials=(changed, *bench.level.trials[1:])), "press twice")
    settle(qtbot, opened)
    opened.actions_["accept order"].trigger()
    page = bench.answers.page
    assert page.notes == ["0 firings are gone (−), 1 are new (+):"]
    assert page.table[1:] == [("+", "30 Count ×1")]
    page.also[0][1]()
    settle(qtbot, opened)
    kept = [one for one in bench.trial.expectations if isinstance(one, SameOrder)]
    assert len(kept) == 1 and len(kept[0].firings) == 2


def test_exploring_finds_what_breaks_an_expectation_and_keeps_it_as_a_trial(opened, qtbot):
    bench = opened.bench
    expect(opened, "level.n < 4 always, whatever is pressed")
    settle(qtbot, opened)
    QTest.keySequence(opened, "Ctrl+M, 7")
    qtbot.waitUntil(lambda: bench.answers.page is not None and not bench.answers.page.busy)
    page = bench.answers.page
    assert any("Broken after" in note for note in page.notes), page.notes
    assert sum("hold Space" in note for note in page.notes) == 4
    page.also[0][1]()
    settle(qtbot, opened)
    assert bench.trial.name == "Once, explored 1"
    assert [one.sentence() for one in bench.trial.expectations] == ["level.n < 4 holds at every tick"]
    assert bench.shown.verdicts[0].outcome == "failed"


def test_the_page_is_put_away_by_the_same_keys(opened, qtbot):
    QTest.keySequence(opened, "Ctrl+M, 6")
    assert not opened.trials_page.isVisible()
    assert opened.region.shows_level
