"""A level that was edited can always be opened again."""

from __future__ import annotations

from msgspec.structs import replace

from building import START, add, c, kind, level, rule, things
from gatillo.level import rule_edits, thing_edits
from gatillo.level.edits import delete_objects
from gatillo.level.model import Reference, Section, Variable
from gatillo.level.tidying import tidied
from gatillo.level.validation import flaws


def yard():
    first = rule("first", when=START, do=add("level.n"), id=1)
    again = rule("again", when=c("every_tick"), do=add("level.n"), id=2)
    moth = replace(
        kind("Moth", 5, has={"speed": 3.0}),
        variables=(Variable("mood", "calm"), Variable("lamp", Reference("Lamp 1", "Lamp"))),
    )
    built = level(
        first,
        Section(name="First try", on=False, rules=(again,)),
        kinds=(moth, kind("Lamp", 5)),
        objects=(
            *things("Lamp", (0, 0)),
            replace(things("Moth", (9, 9), first=10)[0], attached="Lamp 1", values={"mood": "wild"}),
        ),
        has={"n": 0.0},
    )
    trial = replace(built.trials[0], on=("First try",), off=("first",), values={"n": 4.0})
    return replace(
        built, trials=(trial,), variables=(*built.variables, Variable("goal", Reference("Lamp 1", "Lamp")))
    )


def test_a_level_in_which_nothing_is_gone_stays_the_same():
    built = yard()
    assert not list(flaws(built))
    assert tidied(built) is built


def test_what_is_switched_by_a_trial_can_be_deleted():
    built = yard()
    without = replace(built, order=built.order[1:])
    assert list(flaws(without))
    assert tidied(without).trials[0].off == ()
    assert tidied(without).trials[0].on == ("First try",)
    without = rule_edits.delete_section(built, "First try", keep_rules=True)
    assert tidied(without).trials[0].on == ()
    assert not list(flaws(tidied(without)))


def test_an_object_that_others_refer_to_or_hang_on_can_be_deleted():
    without = tidied(delete_objects(yard(), {1}))
    assert not list(flaws(without))
    assert without.variables[1].value == Reference("", "Lamp")
    assert without.kinds[0].variables[1].value == Reference("", "Lamp")
    assert without.objects[0].attached == ""


def test_a_kind_that_variables_are_bound_to_can_be_deleted():
    without = tidied(thing_edits.delete_kind(yard(), "Lamp"))
    assert not list(flaws(without))
    assert without.variables[1].value == Reference()


def test_a_variable_that_changes_its_type_takes_its_other_values_along():
    for owner, name in ((None, "n"), ("Moth", "mood")):
        changed = tidied(thing_edits.set_variable(yard(), owner, name, value=True))
        assert not list(flaws(changed))
    assert tidied(thing_edits.set_variable(yard(), None, "n", value=True)).trials[0].values == {}
