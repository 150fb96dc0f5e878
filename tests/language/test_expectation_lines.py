"""Typed lines of what a trial must show are read as meant, and nothing typed is passed over."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gatillo.examples import study_path
from gatillo.files.level_file import read_level
from gatillo.language.expectation_lines import ExpectationLineError, read_expectation
from gatillo.level.expectations import (
    Expectation,
    FiresBefore,
    FiresInOrder,
    FiresTimes,
    HoldsAt,
    HoldsWhenever,
    SameOrder,
)
from gatillo.level.roles import Index, all_logic

LEVEL = read_level(study_path("01-seed-pods.gatillo"))
INDEX = Index(LEVEL)
NAMES = [entry.name for _, _, entry in all_logic(LEVEL)]
GATHER, TELL, FILLS = "Gather a pod", "Tell the count", "Basket fills"

READ: list[tuple[str, Expectation]] = [
    ("Gather a pod before Tell the count", FiresBefore(first=GATHER, then=TELL)),
    ("gather a pod fires before tell the count", FiresBefore(first=GATHER, then=TELL)),
    ("tell the count after gather a pod", FiresBefore(first=GATHER, then=TELL)),
    ("Gather a pod, then Tell the count within 0.5 s", FiresBefore(first=GATHER, then=TELL, within=0.5)),
    ("every Tell the count has a Gather a pod before it", FiresBefore(first=GATHER, then=TELL, every=True)),
    ("level.pods = 3 at 1.5 s", HoldsAt(formula="level.pods = 3", time=1.5)),
    ("level.pods is 3 at 1.5", HoldsAt(formula="level.pods = 3", time=1.5)),
    ("level.pods = 3 by 2 seconds", HoldsAt(formula="level.pods = 3", when="by", time=2)),
    ("level.pods = 3 at the end", HoldsAt(formula="level.pods = 3", time=7)),
    ("level.pods <= level.wanted always", HoldsAt(formula="level.pods <= level.wanted", when="always")),
    ("never level.pods > 9", HoldsAt(formula="level.pods > 9", when="never")),
    (
        "Gather a pod at most 2 times from 0 to 5 s",
        FiresTimes(rule=GATHER, how="at most", times=2, start=0, end=5),
    ),
    ("Gather a pod no more than twice", FiresTimes(rule=GATHER, how="at most", times=2)),
    ("Gather a pod fires three times", FiresTimes(rule=GATHER, times=3)),
    ("Gather a pod fires once by 2 s", FiresTimes(rule=GATHER, times=1, end=2)),
    ("gather a pod never fires after 3 s", FiresTimes(rule=GATHER, times=0, start=3)),
    ("gather a pod does not fire", FiresTimes(rule=GATHER, times=0)),
    ("Gather a pod fires", FiresTimes(rule=GATHER, how="at least", times=1)),
    ("level.pods > 0 whenever Tell the count fires", HoldsWhenever(rule=TELL, formula="level.pods > 0")),
    ("whenever tell the count fires, level.pods > 0", HoldsWhenever(rule=TELL, formula="level.pods > 0")),
    ("Gather a pod, Tell the count, Basket fills in that order", FiresInOrder(rules=(GATHER, TELL, FILLS))),
    ("gather a pod and tell the count in one tick", FiresInOrder(rules=(GATHER, TELL), same_tick=True)),
    (
        "level.pods >= 0 always, whatever is pressed",
        HoldsAt(formula="level.pods >= 0", when="always", any_input=True),
    ),
]


@pytest.mark.parametrize(("line", "meant"), READ, ids=[line for line, _ in READ])
def test_a_line_is_read_as_meant(line, meant):
    assert read_expectation(INDEX, line, 7) == meant


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("", "type what must hold"),
        ("level.pods = 3", "say when it must hold"),
        ("gather a pod", "say how often"),
        ("gather a pod twice please", "“please” is not understood"),
        ("gather a pod before tell the counts within 2 s", "there is no rule called “tell the counts”"),
        ("level.pod = 3 at 2 s", "did you mean “pods”"),
        ("gather a pod, tell the count whenever", "“whenever” is not understood"),
        ("gather a pod from 5 to 2 s exactly once", "is not understood"),
        ("gather a pod once from 5 to 2 s", "cannot end before it begins"),
        ("gather a pod before tell the count in 3 days", "“in 3 days” is not understood"),
        ("gather a pod some times", "“some” is no whole number"),
    ],
)
def test_a_line_that_is_not_understood_is_refused_with_what_is_missing(line, says):
    with pytest.raises(ExpectationLineError) as refused:
        read_expectation(INDEX, line)
    assert says in str(refused.value)


def test_the_longest_name_of_a_rule_is_meant():
    # “A pod ripens” must not be found within “Anything gathers a pod”
    made = read_expectation(INDEX, "Anything gathers a pod before A pod ripens")
    assert made == FiresBefore(first="Anything gathers a pod", then="A pod ripens")


seconds = st.integers(0, 100_000).map(lambda n: n / 1000)
names = st.sampled_from(NAMES)
formulas = st.sampled_from(["level.pods = 3", "level.done", "count(Pod) > 2 and not level.done", "time < 4"])
expectations = st.one_of(
    st.builds(
        lambda rule, how, times, ends: FiresTimes(
            rule=rule, how=how, times=times, start=min(ends, default=None), end=max(ends, default=None)
        ),
        names,
        st.sampled_from(["exactly", "at least", "at most"]),
        st.integers(0, 5_000),
        st.lists(seconds, min_size=2, max_size=2) | st.just([]),
    ),
    st.builds(FiresBefore, first=names, then=names, every=st.booleans(), within=st.none() | seconds),
    st.builds(
        lambda formula, when, time: HoldsAt(
            formula=formula, when=when, time=time if when in ("at", "by") else 0.0
        ),
        formulas,
        st.sampled_from(["at", "always", "never", "by"]),
        seconds,
    ),
    st.builds(
        FiresInOrder, rules=st.lists(names, min_size=2, max_size=4).map(tuple), same_tick=st.booleans()
    ),
    st.builds(HoldsWhenever, rule=names, formula=formulas),
)


@given(expectations)
def test_the_sentence_of_any_expectation_is_read_as_that_expectation(made):
    read = read_expectation(INDEX, made.sentence())
    assert not isinstance(made, SameOrder)
    if isinstance(made, FiresTimes) and made.times == 0 and made.how == "at most":
        # “never” says the same of both
        assert read == FiresTimes(rule=made.rule, times=0, start=made.start, end=made.end)
    else:
        assert read.sentence() == made.sentence()
        assert type(read) is type(made)
