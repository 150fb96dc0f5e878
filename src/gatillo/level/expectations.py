"""What trials expect: one class for each kind of expectation. How each is judged is in inspect/expectations.py.

Renaming, findings and the trial's page read what a field holds from its type: the name of a rule, or a yes/no formula.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Annotated, Any, ClassVar, Literal, Self, get_args, get_origin, get_type_hints

from msgspec.structs import replace

from gatillo.level.document import Doc, Duration

RULE, YES_NO = "rule", "yes/no formula"
"""What a field of an expectation can hold, as types of slots are called."""
RuleName = Annotated[str, RULE]
YesNo = Annotated[str, YES_NO]


class Expected(Doc, frozen=True, kw_only=True):
    """Base of all expectations."""

    offer: ClassVar[str] = ""
    """What the trial's page calls it where one is added; "" if it is not added there."""
    at_end_only: ClassVar[bool] = False
    """Whether it can only be judged of a whole run."""
    any_input: bool = False
    """Whether it must hold whatever is pressed: exploring looks for input that breaks it."""

    @classmethod
    def blank(cls, rules: list[str]) -> Self:
        """Return a new one, about some of these rules where it is about rules."""
        raise NotImplementedError

    def sentence(self) -> str:
        """Return what must hold, in plain words."""
        raise NotImplementedError

    def row(self) -> str:
        """Return how the trial's page edits it: words, and fields in braces, each with its label after a colon.

        "" where it is not edited there; the page shows its sentence then.
        """
        return ""

    def followed(self) -> str:
        """Return the formula that must be known at every tick of the run to judge it, or ""."""
        return ""

    def stays_failed(self, tick: int | None, done: int) -> bool:
        """Return whether it has failed for good if it fails, with this tick to look at, when so many ticks are done."""
        return True

    def changed(self, change: Callable[[str, str], str]) -> Self:
        """Return it with what its fields hold changed: `change(RULE or YES_NO, text)` is called for each."""
        new: dict[str, Any] = {}
        for field, holds in fields_of(type(self)).items():
            value = getattr(self, field)
            new[field] = (
                tuple(change(holds, one) for one in value)
                if isinstance(value, tuple)
                else change(holds, value)
            )
        return replace(self, **new)

    def formulas(self) -> list[str]:
        """Return its formulas."""
        return [getattr(self, field) for field, holds in fields_of(type(self)).items() if holds == YES_NO]


@cache
def fields_of(kind: type[Expected]) -> dict[str, str]:
    """Return the fields of a kind of expectation that hold a name or a formula, with RULE or YES_NO."""
    found: dict[str, str] = {}
    for field, hint in get_type_hints(kind, include_extras=True).items():
        inner = get_args(hint)[0] if get_origin(hint) is tuple else hint
        for mark in getattr(inner, "__metadata__", ()):
            if mark in (RULE, YES_NO):
                found[field] = mark
    return found


class FiresTimes(Expected, frozen=True, tag="fires", tag_field="is", rename={"start": "from", "end": "to"}):
    """A rule fires exactly / at least / at most so many times, in the whole run or a stretch of it (seconds)."""

    offer: ClassVar[str] = "a rule fires a number of times"
    rule: RuleName
    how: Literal["exactly", "at least", "at most"] = "exactly"
    times: int = 1
    start: Duration | None = None
    end: Duration | None = None

    @classmethod
    def blank(cls, rules: list[str]) -> Self:
        """Return a new one, about the first rule."""
        return cls(rule=rules[0] if rules else "")

    def sentence(self) -> str:
        """Return what must hold, in plain words."""
        stretch = f" from {self.start:g} s" if self.start is not None else ""
        stretch += f" until {self.end:g} s" if self.end is not None else ""
        if self.times == 0 and self.how != "at least":
            return f"“{self.rule}” never fires{stretch}"
        return (
            f"“{self.rule}” fires {self.how} {self.times} {'time' if self.times == 1 else 'times'}{stretch}"
        )

    def row(self) -> str:
        """Return the fields that the trial's page shows."""
        return "{rule:rule} {how:how often} {times:times}"

    def stays_failed(self, tick: int | None, done: int) -> bool:
        """Return whether it has fired too often, or its stretch is over."""
        return self.end is not None or (tick is not None and tick < done)


class FiresBefore(Expected, frozen=True, tag="before", tag_field="is"):
    """The first firing of one rule comes before the first of another, or each of the later has one before it."""

    offer: ClassVar[str] = "one rule fires before another"
    first: RuleName
    then: RuleName
    every: bool = False
    within: Duration | None = None

    @classmethod
    def blank(cls, rules: list[str]) -> Self:
        """Return a new one, about the first two rules."""
        first = rules[0] if rules else ""
        return cls(first=first, then=rules[1] if len(rules) > 1 else first)

    def sentence(self) -> str:
        """Return what must hold, in plain words."""
        within = f", within {self.within:g} s" if self.within is not None else ""
        if self.every:
            return f"every “{self.then}” has a “{self.first}” before it{within}"
        return f"“{self.first}” fires before “{self.then}”{within}"

    def row(self) -> str:
        """Return the fields that the trial's page shows."""
        return "{first:first} before {then:before}"


class HoldsAt(Expected, frozen=True, tag="holds", tag_field="is"):
    """A yes/no formula holds at a time, at every tick, at no tick, or at some tick by a time."""

    offer: ClassVar[str] = "a formula holds"
    formula: YesNo
    when: Literal["at", "always", "never", "by"] = "at"
    time: Duration = 0.0

    @classmethod
    def blank(cls, rules: list[str]) -> Self:
        """Return a new one."""
        return cls(formula="time > 0", when="always")

    def sentence(self) -> str:
        """Return what must hold, in plain words."""
        when = {
            "at": f"at {self.time:g} s",
            "always": "at every tick",
            "never": "at no tick",
            "by": f"at some tick by {self.time:g} s",
        }[self.when]
        return f"{self.formula} holds {when}"

    def row(self) -> str:
        """Return the fields that the trial's page shows."""
        return "{formula:formula} holds {when:when}" + (" {time:time}" if self.when in ("at", "by") else "")

    def followed(self) -> str:
        """Return the formula, unless it is asked at one time only."""
        return self.formula if self.when != "at" else ""


class FiresInOrder(Expected, frozen=True, tag="in order", tag_field="is"):
    """Rules fire in this order: the first firing of each after the first of the one before; or all in one tick."""

    rules: tuple[RuleName, ...]
    same_tick: bool = False

    def sentence(self) -> str:
        """Return what must hold, in plain words."""
        names = ", ".join(f"“{name}”" for name in self.rules)
        return f"{names} fire in that order" + (" in one tick" if self.same_tick else "")

    def stays_failed(self, tick: int | None, done: int) -> bool:
        """Return whether the first firings decide: not where a later tick can still have them all in order."""
        return not self.same_tick


class HoldsWhenever(Expected, frozen=True, tag="whenever", tag_field="is"):
    """A yes/no formula holds at the end of every tick in which a rule fires."""

    offer: ClassVar[str] = "a formula holds whenever a rule fires"
    rule: RuleName
    formula: YesNo

    @classmethod
    def blank(cls, rules: list[str]) -> Self:
        """Return a new one, about the first rule."""
        return cls(rule=rules[0] if rules else "", formula="time > 0")

    def sentence(self) -> str:
        """Return what must hold, in plain words."""
        return f"{self.formula} holds whenever “{self.rule}” fires"

    def row(self) -> str:
        """Return the fields that the trial's page shows."""
        return "{formula:formula} whenever fires {rule:whenever}"

    def followed(self) -> str:
        """Return the formula."""
        return self.formula


class SameOrder(Expected, frozen=True, tag="accepted", tag_field="is"):
    """The order of firing is the one that was accepted: a digest, and the firings as `tick rule ×matches` lines."""

    at_end_only: ClassVar[bool] = True
    digest: str
    firings: tuple[str, ...] = ()
    rate: int = 60

    def sentence(self) -> str:
        """Return what must hold, in plain words."""
        return f"the order of firing is the accepted one ({self.digest})"


Expectation = FiresTimes | FiresBefore | FiresInOrder | HoldsAt | HoldsWhenever | SameOrder
KINDS: tuple[type[Expected], ...] = get_args(Expectation)
"""Every kind of expectation, in the order in which they are offered."""
