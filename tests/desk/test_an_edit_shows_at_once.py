"""While a run is made anew after an edit, the lanes show it as it grows, and beyond it the run from before."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from gatillo.desk.session import replay
from gatillo.examples import study_path
from gatillo.files.level_file import read_level
from gatillo.level import edits
from gatillo.level.model import Clause, Rule
from gatillo.sim.run.run import Cursor

STUDY = "01-seed-pods.gatillo"


@pytest.fixture(autouse=True)
def told_often(monkeypatch):
    monkeypatch.setattr(replay, "FIRST_AFTER_EDIT", 0.0)
    monkeypatch.setattr(replay, "THEN_TOLD", 0.0)
    monkeypatch.setattr(replay, "WORTH_TELLING", 0.0)


def noting(level, name):
    """The level with a rule that writes a note as well."""
    rule = next(e for s in level.order for e in s.rules if e.name == name)
    return edits.change_logic(
        level, rule.id, lambda e: replace(e, do=(*e.do, Clause(use="note", slots={"text": "more"})))
    )


class Growing:
    """What the bench showed each time a run had grown after an edit."""

    def __init__(self, window):
        self.window, self.seen = window, []
        window.bench.runChanged.connect(self._on_run)

    def _on_run(self):
        bench, state = self.window.bench, self.window.order.state
        if bench.shown.growing is None:
            return
        standing = state.overlaid
        self.seen.append(
            (
                bench.shown.latest.done,
                bench.run is bench.shown.latest,
                bench.cursor.tick,
                state.lanes.ticks,
                standing.ticks if standing is not None else 0,
                self.window.run_bar.note.whole,
            )
        )


@pytest.fixture
def window(open_window):
    return open_window()


def edited(window, qtbot, cursor, change):
    bench = window.bench
    bench.move_cursor(Cursor(cursor, 0))
    growing = Growing(window)
    before = bench.run
    bench.edit(change(bench.level), "change")
    qtbot.waitUntil(
        lambda: (
            bench.run.program is bench.program
            and bench.run.done == bench.run.length
            and bool(bench.shown.verdicts)
        ),
    )
    return growing.seen, before


def first_rule_noting(level):
    return noting(level, "Gather a pod")


def test_lanes_show_the_new_run_so_far_and_the_one_before_beyond_it(window, qtbot):
    seen, before = edited(window, qtbot, 0, first_rule_noting)
    assert seen
    for done, _, _, shown, standing, words in seen:
        assert shown == done < before.done
        assert standing == before.done
        assert words == "running again …"
    assert "pale" not in window.order.progress_words()
    assert window.order.state.overlaid is None
    assert "run anew" not in window.run_bar.note.whole


def test_the_moment_at_the_cursor_is_the_new_runs_once_that_has_passed_it(window, qtbot):
    seen, _ = edited(window, qtbot, 500, first_rule_noting)
    assert {view for done, view, *_ in seen if done < 500} <= {False}
    assert {view for done, view, *_ in seen if done >= 500} == {True}
    assert {cursor for _, _, cursor, *_ in seen} == {500}
    assert window.bench.cursor.tick == 500


def test_a_run_that_has_passed_the_cursor_is_told_at_once(window, qtbot, monkeypatch):
    monkeypatch.setattr(replay, "FIRST_AFTER_EDIT", 1e9)
    monkeypatch.setattr(replay, "THEN_TOLD", 1e9)
    monkeypatch.setattr(replay, "MOST_AT_ONCE", 0)
    seen, _ = edited(window, qtbot, 400, first_rule_noting)
    # a second past it, as soon as the worker looks up
    (told,) = [done for done, *_ in seen]
    assert 460 <= told < 460 + replay.CHUNK


def test_the_first_moments_are_run_by_the_window_itself(window):
    bench = window.bench
    before = bench.run
    shown = []
    bench.runChanged.connect(lambda: shown.append(bench.shown.latest))
    first = next(f.tick for f in before.trace.firings() if f.rule_index == 0)
    bench.edit(first_rule_noting(bench.level), "change")
    # nothing has been waited for
    (newest,) = shown
    assert newest.program is bench.program
    # what both have in common is taken over, and some of the rest is there
    assert first <= newest.done < before.done
    assert bench.shown.overlaid is before
    assert window.order.progress_words() == "Running the trial …; pale: before the edit"
    bench.progress = (30, 120)
    assert window.order.progress_words() == "Running the trial: 25 %; pale: before the edit"


@pytest.mark.parametrize("what", ["MOST_AT_ONCE", "REPLAYED_AT_ONCE"])
def test_a_level_that_would_hold_the_window_up_is_left_to_the_worker(window, monkeypatch, what):
    monkeypatch.setattr(replay, what, 0)
    bench = window.bench
    shown = []
    bench.runChanged.connect(lambda: shown.append(bench.shown.latest))
    bench.edit(first_rule_noting(bench.level), "change")
    assert shown == []
    assert bench.shown.growing is None


def test_what_is_whole_as_soon_is_not_shown_in_part(window, qtbot, monkeypatch):
    monkeypatch.setattr(replay, "WORTH_TELLING", 1e9)
    seen, _ = edited(window, qtbot, 0, first_rule_noting)
    assert seen == []


def test_rules_keep_their_lanes_while_another_is_put_above_them(window, qtbot):
    bench = window.bench
    lane = bench.program.rules[0]
    fired = window.order.state.lanes.lane(lane.index).tick.tolist()
    assert fired

    def with_one_more(level):
        section = level.order[0]
        new = Rule(id=900, name="First of all", do=(Clause(use="note", slots={"text": "more"}),))
        return replace(level, order=(replace(section, rules=(new, *section.rules)), *level.order[1:]))

    told = []

    def on_level():
        at = next(t.index for t in bench.program.rules if t.source.id == lane.source.id)
        told.append((at, window.order.state.lanes.lane(at).tick.tolist()))

    bench.levelChanged.connect(on_level)
    bench.edit(with_one_more(bench.level), "add")
    # the run from before the edit is still what is viewed
    assert told[-1] == (1, fired)


def test_playing_shows_nothing_of_the_run_before(window, qtbot):
    bench = window.bench
    bench.move_cursor(Cursor(60, 0))
    bench.player.play()
    assert bench.player.playing
    assert bench.shown.overlaid is None
    assert bench.shown.growing is None
    bench.player.stop()


def test_the_study_is_the_one_meant():
    assert read_level(study_path(STUDY)).order[0].rules[0].name == "Gather a pod"
