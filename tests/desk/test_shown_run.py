"""Which run is shown: what the lanes, the level view and the next comparison are given, state by state."""

from __future__ import annotations

import pytest

from building import c, kind, level, rule, things
from gatillo.desk.session.replay import Replayed
from gatillo.desk.session.shown_run import ShownRun, State
from gatillo.inspect.comparison import Comparison
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


def a_run(*, done: int | None = None) -> Run:
    pulse = rule("pulse", when=c("every_seconds", period="0.2"), do=c("note", text="x"))
    made = level(pulse, kinds=(kind("Moth"),), objects=things("Moth", (0, 0)), seconds=1.0)
    run = Run(Program(made), made.trials[0])
    run.advance(run.length if done is None else done)
    return run


@pytest.fixture
def shown():
    """A level was opened, run and judged."""
    made = ShownRun(a_run(done=0))
    made.complete(Replayed(a_run()))
    return made


def test_the_first_run_of_a_level_is_shown_as_it_grows():
    shown = ShownRun(a_run(done=0))
    shown.remake()
    assert shown.state is State.OPENED
    growing = a_run(done=10)
    shown.grow(growing, cursor_tick=50)
    assert shown.run is shown.latest is growing
    assert shown.growing is None and shown.overlaid is None


def test_after_an_edit_the_run_before_is_shown_until_the_new_one_has_passed_the_cursor(shown):
    before = shown.run
    shown.remake()
    assert shown.state is State.REMADE and shown.run is before
    short = a_run(done=10)
    shown.grow(short, cursor_tick=30)
    assert shown.run is before
    assert shown.latest is short and shown.overlaid is before
    longer = a_run(done=30)
    shown.grow(longer, cursor_tick=30)
    assert shown.run is shown.latest is longer and shown.overlaid is before
    whole = a_run()
    shown.complete(Replayed(whole, Comparison()))
    assert shown.state is State.WHOLE and shown.run is shown.whole is whole
    assert shown.previous is before and shown.overlaid is None and shown.growing is None
    assert shown.compared


def test_a_run_that_cannot_be_made_leaves_the_one_before(shown):
    before = shown.run
    shown.remake()
    shown.grow(a_run(done=10), cursor_tick=5)
    assert shown.run is not before
    shown.fail()
    assert shown.run is before and shown.state is State.WHOLE and shown.growing is None


def test_a_played_run_is_shown_alone_and_the_whole_one_is_still_compared_with(shown):
    before = shown.run
    shown.verdicts = ["held"]
    shown.compare_with(Comparison())
    played = a_run(done=10)
    shown.play(played)
    assert shown.run is shown.latest is played and shown.overlaid is None
    assert not shown.compared
    # they are about the script of the trial, whatever is played
    assert shown.verdicts == ["held"]
    assert shown.whole is before


def test_an_edit_does_not_replace_a_comparison_that_was_asked_for(shown):
    asked = Comparison()
    shown.compare_with(asked)
    shown.complete(Replayed(a_run(), Comparison()))
    assert shown.comparison is asked
    shown.compare_with(asked, stays=False)
    other = Comparison()
    shown.complete(Replayed(a_run(), other))
    assert shown.comparison is other


def test_another_level_begins_with_nothing_of_the_one_before(shown):
    shown.findings, shown.verdicts = ["found"], ["held"]
    shown.compare_with(Comparison())
    new = a_run(done=0)
    shown.open(new)
    assert shown.state is State.OPENED and shown.run is new
    assert shown.whole is shown.previous is shown.growing is None
    assert shown.findings == shown.verdicts == [] and not shown.compared
