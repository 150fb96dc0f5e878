"""Entries about objects touching one another."""

from collections.abc import Iterator
from typing import Literal

from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Candidates
from gatillo.catalogue.declare.entry import occasion, role
from gatillo.catalogue.declare.facts import Contact
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import Wording, worded
from gatillo.level.roles import Role

SUBJECT = Subject("touching", place=30)

State = Literal["begun", "touching", "ended"]


def _contact(state: State, sentence: str, help: str, name: str, says: list[str | Wording]) -> None:
    def wakes(a: Role, b: Role) -> Iterator[Contact]:
        for one in a.kinds:
            for other in b.kinds:
                yield Contact(state, min(one, other), max(one, other))

    def compute(world: QueryApi, a: Role, b: Role) -> Candidates:
        return world.contacts(state, a, b)

    compute.__name__ = name
    occasion(
        sentence,
        help,
        wakes=wakes,
        continuing=state == "touching",
        measured=("gap", "a", "b"),
        begins="touched" if state == "begun" else "",
        a=role(),
        says=says,
        b=role(),
    )(compute)


_contact(
    "begun",
    "{a} begins to touch {b}",
    "Once for each pair, in the tick in which their shapes meet.",
    "begins_to_touch",
    [
        "{a} is pushed/moved/dragged/put/carried on/onto/into/against {b}",
        "{a} flies/runs/drives/rolls/walks/crashes/slides/falls/swims into {b}",
        "{a} touches {b}",
        "{a} hits/bumps/strikes/meets/contacts/overlaps/rams/catches {b}",
        "{a} runs/drives/rolls over {b}",
        "{a} collects/eats {b}",
        "{a} collides with/into {b}",
        "{a} bounces off/against/from {b}",
        "{b} is knocked/struck/bumped/rammed by! {a}",
        "{b} knocked/struck/bumped/rammed by! {a}",
        "{a} bumps/runs/crashes/walks/knocks/steps into/against {b}",
        "{a} comes/gets in/into contact with {b}",
        "{a} makes contact with {b}",
        "{a} starts touching {b}",
        "{a} starts to touch {b}",
        "{a} starts/begins overlapping {b}",
        "{a} and {b} collide/meet/touch/overlap",
        "collision/contact/collisions of/between {a} and/with {b}",
        "{a} lands/steps/falls on/onto {b}",
        "{a} reaches {b}",
        "{a} gets/comes to {b}",
        "{a} gets/comes/arrives at {b}",
        "{b} is hit/touched/struck/reached by {a}",
        worded("two {a} touch/collide/meet/overlap", b="another {a}"),
        worded("{a} touch/collide/meet/overlap each-other/another", b="another {a}"),
    ],
)
_contact(
    "touching",
    "{a} touches {b}",
    "In every tick in which their shapes meet, for each pair.",
    "touches",
    [
        "{a} keeps/stays touching {b}",
        "{a} is touching/overlapping {b}",
        "{a} stays/is/remains in contact with {b}",
        "{a} rests/stands/sits on/against {b}",
        "{b} has {a} on it/top",
        "{a} and {b} are touching",
        "{a} continues touching/to-touch {b}",
    ],
)
_contact(
    "ended",
    "{a} stops touching {b}",
    "Once for each pair, in the tick in which their shapes separate.",
    "stops_touching",
    [
        "{a} and {b} no longer touch/overlap/collide",
        "{a} is lifted/taken/moved/pulled/pushed off/from/off-of {b}",
        "{a} rolls/slides/falls/slips/drops/goes/moves/comes off/from {b}",
        "{a} is no longer in contact with {b}",
        "{a} no longer touches/overlaps {b}",
        "{a} is no longer touching {b}",
        "{a} does not touch {b} anymore/any-longer",
        "{a} does not touch {b} any more",
        "{a} leaves/separates/parts from {b}",
        "{a} ends/loses contact with {b}",
        "{a} moves/comes/gets/goes/steps off/away from {b}",
        "{a} moves/comes/gets/goes/steps off {b}",
        "{a} and {b} separate/part",
        "{a} stops/ends/ceases overlapping/hitting {b}",
        "{a} stops/ceases to touch {b}",
        "{a} is/gets off {b}",
        "{a} and {b} stop touching",
    ],
)
