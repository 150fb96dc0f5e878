"""Readings without words of a sentence: of an empty line all, the likeliest first, and of a name those that can speak of it."""

from __future__ import annotations

from dataclasses import replace

from gatillo.catalogue.cards.graph_cards import CARD_ENTRIES
from gatillo.catalogue.declare.entry import CATALOGUE, Entry
from gatillo.catalogue.declare.subjects import in_order
from gatillo.language.fits import PRONOUN
from gatillo.language.likely import likelihood
from gatillo.language.reading import GROUPS_OF, Reading, own_entry, own_nodes_of
from gatillo.language.slot_fits import MOST_NAME_WORDS, SlotFits
from gatillo.language.typed_words import split_words
from gatillo.level.edits import Part
from gatillo.level.graphs import OWN
from gatillo.level.model import Clause
from gatillo.level.roles import Index

_LIKELY = 8
"""How many of the likeliest sentences come first where nothing is typed yet."""


def own_node_readings(index: Index, text: str, more: float) -> list[Reading]:
    """Return the own nodes whose name a line is, or begins."""
    typed = text.strip().lower()
    return [
        Reading(
            Clause(use=OWN, slots={"graph": name}), "do", more - 0.1 if typed == name.lower() else more + 0.2
        )
        for name in own_nodes_of(index)
        if name.lower().startswith(typed)
    ]


def all_sentences(
    index: Index, parts: tuple[Part, ...], here: tuple[str, ...], cards: bool, after: str
) -> list[Reading]:
    """Return every sentence that may stand in some parts: the likeliest first, then all by subject."""
    found = [
        Reading(
            Clause(use=entry.name, slots={"graph": entry.sentence} if entry.name == OWN else {}), part, 0.0
        )
        for part in parts
        for entry in (*CATALOGUE.values(), *(_cards_of(index) if cards and part == "do" else ()))
        if entry.group in GROUPS_OF[part]
    ]
    chance = likelihood(index, after)
    first_part = {use for use, entry in CATALOGUE.items() if entry.group in GROUPS_OF[parts[0]]}
    # what follows nothing directly is the likelier for being of the first part
    chance = {use: many if many >= 1 or use in first_part else many / 10 for use, many in chance.items()}
    by_subject = sorted(found, key=lambda r: (parts.index(r.part), in_order(r.entry.subject)))
    likely = sorted(
        (r for r in by_subject if chance.get(r.clause.use, 0.0) > 0 and r.clause.use != OWN),
        key=lambda r: -chance[r.clause.use],
    )[:_LIKELY]
    first = [_with_roles(index, reading, here) for reading in likely]
    return [*first, *(r for r in by_subject if r not in likely)]


def _with_roles(index: Index, reading: Reading, here: tuple[str, ...]) -> Reading:
    """Return a reading whose empty slots for objects are filled with the roles at hand: the last for the only one."""
    known = [text for text in here if index.role(text) is not None]
    wanted = [
        n
        for n, s in reading.entry.slots.items()
        if s.kind.holds == "role" and not s.default and s.type == "role"
    ]
    if not known or not wanted:
        return reading
    filling = [known[-1]] if len(wanted) == 1 else list(dict.fromkeys([*known[:1], known[-1]]))
    slots = dict(zip(wanted, filling, strict=False))
    return replace(reading, clause=Clause(use=reading.clause.use, slots=slots))


def about_a_name(
    index: Index, text: str, parts: tuple[Part, ...], here: tuple[str, ...], cards: bool, after: str
) -> list[Reading]:
    """Return the sentences that can speak of what a line names, likeliest first; [] if it is not just a name."""
    words = split_words(text)
    if not words or len(words) > MOST_NAME_WORDS:
        return []
    fits = SlotFits(index, text, words, here)
    chance = likelihood(index, after)
    found: list[Reading] = []
    for part in parts:
        for entry in (*CATALOGUE.values(), *(CARD_ENTRIES.values() if cards and part == "do" else ())):
            if entry.group not in GROUPS_OF[part]:
                continue
            for name, slot in entry.slots.items():
                if slot.kind.holds in ("text", "formula", "given", "entries") or slot.options:
                    continue
                fit = fits.fit(slot, 0, len(words), after_verb=False)
                if fit is not None and not fit.missing and not fit.begun and fit.text != PRONOUN:
                    clause = Clause(use=entry.name, slots={name: fit.text})
                    found.append(Reading(clause, part, 2.0 - min(chance.get(entry.name, 0.0), 100.0) / 100))
                    break
    return sorted(found, key=lambda r: r.cost)


def _cards_of(index: Index) -> list[Entry]:
    return [*CARD_ENTRIES.values(), *map(own_entry, own_nodes_of(index))]
