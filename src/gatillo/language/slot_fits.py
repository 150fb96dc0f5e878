"""What some words of a typed line make in a slot: a known name, a formula, a text, or a name that the level lacks."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import NamedTuple

from gatillo.catalogue.declare.entry import Slot
from gatillo.formula.compiling import compile_formula
from gatillo.formula.function_table import FUNCTIONS
from gatillo.formula.syntax import FormulaError, parse
from gatillo.language.level_names import PRONOUNS, Found, looks_like, names_of, number_in_words
from gatillo.language.typed_words import ARTICLES, NEGATIONS, QUANTIFIERS, SMALL, TypedWord
from gatillo.level.naming import free_name_problem, name_problem, token
from gatillo.level.roles import Index

KNOWN_WORDS: set[str] = set()
"""Every word of a wording of the catalogue; wordings.py fills it. A name that is made up is less likely to be one of them."""
PRONOUN = "it"
"""In a slot: the object that was named last, to be put in when the whole line has been read."""
COLOURS = {
    "black": "#000000", "white": "#FFFFFF", "red": "#FF0000", "green": "#008000", "blue": "#0000FF", "yellow": "#FFFF00",
    "orange": "#FFA500", "purple": "#800080", "pink": "#FFC0CB", "brown": "#A52A2A", "grey": "#808080", "gray": "#808080",
    "silver": "#C0C0C0", "gold": "#FFD700", "lime": "#00FF00", "olive": "#808000", "teal": "#008080", "navy": "#000080",
    "maroon": "#800000", "cyan": "#00FFFF", "magenta": "#FF00FF", "violet": "#EE82EE", "turquoise": "#40E0D0",
}  # fmt: skip
"""Colours by their plain names, as CSS Color Module Level 4 gives them (W3C)."""
MOST_NAME_WORDS = 5
MOST_KEPT = 20_000
"""Fits of a level that are kept for the next key press."""
MOST_FORMULA_WORDS = 14

_UNKNOWN = 0.9
_UNKNOWN_BUT_A_WORD = 1.6
_FREE = 0.45
_UNITS = frozenset(
    [
        "°",
        "deg",
        "degs",
        "degree",
        "degrees",
        "unit",
        "units",
        "px",
        "pixel",
        "pixels",
        "%",
        "percent",
        "per cent",
        "times",
        "x",
        "×",
    ]
)
_SECONDS = {
    "s": 1.0, "sec": 1.0, "secs": 1.0, "second": 1.0, "seconds": 1.0, "ms": 0.001, "millisecond": 0.001,
    "milliseconds": 0.001, "m": 60.0, "min": 60.0, "mins": 60.0, "minute": 60.0, "minutes": 60.0,
}  # fmt: skip
_A_SECOND = (
    ("per", "second"),
    ("a", "second"),
    ("each", "second"),
    ("every", "second"),
    ("per", "sec"),
    ("per", "s"),
)
_A_TICK = tuple((one, other) for one in ("per", "a", "each", "every") for other in ("tick", "frame"))
_OPERATORS = frozenset(["+", "-", "*", "/", "^", "mod"])
_COMPARES = frozenset(["and", "or", "<", ">", "=", "<=", ">=", "<>"])
_WRITTEN = {"times": "*", "plus": "+", "minus": "-", "==": "=", "!=": "<>"}
_NAME = re.compile(r"[^\W\d]\w*")


@dataclass(frozen=True, slots=True)
class Missing:
    """A name in a slot that the level does not have."""

    typed: str
    """The name as it was typed."""
    make: str
    """What can be made of that name: “kind”, “level variable” …; "" for nothing."""
    owner: str = ""
    """For a variable: the role before its dot, "level" for one of the level."""


class Fit(NamedTuple):
    """How ill some words fit a slot (0: well), the text that they make there, and which of its names are missing or were only begun."""

    cost: float
    text: str
    missing: tuple[Missing, ...] = ()
    begun: tuple[tuple[str, str], ...] = ()
    remark: str = ""


_MAKES = {"role": "kind", "kind": "kind", "where": "spot", "area": "area", "route": "route", "tag": "tag"}
PER_TICK = (
    "This is an amount in each tick: the effect depends on the tick rate. A speed in units a second is * dt."
)


class SlotFits:
    """What the words of one line make in slots. Each answer is worked out once."""

    def __init__(self, index: Index, text: str, words: tuple[TypedWord, ...], here: tuple[str, ...]) -> None:
        self.index = index
        self.names = names_of(index)
        self.text = text
        self.words = words
        self.here = here
        self._plain = [w.plain or w.text for w in words]

    def longest(self, slot: Slot) -> int:
        """Return how many words may fill a slot at most."""
        kind = slot.kind
        if kind.holds in ("text", "given", "entries"):
            return 40
        return MOST_FORMULA_WORDS if kind.holds == "formula" else MOST_NAME_WORDS

    def fit(self, slot: Slot, start: int, end: int, *, after_verb: bool) -> Fit | None:
        """Return what the words from `start` to `end` make in a slot; None if they do not fit.

        `after_verb` says that a word of the sentence has been met before: a new message of several words may stand there.
        """
        raw = self._raw(start, end)
        key = (slot.type, slot.options, slot.default == "1", after_verb, raw, self.here)
        known = self.names.fits
        if key in known:
            kept: Fit | None = known[key]
            return kept
        if len(known) > MOST_KEPT:
            known.clear()
        found = known[key] = self._fit(slot, start, end, after_verb)
        return found

    def _raw(self, start: int, end: int) -> str:
        return self.text[self.words[start].start : self.words[end - 1].end].strip()

    def _fit(self, slot: Slot, start: int, end: int, after_verb: bool) -> Fit | None:
        kind = slot.kind
        plain = self._plain[start:end]
        if kind.holds == "text":
            return self._text(start, end)
        if plain[0] in (",", ";", ":") or plain[-1] in (",", ";", ":"):
            return None
        if kind.holds == "formula":
            return self._value(slot, start, end)
        if kind.holds in ("given", "entries"):
            raw = self._raw(start, end)
            return (
                Fit(0.3 + 0.02 * (end - start), raw)
                if not (kind.wrong and kind.wrong(self.index, raw))
                else None
            )
        if "," in plain or ";" in plain:
            return None
        if kind.holds == "variable":
            return self._variable(slot, start, end)
        if kind.wrong is not None and kind.names is None:
            # what has a form and no names, such as a colour
            return self._formed(slot, start, end)
        return self._named(slot, start, end, after_verb)

    # names

    def _formed(self, slot: Slot, start: int, end: int) -> Fit | None:
        """Return what has a form of its own, such as a colour: as it is written, by its plain name, or as it was typed."""
        raw = self._raw(start, end)
        wrong = slot.kind.wrong
        assert wrong is not None
        if not wrong(self.index, raw):
            return Fit(0.0, raw)
        if end - start > 1 or raw.lower() in SMALL:
            return None
        if slot.type == "colour":
            if raw.lower() in COLOURS:
                return Fit(0.03, COLOURS[raw.lower()])
            return (
                Fit(_UNKNOWN + 0.5, raw, (Missing(raw, ""),))
                if raw.isalnum() and not self._is_named(raw.lower())
                else None
            )
        return None

    def _named(self, slot: Slot, start: int, end: int, after_verb: bool) -> Fit | None:
        kind = slot.kind
        one = end - start == 1
        quoted = one and self.words[start].quoted
        raw = self._raw(start, end)
        typed = " ".join(self._plain[start:end]).replace("_", " ").replace(" : ", ": ")
        roles = kind.holds in ("role", "where")
        if roles and one and typed in PRONOUNS:
            return Fit(0.1, PRONOUN)
        found = self._known(slot, typed)
        if found is not None:
            return Fit(found.cost + (0.4 if slot.type == "key" and raw == "a" else 0.0), found.name)
        first, _, rest = typed.partition(" ")
        if first in ARTICLES and rest:
            known = self._known(slot, rest)
            if known is not None:
                return Fit(known.cost + 0.01, known.name)
            return (
                None
                if slot.type not in ("message", "topic", "rule", "section")
                else self._free(slot, start, end, after_verb)
            )
        if slot.type == "key":
            if raw == "a":
                return Fit(0.4, "A")
            known = self._known(slot, typed.removesuffix(" key").removesuffix(" button"))
            if known is not None:
                return Fit(known.cost + 0.02, known.name)
        begun = self.names.table(slot).begun(typed, self.here) if not quoted else None
        if begun is not None and (slot.type != "key" or len(typed) > 2) and typed not in SMALL:
            if slot.options:
                whole = begun.name.lower().startswith(typed)
                return Fit(begun.cost, begun.name) if whole else None
            if begun.cost < 0.19 and self.names.is_free(slot):
                # a whole word is a name of its own, where names can be chosen freely
                return self._free(slot, start, end, after_verb)
            if slot.type in ("rule", "section"):
                begun = begun._replace(cost=begun.cost + 0.35)
            return Fit(begun.cost, begun.name, begun=((raw, begun.name),))
        if slot.options:
            return self._option(slot, typed)
        if self.names.is_free(slot):
            return self._free(slot, start, end, after_verb)
        return self._missing(slot, start, end)

    def _known(self, slot: Slot, typed: str) -> Found | None:
        if slot.kind.holds == "role" and not slot.kind.all_matches:
            return self.names.role(typed)
        if slot.kind.holds == "where":
            return self.names.where(slot, typed)
        return self.names.table(slot).find(typed) or (self.names.role(typed) if slot.type == "per" else None)

    def _option(self, slot: Slot, typed: str) -> Fit | None:
        """Return a choice of which some words are typed, without a gap."""
        if typed in SMALL or not re.search(r"\w", typed):
            return None
        for option in slot.options:
            if f" {typed} " in f" {option.lower()} ":
                return Fit(0.15, option)
        return None

    def _free(self, slot: Slot, start: int, end: int, after_verb: bool) -> Fit | None:
        """Return a new name that may be of several words: of a message, an item, a timer."""
        many = end - start
        words = self._plain[start:end]
        quoted = many == 1 and self.words[start].quoted
        raw = self._raw(start, end).strip('"“”')
        if free_name_problem(raw) is not None:
            return None
        if not quoted:
            if (
                re.search(r"[()=<>]", raw)
                or words[0] in ARTICLES
                or any(w in NEGATIONS or w in QUANTIFIERS for w in words)
            ):
                return None
            near = many > 1 and looks_like(raw.lower(), self.names.table(slot))
            if many > 1 and not near and (not after_verb or words[0] in SMALL or words[-1] in SMALL):
                return None
            if many == 1 and (words[0] in SMALL or not _NAME.match(raw)):
                return None
            if re.fullmatch(r"-?\d+(\.\d+)?", words[0]):
                return None
        spoken = 0.25 * sum(w in KNOWN_WORDS or w in self.names.words for w in words) if not quoted else 0.0
        cost = _FREE + 0.12 * (many - 1) + min(spoken, 0.75)
        return Fit(cost, raw, (Missing(raw, slot.type),))

    def _missing(self, slot: Slot, start: int, end: int) -> Fit | None:
        """Return a name that the level lacks: one word, several in quotes, or a kind and a number."""
        words = self._plain[start:end]
        quoted = end - start == 1 and self.words[start].quoted
        raw = self._raw(start, end).strip('"“”')
        make = _MAKES.get(slot.type, "") if raw not in self.index.scenery else ""
        if slot.kind.holds in ("role", "where") and len(words) >= 2 and words[-1].isdigit():
            of_kind = self.names.roles.find(" ".join(words[:-1]))
            if of_kind is not None and of_kind.name in self.index.kinds:
                name = f"{of_kind.name} {words[-1]}"
                return Fit(0.5, name, (Missing(raw, "object"),))
        if not quoted:
            near = len(words) > 1 and looks_like(raw.lower(), self.names.table(slot))
            if len(words) > 1 and not near and slot.type not in ("rule", "section"):
                return None
            if any(w in SMALL or w in NEGATIONS or w in QUANTIFIERS for w in words) or not _NAME.fullmatch(
                raw.replace(" ", "_")
            ):
                return None
        if name_problem(raw) is not None:
            return None
        cost = _UNKNOWN + 0.3 * (len(words) - 1)
        if not quoted:
            cost += _UNKNOWN_BUT_A_WORD * (words[0] in KNOWN_WORDS)
            if self._is_named(words[0]):
                cost, make = cost + 0.5, ""
        return Fit(cost, raw, (Missing(raw, make),))

    def _is_named(self, typed: str) -> bool:
        """Whether a word is the name of something else in the level."""
        index = self.index
        plain = typed.replace("_", " ")
        return (
            plain in self.names.roles.exact
            or token(typed) in index.place_tokens
            or plain in self.names.level_variables.exact
        )

    # variables

    def _variable(self, slot: Slot, start: int, end: int) -> Fit | None:
        words = self._plain[start:end]
        if words[0] in ARTICLES or ":" in words:
            return None
        typed = " ".join(words)
        found = self._known_variable(typed, slot.kind.gives)
        if found is not None:
            return found
        return self._new_variable(typed, self._raw(start, end), slot.kind.gives)

    def _known_variable(self, typed: str, wanted: str) -> Fit | None:
        names = self.names
        typed = typed.removeprefix("level variable ").removeprefix("variable ")
        if typed.count(" ") > 7:
            return None
        for owner, name, cost in _owner_and_name(typed):
            if owner == "level":
                known = names.level_variables.find(name.replace("_", " "))
                if known is not None and self._type_fits(known.name, wanted):
                    return Fit(cost + known.cost, known.name, begun=_not_quite(typed, known))
                continue
            role = names.role(owner)
            if role is None and (owner in PRONOUNS or owner == "its"):
                role = Found(0.05, PRONOUN)
                if self.here:
                    found = names.variable_of(self.here[-1], name.replace("_", " "))
                    if found is not None and wanted in ("", found[1]):
                        return Fit(cost + 0.1, found[0])
                continue
            if role is None:
                begun = names.roles.begun(owner, self.here)
                role = begun if "." in typed else None
            if role is not None:
                found = names.variable_of(role.name, name.replace("_", " "))
                if found is not None and wanted in ("", found[1]):
                    return Fit(cost + role.cost, found[0])
        plain = typed.replace("_", " ")
        known = names.level_variables.find(plain)
        if known is not None and self._type_fits(known.name, wanted):
            return Fit(known.cost, known.name, begun=_not_quite(typed, known))
        for role_text in reversed(self.here):
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
            if begun is not None and self._type_fits(begun.name, wanted):
                return Fit(begun.cost + 0.05, begun.name, begun=((typed, begun.name),))
            begun = names.owned_names.begun(plain)
            if begun is not None:
                owner, _, name = begun.name.rpartition(".")
                found = names.variable_of(owner, name)
                if found is not None and wanted in ("", found[1]):
                    return Fit(begun.cost + 0.1, begun.name, begun=((typed, begun.name),))
        return None

    def _type_fits(self, variable: str, wanted: str) -> bool:
        return not wanted or self.index.level_tokens.get(token(variable.removeprefix("level."))) == wanted

    def _new_variable(self, typed: str, raw: str, wanted: str) -> Fit | None:
        """Return a variable that the level lacks: one word, after its owner or alone."""
        for owner, name, cost in _owner_and_name(typed):
            if "_" in name and name not in raw.lower():
                # a new variable is one word
                continue
            if not _NAME.fullmatch(name) or name_problem(name) is not None or name in NEGATIONS:
                continue
            if owner == "level":
                if token(name) in {t.lower() for t in self.index.level_tokens}:
                    # it is there, and of another type
                    return Fit(_UNKNOWN, f"level.{name}", (Missing(name, "", "level"),))
                return Fit(
                    _UNKNOWN - 0.3 + cost, f"level.{name}", (Missing(name, "level variable", "level"),)
                )
            role = self.names.role(owner)
            if role is not None and not (
                " " in typed and "." not in typed and (name in SMALL or name in KNOWN_WORDS)
            ):
                known = self.names.variable_of(role.name, name)
                shown = name if known is None else known[0].rpartition(".")[2]
                kind = self.index.role(role.name)
                make = "kind variable" if known is None and kind is not None and len(kind.kinds) == 1 else ""
                return Fit(_UNKNOWN - 0.3 + cost, f"{role.name}.{shown}", (Missing(name, make, role.name),))
        if not _NAME.fullmatch(raw) or name_problem(raw) is not None:
            plain = raw.strip('"“”')
            if raw[:1] not in '"“' or name_problem(plain) is not None:
                # an owner that is not there: kept as it is written
                dotted = re.fullmatch(r"([^\W\d]\w*)\.([^\W\d]\w*)", raw)
                return Fit(_UNKNOWN + 0.2, raw, (Missing(raw, "", ""),)) if dotted else None
            raw = plain
        lower = raw.lower()
        if lower in self.names.roles.exact or token(raw) in self.index.place_tokens:
            return None
        if lower in SMALL or lower in NEGATIONS or lower in PRONOUNS:
            return None
        taken = lower in self.names.words and lower not in self.names.owned_variables
        cost = _UNKNOWN - 0.3 + 0.4 * (lower in KNOWN_WORDS) + 0.5 * taken
        make = "" if token(raw) in self.index.level_tokens else "level variable"
        return Fit(cost + 0.1, f"level.{raw}", (Missing(raw, make, "level"),))

    # formulas

    def _value(self, slot: Slot, start: int, end: int) -> Fit | None:
        wanted = slot.kind.gives
        plain = self._plain
        remark, factor, unit = "", 1.0, False
        if wanted == "number" and end - start > 1:
            if (
                plain[end - 2 : end]
                and (plain[end - 2], plain[end - 1]) in _A_SECOND
                and slot.type != "seconds"
            ):
                end, unit = end - 2, True
            elif (plain[end - 2], plain[end - 1]) in _A_TICK and slot.type != "seconds" and end - start > 2:
                end, unit, remark = end - 2, True, PER_TICK
            if slot.type == "seconds" and plain[end - 1] in _SECONDS and end - start > 1:
                factor, unit, end = _SECONDS[plain[end - 1]], True, end - 1
                if plain[start:end] == ["half", "a"]:
                    return Fit(0.02, _decimal(0.5 * factor))
            elif slot.type == "seconds" and plain[end - 1] in ("tick", "ticks", "frame", "frames"):
                raw = self._raw(start, end - 1)
                return Fit(0.1, f"{raw} * dt") if re.fullmatch(r"\d+", raw) else None
            elif slot.type != "seconds" and end - start > 1 and plain[end - 1] in _UNITS:
                unit, end = True, end - 1
        if end <= start:
            return None
        raw = self._raw(start, end)
        one = end - start == 1
        if one and slot.type == "seconds" and plain[start] in ("second", "minute"):
            # “every minute”
            return Fit(0.1, _decimal(_SECONDS[plain[start]]))
        if one and re.fullmatch(r"-?\d+(\.\d+)?", raw) and wanted != "yes/no":
            shown = raw if factor == 1.0 else _decimal(float(raw) * factor)
            return Fit(0.0 if not unit else -0.01, shown, remark=remark)
        if one and wanted != "yes/no" and (word := number_in_words(raw.lower())) is not None:
            if raw.lower() in ("a", "an") and not unit and slot.default != "1":
                # one of something, not a distance
                return None
            cost = 0.15 if raw.lower() in ("a", "an", "once", "half", "zero") and not unit else 0.03
            return Fit(cost, word if factor == 1.0 else _decimal(float(word) * factor), remark=remark)
        found = self._formula(start, end, wanted, seconds=slot.type == "seconds")
        if found is None:
            return None
        text = found.text if factor == 1.0 else f"({found.text}) * {_decimal(factor)}"
        return found._replace(text=text, remark=remark)

    def _formula(self, start: int, end: int, wanted: str, *, seconds: bool) -> Fit | None:
        words = self.words[start:end]
        if len(words) == 1 and words[0].quoted:
            if wanted:
                return None
            return Fit(0.02, f'"{words[0].text.strip(chr(34) + "“”")}"')
        single = len(words) == 1 and _NAME.fullmatch(words[0].text) is not None
        if single:
            return None if seconds and words[0].plain == "tick" else self._single(words[0], wanted)
        if wanted != "number" and (state := self._state(start, end)) is not None:
            return state
        if wanted == "yes/no" and self._plain[start] == "not":
            # the condition is turned round, not its formula
            return None
        joined = self._joined(start, end, wanted)
        if joined is None:
            return None
        raw = self._raw(start, end)
        for text in self._written(raw, joined):
            if self._lacks_a_name(text):
                continue
            try:
                compiled = compile_formula(self.index, text, wanted or None)  # type: ignore[arg-type]
            except FormulaError:
                continue
            if compiled.type not in ("object", "place"):
                return Fit(0.06, text)
        owned = self._known_variable(" ".join(self._plain[start:end]), wanted)
        if owned is not None:
            return owned._replace(cost=owned.cost + 0.05, text=_as_formula(owned.text))
        return self._unknown_formula(self.cased(joined), raw, wanted)

    def _written(self, raw: str, joined: str) -> Iterator[str]:
        """Yield the ways in which a formula may be meant: as typed, with the level's spelling, with begun names written out."""
        for text in dict.fromkeys((raw, joined)):
            yield text
            yield self.cased(text)
            yield self.written_out(text)

    def _lacks_a_name(self, text: str) -> bool:
        """Whether a formula cannot be read, or names something that the level lacks."""
        try:
            tree = parse(text)
        except FormulaError:
            return True
        return bool(self._names_missing(tree))

    def _state(self, start: int, end: int) -> Fit | None:
        """Return “lamp is lit” as the yes/no variable that it names."""
        plain = self._plain[start:end]
        verbs = ("is", "are", "has", "was")
        at = next((n for n, word in enumerate(plain) if word in verbs and 0 < n < len(plain) - 1), None)
        if at is None:
            return None
        after = at + 1 + (plain[at + 1] == "been" and at + 2 < len(plain))
        owner, state = " ".join(plain[:at]), "_".join(plain[after:])
        role = self.names.role(owner.removeprefix("the ")) if owner != "level" else None
        found = self.names.variable_of(role.name, state.replace("_", " ")) if role is not None else None
        if found is not None and found[1] == "yes/no":
            return Fit(0.08, _as_formula(found[0]))
        return None

    def _single(self, word: TypedWord, wanted: str) -> Fit | None:
        """Return a single word as a formula: a value, a variable, or one that is not there."""
        plain = word.plain
        if plain in ("yes", "no", "true", "false") and wanted != "number":
            return Fit(0.0, {"true": "yes", "false": "no"}.get(plain, plain))
        if plain in ("time", "tick", "dt") and wanted != "yes/no":
            return Fit(0.0, plain)
        if plain in ("on", "off") and wanted == "":
            return Fit(0.1, "yes" if plain == "on" else "no")
        if plain in NEGATIONS or plain in ARTICLES or plain in _OPERATORS or plain in _COMPARES:
            return None
        owned = self._known_variable(plain, wanted)
        if owned is not None:
            return owned._replace(cost=owned.cost + 0.1 * len(owned.begun), text=_as_formula(owned.text))
        if plain in SMALL or plain in PRONOUNS or plain in self.names.roles.exact or self.names.role(plain):
            return None
        if token(word.text) in self.index.place_tokens or plain in FUNCTIONS:
            return None
        cost = (
            _UNKNOWN + 0.15 + _UNKNOWN_BUT_A_WORD * (plain in KNOWN_WORDS) + 0.4 * (plain in self.names.words)
        )
        make = "" if token(word.text) in self.index.level_tokens else "level variable"
        return Fit(cost, word.text, (Missing(word.text, make, "level"),))

    def _joined(self, start: int, end: int, wanted: str) -> str | None:
        """Return words as a formula, names of several words written as one; None if they cannot be one."""
        parts: list[str] = []
        at, operand = start, True
        while at < end:
            word, plain = self.words[at], self._plain[at]
            if not operand:
                sign = _WRITTEN.get(plain, plain)
                joins = sign in _OPERATORS or (sign in _COMPARES and wanted != "number")
                if joins:
                    parts.append(sign)
                    at, operand = at + 1, True
                    continue
                if word.text[:1] in "+-*/" and len(word.text) > 1:
                    # the sign is written at the next operand
                    parts.append(word.text)
                    at += 1
                    continue
                return None
            if (plain == "-" or (plain == "not" and wanted != "number")) and at + 1 < end:
                parts.append(plain)
                at += 1
                continue
            taken, text = self._operand(at, end)
            if not taken:
                return None
            parts.append(text)
            at += taken
            operand = text[-1:] in "+-*/^"
        return " ".join(parts) if parts and not operand else None

    def _operand(self, at: int, end: int) -> tuple[int, str]:
        """Return how many words from here are one operand of a formula, and how a formula writes it."""
        for many in range(min(5, end - at), 1, -1):
            typed = " ".join(self._plain[at : at + many])
            owned = self._known_variable(typed, "")
            if owned is not None and not owned.begun:
                return many, _as_formula(owned.text)
            head, dot, rest = typed.partition(".")
            role = self.names.roles.exact.get(head.replace("_", " ")) if dot else None
            if role is not None and " " in head and " " not in rest:
                return many, f"{token(role)}.{rest}"
        text = self.words[at].text
        if self.words[at].quoted:
            return 1, f'"{text.strip(chr(34) + "“”")}"'
        plain = self._plain[at]
        if plain in _OPERATORS or plain in _COMPARES or not re.search(r"\w", text):
            return 0, ""
        if _NAME.fullmatch(text) and plain in SMALL:
            return 0, ""
        return 1, text

    def _unknown_formula(self, text: str, raw: str, wanted: str) -> Fit | None:
        """Return a formula that reads as one, and names something that the level lacks: it is kept as it was typed."""
        try:
            tree = parse(text)
        except FormulaError:
            return None
        missing = self._names_missing(tree)
        if missing:
            return Fit(0.7 + 0.1 * len(missing), text, tuple(missing))
        if wanted == "yes/no":
            return None
        try:
            compile_formula(self.index, text, wanted or None)  # type: ignore[arg-type]
        except FormulaError:
            # all its names are there: it is wrong in another way, which the slot will say
            return Fit(1.2, text, (Missing(raw, ""),))
        return None

    def _names_missing(self, tree: object) -> list[Missing]:
        found: list[Missing] = []
        index = self.index

        def walk(node: object) -> None:
            op, name, member = node.op, node.name, node.member  # type: ignore[attr-defined]
            if op == "member":
                if name == "level":
                    if member not in index.level_tokens:
                        found.append(Missing(member, "level variable", "level"))
                elif name in index.role_tokens:
                    role = index.role_tokens[name]
                    if self.names.variable_of(role.text, member) is None:
                        make = "kind variable" if len(role.kinds) == 1 else ""
                        found.append(Missing(member, make, role.text))
                elif name not in index.place_tokens and name not in ("pointer", "self"):
                    found.append(Missing(name, ""))
            elif op == "name":
                known = (
                    name in index.role_tokens
                    or name in index.place_tokens
                    or name in ("time", "dt", "tick", "nobody")
                )
                if not known:
                    found.append(Missing(name, "level variable", "level"))
            elif op == "call" and name not in FUNCTIONS:
                found.append(Missing(name, ""))
            for part in node.parts:  # type: ignore[attr-defined]
                walk(part)

        walk(tree)
        return list(dict.fromkeys(found))

    def cased(self, raw: str) -> str:
        """Return a formula with names written as the level writes them."""
        known, level = self.names.cased

        def named(match: re.Match[str]) -> str:
            word = match.group()
            return known.get(word.lower()) or level.get(word.lower(), word)

        return re.sub(r'(?<![\w."])[^\W\d]\w*(?!["\w(])', named, raw)

    def written_out(self, raw: str) -> str:
        """Return a formula with begun names and functions written to their end, where only one begins so: dist(mo, la)."""
        names = self.names.formula_names

        def ended(match: re.Match[str]) -> str:
            word = match.group()
            known = FUNCTIONS if raw[match.end() :].lstrip().startswith("(") else names
            begun = sorted((n for n in known if n.lower().startswith(word.lower())), key=len)
            # “mo” means Moth where all that begins so is a Moth, as Moth_1 is
            sure = begun and all(n == begun[0] or n.startswith(f"{begun[0]}_") for n in begun)
            return begun[0] if sure and word not in known else word

        # what follows a dot, or stands for itself, is not a beginning
        return self.cased(
            re.sub(r'(?<![\w."])(?!(?:level|pointer|time|dt)\b)[^\W\d]\w+(?!["\w])', ended, raw)
        )

    def _text(self, start: int, end: int) -> Fit | None:
        raw = self._raw(start, end)
        many = end - start
        quoted = many == 1 and self.words[start].quoted
        if not quoted and many > 1 and self.words[start].quoted:
            return None
        if not quoted and self._plain[start] in (",", ";", ":"):
            return None
        return Fit(0.0 if quoted else 0.4 + 0.005 * many, raw.strip('"“”') if quoted else raw)


def _owner_and_name(typed: str) -> list[tuple[str, str, float]]:
    """Return how a variable may be parted: its owner, its name, and how unusual that is."""
    found: list[tuple[str, str, float]] = []
    if "." in typed:
        owner, _, name = typed.rpartition(".")
        return [(owner.replace("_", " ").strip(), name, 0.0)] if owner and name else []
    if " 's " in typed:
        owner, _, name = typed.partition(" 's ")
        return [(owner, name.replace(" ", "_"), 0.03)]
    if " of " in typed:
        name, _, owner = typed.rpartition(" of ")
        found.append((owner, name.replace(" ", "_"), 0.05))
        found.append(
            ("level" if owner == "the level" else owner.removeprefix("the "), name.replace(" ", "_"), 0.06)
        )
    words = typed.split(" ")
    return found + [
        (" ".join(words[:cut]), "_".join(words[cut:]), 0.08) for cut in range(len(words) - 1, 0, -1)
    ]


def _not_quite(typed: str, known: Found) -> tuple[tuple[str, str], ...]:
    """Return what was typed with what it was read as, where they differ by a plural."""
    return ((typed, known.name),) if known.cost else ()


def _as_formula(variable: str) -> str:
    owner, _, name = variable.rpartition(".")
    return f"{token(owner)}.{token(name)}" if owner else variable


def _decimal(value: float) -> str:
    return f"{value:g}"
