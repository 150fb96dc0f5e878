"""What `new KIND` stands for: for each match what was created for it last, whichever line, branch or turn did it."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import add, c, kind, level, rule, run, things
from gatillo.graphs.conversion import as_graph
from gatillo.level.model import Clause, Graph, Node, Spot, Wire

POT = kind("Pot", 2, contact="none", has={"n": 0.0})
SEED = kind("Seed", 2, contact="none", has={"z": 0.0})
CREATE = c("create", count="1", kind="Seed", where="corner")
COUNT = add("new Seed.z")
EACH_POT = c("each_in_every_tick", who="Pot")


def block(use, *lines, **slots):
    return Clause(use=use, slots=slots, of=lines)


def level_of(order, pots=3):
    objects = tuple(replace(one, values={"n": float(one.id)}) for one in things("Pot", *[(10, 0)] * pots))
    return level(
        order, kinds=(POT, SEED), objects=objects, has={"a": 0.0}, places=(Spot(name="corner", x=0, y=0),)
    )


def seeds(order, pots=3, ticks=1):
    """The z of every seed, oldest first."""
    made = run(level_of(order, pots), ticks)
    assert made.trace.faults == []
    return made.world.variables["z/number"][made.world.rows_of_kind(1)].tolist()


def both_ways(lines, **more):
    """The z of every seed after a tick of a rule and of the graph that it would be; they are the same."""
    made = rule("r", do=lines, **more)
    found = seeds(made)
    assert seeds(as_graph(made)) == found
    return found


@pytest.mark.parametrize("mode", [{}, {"one_at_a_time": True}])
@pytest.mark.parametrize("asked", ["Pot.n > 1", "Pot.n > 2", "Pot.n > 0", "Pot.n > 9"])
def test_each_branch_creates_for_its_own_matches(asked, mode):
    lines = (block("if_so", CREATE, formula=asked), block("otherwise", CREATE), COUNT)
    assert both_ways(lines, when=EACH_POT, **mode) == [1.0] * 3


def test_a_branch_that_creates_replaces_what_a_line_above_it_created():
    lines = (CREATE, block("if_so", CREATE, formula="Pot.n > 1"), COUNT)
    # three from the first line, of which only the first pot's counts, and two from the branch
    assert both_ways(lines, when=EACH_POT) == [1.0, 0.0, 0.0, 1.0, 1.0]


@pytest.mark.parametrize("count, turns", [("3", (3, 3, 3)), ("Pot.n", (1, 2, 3)), ("Pot.n * 8", (8, 16, 24))])
def test_a_repeat_has_its_own_in_each_turn_and_the_last_turns_below_it(count, turns):
    inside = both_ways((block("repeat", CREATE, COUNT, count=count),), when=EACH_POT)
    assert inside == [1.0] * sum(turns)
    below = both_ways((block("repeat", CREATE, count=count), COUNT), when=EACH_POT)
    # one effect for each pot: of each pot the object of its last turn
    assert sorted(below) == [0.0] * (sum(turns) - 3) + [1.0] * 3


def test_a_role_that_an_if_brings_in_tells_apart_what_was_created():
    again = block("if_so", COUNT, formula="Pot.n > 0")
    lines = (block("if_so", CREATE, formula="Pot.n > 1"), again)
    # pots 2 and 3 have a seed each; the second “if” brings in all three
    assert both_ways(lines, when=c("level_starts")) == [1.0, 1.0]


def test_a_create_that_makes_none_leaves_nobody():
    lines = (CREATE, c("create", count="Pot.n - 1", kind="Seed", where="corner"), COUNT)
    assert both_ways(lines, when=EACH_POT) == [0.0] * 3 + [1.0] * 3


# in graphs


def cards(*nodes, wires):
    return Graph(
        id=900,
        name="g",
        nodes=tuple(
            Node(id=at, use=clause.use, slots=clause.slots, of=clause.of)
            for at, clause in enumerate(nodes, 1)
        ),
        wires=tuple(Wire(start=w.split(">")[0], end=w.split(">")[1]) for w in wires.split()),
    )


def test_below_gather_each_match_has_what_was_created_for_it():
    shown = cards(
        EACH_POT,
        c("formula_holds", formula="Pot.n > 1"),
        CREATE,
        CREATE,
        c("gather"),
        COUNT,
        wires="1>2 2.yes>3 2.no>4 3>5 4>5 5>6",
    )
    assert seeds(shown) == [1.0] * 3


def test_of_two_ways_to_a_gather_the_later_create_counts():
    shown = cards(EACH_POT, CREATE, c("gather"), COUNT, CREATE, wires="1>2 2>3 1>5 5>3 3>4")
    assert seeds(shown) == [0.0] * 3 + [1.0] * 3


def test_matches_about_no_object_keep_their_own_below_gather():
    shown = cards(c("message_heard", message="go"), CREATE, c("gather"), COUNT, wires="1>2 2>3 3>4")
    say = rule("say", when=c("level_starts"), do=block("repeat", c("send_message", message="go"), count="3"))
    built = level_of(shown)
    made = run(replace(built, order=(say, shown)), 2)
    assert made.world.variables["z/number"][made.world.rows_of_kind(1)].tolist() == [1.0] * 3


def test_a_beat_has_what_was_created_for_its_match_before_it():
    shown = cards(
        EACH_POT,
        c("first_time"),
        CREATE,
        c("beat", period="0.05"),
        COUNT,
        wires="1>2 2>3 3>4 4>5",
    )
    # three ticks a beat: at ticks 4, 7, 10
    assert seeds(shown, ticks=11) == [3.0] * 3


def test_what_ends_has_what_was_created_for_it():
    shown = cards(
        EACH_POT,
        c("formula_holds", formula="tick = 1"),
        CREATE,
        c("on_change"),
        COUNT,
        wires="1>2 2.yes>3 3>4 4.ends>5",
    )
    assert seeds(shown, ticks=2) == [1.0] * 3


def test_when_both_have_come_either_may_have_created():
    shown = cards(EACH_POT, CREATE, c("both_come"), COUNT, wires="1>2 2>3.1 1>3.2 3>4")
    assert seeds(shown) == [1.0] * 3


def test_a_removed_object_is_not_new_at_a_beat():
    shown = cards(c("level_starts"), CREATE, c("beat", period="0.05"), COUNT, wires="1>2 2>3 3>4")
    gone = rule("gone", when=c("after_start", time="0.06"), do=c("remove", who="Seed"))
    built = level_of(shown)
    made = run(replace(built, order=(gone, shown)), 12)
    # the beats go on: a message about nobody is there as long as nothing stops it
    assert made.trace.faults == []
    assert len(made.world.rows_of_kind(1)) == 0


def test_many_turns_of_a_repeat_with_unequal_counts_cost_what_they_create():
    """24 turns once meant 8.4 million effects: now each created object has one."""
    lines = (block("repeat", CREATE, count="Pot.n * 24"), COUNT)
    made = run(
        level_of(rule("r", when=c("level_starts"), if_=c("formula_holds", formula="Pot.n > 0"), do=lines)), 1
    )
    z = made.world.variables["z/number"][made.world.rows_of_kind(1)]
    assert len(z) == 24 + 48 + 72
    assert z.sum() == 3
