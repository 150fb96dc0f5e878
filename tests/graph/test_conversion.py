"""A rule as a graph and back: the trace stays the same to the byte."""

from __future__ import annotations

import pytest
from drawing import card, graph
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from test_graph_runs import scene

from building import add, c, isnt, rule, run, send
from gatillo.catalogue.conversion import NoConversion, as_graph, as_rule_again
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.level.edits import as_tried, change_logic
from gatillo.level.model import Rule
from gatillo.level.roles import all_logic, all_rules
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import run_trial


def convertible(level):
    """Of a level's rules those that can be graphs, as graphs."""
    found = {}
    for _, _, one in all_rules(level):
        try:
            found[one.id] = as_graph(one)
        except NoConversion:
            continue
    return found


def with_graphs(level):
    for number, drawn in convertible(level).items():
        level = change_logic(level, number, lambda entry, d=drawn: d)
    return level


@pytest.mark.parametrize("name", study_names())
def test_every_rule_of_a_study_that_can_be_a_graph_leaves_the_same_trace(name):
    level = read_level(study_path(name))
    trial = level.trials[0]
    trial = replace(trial, length=min(trial.length, 4.0), expectations=())
    level = as_tried(level, trial)
    drawn = with_graphs(level)
    assert not Program(drawn).problems
    one, other = run_trial(Program(level), trial), run_trial(Program(drawn), trial)
    assert one.trace.digest() == other.trace.digest()
    for _, _, entry in all_logic(drawn):
        if not isinstance(entry, Rule) and entry.id in convertible(level):
            before = next(r for _, _, r in all_rules(level) if r.id == entry.id)
            back = as_rule_again(entry)
            assert back == replace(
                before,
                when=before.when or (c("every_tick"),),
                while_waiting="stack",
                fires="each tick",
                first_per="rule",
                cooldown_per="rule",
            )


def test_most_rules_of_the_studies_can_be_graphs():
    levels = [read_level(study_path(name)) for name in study_names()]
    rules = sum(len(list(all_rules(level))) for level in levels)
    assert sum(len(convertible(level)) for level in levels) > 0.5 * rules


CONDITIONS = st.sampled_from(
    [
        c("formula_holds", formula="Moth.x < 100"),
        isnt("formula_holds", formula="Moth.n > 3"),
        c("within", who="Moth", distance="60", where="Lamp"),
        isnt("within", who="Moth", distance="60", where="Lamp"),
        c("chance", percent="60"),
        c("within", who="another Moth", distance="60", where="Moth"),
        c("nearest", a="Moth", where="Lamp", per="all matches"),
    ]
)
ACTIONS = st.sampled_from(
    [
        add("Moth.n"),
        add("level.n", "random(0, 1)"),
        c("move_by", who="Moth", dx="random(-5, 5)"),
        send("go"),
        c("set_variable", variable="Lamp.n", value="Moth.x"),
        c("wait", time="0.05"),
        c("create", kind="Moth", where="Lamp"),
        c("note", text="{Moth.name}"),
    ]
)
OCCASIONS = st.sampled_from([(), (c("each_in_every_tick", who="Moth"),), (c("message_heard", message="go"),)])


@settings(max_examples=80, deadline=None)
@given(OCCASIONS, st.lists(CONDITIONS, max_size=3), st.lists(ACTIONS, min_size=1, max_size=4))
def test_any_chain_leaves_the_same_trace_as_a_rule_and_as_a_graph_and_comes_back(when, conditions, actions):
    one = rule("r", when=when, if_=conditions, do=actions, while_waiting="stack", id=900)
    if actions[-1].use == "wait":
        with pytest.raises(NoConversion, match="nothing comes after its last wait"):
            as_graph(one)
        return
    starter = rule("starter", when=c("after_start", time="0.03"), do=send("go"))
    drawn = as_graph(one)
    built = scene(starter, one)
    if Program(built).problems:
        return
    first, second = run(built, 25), run(scene(starter, drawn), 25)
    assert first.trace.firings() == second.trace.firings()
    # a fault names the card where it would name the line
    assert first.trace.faults or first.trace.digest() == second.trace.digest()
    assert [f.count for f in first.trace.faults] == [f.count for f in second.trace.faults]
    assert first.world.state_bytes() == second.world.state_bytes()
    assert as_rule_again(drawn) == replace(one, when=when or (c("every_tick"),))


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"fires": "on becoming true"}, "it fires on becoming true"),
        ({"cooldown": 1.0}, "it rests after firing"),
        ({"one_at_a_time": True}, "one at a time"),
        ({"else_": (send("no"),)}, "its else fires apart"),
        ({"when": (c("every_tick"), c("level_starts"))}, "it has several occasions"),
        ({"do": (c("wait", time="1"), send("x"))}, "does not fire anew for the same match"),
        ({"do": ()}, "it does nothing"),
        ({"do": (c("if_so", formula="yes"),)}, "an if among its actions"),
    ],
)
def test_a_rule_that_cannot_be_a_graph_says_why(more, said):
    with pytest.raises(NoConversion, match=said):
        as_graph(replace(rule("r", when=c("every_tick"), do=send("x")), **more))


@pytest.mark.parametrize(
    ("cards", "wires", "drawn_values", "said"),
    [
        ((card(2, "in_order"),), "1>2", "", "card 2 is one that only graphs have"),
        ((card(2, "note"), card(3, "note")), "1>2 1>3", "", "card 1 leads to several cards"),
        ((card(2, "note"), card(3, "note")), "1>2", "", "card 3 does not hang on the chain"),
        ((card(2, "note"), card(3, "chance")), "1>2 2>3", "", "card 3 is a condition below an action"),
        ((card(2, "wait"), card(3, "note")), "1>2 2>3", "", "card 2 goes on at “then”"),
        ((card(2, "note"), card(3, "level_starts")), "1>2", "", "it has 2 occasions, not one"),
        ((card(2, "chance"),), "1>2", "", "it does nothing"),
    ],
)
def test_a_graph_that_is_no_chain_says_which_card_is_in_the_way(cards, wires, drawn_values, said):
    with pytest.raises(NoConversion, match=said):
        as_rule_again(graph("g", card(1, "every_tick"), *cards, wires=wires, values=drawn_values))
