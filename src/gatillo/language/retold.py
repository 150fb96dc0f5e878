"""Commands for lines that say what happens: “the nearest moth gets removed” is “remove the nearest moth”.

Only lines that are not read otherwise are put in another way, so that a sentence of the catalogue always comes first.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from itertools import pairwise

from gatillo.language.level_names import names_of
from gatillo.language.state_phrases import state_of
from gatillo.language.typed_words import QUANTIFIERS, SMALL, STATE_VERBS, split_words, stem
from gatillo.language.wordings import pattern_index
from gatillo.level.roles import Index

_SHOULD = re.compile(
    r"(?P<who>.+?) (?:should|must|shall|will|has to|have to|needs to|need to|is to|are to) (?:now |then )?(?P<what>(?!be\b|not\b).+)",
    re.IGNORECASE,
)
_PASSIVE = re.compile(
    r"(?P<who>.+?) (?:(?:should|must|shall|will|has to|have to) be|gets?|is|are|be) (?P<verb>[a-z]+(?:ed|en|own|one|t|n))(?P<rest> .+)?",
    re.IGNORECASE,
)
_BECOMES = re.compile(
    r"(?P<who>.+?) (?:turns?|becomes?|goes?|go|gets?|changes to|change to) (?P<how>\w+)", re.IGNORECASE
)
_TURNS_ON = re.compile(r"(?P<who>.+?) (?:turns?|switch(?:es)?|goes?|go) (?P<how>on|off)", re.IGNORECASE)
_LIGHTS_UP = re.compile(r"(?P<who>.+?) (?:lights?|lit) up", re.IGNORECASE)
_ITSELF = {
    "vanishes": "remove",
    "vanish": "remove",
    "dies": "remove",
    "die": "remove",
    "disappears": "hide",
    "appears": "show",
}
"""What an object does of itself, and the command for it."""
_MOVES = {
    "flies": "fly",
    "goes": "go",
    "walks": "walk",
    "runs": "run",
    "drives": "drive",
    "wanders": "wander",
}
"""How an object moves, and the verb for it after “let”."""
_STATES = {stem(word): word for word in sorted(STATE_VERBS)}
_MOST_TRIED = 3
_LEAST, _MOST = 3, 20
"""How many words a line has that is tried."""


def retellings(index: Index, text: str) -> list[str]:
    """Return the commands that a line may mean which says what happens, likeliest first; at most three."""
    words = split_words(text)
    if (parted := _states_after(index, text)) != text:
        return [parted]
    if not _LEAST <= len(words) <= _MOST or any(w.quoted for w in words):
        return []
    first = next((w.plain for w in words if w.plain not in QUANTIFIERS), "")
    if first in pattern_index().first_words and names_of(index).role(first) is None:
        # it is a command already
        return []
    return list(dict.fromkeys(_commands(text.strip())))[:_MOST_TRIED]


def _commands(text: str) -> Iterator[str]:
    if (said := _SHOULD.fullmatch(text)) is not None:
        yield f"let {said['who']} {said['what']}"
        text = f"{said['who']} {said['what']}"
    if (said := _LIGHTS_UP.fullmatch(text)) is not None:
        yield f"light {said['who']}"
    if (said := _TURNS_ON.fullmatch(text)) is not None:
        yield f"turn {said['how']} {said['who']}"
    if (said := _PASSIVE.fullmatch(text)) is not None and (verb := _verb(said["verb"])):
        yield f"{verb} {said['who']}{said['rest'] or ''}"
    if (said := _BECOMES.fullmatch(text)) is not None:
        yield f"make {said['who']} {said['how']}"
    words = split_words(text)
    for n, word in enumerate(words[1:], 1):
        plain = word.plain
        verb = _verb(plain) or _MOVES.get(plain, "") or _ITSELF.get(plain, "") or _STATES.get(stem(plain), "")
        if plain in SMALL or not verb or plain == words[0].plain:
            continue
        # the verb of a clause about it is not the line's: “the moths that touch a lamp turn red”
        who = text[: words[n].start].strip()
        if plain in _ITSELF or (n == len(words) - 1 and stem(plain) in _STATES):
            yield f"{_ITSELF.get(plain) or _STATES[stem(plain)]} {who}{text[word.end :]}"
        yield f"let {who} {verb}{text[word.end :]}"


def _states_after(index: Index, text: str) -> str:
    """Return “double the fuel of lit lamps” as “… of lamps that are lit”."""
    words = split_words(text)
    for word, after in pairwise(words):
        role = names_of(index).role(after.plain)
        if role is None or role.begun or word.plain in SMALL or word.quoted or after.quoted:
            continue
        if state_of(index, after.plain, word.plain):
            return f"{text[: word.start]}{after.text} that is {word.text}{text[after.end :]}"
    return text


def _verb(typed: str) -> str:
    """Return the verb of an action that a word is a form of; "" if it is none."""
    found = sorted(
        w for w in pattern_index().by_stem.get(stem(typed.lower()), ()) if w in pattern_index().first_words
    )
    return min(found, key=len) if found else ""
