"""Reading how often a rule fires: “only once”, “the first time …”, “at most once a second”, “with a cooldown of 2 s”."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cache
from typing import Any

from gatillo.language.formula_fits import SECONDS_IN
from gatillo.language.reading import Reading
from gatillo.language.typed_words import NUMBERS
from gatillo.level.document import FARTHEST
from gatillo.level.model import Rule

_PERIOD = r"(?P<number>\d+(?:\.\d+)?|half an?|an?|one|two|three|four|five|ten)?[- ]?(?P<unit>ms|s|secs?|seconds?|mins?|minutes?)\b"
_PER = r"(?P<per>(?:,? (?:per|for each|for every|of each)) (?!rule\b|level\b|run\b|game\b|trial\b)(?:the )?\w+(?: \d+)?)?(?:,? (?:per|for each|in the|in each|for the) (?:rule|level|run|game|trial|whole rule))?"
_END = r"(?=$|\.$|,|;|:| then\b)"
_MOST = r"(?:but |and )?(?:only )?(?:at most|at the most|no more than|not more than|not more often than|no more often than|never more than|never more often than|max(?:imum)?|only|not oftener than)"
_PHRASES = (
    (rf"(?:^|,? ){_MOST} (?:once|one time) (?:per|a|an|every|each|in) {_PERIOD}{_PER}{_END}", ""),
    (rf",? (?:and |but )?(?:with|then|has|have|having) (?:a |an )?(?:cooldown|cool-down|cool down) (?:of |for )?{_PERIOD}{_PER}{_END}", ""),
    (rf",? (?:and |but )?with (?:a |an )?{_PERIOD} (?:cooldown|cool-down|cool down|rest){_PER}{_END}", ""),
    (rf",? cooldown:? {_PERIOD}{_PER}{_END}", ""),
    (rf"(?P<keep>^(?:when|whenever|if|while|on|once|as soon as|every) .+?),? (?:(?:and |but )?then|but|and) (?:it )?rests? (?:for )?{_PERIOD}{_PER}{_END}", r"\g<keep>"),
    (rf",? (?:and |but )?(?:then )?not again (?:for|within|until after) {_PERIOD}{_PER}{_END}", ""),
    (rf",? (?:and |but )?(?:only once|just once|once only|only one time|just one time|one time only|only the first time|the first time only|first time only){_PER}{_END}", ""),
    (rf",? (?:and |but )?once(?P<per>,? (?:per|for each|for every) (?!s\b|sec|min|tick|frame|rule\b|level\b|run\b|game\b|trial\b)(?:the )?\w+){_END}", ""),
    (rf",? (?:and |but )?(?P<true>on becoming true|when it becomes true){_END}", ""),
    (r"^(?:only )?(?:on |for )?the (?:very )?first time(?: that| when)?,? (?=\w)", "when "),
    (r"(?P<keep>^(?:when|once|whenever|as soon as|if) .+?),? for the (?:very )?first time(?=,| |$)", r"\g<keep>"),
)  # fmt: skip
"""What says how often a rule fires, by patterns, with what stays of it in the line."""
_BECOMES_TRUE = re.compile(
    r"\s*(?:when|whenever|once|as soon as|the moment|every time|each time)\b", re.IGNORECASE
)
_QUOTES = '"“”'


@cache
def _phrases() -> tuple[tuple[re.Pattern[str], str], ...]:
    """Return the phrases, compiled when a line is first read."""
    return tuple((re.compile(pattern, re.IGNORECASE), instead) for pattern, instead in _PHRASES)


def without_firing(text: str) -> tuple[str, dict[str, Any]]:
    """Return a line without what it says of how often its rule fires, and that as fields of a rule; {} if it says nothing of it."""
    fields: dict[str, Any] = {}
    for pattern, instead in _phrases():
        found = pattern.search(text)
        if found is None:
            continue
        begins = found.end("keep") if "keep" in pattern.groupindex else found.start()
        if _in_quotes(text, begins, found.end()):
            continue
        rest = text[: found.start()] + found.expand(instead) + text[found.end() :]
        if not rest.strip(" ,;:."):
            # alone it is no line
            continue
        said = found.groupdict()
        scope = "object" if said.get("per") else "rule"
        rest_time = _seconds(said["number"], said["unit"]) if said.get("unit") else 0.0
        if rest_time > FARTHEST:
            # longer than a rule may rest: the words stay unread
            continue
        if said.get("true"):
            fields["fires"] = "on becoming true"
        elif said.get("unit"):
            fields |= {"cooldown": rest_time, "cooldown_per": scope}
        else:
            fields |= {"fires": "first time only", "first_per": scope}
        text = rest.strip()
    return text, {
        name: value for name, value in fields.items() if value != getattr(Rule(id=0, name=""), name)
    }


def firing_alone(text: str) -> dict[str, Any]:
    """Return the fields of a rule that a text gives which says nothing but how often it fires; {} for any other text."""
    something = "when x"
    rest, fields = without_firing(f"{something}, {text.strip()}")
    return fields if rest.rstrip(",") == something else {}


def _in_quotes(text: str, start: int, end: int) -> bool:
    """Return whether a part of a text stands within quotes, or has any."""
    before = text[:start]
    within = before.count('"') % 2 == 1 or before.count("“") > before.count("”")
    return within or any(mark in text[start:end] for mark in _QUOTES)


def becomes_true(text: str, reading: Reading) -> bool:
    """Return whether a line says that its rule fires when something becomes so: “when the tank is empty”, read as a condition."""
    parts = [line.part for line in reading.all_lines]
    return parts[0] == "if" and "when" not in parts and _BECOMES_TRUE.match(text) is not None


def fields_for(rule: Rule, reading: Reading) -> Mapping[str, Any]:
    """Return the fields that a reading gives the rule into which its lines are put.

    That it fires on becoming true is only for a rule without occasions whose firing nothing has been said of.
    """
    fields = dict(reading.rule)
    if fields.get("fires") == "on becoming true" and (rule.when or rule.fires != "each tick"):
        del fields["fires"]
    return fields


def _seconds(number: str | None, unit: str) -> float:
    text = (number or "1").lower()
    amount = 0.5 if text.startswith("half") else float(NUMBERS.get(text, text))
    return round(amount * SECONDS_IN[unit.lower()], 6)
