"""Words that mean the same in every sentence of the catalogue, so that no wording has to list all of them.

A word belongs here only where it can replace each of the others in any sentence. What depends on the sentence
(“hit a key”, “hit the crate”) is listed in the wordings of the entries.
"""

from __future__ import annotations

from gatillo.language.typed_words import stem

_GROUPS = """
destroy delete erase eliminate despawn obliterate
create spawn generate
begin start commence
finish end conclude
halt stop cease
nearest closest
big large
mouse pointer cursor
player user
rise climb ascend increase
fall sink decline decrease dip
around round
collide bump crash
see spot notice
hide conceal
rotate turn
move shift
travel walk fly drive
throw toss hurl fling
push shove
attach fasten mount glue tie
appear emerge
vanish disappear
choose select
enable activate
disable deactivate
toggle flip invert
send broadcast emit
hear receive
change alter
size scale
colour color
place position location
expire elapse
resume continue
exceed surpass
leave exit depart
"""


def _by_stem() -> dict[str, tuple[str, ...]]:
    found: dict[str, tuple[str, ...]] = {}
    for line in _GROUPS.strip().splitlines():
        stems = [stem(word) for word in line.split()]
        for one in stems:
            if one in found:
                raise ValueError(f"“{one}” stands in two groups of synonyms")
            found[one] = tuple(other for other in stems if other != one)
    return found


SYNONYMS = _by_stem()
"""By the stem of a word: the stems of the words that can replace it."""
