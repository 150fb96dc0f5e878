"""Laying typed words along a sentence: which are its words, which fill its slots, and which are not read.

A word of the sentence may be met, nearly met or left out, a slot takes the words that fit it, and what fits nowhere counts
against the reading. The cheapest way of laying them is the reading (alignment by dynamic programming: Needleman & Wunsch,
J. Mol. Biol. 48 (1970), 443).
"""

from __future__ import annotations

from itertools import pairwise
from typing import NamedTuple

from gatillo.catalogue.declare.entry import Slot
from gatillo.language.fits import Fit
from gatillo.language.slot_fits import SlotFits
from gatillo.language.typed_words import ARTICLES, OPPOSITES, SMALL, stem
from gatillo.language.wordings import Pattern, pattern_index

_LEFT_OUT = 0.6
_HARDLY_MET = 1.6
"""What a sentence costs more of whose many words only one was typed."""
_LEFT_OUT_OF_WORDING = 9.0
_SMALL_LEFT_OUT = 0.06
_EMPTY_SLOT = 0.6
_NO_KEY = 1.4
_EMPTY_IN_WORDING = 1.0
_DEFAULT_SLOT = 0.3
_DEFAULT_IN_WORDING = 0.9
_TO_COME = 0.12
_TO_COME_OF_WORDING = 1.0
_SLOT_TO_COME = 0.3
_WORDING_SLOT_TO_COME = 0.45
_MET = 0.03
_STRICT = 1.6
_SMALL_SKIPPED = 0.13
_ARTICLE_SKIPPED = 0.02
_RELATION_SKIPPED = 0.7
UNREAD = 3.0
"""What a word costs that is not read."""
_PARTICLES = frozenset(["on", "in", "by", "to"])
"""Small words that say something where they end a line."""
_RELATIONS = frozenset(
    ["to", "into", "onto", "from", "with", "on", "in", "at", "by", "for", "of", "has", "have", "it", "them"]
)
"""Small words that say how two things are related: a sentence without them seldom means the same."""
_PER = frozenset(["of", "per", "each", "every", "for", "by", "among"])
"""Words before what something is kept for each of."""
_EARLIER = 0.01
"""What it costs more to leave a word unread, for each word after it."""
_WORST = 8.0
_WORDING = 0.01
_BEGUN = 0.2
"""How unlike a word is that is only begun, or has a letter amiss."""
_PARTED = 0.8
"""What it costs that a free text holds the word that would part it from what comes after it."""
_OPTIONAL = 0.002
_UNSAID = 0.05
"""What it costs to leave the end of a sentence unsaid, where all has a value of its own."""


class Alignment(NamedTuple):
    """Typed words laid along a pattern."""

    pattern: Pattern
    cost: float
    fits: tuple[tuple[str, Fit], ...]
    """What fills its slots, by their names."""
    unread: tuple[int, ...]
    """The words that are not read, by number."""


_State = tuple[float, float, tuple[tuple[str, Fit], ...], tuple[int, ...]]
"""The cost so far, how much of the sentence's words has been met, what fills its slots, and the words passed over."""


def skip_cost(word: str) -> float:
    """Return what it costs to pass over a typed word."""
    if word in ARTICLES:
        return _ARTICLE_SKIPPED
    if not any(c.isalnum() for c in word):
        return 0.0 if all(c in ",;:.!?°" for c in word) else UNREAD
    if word in _RELATIONS:
        return _RELATION_SKIPPED
    return _SMALL_SKIPPED if word in SMALL else UNREAD


class Line:
    """The words of one typed line, with what each may be; shared by all patterns that are tried."""

    def __init__(self, fits: SlotFits, *, ended: bool = True) -> None:
        """Take the words by what they make in slots. `ended` is false for a line that goes on after these words."""
        self.fits = fits
        self.ended = ended
        self.plain = [w.plain if not w.quoted else "" for w in fits.words]
        self.plain = [w or words.text for w, words in zip(self.plain, fits.words, strict=True)]
        many, known = len(self.plain), pattern_index()
        named = fits.names.words
        self.likes = [
            # a name of the level is no slip for a word: “crate” is not “create”
            {
                w: c
                for w, c in known.likeness(word, ended and n == many - 1).items()
                if c < _BEGUN or word not in named
            }
            for n, word in enumerate(self.plain)
        ]
        self.skips = [
            UNREAD if fits.words[n].quoted else skip_cost(word) for n, word in enumerate(self.plain)
        ]
        for n, (word, after) in enumerate(pairwise(self.plain)):
            if word == "to" and after.lstrip("-")[:1].isdigit():
                # “to 10” is not “by 10”
                self.skips[n] = UNREAD
            if word in ("turn", "switch") and after in ("on", "off"):
                self.skips[n + 1] = UNREAD
            if after == "s" and word.lstrip("-")[:1].isdigit():
                # “2 s” is a time, “moth s” is not
                self.skips[n + 1] = UNREAD
        if many > 1 and self.plain[-1] in _PARTICLES:
            # “turn lamp on” is not “turn lamp”
            self.skips[-1] = UNREAD
        # of two words one of which is left over, the first is what the line is about
        self.skips = [s + _EARLIER * (many - n) if s >= UNREAD else s for n, s in enumerate(self.skips)]
        self.all_likes = {word for likes in self.likes for word in likes}
        self._spans: dict[tuple[int, int, bool], list[tuple[int, Fit]]] = {}

    def met_words(self, pattern: Pattern) -> int:
        """Return how many of the words that carry a pattern's meaning are typed."""
        known = self.all_likes
        return sum(1 for words in pattern.content if not known.isdisjoint(words))

    def may_go_on(self, pattern: Pattern, limit: float) -> bool:
        """Return whether only the last words of a wording are missing, and few enough: they may still be typed."""
        known, missing = self.all_likes, 0
        for words in pattern.content:
            if known.isdisjoint(words):
                missing += 1
            elif missing:
                return False
        return self.ended and missing * _TO_COME_OF_WORDING < limit

    def spans(self, slot: Slot, sort: int, start: int, after_verb: bool) -> list[tuple[int, Fit]]:
        """Return where words that fit a slot from `start` on may end, and what they make there."""
        if (
            slot.type == "per"
            and not "all".startswith(self.plain[start][:3])
            and (not start or self.plain[start - 1] not in _PER)
        ):
            # “the first two moths” are not the first two of each moth
            return []
        key = (sort, start, after_verb)
        found = self._spans.get(key)
        if found is None:
            last = min(len(self.plain), start + self.fits.longest(slot))
            found = self._spans[key] = [
                (end, fit)
                for end in range(start + 1, last + 1)
                if (fit := self.fits.fit(slot, start, end, after_verb=after_verb)) is not None
            ]
        return found


def align(pattern: Pattern, line: Line, limit: float = _WORST) -> Alignment | None:
    """Return the cheapest way to lay a line along a pattern.

    None if it would cost `limit` or more, if too little of the pattern is met, or if the opposite was typed.
    """
    n = len(line.plain)
    content = pattern.content
    met_words = line.met_words(pattern)
    if content and not (met_words and (pattern.own or len(content) - met_words <= max(1, met_words))):
        return None
    limit = min(limit, _WORST)
    if not pattern.own and met_words < len(content) and not line.may_go_on(pattern, limit):
        return None
    out_of, coming_of = (_LEFT_OUT, _TO_COME) if pattern.own else (_LEFT_OUT_OF_WORDING, _TO_COME_OF_WORDING)
    best: list[_State | None] = [None] * (n + 1)
    best[0] = (0.0 if pattern.own else _WORDING, 0.0, (), ())
    _skip(best, line.skips, limit)
    slots = pattern.slots
    for at, piece in enumerate(pattern.pieces):
        new: list[_State | None] = [None] * (n + 1)
        if piece.slot:
            slot = slots[piece.slot]
            empty = (
                _DEFAULT_SLOT
                if slot.default
                else 0.0
                if slot.kind.optional
                else _EMPTY_SLOT
                if pattern.own
                else _EMPTY_IN_WORDING
            )
            if piece.optional:
                empty = _OPTIONAL
            elif slot.default not in ("", "1") and not pattern.own:
                empty = _DEFAULT_IN_WORDING
            if slot.type == "key" and not piece.optional and pattern.entry.group == "occasion":
                # no key is meant that was not named
                empty = _NO_KEY
            if piece.slot not in pattern.entry.slots:
                # nothing else would hold what was typed for the wording's other slots
                empty = _LEFT_OUT_OF_WORDING
            coming = min(
                empty, _TO_COME if slot.default else _SLOT_TO_COME if pattern.own else _WORDING_SLOT_TO_COME
            )
            after = pattern.pieces[at + 1] if at + 1 < len(pattern.pieces) else None
            unsaid = min(empty, _UNSAID) if at >= pattern.tail else coming if line.ended else empty
            unsaid = max(unsaid, empty) if piece.slot not in pattern.entry.slots else unsaid
            parting = frozenset(after.words) if after is not None and after.strict else None
            for j, state in enumerate(best):
                if state is None:
                    continue
                cost, met, fits, skipped = state
                left = cost + (unsaid if j == n else empty)
                known = new[j]
                if left < limit and (known is None or left < known[0]):
                    new[j] = (left, met, fits, skipped)
                if j < n:
                    for k, fit in line.spans(slot, piece.sort, j, met >= 1):
                        sum_ = cost + fit.cost
                        if parting and fit.cost > 0 and not parting.isdisjoint(line.plain[j:k]):
                            sum_ += _PARTED
                        known = new[k]
                        if sum_ < limit and (known is None or sum_ < known[0]):
                            new[k] = (sum_, met, (*fits, (piece.slot, fit)), skipped)
        else:
            words = piece.words
            out = (
                _OPTIONAL
                if piece.optional
                else _STRICT
                if piece.strict
                else _SMALL_LEFT_OUT
                if piece.small
                else out_of
            )
            coming = min(out, coming_of)
            unsaid = min(out, _UNSAID) if at >= pattern.tail else coming if line.ended else out
            more, bonus = (0.1, 0.0) if piece.small else (1.0, _MET)
            for j, state in enumerate(best):
                if state is None:
                    continue
                cost, met, fits, skipped = state
                left = cost + (unsaid if j == n else out)
                known = new[j]
                if left < limit and (known is None or left < known[0]):
                    new[j] = (left, met, fits, skipped)
                if j < n:
                    likes = line.likes[j]
                    unlike = min([likes[w] for w in words if w in likes], default=1.0)
                    if unlike < 1.0:
                        sum_ = cost + unlike - bonus
                        known = new[j + 1]
                        if sum_ < limit and (known is None or sum_ < known[0]):
                            new[j + 1] = (sum_, met + more, fits, skipped)
        if new.count(None) > n:
            return None
        _skip(new, line.skips, limit)
        best = new
    last = best[n]
    return _laid(pattern, line, last) if last is not None else None


def _laid(pattern: Pattern, line: Line, state: _State) -> Alignment | None:
    """Return the end of an alignment, if enough of the pattern was met and nothing was turned into its opposite."""
    cost, met, fits, skipped = state
    content = pattern.content
    if content:
        if met < (0.1 if pattern.small else 0.9) or (pattern.small and not fits and met < 0.2):
            return None
    elif len(fits) < min(2, len(pattern.pieces)) or not _says_how(pattern, fits):
        return None
    if met < _words_needed(pattern) and _swallows(pattern, fits):
        return None
    if _is_opposite(pattern, line, skipped):
        return None
    said = [p for p in pattern.pieces[: pattern.tail] if not (p.slot or p.small or p.optional)]
    if pattern.own and len(said) > 2 and met < 2 and len(fits) < 2 and len(line.plain) > 1:
        # “the pot breaks” is no prompt that is broken off
        cost += _HARDLY_MET
    filled = {name for name, _ in fits}
    nothing_said = {
        piece.slot
        for piece in pattern.pieces
        if piece.slot
        and pattern.slots[piece.slot].type == "number"
        and pattern.slots[piece.slot].default == "0"
    } - filled
    if nothing_said and not pattern.own and pattern.entry.group == "condition":
        # “a moth exists” is not said of none
        return None
    if (
        pattern.pieces[0].slot
        and pattern.entry.group == "action"
        and "count" in pattern.slots.keys() - filled
    ):
        # “the boss gets angry” gives no item
        for name, fit in fits:
            at = line.plain.index(first) if (first := fit.text.lower().split(" ")[0]) in line.plain else 0
            if pattern.slots[name].type == "item" and fit.missing and line.plain[at - 1] not in ARTICLES:
                return None
    asks = {"comparison", "count"}
    if asks <= {piece.slot for piece in pattern.pieces} - filled:
        # “count the moths” does not ask how many there are
        if not pattern.own or "there" not in line.plain:
            return None
        cost += _HARDLY_MET
    picks = pattern.own and pattern.entry.group == "pick" and len(line.plain) > 2
    if picks and line.all_likes.isdisjoint(w for words in content[1:] for w in words):
        # “keep the moth in the yard” is not the nearest moth
        cost += _HARDLY_MET
    return Alignment(pattern, cost, fits, tuple(j for j in skipped if line.skips[j] >= UNREAD))


def _says_how(pattern: Pattern, fits: tuple[tuple[str, Fit], ...]) -> bool:
    """Whether a sentence that is all slots has its word of choice: without it, two numbers are no comparison."""
    slots, filled = pattern.slots, {name for name, _ in fits}
    return all(p.slot in filled for p in pattern.pieces if p.slot and slots[p.slot].options)


def _words_needed(pattern: Pattern) -> int:
    """Return how many words must be met where a free text is not in quotes: all of a wording, of a sentence those before the text."""
    if not pattern.own:
        return len(pattern.content)
    slots = pattern.slots
    first = next(
        (n for n, p in enumerate(pattern.pieces) if p.slot and slots[p.slot].kind.holds == "text"), 0
    )
    return sum(1 for p in pattern.pieces[:first] if not p.slot and not p.small)


def _swallows(pattern: Pattern, fits: tuple[tuple[str, Fit], ...]) -> bool:
    """Whether a free text has taken words that may belong to the sentence."""
    slots = pattern.slots
    return any(slots[name].kind.holds == "text" and fit.cost > 0 for name, fit in fits)


def _skip(states: list[_State | None], skips: list[float], limit: float) -> None:
    """Let each state pass over the word after it."""
    for j, skip in enumerate(skips):
        state = states[j]
        if state is None:
            continue
        cost = state[0] + skip
        if cost >= limit:
            continue
        after = states[j + 1]
        if after is None or cost < after[0]:
            states[j + 1] = (cost, state[1], state[2], (*state[3], j))


def _is_opposite(pattern: Pattern, line: Line, skipped: tuple[int, ...]) -> bool:
    """Whether a word that was passed over says the opposite of a word of the sentence."""
    for j in skipped:
        against = OPPOSITES.get(stem(line.plain[j]))
        if against and not against.isdisjoint(pattern.stems):
            return True
    return False
