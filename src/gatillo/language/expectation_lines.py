"""Typed lines of what a trial must show: “Gather a pod before Tell the count”, “level.pods = 3 at 1.5 s”.

Every sentence that an expectation says of itself is read as that expectation. Words that are not understood are never passed
over: the line is refused with a sentence that says what is missing.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Literal

from msgspec.structs import replace

from gatillo.formula.compiling import compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.language.typed_words import NUMBERS
from gatillo.level.expectations import (
    Expectation,
    FiresBefore,
    FiresInOrder,
    FiresTimes,
    HoldsAt,
    HoldsWhenever,
)
from gatillo.level.naming import KnownNames
from gatillo.level.roles import Index, all_logic

How = Literal["exactly", "at least", "at most"]
LEADS = ("expect that", "expect", "it must be that", "must hold:", "the rule", "the graph")
"""Words that may stand before what must hold."""
ANY_INPUT = re.compile(r",? (?:whatever|no matter what|whichever key) (?:is|gets|has been) pressed$", re.I)
_SECONDS = r"(?P<{}>\d+(?:\.\d+)?)(?: ?(?:s|sec|secs|seconds?))?"
_TIMES = r"(?P<times>\d+|[a-z]+) times?"
_HOW: dict[str, How] = {
    "": "exactly",
    "exactly": "exactly",
    "just": "exactly",
    "only": "exactly",
    "at least": "at least",
    "no fewer than": "at least",
    "no less than": "at least",
    "at most": "at most",
    "no more than": "at most",
    "not more than": "at most",
    "up to": "at most",
}
_ALTERNATIVES = "|".join(sorted(filter(None, _HOW), key=len, reverse=True))
_OFTEN = {"never": 0, "not once": 0, "once": 1, "twice": 2, "thrice": 3}
_STRETCH = re.compile(
    rf"^(?:,? (?:from|between) {_SECONDS.format('start')} (?:to|until|till|and) {_SECONDS.format('end')}"
    rf"|,? (?:from|after) {_SECONDS.format('after')}(?: on)?"
    rf"|,? (?:until|by|before|within the first|in the first) {_SECONDS.format('before')})?$",
    re.I,
)
_FIRES = r"(?:fires?|firing|runs?|comes?|happens?)"
_COUNTED = re.compile(
    rf"^(?:(?P<not>never|does not|doesn't|must not|may not) {_FIRES}"
    rf"|(?:{_FIRES} )?(?:(?P<how>{_ALTERNATIVES}) )?(?:{_TIMES}|(?P<often>{'|'.join(_OFTEN)}))(?: {_FIRES})?"
    rf"|(?P<some>{_FIRES}))(?P<rest>.*)$",
    re.I,
)
_WITHIN = re.compile(
    rf"^,? (?:within|at most|by at most) {_SECONDS.format('within')}(?: before| after| earlier)?$", re.I
)
_WHEN = re.compile(
    rf"^(?P<formula>.+?),? (?:(?:holds|is true|must hold|is so|hold) )?"
    rf"(?:(?P<always>always|at every tick|at all times|all the time|in every tick|throughout)"
    rf"|(?P<never>never|at no tick|at no time|in no tick)"
    rf"|(?:at some (?:tick|time|moment) )?(?:by|before|until|within) {_SECONDS.format('by')}"
    rf"|(?P<end>at the end|in the end|when the trial ends)"
    rf"|(?:at|after) {_SECONDS.format('at')})$",
    re.I,
)
_HEAD = re.compile(r"^(?P<word>always|never) (?P<formula>.+)$", re.I)
_WHENEVER = re.compile(r" (?:holds |is true |must hold )?(?:whenever|each time|every time|when) (?=\S)", re.I)
_IS = re.compile(r"\bis\b", re.I)


class ExpectationLineError(ValueError):
    """A line that is not understood, in a sentence that says what to do."""


def read_expectation(index: Index, text: str, end: float = 10.0) -> Expectation:
    """Return the expectation that a typed line says.

    Args:
        index: the names of the level.
        text: the line, such as “Bang at most 2 times from 0 to 5 s”.
        end: the length of the trial in seconds, for “at the end”.

    Raises:
        ExpectationLineError: the line cannot be read; its text says why, and what can be typed.

    """
    line = " ".join(text.split()).rstrip(".")
    if not line:
        raise ExpectationLineError("type what must hold, such as “level.pods = 3 at 1.5 s”")
    any_input = ANY_INPUT.search(line)
    if any_input is not None:
        line = line[: any_input.start()]
    for lead in LEADS:
        if line.lower().startswith(f"{lead} "):
            line = line[len(lead) + 1 :]
    made = _Line(index, line, end).read()
    return replace(made, any_input=True) if any_input is not None else made


class _Line:
    """One line being read."""

    def __init__(self, index: Index, line: str, end: float) -> None:
        self.index, self.line, self.end = index, line, end
        self.rules = [entry.name for _, _, entry in all_logic(index.level)]
        self.longest_first = sorted(self.rules, key=len, reverse=True)

    def read(self) -> Expectation:
        ways: tuple[Callable[[], Expectation | None], ...] = (
            self._every,
            self._of_rules,
            self._whenever,
            self._timed,
        )
        for way in ways:
            if (made := way()) is not None:
                return made
        raise ExpectationLineError(self._lacking())

    # names of rules

    def _rule_at(self, line: str) -> tuple[str, str] | None:
        """Return the rule that a line begins with, and what follows it; a name may stand in quotes."""
        for opening, closing in (("“", "”"), ('"', '"')):
            if line.startswith(opening):
                name, found, rest = line[1:].partition(closing)
                return (self._named(name), rest) if found else None
        for name in self.longest_first:
            after = line[len(name) : len(name) + 1]
            if line.lower().startswith(name.lower()) and not (after.isalnum() or after in ("_", ".")):
                return self._exactly(line[: len(name)]), line[len(name) :]
        return None

    def _exactly(self, typed: str) -> str:
        """Return the rule that is typed, in its own case if there are two that differ by case alone."""
        return typed if typed in self.rules else next(n for n in self.rules if n.lower() == typed.lower())

    def _named(self, typed: str) -> str:
        name = next(
            (
                n
                for n in (typed.strip(), *self.rules)
                if n in self.rules and n.lower() == typed.strip().lower()
            ),
            None,
        )
        if name is None:
            raise ExpectationLineError(
                f"there is no rule called “{typed}”{KnownNames(self.rules).hint(typed)}"
            )
        return name

    def _rule(self, text: str) -> str:
        """Return the rule that a text is, or is nearly."""
        found = self._rule_at(text.strip())
        if found is not None and not found[1].strip(" ,"):
            return found[0]
        return self._named(text.strip(" ,"))

    # about rules

    def _every(self) -> Expectation | None:
        """“every B has an A before it, within 2 s”, “before every B comes A”."""
        if not self.line.lower().startswith("every "):
            return None
        found = self._rule_at(self.line[6:])
        if found is None:
            return None
        then, rest = found
        has = re.match(
            r"^ (?:has|needs|must have) (?:an? )?(?P<first>.+?) before it(?P<rest>.*)$", rest, re.I
        )
        if has is None:
            return None
        return FiresBefore(
            first=self._rule(has["first"]), then=then, every=True, within=self._within(has["rest"])
        )

    def _within(self, rest: str) -> float | None:
        if not rest.strip():
            return None
        within = _WITHIN.match(rest)
        if within is None:
            raise ExpectationLineError(f"“{rest.strip(' ,')}” is not understood; type “within 2 s”")
        return float(within["within"])

    def _of_rules(self) -> Expectation | None:
        found = self._rule_at(self.line)
        if found is None:
            return None
        name, rest = found
        before = re.match(
            rf"^,?(?: {_FIRES})?,? (?P<word>before|then|and then|after)(?: that)? (?P<other>.+)$", rest, re.I
        )
        if before is not None:
            # the name of the other may be followed by how long before
            other, tail = self._rule_at(before["other"]) or (self._named_before_within(before["other"]))
            tail = re.sub(rf"^ {_FIRES}", "", tail, flags=re.I)
            more = tail.lower().startswith((", then ", " then ", ", and then "))
            if not more and not tail.startswith(","):
                within = self._within(tail)
                first, then = (other, name) if before["word"].lower() == "after" else (name, other)
                return FiresBefore(first=first, then=then, within=within)
            if not more and _WITHIN.match(tail):
                return FiresBefore(first=name, then=other, within=self._within(tail))
        if rest.startswith(",") or rest.lower().startswith((" and ", " then ")):
            return self._in_order(name, rest)
        return self._counted(name, rest)

    def _named_before_within(self, text: str) -> tuple[str, str]:
        name, word, tail = text.partition(" within ")
        return self._named(name), f"{word}{tail}".rstrip()

    def _in_order(self, name: str, rest: str) -> Expectation | None:
        names = [name]
        while (
            after := re.match(r"^(?:, and then |, and |, then |, | and then | and | then )", rest, re.I)
        ) is not None:
            found = self._rule_at(rest[after.end() :])
            if found is None:
                # a condition on what was named before, or a name that is not there
                break
            names.append(found[0])
            rest = found[1]
        tail = re.match(
            rf"^(?: {_FIRES})?(?:,? in (?:that|this|the given)? ?order)?(?P<tick>,? in (?:one|the same|a single) tick)?(?:,? in (?:that|this) order)?$",
            rest,
            re.I,
        )
        if tail is None or len(names) < 2:
            raise ExpectationLineError(
                f"“{rest.strip(' ,')}” is not understood after {', '.join(f'“{n}”' for n in names)}; "
                "type rules with commas between them, then “in that order” or “in one tick”"
            )
        return FiresInOrder(rules=tuple(names), same_tick=tail["tick"] is not None)

    def _counted(self, name: str, rest: str) -> Expectation | None:
        said = _COUNTED.match(rest.strip())
        if said is None:
            return None
        stretch = _STRETCH.match(said["rest"])
        if stretch is None:
            raise ExpectationLineError(
                f"“{said['rest'].strip(' ,')}” is not understood; type a stretch of time: “from 0 to 5 s”, “by 2 s”"
            )
        how: How = _HOW[(said["how"] or "").lower()]
        if said["not"] is not None:
            times = 0
        elif said["some"] is not None:
            how, times = "at least", 1
        elif said["often"] is not None:
            times = _OFTEN[said["often"].lower()]
        else:
            times = self._number(said["times"])
        start = stretch["start"] or stretch["after"]
        ends = stretch["end"] or stretch["before"]
        if start is not None and ends is not None and float(ends) < float(start):
            raise ExpectationLineError(f"a stretch cannot end before it begins: {start} s to {ends} s")
        return FiresTimes(
            rule=name,
            how=how,
            times=times,
            start=None if start is None else float(start),
            end=None if ends is None else float(ends),
        )

    @staticmethod
    def _number(text: str) -> int:
        if text.isdigit():
            return int(text)
        found = NUMBERS.get(text.lower())
        if found is None or float(found) != int(float(found)):
            raise ExpectationLineError(f"“{text}” is no whole number; type how many times, such as 2")
        return int(float(found))

    # about values

    def _whenever(self) -> Expectation | None:
        """“FORMULA holds whenever RULE fires”, “whenever RULE fires, FORMULA”."""
        lead = re.match(r"^(?:whenever|each time|every time|when) ", self.line, re.I)
        if lead is not None:
            found = self._rule_at(self.line[lead.end() :])
            if found is None:
                return None
            fires = re.match(
                rf"^(?: {_FIRES})?,? (?P<formula>.+?)(?: holds| is true| must hold)?$", found[1], re.I
            )
            if fires is None:
                return None
            return HoldsWhenever(rule=found[0], formula=self._formula(fires["formula"]))
        for word in self._words(_WHENEVER):
            found = self._rule_at(self.line[word.end() :])
            if found is not None and re.fullmatch(rf"(?: {_FIRES})?", found[1], re.I):
                return HoldsWhenever(rule=found[0], formula=self._formula(self.line[: word.start()]))
        return None

    def _words(self, pattern: re.Pattern[str]) -> Iterator[re.Match[str]]:
        return pattern.finditer(self.line)

    def _timed(self) -> Expectation | None:
        head = _HEAD.match(self.line)
        if head is not None:
            when: Literal["always", "never"] = "always" if head["word"].lower() == "always" else "never"
            return HoldsAt(formula=self._formula(head["formula"]), when=when)
        said = _WHEN.match(self.line)
        if said is None:
            return None
        formula = self._formula(said["formula"])
        if said["always"] is not None:
            return HoldsAt(formula=formula, when="always")
        if said["never"] is not None:
            return HoldsAt(formula=formula, when="never")
        if said["by"] is not None:
            return HoldsAt(formula=formula, when="by", time=float(said["by"]))
        return HoldsAt(
            formula=formula, when="at", time=self.end if said["end"] is not None else float(said["at"])
        )

    def _formula(self, text: str) -> str:
        """Return a text as a yes/no formula; “is” may stand for “=”."""
        text = text.strip(" ,")
        try:
            compile_formula(self.index, text, "yes/no")
        except FormulaError as error:
            instead = _IS.sub("=", text)
            try:
                compile_formula(self.index, instead, "yes/no")
            except FormulaError:
                raise ExpectationLineError(error.message) from None
            return instead
        return text

    # what is missing

    def _lacking(self) -> str:
        """Return why a line is not understood, and what to type."""
        found = self._rule_at(self.line)
        if found is not None:
            rest = found[1].strip(" ,")
            if not rest:
                return (
                    f"say how often “{found[0]}” fires, or what it fires before: “{found[0]} exactly 2 times”"
                )
            return f"“{rest}” is not understood after “{found[0]}”; type “exactly 2 times”, “never fires” or “before” and a rule"
        try:
            compile_formula(self.index, _IS.sub("=", self.line), "yes/no")
        except FormulaError as error:
            near = KnownNames(self.rules).hint(
                re.split(r" before | fires| at least | at most ", self.line)[0]
            )
            return f"this begins with no rule, and it is no yes/no formula with a time: {error.message}{near}"
        return "say when it must hold: “at 1.5 s”, “by 3 s”, “always”, “never”, or “whenever” and a rule"
