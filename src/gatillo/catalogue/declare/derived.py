"""What follows of a catalogue entry from its code, so that no declaration has to say it.

An entry's computation says what it reads and writes (entry_effects.py). From that follows what the program must know: whether the entry
waits, what it switches, creates or removes, whether several matches must go one by one, which facts must be found for it.

An installation may have no sources. For it `touches.json`, drawn from the sources by `make schema`, says what every entry
touches. It is used where the sources are the ones that it was drawn from, or are not there.
"""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from functools import cache
from hashlib import blake2b
from pathlib import Path
from typing import Any, Literal

from gatillo.catalogue.contexts.effects import SELF, Touch, Touches
from gatillo.catalogue.declare.entry_effects import touched_by
from gatillo.level.properties import PROPERTIES

TABLE = Path(__file__).with_name("touches.json")
_CATALOGUE = __name__.removesuffix(".declare.derived")
PHYSICAL = frozenset(name for name, made in PROPERTIES.items() if made.physical)
"""What decides how an object answers to forces: only where something can change it are forces looked at."""


_DRIVEN = frozenset({"vx", "vy", "route"})


@dataclass(frozen=True, slots=True)
class Derived:
    """What follows of an entry from what it reads and writes. Slots are given by their names, in the entry's order."""

    touches: Touches
    switches: tuple[str, ...]
    """The slots with the rules and sections that it switches on or off."""
    waits: bool
    """Whether the rest of the action list waits after it."""
    removes: str
    """The slot with the objects that it takes out of the level; "" if it takes none."""
    creates: str
    """The slot with the kind of the objects that it creates; "" if it creates none."""
    assigns: bool
    """Whether it gives a variable a value, whatever the value was."""
    adds: tuple[str, ...]
    """The slots with what it adds to what is there, each time it is carried out."""
    needs: tuple[str, ...]
    """What must be found in each tick for it: `under`, the objects under the pointer."""
    contact: tuple[str, str] | None
    """The slots of the two roles whose contact it asks about."""
    steady: bool
    """Whether it depends on nothing but its formulas, so that an answer can be kept while they do not change."""
    reads_what_it_writes: bool
    """Whether what it writes depends on what was there, so that each match must see the effect of the one before."""
    physics: bool
    """Whether it can change how an object answers to forces."""
    drives: bool
    """Whether it gives the object that has the behaviour a velocity, which ends with it."""
    writes: dict[str, tuple[str, ...]]
    """By slot: the properties that it changes of the objects in it."""
    over_a_time: Literal["", "place", "angle"]
    """What of an object it changes over a time, and then ends."""


def derived(
    name: str,
    group: str,
    types: dict[str, str],
    compute: Callable[..., Any],
    telling: frozenset[str],
    world: type,
    holds: bool,
) -> Derived:
    """Work out what follows of an entry. `types` are its slots with their types, `telling` those that stand for objects.

    `holds` says whether it holds lines of its own, on which its answer depends. `world` is the protocol through which it sees
    the world. Raises TypeError if its code cannot be seen into.
    """
    ours = compute.__module__.startswith(f"{_CATALOGUE}.")
    known = _table().get(name) if ours else None
    touches = known if known is not None else touched_by(compute, tuple(types), telling, world)

    def slots(kind: str, holds: Callable[[str], bool]) -> tuple[str, ...]:
        return tuple(slot for slot, type in types.items() if type.startswith(kind) and holds(slot))

    def writes(what: str, of: str) -> bool:
        return any(touch.what == what and touch.of == of for touch in touches.writes)

    action, condition = group == "action", group == "condition"
    own = {(t.what, t.of, t.named) for t in touches.seen}
    touching = slots("role", lambda slot: any(t.what == "touching" and t.of == slot for t in touches.reads))
    return Derived(
        touches,
        switches=slots("", lambda slot: any(t.what == "switch" and t.named == slot for t in touches.writes)),
        waits=any(t.what == "wait" and not t.named for t in touches.writes),
        removes=next(iter(slots("role", lambda slot: writes("there", slot))), ""),
        creates=next(iter(slots("kind", lambda slot: writes("there", slot))), ""),
        assigns=action and any(t.what == "variable" and t not in touches.reads for t in touches.writes),
        adds=slots("number", lambda slot: slot in touches.adds),
        needs=("under",) if any(t.what == "pointed" for t in touches.reads) else (),
        contact=(touching[0], touching[1]) if len(touching) == 2 else None,
        steady=condition and not holds and not touches.reads and not touches.writes,
        reads_what_it_writes=action
        and any(
            (t.what, t.of, t.named) in own
            and t.of in types
            and (t.what in PROPERTIES or t.what == "variable")
            for t in touches.writes
        ),
        # what a switched behaviour does to forces that behaviour says itself
        physics=not any(t.what == "on" for t in touches.writes)
        and any(t.what in PHYSICAL for t in touches.writes),
        drives=any(t.of == SELF and t.what in _DRIVEN for t in touches.writes),
        over_a_time=_over_a_time(touches) if action and "time" in types and not slots("route", bool) else "",
        writes={
            slot: found
            for slot in types
            if (
                found := tuple(
                    sorted(t.what for t in touches.writes if t.of == slot and t.what in PROPERTIES)
                )
            )
        },
    )


def _over_a_time(touches: Touches) -> Literal["", "place", "angle"]:
    moved = {touch.of for touch in touches.writes if touch.what == "tween"}
    if not moved:
        return ""
    # a carrier's place is read too: what counts is the place of what is moved
    return "place" if any(touch.what == "x" and touch.of in moved for touch in touches.reads) else "angle"


# the table for installations without sources


def sources_digest() -> str:
    """Return a digest of the catalogue's sources; "" where they are not there."""
    paths = sorted(Path(__file__).parent.parent.rglob("*.py"))
    if not paths:
        return ""
    digest = blake2b(digest_size=16)
    for path in paths:
        digest.update(path.name.encode() + b"\0" + path.read_bytes())
    return digest.hexdigest()


@cache
def _table() -> dict[str, Touches]:
    """Return what every entry touches, if the table was drawn from the sources that are there, or none are."""
    try:
        table = json.loads(TABLE.read_text())
    except (OSError, ValueError):
        return {}
    digest = sources_digest()
    if digest and digest != table.get("sources"):
        return {}
    return {name: _read(one) for name, one in table["entries"].items()}


def _read(one: dict[str, list[Any]]) -> Touches:
    reads, writes, seen = (frozenset(Touch(*each) for each in one[side]) for side in _SIDES)
    return Touches(reads, writes, seen, frozenset(one["adds"]))


_SIDES = ("reads", "writes", "seen")


def table_of(touches: dict[str, Touches]) -> str:
    """Return the table as it is written, from what every entry touches by its name."""
    entries = {
        name: {
            **{
                side: sorted([each.what, each.of, each.named] for each in getattr(one, side))
                for side in _SIDES
            },
            "adds": sorted(one.adds),
        }
        for name, one in touches.items()
    }
    lines = ",\n".join(f"{json.dumps(name)}: {json.dumps(one)}" for name, one in entries.items())
    return f'{{"sources": "{sources_digest()}",\n"entries": {{\n{lines}\n}}}}\n'
