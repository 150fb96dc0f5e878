"""Mutation testing: changes whose fates are known by hand, offers that tell the runs apart, and the same results in any order."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import EVERY_TICK, START, add, c, heard, kind, level, rule, send, things
from gatillo.examples import example_names, study_path
from gatillo.files.level_file import read_level
from gatillo.inspect.expectations import run_and_judge
from gatillo.inspect.mutation import trying
from gatillo.inspect.mutation.mutants import mutants
from gatillo.inspect.mutation.trying import order_of_trial, try_mutant, try_mutants, unchanged
from gatillo.inspect.work_queue import Crew
from gatillo.level import thing_edits
from gatillo.level.edits import as_tried
from gatillo.level.expectations import FiresInOrder, FiresTimes, HoldsAt, HoldsWhenever
from gatillo.level.model import Clause, Graph, Input, KeyBar, Node, Section, Trial, Wire
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


def expecting(lv, *expectations, length=1.0, **more):
    return replace(lv, trials=(Trial(name="t", length=length, expectations=expectations, **more),))


def fates(lv):
    """By what is changed: what came of it."""
    known = unchanged(lv)
    assert not known.failing
    return {one.sentence(): try_mutant(known, one) for one in mutants(lv)}


COUNTS = rule(
    "counts", when=EVERY_TICK, if_=c("formula_holds", formula="level.n < 5"), do=add("level.n"), id=1
)


def counting(*expectations):
    return expecting(level(COUNTS, has={"n": 0.0}), *expectations)


def test_without_expectations_every_change_that_matters_goes_unnoticed():
    found = fates(counting())
    assert {words for words, one in found.items() if one.fate != "unnoticed"} == {
        "“counts”, if 1: 5 becomes 4.5 in: level.n < 5"
    }
    assert len(found) == 10


def test_the_fates_of_a_count_to_five_are_those_worked_out_by_hand():
    found = fates(counting(HoldsAt("level.n = 5", "at", 1.0)))
    assert {words: one.fate for words, one in found.items()} == {
        "“counts”: fires on becoming true instead of each tick": "caught",
        "“counts”, if 1: left out: level.n < 5": "caught",
        "“counts”, if 1: the opposite of: level.n < 5": "caught",
        "“counts”, if 1: < becomes <= in: level.n < 5": "caught",
        "“counts”, if 1: 5 becomes 5.5 in: level.n < 5": "caught",
        # 0, 1, 2, 3, 4 are below 4.5 as they are below 5
        "“counts”, if 1: 5 becomes 4.5 in: level.n < 5": "equivalent",
        "“counts”, do 1: left out: add 1 to level.n": "caught",
        "“counts”, do 1: 1 becomes 1.1 in: add 1 to level.n": "caught",
        "“counts”, do 1: 1 becomes 0.9 in: add 1 to level.n": "caught",
        "level: n starts at 1 instead of 0": "unnoticed",
    }
    started = found["level: n starts at 1 instead of 0"]
    assert started.offer == FiresTimes("counts", "exactly", 5)


def test_what_a_level_says_in_one_tick_is_told_apart_by_its_order():
    lv = expecting(
        level(
            rule("first", when=START, do=add("level.n"), id=1),
            rule("second", when=START, do=add("level.m"), id=2),
            has={"n": 0.0, "m": 0.0},
        )
    )
    swapped = fates(lv)["“first”: takes its turn after “second”"]
    assert swapped.fate == "unnoticed"
    assert swapped.offer == FiresInOrder(("first", "second"), same_tick=True)


def test_rules_that_never_fire_make_only_equivalent_mutants_or_such_as_cannot_run():
    lv = expecting(level(rule("never", when=heard("nothing"), do=add("level.n"), id=1), has={"n": 0.0}))
    found = fates(lv)
    assert {one.fate for words, one in found.items() if words.startswith("“never”")} == {"equivalent"}


def test_a_change_after_which_a_rule_cannot_run_does_not_count():
    mover = Clause(use="steer_by_keys")
    halt = c("switch_behaviour_off", behaviour="steer_by_keys", who="Moth")
    lv = level(
        rule("halt", when=START, do=halt, id=1),
        kinds=(replace(kind("Moth", 3), behaviours=(mover,)),),
        objects=things("Moth", (0, 0)),
    )
    found = next(one for words, one in fates(expecting(lv)).items() if "left out: steer" in words)
    assert found.fate == "cannot run"
    assert found.why.startswith("rule “halt”")


def test_a_trial_that_does_not_pass_is_left_out():
    lv = counting(HoldsAt("level.n = 7", "at", 1.0))
    known = unchanged(lv)
    assert known.failing == ["t"]
    assert known.runs == {}
    assert list(try_mutants(known, [0])) == []
    with pytest.raises(ValueError, match="no trial"):
        try_mutant(known, mutants(lv)[0])


def test_what_is_off_in_every_trial_makes_equivalent_mutants():
    off = Section(name="later", on=False, rules=(COUNTS,))
    lv = expecting(replace(level(has={"n": 0.0}), order=(off,)))
    assert {one.fate for words, one in fates(lv).items() if words.startswith("“counts”")} == {"equivalent"}


def test_a_rule_that_another_switches_on_is_changed_too():
    switch = rule("begins", when=START, do=c("switch_rule_on", rule="counts"), id=9)
    lv = level(switch, replace(COUNTS, on=False), has={"n": 0.0})
    found = fates(expecting(lv, HoldsAt("level.n = 5", "at", 1.0)))
    assert found["“counts”, do 1: left out: add 1 to level.n"].fate == "caught"
    assert found["“begins”, do 1: left out: switch rule counts on"].fate == "caught"


def test_texts_in_quotes_are_left_alone():
    text = c("formula_holds", formula='level.word = "a < 3"')
    lv = level(rule("reads", when=EVERY_TICK, if_=text, do=add("level.n"), id=1), has={"n": 0.0, "word": ""})
    found = [one.words for one in mutants(lv) if one.place == "if 1" and "becomes" in one.words]
    assert found == ['= becomes <> in: level.word = "a < 3"']


def test_graphs_lose_wires_and_swap_outputs():
    graph = Graph(
        id=7,
        name="g",
        nodes=(
            Node(id=1, use="every_tick"),
            Node(id=2, use="formula_holds", slots={"formula": "level.n < 3"}),
            Node(id=3, use="add_to", slots={"amount": "1", "variable": "level.n"}),
        ),
        wires=(Wire("1", "2"), Wire("2.yes", "3")),
    )
    lv = expecting(level(graph, has={"n": 0.0}), HoldsAt("level.n = 3", "at", 1.0))
    found = {words: one.fate for words, one in fates(lv).items()}
    assert found["“g”, card 1: left out: the wire from card 1 to card 2"] == "caught"
    assert found["“g”, card 2: left out: the wire from card 2.yes to card 3"] == "caught"
    assert found["“g”, card 2: the opposite of: level.n < 3"] == "caught"
    assert found["“g”, card 2: 3 becomes 2.7 in: level.n < 3"] == "equivalent"
    assert found["“g”, card 2: < becomes <= in: level.n < 3"] == "caught"


def test_a_behaviours_number_that_nothing_shows_is_equivalent():
    mover = Clause(use="steer_by_keys", slots={"speed": "100"})
    lv = level(kinds=(replace(kind("Moth", 3), behaviours=(mover,)),), objects=things("Moth", (0, 0)))
    still = fates(expecting(lv))
    assert {one.fate for one in still.values()} == {"equivalent"}
    moved = fates(expecting(lv, input=Input(keys=(KeyBar("Up", 0.0, 1.0),))))
    faster = next(one for words, one in moved.items() if "100 becomes 110" in words)
    assert faster.fate == "unnoticed"
    assert isinstance(faster.offer, HoldsAt)


def test_a_run_that_never_ends_in_time_counts_as_noticed(monkeypatch):
    monkeypatch.setattr("gatillo.inspect.mutation.trying.TOO_LONG", 0.0)
    monkeypatch.setattr("gatillo.inspect.mutation.trying.AT_LEAST", 0.0)
    assert {one.fate for one in fates(counting()).values()} == {"took too long"}


def test_early_ends_come_to_what_whole_runs_come_to():
    lv = expecting(
        level(
            rule("counts", when=c("every_seconds", period="0.1"), do=(add("level.n"), send("beat")), id=1),
            rule(
                "hears",
                when=heard("beat"),
                if_=c("formula_holds", formula="level.n > 3"),
                do=add("level.m"),
                id=2,
            ),
            has={"n": 0.0, "m": 0.0},
        ),
        FiresTimes("counts", "at least", 11),
        HoldsWhenever("hears", "level.n > 3"),
        HoldsAt("level.m <= level.n", "always"),
        length=2.0,
    )
    known = unchanged(lv)
    assert not known.failing, [v.sentence() for v in run_and_judge(Run(Program(lv), lv.trials[0]))]
    for mutant in mutants(lv):
        found = try_mutant(known, mutant)
        if found.fate == "cannot run":
            continue
        made = mutant.make(lv)
        verdicts = run_and_judge(Run(Program(as_tried(made, made.trials[0])), made.trials[0]))
        assert (found.fate == "caught") == any(v.outcome != "held" for v in verdicts), mutant.sentence()


@pytest.mark.parametrize(("name", "every_so_many"), [("07-night-crew.gatillo", 10), ("16-vents.gatillo", 4)])
def test_each_offer_holds_as_the_level_is_and_catches_its_change(name, every_so_many):
    lv = read_level(study_path(name))
    known, every = unchanged(lv), mutants(lv)
    offered = 0
    for number in order_of_trial(known)[::every_so_many]:
        found = try_mutant(known, every[number], number)
        if found.offer is None:
            continue
        offered += 1
        wanted = thing_edits.add_expectation(lv, found.trial, found.offer)
        again = unchanged(wanted)
        assert again.failing == known.failing
        assert try_mutant(again, every[number], number).fate == "caught", every[number].sentence()
    assert offered


@pytest.mark.parametrize("name", sorted(example_names()))
def test_every_change_of_the_examples_can_be_made_and_differs(name):
    lv = read_level(study_path(name))
    found = mutants(lv)
    assert found
    for one in found:
        assert one.make(lv) != lv, one.sentence()


def test_in_processes_the_same_comes_out():
    lv = counting(HoldsAt("level.n = 5", "at", 1.0))
    known = unchanged(lv)
    numbers = order_of_trial(known, seed=3)
    assert numbers == order_of_trial(known, seed=3)
    alone = {one.number: one for one in try_mutants(known, numbers)}
    assert {one.number: one for one in try_mutants(known, numbers, crew=Crew(2))} == alone
    assert len(alone) == len(mutants(lv))


def test_a_spent_budget_leaves_the_rest():
    known = unchanged(counting())
    assert list(try_mutants(known, order_of_trial(known), budget=0.0)) == []


@pytest.mark.parametrize("name", ["14-loose-shutter.gatillo", "16-vents.gatillo"])
def test_ending_where_the_state_is_again_the_same_changes_no_fate(name, monkeypatch):
    lv = read_level(study_path(name))
    known, every = unchanged(lv), mutants(lv)
    numbers = order_of_trial(known)[::3]
    ended: list[bool] = []
    same = trying._Attempt._is_again_the_same

    def counted(self, tick):
        ended.append(same(self, tick))
        return ended[-1]

    monkeypatch.setattr(trying._Attempt, "_is_again_the_same", counted)
    soon = [try_mutant(known, every[number], number) for number in numbers]
    assert any(ended)
    monkeypatch.setattr(trying, "differs_until", lambda before, program: None)
    whole = [try_mutant(known, every[number], number) for number in numbers]
    assert soon == whole
