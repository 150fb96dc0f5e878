"""Entries about objects touching one another."""

from collections.abc import Iterator
from typing import Literal

from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Candidates
from gatillo.catalogue.declare.entry import occasion, role
from gatillo.catalogue.declare.facts import Contact
from gatillo.catalogue.declare.subjects import Subject
from gatillo.level.roles import Role

SUBJECT = Subject("touching", place=30)

State = Literal["begun", "touching", "ended"]


def _contact(state: State, sentence: str, help: str, name: str) -> None:
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
        b=role(),
    )(compute)


_contact(
    "begun",
    "{a} begins to touch {b}",
    "Once for each pair, in the tick in which their shapes meet.",
    "begins_to_touch",
)
_contact("touching", "{a} touches {b}", "In every tick in which their shapes meet, for each pair.", "touches")
_contact(
    "ended",
    "{a} stops touching {b}",
    "Once for each pair, in the tick in which their shapes separate.",
    "stops_touching",
)
