"""What input a level listens to: keys, buttons and places of the pointer, choices."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from gatillo.catalogue.cards.graph_cards import sentence_of
from gatillo.catalogue.declare.entry import Slot
from gatillo.catalogue.entries.prompts import menu_conditions
from gatillo.language.sentence import sentence
from gatillo.level.keys import KEYS, POINTER_KEYS
from gatillo.level.model import Clause, Level
from gatillo.level.roles import every_clause

_KEY_DOWN = re.compile(r'key_down\(\s*"([^"]*)"\s*\)')
_POINTER = re.compile(r"\bpointer\b")


@dataclass(frozen=True, slots=True)
class Listening:
    """What a level listens to, each in the order in which the level speaks of it."""

    keys: tuple[str, ...]
    """Keys, and pointer buttons as `pointer left`."""
    choices: tuple[str, ...]
    """Topics, and entries of menus."""
    points: tuple[tuple[float, float], ...]
    """Where the pointer may be put: at the objects and in the corners; empty where nothing asks for the pointer."""

    @property
    def anything(self) -> bool:
        """Whether there is any input that could matter."""
        return bool(self.keys or self.choices or self.points)


def listening(level: Level) -> Listening:
    """Return what input the rules, graphs and behaviours of a level listen to."""
    keys: dict[str, None] = {}
    choices = dict.fromkeys(topic.name for kind in level.kinds for topic in kind.topics)
    pointer = False
    for clause in _clauses(level):
        for name, slot, text in _texts(clause):
            keys.update(dict.fromkeys(_keys(name, slot, text)))
            if name == "entries":
                choices.update(dict.fromkeys(menu_conditions(text)))
        pointer |= _POINTER.search(sentence(clause)) is not None
    known = {*KEYS, *POINTER_KEYS}
    points: list[tuple[float, float]] = []
    if pointer or any(key in POINTER_KEYS for key in keys):
        points = [(thing.x, thing.y) for thing in level.objects]
        points += [(0.0, 0.0), (level.settings.width, level.settings.height)]
    return Listening(tuple(key for key in keys if key in known), tuple(choices), tuple(dict.fromkeys(points)))


def _clauses(level: Level) -> Iterator[Clause]:
    yield from every_clause(level)
    for kind in level.kinds:
        yield from kind.behaviours


def _texts(clause: Clause) -> Iterator[tuple[str, Slot, str]]:
    """Yield each slot's name and text, also where the text is the one that is there at first."""
    entry = sentence_of(clause.use)
    for name, slot in entry.slots.items() if entry is not None else ():
        yield name, slot, clause.slots.get(name, slot.default)


def _keys(name: str, slot: Slot, text: str) -> Iterator[str]:
    if slot.kind.presses:
        yield text
    elif name == "button":
        yield f"pointer {text}"
    yield from _KEY_DOWN.findall(text)
