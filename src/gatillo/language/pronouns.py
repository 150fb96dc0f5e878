"""Whom “it”, “he” and “them” mean in a typed line of several pieces: what was named or acted on before."""

from __future__ import annotations

import re
from dataclasses import replace

from msgspec.structs import replace as with_fields

from gatillo.language.fits import PRONOUN
from gatillo.language.level_names import names_of
from gatillo.language.reading import ACTIONS, Reading
from gatillo.level.roles import Index

IT = re.compile(
    r"\b(?:it\b(?!'s)|him\b|her\b(?= (?:and|at|when|if|with|for|from|to|by|over|toward|towards)\b|,|$))",
    re.IGNORECASE,
)
"""A word for what was spoken of."""
HE = re.compile(r"(?:he|she)\b", re.IGNORECASE)
"""A word for whom the line began with."""


def what_it_may_be(index: Index, piece: str, before: tuple[Reading, ...]) -> list[str]:
    """Return the objects that “it” in a piece may be, the likeliest first: what was named before and the piece does not name itself."""
    if not before or not IT.search(piece) or any(mark in piece for mark in '"“”'):
        return []
    found: dict[str, None] = {}
    known = names_of(index)
    for line in reversed([one for reading in before for one in reading.all_lines]):
        made = line.clause.slots.get("kind", "") if line.entry.group == "action" else ""
        if made and line.part in ACTIONS:
            found[f"new {made}"] = None
        if acted := _object_of(line):
            found[acted] = None
        if line.named:
            found[line.named] = None
        # “near the door … it” is the door
        for holds in ("where", "role"):
            for name, slot in line.entry.slots.items():
                role = line.clause.slots.get(name, "")
                if (
                    slot.kind.holds == holds
                    and role
                    and role != PRONOUN
                    and (holds == "role" or known.role(role.lower()))
                ):
                    found[role] = None
    words = f" {piece.lower()} "
    return [name for name in found if f" {name.lower()} " not in words][:3]


def as_both_named(index: Index, piece: str, before: tuple[Reading, ...]) -> list[str]:
    """Return a piece with two “it” as one of the two objects of the line before and the other: “it turns toward it”."""
    if not before or len(IT.findall(piece)) != 2:
        return []
    last, known = before[-1].all_lines[-1], names_of(index)
    named = [
        text for text in (last.clause.slots.get(n, "") for n in last.entry.slots) if known.role(text.lower())
    ]
    return [IT.sub(named[1], IT.sub(named[0], piece, count=1))] if len(named) == 2 else []


def _object_of(line: Reading) -> str:
    """Return what an action acts on, if it speaks of a second object too: “it” after “move the pod to the gardener” is the pod."""
    if line.part not in ACTIONS and not (line.part == "if" and line.entry.group == "condition"):
        return ""
    if line.part == "if" and all(slot.kind.holds != "where" for slot in line.entry.slots.values()):
        # what touches, sees or carries another is no more meant than the other
        return ""
    roles = [
        line.clause.slots.get(name, "")
        for name, slot in line.entry.slots.items()
        if slot.kind.holds in ("role", "where") and line.clause.slots.get(name, "")
    ]
    first = next((n for n, s in line.entry.slots.items() if s.kind.holds in ("role", "kind", "where")), "")
    plain = len(roles) > 1 and line.entry.slots[first].kind.holds == "role" and roles[0] != PRONOUN
    return roles[0] if plain and line.clause.slots.get(first) == roles[0] else ""


def with_objects(lines: list[Reading]) -> list[Reading]:
    """Put the object that was spoken of in the place of “it”: what the line before acts on or named last, but not this line's own."""
    before: list[str] = []
    made = []
    for line in lines:
        slots = dict(line.clause.slots)
        own = set(slots.values())
        for name, slot in line.entry.slots.items():
            if slots.get(name, "") != PRONOUN or slot.kind.holds not in ("role", "where"):
                continue
            if before:
                slots[name] = next((role for role in before if role not in own), before[0])
            else:
                del slots[name]
        named = [role for role in (_object_of(line), line.named) if role and role != PRONOUN]
        before = list(dict.fromkeys([*named, *before]))
        clause = with_fields(line.clause, slots=slots) if slots != line.clause.slots else line.clause
        made.append(replace(line, clause=clause))
    return made


def subject_of(before: tuple[Reading, ...]) -> str:
    """Return whom a line began with: the first object of its first sentence, or whose variable it asks about; "" if that names none."""
    first = before[0].all_lines[0] if before else None
    slots = first.entry.slots.items() if first is not None else ()
    name = next((n for n, slot in slots if slot.kind.holds == "role"), "")
    return first.clause.slots.get(name, "") or first.named if first is not None else ""


_LEFT_OPEN = 1.0
"""What a reading has cost for a slot that was left open."""


def with_the_only_other(index: Index, lines: list[Reading]) -> list[Reading]:
    """Fill what a line leaves open with the only object that the other lines speak of: “click the moth: remove”.

    That is whom an action is for, what a distance is to, and of which kind objects are counted. What is taken is taken from whom
    another line says to hold something. Where several could be meant, it stays open.
    """
    made = []
    for at, line in enumerate(lines):
        # what is asked is asked of what was spoken of before it
        others = lines[:at] if _is_asked_of(line) else [*lines[:at], *lines[at + 1 :]]
        open_ = [name for name in line.empty_slots() if _may_be_another(line, name)]
        own = set(line.clause.slots.values())
        type_ = line.entry.slots[open_[0]].type if len(open_) == 1 else ""
        if type_ in _NAMED_ONCE:
            # “when the oven reaches 5 s restart the timer”
            named = {
                other.clause.slots.get(name, "")
                for other in others
                for name, slot in other.entry.slots.items()
                if slot.type == type_
            } - {""}
        else:
            named = _named_by(index, others, own) if type_ else set()
        if len(named) > 1 and "item" in line.entry.slots:
            named = _named_by(index, [other for other in others if "item" in other.entry.slots], own)
        if len(named) == 1:
            slots = line.clause.slots | {open_[0]: named.pop()}
            ordered = {name: slots[name] for name in line.entry.slots if name in slots}
            line = replace(line, cost=line.cost - _LEFT_OPEN, clause=with_fields(line.clause, slots=ordered))
        made.append(line)
    return made


_NAMED_ONCE = frozenset(["timer", "clip", "route"])
"""Types of slots that are filled with what another line has in one of the same type."""


def _is_asked_of(line: Reading) -> bool:
    """Return whether a line leaves open of which object it asks something: “the enemy loses a life when hit by a bullet”."""
    return line.entry.group != "action" and any(
        line.entry.slots[name].kind.holds == "role" for name in line.empty_slots()
    )


def _may_be_another(line: Reading, name: str) -> bool:
    """Return whether an open slot may be filled with what other lines speak of."""
    slot = line.entry.slots[name]
    if line.entry.group == "action":
        says = any(other.kind.holds == "text" for other in line.entry.slots.values())
        return (slot.kind.holds == "role" and not slot.makes and not says) or slot.type in _NAMED_ONCE
    return slot.kind.holds in ("role", "where") or slot.type == "kind"


def _named_by(index: Index, lines: list[Reading], but: set[str]) -> set[str]:
    """Return the objects and kinds that some lines name, but for those in `but`."""
    found = {line.named for line in lines} | {
        line.clause.slots.get(name, "")
        for line in lines
        for name, slot in line.entry.slots.items()
        if slot.kind.holds in ("role", "where") or slot.type == "kind"
    }
    return {role for role in found - but if role and index.role(role) is not None}
