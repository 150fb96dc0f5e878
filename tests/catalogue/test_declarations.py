"""An entry works by what its declaration says, whatever it is called and wherever it stands; a slip is an error at import."""

from __future__ import annotations

import ast
from dataclasses import dataclass
from pathlib import Path

import pytest
from msgspec.structs import replace

import gatillo
from building import START, add, c, fired, kind, level, rule, run, things
from gatillo.catalogue import CATALOGUE, facts
from gatillo.catalogue.binding import bind
from gatillo.catalogue.choices import choices
from gatillo.catalogue.entry import action, behaviour, condition, number, occasion, role, slot
from gatillo.catalogue.reading import readings
from gatillo.catalogue.renaming import rename
from gatillo.catalogue.sentence import pieces
from gatillo.catalogue.slot_types import SLOT_TYPES, SlotType, declare
from gatillo.catalogue.surroundings import Asked, Candidates, Deed, Looks, Motion, Offers
from gatillo.level.roles import Index
from gatillo.sim.interaction.focus import FocusContext
from gatillo.sim.interaction.prompts import PromptContext
from gatillo.sim.motion.phase import BehaviourContext
from gatillo.sim.rules.action_context import ActionContext
from gatillo.sim.rules.query_context import QueryContext
from gatillo.sim.run import tick

SOURCE = Path(gatillo.__file__).parent


@pytest.fixture
def catalogue(monkeypatch):
    """Entries declared in a test are gone after it, and so are its facts."""
    for name, entry in dict(CATALOGUE).items():
        monkeypatch.setitem(CATALOGUE, name, entry)
    before = set(CATALOGUE)
    kept = list(facts.FACTS)
    yield CATALOGUE
    for name in set(CATALOGUE) - before:
        del CATALOGUE[name]
    facts.FACTS[:] = kept


def ball(*order, **more):
    return level(
        *order,
        kinds=(kind("Ball", 5, contact="movable"),),
        objects=things("Ball", (0.0, 100.0)),
        has={"n": 0.0},
        seconds=1,
        **more,
    )


def test_an_action_of_any_name_in_any_module_that_changes_gravity_works(catalogue):
    @action("make {who} heavy", "For a test.", writes={"who": ("gravity",)}, who=role())
    def weigh_down(deed, who):
        deed.set_physical(who, "gravity", 600.0)

    made = run(ball(rule("r", when=START, do=c("weigh_down", who="Ball"))))
    assert made.world.y[0] < -100 and not made.trace.faults


def test_an_action_of_any_name_that_switches_a_rule_or_a_section_works(catalogue):
    @action("silence {what}", "For a test.", switches=("what",), what=slot("rule"))
    def silence(deed, what):
        deed.switch(f"rule {what}", False)

    @action("let {what} begin", "For a test.", switches=("what",), what=slot("rule"))
    def begin(deed, what):
        deed.switch(f"rule {what}", True)

    counted = rule("count", when=c("every_tick"), do=add("level.n"))
    off = rule("late", when=c("every_tick"), do=add("level.n", "100"), on=False)
    made = run(
        ball(
            counted,
            off,
            rule(
                "hush",
                when=c("after_start", time="0.5"),
                do=[c("silence", what="count"), c("begin", what="late")],
            ),
        )
    )
    assert len(fired(made, "count")) == 30
    assert len(fired(made, "late")) == 30


def test_an_occasion_with_a_fact_of_its_own_wakes(catalogue, monkeypatch):
    @facts.fact
    @dataclass(frozen=True, slots=True)
    class Tenth(facts.Fact):
        """Comes true in every tenth tick."""

    with pytest.raises(TypeError, match="Tenth"):
        tick.check_notices()

    @occasion("every tenth tick", "For a test.", wakes=lambda: [Tenth()])
    def every_tenth(world):
        return Candidates(1)

    monkeypatch.setitem(tick.NOTICES, Tenth, lambda program, world: [Tenth()] if world.tick % 10 == 0 else ())
    tick.check_notices()
    made = run(ball(rule("r", when=c("every_tenth"), do=add("level.n"))))
    assert [t for t, _ in fired(made, "r")] == [10, 20, 30, 40, 50, 60]


def test_a_fact_that_is_none_is_an_error_where_the_occasion_is_declared(catalogue):
    with pytest.raises(TypeError, match="no fact that a tick notices"):

        @occasion("now and then", "For a test.", wakes=lambda: [("presed", "E")])
        def now_and_then(world):
            return Candidates(1)

    with pytest.raises(AttributeError):

        @occasion("{a} is there", "For a test.", wakes=lambda a: [facts.Presed(a)], a=role())
        def is_there(world, a):
            return Candidates(1)

    assert not {"now_and_then", "is_there"} & set(CATALOGUE)


def test_a_condition_of_any_name_that_joins_others_is_a_group(catalogue):
    @condition("not one of these", "For a test.", joins="none")
    def not_one(world):
        return True

    inner = c("formula_holds", formula="level.n > 5")
    built = ball(
        rule("r", when=c("every_tick"), if_=c("not_one"), do=add("level.n")),
    )
    first = built.order[0]
    built = replace(built, order=(replace(first, if_=(replace(first.if_[0], of=(inner,)),)),))
    assert run(built).world.level["n"] == 6


def test_a_behaviour_of_any_name_that_changes_gravity_works_and_ends_when_switched_off(catalogue):
    @behaviour("is heavy: {much}", "For a test.", writes=("gravity",), much=number("600"))
    def is_heavy(motion, rows, much):
        motion.fall(rows, much, 0.0, 0.0)

    heavy = kind("Ball", 5, contact="movable", behaviours=(c("is_heavy", much="600"),))
    built = level(
        rule(
            "off",
            when=c("after_start", time="0.5"),
            do=c("switch_behaviour_off", who="Ball", behaviour="is heavy"),
        ),
        kinds=(heavy,),
        objects=things("Ball", (0.0, 100.0)),
        seconds=1,
    )
    made = run(built)
    assert made.world.y[0] < 0
    assert made.world.gravity[0] == 0


@pytest.mark.parametrize(
    ("context", "protocol"),
    [
        (QueryContext, Asked),
        (ActionContext, Deed),
        (BehaviourContext, Motion),
        (FocusContext, Looks),
        (PromptContext, Offers),
    ],
)
def test_what_an_entry_is_given_has_all_that_it_may_ask_for(context, protocol):
    assert protocol in context.__mro__
    assert not context.__abstractmethods__


def test_nothing_outside_the_catalogue_compares_an_entry_by_its_name_or_subject():
    found = []
    for path in sorted(SOURCE.rglob("*.py")):
        if "catalogue" in path.relative_to(SOURCE).parts:
            continue
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Compare):
                sides = [node.left, *node.comparators]
                named = any(_is_name_of_entry(side) for side in sides)
                literal = any(_is_literal(side) for side in sides)
                if named and literal:
                    found.append(f"{path.relative_to(SOURCE)}:{node.lineno}")
            elif _asks_how_it_begins(node):
                found.append(f"{path.relative_to(SOURCE)}:{node.lineno}")
    assert found == []


def _asks_how_it_begins(node):
    called = isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute)
    return called and node.func.attr in ("startswith", "endswith") and _is_name_of_entry(node.func.value)


def _is_name_of_entry(node):
    if not isinstance(node, ast.Attribute):
        return False
    of_entry = isinstance(node.value, ast.Attribute) and node.value.attr == "entry"
    return (
        node.attr in ("name", "subject") and (of_entry or _called(node.value, "entry"))
    ) or node.attr == "use"


def _called(node, name):
    return isinstance(node, ast.Name) and node.id == name


def _is_literal(node):
    if isinstance(node, ast.Constant):
        return isinstance(node.value, str)
    return isinstance(node, ast.Tuple | ast.Set | ast.List) and any(map(_is_literal, node.elts))


def test_a_type_of_slot_added_in_one_place_is_bound_offered_typed_painted_and_renamed(catalogue, monkeypatch):
    for name, made in dict(SLOT_TYPES).items():
        monkeypatch.setitem(SLOT_TYPES, name, made)
    monkeypatch.setitem(
        SLOT_TYPES,
        "trial",
        SlotType(
            "trial",
            "a trial of the level",
            "trial",
            "name",
            names=lambda index, here: index.trials,
            renamed=("trial",),
        ),
    )

    @action("praise {which}", "For a test.", which=slot("trial"))
    def praise(deed, which):
        deed.note(which)

    built = ball(rule("r", when=START, do=c("praise", which="trial")))
    index = Index(built)
    assert run(built).trace.notes == [(1, "trial")]
    (problem,) = bind(index, c("praise", which="trail"), "action").problems
    assert problem.message == "there is no trial called “trail”; did you mean “trial”?"
    (problem,) = bind(index, c("praise", which=""), "action").problems
    assert problem.message == "choose a trial here"
    declared = CATALOGUE["praise"].slots["which"]
    assert choices(index, declared) == ["trial"] and declared.hint == "a trial of the level"
    assert readings(index, "praise trial")[0].clause == c("praise", which="trial")
    assert [(p.text, p.sort) for p in pieces(c("praise", which="trial"))] == [
        ("praise ", "plain"),
        ("trial", "name"),
    ]
    assert rename(built, "trial", "trial", "main").order[0].do[0].slots == {"which": "main"}


def test_a_slot_of_an_unknown_type_is_an_error_where_it_is_declared():
    with pytest.raises(TypeError, match="no type of slot called 'rool'"):
        slot("rool")
    with pytest.raises(TypeError, match="two types of slots"):
        declare(SLOT_TYPES["role"])
