"""Where a typed line may be parted into pieces: before words that begin a part of a rule, that join, or with which an action begins."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, lru_cache

from gatillo.catalogue.declare.entry import Slot
from gatillo.language.level_names import names_of
from gatillo.language.typed_words import ALL_WORDS, ARTICLES, STATE_VERBS, TypedWord, stem
from gatillo.language.wordings import pattern_index
from gatillo.level.edits import Part
from gatillo.level.roles import Index

_BEGINS: dict[str, tuple[Part, ...]] = {
    "when": ("when",),
    "whenever": ("when",),
    "if": ("if",),
    "unless": ("if",),
    "while": ("when", "if"),
    "do": ("do",),
    "then": ("do",),
    "else": ("else",),
    "otherwise": ("else",),
}
"""Words that begin a part of a rule wherever they stand."""
_JOINS = frozenset(["and", "or", "but", "also", ",", ";", ":", "then", "&"])
_NO_VERBS = frozenset(["after", "for", "again", "only", "if", "message", "conversation", "game", "level"])
"""Words with which an action can begin, but before which a line is not parted: “remove pod after 2 s”."""
_PREPOSITIONS = frozenset(["at", "by", "from", "in", "of", "to", "with"])
_STRONG = frozenset(["when", "whenever", "if", "unless", "else", "otherwise"])
_KEPT = frozenset(["unless", "while"])
"""Words of `_BEGINS` that say more than the part: they stay with their line."""
_PERIODS = frozenset(
    ["s", "sec", "secs", "second", "seconds", "tick", "ticks", "frame", "frames", "minute", "minutes"]
)
"""Words with which a period of time can end."""
_BEFORE_A_STATE = frozenset(
    [
        "is",
        "are",
        "isn't",
        "not",
        "be",
        "becomes",
        "gets",
        "the",
        "a",
        "an",
        "to",
        "no",
        "stays",
        "turns",
        "goes",
        "and",
        "or",
    ]
)
_CHANGES = frozenset(["+=", "-=", "*=", "/=", "++", "--"])
_MOST_PLACES = 40
_SOUNDS = (["goes"], ["sounds"], ["rings"])
"""What a message does of itself: “the alarm goes off”."""
_SUBJECTS = frozenset(["it", "he", "she", "they"])
_LEAST_BEFORE = 3
"""How many words stand before a further sentence at least."""


@dataclass(frozen=True, slots=True)
class Place:
    """A place where a line may be parted: before a word, after so many words that only join."""

    at: int
    skips: int
    parts: tuple[Part, ...] = ()
    """The parts that may begin here; () where any may that can follow."""
    joint: str = ""
    strong: bool = False
    """Whether another line begins here for certain: no sentence goes on over this place."""


def places_of(words: tuple[TypedWord, ...]) -> list[Place]:
    """Return the places where a line may be parted, in order; the first is its beginning."""
    made: list[Place] = []
    verbs = pattern_index().first_words
    at, n = 0, len(words)
    plain = [w.plain or w.text for w in words]
    while at < n:
        start, joint, strong = at, "", False
        parts: tuple[Part, ...] = ()
        # words that join, and a word that begins a part
        while at < n and plain[at] in _JOINS and not words[at].quoted:
            joint = joint if joint in ("and", "or") else plain[at]
            if plain[at] == "then" or (plain[at] == ":" and 0 < start == at):
                parts = ("do",)
            at += 1
        if at < n and plain[at] in _BEGINS and not words[at].quoted:
            parts = _BEGINS[plain[at]]
            joint, strong = "", plain[at] in _STRONG
            if plain[at] not in _KEPT:
                at += 1
                if at < n and plain[at] in (":", ","):
                    at += 1
        if start == 0:
            made.append(Place(0, at, parts, joint))
            at = max(at, 1)
            continue
        if not parts and plain[at : at + 1] in (["every"], ["each"]) and _is_a_time(plain, at + 1):
            parts = ("when",)
        if not parts and not joint and _ends_a_period(plain, at):
            # “every 2 s the moth turns”
            joint = ","
        verb = not parts and not joint and at < n and plain[at] in verbs and plain[at] not in _NO_VERBS
        verb = verb or (
            not parts
            and not joint
            and 0 < at < n
            and plain[at] in STATE_VERBS
            and plain[at - 1] not in _BEFORE_A_STATE
        )
        if plain[at : at + 1] == ["both"] and not joint and not parts and plain[at - 1] not in verbs:
            # “when two moths meet both vanish”
            verb = True
        if not parts and not joint and 0 < at < n - 1 and plain[at + 1] in _CHANGES:
            # “while right is held gardener.x += 3”
            verb = True
        # what follows a preposition is its object: “push lamp by kick”
        verb = verb and plain[at - 1] not in _PREPOSITIONS
        if joint and not parts and _is_a_number(plain, start - 1) and _is_a_number(plain, at):
            # “between 0 and 10”, “by 20, 30”
            at = max(at, start + 1)
            continue
        if at > start or verb or parts or joint:
            if "then" in plain[start:at] and at < n and stem(plain[at]) not in pattern_index().after_then:
                strong = True
            strong = (
                strong
                or (
                    joint in ("and", ",", ";")
                    and at < n
                    and (plain[at] in _actions() if at + 1 < n else _begins_a_verb(plain[at]))
                    # “move the cart to the gate in 2 s and send arrived” is one sentence
                    and (
                        stem(plain[at]) not in pattern_index().after_then
                        or _PERIODS.isdisjoint(plain[:start])
                    )
                )
            )
            made.append(Place(start, at - start, parts, joint, strong))
        at = max(at, start + 1)
    if len(made) > _MOST_PLACES:
        made = [p for p in made if p.at == 0 or p.parts or p.joint][:_MOST_PLACES]
    return made


def with_subjects(index: Index, words: tuple[TypedWord, ...], places: list[Place]) -> list[Place]:
    """Return the places, and those before “the moth” or “it” that begin a further sentence; [] if there are no such."""
    names, known = names_of(index), {place.at for place in places}
    messages = names.table(Slot("message")).exact
    plain = [w.plain for w in words]

    def begins(at: int) -> bool:
        if plain[at] in ARTICLES or plain[at] in ALL_WORDS:
            return is_role(plain[at + 1]) or sounds(at + 1)
        if plain[at - 1] in ARTICLES or plain[at - 1] in ALL_WORDS:
            return False
        return plain[at] in _SUBJECTS or is_role(plain[at]) or sounds(at)

    def sounds(at: int) -> bool:
        return plain[at] in messages and plain[at + 1 : at + 2] in _SOUNDS

    def is_role(word: str) -> bool:
        found = names.role(word)
        return found is not None and not found.begun

    more = [
        Place(at, 0)
        for at in range(_LEAST_BEFORE, len(words) - 1)
        if at not in known and plain[at - 1] not in _PREPOSITIONS and begins(at)
    ]
    return sorted((*places, *more), key=lambda place: place.at) if more else []


@cache
def _actions() -> frozenset[str]:
    """Return the verbs with which a further action can begin."""
    return pattern_index().first_words - _NO_VERBS


@lru_cache(maxsize=2_000)
def _begins_a_verb(typed: str) -> bool:
    """Return whether a word that is still being typed is the beginning of such a verb: “se” of “send”."""
    return any(verb.startswith(typed) and verb != typed for verb in _actions())


def _is_a_time(plain: list[str], n: int) -> bool:
    """Whether “every” before a word says when: “every 2 seconds”."""
    return _is_a_number(plain, n) or plain[n : n + 1] in (["half"], ["second"], ["tick"], ["minute"], ["few"])


def _ends_a_period(plain: list[str], n: int) -> bool:
    """Whether the words before one say “every 2 s”."""
    return n > 1 and plain[n - 1] in _PERIODS and "every" in plain[max(0, n - 3) : n - 1]


def _is_a_number(plain: list[str], n: int) -> bool:
    return 0 <= n < len(plain) and plain[n].lstrip("-")[:1].isdigit()
