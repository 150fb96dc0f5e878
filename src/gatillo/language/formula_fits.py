"""Formulas and numbers among the words of a typed line: with units, with names as they are spoken, kept as typed if a name is missing."""

from __future__ import annotations

import re
from collections.abc import Iterator

from gatillo.catalogue.declare.entry import Slot
from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import PROPERTY_TYPES
from gatillo.formula.function_table import FUNCTIONS
from gatillo.formula.syntax import FormulaError, Node, parse
from gatillo.formula.template import split_braces
from gatillo.language.amount_phrases import formula_of_amount
from gatillo.language.fits import (
    KNOWN_WORDS,
    NAME,
    SMALL_NUMBERS,
    UNKNOWN,
    UNKNOWN_BUT_A_WORD,
    Fit,
    Missing,
    is_length,
)
from gatillo.language.level_names import PRONOUNS, names_of, number_in_words
from gatillo.language.spoken_formulas import COMPARED, SPOKEN, SPOKEN_POINTS, as_number, in_brackets
from gatillo.language.state_phrases import formula_of_state
from gatillo.language.typed_words import ARTICLES, COMPARATIVES, NEGATIONS, SMALL, TypedWord, split_words
from gatillo.language.variable_fits import as_formula, known_variable
from gatillo.level.naming import is_point_formula, token
from gatillo.level.roles import Index

_DEGREES = frozenset(["°", "deg", "degs", "degree", "degrees"])
_TIMES = frozenset(["times", "x", "×"])
_UNITS = _DEGREES | _TIMES | {"unit", "units", "px", "pixel", "pixels", "%", "percent", "per cent"}
_OF_TIMES = SMALL_NUMBERS - {"0"}
"""What a number is at first that may be one of times: a factor, a share, a count."""
SECONDS_IN = {
    "s": 1.0, "sec": 1.0, "secs": 1.0, "second": 1.0, "seconds": 1.0, "ms": 0.001, "millisecond": 0.001,
    "milliseconds": 0.001, "m": 60.0, "min": 60.0, "mins": 60.0, "minute": 60.0, "minutes": 60.0,
}  # fmt: skip
"""How many seconds each unit of time has, by the word for it."""
A_SECOND = (
    ("per", "second"),
    ("a", "second"),
    ("each", "second"),
    ("every", "second"),
    ("per", "sec"),
    ("per", "s"),
)
_A_TICK = tuple((one, other) for one in ("per", "a", "each", "every") for other in ("tick", "frame"))
_NO_TIME = re.compile(r"\.(?:angle|x|y|scale)$")
"""What an object has that does not say how long something takes: “in its own direction”."""
_OPERATORS = frozenset(["+", "-", "*", "/", "^", "mod"])
_COMPARES = frozenset(["and", "or", "<", ">", "=", "<=", ">=", "<>"])
_WRITTEN = {"times": "*", "plus": "+", "minus": "-", "==": "=", "!=": "<>"}
_PERCENT = ("%", "percent")
A_PERCENTAGE = "percent"
"""Remark of a number with a percent sign: only a slot for percentages takes it as it is."""
PER_TICK = (
    "This is an amount in each tick: the effect depends on the tick rate. A speed in units a second is * dt."
)
PER_SECOND = "This is an amount a second, * dt in each tick: the rule should fire in every tick."

_THAT_ARE = re.compile(
    r"(?:the )?(?:number|count) of (?:(?P<kind>\w+) (?:that|which|who) are (?P<state>\w+)|(?:the )?(?P<state_>\w+) (?P<kind_>\w+))",
    re.IGNORECASE,
)
_FUNCTION_OVER_ALL = {
    "total": "total", "sum": "total", "average": "average", "mean": "average", "lowest": "lowest",
    "smallest": "lowest", "minimum": "lowest", "highest": "highest", "largest": "highest",
    "greatest": "highest", "maximum": "highest",
}  # fmt: skip
"""Words before a variable that all objects of a kind have, with the function over all of them."""
_OVER_ALL = re.compile(
    rf"(?:the )?(?P<how>{'|'.join(_FUNCTION_OVER_ALL)})(?: of)?(?: all)?(?: the)? "
    r"(?P<what>[\w ']+?)(?: of (?:all|any|every)(?: the)? \w+)?",
    re.IGNORECASE,
)
_GOES_ON = re.compile(r"\b(?:and|or|then|but)\b", re.IGNORECASE)
"""Words with which a text without quotes ends."""
_BETWEEN = re.compile(
    r"(?P<what>.+?) is (?P<not>not )?(?:between|from|in the range of|in the range) (?P<low>.+?) (?:and|to) (?P<high>.+)",
    re.IGNORECASE,
)


_MUCH_OF = re.compile(
    r"how (?:much|many) (?P<what>\w+) (?:the |an? )?(?P<who>[\w ]+?) (?:has|have)(?: got)?(?: left)?",
    re.IGNORECASE,
)
_OWNED = re.compile(r"(?:the |an? )?(?P<who>[\w ]+?)'s (?P<what>\w+)", re.IGNORECASE)
_PLACE_OF = re.compile(
    r"(?:the )?(?:position|place|location|coordinates) of (?:the )?(?P<who>\w+)|(?:where|at) (?:the )?(?P<other>\w+)(?: is)?(?: now)?",
    re.IGNORECASE,
)
_BARE = re.compile(r"(?<![\w.])[^\W\d]\w*(?![\w.(])")
"""A word of a formula that stands alone: neither an owner, nor owned, nor a function."""
_NUMBER_OF = re.compile(
    r"(?:the )?(?:(?:number|count|amount) of|how many) (?P<what>.+?)(?: there are| are there| are left| remain)?",
    re.IGNORECASE,
)
"""What asks for a number of objects where a text is wanted."""


def _has_a_point(tree: Node) -> bool:
    """Return whether a formula has a point in it: “(0, 10)”, or a function that gives one."""
    declared = FUNCTIONS.get(tree.name) if tree.op == "call" else None
    if tree.op == "point" or (declared is not None and declared.result == "point"):
        return True
    return tree.op in ("+", "-") and any(map(_has_a_point, tree.parts))


class FormulaFits:
    """What the words of one line make where a formula may stand."""

    def __init__(self, index: Index, text: str, words: tuple[TypedWord, ...], here: tuple[str, ...]) -> None:
        self.index = index
        self.names = names_of(index)
        self.text = text
        self.words = words
        self.here = here
        self._plain = [w.plain or w.text for w in words]

    def _raw(self, start: int, end: int) -> str:
        return self.text[self.words[start].start : self.words[end - 1].end].strip()

    def value(self, slot: Slot, start: int, end: int) -> Fit | None:
        """Return what the words from `start` to `end` make in a slot for a formula; None if they are none."""
        wanted = slot.kind.gives
        plain = self._plain
        remark, factor, unit = "", 1.0, False
        if wanted == "number" and end - start > 1:
            if (
                plain[end - 2 : end]
                and (plain[end - 2], plain[end - 1]) in A_SECOND
                and slot.type != "seconds"
                # “10 percent each second” is a chance, and says when
                and plain[end - 3 : end - 2] not in (["percent"], ["%"])
            ):
                end, unit, remark = end - 2, True, PER_SECOND
            elif (plain[end - 2], plain[end - 1]) in _A_TICK and slot.type != "seconds" and end - start > 2:
                end, unit, remark = end - 2, True, PER_TICK
            if slot.type == "seconds" and plain[end - 1] in SECONDS_IN and end - start > 1:
                factor, unit, end = SECONDS_IN[plain[end - 1]], True, end - 1
                if plain[start:end] == ["half", "a"]:
                    return Fit(0.02, _decimal(0.5 * factor))
            elif slot.type == "seconds" and plain[end - 1] in ("tick", "ticks", "frame", "frames"):
                raw = self._raw(start, end - 1)
                many = number_in_words(raw.lower()) or raw
                return Fit(0.1, f"{many} * dt") if re.fullmatch(r"\d+", many) else None
            elif (
                slot.type != "seconds"
                and end - start > 1
                and plain[end - 1] in _UNITS
                # “60 degrees” does not say how far
                and not (plain[end - 1] in _DEGREES and is_length(slot))
                # “3 times” does not say by what angle
                and (plain[end - 1] not in _TIMES or slot.default in _OF_TIMES)
            ):
                unit, end = True, end - 1
                if (
                    end - start == 1
                    and plain[end] in _PERCENT
                    and re.fullmatch(r"-?\d+(\.\d+)?", plain[end - 1])
                ):
                    remark = A_PERCENTAGE
        if end <= start:
            return None
        raw = self._raw(start, end)
        one = end - start == 1
        if one and slot.type == "seconds" and plain[start] in ("second", "minute"):
            # “every minute”
            return Fit(0.1, _decimal(SECONDS_IN[plain[start]]))
        if one and re.fullmatch(r"-?\d+(\.\d+)?", raw) and wanted != "yes/no":
            shown = raw if factor == 1.0 else _decimal(float(raw) * factor)
            return Fit(0.0 if not unit else -0.01, shown, remark=remark)
        if one and wanted != "yes/no" and (word := number_in_words(raw.lower())) is not None:
            if raw.lower() in ("a", "an") and not unit and slot.default != "1":
                # one of something, not a distance
                return None
            if raw.lower() in ("once", "twice") and remark == PER_SECOND:
                # “once a second” says how often
                return None
            if raw.lower() in ("once", "twice") and slot.default in ("", "0", "1"):
                # “send bang once” sends no number, “play the clip twice” has no speed
                return None
            cost = 0.15 if raw.lower() in ("a", "an", "once", "half", "zero") and not unit else 0.03
            return Fit(cost, word if factor == 1.0 else _decimal(float(word) * factor), remark=remark)
        found = self._formula(start, end, wanted, seconds=slot.type == "seconds")
        if slot.type == "value" and (found is None or found.missing):
            found = self._something_there(start, end) or found
        if found is None or (slot.type == "seconds" and _NO_TIME.search(found.text) and "." not in raw):
            return None
        text = found.text if factor == 1.0 else f"({found.text}) * {_decimal(factor)}"
        return found._replace(text=text, remark=remark)

    def _something_there(self, start: int, end: int) -> Fit | None:
        """Return an object, a place or the pointer: the value of a variable that refers to an object or holds a point."""
        part = self._part(" ".join(self._plain[start:end]), objects=True)
        return Fit(0.2, part) if part is not None else None

    def point(self, start: int, end: int) -> Fit | None:
        """Return what words make as a point by a formula: “(30, 40)”, “Helper.aim”, “20 above the lamp”; None if they are none."""
        if end - start == 1 and (self.words[start].quoted or NAME.fullmatch(self.words[start].text)):
            return None
        raw = self._raw(start, end)
        if is_point_formula(raw):
            for text in self._written(raw, raw):
                if not self._lacks_a_name(text) and self._is_a_point(text):
                    return Fit(0.05, text)
        for way in SPOKEN_POINTS:
            found = way.said.fullmatch(raw)
            if found is None:
                continue
            parts = {
                name: self._part(text, objects=name != "far")
                for name, text in found.groupdict().items()
                if text
            }
            if None not in parts.values() and parts.keys() == found.groupdict().keys():
                formula = way.written.format(**parts)
                if self._is_a_point(formula):
                    return Fit(0.08, formula)
        if is_point_formula(raw):
            return self._unknown_point(raw)
        owned = known_variable(self.names, self.here, " ".join(self._plain[start:end]), "point")
        return (
            owned._replace(cost=owned.cost + 0.05, text=as_formula(owned.text)) if owned is not None else None
        )

    def _unknown_point(self, raw: str) -> Fit | None:
        """Return a point by a formula in which a name is missing."""
        text = self.cased(raw)
        try:
            tree = parse(text)
        except FormulaError:
            return None
        missing = tuple(self._names_missing(tree))
        named = tree.op == "member" and tree.member not in PROPERTY_TYPES
        if not missing or not (named or _has_a_point(tree)):
            return None
        return Fit(UNKNOWN + 0.1, text, missing)

    def _is_a_point(self, text: str) -> bool:
        try:
            compile_formula(self.index, text, "point")
        except FormulaError:
            return False
        return True

    def _formula(self, start: int, end: int, wanted: str, *, seconds: bool) -> Fit | None:
        words = self.words[start:end]
        if len(words) == 1 and words[0].quoted:
            if wanted:
                return None
            return Fit(0.02, f'"{words[0].text.strip(chr(34) + "“”")}"')
        single = len(words) == 1 and NAME.fullmatch(words[0].text) is not None
        if single:
            return None if seconds and words[0].plain == "tick" else self._single(words[0], wanted)
        if wanted != "number" and (state := self._state(start, end)) is not None:
            return state
        if wanted == "yes/no" and self._plain[start] == "not":
            # the condition is turned round, not its formula
            return None
        raw = self._raw(start, end)
        spoken = self._spoken(raw, wanted)
        if spoken is not None:
            return spoken
        joined = self._joined(start, end, wanted)
        if joined is None:
            return None
        for text in self._written(raw, joined):
            if self._lacks_a_name(text):
                continue
            try:
                compiled = compile_formula(self.index, text, wanted or None)  # type: ignore[arg-type]
            except FormulaError:
                continue
            if compiled.type not in ("object", "place"):
                return Fit(0.06, text)
        owned = known_variable(self.names, self.here, " ".join(self._plain[start:end]), wanted)
        if owned is not None:
            return owned._replace(cost=owned.cost + 0.05, text=as_formula(owned.text))
        return self._unknown_formula(self.cased(joined), raw, wanted)

    def _spoken(self, raw: str, wanted: str) -> Fit | None:
        """Return a formula that is spoken: “half of pods”. All that it names must be there."""
        if not re.search(r"[^\W\d]", raw):
            return None
        if wanted == "yes/no":
            return self._compared(raw)
        counted = _THAT_ARE.fullmatch(raw)
        if counted is not None:
            kind, state = counted["kind"] or counted["kind_"], counted["state"] or counted["state_"]
            asked = formula_of_state(self.index, f"1 {kind} are {state}", self.here)
            if asked.endswith(" = 1"):
                return Fit(0.08, asked.removesuffix(" = 1"))
        over_all = self._over_all(raw)
        if over_all:
            return Fit(0.08, over_all)
        for way in SPOKEN:
            found = way.said.fullmatch(raw)
            if found is None:
                continue
            parts = {n: self._part(text, objects=way.objects) for n, text in found.groupdict().items()}
            if any(part is None for part in parts.values()):
                continue
            formula = way.written.format(**parts)
            try:
                compiled = compile_formula(self.index, formula, wanted or None)  # type: ignore[arg-type]
            except FormulaError:
                continue
            if compiled.type == "number":
                return Fit(0.08, formula)
        return None

    def _over_all(self, raw: str) -> str:
        """Return “the total fuel of the lamps” as a formula; "" for any other text."""
        said = _OVER_ALL.fullmatch(raw)
        if said is None:
            return ""
        typed = said["what"].lower().replace("'s ", " 's ").removeprefix("the ").replace(" of the ", " of ")
        owned = known_variable(self.names, self.here, typed, "number")
        owner = owned.text.rpartition(".")[0] if owned is not None and not owned.begun else ""
        if owned is None or owner not in self.index.kinds:
            return ""
        return f"{_FUNCTION_OVER_ALL[said['how'].lower()]}({as_formula(owned.text)})"

    def number_of(self, raw: str) -> str:
        """Return the formula of a text that asks for a value: “the number of pods”, “how much fuel the lamp has”, “the lamp's name”.

        "" for any other text.
        """
        if (placed := _PLACE_OF.fullmatch(raw)) is not None:
            role = names_of(self.index).role((placed["who"] or placed["other"]).lower())
            return (
                f"{token(role.name)}.x}}, {{{token(role.name)}.y"
                if role is not None and not role.begun
                else ""
            )
        if raw.lower() in ("the time", "current time", "the current time"):
            return "time"
        owned = _MUCH_OF.fullmatch(raw) or _OWNED.fullmatch(raw)
        if owned is not None:
            role = names_of(self.index).role(owned["who"].lower())
            if role is None or role.begun:
                return ""
            if owned["what"].lower() == "name":
                return f"{token(role.name)}.name"
            variable = names_of(self.index).variable_of(role.name, owned["what"].lower())
            return as_formula(variable[0]) if variable is not None else ""
        asked = _NUMBER_OF.fullmatch(raw)
        found = self._spoken(f"number of {asked['what']}", "number") if asked is not None else None
        if found is None and asked is not None:
            # “the number of lives”, where lives is a variable
            found = known_variable(
                self.names, self.here, asked["what"].lower().removeprefix("the "), "number"
            )
            return as_formula(found.text) if found is not None and not found.begun else ""
        return found.text if found is not None else ""

    def _compared(self, raw: str) -> Fit | None:
        """Return a comparison or a state in words as a formula: “the wind is less than 2”, “all lamps are lit”."""
        state = formula_of_state(self.index, raw, self.here) or formula_of_amount(self.index, raw)
        if state:
            return Fit(0.2, state)
        between = _BETWEEN.fullmatch(raw)
        if between is not None:
            what, low, high = (self._part(between[n], objects=False) for n in ("what", "low", "high"))
            if None not in (what, low, high):
                inside = f"{what} >= {low} and {what} <= {high}"
                return Fit(0.1, f"not ({inside})" if between["not"] else inside)
        for said, sign in COMPARED:
            left, found, right = raw.partition(f" {said} ")
            if not found:
                continue
            text = self._text_variable(left)
            if text and sign in ("=", "<>"):
                value = right.strip().strip('"“”')
                # what goes on after “and” belongs to it only in quotes
                plain = (
                    re.fullmatch(r"[\w ]+", value)
                    and not _GOES_ON.search(right)
                    and not self.names.names_an_object(value)
                )
                quoted = re.fullmatch(r'["“][^"“”]+["”]', right.strip())
                return Fit(0.1, f'{text} {sign} "{value}"') if plain or quoted else None
            parts = self._part(left, objects=False), self._part(right, objects=False)
            if None not in parts:
                return Fit(0.1, f"{parts[0]} {sign} {parts[1]}")
        return None

    def _text_variable(self, typed: str) -> str:
        """Return the variable with a text that some words name, as a formula writes it; "" if they name none."""
        found = known_variable(self.names, self.here, typed.strip().lower().removeprefix("the "), "text")
        return as_formula(found.text) if found is not None and not found.begun else ""

    def _part(self, text: str, *, objects: bool) -> str | None:
        """Return what a part of a spoken formula is as a formula writes it; None if it is nothing that the level has."""
        plain = text.strip().lower()
        for article in ("the ", "a ", "an "):
            plain = plain.removeprefix(article)
        if objects:
            role = self.names.role(plain)
            if role is not None:
                return token(role.name)
            place = self.names.cased[0].get(token(plain))
            return place or ("pointer" if plain in ("pointer", "mouse") else None)
        number = as_number(plain)
        if re.fullmatch(r"-?\d+(\.\d+)?", number):
            return number
        text = re.sub(r"^(?:the|an?) ", "", text.strip(), flags=re.IGNORECASE)
        words = split_words(text)
        inner = FormulaFits(self.index, text, words, self.here)
        if len(words) == 1:
            owned = known_variable(self.names, self.here, plain, "number")
            found = None if owned is None or owned.begun else as_formula(owned.text)
        else:
            fit = inner._formula(0, len(words), "number", seconds=False)
            found = fit.text if fit is not None and not fit.missing and fit.cost < 0.5 else None
        return in_brackets(found) if found is not None else None

    def _written(self, raw: str, joined: str) -> Iterator[str]:
        """Yield the ways in which a formula may be meant: as typed, with the level's spelling, with begun names written out."""
        for text in dict.fromkeys((raw, joined)):
            yield text
            yield self.cased(text)
            yield self.written_out(text)
            yield self._with_owners(text)

    def _with_owners(self, text: str) -> str:
        """Return a formula in which a bare word that only objects have as a variable stands with its owner: “charge * 200”."""

        def owned(found: re.Match[str]) -> str:
            word = found[0]
            plain = word.lower().replace("_", " ")
            if token(word) in self.index.level_tokens or plain in ("time", "tick", "dt", "pi"):
                return word
            has = [role for role in reversed(self.here) if names_of(self.index).variable_of(role, plain)]
            kinds = names_of(self.index).owned_variables.get(plain, ())
            owner = has[0] if has and plain not in ("x", "y") else kinds[0] if len(kinds) == 1 else ""
            variable = names_of(self.index).variable_of(owner, plain) if owner else None
            return as_formula(variable[0]) if variable is not None else word

        return _BARE.sub(owned, text) if '"' not in text else text

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
        if owner.startswith("all "):
            # of one match it is asked whether its lamp is lit, not whether all are
            return None
        role = self.names.role(owner.removeprefix("the ")) if owner != "level" else None
        found = self.names.variable_of(role.name, state.replace("_", " ")) if role is not None else None
        if found is not None and found[1] == "yes/no":
            return Fit(0.08, as_formula(found[0]))
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
        owned = known_variable(self.names, self.here, plain, wanted)
        if owned is not None:
            return owned._replace(cost=owned.cost + 0.1 * len(owned.begun), text=as_formula(owned.text))
        if plain in SMALL or plain in PRONOUNS or plain in self.names.roles.exact or self.names.role(plain):
            return None
        if token(word.text) in self.index.place_tokens or plain in FUNCTIONS:
            return None
        if (plain.endswith("ly") and len(plain) > 4) or plain in COMPARATIVES:
            # “slowly” says how, and is no amount
            return None
        # “if finished” says nothing else that the word could be for
        alone = len(self.words) == 1 and wanted == "yes/no"
        a_word = plain in KNOWN_WORDS and not alone
        cost = UNKNOWN + 0.15 + UNKNOWN_BUT_A_WORD * a_word + 0.4 * (plain in self.names.words)
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
            owned = known_variable(self.names, self.here, typed, "")
            if owned is not None and not owned.begun:
                return many, as_formula(owned.text)
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
        if NAME.fullmatch(text) and plain in SMALL:
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

    def text_with_formulas(self, text: str) -> tuple[str, tuple[Missing, ...]]:
        """Return a text with the formulas in its braces as the level spells their names, and the names there that it lacks."""
        found: list[Missing] = []
        spelled = text
        try:
            for piece, at in reversed(split_braces(text)):
                if at is not None:
                    written = self.cased(piece)
                    found = self._names_missing(parse(written)) + found
                    spelled = spelled[:at] + written + spelled[at + len(piece) :]
        except FormulaError:
            # the slot will say what is wrong
            return text, ()
        return spelled, tuple(dict.fromkeys(found))

    def _names_missing(self, tree: Node) -> list[Missing]:
        found: list[Missing] = []
        index = self.index

        def walk(node: Node) -> None:
            op, name, member = node.op, node.name, node.member
            if op == "member":
                if name == "level":
                    if member not in index.level_tokens:
                        found.append(Missing(member, "level variable", "level"))
                elif name in index.role_tokens:
                    role = index.role_tokens[name]
                    if self.names.variable_of(role.text, member) is None:
                        make = "kind variable" if role.can_own else ""
                        found.append(Missing(member, make, role.text))
                elif name not in index.place_tokens and name not in ("pointer", "self"):
                    found.append(Missing(name, ""))
            elif op == "name":
                known = (
                    name in index.role_tokens
                    or name in index.place_tokens
                    or name in ("time", "dt", "tick", "nobody", "pointer")
                )
                if not known:
                    found.append(Missing(name, "level variable", "level"))
            elif op == "call" and name not in FUNCTIONS:
                found.append(Missing(name, ""))
            for part in node.parts:
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


def written_out(index: Index, formula: str) -> str:
    """Return a formula with its names as the level writes them, and those that are begun written to their end."""
    text = formula.strip()
    fits = FormulaFits(index, text, (), ())
    for tried in (text, fits.cased(text), fits.written_out(text)):
        try:
            compile_formula(index, tried)
        except FormulaError:
            continue
        return tried
    return text


def _decimal(value: float) -> str:
    return f"{value:g}"
