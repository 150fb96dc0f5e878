"""The studies are the acceptance tests: their trials hold, and their wrong first tries go wrong."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.inspect.expectations import judge
from gatillo.level.edits import as_tried
from gatillo.level.model import Level, Section, Trial
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run, run_trial

STUDIES = {name: read_level(study_path(name)) for name in study_names()}


def outcomes(level: Level, trial: Trial) -> set[str]:
    program = Program(as_tried(level, trial))
    assert program.problems == []
    return {v.outcome for v in judge(run_trial(program, trial))}


@pytest.mark.parametrize(("name", "trial"), [(n, t.name) for n, lv in STUDIES.items() for t in lv.trials])
def test_a_studys_trial_holds(name, trial):
    level = STUDIES[name]
    chosen = next(t for t in level.trials if t.name == trial)
    assert chosen.expectations
    assert outcomes(level, chosen) == {"held"}


@pytest.mark.parametrize("name", STUDIES)
def test_a_study_says_what_it_shows(name):
    assert len(STUDIES[name].note) > 80
    assert STUDIES[name].trials


FIRST_TRIES = {
    "01-seed-pods.gatillo": ("First try: anything gathers", "Gather a pod"),
    "02-stacked-pots.gatillo": ("First try: all under the pointer", "Take hold"),
    "03-sprinkler.gatillo": ("First try: the picture's own way forgotten", "Face it by formula"),
    "04-sliding-pane.gatillo": ("First try: pressed only", "Sliding"),
    "05-lantern.gatillo": ("First try: the button alone", "Carrying light"),
    "06-moths.gatillo": ("1 straight", "2 guarded"),
    "07-night-crew.gatillo": ("First try: whoever stands there, in every tick", "The call"),
    "08-the-key.gatillo": ("First try: open for everyone", "The door"),
    "17-valve.gatillo": ("First try: a press is enough", "The valve"),
    "20-hatch.gatillo": ("First try: everyone goes", "The hatch"),
    "21-tunnel-post.gatillo": ("First try: the first place at once", "The menu"),
    "13-watering-can.gatillo": ("First try: held and over it", "Dragging"),
    "09-beetles.gatillo": ("First try: no interval", "Coming out"),
    "10-fireflies.gatillo": ("First try: a ring for each change", "As many as wanted"),
    "11-seed-bomb.gatillo": ("First try: so much a tick", "Charging"),
    "12-bench-focus.gatillo": ("First try: whatever is near, in every tick", "Focus"),
    "14-loose-shutter.gatillo": ("First try: everyone comes", ""),
    "15-cart.gatillo": ("1 now and then", "4 the line"),
    "16-vents.gatillo": ("First try: the plate itself", "Plates"),
    "18-weather-vane.gatillo": ("First try: so much a tick", "By formula"),
    "19-pot-on-plate.gatillo": ("First try: again and again", "The gate"),
    "22-night-lamps.gatillo": ("First try: dark at once", "The lamps"),
    "23-own-marks.gatillo": ("First try: one mark for all", "Marks"),
    "24-on-the-cart.gatillo": ("First try: put on it in every tick", "Riding"),
    "25-one-round.gatillo": ("First try: all at once", "The round"),
    "26-flutters.gatillo": ("First try: written for moths", "flutters"),
}


@pytest.mark.parametrize("name", FIRST_TRIES)
def test_the_wrong_first_try_is_kept_and_fails_what_the_mended_one_holds(name):
    level = STUDIES[name]
    wrong, mended = FIRST_TRIES[name]
    assert any(isinstance(e, Section) and e.name == wrong and not e.on for e in level.order)
    trial = replace(level.trials[0], on=(wrong,), off=(mended,) if mended else ())
    # some go wrong at another tick rate only
    rates = trial.rates or (level.settings.rate,)
    tried = [replace(level, settings=replace(level.settings, rate=rate)) for rate in rates]
    assert any(outcomes(lv, trial) != {"held"} for lv in tried)


@pytest.mark.parametrize("number", range(1, 27))
def test_every_study_is_there_with_its_wrong_first_try(number):
    name = next(n for n in STUDIES if n.startswith(f"{number:02d}-"))
    assert name in FIRST_TRIES


def test_what_is_tuned_per_tick_holds_at_one_rate_and_is_found_at_another():
    level = STUDIES["11-seed-bomb.gatillo"]
    wrong, mended = FIRST_TRIES["11-seed-bomb.gatillo"]
    trial = replace(level.trials[0], on=(wrong,), off=(mended,))
    held = {
        rate: outcomes(replace(level, settings=replace(level.settings, rate=rate)), trial) == {"held"}
        for rate in (30, 60, 120)
    }
    assert held == {30: False, 60: True, 120: False}


def test_copying_a_pod_needs_no_new_rule():
    level = STUDIES["01-seed-pods.gatillo"]
    pod = next(o for o in level.objects if o.kind == "Pod")
    more = replace(level, objects=(*level.objects, replace(pod, id=900, name="One more", x=pod.x + 1)))
    run = run_trial(Program(more), level.trials[0])
    assert run.world.level["pods"] == 17


@pytest.mark.parametrize("rate", [30, 60, 120])
@pytest.mark.parametrize(
    ("name", "by_rules", "by_graphs"),
    [
        ("02-stacked-pots.gatillo", "Drag two pots", "Drag two pots, by an own node"),
        ("18-weather-vane.gatillo", "Breeze, gale, calm", "Breeze, gale, calm, as graphs"),
        ("19-pot-on-plate.gatillo", "Carry it there and away", "Carry it there and away, as a graph"),
    ],
)
def test_a_graph_beside_its_rules_leads_to_the_same_in_every_tick(name, by_rules, by_graphs, rate):
    level = read_level(study_path(name))
    level = replace(level, settings=replace(level.settings, rate=rate))
    runs = []
    for trial_name in (by_rules, by_graphs):
        trial = next(t for t in level.trials if t.name == trial_name)
        runs.append(Run(Program(as_tried(level, trial)), trial))
    one, other = runs
    while one.done < one.length:
        one.advance(1)
        other.advance(1)
        for what in ("x", "y", "angle"):
            assert getattr(one.world, what).tolist() == getattr(other.world, what).tolist(), one.done
    assert one.trace.digest() != other.trace.digest(), "it is not the same logic that fires"
