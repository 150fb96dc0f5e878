"""Variables among the words of a typed line: those that a level has, and those that it lacks."""

from __future__ import annotations

import re

from gatillo.language.fits import KNOWN_WORDS, NAME, PRONOUN, UNKNOWN, Fit, Missing
from gatillo.language.level_names import PRONOUNS, Found, LevelNames
from gatillo.language.typed_words import ALL_WORDS, ARTICLES, NEGATIONS, SMALL
from gatillo.level.naming import name_problem, token
from gatillo.level.roles import Index

_TO_ANOTHER = frozenset(["angle", "distance", "direction", "way"])
"""What is no property of the object that stands after “to”: “the angle to the moth”."""
_OWNED = (" from ", " to ", " for ", " on ")
"""Words between a variable's name and its owner: “fuel from the lamp”."""
_CALLED = (" counter", " variable", " count", " number", " value", " score", " total", " flag")
"""Words that may follow a level variable's name: “the pods counter”."""


def known_variable(names: LevelNames, here: tuple[str, ...], typed: str, wanted: str) -> Fit | None:
    """Return the variable that words in small letters name, of a type if one is wanted; None if there is none. `here` are the roles at hand."""
    typed = typed.removeprefix("level variable ").removeprefix("variable ")
    for called in _CALLED:
        if typed.endswith(called) and names.level_variables.find(typed.removesuffix(called)) is not None:
            typed = typed.removesuffix(called)
    if typed.count(" ") > 7:
        return None
    for owner, name, cost in owner_and_name(typed):
        if owner == "level":
            known = names.level_variables.find(name.replace("_", " "))
            if known is not None and _type_fits(names.index, known.name, wanted):
                return Fit(cost + known.cost, known.name, begun=_not_quite(typed, known))
            continue
        role = names.role(owner)
        if role is None and owner.partition(" ")[0] in ALL_WORDS:
            # “the weight of all crates”
            role = names.role(owner.partition(" ")[2].removeprefix("of ").removeprefix("the "))
        if role is None and (owner in PRONOUNS or owner == "its"):
            role = Found(0.05, PRONOUN)
            if here:
                found = names.variable_of(here[-1], name.replace("_", " "))
                if found is not None and wanted in ("", found[1]):
                    return Fit(cost + 0.1, found[0])
            continue
        if role is None:
            begun = names.roles.begun(owner, here)
            role = begun if "." in typed else None
        if role is not None:
            found = names.variable_of(role.name, name.replace("_", " "))
            if found is not None and wanted in ("", found[1]):
                quite = () if not role.begun else ((owner, role.name),)
                return Fit(cost + role.cost, found[0], begun=quite)
    plain = typed.replace("_", " ")
    known = names.level_variables.find(plain)
    if known is not None and _type_fits(names.index, known.name, wanted):
        return Fit(known.cost, known.name, begun=_not_quite(typed, known))
    for role_text in reversed(here):
        found = names.variable_of(role_text, plain)
        if found is not None and wanted in ("", found[1]) and plain not in ("x", "y"):
            return Fit(0.15, found[0])
    owners = names.owned_variables.get(plain, ())
    for owner in owners[:1]:
        found = names.variable_of(owner, plain)
        if found is not None and wanted in ("", found[1]):
            return Fit(0.25, found[0])
    if len(plain) > 2 and "." not in plain:
        begun = names.level_variables.begun(plain)
        if begun is not None and _type_fits(names.index, begun.name, wanted):
            return Fit(begun.cost + 0.05, begun.name, begun=((typed, begun.name),))
        begun = names.owned_names.begun(plain)
        if begun is not None:
            owner, _, name = begun.name.rpartition(".")
            found = names.variable_of(owner, name)
            if found is not None and wanted in ("", found[1]):
                return Fit(begun.cost + 0.1, begun.name, begun=((typed, begun.name),))
    return None


def _type_fits(index: Index, variable: str, wanted: str) -> bool:
    return not wanted or index.level_tokens.get(token(variable.removeprefix("level."))) == wanted


def new_variable(names: LevelNames, typed: str, raw: str) -> Fit | None:
    """Return a variable that the level lacks: one word, after its owner or alone."""
    for owner, name, cost in owner_and_name(typed):
        if "_" in name and name not in raw.lower():
            # a new variable is one word
            continue
        if not NAME.fullmatch(name) or name_problem(name) is not None or name in NEGATIONS:
            continue
        if owner == "level":
            if token(name) in {t.lower() for t in names.index.level_tokens}:
                # it is there, and of another type
                return Fit(UNKNOWN, f"level.{name}", (Missing(name, "", "level"),))
            return Fit(UNKNOWN - 0.3 + cost, f"level.{name}", (Missing(name, "level variable", "level"),))
        role = names.role(owner)
        if role is not None and not (
            " " in typed and "." not in typed and (name in SMALL or name in KNOWN_WORDS)
        ):
            known = names.variable_of(role.name, name)
            shown = name if known is None else known[0].rpartition(".")[2]
            kind = names.index.role(role.name)
            make = "kind variable" if known is None and kind is not None and kind.can_own else ""
            return Fit(UNKNOWN - 0.3 + cost, f"{role.name}.{shown}", (Missing(name, make, role.name),))
    if not NAME.fullmatch(raw) or name_problem(raw) is not None:
        plain = raw.strip('"“”')
        if raw[:1] not in '"“' or name_problem(plain) is not None:
            # an owner that is not there: kept as it is written
            dotted = re.fullmatch(r"([^\W\d]\w*)\.([^\W\d]\w*)", raw)
            return Fit(UNKNOWN + 0.2, raw, (Missing(raw, "", ""),)) if dotted else None
        raw = plain
    lower = raw.lower()
    if lower in names.roles.exact or token(raw) in names.index.place_tokens:
        return None
    if lower in SMALL or lower in NEGATIONS or lower in PRONOUNS:
        return None
    taken = lower in names.words and lower not in names.owned_variables
    cost = UNKNOWN - 0.3 + 0.4 * (lower in KNOWN_WORDS) + 0.5 * taken
    make = "" if token(raw) in names.index.level_tokens else "level variable"
    return Fit(cost + 0.1, f"level.{raw}", (Missing(raw, make, "level"),))


def owner_and_name(typed: str) -> list[tuple[str, str, float]]:
    """Return how a variable may be parted: its owner, its name, and how unusual that is."""
    found: list[tuple[str, str, float]] = []
    if "." in typed:
        owner, _, name = typed.rpartition(".")
        return [(owner.replace("_", " ").strip(), name, 0.0)] if owner and name else []
    if " 's " in typed:
        owner, _, name = typed.partition(" 's ")
        return [(owner, name.replace(" ", "_"), 0.03)]
    for word in _OWNED:
        name, joined, owner = typed.rpartition(word)
        if joined and not (word == " to " and name in _TO_ANOTHER):
            found.append((_without_article(owner), name.replace(" ", "_"), 0.06))
    if " of " in typed:
        name, _, owner = typed.rpartition(" of ")
        found.append((owner, name.replace(" ", "_"), 0.05))
        found.append(
            ("level" if owner == "the level" else _without_article(owner), name.replace(" ", "_"), 0.06)
        )
    words = typed.split(" ")
    return found + [
        (" ".join(words[:cut]), "_".join(words[cut:]), 0.08) for cut in range(len(words) - 1, 0, -1)
    ]


def _without_article(name: str) -> str:
    first, _, rest = name.partition(" ")
    return rest if first in ARTICLES and rest else name


def _not_quite(typed: str, known: Found) -> tuple[tuple[str, str], ...]:
    """Return what was typed with what it was read as, where they differ by a plural."""
    return ((typed, known.name),) if known.cost else ()


def as_formula(variable: str) -> str:
    """Return a variable that a slot names as a formula writes it."""
    owner, _, name = variable.rpartition(".")
    return f"{token(owner)}.{token(name)}" if owner else variable
