"""What the player can choose: topics of a conversation, entries of a menu."""

from __future__ import annotations

from typing import Any

import numpy as np

from gatillo.level.model import Topic
from gatillo.sim.matching.match_table import Matches, View
from gatillo.sim.world.world import World


def topics(world: World) -> tuple[Topic, ...]:
    """Return what the player can talk about now."""
    row = world.row_of_id(world.prompts.talking) if world.prompts.talking else -1
    if row < 0:
        return ()
    kind = world.kind.item(row)
    offered = world.program.topic_conditions[kind]
    return tuple(
        topic
        for topic, asked in zip(world.program.kinds[kind].topics, offered, strict=True)
        if asked is None or holds_for(world, row, asked)
    )


def holds_for(world: World, row: int, asked: Any) -> bool:
    """Return whether a formula about one object, by its kind's name, holds for it; one without an answer does not."""
    token_of_kind = world.program.kind_tokens[world.kind.item(row)]
    view = View(world, Matches(1, {token_of_kind: np.array([row], dtype=np.int64)}), 0)
    return bool(np.all(asked.evaluate(view))) and not view.faults


def choices(world: World) -> tuple[int, tuple[str, ...]]:
    """Return what the player can choose now, and the id of what offers it: a menu's entries, or topics."""
    if world.prompts.menu is not None:
        return world.prompts.menu.prompt, world.prompts.menu.entries
    return world.prompts.talking, tuple(topic.name for topic in topics(world))
