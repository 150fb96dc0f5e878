"""What could fill a slot: names that a level has."""

from __future__ import annotations

from collections.abc import Iterable

from gatillo.catalogue.declare.entry import Entry, Slot
from gatillo.level.roles import Index


def choices(index: Index, slot: Slot, here: Iterable[str] = ()) -> list[str]:
    """Return what could stand in a slot; empty where it is typed freely. `here` are roles the rule speaks of."""
    if slot.options:
        return list(slot.options)
    names = slot.kind.names
    return list(dict.fromkeys(names(index, tuple(here)))) if names is not None else []


def usual_slots(index: Index, kind: str, entry: Entry) -> dict[str, str]:
    """Return what is put at first into the slots of a behaviour that have nothing of their own to start with."""
    found: dict[str, str] = {}
    others = [k for k in index.kinds if k != kind]
    for name, slot in entry.slots.items():
        if slot.default:
            continue
        if slot.kind.holds == "role" or slot.objects:
            # a flock is of its own kind; whatever else is meant is another
            found[name] = kind if name == "others" or not others else others[0]
        elif slot.type in ("area", "route", "where", "message"):
            known = choices(index, slot)
            if known:
                found[name] = known[0]
    return found
