"""Entries about tags."""

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.query import QueryApi
from gatillo.catalogue.contexts.values import Rows
from gatillo.catalogue.declare.entry import action, condition, role, slot
from gatillo.catalogue.declare.subjects import Subject

SUBJECT = Subject("tags", place=150)


@condition(
    "{who} has tag {tag}",
    "Whether the object, or its kind, carries a tag.",
    who=role(),
    tag=slot("tag"),
    says=[
        "{who} is tagged [with/as] {tag}",
        "{who} carries/bears [the] tag {tag}",
        "{who} is marked/labelled/labeled [as] {tag}",
        "tag {tag} is on {who}",
        "{who} has the {tag} tag",
        "{who} is {tag}",
    ],
)
def has_tag(world: QueryApi, who: Rows, tag: str) -> NDArray[np.bool_]:
    return world.tagged(who, tag)


@action(
    "give {who} the tag {tag}",
    "It carries the tag from now on; rules about that tag include it.",
    who=role(),
    tag=slot("tag", makes=True),
    undone_by="take_tag",
    says=[
        "add [the] tag {tag} to {who}",
        "tag {who} [as/with] {tag}",
        "mark/label {who} as/with {tag}",
        "give/put [the] tag {tag} to/on {who}",
        "{who} gets [the] tag {tag}",
        "give {who} tag {tag}",
        "add/put/give/stick [the] {tag} tag to/on {who}",
    ],
)
def give_tag(world: ActionApi, who: Rows, tag: str) -> None:
    world.tag(who, tag, True)


@action(
    "take the tag {tag} from {who}",
    "It no longer carries the tag.",
    tag=slot("tag"),
    who=role(),
    undone_by="give_tag",
    says=[
        "remove {tag} from {who}",
        "remove/drop/delete/clear [the] tag {tag} from/of/off {who}",
        "untag {who} [as] {tag}",
        "take [the] tag {tag} off/away {who}",
        "take [the] tag {tag} away from {who}",
        "{who} loses [the] tag {tag}",
        "unmark {who} as {tag}",
        "remove/drop/delete/clear [the] {tag} tag from/of/off {who}",
        "remove/drop/delete/clear/take [the] {tag} tag",
        "strip/pull/peel [the] {tag} tag off/from {who}",
        "strip/pull/peel [the] tag {tag} off/from {who}",
    ],
)
def take_tag(world: ActionApi, tag: str, who: Rows) -> None:
    world.tag(who, tag, False)
