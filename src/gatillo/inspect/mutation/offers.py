"""The expectation that would notice a change: it holds in the unchanged run and fails in the changed one."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator
from itertools import pairwise

from gatillo.formula.compiling import compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.expectations import accepted, judge
from gatillo.inspect.state import Parted, differences
from gatillo.inspect.watching import Unanswered, value_in
from gatillo.level.expectations import Expectation, FiresInOrder, FiresTimes, HoldsAt
from gatillo.level.naming import token
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Firing, Way

MOST_VALUES = 20
"""So many values that differ at a moment are tried in turn."""
_NAME = re.compile(r"[A-Za-z]\w*(?: \w+)*\.[A-Za-z]\w*(?: \w+)*")
_PLAIN = re.compile(r"“[^“”\"]*”")
_CREATED = re.compile(r"(?P<kind>[A-Za-z]\w*(?: \w+)*) \+\d+(?:\.(?P<property>[A-Za-z]\w*(?: \w+)*))?")


def offer_for(before: Run, after: Run, parted_at: int | None = None) -> Expectation | None:
    """Return an expectation that holds in the run before a change and fails in the one after it; None if none was found.

    It is tried in this order: how often a rule fires; how often by a time; which of two fires first in a tick; a value at a time;
    a text that is shown; the whole order of firing. `parted_at` is the first tick at which values are known to differ.
    """
    return next(
        (one for one in _candidates(before, after, parted_at) if _tells_apart(before, after, one)), None
    )


def _tells_apart(before: Run, after: Run, expectation: Expectation) -> bool:
    held = [judge(run, {}, [expectation])[0].outcome for run in (before, after)]
    return held == ["held", "failed"]


def _candidates(before: Run, after: Run, parted_at: int | None) -> Iterator[Expectation]:
    was, now = _fired(before), _fired(after)
    rate = before.program.rate
    names = list(dict.fromkeys((*was, *now)))
    for name in names:
        if len(was.get(name, [])) != len(now.get(name, [])):
            yield FiresTimes(name, "exactly", len(was.get(name, [])))
    for name in names:
        one, other = was.get(name, []), now.get(name, [])
        parted = next((pair for pair in zip(one, other, strict=False) if pair[0] != pair[1]), None)
        if parted is not None:
            by = min(parted) if max(parted) - min(parted) == 1 else sum(parted) // 2
            times = sum(tick <= by for tick in one)
            yield FiresTimes(name, "exactly", times, end=_seconds(by, rate))
    yield from _in_one_tick(before, after)
    yield from _values(before, after, parted_at)
    if parted_at is not None:
        yield from _said(before, after, parted_at)
    yield accepted(before)


def _fired(run: Run) -> dict[str, list[int]]:
    """Return the ticks in which each rule fired, by its name."""
    found: dict[str, list[int]] = {}
    for firing in _done(run):
        found.setdefault(run.program.rules[firing.rule_index].source.name, []).append(firing.tick)
    return found


def _done(run: Run) -> list[Firing]:
    return [f for f in run.trace.firings() if f.way is Way.DO]


def _in_one_tick(before: Run, after: Run) -> Iterator[Expectation]:
    orders = [_orders(before), _orders(after)]
    turned = Counter(
        (first, then)
        for tick, names in orders[0].items()
        for first, then in pairwise(names)
        if orders[1].get(tick, []).count(first)
        and then in orders[1][tick]
        and orders[1][tick].index(then) < orders[1][tick].index(first)
    )
    for first, then in turned:
        yield FiresInOrder((first, then), same_tick=True)


def _orders(run: Run) -> dict[int, list[str]]:
    found: dict[int, list[str]] = {}
    for firing in _done(run):
        found.setdefault(firing.tick, []).append(run.program.rules[firing.rule_index].source.name)
    return found


def _values(before: Run, after: Run, parted_at: int | None) -> Iterator[Expectation]:
    """Yield values that differ: at the end, or else at the tick at which one is known to."""
    rate = before.program.rate
    for tick in (before.done,) if parted_at is None else (before.done, parted_at):
        one, other = before.world_at(before.end_of(tick)), after.world_at(after.end_of(tick))
        found = False
        for parted, _ in zip(differences(one, other), range(MOST_VALUES), strict=False):
            for asked in _asked(before, parted):
                try:
                    values = [
                        value_in(world, compile_formula(run.program.index, asked))
                        for run, world in ((before, one), (after, other))
                    ]
                except FormulaError:
                    continue
                formula = _telling(asked, *values)
                if formula:
                    found = True
                    yield HoldsAt(formula, "at", _seconds(tick, rate))
        if found:
            return


def _said(before: Run, after: Run, tick: int) -> Iterator[Expectation]:
    """Yield what an object says or the player is told, where it differs at a tick, or ends at another time."""
    rate = before.program.rate
    one, other = before.world_at(before.end_of(tick)), after.world_at(after.end_of(tick))
    placed = {thing.id: thing.name for thing in before.program.level.objects}
    asked: list[tuple[str, int]] = []
    if one.display.telling != other.display.telling:
        asked.append(("telling()", tick))
    was, now = one.display.sayings, other.display.sayings
    for number in sorted({*was, *now} & set(placed)):
        mine, theirs = was.get(number), now.get(number)
        if mine == theirs:
            continue
        name = f"saying({token(placed[number])})"
        if mine is not None and theirs is not None and mine.text == theirs.text:
            # between the two ends
            asked.append((name, round((mine.until + theirs.until) / 2 * rate)))
        else:
            asked.append((name, tick))
    for formula, at in asked:
        if at > before.done:
            continue
        compiled = compile_formula(before.program.index, formula)
        value = value_in(before.world_at(before.end_of(at)), compiled)
        telling = _telling(formula, value, "")
        if telling:
            yield HoldsAt(telling, "at", _seconds(at, rate))


def _asked(before: Run, parted: Parted) -> Iterator[str]:
    """Yield formulas that may tell what parted. Objects that rules created have no names that expectations could use."""
    if _NAME.fullmatch(parted.name):
        yield token(parted.name)
    placed = next((thing.kind for thing in before.program.level.objects if thing.name == parted.name), "")
    if placed:
        yield f"count({token(placed)})"
    created = _CREATED.fullmatch(parted.name)
    if created is None:
        return
    kind = token(created["kind"])
    if created["property"] is None:
        yield f"count({kind})"
    else:
        name = f"{kind}.{token(created['property'])}"
        yield f"total({name})"
        if _PLAIN.fullmatch(parted.before):
            yield f'count_where({kind}, {name} = "{parted.before.strip("“”")}")'


def _seconds(tick: int, rate: int) -> float:
    """Return a time that is in a tick, with few digits."""
    whole = tick / rate
    return whole if round(whole, 2) == whole else round((tick - 0.5) / rate, 3)


def _telling(name: str, was: object, now: object) -> str:
    """Return a formula that is true of the first value and not of the second; "" if there is none."""
    if isinstance(was, Unanswered) or isinstance(now, Unanswered):
        return ""
    if isinstance(was, bool):
        return name if was else f"not {name}"
    if isinstance(was, str):
        return f'{name} = "{was}"' if '"' not in was else ""
    if not isinstance(was, int | float) or not isinstance(now, int | float):
        return ""
    if float(was).is_integer():
        return f"{name} = {was:g}"
    room = abs(was - now) / 2
    digits = 0
    while digits < 9 and abs(round(was, digits) - was) > room / 2:
        digits += 1
    return f"abs({name} - {round(was, digits):g}) < {room:.2g}".replace("- -", "+ ")
