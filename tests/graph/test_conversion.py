"""A rule as a graph and back: the trace stays the same to the byte."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from test_graph_runs import scene

from building import add, c, rule, run, send
from drawing import card, graph
from gatillo.catalogue import CATALOGUE
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.graphs.conversion import NoConversion, as_graph, as_rule_again
from gatillo.level.edits import as_tried, change_logic
from gatillo.level.model import Settings
from gatillo.level.roles import all_rules
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run, run_trial
from random_rules import ACTIONS, CONDITIONS, MODES, OCCASIONS


def with_graphs(level):
    """The level with every rule as a graph."""
    for _, _, one in list(all_rules(level)):
        level = change_logic(level, one.id, lambda entry: as_graph(entry))
    return level


def normal(one):
    """A rule without what means nothing in it."""
    waits = any(CATALOGUE[c.use].derived.waits for c in (*one.do, *one.else_))
    return replace(
        one,
        when=one.when or (c("every_tick"),),
        first_per=one.first_per if one.fires == "first time only" else "rule",
        cooldown_per=one.cooldown_per if one.cooldown else "rule",
        while_waiting=one.while_waiting if waits else "ignore",
        one_at_a_time=one.one_at_a_time and (waits or not one.once_for_all),
    )


@pytest.mark.parametrize("name", study_names())
def test_every_rule_of_a_study_as_a_graph_leaves_the_same_trace_and_comes_back(name):
    level = read_level(study_path(name))
    trial = level.trials[0]
    trial = replace(trial, length=min(trial.length, 4.0), expectations=())
    level = as_tried(level, trial)
    drawn = with_graphs(level)
    assert not Program(drawn).problems
    one, other = run_trial(Program(level), trial), run_trial(Program(drawn), trial)
    assert one.trace.digest() == other.trace.digest()
    for _, _, before in all_rules(level):
        assert as_rule_again(as_graph(before)) == normal(before)


@settings(max_examples=50, deadline=None)
@given(
    OCCASIONS,
    st.lists(CONDITIONS, max_size=3),
    st.lists(ACTIONS, max_size=4),
    st.lists(ACTIONS, max_size=3),
    MODES,
)
def test_any_rule_leaves_the_same_trace_as_a_graph_and_comes_back(when, conditions, do, else_, modes):
    one = rule("r", when=when, if_=conditions, do=do, else_=else_, id=900, **modes)
    starter = rule("starter", when=c("after_start", time="0.03"), do=send("go"))
    drawn = as_graph(one)
    # few enough that no bound is come to: there a graph stops by its cards, a rule by its matches
    few = Settings(most_objects=40)
    built, other = scene(starter, one, settings=few), scene(starter, drawn, settings=few)
    if Program(built).problems:
        assert Program(other).problems
        return
    first, second = run(built, 25), run(other, 25)
    assert first.trace.firings() == second.trace.firings()
    # a fault names the card where it would name the line
    assert first.trace.faults or first.trace.digest() == second.trace.digest()
    assert [f.count for f in first.trace.faults] == [f.count for f in second.trace.faults]
    assert stateless(first) == stateless(second)
    third = by_wires(other, 25)
    assert third.trace.to_bytes() == second.trace.to_bytes()
    assert as_rule_again(drawn) == normal(one)


def by_wires(level, ticks):
    """The level run with no graph taken as one straight way."""
    program = Program(level)
    for turn in program.rules:
        if turn.graph is not None:
            turn.graph.straight = None
    made = Run(program, level.trials[0])
    made.advance(ticks)
    return made


@pytest.mark.parametrize("many", [0, 1, 2])
def test_a_straight_graph_leaves_the_same_trace_as_along_its_wires(many):
    each = c("each_in_every_tick", who="Moth")
    near = [c("formula_holds", formula="Moth.n < 3"), c("within", who="Moth", distance="150", where="Lamp")]
    done = [add("Moth.n"), c("note", text="{Moth.name}")]
    level = scene(as_graph(rule("r", when=each, if_=near[:many], do=done, id=900)))
    assert Program(level).rules[0].graph.straight is not None
    straight = run(level, 9)
    assert len(straight.trace.cards_at(2)) == 3 + many
    assert straight.trace.to_bytes() == by_wires(level, 9).trace.to_bytes()


def stateless(made):
    """A run's state, without under which card it is kept in mind what a rule or a graph has done."""
    world = made.world.clone()
    kept = [(turn, repr(memory)) for (turn, _), memory in sorted(world.rules.memory.items()) if memory.fired]
    world.rules.memory.clear()
    world.rules.cards.clear()
    return kept, world.state_bytes()


def test_a_rule_with_an_unknown_line_says_why_it_cannot_be_a_graph():
    with pytest.raises(NoConversion, match="there is nothing called “fly”"):
        as_graph(rule("r", when=c("every_tick"), do=c("fly")))


@pytest.mark.parametrize(
    ("cards", "wires", "drawn_values", "said"),
    [
        ((card(2, "in_order"),), "1>2", "", "card 2 is one that only graphs have"),
        ((card(2, "note"), card(3, "note")), "1>2 1>3", "", "card 1 leads to several cards"),
        ((card(2, "note"), card(3, "note")), "1>2", "", "card 3 does not hang on the chain"),
        ((card(2, "note"), card(3, "chance")), "1>2 2>3", "", "card 3 is a condition below an action"),
        ((card(2, "wait"), card(3, "note")), "1>2 2>3", "", "card 2 goes on at “then”"),
        ((card(2, "note"), card(3, "level_starts")), "1>2", "", "it has 2 occasions, and not one card"),
        (
            (card(3, "note"), card(2, "note")),
            "1>3 3>2",
            "",
            "card 2 comes later in the chain than its number says",
        ),
        (
            (card(2, "firing", fires="each tick"), card(3, "firing"), card(4, "note")),
            "1>2 2>3 3>4",
            "",
            "card 3 is one that only graphs have there",
        ),
        (
            (card(2, "chance"), card(3, "note"), card(4, "note")),
            "1>2 2.yes>3 2.no>4",
            "",
            "card 2 leads to several cards",
        ),
        ((card(2, "chance"),), "1>2", "", "it does nothing"),
    ],
)
def test_a_graph_that_is_no_chain_says_which_card_is_in_the_way(cards, wires, drawn_values, said):
    with pytest.raises(NoConversion, match=said):
        as_rule_again(graph("g", card(1, "every_tick"), *cards, wires=wires, values=drawn_values))
