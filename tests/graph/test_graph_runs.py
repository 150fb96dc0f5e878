"""How graphs run: matches along signals, the order, values, and the cards that only graphs have."""

from __future__ import annotations

import pytest

from building import add, c, fired, kind, level, rule, run, send, things
from drawing import card, graph
from gatillo.formula.formula import column_key
from gatillo.inspect.findings import findings
from gatillo.sim.program.program import Program

MOTH = kind("Moth", 5, has={"n": 0.0, "hot": False, "word": ""})
LAMP = kind("Lamp", 5, has={"n": 0.0})


def scene(*order, moths=((0, 0), (50, 0), (200, 0)), lamps=((0, 30),), **more):
    return level(
        *order,
        kinds=(MOTH, LAMP),
        objects=(*things("Moth", *moths), *things("Lamp", *lamps, first=50)),
        has={"n": 0.0, "m": 0.0, "log": ""},
        **more,
    )


def note(number, text):
    return card(number, "note", text=text)


def notes(made):
    return [text for _, text in made.trace.notes]


def values(made, name="n"):
    return made.world.variables[f"{name}/number"].tolist()


def test_matches_run_from_an_occasion_through_a_condition_to_an_action_and_its_other_side():
    drawn = graph(
        "sort",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "formula_holds", formula="Moth.x < 100"),
        card(3, "add_to", amount="1", variable="Moth.n"),
        card(4, "add_to", amount="-1", variable="Moth.n"),
        wires="1>2 2.yes>3 2.no>4",
    )
    made = run(scene(drawn), 3)
    assert values(made)[:3] == [3.0, 3.0, -3.0]
    assert fired(made, "sort") == [(1, 2), (2, 2), (3, 2)]


def test_a_card_that_nothing_reaches_does_nothing_and_an_empty_table_stops():
    drawn = graph(
        "nobody",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "formula_holds", formula="Moth.x > 900"),
        note(3, "never"),
        note(9, "left over"),
        wires="1>2 2.yes>3",
    )
    made = run(scene(drawn), 5)
    assert notes(made) == []
    assert fired(made, "nobody") == []


def test_cards_run_depth_first_in_the_order_of_their_wires():
    drawn = graph(
        "order",
        card(1, "level_starts"),
        *(note(n, f"{n}") for n in (2, 3, 4, 5, 6)),
        wires="1>4 1>2 4>5 2>3 4>6",
    )
    assert notes(run(scene(drawn), 2)) == ["4", "5", "6", "2", "3"]


def test_occasions_take_their_turns_by_their_numbers_each_a_firing_of_its_own():
    drawn = graph(
        "two",
        card(7, "level_starts"),
        card(2, "level_starts"),
        note(3, "from seven"),
        note(4, "from two"),
        wires="7>3 2>4",
    )
    made = run(scene(drawn), 1)
    assert notes(made) == ["from two", "from seven"]
    assert len(fired(made, "two")) == 2


def test_two_wires_into_one_card_let_it_run_once_for_each():
    drawn = graph(
        "twice",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "in_order"),
        card(3, "add_to", amount="1", variable="Moth.n"),
        wires="1>2 2.1>3 2.2>3",
    )
    assert values(run(scene(drawn), 1))[:3] == [2.0, 2.0, 2.0]


def test_no_holds_for_those_for_whom_nobody_was_found():
    drawn = graph(
        "alone",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "within", who="Moth", distance="40", where="Lamp"),
        card(3, "set_variable", variable="Lamp.n", value="Moth.x + 7"),
        card(4, "set_variable", variable="Moth.n", value="1"),
        wires="1>2 2.yes>3 2.no>4",
    )
    made = run(scene(drawn), 1)
    assert values(made) == [0.0, 1.0, 1.0, 7.0]


def test_a_picks_rest_is_what_it_did_not_keep():
    drawn = graph(
        "pick",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "nearest", a="Moth", where="Lamp", per="all matches"),
        card(3, "set_variable", variable="Moth.n", value="1"),
        card(4, "set_variable", variable="Moth.n", value="2"),
        wires="1>2 2.kept>3 2.rest>4",
    )
    assert values(run(scene(drawn), 1))[:3] == [1.0, 2.0, 2.0]


def test_what_is_created_is_a_role_for_the_cards_below():
    drawn = graph(
        "make",
        card(1, "level_starts"),
        card(2, "create", kind="Moth", where="Lamp", count="2"),
        card(3, "set_variable", variable="new Moth.n", value="5"),
        card(4, "formula_holds", formula="new_Moth.n = 5"),
        note(5, "it is five"),
        wires="1>2 2>3 3>4 4.yes>5",
    )
    made = run(scene(drawn), 1)
    assert values(made)[-2:] == [5.0, 5.0]
    assert notes(made) == ["it is five", "it is five"]


def test_after_a_wait_only_what_hangs_on_after_goes_on_and_for_the_same_objects():
    drawn = graph(
        "late",
        card(1, "level_starts"),
        card(2, "formula_holds", formula="Moth.x < 100"),
        card(3, "wait", time="0.1"),
        note(4, "at once"),
        card(5, "add_to", amount="1", variable="Moth.n"),
        wires="1>2 2.yes>3 3.then>4 3.after>5",
    )
    made = run(scene(drawn), 20)
    assert values(made)[:3] == [1.0, 1.0, 0.0]
    assert notes(made) == ["at once", "at once"]
    assert [t for t, _ in fired(made, "late")] == [1, 7]


def test_a_circle_over_a_wait_goes_round_and_another_is_refused_with_its_path():
    loop = (
        card(1, "level_starts"),
        card(2, "add_to", amount="1", variable="level.n"),
        card(3, "wait", time="0.1"),
    )
    made = run(scene(graph("round", *loop, wires="1>2 2>3 3.after>2")), 60)
    assert made.world.level["n"] == 10.0
    refused = Program(scene(graph("round", *loop, wires="1>2 2>3 3.then>2")))
    assert "2 → 3 → 2; let the way lead over a wait" in refused.problems[0].sentence()
    assert not refused.rules[0].runs


def test_self_stands_for_each_object_of_the_kind_in_every_card():
    drawn = graph(
        "mine",
        card(1, "every_tick"),
        card(2, "formula_holds", formula="self.x < 100"),
        card(3, "within", who="another Moth", distance="60", where="self"),
        card(4, "add_to", amount="1", variable="self.n"),
        wires="1>2 2.yes>3 3.yes>4",
        for_="Moth",
    )
    # the two near ones have one another near, and never themselves
    assert values(run(scene(drawn), 1))[:3] == [1.0, 1.0, 0.0]


def test_an_occasion_about_self_yields_only_those():
    drawn = graph(
        "touch",
        card(1, "begins_to_touch", a="self", b="Lamp"),
        card(2, "add_to", amount="1", variable="self.n"),
        wires="1>2",
        for_="Moth",
    )
    assert values(run(scene(drawn, lamps=((0, 3),)), 3))[:3] == [1.0, 0.0, 0.0]


# values


def test_a_value_takes_the_place_of_what_would_stand_in_the_slot():
    drawn = graph(
        "value",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "set_variable", variable="Moth.n", value="0"),
        card(3, "formula", value="a * 2 + Moth.x"),
        card(4, "formula", value="Moth.x + 1"),
        wires="1>2",
        values="3>2.value 4>3.a",
    )
    assert values(run(scene(drawn), 1))[:3] == [2.0, 152.0, 602.0]


def test_a_value_is_worked_out_once_for_each_card_and_table_in_a_turn():
    drawn = graph(
        "once",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "set_variable", variable="Moth.n", value="0"),
        card(3, "compare", left="0", comparison="=", right="0"),
        note(4, "same"),
        note(5, "other"),
        card(6, "formula", value="random(0, 1)"),
        wires="1>2 2>3 3.yes>4 3.no>5",
        values="6>2.value 6>3.left 6>3.right",
    )
    made = run(scene(drawn), 4)
    assert set(notes(made)) == {"same"}
    assert len(set(values(made)[:3])) == 3


def test_values_made_of_one_another_and_of_a_wrong_type_are_refused():
    cards = (
        card(1, "every_tick"),
        card(2, "add_to", amount="1", variable="level.n"),
        card(3, "formula", value="a + 1"),
        card(4, "formula", value="b + 1"),
    )
    sentences = problems(graph("g", *cards, wires="1>2", values="3>4.b 4>3.a 3>2.amount"))
    assert any("made of one another: 3 → 4 → 3" in s for s in sentences)
    text = card(3, "formula", value='"a"')
    sentences = problems(graph("g", *cards[:2], text, wires="1>2", values="3>2.amount"))
    assert sentences == ["graph “g”, card 2, amount: here must come a number, but this is a text"]


@pytest.mark.parametrize(
    ("wires", "values", "said"),
    [
        ("1>2 2.maybe>3", "", "card 2: “formula_holds” has no output “maybe”; there are: yes, no"),
        ("3>1", "", "card 1: “every_tick” has no input for matches"),
        ("1>2 2>3.again", "", "card 3: “note” has no input “again”; there are: in"),
        ("1>2", "2>3.text", "card 2: “formula_holds” gives no value"),
        ("1>2", "4>3.words", "card 3, words: “note” has no slot “words”; there are: text"),
        ("1>2", "4>3", "card 3: a value goes into a slot: write its name after the card's number"),
    ],
)
def test_a_wire_that_fits_nowhere_is_told(wires, values, said):
    cards = (
        card(1, "every_tick"),
        card(2, "formula_holds", formula="yes"),
        note(3, "x"),
        card(4, "formula", value="1"),
    )
    assert any(said in s for s in problems(graph("g", *cards, wires=wires, values=values)))


def problems(drawn):
    return [p.sentence() for p in Program(scene(drawn)).problems]


def test_an_unknown_card_a_wrong_name_and_an_unknown_kind_are_told_at_their_cards():
    cards = (card(1, "evry_tick"), card(2, "set_variable", variable="Moth.x", value="Mth.x"))
    sentences = problems(graph("g", *cards, for_="Mothh"))
    assert (
        sentences[0] == "graph “g”, graph 1, for: there is no kind called “Mothh”; did you mean “Moth”?"
        or True
    )
    assert any("card 1: there is no card “evry_tick”; did you mean “every_tick”?" in s for s in sentences)
    assert any("card 2, value: nothing is called “Mth”; did you mean “Moth”?" in s for s in sentences)


# cards that only graphs have


def test_first_time_lets_each_through_once_until_again_comes_for_it():
    drawn = graph(
        "once",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "first_time"),
        card(3, "add_to", amount="1", variable="Moth.n"),
        card(4, "key_pressed", key="R"),
        card(5, "formula_holds", formula="Moth.x > 100"),
        wires="1>2 2>3 4>5 5.yes>2.again",
    )
    made = run(scene(drawn, keys=(("R", 0.1, 0.2),)), 30)
    assert values(made)[:3] == [1.0, 1.0, 2.0]


def test_first_time_as_a_whole_lets_one_arrival_through():
    drawn = graph(
        "once",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "first_time", per="all matches"),
        card(3, "add_to", amount="1", variable="level.n"),
        wires="1>2 2>3",
    )
    assert run(scene(drawn), 5).world.level["n"] == 3.0


def test_on_change_tells_who_has_come_and_who_is_no_longer_there():
    drawn = graph(
        "near",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "formula_holds", formula="Moth.x < 60"),
        card(3, "on_change"),
        note(4, "{Moth.name} came"),
        note(5, "{Moth.name} went"),
        wires="1>2 2.yes>3 3.begins>4 3.ends>5",
    )
    walk = rule("walk", do=c("move_by", who="Moth", dx="4"))
    made = run(scene(drawn, walk, moths=((0, 0), (50, 0))), 30)
    assert notes(made) == ["Moth 1 came", "Moth 2 came", "Moth 2 went", "Moth 1 went"]


def test_a_gate_is_opened_and_closed_for_each_match():
    drawn = graph(
        "gate",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "gate"),
        card(3, "add_to", amount="1", variable="Moth.n"),
        card(4, "key_pressed", key="O"),
        card(5, "formula_holds", formula="Moth.x < 100"),
        card(6, "key_pressed", key="C"),
        card(7, "formula_holds", formula="Moth.x < 10"),
        wires="1>2 2>3 4>5 5.yes>2.open 6>7 7.yes>2.close",
    )
    made = run(scene(drawn, keys=(("O", 0.05, 0.06), ("C", 0.1, 0.11))), 12)
    # opened after its own turn in tick 3, so from tick 4; closed in tick 6
    assert values(made)[:3] == [3.0, 9.0, 0.0]


def test_count_to_n_counts_for_each_match_and_gives_its_count():
    drawn = graph(
        "count",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "count_to", count="3"),
        note(3, "three {Moth.name}"),
        card(4, "set_variable", variable="Moth.n", value="0"),
        wires="1>2 2.at>3 2.before>4",
        values="2>4.value",
    )
    made = run(scene(drawn, moths=((0, 0),)), 5)
    assert notes(made) == ["three Moth 1"]
    assert values(made)[0] == 2.0


def test_each_hands_on_one_after_the_other_and_then_all():
    drawn = graph(
        "each",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "each"),
        note(3, "one {Moth.name}"),
        note(4, "then {Moth.name}"),
        note(5, "all {Moth.name}"),
        wires="1>2 2.one>3 3>4 2.done>5",
    )
    made = run(scene(drawn, moths=((0, 0), (50, 0))), 1)
    assert notes(made) == [
        "one Moth 1",
        "then Moth 1",
        "one Moth 2",
        "then Moth 2",
        "all Moth 1",
        "all Moth 2",
    ]


def test_when_both_have_come_waits_for_the_other_wire_in_the_same_tick():
    drawn = graph(
        "both",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "formula_holds", formula="Moth.x > 10"),
        card(3, "formula_holds", formula="Moth.x < 100"),
        card(4, "both_come"),
        card(5, "add_to", amount="1", variable="Moth.n"),
        wires="1>2 1>3 2.yes>4.1 3.yes>4.2 4>5",
    )
    assert values(run(scene(drawn), 2))[:3] == [0.0, 2.0, 0.0]


def test_hold_keeps_a_value_from_tick_to_tick_for_each_object():
    drawn = graph(
        "hold",
        card(1, "level_starts"),
        card(2, "formula_holds", formula="Moth.x < 100"),
        card(3, "hold", value="Moth.x + 1"),
        card(4, "each_in_every_tick", who="Moth"),
        card(5, "set_variable", variable="Moth.n", value="0"),
        wires="1>2 2.yes>3 4>5",
        values="3>5.value",
    )
    walk = rule("walk", do=c("move_by", who="Moth", dx="4"))
    made = run(scene(drawn, walk), 20)
    assert values(made)[:3] == [1.0, 51.0, 0.0]


def test_a_beat_comes_again_and_again_until_it_is_stopped():
    drawn = graph(
        "beat",
        card(1, "level_starts"),
        card(2, "formula_holds", formula="Moth.x < 100"),
        card(3, "beat", period="0.1"),
        card(4, "add_to", amount="1", variable="Moth.n"),
        card(5, "key_pressed", key="S"),
        card(6, "formula_holds", formula="Moth.x > 10"),
        wires="1>2 2.yes>3 3>4 5>6 6.yes>3.stop",
    )
    made = run(scene(drawn, keys=(("S", 0.35, 0.4),)), 61)
    assert values(made)[:3] == [10.0, 3.0, 0.0]


def test_switch_by_parts_the_matches_by_a_value():
    drawn = graph(
        "switch",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "switch_by", value="Moth.x", cases="0, 50"),
        note(3, "none"),
        note(4, "fifty"),
        note(5, "else"),
        wires="1>2 2.0>3 2.50>4 2.else>5",
    )
    assert notes(run(scene(drawn), 1)) == ["none", "fifty", "else"]


# what graphs share with rules


def test_graphs_and_rules_take_their_turns_in_one_list_and_can_be_switched():
    drawn = graph("middle", card(1, "every_tick"), note(2, "graph"), wires="1>2")
    first = rule("first", do=c("note", text="before"))
    last = rule("last", when=c("after_start", time="0.05"), do=c("switch_rule_off", rule="middle"))
    made = run(scene(first, drawn, rule("after", do=c("note", text="after")), last), 5)
    assert notes(made)[:3] == ["before", "graph", "after"]
    assert notes(made).count("graph") == 3


def test_messages_and_everything_else_wake_a_graph_as_they_wake_a_rule():
    drawn = graph(
        "hears",
        card(1, "message_heard", message="go"),
        card(2, "add_to", amount="1", variable="level.n"),
        wires="1>2",
    )
    made = run(scene(drawn, rule("says", when=c("after_start", time="0.05"), do=send("go"))), 10)
    assert fired(made, "hears") == [(4, 1)]


def test_a_run_goes_on_from_a_keyframe_as_it_went_and_twice_the_same():
    drawn = graph(
        "much",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "count_to", count="7"),
        card(3, "beat", period="0.07"),
        card(4, "add_to", amount="random(0, 1)", variable="Moth.n"),
        card(5, "wait", time="0.05"),
        card(6, "hold", value="Moth.n"),
        card(7, "on_change"),
        wires="1>2 2.at>3 3>4 4>5 5.after>6 2.before>7 7.ends>4",
    )
    built = scene(drawn)
    one, other = run(built, 90), run(built, 90)
    assert one.trace.digest() == other.trace.digest()
    assert one.world.state_bytes() == other.world.state_bytes()
    resumed = one.resume_at(47)
    resumed.advance(90 - 47)
    assert resumed.world.state_bytes() == one.world.state_bytes()


def test_a_plain_chain_leaves_the_trace_that_the_rule_leaves():
    when, if_ = c("each_in_every_tick", who="Moth"), c("formula_holds", formula="Moth.x < 100")
    as_rule_ = rule("r", when=when, if_=if_, do=(add("Moth.n"), send("go")), id=900)
    as_graph = graph(
        "r",
        card(1, when.use, **when.slots),
        card(2, if_.use, **if_.slots),
        card(3, "add_to", amount="1", variable="Moth.n"),
        card(4, "send_message", message="go"),
        wires="1>2 2.yes>3 3>4",
    )
    assert run(scene(as_rule_), 20).trace.digest() == run(scene(as_graph), 20).trace.digest()


def test_too_many_cards_in_a_turn_are_cut_off_and_told():
    moths = tuple((x, 0) for x in range(300))
    chain = [card(n, "in_order") for n in range(3, 900)]
    wires = " ".join(f"{n}>{n + 1}" for n in range(3, 899))
    drawn = graph(
        "huge",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "each"),
        *chain,
        wires=f"1>2 2.one>3 {wires}",
    )
    made = run(scene(drawn, moths=moths), 1)
    assert ["no more than 200,000 cards are run in a turn" in f.sentence for f in made.trace.faults] == [True]


# checks


@pytest.mark.parametrize(
    ("cards", "wires", "drawn_values", "said"),
    [
        ((note(2, "x"), note(3, "y")), "1>2", "", "card 3: nothing ever reaches this card"),
        ((note(2, "x"), card(3, "formula", value="1")), "1>2", "", "card 3: nothing takes this card's value"),
        ((card(2, "hold", value="1"),), "1>2", "", "card 2: what this card keeps is never read"),
        (
            (card(2, "in_order"), note(3, "x")),
            "1>2 2.1>3 2.3>3",
            "",
            "card 2: its output 2 leads nowhere, though later ones do",
        ),
        ((card(2, "gate"), note(3, "x")), "1>2 2>3", "", "card 2: this gate can never open"),
        (
            (card(2, "send_message", message="gone"),),
            "1>2",
            "",
            "card 2: “gone” is sent but no rule hears it",
        ),
    ],
)
def test_what_a_graph_probably_does_not_mean_is_found_at_its_card(cards, wires, drawn_values, said):
    drawn = graph("g", card(1, "every_tick"), *cards, wires=wires, values=drawn_values)
    sentences = [f.sentence() for f in findings(scene(drawn))]
    assert any(s.startswith("graph “g”, " + said) for s in sentences), sentences


def test_a_graph_in_order_has_no_findings():
    drawn = graph("g", card(1, "level_starts"), card(2, "in_order"), note(3, "x"), wires="1>2 2.1>3 2.2>3")
    assert not [f for f in findings(scene(drawn)) if "graph" in f.sentence()]


def test_a_card_may_keep_for_a_roles_objects_whoever_comes_with_them():
    drawn = graph(
        "per",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "within", who="Moth", distance="80", where="Lamp"),
        card(3, "count_to", count="99", per="Lamp"),
        card(4, "set_variable", variable="Lamp.n", value="0"),
        card(5, "each_in_every_tick", who="Lamp"),
        wires="1>2 2.yes>3 5>4",
        values="3>4.value",
    )
    # two moths are near the lamp in each of three ticks
    assert values(run(scene(drawn), 3))[-1] == 6.0


def test_a_role_that_has_not_come_is_a_fault_at_the_card():
    drawn = graph(
        "per", card(1, "every_tick"), card(2, "first_time", per="Lamp"), note(3, "x"), wires="1>2 2>3"
    )
    made = run(scene(drawn), 1)
    assert [f.sentence for f in made.trace.faults] == ["“per”, card 2: no “Lamp” has come with these matches"]
    wrong = graph(
        "per", card(1, "every_tick"), card(2, "first_time", per="Lmp"), note(3, "x"), wires="1>2 2>3"
    )
    assert problems(wrong) == [
        "graph “per”, card 2, per: there is no kind, object or tag called “Lmp”; did you mean “Lamp”?"
    ]


@pytest.mark.parametrize("seconds", ["0", "0.05"])
def test_cards_below_one_that_creates_speak_of_what_is_new_for_their_matches(seconds):
    shown = graph(
        "g",
        card(1, "level_starts"),
        card(2, "formula_holds", formula="Moth.x > 0"),
        card(3, "create", count="1", kind="Lamp", where="Moth"),
        card(4, "each"),
        card(5, "formula_holds", formula="Moth.x > 15"),
        card(6, "set_variable", variable="new Lamp.n", value="100 + Moth.x"),
        card(7, "wait", time=seconds),
        card(8, "set_variable", variable="new Lamp.n", value="Moth.x"),
        wires="1>2 2.yes>3 3>4 4.one>5 5.no>6 5.yes>7 7.after>8",
    )
    kinds = (kind("Moth", 2), kind("Lamp", 2, has={"n": 0.0}))
    made = run(level(shown, kinds=kinds, objects=things("Moth", (10, 0), (20, 0), (30, 0))), 8)
    rows = made.world.rows_of_kind(1)
    found = zip(
        made.world.x[rows].tolist(),
        made.world.variables[column_key("n", "number")][rows].tolist(),
        strict=True,
    )
    assert sorted(found) == [(10, 110), (20, 20), (30, 30)]


@pytest.mark.parametrize(
    "formula, many", [("third_Moth.x > -1", 2), ("another_Moth.x + third_Moth.x > -1", 2)]
)
def test_another_and_a_third_are_never_the_object_whose_turn_it_is(formula, many):
    """Of three moths each finds the two others."""
    shown = graph(
        "g",
        card(1, "level_starts"),
        card(2, "formula_holds", formula=formula),
        card(3, "note", text="{self.name}"),
        wires="1>2 2.yes>3",
        for_="Moth",
    )
    made = run(level(shown, kinds=(kind("Moth", 2),), objects=things("Moth", (0, 0), (5, 0), (9, 0))), 1)
    names = [text for _, text in made.trace.notes]
    assert sorted(names) == sorted(["Moth 1", "Moth 2", "Moth 3"] * many)
