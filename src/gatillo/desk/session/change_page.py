"""The answer to whether the trials would notice a change: those that nothing notices, with what would."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from functools import partial

from gatillo.desk.session.page import Offer, Page, Path
from gatillo.inspect.mutation.mutants import Mutant, mutants
from gatillo.inspect.mutation.trying import Fate, Tried, Unchanged, order_of_trial
from gatillo.inspect.reasons.reason import Reason

CHANGES = "Would the trials notice a change?"
MOST_LISTED = 100


class ChangePage:
    """What came of the changes tried so far."""

    def __init__(
        self,
        known: Unchanged,
        expect: Callable[[str, object], object],
        show: Callable[[str, object, str], object],
    ) -> None:
        """Make it of a level's runs; `expect(trial, expectation)` and `show(trial, level, words)` do what it offers."""
        self.known = known
        self.every: list[Mutant] = mutants(known.level)
        self.numbers = order_of_trial(known)
        """The changes to try, in turn."""
        self._expect, self._show = expect, show
        self._fates: Counter[Fate] = Counter()
        self._unnoticed: list[Tried] = []
        self._unfolded: set[Path] = set()
        """What is unfolded, on all pages alike."""

    def add(self, one: Tried) -> None:
        """Add what came of a change."""
        self._fates[one.fate] += 1
        if one.fate == "unnoticed":
            self._unnoticed.append(one)

    def page(self, *, busy: bool = False) -> Page:
        """Return the page as far as the changes have been tried."""
        page = Page(CHANGES, busy=busy, about_rules=True, unfolded=self._unfolded)
        page.notes += [
            f"The trial “{name}” does not pass, so no change is held to it." for name in self.known.failing
        ]
        if not self.known.runs:
            page.notes.append(
                "Make a trial that passes first. Then each small change of the level is tried with it."
            )
            return page
        fates = self._fates
        noticed = fates["caught"] + fates["took too long"]
        of = noticed + fates["unnoticed"]
        done = sum(fates.values())
        if busy:
            page.notes.append(f"{done} of {len(self.every)} changes tried.")
        share = f", {noticed / of:.0%}" if of else ""
        page.notes.append(f"{noticed} of {of} changes noticed{share}.")
        if fates["equivalent"]:
            page.notes.append(f"{fates['equivalent']} more make no difference in any trial.")
        if fates["cannot run"]:
            page.notes.append(f"{fates['cannot run']} more leave a rule that cannot run.")
        if self._unnoticed:
            page.notes.append("No trial notices these:")
        # those first that something can be done about
        listed = sorted(self._unnoticed, key=lambda one: (one.offer is None, one.number))
        for at, one in enumerate(listed[:MOST_LISTED]):
            mutant = self.every[one.number]
            page.roots.append(
                Reason(mutant.sentence(), "note", rule_id=mutant.rule, grounds=partial(_grounds, one))
            )
            page.offers[at] = tuple(self._offers(one, mutant))
        if len(self._unnoticed) > MOST_LISTED:
            page.notes.append(f"The first {MOST_LISTED} of {len(self._unnoticed)} are listed.")
        return page

    def _offers(self, one: Tried, mutant: Mutant) -> list[Offer]:
        found: list[Offer] = []
        if one.offer is not None:
            words = "the order of firing stays as it is" if one.offer.at_end_only else one.offer.sentence()
            found.append((f"Expect: {words}", partial(self._expect, one.trial, one.offer)))
        found.append(("Show the two runs", partial(self._show_runs, one, mutant)))
        return found

    def _show_runs(self, one: Tried, mutant: Mutant) -> None:
        self._show(one.trial, mutant.make(self.known.level), mutant.sentence())


def _grounds(one: Tried) -> list[Reason]:
    return [Reason(f"In the trial “{one.trial}”, {one.why}.", "note")]
