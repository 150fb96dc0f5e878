"""An entry works by what its declaration says, whatever it is called and wherever it stands; a slip is an error at import."""

from __future__ import annotations

import ast
import importlib
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import pytest
from msgspec.structs import replace

import gatillo
from building import START, add, c, fired, kind, level, rule, run, things
from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.focus import FocusApi
from gatillo.catalogue.contexts.prompts import PromptApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Candidates
from gatillo.catalogue.declare import derived, facts
from gatillo.catalogue.declare.entry import action, behaviour, condition, number, occasion, role, slot
from gatillo.catalogue.declare.entry_effects import touched_by
from gatillo.catalogue.declare.slot_types import SLOT_TYPES, SlotType, declare
from gatillo.catalogue.entries.own import OWN_LINES
from gatillo.language.binding import bind
from gatillo.language.choices import choices
from gatillo.language.line_reading import readings
from gatillo.language.renaming import rename
from gatillo.language.sentence import pieces
from gatillo.level.properties import PROPERTIES, Property
from gatillo.level.roles import Index
from gatillo.sim.interaction.focus import FocusContext
from gatillo.sim.interaction.prompts import PromptContext
from gatillo.sim.motion.phase import BehaviourContext
from gatillo.sim.rules.action_context import ActionContext
from gatillo.sim.rules.query_context import QueryContext
from gatillo.sim.run import tick
from gatillo.sim.world import world as worlds

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
    @action("make {who} heavy", "For a test.", who=role())
    def weigh_down(deed, who):
        deed.set_physical(who, "gravity", 600.0)

    made = run(ball(rule("r", when=START, do=c("weigh_down", who="Ball"))))
    assert made.world.y[0] < -100 and not made.trace.faults


def test_an_action_of_any_name_that_switches_a_rule_or_a_section_works(catalogue):
    @action("silence {what}", "For a test.", what=slot("rule"))
    def silence(deed, what):
        deed.switch(f"rule {what}", False)

    @action("let {what} begin", "For a test.", what=slot("rule"))
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
    @behaviour("is heavy: {much}", "For a test.", much=number("600"))
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
        (QueryContext, QueryApi),
        (ActionContext, ActionApi),
        (BehaviourContext, BehaviourApi),
        (FocusContext, FocusApi),
        (PromptContext, PromptApi),
    ],
)
def test_what_an_entry_is_given_has_all_that_it_may_ask_for(context, protocol):
    assert protocol in context.__mro__
    assert not context.__abstractmethods__


def test_nothing_outside_the_catalogue_compares_an_entry_by_its_name_or_subject():
    """Neither by a text that is written out nor by a constant with the name of an entry; own nodes as lines are no entries.

    A set is worked out from the declarations.
    """
    found = []
    for path in sorted(SOURCE.rglob("*.py")):
        inner = path.relative_to(SOURCE)
        if "catalogue" in inner.parts:
            continue
        if inner.name == "__main__.py":
            continue
        constants = vars(importlib.import_module(".".join(("gatillo", *inner.with_suffix("").parts))))
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Compare):
                sides = [node.left, *node.comparators]
                named = any(_is_name_of_entry(side) for side in sides)
                literal = any(_is_literal(side) for side in sides)
                if named and (literal or any(_is_entry(side, constants) for side in sides)):
                    found.append(f"{path.relative_to(SOURCE)}:{node.lineno}")
            elif _asks_how_it_begins(node):
                found.append(f"{path.relative_to(SOURCE)}:{node.lineno}")
    assert found == []


def _is_entry(node, constants):
    value = constants.get(node.id) if isinstance(node, ast.Name) else None
    names = {value} if isinstance(value, str) else value if isinstance(value, tuple) else set()
    return any(isinstance(one, str) and one in CATALOGUE and one not in OWN_LINES for one in names)


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


# what follows from an entry's code


def counting(*order, **more):
    """How often the rule “r” fires in a second, and the run."""
    made = run(ball(*order, **more))
    return len(fired(made, "r")), made


def test_an_action_that_pauses_makes_the_rest_of_its_list_wait_whatever_its_declaration_says(catalogue):
    @action("hold on for {time} s", "For a test.", time=number("0.5"))
    def hold_on(deed, time):
        deed.pause(time)

    assert CATALOGUE["hold_on"].derived.waits
    _, made = counting(rule("r", when=START, do=[c("hold_on", time="0.5"), add("level.n")]))
    assert made.world.level["n"] == 1
    assert [f.tick for f in made.trace.firings()] == [1, 31]


def test_an_action_that_removes_or_creates_is_known_to_do_so(catalogue):
    @action("let {who} go", "For a test.", who=role())
    def let_go_of(deed, who):
        deed.remove(who)

    @action("bring a {what} to {where}", "For a test.", what=slot("kind"), where=slot("where"))
    def bring(deed, what, where):
        deed.create(what, where, 1)

    _, made = counting(
        rule(
            "r",
            when=START,
            do=[c("bring", what="Ball", where="Ball 1"), c("set_scale", who="new Ball", scale="3")],
        )
    )
    assert made.world.scale.tolist() == [1.0, 3.0]
    _, made = counting(rule("r", when=START, do=[c("let_go_of", who="Ball"), add("level.n", "Ball.y")]))
    # what was removed can still be spoken of by the rest of its list
    assert made.world.level["n"] == 100 and not made.trace.faults


def test_an_action_that_reads_what_it_writes_goes_match_by_match(catalogue):
    @action("raise {variable} to its square and one", "For a test.", variable=slot("number variable"))
    def square(deed, variable):
        deed.change(variable, lambda value: value * value + 1)

    @action("add nothing to {variable}", "For a test.", variable=slot("number variable"))
    def nothing(deed, variable):
        deed.increase(variable, 0)

    assert CATALOGUE["square"].derived.reads_what_it_writes
    assert not CATALOGUE["nothing"].derived.reads_what_it_writes
    three = {"objects": things("Ball", (0.0, 100.0), (50.0, 100.0), (90.0, 100.0))}
    built = replace(
        ball(
            rule(
                "r",
                when=START,
                if_=c("formula_holds", formula="Ball.x >= 0"),
                do=c("square", variable="level.n"),
            )
        ),
        **three,
    )
    # 0 → 1 → 2 → 5
    assert run(built).world.level["n"] == 5


def test_a_condition_that_asks_the_pointer_or_a_contact_gets_it_found(catalogue):
    @condition("{who} is pointed at", "For a test.", who=role())
    def pointed_at(world, who):
        return np.isin(world.ids(who), world.under_ids())

    @condition("{one} meets {other}", "For a test.", one=role(), other=role())
    def meets(world, one, other):
        return world.are_touching(one, other)

    assert CATALOGUE["pointed_at"].derived.needs == ("under",)
    assert CATALOGUE["meets"].derived.contact == ("one", "other")
    built = ball(rule("r", if_=c("meets", one="Ball", other="another Ball"), do=add("level.n")))
    built = replace(built, objects=things("Ball", (0.0, 0.0), (10.0, 0.0)))
    assert len(fired(run(built), "r")) == 60


def test_a_condition_that_reads_the_run_is_asked_in_every_tick(catalogue):
    @condition("it is late, after {time}", "For a test.", time=number("0.5"))
    def late(world, time):
        return world.tick >= time * world.rate

    assert not CATALOGUE["late"].derived.steady
    assert CATALOGUE["formula_holds"].derived.steady and not CATALOGUE["all_of"].derived.steady
    many, _ = counting(rule("r", if_=c("late", time="0.5"), do=add("level.n")))
    assert many == 31


@pytest.mark.parametrize(
    "make, says",
    [
        (lambda: action("do {it}", "x", it=number())(lambda deed, them: None), "parameters of <lambda> and its slots"),
        (lambda: behaviour("go {on}", "x", on=number())(lambda motion, who, on: None), "second parameter is called rows"),
        (lambda: behaviour("go {on}", "x", phase="later", on=number())(lambda m, rows, on: None), "'later' is no phase"),
        (lambda: condition("{a} so", "x", pair=("a", "b", "distance"), a=role())(lambda w, a: True), "does not have: .'b'"),
        (lambda: condition("{a} so", "x", measured=("gap", "b"), a=role())(lambda w, a: True), "does not have: .'b'"),
        (lambda: occasion("at {t}", "x", alarm=("u", ""), t=number())(lambda w, t: None), "does not have: .'u'"),
        (lambda: action("do", "x", writes={"who": ("x",)})(lambda deed: None), "sentence and slots differ"),
        (lambda: condition("so", "x", joins="some")(lambda w: True), "'some' is no joins"),
    ],
)  # fmt: skip
def test_a_slip_in_a_declaration_is_an_error_where_it_is_declared(catalogue, make, says):
    with pytest.raises(TypeError, match=says):
        make()


def test_the_table_for_installations_without_sources_says_what_the_sources_say():
    table = derived._table()
    assert set(table) == set(CATALOGUE), "make schema draws it"
    for name, entry in CATALOGUE.items():
        telling = frozenset(n for n, one in entry.slots.items() if one.kind.tells_objects)
        seen_by = {"occasion": QueryApi, "condition": QueryApi, "pick": QueryApi, "action": ActionApi}.get(
            entry.group
        )
        seen_by = seen_by or {"focus": FocusApi, "prompts": PromptApi}.get(entry.phase, BehaviourApi)
        assert touched_by(entry.compute, tuple(entry.slots), telling, seen_by) == table[name], name


def test_a_property_of_objects_without_a_column_is_an_error_at_import(monkeypatch):
    monkeypatch.setitem(PROPERTIES, "colourfulness", Property())
    with pytest.raises(TypeError, match="colourfulness"):
        worlds.check_state()
