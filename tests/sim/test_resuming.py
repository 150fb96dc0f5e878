"""A run resumed after an edit does what one from the start does, to the last bit; what it takes over is as long as it may be."""

from __future__ import annotations

import random

import pytest
from msgspec.structs import replace

from building import START, add, c, kind, level, rule, things
from gatillo.examples import study_names, study_path
from gatillo.files.level_file import read_level
from gatillo.level.edits import as_tried
from gatillo.level.model import Graph, KeyBar, Node, Rule, Section, Wire
from gatillo.level.roles import all_logic
from gatillo.sim.program.program import Program
from gatillo.sim.run.resuming import resumed, shared_ticks
from gatillo.sim.run.run import Cursor, Run

TICKS = 240
FIRES = ("each tick", "on becoming true", "first time only")


def ran(built, trial=None):
    trial = trial or built.trials[0]
    run = Run(Program(as_tried(built, trial)), trial)
    run.advance(min(TICKS, run.length))
    return run


def from_both_ends(before, edited, trial=None):
    """How many ticks were taken over, the resumed run, and the run from the start."""
    trial = trial or edited.trials[0]
    program = Program(as_tried(edited, trial), before.program)
    shared = shared_ticks(before, program, trial)
    whole = ran(edited, trial)
    if not shared:
        return 0, None, whole
    again = resumed(before, program, trial, shared)
    again.advance(whole.done - again.done)
    return shared, again, whole


def same(one, other):
    assert one.trace.to_bytes() == other.trace.to_bytes()
    assert one.world.differs_in(other.world) == []
    for tick in (1, one.done // 3, one.done):
        moment = Cursor(tick, 0)
        assert one.world_at(moment).differs_in(other.world_at(moment)) == []


def with_entries(built, change):
    order = tuple(
        replace(e, rules=tuple(map(change, e.rules))) if isinstance(e, Section) else change(e)
        for e in built.order
    )
    return replace(built, order=order)


def otherwise(chance, built):
    """A level in which one rule does something else, or the input is another."""
    if chance.random() < 0.3:
        trial = built.trials[0]
        start = round(chance.uniform(0, 3), 2)
        bar = KeyBar(chance.choice(["Up", "E", "Space", "Left"]), start, start + 0.3)
        changed = replace(trial, input=replace(trial.input, keys=(*trial.input.keys, bar)))
        return replace(built, trials=(changed, *built.trials[1:]))
    if chance.random() < 0.4 and any(isinstance(e, Graph) for _, _, e in all_logic(built)):
        return otherwise_drawn(chance, built)
    rules = [e for e in _rules(built) if e.do]
    if not rules:
        return built
    chosen = chance.choice(rules)
    line = chance.randrange(len(chosen.do))
    sort = chance.choice(["more", "less", "number", "asked", "limited"])
    more = c("note", text="here")

    def change(entry):
        if entry is not chosen:
            return entry
        if sort == "more":
            return replace(entry, do=(*entry.do, more))
        if sort == "asked":
            one = c("formula_holds", formula=f"time > {chance.uniform(0, 3):.2f}")
            return replace(entry, if_=(*entry.if_, one) if chance.random() < 0.6 else entry.if_[1:])
        if sort == "limited":
            return replace(entry, cooldown=round(chance.uniform(0, 1), 1), fires=chance.choice(FIRES))
        if sort == "less" and len(entry.do) > 1:
            return replace(entry, do=entry.do[:line] + entry.do[line + 1 :])
        slots = {k: _other(chance, v) for k, v in entry.do[line].slots.items()}
        return replace(
            entry, do=(*entry.do[:line], replace(entry.do[line], slots=slots), *entry.do[line + 1 :])
        )

    return with_entries(built, change)


def otherwise_drawn(chance, built):
    """A level with one card of a graph saying something else, or standing elsewhere."""
    drawn = chance.choice([e for _, _, e in all_logic(built) if isinstance(e, Graph)])
    card = chance.choice(drawn.nodes)
    slots = {k: _other(chance, v) for k, v in card.slots.items()}
    other = chance.choice([replace(card, slots=slots), replace(card, at=(card.at[0] + 10, card.at[1]))])
    nodes = tuple(other if node is card else node for node in drawn.nodes)
    return with_entries(built, lambda e: replace(e, nodes=nodes) if e is drawn else e)


def _other(chance, text):
    try:
        return str(round(float(text) * chance.uniform(0.2, 2), 2))
    except ValueError:
        return text


def _rules(built):
    for entry in built.order:
        for one in entry.rules if isinstance(entry, Section) else (entry,):
            if isinstance(one, Rule):
                yield one


@pytest.mark.parametrize("name", study_names())
def test_a_study_resumed_after_random_edits_is_the_same_as_from_the_start(name):
    built = read_level(study_path(name))
    before, chance = ran(built), random.Random(name)
    for _ in range(9):
        shared, again, whole = from_both_ends(before, otherwise(chance, built))
        assert 0 <= shared <= before.done
        if again is not None:
            same(again, whole)


BEATS = rule("beats", when=c("every_seconds", period="0.5", first="0.5"), do=add("level.n"))
LATE = rule(
    "late",
    when=c("after_start", time="2"),
    do=(add("level.late"), c("say", text="late", who="Pod", time="1")),
)
BASE = level(
    BEATS,
    LATE,
    kinds=(kind("Pod", 5), kind("Lamp", 5)),
    objects=(*things("Pod", (0, 0)), *things("Lamp", (3, 0), first=9)),
    has={"n": 0.0, "late": 0.0},
    keys=(("E", 1.0, 1.5),),
    seconds=4,
)


def edited(**changes):
    return with_entries(BASE, lambda e: replace(e, **changes) if e.name == "late" else e)


def test_what_a_late_rule_does_matters_from_its_first_firing_on():
    shared, again, whole = from_both_ends(ran(BASE), edited(do=(add("level.late", "5"),)))
    assert shared == 119 and again.world.level["late"] == 5
    same(again, whole)


@pytest.mark.parametrize(
    "changes",
    [
        {"if_": (c("formula_holds", formula="level.n > 3"),)},
        {"if_": (c("formula_holds", formula="level.n > 2"),), "do": (add("level.late", "5"),)},
        {"fires": "first time only"},
        {"cooldown": 1.0},
        {"else_": (add("level.n"),)},
    ],
)
def test_a_rules_conditions_and_limits_matter_from_its_first_candidate_on(changes):
    shared, again, whole = from_both_ends(ran(BASE), edited(**changes))
    assert shared == 119
    same(again, whole)


def test_another_input_matters_from_its_first_tick_on():
    trial = BASE.trials[0]
    keys = (*trial.input.keys, KeyBar("F", 3.0, 3.2))
    changed = replace(BASE, trials=(replace(trial, input=replace(trial.input, keys=keys)),))
    shared, again, whole = from_both_ends(ran(BASE), changed)
    assert 178 <= shared <= 180
    same(again, whole)


def test_an_edit_of_what_is_expected_takes_over_the_whole_run():
    changed = replace(BASE, trials=(replace(BASE.trials[0], watches=("level.n",), note="seen"),))
    assert from_both_ends(ran(BASE), changed)[0] == TICKS


@pytest.mark.parametrize(
    "changes",
    [
        {"when": (START,)},
        {"on": False},
        {"do": ()},
        {"name": "later"},
        {"if_": (c("is_touching", a="Pod", b="Lamp"),)},
        {"do": (c("send_message", message="new one"),)},
        {"do": (c("give_tag", who="Pod", tag="ripe"),)},
        {"do": (c("switch_rule_off", rule="beats"),)},
        {"do": (add("level.nothing"),)},
    ],
)
def test_what_may_matter_from_the_start_takes_over_nothing(changes):
    assert from_both_ends(ran(BASE), edited(**changes))[0] == 0


def test_objects_moved_another_seed_and_another_rate_take_over_nothing():
    moved = replace(BASE, objects=things("Pod", (5, 0)))
    assert from_both_ends(ran(BASE), moved)[0] == 0
    for trial in (replace(BASE.trials[0], seed=9),):
        assert from_both_ends(ran(BASE), BASE, trial)[0] == 0
    assert from_both_ends(ran(BASE), replace(BASE, settings=replace(BASE.settings, rate=30)))[0] == 0


DRAWN = Graph(
    id=70,
    name="drawn",
    nodes=(
        Node(1, "after_start", {"time": "2"}),
        Node(2, "count_to", {"count": "1", "per": "all matches"}),
        Node(3, "add_to", {"variable": "level.n", "amount": "3"}),
        Node(4, "formula", {"value": "2"}),
    ),
    wires=(Wire("1", "2"), Wire("2.at", "3")),
)


@pytest.mark.parametrize(
    ("card", "changes", "shared"),
    [
        (3, {"slots": {"variable": "level.n", "amount": "9"}}, 119),
        (3, {"at": (50.0, 50.0)}, TICKS),
        (2, {"slots": {"count": "2", "per": "all matches"}}, 0),
        (1, {"slots": {"time": "3"}}, 0),
        (4, {"slots": {"value": "5"}}, 0),
    ],
)
def test_an_actions_card_matters_from_its_first_run_on_and_where_a_card_stands_never(card, changes, shared):
    built = replace(BASE, order=(*BASE.order, DRAWN))
    nodes = tuple(replace(n, **changes) if n.id == card else n for n in DRAWN.nodes)
    found, again, whole = from_both_ends(
        ran(built), replace(built, order=(*BASE.order, replace(DRAWN, nodes=nodes)))
    )
    assert found == shared
    if again is not None:
        same(again, whole)


def test_a_program_made_later_from_the_same_lines_leaves_the_numbers_of_one_made_before():
    first = Program(BASE)
    more = with_entries(BASE, lambda e: replace(e, do=(add("level.late"), *e.do)) if e.name == "beats" else e)
    assert Program(more, first).tick_tables.written == first.tick_tables.written[::-1]
    run, again = Run(first, BASE.trials[0]), ran(BASE)
    run.advance(TICKS)
    assert run.trace.to_bytes() == again.trace.to_bytes()
