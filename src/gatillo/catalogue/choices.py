"""What a level has that could stand in a slot."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from gatillo.catalogue.binding import WRITABLE, names_for
from gatillo.catalogue.entry import CATALOGUE, Entry, Slot
from gatillo.level.keys import KEYS
from gatillo.level.model import Clause, Level
from gatillo.level.roles import Index, Role, all_rules, type_of


def known_names(level: Level, type: str) -> list[str]:
    """Names that only rules bring about (messages, timers, items), in the order of the rules."""
    found: dict[str, None] = {}
    for clause in every_clause(level):
        entry = CATALOGUE.get(clause.use)
        for name, slot in entry.slots.items() if entry is not None else ():
            text = clause.slots.get(name, "").strip()
            if slot.type == type and text:
                found[text] = None
    return list(found)


def every_clause(level: Level) -> Iterator[Clause]:
    """Every line of every rule, those within groups and repeats too."""

    def within(clauses: Iterable[Clause]) -> Iterator[Clause]:
        for clause in clauses:
            yield clause
            yield from within(clause.of)

    for _, _, rule in all_rules(level):
        yield from within((*rule.when, *rule.if_, *rule.do, *rule.else_))


def roles_for(index: Index, here: Iterable[str] = ()) -> list[str]:
    """Roles, those that a rule speaks of already first, then kinds, objects, tags and the rest."""
    first = [r.text for text in here if (r := index.role(text)) is not None]

    def rank(role: Role) -> int:
        if role.text.startswith("another "):
            return 3
        return {"kind": 4 if role.new else 0, "tag": 1, "all": 1, "object": 2, "reference": 5}[role.source]

    rest = sorted(index.role_tokens.values(), key=rank)
    return list(dict.fromkeys([*first, *(r.text for r in rest)]))


def variables_for(index: Index, type: str = "") -> list[str]:
    """Variables as a slot names them, of one type if it is given."""
    level = [f"level.{v.name}" for v in index.level.variables if type in ("", type_of(v.value))]
    owned = [
        f"{kind.name}.{v.name}"
        for kind in index.level.kinds
        for v in kind.variables
        if type in ("", type_of(v.value))
    ]
    plain = sorted(WRITABLE - {"shown"}) if type in ("", "number") else ["shown"] if type == "yes/no" else []
    return [*level, *owned, *(f"{kind.name}.{p}" for kind in index.level.kinds for p in plain)]


def choices(index: Index, slot: Slot, here: Iterable[str] = ()) -> list[str]:
    """What could stand in a slot; empty where it is typed freely. `here` are roles the rule speaks of."""
    level = index.level
    found: dict[str, Callable[[], list[str]]] = {
        "role": lambda: roles_for(index, here),
        "per": lambda: ["all matches", *roles_for(index, here)],
        "where": lambda: [
            *index.places,
            *roles_for(index, here),
            *(f"{point} of {kind}" for point, kinds in index.points.items() for kind in kinds),
            "pointer",
        ],
        "kind": lambda: list(index.kinds),
        "key": lambda: list(KEYS),
        "tag": lambda: list(index.tags),
        "variable": lambda: variables_for(index),
        "number variable": lambda: variables_for(index, "number"),
        "yes/no variable": lambda: variables_for(index, "yes/no"),
        "message": lambda: known_names(level, "message"),
        "timer": lambda: known_names(level, "timer"),
        "item": lambda: known_names(level, "item"),
        "choice": lambda: list(slot.options),
        "number": lambda: [v.replace(" ", "_") for v in variables_for(index, "number")],
        "value": lambda: [*(v.replace(" ", "_") for v in variables_for(index)), "yes", "no"],
    }
    if slot.type in found:
        return found[slot.type]()
    if slot.type in (
        "area",
        "route",
        "rule",
        "section",
        "topic",
        "clip",
        "behaviour",
        "entry",
        "setting",
        "point",
    ):
        return names_for(index, slot.type)
    return []


def usual_slots(index: Index, kind: str, entry: Entry) -> dict[str, str]:
    """What is put at first into the slots of a behaviour that have nothing of their own to start with."""
    found: dict[str, str] = {}
    others = [k for k in index.kinds if k != kind]
    for name, slot in entry.slots.items():
        if slot.default:
            continue
        if slot.type == "role":
            # a flock is of its own kind; whatever else is meant is another
            found[name] = kind if name == "others" or not others else others[0]
        elif slot.type in ("area", "route", "where", "message"):
            known = choices(index, slot)
            if known:
                found[name] = known[0]
    return found
