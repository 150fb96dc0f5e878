"""Work in a tick is bounded: what would take too long is left out and told. Bounds are made small here, so that few reach them."""

from __future__ import annotations

import numpy as np
import pytest
from msgspec.structs import replace

from building import START, add, c, kind, level, names_at, rule, run, things
from drawing import card, graph
from gatillo.formula.values import LONGEST_TEXT
from gatillo.level.model import Clause, Settings
from gatillo.sim.collision import contacts as contact
from gatillo.sim.collision import proximity as nearness
from gatillo.sim.collision import raycast, solids
from gatillo.sim.motion import integration as flight
from gatillo.sim.rules import action_context as deeds
from gatillo.sim.rules import action_executor as turns
from gatillo.sim.rules import executor, firing_limits, graph_turn, matcher, work
from gatillo.sim.run.run import Cursor
from gatillo.sim.trace.trace import Trace

POT = kind("Pot", 10, contact="none", has={"v": 0.0})
LAMP = kind("Lamp", 5, contact="none", has={"v": 0.0})
PAIRS = c("formula_holds", formula="Pot.v + Lamp.v >= 0")


def pots(n, *order, of=POT, spread=0.0, lamps=0, **more):
    chance = np.random.default_rng(n)
    spots = tuple(map(tuple, chance.uniform(-spread, spread, (n, 2)).tolist()))
    objects = (*things("Pot", *spots), *things("Lamp", *((0.0, 0.0),) * lamps, first=5000))
    return level(*order, kinds=(of, LAMP), objects=objects, has={"n": 0.0}, **more)


def told(made):
    return " | ".join(f.sentence for f in made.trace.faults)


@pytest.mark.parametrize("spread", [0.0, 30.0])
def test_more_contacts_than_are_kept_are_told_and_those_that_go_on_do_not_end(monkeypatch, spread):
    monkeypatch.setattr(contact, "MOST_PAIRS", 300)
    ends = rule("ends", when=c("stops_touching", a="Pot", b="another Pot"), do=add("level.n"))
    made = run(pots(200, ends, of=kind("Pot", 10), spread=spread), 5)
    assert "more than 300 pairs" in told(made) and "Pot" in told(made)
    assert len(made.world.contacts.touching) <= 300
    assert made.world.level["n"] == 0


def test_contacts_of_a_crowd_in_many_cells_are_all_found_however_few_are_held_at_once(monkeypatch):
    begins = rule("begins", when=c("begins_to_touch", a="Pot", b="another Pot"), do=add("level.n"))
    built = pots(500, begins, of=kind("Pot", 4), spread=120)
    whole = run(built, 1).world.contacts.touching.tolist()
    monkeypatch.setattr(contact, "MOST_AT_ONCE", 40)
    monkeypatch.setattr(contact, "_ALL_PAIRS_UP_TO", 0)
    assert len(whole) > 100
    assert run(built, 1).world.contacts.touching.tolist() == whole


def test_a_heap_too_large_to_be_parted_at_once_is_parted_over_several_ticks(monkeypatch):
    monkeypatch.setattr(solids, "MOST_OVERLAPS", 200)
    monkeypatch.setattr(solids, "MOST_CONTACTS", 60)
    monkeypatch.setattr(flight, "MOST_CROSSING", 200)
    built = pots(60, of=kind("Pot", 5, contact="movable"), spread=6, seconds=5)
    made = run(built, 1)
    assert "more than 200 pairs" in told(made)
    made.advance()
    x, y = made.world.x, made.world.y
    away = np.hypot(x[:, None] - x, y[:, None] - y)[np.triu_indices(60, 1)]
    assert away.min() > 10 - 1e-3


def test_moving_apart_a_great_many_is_told_and_goes_on_tick_by_tick(monkeypatch):
    monkeypatch.setattr(solids, "MOST_CONTACTS", 60)
    apart = rule("apart", when=c("every_tick"), do=c("move_apart", who="Pot", gap="1"))
    made = run(pots(60, apart, spread=20, seconds=5))
    assert "parted at once" in told(made)
    x, y = made.world.x, made.world.y
    assert np.hypot(x[:, None] - x, y[:, None] - y)[np.triu_indices(60, 1)].min() > 21 - 1e-3


@pytest.mark.parametrize(
    ("bound", "built", "words"),
    [
        ("MOST_ONE_BY_ONE", rule("r", if_=PAIRS, do=add("level.n"), one_at_a_time=True), "go one by one"),
        (
            "MOST_ONE_BY_ONE",
            rule("r", if_=PAIRS, do=c("multiply", variable="level.n", factor="2")),
            "go one by one",
        ),
        ("MOST_KEPT", rule("r", if_=PAIRS, do=add("level.n"), fires="on becoming true"), "in mind"),
        (
            "MOST_KEPT",
            rule("r", if_=PAIRS, do=add("level.n"), cooldown=1.0, cooldown_per="object"),
            "in mind",
        ),
        (
            "MOST_WAITING",
            rule("r", if_=PAIRS, do=[c("wait", time="9"), add("level.n")], while_waiting="stack"),
            "wait at once",
        ),
        ("MOST_TEXTS", rule("r", if_=PAIRS, do=c("say", text="{Lamp.x}", who="Pot", time="1")), "texts"),
        ("MOST_NOTES", rule("r", if_=PAIRS, do=c("note", text="{Lamp.x}")), "notes"),
        (
            "MOST_WORK",
            rule("r", when=START, do=Clause(use="repeat", slots={"count": "1000"}, of=(add("Pot.v"),))),
            "has done as much as it may",
        ),
    ],
)
def test_what_goes_beyond_a_bound_of_work_is_left_out_and_told(monkeypatch, bound, built, words):
    module = next(m for m in (deeds, firing_limits, turns, work) if hasattr(m, bound))
    monkeypatch.setattr(module, bound, 50)
    made = run(pots(20, built, lamps=20), 3)
    assert words in told(made)
    if bound == "MOST_WAITING":
        assert sum(w.n for w in made.world.rules.waits) <= 50
    if bound == "MOST_ONE_BY_ONE":
        assert made.world.level["n"] <= 150


def test_a_flock_in_one_point_goes_by_a_few_each(monkeypatch):
    monkeypatch.setattr(nearness, "_MOST_NEAR", 500)
    monkeypatch.setattr(nearness, "_ALL_PAIRS_UP_TO", 0)
    moth = kind("Pot", 5, contact="none", behaviours=(c("flock", others="Pot"),))
    made = run(pots(100, of=moth, spread=1), 5)
    assert "goes by the nearest" in told(made)
    assert np.isfinite(made.world.x).all()


def test_what_was_cut_off_is_the_same_in_every_run(monkeypatch):
    monkeypatch.setattr(contact, "MOST_PAIRS", 300)
    monkeypatch.setattr(solids, "MOST_OVERLAPS", 200)
    touch = rule("touch", when=c("touches", a="Pot", b="another Pot"), do=add("level.n"))
    built = pots(
        80,
        touch,
        of=kind("Pot", 5, contact="movable", bounce=0.4),
        spread=10,
        settings=Settings(gravity=300.0),
    )
    one, other = run(built), run(built, 17)
    other.advance()
    assert one.trace.to_bytes() == other.trace.to_bytes()
    assert one.world.differs_in(other.world) == []
    assert one.world_at(one.end_of(23)).differs_in(run(replace(built), 23).world) == []


@pytest.mark.parametrize(
    "line",
    [
        c("set_variable", variable="level.w", value="join(level.w, level.w)"),
        c("set_variable", variable="level.w", value='join(level.w, "0123456789")'),
    ],
)
def test_a_text_that_grows_tick_after_tick_comes_to_its_bound_and_that_is_told(line):
    made = run(level(rule("r", do=line), has={"w": "ab"}, seconds=20), 900)
    assert len(made.world.level["w"]) <= LONGEST_TEXT
    assert made.trace.faults[0].sentence == "“r”, do 1: the text would be longer than 5,000 letters"


def test_a_text_of_each_object_comes_to_its_bound_for_those_that_are_too_long_only():
    pot = kind("Pot", 10, contact="none", has={"w": "ab", "v": 0.0})
    grows = rule(
        "r",
        do=c("set_variable", variable="Pot.w", value="join(Pot.w, Pot.w)"),
        if_=c("formula_holds", formula="Pot.v = 0"),
    )
    first = rule("one rests", when=START, do=c("set_variable", variable="Pot 1.v", value="1"))
    made = run(level(first, grows, kinds=(pot,), objects=things("Pot", (0, 0), (50, 0))), 30)
    assert made.world.variables["w/text"].tolist() == ["ab", "ab" * 2048]
    assert made.trace.faults[0].count == 1


def test_a_template_comes_to_the_same_bound():
    say = (
        c("set_variable", variable="level.w", value="join(level.w, level.w)"),
        c("tell_player", text="{level.w}{level.w}{level.w}"),
    )
    made = run(level(rule("r", do=say), has={"w": "ab"}), 30)
    assert len(made.world.display.telling) <= LONGEST_TEXT


def test_notes_are_kept_up_to_a_bound_and_then_that_is_noted(monkeypatch):
    monkeypatch.setattr(Trace, "MOST_NOTES", 20)
    made = run(level(rule("r", do=c("note", text="x"))), 40)
    assert len(made.trace.notes) == 21
    assert made.trace.notes[-1] == (21, "no more than 20 notes are kept; the rest is left out")


@pytest.fixture
def little_room(monkeypatch):
    """Tables of more than 8 matches count, and 1,700 matches are all that a tick may look at."""
    monkeypatch.setattr(work, "MOST_WORK", 1_700)
    for module in (work, matcher, graph_turn):
        monkeypatch.setattr(module, "A_CROWD", 8)


def busy(*more):
    """Rules that look at 400 pairs each: one with an answer that stays, others whose answers change with the tick."""
    steady = c("formula_holds", formula="Pot.depth + Lamp.depth < 0")
    moving = c("formula_holds", formula="Pot.v + Lamp.v + time >= 0")
    rules = [rule("steady", when=START, if_=steady, do=add("level.n"), id=1)]
    rules += [rule(f"still {n}", if_=steady, do=add("level.n"), id=10 + n) for n in range(2)]
    rules += [rule(f"busy {n}", if_=moving, do=add("level.n"), id=20 + n) for n in range(4)]
    return pots(20, *rules, *more, lamps=20)


@pytest.mark.usefixtures("little_room")
def test_the_work_of_all_rules_of_a_tick_together_is_bounded_and_told_once_a_tick():
    made = run(busy(), 5)
    fired = [names_at(made, tick) for tick in range(1, 6)]
    assert fired[1:] == [["busy 0", "busy 1"]] * 4
    sentences = [f.sentence for f in made.trace.faults if f.tick == 3]
    assert len(sentences) == 2
    assert "“busy 2”, if 1: a tick has done as much as it may" in sentences[0]
    assert "“busy 3”" in sentences[1] and "no rule takes its turn" in sentences[1]


@pytest.mark.usefixtures("little_room")
def test_what_is_left_out_is_the_same_remembered_asked_anew_and_step_by_step(monkeypatch):
    remembered = run(busy(), 40)
    stepped = [remembered.world_at(Cursor(tick, 1)) for tick in (7, 31)]
    monkeypatch.setattr(matcher.Matcher, "filter_cached", matcher.Matcher.filter_fresh)
    monkeypatch.setattr(executor.RuleExecutor, "_sleeps", lambda *_: False)
    anew = run(busy(), 40)
    assert anew.trace.to_bytes() == remembered.trace.to_bytes()
    assert anew.world.differs_in(remembered.world) == []
    for found, tick in zip(stepped, (7, 31), strict=True):
        assert found.differs_in(anew.world_at(Cursor(tick, 1))) == []


@pytest.mark.usefixtures("little_room")
def test_cards_that_remember_and_graphs_that_double_count_as_work(monkeypatch):
    monkeypatch.setattr(work, "FREE_CARDS", 10)
    monkeypatch.setattr(graph_turn, "FREE_CARDS", 10)
    keeps = graph("keeps", card(1, "every_tick"), card(2, "first_time"), card(3, "add_to", amount="1", variable="level.n"), wires="1>2 2>3", id=40)  # fmt: skip
    doubled = graph("doubled", card(1, "every_tick"), *(card(n, "pass_on") for n in range(2, 12)), wires=" ".join(f"{n}>{n + 1} {n}>{n + 1}" for n in range(1, 11)), id=41)  # fmt: skip
    made = run(pots(20, keeps, doubled, rule("late", do=add("level.n"), id=42)), 2)
    assert "“doubled”, card" in told(made) and "as much as it may" in told(made)
    assert "late" not in names_at(made, 1)


def test_rays_beyond_the_bound_meet_nothing_and_see_nothing(monkeypatch):
    wall = kind("Wall", box=(4, 40), contact="fixed")
    built = replace(
        pots(20, rule("sees", if_=c("clear_view", a="Pot", b="Lamp"), do=add("level.n")), lamps=2),
        kinds=(POT, LAMP, wall),
    )
    built = replace(built, objects=(*built.objects, *things("Wall", (500, 0), (600, 0), first=9000)))
    assert run(built, 1).world.level["n"] == 40
    monkeypatch.setattr(raycast, "MOST_MEETINGS", 50)
    made = run(built, 1)
    assert made.world.level["n"] == 25
    assert "15 rays are not followed" in told(made)
