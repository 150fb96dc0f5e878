"""The sentences and further wordings of the catalogue, made ready to be laid along typed words."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from difflib import SequenceMatcher
from typing import NamedTuple

from gatillo.catalogue.cards.graph_cards import CARD_ENTRIES
from gatillo.catalogue.declare.entry import CATALOGUE, Entry, Slot
from gatillo.catalogue.declare.wording import Wording
from gatillo.language.fits import KNOWN_WORDS, VERBS, sort_of
from gatillo.language.synonyms import SYNONYMS
from gatillo.language.typed_words import NEGATIONS, OPPOSITES, SMALL, STATE_VERBS, stem


class Piece(NamedTuple):
    """A piece of a pattern: words of which one is meant, or a slot."""

    words: tuple[str, ...]
    slot: str
    small: bool
    strict: bool
    """Whether it parts a free text from the slot after it, and so cannot be left out."""
    optional: bool = False
    """Whether it may be left out without a cost."""
    sort: int = -1
    """For a slot: a number that it shares with all slots in which the same words make the same (slot_sort)."""


_MOST_WORDS = 20_000
_NOT_NEAR = ("closes", "closed", "closing")
"""Forms of the verb “close”, which do not say “near”."""
_SYNONYM = 0.1
"""How unlike a word is that means the same."""


@dataclass(frozen=True)
class Pattern:
    """One way to say an entry's sentence."""

    entry: Entry
    pieces: tuple[Piece, ...]
    own: bool
    """Whether it is the entry's own sentence."""
    negated: bool = False
    known: bool = False
    """Whether it is only for names that the level has."""
    filled: dict[str, str] = field(default_factory=dict)
    slots: dict[str, Slot] = field(default_factory=dict)
    """The entry's slots, and those of the wording alone."""
    content: tuple[tuple[str, ...], ...] = ()
    """The words that carry its meaning: of each of them one is typed, in a line that says it whole."""
    small: bool = False
    """Whether it has no other words than small ones."""
    tail: int = 99
    """The number of the piece after the last slot that must be filled: what follows may be left unsaid."""
    stems: frozenset[str] = frozenset()
    """The stems of all its words."""
    words: frozenset[str] = frozenset()
    """All its words."""


_SORTS: dict[tuple[object, ...], int] = {}


def slot_sort(slot: Slot) -> int:
    """Return a number for what words make in a slot: the same for slots of one type, options and kind of default."""
    return _SORTS.setdefault(sort_of(slot), len(_SORTS))


def _pieces(slots: dict[str, Slot], text: str) -> tuple[Piece, ...]:
    made: list[Piece] = []
    free = within = False
    for found in re.findall(r"[\[\]]|\{\w+\}|[^\s{},;\[\]]+", text):
        if found in "[]":
            within = found == "["
        elif found.startswith("{"):
            name = found[1:-1]
            if slots[name].kind.optional and made and not made[-1].slot:
                # it is only there for what may be left out
                made[-1] = made[-1]._replace(small=True)
            made.append(Piece((), name, False, False, within, slot_sort(slots[name])))
            free = slots[name].kind.holds in ("text", "given", "entries")
        else:
            whole = not any(c.isalpha() for c in found)
            needed = found.endswith("!") and not whole
            words = tuple(w.strip("°“”:%×!").lower() for w in ((found,) if whole else found.split("/")))
            if any(words):
                small = not needed and all(w in SMALL for w in words) and not _is_a_particle(words, made)
                made.append(Piece(words, "", small, free and not within, within))
                free = free and within
    if len(made) > 1 and made[-1].words == ("on",) and made[-2].slot:
        made[-1] = made[-1]._replace(small=False)
    return tuple(made)


def _is_a_particle(words: tuple[str, ...], before: list[Piece]) -> bool:
    """Whether a small word carries the meaning: “turn on” is not “turn”."""
    return words == ("on",) and bool(before) and not {"turn", "switch"}.isdisjoint(before[-1].words)


def patterns_of(entry: Entry) -> list[Pattern]:
    """Return the ways to say an entry's sentence, its own first."""
    made: list[Pattern] = []
    for way in (Wording(entry.sentence), *entry.wordings):
        own = way.text == entry.sentence
        slots = entry.slots | {name: Slot("number") for name in way.numbers}
        slots |= {name: Slot("role") for name in way.objects}
        slots |= {name: Slot("where") for name in way.places}
        pieces = _pieces(slots, way.text)
        plain = [p for p in pieces if not p.slot and not p.optional]
        content = tuple(p.words for p in plain if not p.small) or tuple(p.words for p in plain)
        small = all(p.small for p in plain)
        stems = frozenset(stem(w) for p in pieces for w in p.words)
        words = frozenset(w for p in pieces for w in p.words)
        tail = _tail(slots, pieces) if own else 99
        made.append(
            Pattern(
                entry,
                pieces,
                own,
                way.negated,
                way.known,
                way.filled,
                slots,
                content,
                small,
                tail,
                stems,
                words,
            )
        )
    return made


def _tail(slots: dict[str, Slot], pieces: tuple[Piece, ...]) -> int:
    """Return the number of the piece after the last slot that has no text of its own; a high one if there is none."""
    must = [n for n, p in enumerate(pieces) if p.slot and not slots[p.slot].default]
    return must[-1] + 1 if must else 99


class PatternIndex:
    """Patterns by the words that carry their meaning."""

    def __init__(self, entries: Iterable[Entry], known: int) -> None:
        """Make the patterns of some entries; `known` is how many there were, to notice another."""
        self.known = known
        self._likeness: dict[tuple[str, bool], dict[str, float]] = {}
        self.patterns = [p for entry in entries for p in patterns_of(entry)]
        self.wordless = [p for p in self.patterns if not p.content]
        self.by_word: dict[str, list[Pattern]] = {}
        for pattern in self.patterns:
            for word in {w for words in pattern.content for w in words}:
                self.by_word.setdefault(word, []).append(pattern)
        self.words = {w for p in self.patterns for piece in p.pieces for w in piece.words}
        self.by_stem: dict[str, list[str]] = {}
        for word in self.words:
            self.by_stem.setdefault(stem(word), []).append(word)
        self.first_words = frozenset(
            w
            for p in self.patterns
            if p.entry.group == "action" and p.entry.name in CATALOGUE and p.pieces
            for w in p.pieces[0].words
            if w not in SMALL
        )
        """The words with which an action can begin."""
        self.after_then = frozenset(
            stem(w)
            for p in self.patterns
            for at, piece in enumerate(p.pieces)
            if "then" in piece.words
            for after in p.pieces[at + 1 :]
            for w in after.words
        )
        """Stems of the words that follow a “then” within one sentence; before any other word a “then” begins another."""

    def likeness(self, typed: str, last: bool) -> dict[str, float]:
        """Return the words of patterns that a typed word may be, with how unlike they are: 0 the same.

        The last word of a line may be a beginning.
        """
        found = self._likeness.get((typed, last))
        if found is None:
            if len(self._likeness) > _MOST_WORDS:
                self._likeness.clear()
            found = self._likeness[typed, last] = dict(self._like(typed, last))
        return found

    def _like(self, typed: str, last: bool) -> Iterator[tuple[str, float]]:
        exact = typed in self.words
        if exact:
            yield typed, 0.0
        if typed in NEGATIONS:
            return
        forms = [word for word in self.by_stem.get(stem(typed), ()) if word != typed]
        if typed in _NOT_NEAR:
            forms = [word for word in forms if word != "close"]
        yield from ((word, 0.05) for word in forms)
        alike = [word for other in SYNONYMS.get(stem(typed), ()) for word in self.by_stem.get(other, ())]
        yield from ((word, _SYNONYM) for word in alike)
        if typed in SMALL or stem(typed) in OPPOSITES:
            # neither a beginning nor a slip: “off” is not “offer”
            return
        begun: list[str] = []
        if len(typed) >= (2 if last else 3):
            begun = [w for w in self.words if w.startswith(typed) and w != typed and w not in forms]
            yield from ((word, 0.2) for word in begun)
        if len(typed) >= 5 and not (exact or forms or alike or begun):
            yield from ((word, 0.4) for word in self.words if _is_slip(typed, word))


def _is_slip(typed: str, word: str) -> bool:
    """Return whether a word was probably meant, with a letter amiss."""
    if abs(len(word) - len(typed)) > 1 or len(word) < 5 or word[0] != typed[0]:
        return False
    return SequenceMatcher(None, typed, word).ratio() > 0.83


_MADE: list[PatternIndex] = []


def pattern_index() -> PatternIndex:
    """Return the patterns of all sentences that can be typed: of rules, and of the cards that only graphs have."""
    known = len(CATALOGUE) + len(CARD_ENTRIES)
    if not _MADE or _MADE[0].known != known:
        entries = [e for e in CATALOGUE.values() if e.group != "behaviour"]
        _MADE[:] = [PatternIndex([*entries, *CARD_ENTRIES.values()], known)]
        KNOWN_WORDS.clear()
        KNOWN_WORDS.update(_MADE[0].words | STATE_VERBS)
        VERBS.clear()
        VERBS.update(_MADE[0].first_words)
    return _MADE[0]
