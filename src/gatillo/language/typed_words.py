"""The words of a typed line: where they stand, how they are written in general, and which are opposites."""

from __future__ import annotations

import re
from dataclasses import dataclass
from difflib import SequenceMatcher
from functools import lru_cache

ARTICLES = frozenset(["the", "a", "an"])
SMALL = ARTICLES | {
    *("is", "are", "was", "be", "being", "been", "does", "do", "did", "has", "have", "gets", "get", "will", "should"),
    *("must", "can", "could", "of", "at", "to", "by", "on", "in", "for", "with", "from", "into", "onto", "as", "than"),
    *("it", "its", "'s", "s", "their", "his", "her", "own", "them", "this", "these", "that", "which", "some"),
    *("and", "so", "then", "let", "begins", "please", "now", "just", "yet", "already", "again", "called", "named"),
}  # fmt: skip
"""Words that may be skipped: they hold a sentence together."""
COMPARATIVES = frozenset(
    ["faster", "slower", "bigger", "smaller", "larger", "longer", "shorter", "higher", "lower", "than"]
)
"""Words that compare. None is a name."""
ALL_WORDS = frozenset(["all", "every", "each"])
"""Words before a kind that mean all of its objects."""
QUANTIFIERS = frozenset(
    [
        "every",
        "each",
        "all",
        "any",
        "some",
        "both",
        "only",
        "when",
        "if",
        "while",
        "unless",
        "else",
        "otherwise",
    ]
)
"""Words that say how many are meant, or when. None is a name."""
NEGATIONS = frozenset(
    ["not", "no", "never", "without", "unless", "none", "nothing", "nobody", "neither", "nor", "cannot"]
)
NUMBERS = {
    name: str(n)
    for n, name in enumerate(
        [
            "zero",
            "one",
            "two",
            "three",
            "four",
            "five",
            "six",
            "seven",
            "eight",
            "nine",
            "ten",
            "eleven",
            "twelve",
        ]
    )
} | {
    "fifteen": "15", "twenty": "20", "thirty": "30", "forty": "40", "fifty": "50", "sixty": "60", "ninety": "90",
    "a": "1", "an": "1", "once": "1", "twice": "2", "dozen": "12", "half": "0.5",
}  # fmt: skip
"""Numbers that are written as words."""
STATE_VERBS = frozenset(
    ["open", "close", "shut", "light", "lock", "unlock", "extinguish", "activate", "deactivate", "wake"]
)
"""Verbs of state: an action can begin with them, if what comes before does not make them a state."""
_OPPOSITE_PAIRS = """
on off, more less, more fewer, greater less, above below, over under, bigger smaller, larger smaller, higher lower,
enter leave, enter exit, arrive leave, show hide, visible invisible, shown hidden, before after, first last,
nearest farthest, nearest furthest, closest farthest, closest furthest, near far, least most, within beyond,
within outside, inside outside, in out, into out, start stop, start end, begin end, begin stop, attach detach,
enable disable, give take, add subtract, add remove, increase decrease, create remove, create destroy, rise fall,
press release, pressed released, hold release, held released, down up, left right, lowest highest, least greatest,
open closed, open close, true false, yes no, full empty, occupied empty, gain lose, front back, toward away,
with without, multiply divide, double halve, lock unlock, ahead back, pull push, stop go, stop continue, pause resume,
minimum maximum, min max, smallest biggest, smallest largest, shortest longest, faster slower, in front behind,
grow shrink, raise lower, always never, any none, all none, all any, forward backward, forwards backwards,
clockwise counterclockwise, up down, light dark, heavy light, any first, all first, once always, from to,
pick drop, grab drop, connect disconnect, touch separate, collide separate, created removed, created destroyed
"""
PLURALS = {
    "lives": "life", "mice": "mouse", "leaves": "leaf", "knives": "knife", "wolves": "wolf", "shelves": "shelf",
    "men": "man", "women": "woman", "children": "child", "feet": "foot", "teeth": "tooth", "geese": "goose",
}  # fmt: skip
"""Plurals that are not made by an ending, with the words for one."""
_IRREGULAR = {word: one for word, one in PLURALS.items() if word != "leaves"} | {
    "held": "hold", "hidden": "hide", "hiding": "hide", "shown": "show", "fell": "fall", "fallen": "fall",
    "rose": "rise", "risen": "rise", "kept": "keep", "sent": "send", "heard": "hear", "began": "begin",
    "begun": "begin", "threw": "throw", "thrown": "throw", "gave": "give", "given": "give", "took": "take",
    "taken": "take", "chosen": "choose", "chose": "choose", "went": "go", "goes": "go", "gone": "go",
    "lost": "lose", "broke": "break", "broken": "break", "spoke": "speak", "spoken": "speak", "died": "die",
    "dies": "die", "dead": "die", "met": "meet", "made": "make", "said": "say", "ran": "run", "running": "run",
    "came": "come", "coming": "come", "told": "tell", "brought": "bring", "carried": "carry", "left": "left",
    "does": "do", "has": "have", "is": "is", "are": "is", "was": "is", "this": "this", "its": "its",
    "bigger": "bigger", "dragging": "drag", "dragged": "drag", "tied": "tie", "untied": "untie",
    "grown": "grow", "flew": "fly", "flown": "fly", "flies": "fly", "spawns": "spawn", "wakes": "wake",
    "units": "unit", "seconds": "second", "degrees": "degree", "lies": "lie", "furthest": "farthest", "further": "farther",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class TypedWord:
    """A word of a typed line, and where it stands in its text."""

    text: str
    start: int
    end: int

    @property
    def plain(self) -> str:
        """The word in small letters, without quotes and punctuation about it."""
        if not any(c.isalnum() for c in self.text):
            # a sign: “!=” is not “=”
            return self.text
        return self.text.lower().strip('.,;:!?"“”')

    @property
    def quoted(self) -> bool:
        """Whether it is a text in quotes."""
        return self.text[:1] in '"“'


_TOKEN = re.compile(
    r"""\s*(?:
    (?P<quoted>"[^"]*"?|“[^”]*”?)
    |(?P<sign>(?<=\w)(?:\+\+|--)(?!\S)|>=|<=|<>|!=|==|\+=|-=|\*=|/=|=|>|<)
    |(?P<unit>(?<![\w.])-?\d+(?:\.\d+)?(?=(?:ms|sec|secs|s|m|min|deg|x|px)\b|[°%×]))
    |(?P<mark>[,;:])
    )""",
    re.VERBOSE,
)


@lru_cache(maxsize=512)
def split_words(text: str) -> tuple[TypedWord, ...]:
    """Return the words of a text: texts in quotes, signs of comparison and what stands in brackets are one word each.

    A unit is parted from its number (`2s`), *n't* and *'s* from their word. Commas, semicolons and colons are words of their own.
    """
    words: list[TypedWord] = []
    at, end = 0, len(text)
    while at < end:
        if text[at].isspace():
            at += 1
            continue
        found = _TOKEN.match(text, at)
        if found is not None and found.end() > at:
            words.append(TypedWord(text[found.start() : found.end()].strip(), found.start(), found.end()))
            at = found.end()
            continue
        to = _plain_end(text, at)
        words += _parted(text[at:to], at)
        at = to
    return tuple(words)


def _plain_end(text: str, at: int) -> int:
    depth, start = 0, at
    while at < len(text):
        c = text[at]
        if c == "(" and ")" in text[at:]:
            depth += 1
        elif c == ")":
            depth -= 1
        elif (
            (depth <= 0 and (c.isspace() or c in ',;“"' or c in "<>=!"))
            or (depth <= 0 and c in "+-*/" and at > start and text[at + 1 : at + 2] == "=")
            or (depth <= 0 and c in "+-" and at > start and text[at : at + 3].rstrip() == c + c)
            or (depth <= 0 and c == ":" and at > start)
        ):
            break
        at += 1
    return max(at, start + 1)


def _parted(word: str, start: int) -> list[TypedWord]:
    end = start + len(word)
    lower = word.lower().replace("’", "'")
    if lower.endswith("n't") and len(word) > 3:
        stem = {"can't": "can", "won't": "will"}.get(lower, word[:-3])
        cut = end - (2 if lower == "can't" else 3)
        return [TypedWord(stem, start, cut), TypedWord("not", cut, end)]
    if lower == "cannot":
        return [TypedWord("can", start, start + 3), TypedWord("not", start + 3, end)]
    if lower.endswith("'s") and len(word) > 2:
        return [TypedWord(word[:-2], start, end - 2), TypedWord("'s", end - 2, end)]
    return [TypedWord(word, start, end)]


@lru_cache(maxsize=20_000)
def stem(word: str) -> str:
    """Return what the forms of a word have in common: “presses”, “pressed” and “pressing” give “press”."""
    if word in _IRREGULAR:
        return _IRREGULAR[word].rstrip("e") if len(_IRREGULAR[word]) > 3 else _IRREGULAR[word]
    for ending in ("ies", "ied"):
        if word.endswith(ending) and len(word) > 4:
            return word[:-3] + "y"
    for ending in ("ing", "ed", "es", "s"):
        cut = word[: -len(ending)]
        if word.endswith(ending) and len(cut) >= 3 and not (ending == "s" and cut[-1] in "su"):
            if ending in ("ing", "ed") and cut[-1] == cut[-2] and cut[-1] not in "lsfz":
                return cut[:-1]
            return cut.rstrip("e") if len(cut) > 3 else cut
    return word.rstrip("e") if len(word) > 3 else word


def _opposites() -> dict[str, frozenset[str]]:
    found: dict[str, set[str]] = {}
    for pair in _OPPOSITE_PAIRS.replace("\n", " ").split(","):
        one, other = pair.split()[0], pair.split()[-1]
        found.setdefault(stem(one), set()).add(stem(other))
        found.setdefault(stem(other), set()).add(stem(one))
    return {word: frozenset(others) for word, others in found.items()}


OPPOSITES = _opposites()
"""By the stem of a word: the stems of those that say the opposite."""


def are_opposites(one: str, other: str) -> bool:
    """Return whether two words say the opposite of each other."""
    return stem(other) in OPPOSITES.get(stem(one), ())


@lru_cache(maxsize=50_000)
def nearly(typed: str, name: str) -> bool:
    """Return whether a typed word is nearly written like a name: a letter or two amiss."""
    if len(typed) < 3 or abs(len(typed) - len(name)) > 2 or typed == name:
        return False
    return SequenceMatcher(None, typed, name).ratio() >= (0.74 if len(typed) > 4 else 0.66)


@lru_cache(maxsize=20_000)
def singular(name: str) -> str:
    """Return a name without the ending of its plural."""
    if name in PLURALS:
        return PLURALS[name]
    if name.endswith("ies") and len(name) > 4:
        return name[:-3] + "y"
    if name.endswith(("ches", "shes", "sses", "xes")):
        return name[:-2]
    return name[:-1] if name.endswith("s") and not name.endswith("ss") and len(name) > 2 else name
