"""What entries are said to read and write is all that they read and write: everything else is changed, and nothing differs."""

from __future__ import annotations

import numpy as np
import pytest
from staging import KINDS, accesses, change_what_was_there, clause, disturb, stage, staged_level

from building import EVERY_TICK, c, rule
from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.effects import Touch, touches
from gatillo.catalogue.contexts.focus import FocusApi
from gatillo.catalogue.contexts.prompts import PromptApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.declare.entry_effects import touched_by
from gatillo.catalogue.entries.own import OWN_LINES
from gatillo.formula.compiling import compile_formula
from gatillo.level.roles import Index
from gatillo.sim.interaction.focus import FocusContext
from gatillo.sim.interaction.prompts import PromptContext
from gatillo.sim.motion.phase import BehaviourContext, behaving
from gatillo.sim.program.program import Program
from gatillo.sim.program.touched import Access, touched_by_behaviour, touched_by_formula, touched_by_line
from gatillo.sim.rules.action_executor import ActionExecutor
from gatillo.sim.rules.executor import RuleExecutor
from gatillo.sim.rules.matcher import Matcher
from gatillo.sim.trace.trace import NullRecorder
from gatillo.sim.world.world import World

LINES = [n for n, e in CATALOGUE.items() if e.group != "behaviour" and not e.holds and n not in OWN_LINES]
BEHAVIOURS = [n for n, e in CATALOGUE.items() if e.group == "behaviour"]
EACH = c("each_in_every_tick", who="Mover")
PARTS = {"occasion": "when", "condition": "if", "pick": "if", "action": "do"}
KEPT = frozenset({"own", "fired", "note"})
"""What is written beside what a line says: its own memory, that its rule fired."""
MINE = {"a": "Target", "by": "Mover"}
OWN = {
    "compare": {"left": "Mover.v", "right": "Target.w"},
    "best_by": {"value": "Mover.v"},
    "past": {"time": "0.1"},
    "falls_below": {"variable": "Mover.w", "limit": "4"},
    "becomes_occupied": {"a": "Target"},
    "becomes_empty": {"a": "Wall"},
    "there_are": {"comparison": ">", "count": "1"},
    "there_are_in": {"comparison": ">", "count": "1"},
    "set_setting": {"value": "5"},
    "set_friction": {"friction": "0.9"},
    "set_bounce": {"bounce": "0.9"},
    "set_contact": {"contact": "fixed"},
    "move_apart": {"gap": "90"},
    "is_of_kind": {"kind": "Mover"},
    "in_cone": {"distance": "200", "angle": "180"},
    "sent_number": {"comparison": "<", "limit": "7"},
    "topic_chosen": {"a": "Target"},
    "arrives_at_stop": {"stop": "1"},
    "enable_prompt": {"who": "Target"},
    "disable_prompt": {"who": "Target"},
    "prompt": {"reach": "200", "text": "use"},
    "focus": {"reach": "200", "half_angle": "180"},
    **dict.fromkeys(("gains_focus", "loses_focus", "has_focus"), MINE),
    **dict.fromkeys(
        ("prompt_begun", "prompt_completed", "prompt_broken_off", "entry_chosen", "prompt_offered"), MINE
    ),
}
"""Slots by which a line does something in the world that is staged."""


def program_of(name):
    """A level in which the entry stands in a rule, got ready; and its line."""
    line, group = clause(name, **OWN.get(name, {})), CATALOGUE[name].group
    if group == "occasion":
        tried = rule("tried", when=line, do=c("note", text="it"))
    elif group == "action":
        tried = rule("tried", when=EACH, do=line)
    else:
        tried = rule("tried", when=EACH, if_=line, do=c("note", text="it"))
    program = Program(staged_level(tried))
    assert not program.problems, [p.sentence() for p in program.problems]
    turn = program.rules[0]
    return program, turn, turn.block(PARTS[group])[0]


def staged(program):
    world = World(program)
    world.tick, world.time = 30, 30 * world.dt
    stage(world)
    return world


def turn_taken(world, turn, step):
    """Who was found (for an occasion), or is left (for a condition); the world is changed by what it does."""
    matcher = Matcher(world.program, world, NullRecorder())
    executor = RuleExecutor(matcher, ActionExecutor(matcher, None))
    matcher.due = {(turn.index, 0)}
    if step.part == "when":
        found = matcher.candidates(turn)
    else:
        everyone = matcher.candidates(turn)
        if step.part == "do":
            executor.take(turn)
            return None
        found = matcher.filter_by(turn, step, everyone)
    return found.n, {role: world.id[rows].tolist() for role, rows in found.rows.items()}


def second_turn(program, turn, step, disturbed=None):
    """What a rule's second turn in a staged world finds and writes, with something disturbed before it."""
    world = staged(program)
    if CATALOGUE[step.entry.name].group != "action":
        turn_taken(world, turn, step)
        change_what_was_there(world)
    if disturbed is not None:
        disturb(world, *disturbed)
    before = accesses(world)
    found = turn_taken(world, turn, step)
    after = accesses(world)
    return found, before, after


def said_free(said, also=frozenset()):
    """Whether something is not read, as far as is said."""
    return lambda access: access.what not in also and not any(access.meets(read) for read in said.reads)


def written(before, after):
    return {key for key in before.keys() | after.keys() if before.get(key) != after.get(key)}


def check_writes(said, before, after):
    come = {a.kind for a in said.writes if a.what == "there"}
    wrong = {
        access
        for access, _ in written(before, after)
        if access.what not in KEPT
        and access.kind not in come
        and not any(access.meets(write) for write in said.writes)
    }
    assert not wrong


NEVER_TRUE = frozenset({"level_starts", "chance"})
"""The first tick is over; a chance may go either way."""


@pytest.mark.parametrize("name", LINES)
def test_a_line_reads_and_writes_what_is_said_and_nothing_else(name):
    program, turn, step = program_of(name)
    said = touched_by_line(program.index, step)
    # who is matched comes from the rule's occasion
    roles = touched_by_line(program.index, turn.when[0])
    said |= roles
    found, before, after = second_turn(program, turn, step)
    check_writes(said, before, after)
    if CATALOGUE[name].group == "action":
        visible = {w.what for w in said.writes} - {"note", "wait"}
        assert not visible or written(before, after), (
            "in this world the action does nothing: the test tells nothing"
        )
    elif name not in NEVER_TRUE:
        assert found is not None
        assert found[0], "in this world it never holds: the test tells nothing"
    for of in (*KINDS, ""):
        other, _, differently = second_turn(program, turn, step, (of, said_free(said)))
        assert other == found, f"it reads more of {of or 'the level'} than it says"
        keys = {key for key in written(before, after) if key[0].what not in KEPT}
        assert {k: differently.get(k) for k in keys} == {k: after.get(k) for k in keys}, (
            f"it reads more of {of or 'the level'} than it says"
        )


def behaviour_acted(program, behaviour, disturbed=None):
    world = staged(program)
    if disturbed is not None:
        disturb(world, *disturbed)
    before = accesses(world)
    rows = behaving(world, behaviour)
    phase = behaviour.entry.phase
    if phase == "focus":
        looking = FocusContext(world)
        looking.act(behaviour, rows)
        return before, before, looking.now
    if phase == "prompts":
        offering = PromptContext(world)
        settings = {name: world.variables[column][rows] for name, column in behaviour.columns.items()}
        behaviour.entry.compute(offering, rows, **behaviour.words, **settings)
        return before, before, [(term.prompt, term.by, term.away, term.hold) for term in offering.can]
    moving = BehaviourContext(world, NullRecorder())
    moving.act(behaviour, rows)
    return before, accesses(world), sorted(moving.arrivals)


@pytest.mark.parametrize("name", BEHAVIOURS)
def test_a_behaviour_reads_and_writes_what_is_said_and_nothing_else(name):
    wanted = CATALOGUE[name].wants
    own = (clause(name, **OWN.get(name, {})), *((clause(wanted),) if wanted else ()))
    program = Program(staged_level(behaviours=own))
    assert not program.problems, [p.sentence() for p in program.problems]
    mine = next(
        b for b in program.behaviours if b.entry.name == name and program.kinds[b.kind].name == "Mover"
    )
    said = touched_by_behaviour(program.index, program.kinds[0], 0)
    before, after, told = behaviour_acted(program, mine)
    check_writes(said, before, after)
    # an urge is kept by the context, not by the world
    assert told or written(before, after) or mine.entry.phase == "urge", (
        "it does nothing: the test tells nothing"
    )
    for of in (*KINDS, ""):
        _, other, told_too = behaviour_acted(program, mine, (of, said_free(said, {"own"})))
        keys = {key for key in written(before, after) if key[0].what != "own"}
        assert told_too == told, f"it reads more of {of or 'the level'} than it says"
        assert {k: other.get(k) for k in keys} == {k: after.get(k) for k in keys}, (
            f"it reads more of {of or 'the level'} than it says"
        )


FORMULAS = (
    "Mover.v + level.w",
    "distance(Mover, Target)",
    "facing(Mover)",
    "speed(Target)",
    "count(Target)",
    "count_in(Target, yard)",
    "count_where(Target, Target.v > Mover.w)",
    "total(Target.v)",
    'timer("oven")',
    'items(Mover, "coin")',
    'sent("bang", Mover)',
    'if(saying(Mover) = "hm" or telling() = "oh", 1, 2)',
    'if(key_down("Space"), 1, 2)',
    "if(in_area(Mover, yard), Mover.depth, Target.scale)",
    "direction(Mover, pointer)",
    "time + tick",
    "random(0, 1) + random_x(yard)",
)


@pytest.mark.parametrize("source", FORMULAS)
def test_a_formula_reads_what_is_said_and_nothing_else(source):
    tried = rule("tried", when=EACH, do=c("set_variable", variable="Mover.w", value=source))
    program = Program(staged_level(tried))
    assert not program.problems, [p.sentence() for p in program.problems]
    turn = program.rules[0]
    said = touched_by_line(program.index, turn.when[0]) | touched_by_line(program.index, turn.do[0])
    _, before, after = second_turn(program, turn, turn.do[0])
    keys = written(before, after)
    assert Access("variable", "Mover", "w") in {access for access, _ in keys}
    for of in (*KINDS, ""):
        _, _, other = second_turn(program, turn, turn.do[0], (of, said_free(said)))
        mine = {k for k in keys if k[0] == Access("variable", "Mover", "w")}
        assert {k: other.get(k) for k in mine} == {k: after.get(k) for k in mine}, of


def test_a_formula_tells_what_it_reads_of_whom():
    index = Index(staged_level())
    read = touched_by_formula(
        index, compile_formula(index, 'count_where(Target, Target.v > 1) + items(Mover, "coin")')
    )
    assert read == {
        Access("variable", "Target", "v"),
        Access("there", "Target"),
        Access("there", "Mover"),
        Access("item", "Mover", "coin"),
    }


def test_every_method_of_the_world_says_what_it_touches():
    for protocol in (QueryApi, ActionApi, BehaviourApi, FocusApi, PromptApi):
        for name in protocol.__abstractmethods__:
            method = getattr(protocol, name)
            assert isinstance(method, property) or hasattr(method, "__touches__"), (
                f"{protocol.__name__}.{name}"
            )


def test_every_entry_can_be_looked_into():
    for entry in CATALOGUE.values():
        entry.touches()


def test_what_cannot_be_looked_into_is_an_error():
    handed = np.unique

    def hidden(world, who):
        handed(world)

    with pytest.raises(TypeError, match="cannot be looked into"):
        touched_by(hidden, ("who",), frozenset({"who"}), ActionApi)

    def unknown(world, who):
        return world.weather

    with pytest.raises(TypeError, match="weather"):
        touched_by(unknown, ("who",), frozenset({"who"}), ActionApi)


@pytest.mark.parametrize(
    "said", ["y of nobody_there", "weather", "weather of rows", "x of rows named nobody_there"]
)
def test_a_method_that_says_what_there_is_not_is_an_error(said):
    with pytest.raises(TypeError, match="there is not"):

        @touches(reads=said)
        def method(self, rows):
            pass


def test_what_a_helper_is_handed_comes_from_the_slots_that_it_was_given():
    def helper(deed, some, towards):
        for one in some:
            deed.face(one, towards)

    def tried(deed, who, angle):
        chosen = np.where(angle > 3, who[1:], who)
        helper(deed, chosen, angle)

    said = touched_by(tried, ("who", "angle"), frozenset({"who"}), ActionApi)
    assert said.writes == {Touch("angle", "who")}
    assert EVERY_TICK.use in CATALOGUE
