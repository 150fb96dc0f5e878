"""Formulas as they are spoken: “half of pods”, “a random number between 1 and 5”, “the distance from the moth to the lamp”."""

from __future__ import annotations

import re
from typing import NamedTuple

from gatillo.catalogue.declare.wording import OPTION_WORDINGS
from gatillo.language.typed_words import NUMBERS

_BOTH = r"(?P<a>.+?) (?:and|to|up to|through|or) (?P<b>.+)"
_TERM = r"(?:(?! plus | minus | [+-] ).)+?"
"""A part of a product: no sum."""
_PERCENT = r"(?:%|percent|per cent)"


class Spoken(NamedTuple):
    """How a formula is spoken, and how it is written with the parts that its words name."""

    said: re.Pattern[str]
    written: str
    objects: bool = False
    """Whether its parts are objects or places, not numbers."""


def _said(said: str, written: str, *, objects: bool = False) -> Spoken:
    return Spoken(re.compile(rf"(?:the |an? )?{said}", re.IGNORECASE), written, objects)


SPOKEN = (
    _said(
        rf"(?:whole|whole random|random whole) (?:number|value|amount)(?: (?:between|from|of))? {_BOTH}(?: at random)?",
        "floor(random({a}, {b} + 1))",
    ),
    _said(
        rf"random(?:ly)?(?: chosen)?(?: whole)?(?: (?:number|value|amount|figure|angle|speed|time))?(?: (?:between|from|of))? {_BOTH}",
        "random({a}, {b})",
    ),
    _said(
        rf"(?:(?:number|value|amount|something|anything|anywhere) )?(?:between|from) {_BOTH}(?: at random| randomly)",
        "random({a}, {b})",
    ),
    _said(rf"(?:something|anything|anywhere) (?:between|from) {_BOTH}", "random({a}, {b})"),
    _said(r"random (?:number|value|amount) (?:up to|below|under) (?P<a>.+)", "random(0, {a})"),
    _said(r"random (?:angle|direction)", "random(0, 360)"),
    _said(
        r"direction (?:that |in which |where )?(?:the )?(?P<a>.+?) (?:faces|is facing|looks)",
        "facing({a})",
        objects=True,
    ),
    _said(r"square root of (?P<a>.+)", "sqrt({a})"),
    _said(r"absolute value of (?P<a>.+)", "abs({a})"),
    _said(r"(?:opposite|negative) of (?P<a>.+)", "-{a}"),
    _said(r"(?:remainder|rest) of (?P<a>.+?) (?:divided )?by (?P<b>.+)", "{a} mod {b}"),
    _said(r"(?:average|mean) of (?P<a>.+?) and (?P<b>.+)", "({a} + {b}) / 2"),
    _said(r"(?P<a>.+?),? (?:but )?(?:at most|no more than) (?P<b>.+)", "min({a}, {b})"),
    _said(r"(?P<a>.+?),? (?:but )?(?:at least|no less than) (?P<b>.+)", "max({a}, {b})"),
    _said(rf"(?P<a>.+?) (?:\+|plus) (?P<b>[\d.]+) ?{_PERCENT}", "{a} * (1 + {b} / 100)"),
    _said(rf"(?P<a>.+?) (?:-|minus|less) (?P<b>[\d.]+) ?{_PERCENT}", "{a} * (1 - {b} / 100)"),
    _said(r"(?P<a>[\d.]+|one|two|three|four|five|ten) less than (?P<b>.+)", "{b} - {a}"),
    _said(r"(?:current |present )?time(?: now)?(?: in seconds)?", "time"),
    _said(r"how many (?P<a>\S+)(?: there are| are there| are left)?", "count({a})", objects=True),
    _said(r"how many (?P<a>\S+) are (?:in|inside) (?P<b>.+)", "count_in({a}, {b})", objects=True),
    _said(r"(?P<a>.+?)(?:'s|’s) distance (?:from|to) (?P<b>.+)", "distance({a}, {b})", objects=True),
    _said(r"(?:half|50 %)(?: of)? (?:the )?(?P<a>.+)", "{a} / 2"),
    _said(r"third of (?:the )?(?P<a>.+)", "{a} / 3"),
    _said(r"(?:one )?tenth of (?:the )?(?P<a>.+)", "{a} / 10"),
    _said(r"quarter of (?:the )?(?P<a>.+)", "{a} / 4"),
    _said(rf"(?P<a>[\d.]+) ?{_PERCENT} of (?:the )?(?P<b>.+)", "{b} * {a} / 100"),
    _said(r"(?:twice|double)(?: of)?(?: the)? (?P<a>.+)", "{a} * 2"),
    _said(r"(?P<a>.+?) (?:halved|divided by (?:2|two))", "{a} / 2"),
    _said(r"(?P<a>.+?) doubled", "{a} * 2"),
    _said(r"(?P<a>.+?) divided by (?P<b>.+)", "{a} / {b}"),
    _said(r"(?P<a>.+?) multiplied by (?P<b>.+)", "{a} * {b}"),
    _said(r"(?P<a>.+?) (?:increased by|and another|more than) (?P<b>.+)", "{a} + {b}"),
    _said(r"(?P<a>.+?) (?:reduced by|decreased by|less) (?P<b>.+)", "{a} - {b}"),
    _said(r"(?:sum|total) of (?P<a>.+?) and (?P<b>.+)", "{a} + {b}"),
    _said(r"(?:difference between|difference of) (?P<a>.+?) and (?P<b>.+)", "{a} - {b}"),
    _said(r"(?:smaller|lesser|minimum|lower) of (?P<a>.+?) and (?P<b>.+)", "min({a}, {b})"),
    _said(r"(?:larger|greater|bigger|maximum|higher) of (?P<a>.+?) and (?P<b>.+)", "max({a}, {b})"),
    _said(r"(?P<a>.+?) rounded", "round({a})"),
    _said(r"(?P<a>.+?) rounded down", "floor({a})"),
    _said(r"(?P<a>.+?) rounded up", "ceil({a})"),
    _said(r"(?P<a>.+?) squared", "{a} * {a}"),
    _said(rf"(?P<a>{_TERM}) (?:times|multiplied by) (?P<b>{_TERM})", "{a} * {b}"),
    _said(rf"distance (?:between|from|of) {_BOTH}", "distance({a}, {b})", objects=True),
    _said(
        r"(?:direction|angle) from (?P<a>.+?) to(?:wards?)? (?P<b>.+)", "direction({a}, {b})", objects=True
    ),
    _said(r"(?:number|count|amount) of (?P<a>\S+)", "count({a})", objects=True),
    _said(
        r"(?:number|count|amount) of (?:the )?(?P<a>\S+) (?:in|inside) (?P<b>.+)",
        "count_in({a}, {b})",
        objects=True,
    ),
    _said(rf"(?:angle|direction) between {_BOTH}", "direction({a}, {b})", objects=True),
    _said(r"(?P<a>\S+) count", "count({a})", objects=True),
    _said(r"(?:current )?speed of (?:the )?(?P<a>.+)", "speed({a})", objects=True),
)
"""How formulas are spoken; the first that fits is meant."""
COMPARED = sorted(
    (
        (said, sign)
        for sign in ("=", ">", ">=", "<>", "<=", "<")
        for said in OPTION_WORDINGS[sign]
        if said not in ("above", "below", "over", "under", "are", "are not")
    ),
    key=lambda pair: -len(pair[0]),
)
"""How comparisons are spoken, with their signs; the longest first."""
_PLAIN = re.compile(r'-?\d+(?:\.\d+)?|[\w.]+|\w+\([^()]*\)|"[^"]*"')


def in_brackets(formula: str) -> str:
    """Return a formula that can be a part of another: in brackets where it is more than one value."""
    return formula if _PLAIN.fullmatch(formula) else f"({formula})"


def as_number(text: str) -> str:
    """Return a number that is written as a word as digits, and any other text as it is."""
    return NUMBERS.get(text.strip().lower(), text.strip())


_FAR = r"(?P<far>[\w.]+)(?: units?)?"
_A, _B = r"(?:the |an? )?(?P<a>.+?)", r"(?:the |an? )?(?P<b>.+)"
_WHOM = r"(?:the |an? )?(?P<a>.+)"
SPOKEN_POINTS = (
    _said(
        rf"(?:middle|midpoint|point halfway|halfway|half way|midway)(?: point)? between {_A} and {_B}",
        "between({a}, {b}, 0.5)",
        objects=True,
    ),
    _said(
        rf"(?:point )?(?:halfway|half way|midway) (?:from {_A} to|to) {_B}",
        "between({a}, {b}, 0.5)",
        objects=True,
    ),
    _said(rf"(?:point )?{_FAR} (?:ahead|in front) of {_WHOM}", "ahead({a}, {far})", objects=True),
    _said(rf"(?:point )?{_FAR} behind {_WHOM}", "ahead({a}, -{far})", objects=True),
    _said(rf"(?:point )?{_FAR} (?:above|over) {_WHOM}", "{a} + (0, {far})", objects=True),
    _said(rf"(?:point )?{_FAR} (?:below|under) {_WHOM}", "{a} - (0, {far})", objects=True),
    _said(rf"(?:point )?{_FAR} (?:to the right|right) of {_WHOM}", "{a} + ({far}, 0)", objects=True),
    _said(rf"(?:point )?{_FAR} (?:to the left|left) of {_WHOM}", "{a} - ({far}, 0)", objects=True),
)
"""Points as they are spoken; `far` is a number, the other parts are what stands somewhere."""
