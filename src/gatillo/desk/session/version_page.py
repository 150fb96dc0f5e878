"""The pages about other versions of the level: what differs from one, and what a merge left to be settled."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import groupby

from gatillo.desk.session.page import CHOSEN, OTHER, Offer, Page
from gatillo.inspect.level_difference import level_differences
from gatillo.inspect.merging.settling import Question, Side, questions
from gatillo.inspect.reasons.reason import Reason
from gatillo.level.model import Level
from gatillo.level.roles import all_logic

COMPARED = "What differs"
SETTLE = "Settle the merge"
MOST_LISTED = 200


@dataclass(frozen=True, slots=True)
class Settling:
    """What can be done with a change that is to be settled, by its number."""

    choose: Callable[[int, Side], object]
    settle: Callable[[int], object]
    compare: Callable[[int, Side], object]
    """Lay the run of the level as the other side has it beside this one."""
    settle_all: Callable[[], object]


def settle_page(level: Level, deeds: Settling) -> Page:
    """Return the page of what a merge left: each change with both sides, the chosen one marked, and what can be done with it."""
    page = Page(SETTLE, about_rules=True)
    some = questions(level)
    if not some:
        page.notes.append("Nothing is left to be settled. Save the level; git then takes it as merged.")
        return page
    many = len(some)
    page.notes.append(
        f"{many} change{'s' if many != 1 else ''} on which the two versions differ. The level has what is marked {CHOSEN}; "
        "choose the other side to see it run."
    )
    for number, question in enumerate(some):
        where = level.unsettled[number].path
        known = where[1] if len(where) > 1 and isinstance(where[1], dict) else {}
        found = known.get("id", 0)
        rule = found if where[:1] == ("order",) and isinstance(found, int) else 0
        things = (found,) if where[:1] == ("objects",) and isinstance(found, int) else ()
        page.roots.append(Reason(question.about, "note", rule_id=rule, ids=things))
        page.offers[number] = _offers(number, question, deeds)
    if many > 1:
        page.also.append(("Keep all as they are now", deeds.settle_all))
    return page


def _offers(number: int, question: Question, deeds: Settling) -> tuple[Offer, ...]:
    sides: tuple[tuple[Side, str], ...] = (("ours", question.ours), ("theirs", question.theirs))
    offers: list[Offer] = [
        (
            f"{CHOSEN if question.chosen == side else OTHER} {side}: {words}",
            lambda side=side: deeds.choose(number, side),  # type: ignore[misc]
        )
        for side, words in sides
    ]
    other: Side = "theirs" if question.chosen == "ours" else "ours"
    offers.append((f"Compare with {other}", lambda: deeds.compare(number, other)))
    offers.append(("Keep as it is now", lambda: deeds.settle(number)))
    return tuple(offers)


def difference_page(before: Level, level: Level, label: str, compare: Callable[[], object]) -> Page:
    """Return the page of what differs between another version and the level, by what it concerns, with the runs to be compared."""
    page = Page(COMPARED, [f"From {label} to this level:"], about_rules=True)
    found = level_differences(before, level)
    if not found:
        page.notes = [f"Nothing differs from {label}."]
        return page
    rules = {logic.name: logic.id for _, _, logic in all_logic(level)}
    objects = {thing.name: thing.id for thing in level.objects}
    for about, some in groupby(found[:MOST_LISTED], lambda one: one.about):
        sort, _, name = about.partition(" ")
        rule = rules.get(name.strip("“”"), 0) if sort in ("rule", "graph") else 0
        things = (objects[name],) if sort == "object" and name in objects else ()
        words = [one.words for one in some]
        sentence = f"{about}: {words[0]}" if len(words) == 1 else f"{about}:"
        inner = [Reason(one, "note", rule_id=rule, ids=things) for one in words] if len(words) > 1 else []
        page.unfolded.add((len(page.roots),))
        grounds: Callable[[], list[Reason]] | None = (lambda inner=inner: inner) if inner else None
        root = Reason(sentence, "note", rule_id=rule, ids=things, grounds=grounds)
        root.because()
        page.roots.append(root)
    if len(found) > MOST_LISTED:
        page.notes.append(f"The first {MOST_LISTED} of {len(found)} are listed.")
    page.also.append(("Compare the runs", compare))
    return page
