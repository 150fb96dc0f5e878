"""Reading conditions about amounts: “the lamp has less than 10 fuel”, “there are more moths than lamps”, “no moth is near”."""

from __future__ import annotations

import re
from collections.abc import Iterator

from gatillo.language.level_names import names_of
from gatillo.language.reading import Reading
from gatillo.language.typed_words import NUMBERS, PLURALS
from gatillo.language.variable_fits import as_formula, known_variable
from gatillo.level.edits import Part
from gatillo.level.model import Area, Clause
from gatillo.level.naming import token
from gatillo.level.roles import Index

_COST = 0.1
_COUNTED_COST = -0.05
COUNT_SIGNS = {
    "at least": ">=",
    "at most": "<=",
    "no more than": "<=",
    "no less than": ">=",
    "no fewer than": ">=",
    "not more than": "<=",
    "not less than": ">=",
    "more than": ">",
    "over": ">",
    "less than": "<",
    "fewer than": "<",
    "under": "<",
    "exactly": "=",
    "only": "=",
}
"""How an amount is compared, with the sign of a formula."""
_SIGN = "|".join(sorted(COUNT_SIGNS, key=len, reverse=True))
_HAS = re.compile(
    rf"(?:the |an? )?(?P<who>.+?) (?:has|have|holds?|'s got|has got|got) (?:(?P<sign>{_SIGN}) )?(?:(?P<none>no|any|some) (?:more )?|(?P<number>\S+) )?"
    r"(?P<what>[\w ]+?)(?: left| remaining)?",
    re.IGNORECASE,
)
_MORE = re.compile(
    r"(?:there (?:are|is) )?(?P<how>more|fewer|less|as many) (?P<a>\w+) (?:than|as)(?: there are)? (?P<b>\w+)",
    re.IGNORECASE,
)
_NEAR = re.compile(
    rf"(?P<how>{_SIGN}|no|\d+|one|two|three|four|five|six)(?: (?P<number>\w+))? (?P<kind>\w+) (?:is|are|stands?|comes?) "
    r"(?:near|close to|around|within (?P<far>[\d.]+)(?: units| pixels)? of) (?:the |an? )?(?P<who>.+)",
    re.IGNORECASE,
)
_ALL_IN = re.compile(
    r"(?P<not>not )?(?:all|every|each)(?: of)?(?: the)? (?P<kind>\w+) (?:is|are|stands?) (?:in|inside|within) (?:the )?(?P<area>.+)",
    re.IGNORECASE,
)
_FASTER = re.compile(
    r"(?:the |an? )?(?P<who>.+?) (?:is|are|was|gets?|becomes?|grows?|moves?|goes|go|flies) (?P<how>faster|slower|smaller|bigger|larger|older|younger) than (?P<number>\d+(?:\.\d+)?)(?: units)?(?: (?:a|per) second)?",
    re.IGNORECASE,
)
_IN = re.compile(
    r"(?:the |an? )?(?P<who>.+?) is (?P<not>not )?(?:in|inside|within) (?:the )?(?P<where>[^\d].*)",
    re.IGNORECASE,
)
_WITHIN = re.compile(
    r"(?:the |an? )?(?P<who>.+?) is (?P<not>not )?within (?P<far>\d+(?:\.\d+)?)(?: units)? of (?:the |an? )?(?P<where>.+)",
    re.IGNORECASE,
)
_THERE_ARE = re.compile(
    rf"there (?:are|is) (?:(?P<sign>{_SIGN}) )?(?:(?P<number>no|\w+) )?(?P<kind>\w+)(?: left)?(?: (?:in|inside) (?:the )?(?P<area>.+))?",
    re.IGNORECASE,
)
_LESS = frozenset(
    [
        "drain",
        "remove",
        "take",
        "subtract",
        "lose",
        "use",
        "burn",
        "spend",
        "deduct",
        "drop",
        "consume",
        "eat",
    ]
)
_GAINS = frozenset(["add", "give", "gain", "get", "restore", "put", "win", "earn", "receive", "collect"])
_RATE = r"(?P<rate>(?: (?:a|per|each|every) (?:second|s)| over time)?)"
_HOW = "|".join(sorted({*_LESS, *_GAINS}))
_MOVED = re.compile(
    rf"(?P<how>{_HOW}) (?P<number>\S+) (?:units? of |of )?(?P<what>[\w ]+?) (?:from|to|into|out of) (?:the |an? )?(?P<who>[\w ]+?){_RATE}",
    re.IGNORECASE,
)
_GIVEN = re.compile(
    rf"(?P<how>give|lend|hand) (?:the |an? |each |every |all )?(?P<who>[\w ]+?) (?P<number>\d\S*|one|two|three|four|five|six|ten) (?:more )?(?P<what>[\w ]+?){_RATE}",
    re.IGNORECASE,
)
_OWNER_MOVES = re.compile(
    rf"(?:let |make )?(?:the |an? )?(?P<who>[\w ]+?) (?P<how>(?:{_HOW})s?) (?P<number>\S+) (?:units? of |of )?(?P<what>[\w ]+?){_RATE}",
    re.IGNORECASE,
)
_ALONE = re.compile(
    rf"(?P<how>{_HOW}) (?P<number>\d\S*|one|two|three|four|five|ten) (?:units? of |of )?(?P<what>[\w ]+?){_RATE}",
    re.IGNORECASE,
)
_OUT_OF = re.compile(
    r"(?:the |an? )?(?P<who>.+?) (?:runs? out of|is out of|has run out of) (?:its )?(?P<what>\w+)",
    re.IGNORECASE,
)
_ALL_OR_NONE = frozenset(["all", "every", "each", "no", "none"])
_NONE_LEFT = re.compile(
    r"(?:there (?:is|are) )?no (?:more )?(?P<kind>\w+) (?:(?:is |are )?(?:left|there|remaining)|remains?)|(?:all|every)(?: of)?(?: the)? (?P<all>\w+) (?:is|are) (?:gone|removed|destroyed|dead)"
    r"|(?:the )?(?P<these>\w+) (?:are|have) all (?:gone|been removed|been destroyed|removed|destroyed|dead)",
    re.IGNORECASE,
)
_SOME_LEFT = re.compile(
    r"(?:there(?:'s| is| are) (?:still |any |some )?(?P<what>\w+)|(?:any |some |still )*(?P<other>\w+) (?:is|are)) (?:left|remaining)",
    re.IGNORECASE,
)
_A_NUMBER = re.compile(r"\d*\.?\d+(?:\*dt)?")
_CLOSE = "100"
"""Units that are near where no number is typed, as in the condition “within”."""


def amount_readings(index: Index, text: str, parts: tuple[Part, ...]) -> list[Reading]:
    """Return the conditions that a line says about an amount: at most one of them."""
    if "if" not in parts:
        return []
    plain = text.strip().rstrip(".!")
    for read in (_owned, _compared_counts, _counted_near, _all_in, _faster):
        for formula, role in read(index, plain):
            clause = Clause(use="formula_holds", slots={"formula": formula})
            # “every moth is in the shed” is no condition of one moth
            return [
                Reading(
                    clause,
                    "if",
                    _COUNTED_COST if "count" in formula or ".scale" in formula else _COST,
                    named=role,
                )
            ]
    return []


def changed_amounts(index: Index, text: str, parts: tuple[Part, ...]) -> list[Reading]:
    """Return what a line does to an amount that an object has: “drain 5 fuel from the lamp”, “the lamp loses 2 fuel a second”."""
    part: Part | None = next((part for part in parts if part in ("do", "else")), None)
    plain = text.strip().rstrip(".!")
    ways = (_MOVED, _GIVEN, _OWNER_MOVES, _ALONE)
    said = next((m for m in (p.fullmatch(plain) for p in ways) if m), None)
    if part is None or said is None:
        return []
    names = names_of(index)
    what = said["what"].lower()
    if said.re is _ALONE:
        # “lose 2 energy per second”, where somebody has energy
        fit = known_variable(names, (), what, "number") if said["rate"] else None
        variable, owner = (
            (fit.text, fit.text.rpartition(".")[0]) if fit is not None and not fit.begun else ("", "")
        )
    else:
        role = names.role(said["who"].lower())
        found = names.variable_of(role.name, what) if role is not None and not role.begun else None
        numeric = role is not None and found is not None and found[1] == "number"
        variable, owner = (found[0], role.name) if role and found and numeric else ("", "")
        if not variable and role is not None and not role.begun:
            # “the hero loses a life”, where the lives are the level's
            variable, owner = _of_the_level(index, what), role.name
    value = NUMBERS.get(said["number"].lower(), said["number"])
    if not variable or not _A_NUMBER.fullmatch(value):
        return []
    amount = f"-{value}" if said["how"].lower().rstrip("s") in _LESS else value
    if said["rate"]:
        amount += " * dt"
    slots = {"amount": amount, "variable": variable}
    return [Reading(Clause(use="add_to", slots=slots), part, _COST, named=owner)]


def _of_the_level(index: Index, what: str) -> str:
    """Return the level's number variable that a word names, in the singular or the plural; "" if there is none."""
    for name in (what, f"{what}s", *(many for many, one in PLURALS.items() if one == what)):
        fit = known_variable(names_of(index), (), name, "number")
        if fit is not None and not fit.begun and fit.text.startswith("level."):
            return fit.text
    return ""


def formula_of_amount(index: Index, text: str) -> str:
    """Return what a text says of an amount as a formula: “there are 3 pods in the shed”; "" if it says nothing of the kind."""
    plain = text.strip().rstrip(".!")
    for read in (_owned, _compared_counts, _counted_near, _all_in, _counted, _faster, _in_or_near):
        for formula, _ in read(index, plain):
            return formula
    return ""


def _in_or_near(index: Index, text: str) -> Iterator[tuple[str, str]]:
    """Yield what a line says of where an object is: “the gardener is in the shed”, “the moth is within 40 of the lamp”."""
    said = _IN.fullmatch(text) or _WITHIN.fullmatch(text)
    role = names_of(index).role(said["who"].lower()) if said is not None else None
    if said is None or role is None or role.begun:
        return
    other = said["where"].lower()
    turned = "not " if said["not"] else ""
    if said.re is _IN:
        if area := _area(index, other):
            yield f"{turned}in_area({token(role.name)}, {token(area)})", role.name
        return
    to = names_of(index).role(other)
    place = token(to.name) if to is not None and not to.begun else names_of(index).cased[0].get(token(other))
    if place:
        yield f"distance({token(role.name)}, {place}) {'>' if turned else '<='} {said['far']}", role.name


def _counted(index: Index, text: str) -> Iterator[tuple[str, str]]:
    """Yield what a line says of how many objects there are: “there are at least 3 pods in the shed”."""
    none = _NONE_LEFT.fullmatch(text)
    gone = _kind(index, none["kind"] or none["all"] or none["these"]) if none is not None else ""
    if gone:
        yield f"count({token(gone)}) = 0", gone
    elif none is not None and none["kind"]:
        kept = known_variable(names_of(index), (), none["kind"].lower(), "number")
        if kept is not None and kept.text.startswith("level."):
            yield f"{as_formula(kept.text)} <= 0", ""
    some = _SOME_LEFT.fullmatch(text)
    left = (some["what"] or some["other"]).lower() if some is not None else ""
    kept = known_variable(names_of(index), (), left, "number") if left and not _kind(index, left) else None
    if kept is not None and not kept.begun and kept.text.startswith("level."):
        yield f"{as_formula(kept.text)} > 0", ""
    said = _THERE_ARE.fullmatch(text)
    if said is None:
        return
    kind, area = _kind(index, said["kind"]), _area(index, (said["area"] or "").lower())
    value = (said["number"] or "1").lower()
    value = "0" if value == "no" else NUMBERS.get(value, value)
    sign = COUNT_SIGNS[said["sign"].lower()] if said["sign"] else "=" if said["number"] else ">="
    if kind and value.isdigit() and bool(area) == bool(said["area"]):
        yield (
            (f"count_in({token(kind)}, {token(area)})" if area else f"count({token(kind)})")
            + f" {sign} {value}",
            kind,
        )


def _owned(index: Index, text: str) -> Iterator[tuple[str, str]]:
    """Yield what a line says of an amount that an object has, or that all or none of a kind have: “all lamps have fuel”."""
    quantity, _, rest = text.partition(" ")
    kind = (
        _kind(index, rest.removeprefix("the ").partition(" ")[0]) if quantity.lower() in _ALL_OR_NONE else ""
    )
    if not kind:
        yield from _owned_by_one(index, text)
        return
    for formula, role in _owned_by_one(index, rest):
        asked = formula if quantity.lower() in ("no", "none") else f"not ({formula})"
        yield f"count_where({token(role)}, {asked}) = 0", role


def _owned_by_one(index: Index, text: str) -> Iterator[tuple[str, str]]:
    """Yield what a line says of an amount that an object has: “the lamp has less than 10 fuel”."""
    names = names_of(index)
    out = _OUT_OF.fullmatch(text)
    if out is not None:
        owner = names.role(out["who"].lower())
        kept = (
            names.variable_of(owner.name, out["what"].lower())
            if owner is not None and not owner.begun
            else None
        )
        if owner is not None and kept is not None and kept[1] == "number":
            yield f"{as_formula(kept[0])} <= 0", owner.name
    said = _HAS.fullmatch(text)
    if said is None:
        return
    role = names.role(said["who"].lower())
    found = (
        names.variable_of(role.name, said["what"].lower()) if role is not None and not role.begun else None
    )
    if role is not None and not role.begun and found is None and said["none"]:
        # “the hero has no lives left”, where the lives are the level's
        kept_ = _of_the_level(index, said["what"].lower())
        found = (kept_, "number") if kept_ else None
    if role is None or found is None or found[1] != "number":
        return
    number = said["number"]
    value = NUMBERS.get(number.lower(), number) if number else ""
    if value and not value.replace(".", "", 1).isdigit():
        return
    if said["none"] or not value:
        if said["sign"]:
            return
        none = (said["none"] or "some").lower() == "no"
        yield f"{as_formula(found[0])} {'<=' if none else '>'} 0", role.name
        return
    sign = COUNT_SIGNS[said["sign"].lower()] if said["sign"] else ">="
    yield f"{as_formula(found[0])} {sign} {value}", role.name


def _compared_counts(index: Index, text: str) -> Iterator[tuple[str, str]]:
    """Yield what a line says of two kinds' numbers: “there are more moths than lamps”."""
    said = _MORE.fullmatch(text)
    if said is None:
        return
    a, b = (_kind(index, said[part]) for part in ("a", "b"))
    if a and b:
        sign = {"more": ">", "as many": "="}.get(said["how"].lower(), "<")
        yield f"count({token(a)}) {sign} count({token(b)})", a


def _counted_near(index: Index, text: str) -> Iterator[tuple[str, str]]:
    """Yield what a line says of how many objects are near another: “no moth is near the lamp”."""
    said = _NEAR.fullmatch(text)
    if said is None:
        return
    how, number = said["how"].lower(), (said["number"] or "").lower()
    if how in COUNT_SIGNS:
        sign, value = COUNT_SIGNS[how], NUMBERS.get(number, number)
    elif number:
        return
    else:
        sign, value = "=", "0" if how == "no" else NUMBERS.get(how, how)
    kind, role = _kind(index, said["kind"]), names_of(index).role(said["who"].lower())
    if not kind or role is None or role.begun or role.name == kind or not value.isdigit():
        return
    near = f"distance({token(kind)}, {token(role.name)}) <= {said['far'] or _CLOSE}"
    yield f"count_where({token(kind)}, {near}) {sign} {value}", kind


def _faster(index: Index, text: str) -> Iterator[tuple[str, str]]:
    """Yield what a line says of how fast or large an object is: “the moth is faster than 50”, “the pod is smaller than 1”."""
    said = _FASTER.fullmatch(text)
    role = names_of(index).role(said["who"].lower()) if said is not None else None
    if said is not None and role is not None and not role.begun:
        how = said["how"].lower()
        age = names_of(index).variable_of(role.name, "age") if how in ("older", "younger") else None
        if age is None and how in ("older", "younger"):
            return
        measured = (
            as_formula(age[0])
            if age is not None
            else f"speed({token(role.name)})"
            if how in ("faster", "slower")
            else f"{token(role.name)}.scale"
        )
        sign = "<" if how in ("slower", "smaller", "younger") else ">"
        yield f"{measured} {sign} {said['number']}", role.name


def _all_in(index: Index, text: str) -> Iterator[tuple[str, str]]:
    """Yield what a line says of all objects of a kind: “every moth is in the shed”."""
    said = _ALL_IN.fullmatch(text)
    if said is None:
        return
    kind, area = _kind(index, said["kind"]), _area(index, said["area"].lower())
    if kind and area:
        sign = "<" if said["not"] else "="
        yield f"count_in({token(kind)}, {token(area)}) {sign} count({token(kind)})", kind


def _area(index: Index, typed: str) -> str:
    """Return the area that some words name; "" if they name none."""
    return next((p.name for p in index.level.places if isinstance(p, Area) and p.name.lower() == typed), "")


def _kind(index: Index, typed: str) -> str:
    """Return the kind that a word names, in the singular or the plural; "" if it names none."""
    found = names_of(index).role(typed.lower())
    return found.name if found is not None and not found.begun and found.name in index.kinds else ""
