"""Two runs side by side: what is gone, new and moved, which value parted first and why, at other rates and seeds."""

from __future__ import annotations

import random

import pytest
from asking import random_level
from msgspec.structs import replace

from building import EVERY_TICK, POD, START, add, c, kind, level, rule, run, things
from gatillo.examples import study_names, study_path
from gatillo.files.exports import write_trace
from gatillo.files.level_file import decode_level, encode_level, read_level
from gatillo.files.saved_trace import SavedTraceError, read_firings
from gatillo.inspect.comparison import by_rule, compare, differences, first_parted
from gatillo.inspect.rates import rate_check, seed_check
from gatillo.inspect.reasons.sides import why_on_both_sides
from gatillo.language.renaming import rename
from gatillo.level.edits import as_tried
from gatillo.level.model import Level, Section, Spot, Variant
from gatillo.level.thing_edits import add_variant, delete_variable, delete_variant
from gatillo.level.validation import flaws
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run, run_trial


def count_to(limit: str, at: str = "0.3"):
    return level(
        rule("grow", when=EVERY_TICK, do=add("level.n"), id=1),
        rule(
            "full",
            when=EVERY_TICK,
            if_=c("formula_holds", formula=f"level.n > {limit}"),
            do=add("level.m"),
            fires="first time only",
            id=2,
        ),
        rule(
            "late", when=c("after_start", time=at), do=c("set_variable", variable="level.k", value="7"), id=3
        ),
        has={"n": 0.0, "m": 0.0, "k": 0.0},
    )


def test_a_moved_firing_is_told_with_the_first_tick_and_the_value_that_parted():
    before, after = run(count_to("20")), run(count_to("25"))
    told = compare(before, after)
    assert (told.gone, told.new, told.moved) == ({2: (21,)}, {2: (26,)}, {2: ((21, 26),)})
    assert told.first_tick == 21 and told.ticks() == [21, 26] and told.words() == "1 firing moved"
    (parted,) = first_parted(before, after)
    assert parted.sentence() == "level.m was 1, now 0, at the end of tick 21"
    one, other = why_on_both_sides(before, after, parted)
    assert one.sentence == "level.m was 1 — set at 0.350 s by “full”, action 1"
    assert other.sentence == "level.m was 0 — as it was at the start"
    assert by_rule(before, after) == [("full", 1, 1, 0, 0, 1)]


def test_a_value_may_part_without_any_firing_being_other():
    before = run(count_to("20"))
    third = before.program.level.order[2]
    other = replace(third, do=(c("set_variable", variable="level.k", value="8"),))
    after = run(replace(before.program.level, order=(*before.program.level.order[:2], other)))
    assert compare(before, after).same
    assert [p.sentence() for p in first_parted(before, after)] == [
        "level.k was 7, now 8, at the end of tick 18"
    ]
    assert first_parted(before, run(count_to("20"))) == []


def test_a_rename_is_no_difference():
    built = count_to("20")
    other = rename(built, "rule", "full", "Brimful")
    assert compare(run(built), run(other)).same and first_parted(run(built), run(other)) == []


def test_objects_are_told_apart_by_their_ids():
    def built(x: float):
        return level(
            rule("go", when=START, do=c("set_velocity", who="Pod 2", dx=str(x), dy="0", axes="the level's")),
            kinds=(POD,),
            objects=things("Pod", (0, 0), (50, 0)),
        )

    parted = first_parted(run(built(30)), run(built(60)))
    assert [p.name for p in parted] == ["Pod 2.vx"] and parted[0].object_id == 2
    one, _ = why_on_both_sides(run(built(30)), run(built(60)), parted[0])
    assert "set at 0.017 s by “go”, action 1" in one.sentence


def test_one_that_only_one_run_has_is_told():
    def built(many: str):
        return level(
            rule("make", when=START, do=c("create", kind="Pod", count=many, where="Pod 1")),
            kinds=(POD,),
            objects=things("Pod", (0, 0)),
        )

    parted = first_parted(run(built("1")), run(built("2")))
    assert [(p.name, p.before, p.after) for p in parted] == [("Pod +2", "not there", "there")]


@pytest.mark.parametrize("seed", range(20))
def test_the_first_tick_that_differs_is_the_first(seed):
    chance = random.Random(seed)
    built = random_level(chance)
    order = list(built.order)
    chance.shuffle(order)
    before = run_trial(Program(built), built.trials[0])
    after = run_trial(Program(replace(built, order=tuple(order))), built.trials[0])
    ticks = [
        t
        for sort in ("value", "memory")
        for t in range(before.done + 1)
        if list(differences(before.world_at(before.end_of(t)), after.world_at(after.end_of(t)), sort))
    ]
    found = first_parted(before, after, thorough=True)
    assert [p.tick for p in found[:1]] == ticks[:1]
    assert first_parted(before, after) == found


# rates and seeds


def test_a_level_in_seconds_is_the_same_at_every_rate_and_one_in_ticks_is_told():
    steady = level(
        rule("go", when=c("key_held", key="A"), do=add("level.n", "30 * dt")),
        rule(
            "there",
            when=EVERY_TICK,
            if_=c("formula_holds", formula="level.n >= 9"),
            do=add("level.m"),
            fires="first time only",
        ),
        has={"n": 0.0, "m": 0.0},
        keys=(("A", 0.1, 0.8),),
    )
    assert all(apart.same for apart in rate_check(steady, steady.trials[0]))
    ticks = replace(steady, order=(replace(steady.order[0], do=(add("level.n", "0.5"),)), steady.order[1]))
    slow, fast = rate_check(ticks, ticks.trials[0])
    assert slow.of == "30 ticks a second" and not slow.same and not fast.same
    assert slow.rule == "there" and fast.rule == "there"
    assert fast.parted[0].name == "level.n"
    fires, lacks = fast.why
    assert fires.sentence.startswith("“there” fired") and "did not fire" in lacks.sentence


def test_a_value_that_depends_on_the_tick_is_told_though_the_same_rules_fire():
    def turning(by: str) -> Level:
        return level(
            rule("go", when=c("key_held", key="A"), do=add("level.n", by)),
            has={"n": 0.0},
            keys=(("A", 0.1, 0.8), ("A", 1.2, 1.9)),
            seconds=2.0,
        )

    slow, fast = rate_check(turning("0.5"), turning("0.5").trials[0])
    for apart, times in ((slow, 0.5), (fast, 2.0)):
        assert not apart.same and not apart.rule and "level.n was" in apart.sentence()
        (parted,) = apart.parted
        # as often as there are ticks, give or take the ones at the ends
        assert abs(float(parted.after) / float(parted.before) - times) < 0.2
        assert [r.sentence.startswith("level.n was") for r in apart.why] == [True, True]
    assert all(apart.same for apart in rate_check(turning("30 * dt"), turning("30 * dt").trials[0]))


@pytest.mark.parametrize("name", ["02", "05", "08", "13", "16", "20", "21"])
def test_studies_in_seconds_have_the_same_values_at_every_rate(name):
    (study,) = (one for one in study_names() if one.startswith(name))
    built = read_level(study_path(study))
    assert [apart.sentence() for apart in rate_check(built, built.trials[0]) if not apart.same] == []


def test_chance_that_shows_is_told_by_seed_and_chance_that_does_not_is_not():
    built = level(
        rule(
            "draw",
            when=c("every_seconds", period="0.2", first="0.2"),
            if_=c("chance", percent="50"),
            do=add("level.n"),
        ),
        has={"n": 0.0},
    )
    found = seed_check(built, built.trials[0], 6)
    assert [a.of for a in found] == [f"seed {n}" for n in range(2, 7)]
    apart = next(a for a in found if not a.same)
    assert apart.rule == "draw" and "“draw”" in apart.sentence()
    assert any("the draw gave" in line for reason in apart.why for line in reason.lines(2))
    still = level(rule("go", when=EVERY_TICK, do=add("level.n")), has={"n": 0.0})
    assert all(a.same for a in seed_check(still, still.trials[0], 4))


# variants


def with_variant(**more) -> Variant:
    return Variant(name="quick", **more)


def test_a_variant_switches_and_starts_otherwise_and_is_read_back():
    built = replace(count_to("20"), variants=(with_variant(values={"n": 15.0}, off=("late",)),))
    assert decode_level(encode_level(built)).variants == built.variants and list(flaws(built)) == []
    plain, varied = run(built), run_trial(Program(as_tried(built, built.variants[0])), built.trials[0])
    assert compare(plain, varied).moved == {2: ((21, 6),)}
    assert compare(plain, varied).gone[3] == (18,)


def test_variants_follow_names_and_what_is_gone_leaves_them():
    built = replace(count_to("20"), variants=(with_variant(values={"n": 15.0}, off=("late",)),))
    other = rename(rename(built, "rule", "late", "Tardy"), "level variable", "n", "many")
    assert other.variants[0].off == ("Tardy",) and other.variants[0].values == {"many": 15.0}
    assert delete_variable(built, None, "n").variants[0].values == {}
    assert rename(built, "variant", "quick", "Quick one").variants[0].name == "Quick one"
    more, name = add_variant(built)
    assert len(more.variants) == 2 and delete_variant(more, name) == built


@pytest.mark.parametrize(
    ("variant", "said"),
    [
        (with_variant(off=("nobody",)), "there is no rule or section called “nobody”"),
        (with_variant(values={"x9": 1.0}), "the level has no variable “x9”"),
        (with_variant(values={"n": "text"}), "“n” is a number"),
    ],
)
def test_a_variant_that_speaks_of_what_there_is_not_is_told(variant, said):
    told = list(flaws(replace(count_to("20"), variants=(variant,))))
    assert any(said in flaw.message for flaw in told)


def test_sections_are_switched_by_variants():
    inside = Section(name="part", rules=(rule("grow", when=EVERY_TICK, do=add("level.n"), id=1),))
    built = level(inside, has={"n": 0.0}, variants=(with_variant(off=("part",)),))
    assert run_trial(Program(as_tried(built, built.variants[0])), built.trials[0]).trace.firings() == []


# saved traces


def test_a_saved_trace_is_read_back_and_what_is_none_is_refused(tmp_path):
    made = run(count_to("20"))
    path = tmp_path / "t.jsonl"
    write_trace(made, path)
    names = [t.source.name for t in made.program.rules]
    assert read_firings(path) == [
        (f.tick, f.position, names[f.rule_index], f.matches) for f in made.trace.firings()
    ]
    for wrong in ("not json", '{"tick": 1}', "[[[["):
        path.write_text(wrong + "\n")
        with pytest.raises(SavedTraceError, match="line 1"):
            read_firings(path)
    path.write_text('{"way": "do", "tick": 1e999, "position": 1, "rule": "r", "matches": 1}\n')
    with pytest.raises(SavedTraceError, match="line 1"):
        read_firings(path)
    with pytest.raises(SavedTraceError, match="is not there"):
        read_firings(tmp_path / "none.jsonl")


def test_runs_at_other_rates_have_no_ticks_in_common():
    built = count_to("20")
    slow = replace(built, settings=replace(built.settings, rate=30))
    with pytest.raises(ValueError, match="tick rates"):
        first_parted(run(built), run(slow))


def test_an_object_that_only_one_run_has_created_is_spoken_of_in_both():
    def made(time):
        creates = rule(
            "Make",
            when=c("after_start", time=time),
            do=c("create", count="1", kind="Moth", where="gate"),
            id=1,
        )
        moth = kind("Moth", 5)
        return level(creates, kinds=(moth,), objects=things("Moth", (0, 0)), places=(Spot(name="gate", x=1, y=2),), seconds=1)  # fmt: skip

    runs = []
    for time in ("0.2", "0.5"):
        built = made(time)
        run = Run(Program(built), built.trials[0])
        run.advance()
        runs.append(run)
    parted = first_parted(*runs)
    assert any(one.object_id is not None and one.object_id >= 1_000_000 for one in parted)
    for one in parted:
        assert all(reason.sentence for reason in why_on_both_sides(*runs, one))
