"""What a reading leaves open: what is said of it, the answers to choose from, and the names that it makes in a level."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from typing import Literal, NamedTuple

from msgspec.structs import replace as with_fields

from gatillo.catalogue.declare.entry import Slot
from gatillo.language.lacking import lacking
from gatillo.language.reading import Offer, Reading, nearest_names
from gatillo.language.sentence import firing_sentence
from gatillo.language.slot_fits import SlotFits
from gatillo.language.typed_words import split_words
from gatillo.level import edits, thing_edits
from gatillo.level.model import Level, Place, Rule, Value
from gatillo.level.naming import token
from gatillo.level.own_behaviours import SELF
from gatillo.level.own_edits import add_setting, own_of
from gatillo.level.roles import Index

NoteSort = Literal["lacking", "unread", "missing", "makes", "begun", "rule", "remark"]


class Note(NamedTuple):
    """A short sentence about a reading."""

    sort: NoteSort
    text: str


@dataclass(frozen=True, slots=True)
class Answer:
    """One answer to what a reading leaves open, and the reading that it leads to."""

    label: str
    help: str
    reading: Reading


def notes(index: Index, reading: Reading) -> list[Note]:
    """Return what should be said of a reading before it is taken, the most important first."""
    found: list[Note] = []
    if reading.all_unread:
        found.append(Note("unread", f"Not read: {', '.join(reading.all_unread)}."))
    if said := lacking(reading):
        found.insert(0, Note("lacking", said))
    asked = reading.questions(index)
    if reading.is_rough and not asked:
        found.append(Note("unread", "This is only roughly what was typed. Enter asks."))
    if asked:
        names = ", ".join(f"“{offer.typed}”" for offer in asked)
        verb = "does" if len(asked) == 1 else "do"
        found.append(Note("missing", f"{names} {verb} not exist. Enter asks what is meant."))
    made = [offer for line in reading.all_lines for offer in line.offers if offer.make and offer not in asked]
    if made:
        found.append(Note("makes", f"Makes {_joined([made_words(offer) for offer in made])}."))
    begun = [offer for line in reading.all_lines for offer in line.offers if offer.filled]
    found += [Note("begun", f"“{offer.typed}” is read as {offer.filled}.") for offer in begun[:2]]
    if reading.rule:
        found.append(Note("rule", firing_sentence(with_fields(Rule(id=0, name=""), **reading.rule))))
    remarks = dict.fromkeys(line.remark for line in reading.all_lines if line.remark)
    return found + [Note("remark", remark) for remark in remarks]


def _joined(words: list[str]) -> str:
    words = list(dict.fromkeys(words))
    return ", ".join(words[:-1]) + (" and " if len(words) > 1 else "") + words[-1]


def made_words(offer: Offer) -> str:
    """Return what an offer would make, in words: “the level variable “spin””."""
    if offer.make == "kind variable":
        return f"the variable “{offer.owner}.{offer.typed}”"
    return f"the {offer.make} “{offer.typed}”"


def answers(index: Index, reading: Reading) -> list[Answer]:
    """Return the answers to the first thing that a reading leaves open; [] if nothing is.

    Names that the level lacks are asked about one after the other, then the words that were not read.
    """
    for at, line in enumerate(reading.all_lines):
        for offer in line.offers:
            if offer in reading.questions(index):
                return _name_answers(index, reading, at, line, offer)
    if reading.all_unread:
        words = ", ".join(f"“{word}”" for word in reading.all_unread)
        without = replace(
            reading, unread=(), sure=True, lines=tuple(replace(one, unread=()) for one in reading.lines)
        )
        return [Answer(f"Take it without {words}", "These words have no place in the sentence.", without)]
    if reading.is_rough:
        label = "Take it all the same"
        return [
            Answer(label, "It has little to do with the words that were typed.", replace(reading, sure=True))
        ]
    return []


def _name_answers(index: Index, reading: Reading, at: int, line: Reading, offer: Offer) -> list[Answer]:
    found = [
        Answer(
            f"Did you mean {name}?",
            f"{name} exists; “{offer.typed}” does not.",
            _instead(reading, at, line, offer, name),
        )
        for name in offer.nearest(index, line.entry)
    ]
    if offer.make:
        accepted = _changed(reading, at, line, offer, replace(offer, accepted=True), None)
        found.append(
            Answer(f"Make {made_words(offer)}", "It is added to the level with this line.", accepted)
        )
    kept = _changed(reading, at, line, offer, None, None)
    found.append(
        Answer(
            f"Keep “{offer.typed}” as typed",
            "The line stays as it is, with a finding until the name exists.",
            kept,
        )
    )
    return found


def _instead(reading: Reading, at: int, line: Reading, offer: Offer, name: str) -> Reading:
    """Return a reading with an existing name in the place of one that is missing."""
    slot, text = line.entry.slots[offer.slot], line.clause.slots[offer.slot]
    text = _with_name(text, offer, name) if slot.kind.may_be_formula(text) else name
    return _changed(reading, at, line, offer, None, text)


def _with_name(text: str, offer: Offer, name: str) -> str:
    """Return a formula, or a text with formulas in braces, with the name of an offer replaced by a variable."""
    owner, dot, variable = name.rpartition(".")
    written = f"{token(owner)}.{token(variable)}" if dot else token(name)
    before = rf"(?:{re.escape(token(offer.owner))}\.)?" if offer.owner else r"(?<![\w.])"
    name_typed = re.compile(rf"{before}(?<!\w){re.escape(offer.typed)}(?!\w)")
    if "{" not in text:
        return name_typed.sub(lambda _: written, text, count=1)
    return re.sub(r"\{[^{}]*\}", lambda braces: name_typed.sub(lambda _: written, braces[0]), text)


def _changed(
    reading: Reading, at: int, line: Reading, offer: Offer, instead: Offer | None, text: str | None
) -> Reading:
    offers = tuple(
        one for old in line.offers for one in ((instead,) if old is offer else (old,)) if one is not None
    )
    clause = line.clause
    if text is not None:
        clause = with_fields(clause, slots={**clause.slots, offer.slot: text})
    new = replace(line, offers=offers, clause=clause)
    if not reading.lines:
        return new
    lines = (*reading.lines[:at], new, *reading.lines[at + 1 :])
    return replace(reading, lines=lines, clause=lines[0].clause)


def with_names_made(level: Level, index: Index, reading: Reading) -> tuple[Level, Reading]:
    """Return a level with all that a reading makes, and the reading with these names written in its formulas."""
    for owner, name, value in reading.new_variables(index):
        kind = None if owner == "level" else owner
        if owner == SELF:
            behaviour = index.role_tokens[SELF].of
            if all(s.name != name for s in own_of(level, behaviour).settings):
                level, _ = add_setting(level, behaviour, name, value)
            continue
        if any(v.name == name for v in thing_edits.variables_of(level, kind)):
            continue
        level, _ = thing_edits.add_variable(level, kind, name)
        level = thing_edits.set_variable(level, kind, name, value=value)
    lines = []
    for line in reading.all_lines:
        for offer in line.offers:
            if offer.make in ("level variable", "kind variable"):
                line = _written(line, offer)
            elif offer.make == "tag":
                level = _with_tag(level, line, offer.typed)
            elif offer.make:
                level = _with_thing(level, offer, line.clause.slots.get(offer.slot, offer.typed))
        lines.append(line)
    if not reading.lines:
        return level, lines[0]
    return level, replace(reading, lines=tuple(lines), clause=lines[0].clause)


def _written(line: Reading, offer: Offer) -> Reading:
    slot = line.entry.slots.get(offer.slot)
    if slot is None or not slot.kind.may_be_formula(line.clause.slots[offer.slot]):
        return line
    text = _with_name(line.clause.slots[offer.slot], offer, f"{offer.owner or 'level'}.{offer.typed}")
    return replace(line, clause=with_fields(line.clause, slots={**line.clause.slots, offer.slot: text}))


def _with_thing(level: Level, offer: Offer, name: str) -> Level:
    """Return a level with the kind, object or place of a name that an offer makes."""
    x, y = _middle(level)
    taken = {k.name for k in level.kinds} | {o.name for o in level.objects} | {p.name for p in level.places}
    if name in taken:
        return level
    if offer.make == "kind":
        return thing_edits.add_kind(level, name)[0]
    if offer.make == "object":
        kind = next((k.name for k in level.kinds if name.startswith(f"{k.name} ")), "")
        if not kind:
            return level
        level, number = edits.place_object(level, kind, x, y)
        return edits.set_object(level, number, name=name)
    made: dict[str, Place] = {
        "spot": thing_edits.new_spot(x, y),
        "area": thing_edits.new_area(x - 60, y - 40, 120, 80),
        "route": thing_edits.new_route([(x - 60, y), (x + 60, y)]),
    }
    if offer.make in made:
        level, _ = thing_edits.add_place(level, with_fields(made[offer.make], name=name))
    return level


def _with_tag(level: Level, line: Reading, tag: str) -> Level:
    """Return a level in which the kind that a line speaks of carries a tag; one that the line itself gives needs no more."""
    slots = line.entry.slots
    if any(slot.type == "tag" and slot.makes for slot in slots.values()):
        return level
    who = next((line.clause.slots.get(n, "") for n, s in slots.items() if s.kind.holds == "role"), "")
    kinds = {k.name: k for k in level.kinds}
    if who not in kinds or tag in kinds[who].tags:
        return level
    return thing_edits.set_kind(level, who, tags=(*kinds[who].tags, tag))


def _middle(level: Level) -> tuple[float, float]:
    """Return the middle of a level's objects, for something new that has no point of its own yet."""
    if not level.objects:
        return 0.0, 0.0
    many = len(level.objects)
    return round(sum(o.x for o in level.objects) / many), round(sum(o.y for o in level.objects) / many)


@dataclass(frozen=True, slots=True)
class SlotAnswer:
    """One answer to a name in a slot that the level lacks."""

    label: str
    help: str
    text: str
    """The slot's text after it."""
    make: Offer | None = None
    """What is to be made, if anything."""


def slot_answers(index: Index, slot: Slot, text: str, here: tuple[str, ...] = ()) -> list[SlotAnswer]:
    """Return the answers to the first name in a slot's text that the level lacks; [] if none is missing."""
    words = split_words(text)
    if not words:
        return []
    fit = SlotFits(index, text, words, here).fit(slot, 0, len(words), after_verb=True)
    if fit is None or not fit.missing:
        return []
    missing = fit.missing[0]
    offer = Offer("", missing.typed, missing.make, missing.owner)
    formula = slot.kind.may_be_formula(text)
    found = [
        SlotAnswer(
            f"Did you mean {name}?",
            f"{name} exists; “{offer.typed}” does not.",
            _with_name(text, offer, name) if formula else name,
        )
        for name in nearest_names(index, slot, offer)
    ]
    if offer.make and offer.make not in _FREE:
        written = _with_name(text, offer, f"{offer.owner or 'level'}.{offer.typed}") if formula else fit.text
        found.append(SlotAnswer(f"Make {made_words(offer)}", "It is added to the level.", written, offer))
    found.append(
        SlotAnswer(f"Keep “{offer.typed}” as typed", "The line has a finding until the name exists.", text)
    )
    return found


_FREE = ("message", "item", "timer", "topic", "tag")
"""Names that need no making: they are there by being used."""


def with_name_made(level: Level, index: Index, offer: Offer, value: Value = 0.0) -> Level:
    """Return a level with the variable, kind, object or place that an offer makes."""
    if offer.make in ("level variable", "kind variable"):
        owner = index.role(offer.owner)
        if owner is not None and owner.source == "tag" and offer.owner == SELF:
            return add_setting(level, owner.of, offer.typed, value)[0]
        kind = owner.kinds[0] if offer.make == "kind variable" and owner is not None else None
        level, name = thing_edits.add_variable(level, kind, offer.typed)
        return thing_edits.set_variable(level, kind, name, value=value)
    return _with_thing(level, offer, offer.typed)
