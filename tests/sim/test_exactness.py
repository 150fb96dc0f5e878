"""The same level, trial and seed give the same trace: run through, stepped, resumed, looked at in between."""

from __future__ import annotations

from hypothesis import given
from hypothesis import settings as tries
from hypothesis import strategies as st

from building import START, add, c, heard, kind, level, rule, send, things
from gatillo.level.model import Area, Rectangle, Settings
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Cursor, Run

KINDS = (
    kind("Moth", 6, contact="movable", has={"hits": 0.0, "mood": "calm"}),
    kind("Lamp", box=(30, 12), contact="fixed", has={"lit": False}),
    kind("Gardener", 9, contact="movable", behaviours=(c("steer_by_keys", speed="200", turning="300"),)),
)
PLACES = (Area(name="court", x=0, y=0, shape=Rectangle(width=160, height=160)),)

occasions = st.sampled_from(
    [
        START,
        c("every_tick"),
        c("every_seconds", period="0.1", first="0.05"),
        c("key_held", key="Up"),
        c("key_pressed", key="Left"),
        c("begins_to_touch", a="Moth", b="Gardener"),
        c("touches", a="Moth", b="anything"),
        c("stops_touching", a="Moth", b="another Moth"),
        heard("hush"),
    ]
)
conditions = st.sampled_from(
    [
        c("formula_holds", formula="random(0, 1) < 0.5"),
        c("compare", left="count(Moth)", comparison="<", right="12"),
        c("formula_holds", formula="distance(Gardener, Moth) < 60"),
        c("formula_holds", formula="level.n mod 3 < 2"),
    ]
)
actions = st.sampled_from(
    [
        c("move_by", who="Moth", dx="random(-9, 9)", dy="random(-9, 9)"),
        c("turn_by", who="Lamp", angle="7"),
        c("create", count="1", kind="Moth", where="court"),
        c("remove", who="Moth 1"),
        c("remove", who="Moth"),
        add("Moth.hits"),
        add("level.n", "random(0, 2)"),
        send("hush"),
        c("wait", time="random(0, 0.2)"),
        c("say", text="{level.n}", who="Lamp", time="0.2"),
        c("set_variable", variable="Moth.mood", value='pick("calm", "wild")'),
        c("set_variable", variable="Lamp.lit", value="not Lamp.lit"),
        c("set_variable", variable="level.n", value="1 / (level.n - 2)"),
    ]
)


@st.composite
def rules(draw, number):
    return rule(
        f"rule {number}",
        id=number + 1,
        when=tuple(draw(st.lists(occasions, max_size=2))),
        if_=tuple(draw(st.lists(conditions, max_size=2))),
        do=tuple(draw(st.lists(actions, min_size=1, max_size=4))),
        else_=tuple(draw(st.lists(actions, max_size=1))),
        fires=draw(st.sampled_from(["each tick", "on becoming true", "first time only"])),
        cooldown=draw(st.sampled_from([0.0, 0.0, 0.1])),
        cooldown_per=draw(st.sampled_from(["rule", "object"])),
        once_for_all=draw(st.booleans()),
        one_at_a_time=draw(st.booleans()),
        while_waiting=draw(st.sampled_from(["ignore", "restart", "stack"])),
    )


@st.composite
def levels(draw):
    times = st.floats(0, 1.5).map(lambda v: round(v, 3))
    bars = []
    for key in draw(st.lists(st.sampled_from(["Up", "Left", "Right"]), max_size=3)):
        start, end = sorted((draw(times), draw(times)))
        bars.append((key, start, end))
    points = draw(st.lists(st.tuples(st.integers(-60, 60), st.integers(-60, 60)), min_size=1, max_size=5))
    order = [draw(rules(number)) for number in range(draw(st.integers(1, 5)))]
    return level(
        *order,
        kinds=KINDS,
        places=PLACES,
        objects=(
            *things("Gardener", (0, 0)),
            *things("Moth", *points, first=10),
            *things("Lamp", (40, 0), first=50),
        ),
        has={"n": 0.0},
        keys=tuple(bars),
        settings=Settings(most_objects=30, most_creations=6, most_matches=2_000, most_messages=40),
        seconds=1.5,
        seed=draw(st.integers(0, 3)),
    )


def whole(built):
    program = Program(built)
    assert not program.problems, [p.sentence() for p in program.problems]
    made = Run(program, built.trials[0])
    made.advance()
    return made


@given(levels(), st.data())
@tries(max_examples=25, deadline=None)
def test_run_through_stepped_and_resumed_give_the_same_trace_bytes(built, data):
    made = whole(built)
    wanted = made.trace.to_bytes()

    stepped = Run(Program(built), built.trials[0])
    while stepped.done < stepped.length:
        stepped.advance(min(data.draw(st.integers(1, 40)), stepped.length - stepped.done))
        stepped.world_at(Cursor(data.draw(st.integers(0, stepped.done)), data.draw(st.integers(0, 3))))
    assert stepped.trace.to_bytes() == wanted
    assert stepped.world.differs_in(made.world) == []

    # any of them, but not from each to the end: that would be most of the suite's time
    for tick in data.draw(st.lists(st.sampled_from(sorted(made.keyframes)), max_size=3, unique=True)):
        resumed = made.resume_at(tick)
        resumed.advance()
        assert resumed.trace.to_bytes() == wanted
        assert resumed.world.differs_in(made.world) == []


@given(levels(), st.integers(1, 90))
@tries(max_examples=30, deadline=None)
def test_any_moment_is_the_same_however_it_is_come_to(built, tick):
    made = whole(built)
    straight = Run(Program(built), built.trials[0])
    straight.advance(tick)
    assert made.world_at(made.end_of(tick)).differs_in(straight.world) == []
    for position in range(made.trace.count_at(tick)):
        near = made.world_at(Cursor(tick, position)).state_bytes()
        made.world_at(Cursor(max(1, tick - 31), 0))
        assert made.world_at(Cursor(tick, position)).state_bytes() == near


@given(levels())
@tries(max_examples=20, deadline=None)
def test_looking_closely_at_a_tick_changes_nothing(built):
    made = whole(built)
    before = made.trace.to_bytes()
    for tick in range(1, made.done, 17):
        assert len(made.witness(tick)) == made.trace.count_at(tick)
    assert made.trace.to_bytes() == before


def test_a_small_budget_keeps_few_keyframes_and_the_same_moments():
    walk = rule("walk", do=c("move_by", who="Moth", dx="random(-3, 3)"))
    built = level(walk, kinds=KINDS, objects=things("Moth", (0, 0), (40, 0)), seconds=30)
    rich, poor = Run(Program(built), built.trials[0]), Run(Program(built), built.trials[0], budget=30_000)
    rich.advance()
    poor.advance()
    assert len(poor.keyframes) < len(rich.keyframes) / 2
    for tick in (1, 299, 450, 1799):
        at = Cursor(tick, 9)
        assert poor.world_at(at).differs_in(rich.world_at(at)) == []


def test_many_removed_objects_are_packed_away_and_ages_stay_in_order():
    make = rule("make", do=c("create", count="40", kind="Moth", where="court"))
    clear = rule("clear", when=c("every_seconds", period="0.05", first="0.05"), do=c("remove", who="Moth"))
    built = level(make, clear, kinds=KINDS, places=PLACES, objects=things("Gardener", (500, 500)))
    made = whole(built)
    assert len(made.world.id) < 200
    assert (made.world.id[1:] > made.world.id[:-1]).all()


def test_stepping_by_firing_visits_every_firing_once_both_ways():
    chatter = [rule(n, when=heard("go"), do=add("level.n")) for n in ("a", "b", "c")]
    clock = rule("clock", when=c("every_seconds", period="0.2", first="0.1"), do=send("go"))
    made = whole(level(*chatter, clock, has={"n": 0.0}))
    all_of_them = [Cursor(f.tick, f.position) for f in made.trace.firings()]
    at, forward = Cursor(), []
    while (after := made.next_firing(at)) is not None:
        forward.append(after)
        at = after
    assert forward == all_of_them
    at, back = made.end_of(made.done), []
    while (before := made.previous_firing(at)) is not None:
        back.append(before)
        at = before
    assert back == all_of_them[::-1]


def test_the_third_firing_of_a_tick_can_be_looked_at_before_the_fourth():
    rules_ = [rule(n, when=START, do=add("level.n")) for n in ("a", "b", "c", "d")]
    made = whole(level(*rules_, has={"n": 0.0}))
    assert [made.world_at(Cursor(1, p)).level["n"] for p in range(5)] == [0, 1, 2, 3, 4]


@given(levels(), st.integers(0, 40))
@tries(max_examples=25, deadline=None)
def test_a_run_resumed_at_any_tick_is_the_run_itself(built, tick):
    program = Program(built)
    whole = Run(program, built.trials[0])
    whole.advance()
    resumed = whole.resume_at(min(tick, whole.done))
    assert resumed.done == min(tick, whole.done)
    resumed.advance()
    assert resumed.trace.to_bytes() == whole.trace.to_bytes()
    assert resumed.world.differs_in(whole.world) == []
