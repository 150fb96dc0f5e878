"""What some words of a typed line make in a slot: a known name, a formula, a text, or a name that the level lacks."""

from __future__ import annotations

import re
from collections.abc import Sequence
from itertools import pairwise

from gatillo.catalogue.declare.entry import Slot
from gatillo.language.fits import (
    KNOWN_WORDS,
    NAME,
    PRONOUN,
    UNKNOWN,
    UNKNOWN_BUT_A_WORD,
    VERBS,
    Fit,
    Missing,
    sort_of,
)
from gatillo.language.formula_fits import FormulaFits
from gatillo.language.level_names import PRONOUNS, Found, looks_like, names_of
from gatillo.language.typed_words import (
    ARTICLES,
    COMPARATIVES,
    NEGATIONS,
    QUANTIFIERS,
    SMALL,
    STATE_VERBS,
    TypedWord,
    stem,
)
from gatillo.language.variable_fits import as_formula, known_variable, new_variable
from gatillo.level.naming import free_name_problem, name_problem, token
from gatillo.level.roles import Index

COLOURS = {
    "black": "#000000", "white": "#FFFFFF", "red": "#FF0000", "green": "#008000", "blue": "#0000FF", "yellow": "#FFFF00",
    "orange": "#FFA500", "purple": "#800080", "pink": "#FFC0CB", "brown": "#A52A2A", "grey": "#808080", "gray": "#808080",
    "silver": "#C0C0C0", "gold": "#FFD700", "lime": "#00FF00", "olive": "#808000", "teal": "#008080", "navy": "#000080",
    "maroon": "#800000", "cyan": "#00FFFF", "magenta": "#FF00FF", "violet": "#EE82EE", "turquoise": "#40E0D0",
}  # fmt: skip
"""Colours by their plain names, as CSS Color Module Level 4 gives them (W3C)."""
MOST_PLACE_WORDS = 9
"""“Halfway between the moth and the old gate”."""
MOST_NAME_WORDS = 5
MOST_FORMULA_WORDS = 14
MOST_KEPT = 20_000
"""Fits of a level that are kept for the next key press."""
_FREE = 0.45
_GOES_ON = 1.2
"""What a free text costs that may hold the next line."""
_OF_A_TIME = frozenset(["per", "second", "seconds", "every"])
"""Words of a rate: “2 energy per second” is no item."""
_JOINING = frozenset(["and", "then", ",", ";"])
_MAKES = {"role": "kind", "kind": "kind", "where": "spot", "area": "area", "route": "route", "tag": "tag"}

_MORE = frozenset(
    ["after", "before", "over", "near", "until", "while", "back",
     "for", "at", "to", "from", "in", "on", "with", "into", "onto", "by"]
)  # fmt: skip
"""Words that say more of what is named before them."""


_NOUNS = {
    kind: re.compile(rf"^(?:{nouns}) (?=\S)|(?<=\S) (?:{nouns})$")
    for kind, nouns in {
        "timer": "timer|clock|stopwatch",
        "rule": "rule|graph",
        "section": "section",
        "message": "message|signal|event",
        "item": "item",
        "tag": "tag|label",
        "route": "route|path|track",
        "area": "area|zone|region",
        "clip": "clip|recording|motion|animation",
        "topic": "topic",
        "look": "look",
        "behaviour": "behaviour|behavior",
    }.items()
}
"""By the type of a slot: the words for what it names, which may stand before or after the name."""
_OF_ITSELF = frozenset(["level", "game", "run", "trial", "everything", "whatever", "what"])
"""Words that name no timer, item or tag, though they stand where one is named."""
_ABOUT_ANOTHER = 1.4
"""What a new name costs more that holds the name of an object, where it is the name of a timer, an item or a tag."""
_ITS_NOUN, _ITS_ARTICLE = "noun", "article"
_BEFORE = (
    {"first": "first"}
    | dict.fromkeys(ARTICLES, _ITS_ARTICLE)
    | dict.fromkeys(["rule", "section", "graph"], _ITS_NOUN)
)
"""Words before a name that show where it begins, and what they are."""
KEPT_OUT = frozenset(["until", "when", "while", "if", "nearest", "closest", "farthest"])
"""Words that no new name of a rule has."""
_NOT_WITHIN = COMPARATIVES | {"seconds"}
"""Words that no new name of several words has."""
_NO_NAMES = frozenset(
    [
        "longer",
        "more",
        "less",
        "fewer",
        "other",
        "another",
        "when",
        "whenever",
        "if",
        "while",
        "until",
        "unless",
        "then",
    ]
)
"""Words with which no name begins that is made up: “no longer”."""
_A_VERB = 0.9
"""What a new name costs more that is a verb with which an action can begin: “open the door”."""
_PARTED_NAME = 0.1
"""What a slot costs more that takes a part of an object's name, such as the number of “moth 2”."""
_LATER = frozenset(["after", "for", "in", "every"])
"""Words before a time."""
_OF_THE_POINTER = frozenset(["left button", "right button", "middle button"])
"""Buttons that are no keys."""
_HOW = frozenset(["again", "also", "forever", "instead", "now", "once", "too", "twice"])
"""Words after a name that say how, or how often."""


def _is_number(word: str) -> bool:
    return re.fullmatch(r"-?\d+(\.\d+)?", word) is not None


class SlotFits:
    """What the words of one line make in slots. Each answer is worked out once."""

    def __init__(self, index: Index, text: str, words: tuple[TypedWord, ...], here: tuple[str, ...]) -> None:
        self.index = index
        self.names = names_of(index)
        self.text = text
        self.words = words
        self.here = here
        self._formulas = FormulaFits(index, text, words, here)
        self._plain = [w.plain or w.text for w in words]
        self._parts_names = self._where_names_are_parted()
        self._before = ["", *(_BEFORE.get(word, "") for word in self._plain)]

    def _where_names_are_parted(self) -> frozenset[int]:
        """Return the places between two words, by the number of the second, that lie within the name of an object: “moth 2”."""
        found: set[int] = set()
        for end, word in enumerate(self._plain):
            if not word.isdigit() or self._plain[end + 1 : end + 2] == ["times"]:
                continue
            for start in range(max(0, end - MOST_NAME_WORDS + 1), end):
                if " ".join(self._plain[start : end + 1]) in self.names.numbered:
                    found |= {*range(start + 1, end + 1)}
        return frozenset(found)

    def longest(self, slot: Slot) -> int:
        """Return how many words may fill a slot at most."""
        kind = slot.kind
        if kind.holds in ("text", "given", "entries"):
            return 40
        if kind.holds == "where":
            return MOST_PLACE_WORDS
        return MOST_FORMULA_WORDS if kind.holds == "formula" else MOST_NAME_WORDS

    def fit(self, slot: Slot, start: int, end: int, *, after_verb: bool) -> Fit | None:
        """Return what the words from `start` to `end` make in a slot; None if they do not fit.

        `after_verb` says that a word of the sentence has been met before: a new message of several words may stand there.
        """
        raw = self._raw(start, end)
        key = (sort_of(slot), after_verb, raw, self._before[start], self.here)
        known = self.names.fits
        if key not in known:
            if len(known) > MOST_KEPT:
                known.clear()
            known[key] = self._fit(slot, start, end, after_verb)
        found: Fit | None = known[key]
        parted = (start in self._parts_names) + (end in self._parts_names)
        if found is None or not parted:
            return found
        return found._replace(cost=found.cost + parted * _PARTED_NAME)

    def _raw(self, start: int, end: int) -> str:
        return self.text[self.words[start].start : self.words[end - 1].end].strip()

    def _fit(self, slot: Slot, start: int, end: int, after_verb: bool) -> Fit | None:
        kind = slot.kind
        plain = self._plain[start:end]
        if kind.holds == "text":
            return self._text(start, end)
        if plain[0] in (",", ";", ":") or plain[-1] in (",", ";", ":"):
            return None
        if self._before[start] == "first" and plain == ["time"]:
            # “only the first time” picks nothing
            return None
        if kind.holds == "formula":
            return self._formulas.value(slot, start, end)
        if kind.holds in ("given", "entries"):
            raw = self._raw(start, end)
            return (
                Fit(0.3 + 0.02 * (end - start), raw)
                if not (kind.wrong and kind.wrong(self.index, raw))
                else None
            )
        if kind.holds == "where":
            point = self._formulas.point(start, end)
            if point is not None:
                return point
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
                Fit(UNKNOWN + 0.5, raw, (Missing(raw, ""),))
                if raw.isalnum()
                and not (
                    self._is_named(raw.lower())
                    or raw.lower() in KNOWN_WORDS | COMPARATIVES
                    or raw.endswith("ly")
                )
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
        if found is None and kind.holds == "where":
            point = known_variable(self.names, self.here, typed, "point")
            if point is not None:
                return point._replace(text=as_formula(point.text))
        if found is not None:
            return Fit(found.cost + (0.4 if slot.type == "key" and raw == "a" else 0.0), found.name)
        first, _, rest = typed.partition(" ")
        if first in ARTICLES and rest:
            known = self._known(slot, rest)
            if known is not None:
                return Fit(known.cost + 0.01, known.name)
            return (
                None
                if slot.type not in ("message", "topic")
                else self._free(slot, start + 1, end, after_verb)
            )
        noun = _NOUNS.get(slot.type)
        if noun is not None and not one:
            # “the Count rule” is the rule Count
            rest = noun.sub("", typed, count=1)
            known = self._known(slot, rest) if rest != typed and rest else None
            if known is not None:
                return Fit(known.cost + 0.02, known.name)
        if slot.type == "key":
            if raw == "a":
                return Fit(0.4, "A")
            if typed in _OF_THE_POINTER:
                return None
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
        if slot.type == "behaviour" and " " not in typed:
            # “spinning” is the behaviour “spin”
            forms = (name for name in self.names.table(slot).exact if stem(name) == stem(typed))
            typed = next(forms, typed)
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
            if slot.type in ("timer", "item", "tag") and any(
                w in ARTICLES or w in _OF_A_TIME or w in _JOINING or w in ("of", "is", "are") for w in words
            ):
                return None
            near = many > 1 and looks_like(raw.lower(), self.names.table(slot))
            if many > 1 and not near and (not after_verb or words[0] in SMALL or words[-1] in SMALL):
                return None
            if any(
                (w in _MORE or w in VERBS or w in _HOW) and self._is_known(slot, words[:at])
                for at, w in enumerate(words)
                if at
            ):
                # a name that exists, and words that say more: “arrived to the gardener”, “key say hello”
                return None
            if (
                any(word.quoted for word in self.words[start:end])
                or words[0] in _NO_NAMES
                or (many > 1 and not _NOT_WITHIN.isdisjoint(words))
            ):
                return None
            if any(w in _LATER and _is_number(after) for w, after in pairwise(words)):
                # “go after 3 seconds” is a name and when
                return None
            if many == 1 and (words[0] in SMALL or not NAME.match(raw)):
                return None
            if re.fullmatch(r"-?\d+(\.\d+)?", words[0]):
                return None
        spoken = 0.25 * sum(w in KNOWN_WORDS or w in self.names.words for w in words) if not quoted else 0.0
        cost = _FREE + 0.12 * (many - 1) + min(spoken, 0.75)
        if (
            not quoted
            and slot.type in ("timer", "item", "tag")
            and any(
                w in _OF_ITSELF or w in self.names.roles.exact or w in self.names.level_variables.exact
                for w in words
            )
        ):
            cost += _ABOUT_ANOTHER
        return Fit(cost, raw, (Missing(raw, slot.type),))

    def _is_known(self, slot: Slot, words: Sequence[str]) -> bool:
        typed = " ".join(words)
        return self.names.table(slot).find(typed) is not None or typed in self.names.roles.exact

    def _missing(self, slot: Slot, start: int, end: int) -> Fit | None:
        """Return a name that the level lacks: one word, several in quotes, or a kind and a number."""
        words = self._plain[start:end]
        quoted = end - start == 1 and self.words[start].quoted
        raw = self._raw(start, end).strip('"“”')
        make = _MAKES.get(slot.type, "") if raw.lower() not in self.names.scenery else ""
        if slot.kind.holds in ("role", "where") and len(words) >= 2 and words[-1].isdigit():
            of_kind = self.names.roles.find(" ".join(words[:-1]))
            if of_kind is not None and of_kind.name in self.index.kinds:
                name = f"{of_kind.name} {words[-1]}"
                return Fit(0.5, name, (Missing(raw, "object"),))
        if not quoted:
            near = len(words) > 1 and looks_like(raw.lower(), self.names.table(slot))
            if (
                len(words) > 1
                and not near
                and not (slot.type in ("rule", "section") and self._is_new_throughout(start, end))
                and not self._is_a_name_of_two(start, end)
            ):
                return None
            after_noun = slot.type in ("rule", "section") and self._before[start] == _ITS_NOUN
            if any(
                (w in SMALL and not after_noun) or w in NEGATIONS or w in QUANTIFIERS or w in COMPARATIVES
                for w in words
            ) or not NAME.fullmatch(raw.replace(" ", "_")):
                return None
        if name_problem(raw) is not None:
            return None
        named_as_one = slot.type in ("rule", "section") and self._before[start] == _ITS_NOUN
        cost = UNKNOWN + (0.1 if named_as_one else 0.3) * (len(words) - 1)
        if quoted and slot.kind.holds == "role":
            # what is in quotes is more often a text
            cost += 1.2
        if not quoted and not named_as_one:
            cost += UNKNOWN_BUT_A_WORD * (words[0] in KNOWN_WORDS) + _A_VERB * (words[0] in STATE_VERBS)
            if self._is_named(words[0]):
                cost, make = cost + 0.5, ""
        return Fit(cost, raw, (Missing(raw, make),))

    def _is_new_throughout(self, start: int, end: int) -> bool:
        """Whether no word of a new name means something else in the level, but for words after “rule”: “the rule open the gate”."""
        return self._before[start] == _ITS_NOUN or not any(
            w in VERBS or w in KEPT_OUT or self._is_named(w) or w in self.names.roles.exact
            for w in self._plain[start:end]
        )

    def _is_a_name_of_two(self, start: int, end: int) -> bool:
        """Whether two words after an article can be one new name: “the porch step”, but not “the lamp slowly”."""
        words = self._plain[start:end]
        return (
            len(words) == 2
            and self._before[start] == _ITS_ARTICLE
            and not any(w in KNOWN_WORDS or self._is_named(w) or w in self.names.words for w in words)
            # “the barn quickly” is one name and how it is done
            and not words[1].endswith("ly")
            and words[1] not in _HOW
        )

    def _is_named(self, typed: str) -> bool:
        """Whether a word is the name of something else in the level."""
        index = self.index
        plain = typed.replace("_", " ")
        return (
            plain in self.names.roles.exact
            or token(typed) in index.place_tokens
            or plain in self.names.level_variables.exact
        )

    def _variable(self, slot: Slot, start: int, end: int) -> Fit | None:
        words = self._plain[start:end]
        if words[0] in ARTICLES or ":" in words:
            return None
        typed = " ".join(words)
        found = known_variable(self.names, self.here, typed, slot.kind.gives)
        if found is not None:
            return found
        return new_variable(self.names, typed, self._raw(start, end))

    def _text(self, start: int, end: int) -> Fit | None:
        raw = self._raw(start, end)
        many = end - start
        quoted = many == 1 and self.words[start].quoted
        if not quoted and many > 1 and self.words[start].quoted:
            return self._text_and_value(start, end)
        if not quoted and self._plain[start] in (",", ";", ":", "'s"):
            return None
        if quoted:
            return Fit(0.0, *self._formulas.text_with_formulas(raw.strip('"“”')))
        plain = self._plain[start:end]
        goes_on = any(one in _JOINING and other in VERBS for one, other in pairwise(plain))
        if (counted := self._formulas.number_of(raw)) != "":
            return Fit(0.1, f"{{{counted}}}")
        first, joint, second = raw.partition(" and ")
        if joint and not goes_on and many <= 5:
            # “the wind and the pods” are two values
            pair = [w.lower().removeprefix("the ") for w in (first, second)]
            values = [self._value_of(w, " " not in w and "." not in w) for w in pair]
            if all(values):
                return Fit(0.3, ", ".join(values))
        if many <= 3:
            # “the wind” is what the wind is
            bare = plain[1:] if plain[0] == "the" and many > 1 else plain
            raw = self._value_of(" ".join(bare), len(bare) == 1 and "." not in raw) or raw
        owner, dot, name = raw.partition(".")
        if dot and name.isidentifier() and (owner.lower() == "level" or self.names.role(owner.lower())):
            # a variable that is not there: “level.scor”
            raw = f"{{{raw}}}"
        return Fit(
            0.4 + 0.005 * many + (_GOES_ON if goes_on else 0.0), *self._formulas.text_with_formulas(raw)
        )

    def _text_and_value(self, start: int, end: int) -> Fit | None:
        """Return “"pods left: " and the number of pods” as one text; None if what follows the text in quotes is no value."""
        rest = start + 2
        if self._plain[start + 1] == "followed" and self._plain[rest : rest + 1] == ["by"]:
            rest += 1
        elif self._plain[start + 1] not in ("and", "plus", "+", ",", "then", "with"):
            return None
        if rest >= end:
            return None
        bare = self._plain[rest + 1 : end] if self._plain[rest] == "the" else self._plain[rest:end]
        counted = self._formulas.number_of(self._raw(rest, end))
        value = f"{{{counted}}}" if counted else self._value_of(" ".join(bare), False)
        if not value:
            return None
        said, missing = self._formulas.text_with_formulas(self._raw(start, start + 1).strip('"“”'))
        return Fit(0.1, f"{said}{value}", missing)

    def _value_of(self, typed: str, alone: bool) -> str:
        """Return the value of the variable that a text is the name of, as a text has it in braces; "" if it is no such name.

        A word that stands `alone` must be a variable of the level: “done”, but not “fuel”.
        """
        owned = known_variable(self.names, self.here, typed, "")
        if owned is None or owned.begun:
            return ""
        owner, _, name = owned.text.rpartition(".")
        named = owner == "level" or (owner and not alone)
        if not named or name.lower().replace("_", " ") not in typed.replace(".", " "):
            return ""
        return f"{{{as_formula(owned.text)}}}"
