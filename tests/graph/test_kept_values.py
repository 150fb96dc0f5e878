"""What hold and count cards keep can be read in formulas: watched over a run, and expected of it."""

from __future__ import annotations

import pytest
from msgspec.structs import replace
from test_graph_runs import scene

from building import kind, level, run, things
from drawing import card, graph
from gatillo.formula.compiling import compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.expectations import judge
from gatillo.inspect.watching import Unanswered, follow, value_in
from gatillo.language.renaming import rename
from gatillo.level.expectations import HoldsAt
from gatillo.sim.program.program import Program

COUNT = graph(
    "counts",
    card(1, "each_in_every_tick", who="Moth"),
    card(2, "count_to", count="4", per="Moth"),
    card(3, "hold", value="Moth.x", per="Moth"),
    card(5, "every_tick"),
    card(6, "count_to", count="1000", per="all matches"),
    card(7, "hold", value='"dark"', per="all matches"),
    card(8, "hold", value="Moth.x > 50", per="Moth"),
    wires="1>2 1>3 5>6 6.before>7 1>8",
)


def followed(made, *formulas):
    return follow(made, [compile_formula(made.program.index, text) for text in formulas])


def test_a_count_for_all_matches_and_one_for_each_object_are_followed_tick_by_tick():
    made = run(scene(COUNT), 6)
    name = made.program.level.objects[0].name.replace(" ", "_")
    whole, one = followed(made, 'kept("counts", 6)', f'kept_for("counts", 2, {name})')
    assert whole == [0, 1, 2, 3, 4, 5, 6]
    assert one == [0, 1, 2, 3, 0, 1, 2]


def test_a_held_number_and_a_held_yes_are_numbers():
    made = run(scene(COUNT), 2)
    for moth in (o for o in made.program.level.objects if o.kind == "Moth"):
        name = moth.name.replace(" ", "_")
        x, yes = followed(made, f'kept_for("counts", 3, {name})', f'kept_for("counts", 8, {name})')
        assert x[-1] == moth.x and yes[-1] == float(moth.x > 50)


def test_what_a_card_keeps_can_be_expected():
    built = scene(COUNT)
    holds = HoldsAt(formula='kept("counts", 6) <= 6', when="always")
    made = run(replace(built, trials=(replace(built.trials[0], expectations=(holds,)),)), 6)
    assert [v.outcome for v in judge(made)] == ["held"]


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ('kept("count", 6)', "there is no graph called “count”; did you mean “counts”?"),
        ('kept("counts", 1)', "there are: 2, 3, 6, 7, 8"),
        ("kept(counts, 6)", "name of a graph in double quotes"),
        ('kept("counts", 2 + 4)', "no number of a hold or count card"),
    ],
)
def test_a_card_that_keeps_nothing_is_refused_with_a_sentence(text, says):
    with pytest.raises(FormulaError, match=says.replace("?", r"\?").replace("+", r"\+")):
        compile_formula(Program(scene(COUNT)).index, text)


@pytest.mark.parametrize(
    ("text", "says"), [('kept("counts", 2)', "for each Moth; say for which"), ('kept("counts", 7)', "a text")]
)
def test_what_is_kept_otherwise_has_no_answer_and_says_so(text, says):
    made = run(scene(COUNT), 3)
    answer = value_in(made.world, compile_formula(made.program.index, text))
    assert isinstance(answer, Unanswered) and says in answer.reason


def test_a_graph_that_is_renamed_is_renamed_in_what_reads_its_cards():
    built = scene(COUNT)
    watched = replace(built, trials=(replace(built.trials[0], watches=('kept("counts", 6)',)),))
    assert rename(watched, "rule", "counts", "night count").trials[0].watches == ('kept("night count", 6)',)


@pytest.mark.parametrize("first, second", [("Moth", "Lamp"), ("Lamp", "Moth")])
def test_a_card_to_which_matches_of_several_sorts_come_keeps_each_sort_apart(first, second):
    """A moth and a lamp are held by one card; each then adds what is held for it to its own number."""
    shown = graph(
        "g",
        card(1, "each_in_every_tick", who=first),
        card(2, "each_in_every_tick", who=second),
        card(3, "formula_holds", formula="tick = 1"),
        card(4, "hold", value="tick * 0 + 1", per="each match"),
        card(5, "each_in_every_tick", who="Moth"),
        card(6, "add_to", variable="Moth.p", amount="0"),
        card(7, "each_in_every_tick", who="Lamp"),
        card(8, "add_to", variable="Lamp.p", amount="0"),
        wires="1>3 2>3 3.yes>4 5>6 7>8",
        values="4>6.amount 4>8.amount",
    )
    kinds = (kind("Moth", 2, has={"p": 0.0}), kind("Lamp", 2, has={"p": 0.0}))
    objects = things("Moth", (3, 0), (4, 0)) + things("Lamp", (5, 0), first=9)
    made = run(level(shown, kinds=kinds, objects=objects), 3)
    assert made.trace.faults == []
    assert made.world.variables["p/number"].tolist() == [3.0, 3.0, 3.0]


def test_what_is_kept_for_more_of_a_matchs_objects_is_read_before_what_is_kept_for_fewer():
    shown = graph(
        "g",
        card(1, "each_in_every_tick", who="Moth"),
        card(2, "formula_holds", formula="Moth.x + Lamp.x > 0"),
        card(3, "hold", value="Moth.x", per="each match"),
        card(4, "add_to", variable="Moth.p", amount="0"),
        card(5, "hold", value="100", per="each match"),
        wires="1>3 1>2 2.yes>3 2.yes>4",
        values="3>4.amount",
    )
    kinds = (kind("Moth", 2, has={"p": 0.0}), kind("Lamp", 2))
    objects = things("Moth", (3, 0), (4, 0)) + things("Lamp", (5, 0), first=9)
    made = run(level(shown, kinds=kinds, objects=objects), 1)
    assert made.world.variables["p/number"].tolist()[:2] == [3.0, 4.0]
