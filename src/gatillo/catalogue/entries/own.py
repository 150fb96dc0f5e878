"""Own nodes as lines of rules. Such a rule is compiled as the graph that it would be, with the own nodes' cards in it."""

from typing import Any, NoReturn

from gatillo.catalogue.declare.entry import action, condition, pick, slot
from gatillo.catalogue.declare.subjects import Subject

SUBJECT = Subject("own nodes", place=140)

OWN_SAYS, OWN_KEEPS, OWN_DOES = "own_says", "own_keeps", "own_does"
OWN_LINES = frozenset({OWN_SAYS, OWN_KEEPS, OWN_DOES})


def _replaced(*asked: Any, **given: Any) -> NoReturn:
    raise AssertionError("an own node's cards stand in the place of its line before a run begins")


@condition(
    "{graph} says yes, given {given}",
    "An own node that answers, by its output “yes” (else “kept”, else its first) or its yes/no value. "
    "Inputs that are not given have their defaults.",
    graph=slot("own node"),
    given=slot("given"),
    says=[
        "{graph} is true/yes",
        "own node {graph} [says] [yes]",
        "{graph} answers/says yes",
        "{graph} holds",
    ],
)
def own_says(*asked: Any, **given: Any) -> Any:
    return _replaced(*asked, **given)


@pick(
    "those that {graph} keeps, given {given}",
    "An own node that selects matches: those that leave at its output “kept” (else “yes”, else its first).",
    graph=slot("own node"),
    given=slot("given"),
    says=[
        "keep those/what/matches {graph} keeps",
        "filter by/with {graph}",
        "those which {graph} keeps",
        "matches of {graph}",
    ],
)
def own_keeps(*asked: Any, **given: Any) -> Any:
    return _replaced(*asked, **given)


@action(
    "do {graph}, given {given}",
    "An own node that acts: all its cards run before the next line. That line continues with what "
    "leaves at its first output or, where it has none, with the same matches.",
    graph=slot("own node"),
    given=slot("given"),
    says=[
        "run/call/use/perform/execute [own] [node] {graph} [given {given}]",
        "do own node {graph} [given {given}]",
        "run/call/use {graph} with {given}",
    ],
)
def own_does(*asked: Any, **given: Any) -> Any:
    return _replaced(*asked, **given)
