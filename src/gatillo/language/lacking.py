"""Words for what levels do not have, such as sounds: a typed line that uses one says so, and what can be done instead."""

from __future__ import annotations

from functools import lru_cache
from itertools import pairwise

from gatillo.catalogue.declare.entry import CATALOGUE
from gatillo.language.reading import Reading
from gatillo.language.typed_words import SMALL, stem

_LACKING = {
    "sound sounds music song jingle audio sfx volume noise melody": (
        "A level has no sounds. A message, such as “send bell”, can stand for one."
    ),
    "fade fades fading faded opacity transparent transparency translucent alpha": (
        "Objects cannot fade. They can be hidden, and their colour, scale and depth can be set."
    ),
    "camera viewport screen zoom zooms shake shakes view": (
        "Rules cannot move the view. For the edge of a screen, draw an area and ask who leaves it."
    ),
    "restart restarts reload reloads reboot": (
        "A rule cannot restart the level. It can end the trial, or set variables and places back."
    ),
    "blink blinks blinking flash flashes flashing flicker flickers": (
        "Nothing blinks by itself. A rule “every 0.3 s” that toggles an object's “shown” does it."
    ),
    "particle particles explosion sparks smoke": (
        "There are no particles. Create objects that have the behaviour “live 1 s”."
    ),
    "gamepad joystick controller thumbstick joypad": (
        "Levels listen to keys and to the pointer, not to a game pad."
    ),
    "save saves saving load loads savegame checkpoint": (
        "A rule cannot save or load. Variables hold their values for the length of a trial."
    ),
    "sprite animation animate animates frame": (
        "Looks are plain shapes. A recorded motion is played with “play CLIP on OBJECT”."
    ),
}
"""Words, and what is said where a line uses one of them that means nothing else there."""
_BY_STEM = {stem(word): said for words, said in _LACKING.items() for word in words.split()}


def lacking(reading: Reading) -> str:
    """Return what is said of a reading that leaves over, or would make new, a word for what levels do not have; "" for any other."""
    named = [offer.typed for line in reading.all_lines for offer in line.offers if not offer.filled]
    return of_words([*reading.all_unread, *" ".join(named).split()])


def of_words(words: list[str]) -> str:
    """Return what is said of the first word for what levels do not have; "" if there is none."""
    for word in words:
        said = _BY_STEM.get(stem(word.lower())) or _behaviours().get(stem(word.lower()))
        if said:
            return said
    return ""


@lru_cache(maxsize=1)
def _behaviours() -> dict[str, str]:
    """Return what is said of a word that names a behaviour, by its stem."""
    made: dict[str, str] = {}
    for entry in CATALOGUE.values():
        words = entry.sentence.replace(":", " ").split()
        verbs = [words[0], *(after for word, after in pairwise(words[:3]) if word == "and")]
        for verb in verbs if entry.group == "behaviour" else ():
            if verb not in SMALL and len(verb) > 3:
                made[stem(verb)] = (
                    f"“{verb.capitalize()}” is a behaviour. It is added on the page of its kind; rules switch it on and off."
                )
    return made
