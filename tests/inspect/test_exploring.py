"""Exploring finds seeded faults, makes their input small, and finds the same with the same seed."""

from __future__ import annotations

from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from building import EVERY_TICK, START, add, c, heard, level, rule, send
from gatillo.examples import study_path
from gatillo.files.level_file import read_level
from gatillo.inspect.expectations import run_and_judge
from gatillo.inspect.exploring.exploring import Explorer, kept_as_trial
from gatillo.inspect.exploring.listening import listening
from gatillo.inspect.exploring.scripts import input_of, pieces_of, smallest, varied
from gatillo.level.expectations import FiresBefore, HoldsAt
from gatillo.level.model import Choice, Graph, Input, KeyBar, Node, Trial, Wire
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

MOST = 3_000


def pressed(key):
    return c("key_pressed", key=key)


def holds(text):
    return c("formula_holds", formula=text)


def put(variable, value):
    return c("set_variable", variable=variable, value=value)


def with_trial(lv, *expectations, length=4.0, **more):
    wanted = tuple(replace(one, any_input=True) for one in expectations)
    return replace(lv, trials=(Trial(name="t", length=length, expectations=wanted, **more),))


def below_zero():
    """A purse out of which one can always pay."""
    return with_trial(
        level(
            rule("earn", when=pressed("E"), do=add("level.coins", "2"), id=1),
            rule("pay", when=pressed("P"), do=add("level.coins", "-1"), id=2),
            has={"coins": 3.0},
        ),
        HoldsAt("level.coins >= 0", "always"),
    )


def locked_from_outside():
    """A door that can be locked while somebody stands outside."""
    return with_trial(
        level(
            rule(
                "go out",
                when=pressed("O"),
                if_=holds("not level.locked"),
                do=put("level.outside", "yes"),
                id=1,
            ),
            rule(
                "come in",
                when=pressed("I"),
                if_=holds("not level.locked"),
                do=put("level.outside", "no"),
                id=2,
            ),
            rule("lock", when=pressed("L"), do=put("level.locked", "yes"), id=3),
            has={"outside": False, "locked": False},
        ),
        HoldsAt("level.outside and level.locked", "never"),
    )


def too_fast():
    """A count that a second press within half a second of the first one breaks."""
    return with_trial(
        level(
            rule("begin", when=pressed("B"), do=(c("wait", time="0.5"), put("level.ready", "yes")), id=1),
            rule("use", when=pressed("U"), do=put("level.used", "yes"), id=2),
            has={"ready": False, "used": False},
        ),
        HoldsAt("level.used and not level.ready", "never"),
    )


def lost_message():
    """A message that is lost while the rule that hears it rests."""
    return with_trial(
        level(
            rule("call", when=pressed("C"), do=(add("level.calls"), send("come")), id=1),
            rule("answer", when=heard("come"), do=add("level.answers"), cooldown=1.0, id=2),
            has={"calls": 0.0, "answers": 0.0},
        ),
        HoldsAt("level.calls - level.answers <= 1", "always"),
    )


def gate_that_stays_shut():
    """A graph whose gate never opens again once it was shut with the key in hand."""
    graph = Graph(
        id=7,
        name="gate",
        nodes=(
            Node(id=1, use="key_pressed", slots={"key": "G"}),
            Node(id=2, use="formula_holds", slots={"formula": "level.shut"}),
            Node(id=3, use="set_variable", slots={"variable": "level.shut", "value": "level.key"}),
            Node(id=4, use="set_variable", slots={"variable": "level.shut", "value": "yes"}),
        ),
        wires=(Wire("1", "2"), Wire("2.yes", "3"), Wire("2.no", "4")),
    )
    return with_trial(
        level(
            graph,
            rule("take", when=pressed("K"), do=put("level.key", "yes"), id=1),
            has={"shut": False, "key": False},
        ),
        HoldsAt("level.shut and level.key", "never"),
    )


SEEDED = {
    below_zero: 4,
    locked_from_outside: 2,
    too_fast: 1,
    lost_message: 3,
    gate_that_stays_shut: 2,
}
"""By level: how many presses its fault needs."""


def explored(lv, seed=0, most=MOST):
    return Explorer(lv, lv.trials[0], seed).explore(lambda: False, most)


@pytest.mark.parametrize("make", SEEDED, ids=lambda make: make.__name__)
@pytest.mark.parametrize("seed", [0, 1])
def test_a_seeded_fault_is_found_and_made_small(make, seed):
    lv = make()
    found = explored(lv, seed).found
    assert found is not None
    assert found.broken.sort == "expectation"
    assert found.presses <= 2 * SEEDED[make]
    # the kept trial shows it again
    kept, name = kept_as_trial(lv, lv.trials[0], found)
    trial = next(one for one in kept.trials if one.name == name)
    verdicts = run_and_judge(Run(Program(kept), trial))
    assert any(v.outcome == "failed" and v.expectation.sentence() == found.broken.what for v in verdicts)


def test_mended_nothing_is_found():
    lv = below_zero()
    pay = replace(lv.order[1], if_=(holds("level.coins > 0"),))
    mended = replace(lv, order=(lv.order[0], pay))
    result = explored(mended, most=200)
    assert result.found is None
    assert result.tries == 200
    assert result.kept > 1


def test_the_same_seed_finds_the_same():
    lv = lost_message()
    assert explored(lv, 5) == explored(lv, 5)


def test_without_a_mark_only_faults_are_found():
    lv = below_zero()
    unmarked = replace(lv.trials[0], expectations=(HoldsAt("level.coins >= 0", "always"),))
    assert explored(replace(lv, trials=(unmarked,)), most=150).found is None
    sums = rule("share", when=pressed("S"), do=put("level.share", "10 / level.coins"), id=3)
    lv = level(*lv.order, sums, has={"coins": 3.0, "share": 0.0})
    found = explored(with_trial(lv)).found
    assert found.broken.sort == "fault"
    assert "divides by zero" in found.broken.what
    # three payments and a share
    assert found.presses == 4


def test_faults_of_the_trials_own_input_are_no_discovery():
    lv = with_trial(
        level(
            rule("bad", when=START, do=put("level.n", "1 / level.n"), id=1),
            rule("k", when=pressed("K"), do=add("level.m"), id=2),
            has={"n": 0.0, "m": 0.0},
        )
    )
    assert explored(lv, most=50).found is None
    # and it does not hide what comes after it
    found = explored(replace(lv, trials=with_trial(lv, HoldsAt("level.m < 2", "always")).trials)).found
    assert found.broken.what == "level.m < 2 holds at every tick"
    assert found.presses == 2


def test_a_level_that_listens_to_nothing_is_left_after_one_run():
    lv = with_trial(level(rule("r", when=EVERY_TICK, do=add("level.n"), id=1), has={"n": 0.0}))
    heard_of = listening(lv)
    assert not heard_of.anything
    assert explored(lv).tries == 1


def test_an_order_that_breaks_at_once_needs_no_press():
    lv = with_trial(
        level(
            rule("first", when=c("every_seconds", period="1"), do=add("level.n"), id=1),
            rule("then", when=START, do=(add("level.n"),), id=2),
            rule("keyed", when=pressed("X"), do=add("level.n"), id=3),
            has={"n": 0.0},
        ),
        FiresBefore("first", "then"),
    )
    result = explored(lv)
    assert result.tries == 1
    assert result.found.presses == 0


@pytest.mark.parametrize(
    ("name", "keys", "choices"),
    [
        ("01-seed-pods.gatillo", {"Up", "Left", "Right"}, set()),
        ("13-watering-can.gatillo", set(), set()),
        ("21-tunnel-post.gatillo", {"E", "Up"}, {"fern house", "boiler room", "stay here"}),
    ],
)
def test_what_examples_listen_to(name, keys, choices):
    found = listening(read_level(study_path(name)))
    assert set(found.keys) >= keys
    assert set(found.choices) >= choices
    assert len(set(found.keys)) == len(found.keys)


def test_what_the_examples_own_trials_bring_in_is_listened_to():
    for path in sorted(study_path("night-shift.gatillo").parent.glob("*.gatillo")):
        lv = read_level(path)
        found = listening(lv)
        for trial in lv.trials:
            assert found.points or not trial.input.pointer, path.name
            assert {one.text for one in trial.input.choices} <= set(found.choices), path.name


PIECES = st.lists(
    st.one_of(
        st.builds(
            lambda key, at, held: KeyBar(key=key, start=at / 20, end=(at + held) / 20),
            st.sampled_from("ABC"),
            st.integers(0, 100),
            st.integers(1, 60),
        ),
        st.builds(lambda at: Choice(at=at / 20, text="x"), st.integers(0, 100)),
    ),
    max_size=20,
    unique=True,
).map(tuple)


@given(PIECES, st.integers(0, 1000))
def test_what_is_made_small_still_does_it_and_no_piece_could_be_left_out(pieces, seed):
    needed = Random(seed).sample(pieces, min(3, len(pieces)))

    def still(some):
        # by what they are: a key may be held for a shorter time
        kinds = [(type(p), getattr(p, "start", getattr(p, "at", 0))) for p in some]
        return all((type(n), getattr(n, "start", getattr(n, "at", 0))) in kinds for n in needed)

    small = smallest(pieces, still)
    assert still(small)
    for at in range(len(small)):
        assert not still((*small[:at], *small[at + 1 :]))


@given(PIECES, st.integers(0, 10_000))
def test_varied_input_is_input_that_a_trial_may_have(pieces, seed):
    heard_of = listening(below_zero())
    made = varied(pieces, heard_of, 5.0, Random(seed))
    for piece in made:
        if isinstance(piece, KeyBar):
            assert 0 <= piece.start < piece.end
    given_ = input_of(made)
    assert isinstance(given_, Input)
    assert sorted(map(repr, pieces_of(given_))) == sorted(map(repr, made))


def key_thrown_away(*, mended=False):
    """A chest that needs a key which can be thrown into the well; then nobody can do anything any more."""
    has_it = holds("level.keys > 0")
    found = level(
        rule("throw", when=pressed("T"), if_=has_it, do=add("level.keys", "-1"), id=1),
        rule(
            "open", when=pressed("O"), if_=has_it, do=put("level.open", "yes"), fires="first time only", id=2
        ),
        *(
            (rule("fish", when=pressed("F"), if_=holds("level.keys = 0"), do=add("level.keys"), id=3),)
            if mended
            else ()
        ),
        has={"keys": 1.0, "open": False},
    )
    trial = Trial(name="t", length=3.0, input=Input(keys=(KeyBar(key="O", start=1.0, end=1.2),)))
    return replace(found, trials=(trial,))


@pytest.mark.parametrize("seed", [0, 1])
def test_a_level_that_is_stuck_is_found_without_any_expectation(seed):
    lv = key_thrown_away()
    found = explored(lv, seed).found
    assert found is not None and found.broken.sort == "stuck"
    assert found.broken.awaited == ("open",)
    assert "“open” is still awaited" in found.broken.words
    assert [piece.key for piece in pieces_of(found.input)] == ["T"]
    kept, name = kept_as_trial(lv, lv.trials[0], found)
    trial = next(one for one in kept.trials if one.name == name)
    assert [v.outcome for v in run_and_judge(Run(Program(kept), trial))] == ["failed"]


def test_a_level_that_can_go_on_is_not_stuck():
    assert explored(key_thrown_away(mended=True), most=400).found is None


def test_what_is_silent_by_itself_after_a_time_is_not_stuck():
    lv = level(
        rule("early", when=pressed("E"), if_=holds("time < 2"), do=add("level.n"), id=1),
        rule("late", when=pressed("L"), if_=holds("time < 2"), do=add("level.n"), id=2),
        has={"n": 0.0},
    )
    trial = Trial(name="t", length=3.0, input=Input(keys=(KeyBar(key="E", start=1.0, end=1.2),)))
    assert explored(replace(lv, trials=(trial,)), most=200).found is None


def test_a_trial_that_was_ended_is_not_stuck():
    lv = level(
        rule("go", when=pressed("G"), do=add("level.n"), id=1),
        rule("end", when=pressed("E"), do=c("end_trial"), id=2),
        has={"n": 0.0},
    )
    trial = Trial(name="t", length=3.0, input=Input(keys=(KeyBar(key="G", start=1.0, end=1.2),)))
    assert explored(replace(lv, trials=(trial,)), most=200).found is None
