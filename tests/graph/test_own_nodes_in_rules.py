"""Own nodes as lines of rules: as conditions, picks and actions."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from test_graph_runs import notes, scene, values
from test_own_nodes import NEAR

from building import EVERY_TICK, add, c, heard, isnt, rule, run, send
from drawing import card, graph
from gatillo.catalogue import CATALOGUE
from gatillo.files.kits import make_kit
from gatillo.files.level_file import decode_level, encode_level
from gatillo.graphs.conversion import NoConversion, as_graph
from gatillo.inspect.findings import findings
from gatillo.language.renaming import rename
from gatillo.language.sentence import sentence
from gatillo.level.edits import change_logic
from gatillo.sim.program.program import Program

EACH = c("each_in_every_tick", who="Moth")
NEARLY = c("own_says", graph="near enough")
WITHIN = c("within", who="Moth", distance="40", where="Lamp")


def told(text):
    return c("note", text=text)


def problems(*order):
    return [p.sentence() for p in Program(scene(*order)).problems]


def fired(made):
    return [(f.tick, f.position, f.rule_index, f.matches, f.way) for f in made.trace.firings()]


def test_a_condition_lets_through_what_leaves_at_its_first_output():
    with_node = rule("r", when=EACH, if_=NEARLY, do=told("{Moth.name}"))
    plain = rule("r", when=EACH, if_=WITHIN, do=told("{Moth.name}"))
    one, other = run(scene(with_node, NEAR), 5), run(scene(plain, NEAR), 5)
    assert notes(one) == notes(other) == ["Moth 1"] * 5
    assert fired(one) == fired(other)


def test_what_is_given_takes_the_place_of_what_its_inputs_say():
    assert sentence(c("own_says", graph="near enough", given="reach = 70")) == (
        "near enough says yes, given reach = 70"
    )
    far = rule(
        "r", when=EACH, if_=c("own_says", graph="near enough", given="reach = 70"), do=told("{Moth.name}")
    )
    assert notes(run(scene(far, NEAR), 1)) == ["Moth 1", "Moth 2"]
    formula = replace(far, if_=(c("own_says", graph="near enough", given="reach = max(Moth.x, 40) + 10"),))
    assert notes(run(scene(formula, NEAR), 1)) == ["Moth 1", "Moth 2", "Moth 3"]


def test_a_negated_condition_goes_on_with_the_others():
    others = rule("r", when=EACH, if_=isnt("own_says", graph="near enough"), do=told("{Moth.name}"))
    assert notes(run(scene(others, NEAR), 1)) == ["Moth 2", "Moth 3"]


def test_an_else_is_a_firing_of_its_own():
    parted = rule("r", when=EACH, if_=NEARLY, do=told("near {Moth.name}"), else_=told("far {Moth.name}"))
    plain = rule("r", when=EACH, if_=WITHIN, do=told("near {Moth.name}"), else_=told("far {Moth.name}"))
    one, other = run(scene(parted, NEAR), 3), run(scene(plain, NEAR), 3)
    assert notes(one) == notes(other)
    assert fired(one) == fired(other)
    turned = replace(parted, if_=(replace(NEARLY, negated=True),))
    assert notes(run(scene(turned, NEAR), 1)) == ["near Moth 2", "near Moth 3", "far Moth 1"]


def test_a_yes_or_no_that_it_gives_is_a_condition_too():
    asks = graph(
        "is it early",
        card(1, "input", name="until", carries="a value", value="0.05"),
        card(2, "formula", value="time < t"),
        card(3, "output", name="answer", carries="a value"),
        values="1>2.t 2>3.value",
        id=801,
    )
    early = rule("r", when=EVERY_TICK, if_=c("own_says", graph="is it early"), do=told("early"))
    late = rule(
        "s", when=EVERY_TICK, if_=isnt("own_says", graph="is it early", given="until = 0.1"), do=told("late")
    )
    made = run(scene(early, late, asks), 8)
    assert [(t, w) for t, w in made.trace.notes] == [
        *((t, "early") for t in (1, 2)),
        *((t, "late") for t in (6, 7, 8)),
    ]


def test_a_pick_goes_on_with_what_is_kept():
    nearest = graph(
        "nearest",
        card(1, "input", name="in"),
        card(2, "best_by", end="lowest", value="distance(Moth, Lamp)"),
        card(3, "output", name="kept"),
        wires="1>2 2.kept>3",
        id=802,
    )
    picks = rule("r", when=EACH, if_=c("own_keeps", graph="nearest"), do=told("{Moth.name}"))
    assert notes(run(scene(picks, nearest), 1)) == ["Moth 1"]


def test_an_action_is_done_before_the_next_line_and_goes_on_with_the_same_matches_or_with_what_leaves_it():
    adds = graph(
        "add twice",
        card(1, "input", name="in"),
        card(2, "input", name="amount", carries="a value", value="1"),
        card(3, "add_to", amount="0", variable="Moth.n"),
        card(4, "add_to", amount="0", variable="Moth.n"),
        wires="1>3 3>4",
        values="2>3.amount 2>4.amount",
        id=803,
    )
    does = rule("r", when=EACH, do=[c("own_does", graph="add twice", given="amount = 3"), told("{Moth.n}")])
    made = run(scene(does, adds), 2)
    assert values(made)[:3] == [12.0, 12.0, 12.0]
    assert notes(made) == ["6", "6", "6", "12", "12", "12"]
    narrowed = graph(
        "the first time",
        card(1, "input", name="in"),
        card(2, "first_time"),
        card(3, "output", name="then"),
        wires="1>2 2>3",
        id=804,
    )
    once = rule("r", when=EACH, do=[c("own_does", graph="the first time"), told("{Moth.name}")])
    made = run(scene(once, narrowed), 3)
    assert notes(made) == ["Moth 1", "Moth 2", "Moth 3"]
    assert [f.tick for f in made.trace.firings()] == [1, 2, 3], "the rule fires whenever its conditions hold"


def test_each_line_keeps_for_itself_what_it_keeps_unless_the_node_is_shared():
    third = graph(
        "every third",
        card(1, "input", name="in"),
        card(2, "count_to", count="3", per="all matches"),
        card(3, "output", name="yes"),
        wires="1>2 2.at>3",
        id=805,
    )
    rules = (
        rule("a", when=EVERY_TICK, if_=c("own_says", graph="every third"), do=told("a")),
        rule("b", when=EVERY_TICK, if_=c("own_says", graph="every third"), do=told("b")),
    )
    assert run(scene(*rules, third), 6).trace.notes == [(3, "a"), (3, "b"), (6, "a"), (6, "b")]
    together = run(scene(*rules, replace(third, shared=True)), 6).trace.notes
    assert together == [(2, "a"), (3, "b"), (5, "a"), (6, "b")]


def test_firing_modes_rests_waits_and_what_was_created_mean_what_they_mean_in_rules():
    def pair(**more):
        own = rule("r", when=EACH, if_=NEARLY, **more)
        return own, replace(own, if_=(WITHIN,))

    for more in (
        {"do": told("x"), "fires": "on becoming true"},
        {"do": told("x"), "fires": "first time only", "first_per": "object"},
        {"do": told("x"), "cooldown": 0.1, "cooldown_per": "object"},
        {"do": [told("x"), c("wait", time="0.05"), told("y")], "while_waiting": "ignore"},
        {"do": [c("create", kind="Lamp", where="Moth"), told("{new_Lamp.name}")], "fires": "first time only"},
        {"do": [add("Moth.n"), send("ring")], "one_at_a_time": True},
    ):
        one, other = (run(scene(r, NEAR), 12) for r in pair(**more))
        assert notes(one) == notes(other), more
        assert fired(one) == fired(other), more
        assert values(one) == values(other), more


def test_how_many_passed_is_told_at_the_rules_own_conditions():
    lines = [c("formula_holds", formula="Moth.x < 100"), NEARLY, c("formula_holds", formula="Moth.x > 500")]
    made = run(scene(rule("r", when=EACH, if_=lines, do=told("x")), NEAR), 1)
    assert [(look.candidates, look.passed, look.fired) for look in made.trace.looks_at(1)] == [
        (3, (2, 1, 0), 0)
    ]


def test_a_fault_and_a_problem_are_told_at_the_line_with_the_way_into_the_node():
    odd = graph(
        "odd",
        card(1, "input", name="in"),
        card(2, "formula_holds", formula="1 / (Moth.x - 50) > 0"),
        card(3, "output", name="yes"),
        wires="1>2 2.yes>3",
        id=806,
    )
    uses = rule(
        "r", when=EACH, if_=[c("formula_holds", formula="yes"), c("own_says", graph="odd")], do=told("x")
    )
    fault = run(scene(uses, odd), 1).trace.faults[0]
    assert (fault.part, fault.line) == ("if", 1)
    assert fault.sentence.startswith("“r”, if 2: in “odd”, card 2: ")
    broken = replace(odd, nodes=(odd.nodes[0], card(2, "formula_holds", formula="Moht.x > 0"), odd.nodes[2]))
    found = [f for f in findings(scene(uses, broken)) if f.rule == "r"]
    assert [(f.part, f.line) for f in found] == [("if", 1)]
    assert "Moth" in found[0].message


@pytest.mark.parametrize(
    ("lines", "where", "says"),
    [
        ({"if_": c("own_says", graph="near enuogh"), "do": told("x")}, "if 1", "did you mean “near enough”"),
        ({"if_": c("own_says", graph="near enough", given="raech = 3"), "do": told("x")}, "if 1", "no slot “raech”"),
        ({"if_": c("own_says", graph="near enough", given="70"), "do": told("x")}, "if 1", "such as reach = 70"),
        (
            {"if_": [WITHIN, NEARLY], "do": told("x"), "else_": told("y")},
            "if 2",
            "the only condition",
        ),
        ({"do": replace(c("repeat", times="2"), of=(c("own_does", graph="near enough"),))}, "do 1", "within another"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_told_at_its_line(lines, where, says):
    found = problems(rule("r", when=EACH, **lines), NEAR)
    if says:
        assert any(where in p and says in p for p in found), found


def test_nothing_that_is_wrong_lets_the_rule_run():
    level = scene(rule("r", when=EACH, if_=c("own_says", graph="nobody"), do=told("x")), NEAR)
    assert not Program(level).rules[0].runs


def test_names_are_carried_into_what_is_given_and_kits_take_the_node_along():
    uses = rule(
        "r", when=EACH, if_=c("own_says", graph="near enough", given="reach = Moth.n + 40"), do=told("x")
    )
    level = rename(scene(uses, NEAR), "kind", "Moth", "Night moth")
    level = rename(level, "rule", "near enough", "close by")
    line = level.order[0].if_[0]
    assert line.slots == {"graph": "close by", "given": "reach = Night_moth.n + 40"}
    assert not Program(level).problems
    kit = make_kit(level, "moths", ["Night moth"])
    assert [e.name for e in kit.order[0].rules] == ["r", "close by"]


def test_a_change_of_the_node_is_seen_in_a_rule_that_was_made_ready_before():
    level = scene(rule("r", when=EACH, if_=NEARLY, do=told("x")), NEAR)
    before = Program(level)
    wider = change_logic(
        level, NEAR.id, lambda g: replace(g, nodes=tuple(replace(n, slots={**n.slots, "value": "70"}) if n.id == 2 else n for n in g.nodes))
    )  # fmt: skip
    made = run(wider, 1)
    again = Program(wider, before)
    assert len(again.rules[0].if_) == len(before.rules[0].if_)
    assert [look.passed for look in made.trace.looks_at(1)] == [(2,)]


def test_such_a_rule_is_read_back_from_its_file_and_can_be_turned_into_a_graph():
    uses = rule("r", when=heard("go"), if_=NEARLY, do=told("x"))
    level = scene(uses, NEAR)
    assert decode_level(encode_level(level)) == level
    other = scene(rule("s", when=EACH, if_=NEARLY, do=told("x")), NEAR)
    drawn = change_logic(other, other.order[0].id, lambda r: as_graph(r, {NEAR.name: NEAR}))
    one, two = run(other, 3), run(drawn, 3)
    assert notes(one) == notes(two)
    assert [f[:2] for f in fired(one)] == [f[:2] for f in fired(two)]
    with pytest.raises(NoConversion, match="within another"):
        as_graph(
            rule("t", do=replace(c("repeat", times="2"), of=(c("own_does", graph="near enough"),))),
            {NEAR.name: NEAR},
        )


PARTS = {"when": "occasion", "if_": "condition", "do": "action", "else_": "action"}


@pytest.mark.parametrize("part", PARTS)
@pytest.mark.parametrize("own_in", ["if_", "do"])
@pytest.mark.parametrize("use", ["no such thing", "", "hold", "level_starts", "is_moving", "nearest", "note"])
def test_what_cannot_stand_beside_an_own_node_is_a_problem_of_its_line(use, part, own_in):
    group = CATALOGUE[use].group if use in CATALOGUE else ""
    if (group or "none") in (PARTS[part], "pick" if part == "if_" else ""):
        return
    own = {"if_": NEARLY, "do": c("own_does", graph="near enough")}[own_in]
    parts = {"when": (EACH,), "if_": (), "do": (told("x"),), "else_": ()}
    parts[own_in] = (*parts[own_in], own)
    parts[part] = (*parts[part], c(use))
    built = scene(rule("r", **parts), NEAR)
    line = f"{part.rstrip('_')} {len(parts[part])}"
    found = [p.sentence() for p in Program(built).problems]
    assert any(f"“r”, {line}: “{use}” is not " in sentence for sentence in found), found
    # it can be saved, opened and reported
    again = decode_level(encode_level(built))
    assert again == built
    assert any("is not " in finding.sentence() for finding in findings(again))
