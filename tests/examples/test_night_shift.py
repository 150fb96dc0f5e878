"""The whole level: its round holds, its mistake is caught by two expectations, and it uses what there is."""

from __future__ import annotations

from functools import lru_cache

import pytest
from msgspec.structs import replace

from gatillo.catalogue.cards.graph_cards import ports_of
from gatillo.examples import DEMO, study_path
from gatillo.files.level_file import read_level
from gatillo.inspect.coverage import Reached, covered, reached_by, totals
from gatillo.inspect.expectations import all_as_meant, faults_amiss, run_and_judge
from gatillo.inspect.findings import findings
from gatillo.level.edits import as_tried
from gatillo.level.expectations import HoldsAt
from gatillo.level.model import Graph, Rule
from gatillo.level.roles import all_logic
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

LEVEL = read_level(study_path(DEMO))
TRIALS = {trial.name: trial for trial in LEVEL.trials}


@lru_cache
def judged(name, rate=60, seed=1):
    """A trial's verdicts and its run; run once, whoever asks."""
    trial = TRIALS[name]
    level = replace(LEVEL, settings=replace(LEVEL.settings, rate=rate))
    run = Run(Program(as_tried(level, trial)), replace(trial, seed=seed))
    return run_and_judge(run), run


def test_the_round_is_played_to_its_end_and_all_holds():
    verdicts, run = judged("The whole round")
    assert {v.outcome for v in verdicts} == {"held"} and not faults_amiss(run)
    fired = {run.program.rules[f.rule_index].source.name for f in run.trace.firings()}
    assert run.world.rules.over and {"Good night", "A hit", "Lamps wake", "Vents breathe"} <= fired


def test_two_expectations_catch_the_mistake_and_no_other():
    trial = TRIALS["The round with a mistake"]
    verdicts, _ = judged(trial.name)
    caught = [v.expectation.formula for v in verdicts if v.outcome == "failed"]
    assert caught == ["level.pods = 8", "level.pods <= level.wanted"]
    assert all_as_meant(trial, verdicts)
    # it is the round's first third, and expects what the round does then
    whole = TRIALS["The whole round"]
    assert set(trial.input.keys) < set(whole.input.keys)
    assert set(trial.expectations) - set(whole.expectations) == {
        HoldsAt(formula="level.pods = 16", time=20.0)
    }


def test_who_does_everything_too_early_gets_nowhere():
    verdicts, run = judged("Everything too early")
    assert {v.outcome for v in verdicts} == {"held"} and not faults_amiss(run)
    fired = {run.program.rules[f.rule_index].source.name for f in run.trace.firings()}
    assert {"Ring too early", "Locked", "Let go too early", "Shut the gate"} <= fired


def test_the_trials_reach_nearly_all_of_the_level():
    together = Reached()
    for name in TRIALS:
        together.add(reached_by(judged(name)[1]))
    reached, of = totals(covered(LEVEL, together))
    assert reached / of >= 0.95


@pytest.mark.parametrize(("rate", "seed"), [(30, 1), (60, 7)])
def test_a_night_when_nobody_comes_stays_a_quiet_one(rate, seed):
    verdicts, run = judged("Nobody comes", rate, seed)
    assert {v.outcome for v in verdicts} == {"held"} and not faults_amiss(run)


def test_it_is_a_level_of_working_size_without_a_finding():
    logic = [entry for _, _, entry in all_logic(LEVEL)]
    playing = [o for o in LEVEL.objects if o.kind not in {k.name for k in LEVEL.kinds if k.scenery}]
    graphs = [g for g in logic if isinstance(g, Graph)]
    own = [g for g in graphs if any(node.use == "input" for node in g.nodes)]
    assert 60 <= len(playing) <= 80 and 40 <= sum(isinstance(e, Rule) for e in logic) <= 60
    assert (len(graphs) - len(own), len(own)) == (4, 2) and len(LEVEL.variants) == 2
    assert len(LEVEL.trials) == 4 and len(TRIALS["The whole round"].expectations) >= 20
    assert findings(LEVEL) == []
    used = {node.use for g in graphs for node in g.nodes}
    assert {use for use in used if ports_of(use) is not None}


def test_the_rounds_order_of_firing_is_the_same_at_every_tick_rate():
    order = next(e for e in TRIALS["The whole round"].expectations if hasattr(e, "rules")).rules
    firsts = []
    for rate in (30, 60):
        _, run = judged("The whole round", rate)
        names = [run.program.rules[f.rule_index].source.name for f in run.trace.firings()]
        firsts.append([name for name in dict.fromkeys(names) if name in order])
    assert firsts[0] == firsts[1] == list(order)
