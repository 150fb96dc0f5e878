"""Static checks: what they find, where, and that repairs repair."""

from __future__ import annotations

import pytest
from msgspec.structs import replace

from building import EVERY_TICK, START, add, c, heard, kind, level, rule, send, things
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.inspect.findings import findings, repaired

KINDS = (kind("Pod", 5), kind("Gardener", 9), kind("Ghost", 3))
TOUCH = c("begins_to_touch", a="Gardener", b="Pod")


def built(*rules, has=None, **more):
    objects = (*things("Pod", (0, 0)), *things("Gardener", (50, 0), first=9))
    variables = {"n": 0.0, **(has or {})}
    read = rule(
        "reads", when=START, if_=c("formula_holds", formula="level.n >= 0"), do=add("level.n"), id=900
    )
    return level(*rules, read, kinds=KINDS, objects=objects, has=variables, **more)


def told(lv):
    return [f.sentence() for f in findings(lv)]


def test_a_level_without_a_flaw_has_no_finding():
    assert told(built(rule("r", when=TOUCH, do=add("level.n")))) == []


@pytest.mark.parametrize("name", study_names())
def test_studies_have_no_grave_finding(name):
    assert [f.sentence() for f in findings(read_level(study_path(name))) if f.grave] == []


@pytest.mark.parametrize(
    ("rules", "says"),
    [
        (
            [rule("r", when=START, do=add("level.m"))],
            "rule “r”, do 1: variable: the level has no variable “m”",
        ),
        ([rule("r", when=START, do=send("hello"))], "rule “r”, do 1: “hello” is sent but no rule hears it"),
        (
            [rule("r", when=heard("hello"), do=add("level.n"))],
            "rule “r”, when 1: “hello” is heard but nothing sends it",
        ),
        (
            [rule("r", when=c("touches", a="Ghost", b="Pod"), do=add("level.n", "dt"))],
            "can never fire: there is no “Ghost”",
        ),
        (
            [rule("r", when=START, if_=c("formula_holds", formula="no"), do=add("level.n"))],
            "this condition is always no",
        ),
        (
            [
                rule("off", when=START, do=add("level.n"), on=False),
                rule("r", when=START, if_=c("has_fired", rule="off"), do=add("level.n")),
            ],
            "“off” is switched off",
        ),
        (
            [
                rule(
                    "r",
                    when=c("touches", a="Gardener", b="Pod"),
                    do=c("create", kind="Pod", where="Gardener"),
                )
            ],
            "done in every tick for as long as",
        ),
        ([rule("r", when=EVERY_TICK, do=c("move_by", who="Pod", dx="3"))], "“3” is added in every tick"),
        (
            [rule("r", when=c("key_held", key="W"), do=add("Pod.x", "Pod.y"))],
            "“Pod.y” is added in every tick",
        ),
        (
            [rule("a", when=TOUCH, do=c("remove", who="Pod")), rule("b", when=TOUCH, do=add("level.n"))],
            "“a”, above, always removes the “Pod” first",
        ),
        (
            [
                rule("a", when=TOUCH, do=c("set_variable", variable="level.n", value="1")),
                rule("b", when=TOUCH, do=c("set_variable", variable="level.n", value="2")),
            ],
            "“a” sets the same variable on the same occasion",
        ),
        (
            [rule("a", when=heard("x"), do=send("y")), rule("b", when=heard("y"), do=send("x"))],
            "these messages cause one another without end: “a” → “b” → “a”",
        ),
    ],
)
def test_a_flaw_is_found_at_its_line(rules, says):
    assert any(says in t for t in told(built(*rules)))


@pytest.mark.parametrize(
    "rules",
    [
        [rule("r", when=EVERY_TICK, do=c("move_by", who="Pod", dx="30 * dt"))],
        [rule("r", when=TOUCH, do=c("move_by", who="Pod", dx="3"))],
        [
            rule(
                "r",
                when=c("touches", a="Gardener", b="Pod"),
                fires="on becoming true",
                do=c("create", kind="Pod", where="Gardener"),
            )
        ],
        [
            rule(
                "r",
                when=c("touches", a="Gardener", b="Pod"),
                cooldown=1.0,
                do=c("create", kind="Pod", where="Gardener"),
            )
        ],
        [
            rule("a", when=heard("x"), do=[c("wait", time="1"), send("y")], cooldown=1.0),
            rule("b", when=heard("y"), do=send("x")),
        ],
        [
            rule("a", when=TOUCH, if_=c("past", time="1"), do=c("remove", who="Pod")),
            rule("b", when=TOUCH, do=add("level.n")),
        ],
    ],
)
def test_what_is_meant_so_is_not_found(rules):
    assert told(built(*rules)) == []


def test_unused_variables_are_found():
    found = told(built(rule("r", when=TOUCH, do=add("level.written")), has={"written": 0.0, "idle": 0.0}))
    assert found == [
        "level: the variable level.written is written but never read",
        "level: the variable level.idle is neither read nor written",
    ]


@pytest.mark.parametrize(
    "rules",
    [
        [rule("a", when=START, do=send("helo")), rule("b", when=heard("hello"), do=add("level.n"))],
        [rule("r", when=c("touches", a="Gardener", b="Pod"), do=c("create", kind="Pod", where="Gardener"))],
        [rule("r", when=EVERY_TICK, do=c("move_by", who="Pod", dx="3"))],
    ],
)
def test_a_repair_takes_its_finding_away(rules):
    lv = built(*rules)
    finding = next(f for f in findings(lv) if f.repair is not None)
    after = [f.message for f in findings(repaired(lv, finding))]
    assert finding.message not in after


def test_a_finding_without_a_repair_says_so():
    finding = findings(built(rule("r", when=START, do=add("level.m"))))[0]
    with pytest.raises(ValueError, match="no repair"):
        repaired(built(), finding)


def test_two_rules_that_set_a_variable_at_different_times_are_no_finding():
    def at(name, time):
        return rule(
            name,
            when=c("after_start", time=time),
            do=c("set_variable", variable="level.n", value=time),
            id=int(time),
        )

    said = [f.message for f in findings(level(at("one", "1"), at("two", "2"), has={"n": 0.0}))]
    assert not any("same occasion" in words for words in said)
    said = [f.message for f in findings(level(at("one", "1"), replace(at("two", "1"), id=2), has={"n": 0.0}))]
    assert any("same occasion" in words for words in said)
