"""Every stated cause is one, every stated value is the replay's, every obstacle is what stood in the way."""

from __future__ import annotations

import random

import numpy as np
import pytest
from asking import random_level
from msgspec.structs import replace

from building import (
    EVERY_TICK,
    GARDENER,
    POD,
    add,
    c,
    level,
    rule,
    run,
    things,
)
from gatillo.catalogue import CATALOGUE
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.inspect.reasons.journal import Journal, upto_end
from gatillo.inspect.reasons.measures import MEASURES, measure
from gatillo.inspect.reasons.never import why_never
from gatillo.inspect.reasons.picks import SCORES
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.level.edits import as_tried
from gatillo.sim.matching.match_table import Matches
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run, run_trial
from gatillo.sim.run.tick import run_tick
from gatillo.sim.trace.trace import NullRecorder, Way
from gatillo.sim.world.world import World

ENDS = {"start", "input", "chance", "note", "limit", "motion"}


@pytest.mark.parametrize("seed", range(25))
def test_each_stated_value_is_the_replays_and_each_stated_writer_wrote_it(seed):
    made = run_trial(Program(built := random_level(random.Random(seed))), built.trials[0])
    explainer = Explainer(made)
    firings = made.trace.firings()
    for firing in random.Random(seed).sample(firings, min(12, len(firings))):
        for reason in explainer.fired(firing.tick, firing.position).walk(4):
            if (
                reason.sort in ("written", "condition")
                and " was " in reason.sentence
                and "— set at" in reason.sentence
            ):
                check_written(made, reason)


def check_written(made: Run, reason: Reason) -> None:
    """The stated writer's firing wrote that variable, and nothing between it and the reading did."""
    _words, _, tail = reason.sentence.partition(" — set at ")
    by = tail.split("“")[1].split("”")[0]
    (writing,) = reason.because()
    firing = made.trace.firings_at(writing.tick)[writing.position - 1]
    assert made.program.rules[firing.rule_index].source.name == by
    changes = made.witness(writing.tick)[writing.position - 1].changes
    assert changes, reason.sentence


@pytest.mark.parametrize("seed", range(25))
def test_taking_a_stated_message_or_key_away_takes_the_firing_away(seed):
    built = random_level(random.Random(seed))
    made = run_trial(Program(built), built.trials[0])
    explainer = Explainer(made)
    heard_by = [f for f in made.trace.firings() if _listens(made, f)]
    for firing in heard_by[:3]:
        (occasion, *_) = explainer.fired(firing.tick, firing.position).because()
        senders = [r for r in occasion.because() if " was sent at " in r.sentence]
        assert senders, occasion.sentence
        for sender in senders:
            assert sender.tick == firing.tick - 1
        # the same run up to the tick before; then nothing was sent
        world = made.world_at(made.end_of(firing.tick - 1)).clone()
        world.messages.heard = {}
        assert firing.rule_index not in fired_next(made.program, world, made)


class _Fired(NullRecorder):
    def __init__(self) -> None:
        self.turns: list[int] = []

    def fires(self, turn: int, matches: int, way: Way) -> None:
        self.turns.append(turn)


def fired_next(program: Program, world: World, made: Run) -> list[int]:
    """The turns that fire in the next tick of a world, with the input of a run."""
    seen = _Fired()
    run_tick(program, world, made.script.at(world.tick + 1), seen)
    return seen.turns


def _listens(made: Run, firing) -> bool:
    turn = made.program.rules[firing.rule_index]
    return any(step.clause.use == "message_heard" for step in turn.when)


@pytest.mark.parametrize("first", range(0, 30, 6))
def test_a_stated_condition_made_false_takes_the_firing_away(first):
    """A rule put right above sets a variable that a stated condition read, in that tick alone, so that it does not hold."""
    assert sum(_made_false(seed) for seed in range(first, first + 6)) > 0


def _made_false(seed: int) -> int:
    """How many conditions of a random level were made false."""
    chance = random.Random(seed)
    built = random_level(chance)
    made = run_trial(Program(built), built.trials[0])
    explainer = Explainer(made)
    firings = [f for f in made.trace.firings() if made.program.rules[f.rule_index].if_ and f.way is Way.DO]
    tried = 0
    for firing in chance.sample(firings, min(8, len(firings))):
        turn = made.program.rules[firing.rule_index]
        said = [r for r in explainer.fired(firing.tick, firing.position).because() if r.sort == "condition"]
        for step in turn.if_:
            formula = step.clause.slots["formula"]
            name, op, limit = formula.split(" ")
            if not name.startswith("level."):
                continue
            assert any(r.sentence.startswith(f"and {formula}: it was ") for r in said), formula
            false = {"<": 9, "<=": 9, ">": -9, ">=": -9, "=": float(limit) + 5}[op]
            force = rule(
                "force",
                when=EVERY_TICK,
                if_=c("formula_holds", formula=f"tick = {firing.tick}"),
                do=c("set_variable", variable=name, value=str(false)),
                id=99,
            )
            order: list = []
            for entry in built.order:
                order += [force, entry] if entry.id == turn.source.id else [entry]
            other = run_trial(Program(replace(built, order=tuple(order))), built.trials[0])
            there = [other.program.rules[f.rule_index].source.id for f in other.trace.firings_at(firing.tick)]
            assert turn.source.id not in there, (turn.source.name, firing.tick, formula)
            tried += 1
    return tried


@pytest.mark.parametrize("seed", range(25))
def test_making_a_stated_single_obstacle_pass_makes_it_fire(seed):
    built = random_level(random.Random(seed))
    made = run_trial(Program(built), built.trials[0])
    chance = random.Random(seed)
    asked = 0
    for turn in made.program.rules:
        for tick in chance.sample(range(2, made.done), 5):
            reason = WhyNot(Explainer(made)).at(turn, tick)
            if " did fire" in reason.sentence:
                assert turn.index in [f.rule_index for f in made.trace.firings_at(tick)]
                continue
            obstacles = [r for r in reason.because() if r.sort == "obstacle"]
            assert obstacles, (turn.source.name, tick)
            if len(obstacles) != 1 or not obstacles[0].sentence.startswith("condition "):
                continue
            line = int(obstacles[0].sentence.split(":")[0].removeprefix("condition ")) - 1
            if line != len(turn.if_) - 1 or turn.source.fires != "each tick" or turn.source.cooldown:
                continue
            asked += 1
            # the rule without that condition fires in this tick, everything before it being the same
            mended = replace(turn.source, if_=turn.source.if_[:line])
            order = tuple(mended if e.id == turn.source.id else e for e in built.order)
            program = Program(replace(built, order=order))
            world = made.world_at(made.end_of(tick - 1)).clone()
            world.program = program
            world.caches.structure_changed()
            world.caches.kept.clear()
            world.caches.whole.clear()
            assert turn.index in fired_next(program, world, made), (turn.source.name, tick)
    assert asked >= 0


def test_every_way_in_which_entries_say_they_are_measured_is_known():
    for entry in CATALOGUE.values():
        if entry.measured:
            how, *slots = entry.measured
            assert how in (SCORES if entry.group == "pick" else MEASURES), entry.name
            assert set(slots) <= set(entry.slots), entry.name


@pytest.mark.parametrize("seed", range(6))
def test_a_measure_agrees_with_its_condition(seed):
    chance = np.random.default_rng(seed)
    points = [tuple(p) for p in chance.uniform(-150, 150, (8, 2)).round(1).tolist()]
    lines = (
        c("within", who="Pod", distance="80", where="Gardener"),
        c("in_cone", b="Pod", distance="120", angle="50", a="Gardener"),
        c("is_touching", a="Gardener", b="Pod"),
        c("formula_holds", formula="Pod.x > 10 and not Pod.y > 40 or Pod.x < -100"),
        c("formula_holds", formula="distance(Pod, Gardener) <= 70 and Pod.y <> 0"),
        c("compare", left="Pod.x", comparison=">=", right="Gardener.y"),
        c("chance", percent="40"),
        c("there_are", comparison=">", count="7", kind="Pod"),
        c("past", time="0.01"),
    )
    rules = [
        rule(
            f"r{n}",
            when=c("touches", a="Gardener", b="Pod") if n == 99 else (),
            if_=(c("formula_holds", formula="Pod.x > -999"), line),
            do=add("level.n"),
        )
        for n, line in enumerate(lines)
    ]
    made = run(
        level(
            *rules,
            kinds=(GARDENER, POD),
            objects=(*things("Gardener", (0, 0)), *things("Pod", *points, first=10)),
            has={"n": 0.0},
            seconds=0.1,
        )
    )
    explainer = Explainer(made)
    for turn in made.program.rules:
        seen = explainer.turn_seen(3, turn)
        for one in seen.of("condition")[1:]:
            rows = {r: one.world.rows_of_ids(ids) for r, ids in one.before.ids.items()}
            found = measure(one.world, made.program.index, one.line, Matches(one.before.n, rows))
            assert found is not None, turn.source.name
            joined, gap = found
            ids = {r: one.world.id[column] for r, column in joined.rows.items()}
            passed = {
                tuple(int(ids[r][at]) for r in sorted(ids)) for at in range(joined.n) if gap.off[at] <= 0
            }
            kept = {tuple(int(one.after.ids[r][at]) for r in sorted(ids)) for at in range(one.after.n)}
            assert passed == kept, turn.source.name
            assert all(gap.words(at) for at in range(joined.n))


# the studies


@pytest.mark.parametrize("name", study_names())
def test_every_first_firing_of_a_study_is_told_to_its_end(name):
    whole = read_level(study_path(name))
    trial = whole.trials[0]
    made = run_trial(Program(as_tried(whole, trial)), trial)
    explainer = Explainer(made)
    seen = set()
    for firing in made.trace.firings():
        if firing.rule_index in seen:
            continue
        seen.add(firing.rule_index)
        reason = explainer.fired(firing.tick, firing.position)
        assert reason.because(), reason.sentence
        for one in reason.walk(5):
            assert one.sentence and "…" not in one.sentence.replace("…”", ""), one.sentence
    for turn in made.program.rules:
        if turn.index not in seen:
            assert why_never(WhyNot(explainer), turn).because(), turn.source.name


@pytest.mark.parametrize("name", ["07", "10", "11", "15", "19"])
def test_since_its_last_move_an_object_has_stood_where_it_stands(name):
    """The journal leaves stretches out in which nothing can have moved: against a run that is watched all the way."""
    (study,) = (one for one in study_names() if one.startswith(name))
    built = read_level(study_path(study))
    trial = built.trials[0]
    made = run_trial(Program(as_tried(built, trial)), trial)
    watched, places = Run(made.program, trial), []
    for _tick in range(made.done + 1):
        world = watched.world
        places.append(
            dict(zip(world.id.tolist(), zip(world.x.tolist(), world.y.tolist(), strict=False), strict=True))
        )
        watched.advance(1)
    chance, journal, looked = random.Random(name), Journal(made), 0
    for _ in range(12):
        tick = chance.randrange(1, made.done + 1)
        who = chance.choice(sorted(places[tick]))
        kind = made.program.kinds[watched_kind(made, tick, who)].name
        for at, what in enumerate("xy"):
            wrote = journal.last_write(what, "", kind, who, upto_end(made, tick))
            since = wrote.tick if wrote else next(t for t in range(tick + 1) if who in places[t])
            assert len({places[t][who][at] for t in range(since, tick + 1)}) == 1, (who, what, since, tick)
            if wrote and wrote.rule_index < 0 and who in places[since - 1]:
                assert places[since - 1][who][at] != places[since][who][at]
                looked += 1
    assert looked


def watched_kind(made: Run, tick: int, who: int) -> int:
    world = made.world_at(made.end_of(tick))
    return int(world.kind[world.id == who][0])
