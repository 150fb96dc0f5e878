"""The page that the sheet shows for an answer."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field

from gatillo.inspect.reasons.reason import Reason

Path = tuple[int, ...]
"""A reason of a page: which root, which of its reasons, and so on."""
Offer = tuple[str, Callable[[], object]]
"""What can be done or asked next: its words, and what does it."""
CHOSEN, OTHER = "●", "○"
"""Begins the words of an offer that is one of several which exclude one another: the one that holds now, and another."""


@dataclass(slots=True)
class Page:
    """An answer, as the sheet shows it."""

    title: str
    notes: list[str] = field(default_factory=list)
    roots: list[Reason] = field(default_factory=list)
    offers: dict[int, tuple[Offer, ...]] = field(default_factory=dict)
    """By root: what can be done with it."""
    about_rules: bool = False
    """Whether its reasons are about rules, and about no moment."""
    also: list[Offer] = field(default_factory=list)
    """What else can be asked."""
    table: list[tuple[str, ...]] = field(default_factory=list)
    unfolded: set[Path] = field(default_factory=set)
    chosen: Path | None = None
    busy: bool = False
    stale: bool = False
    """The level has been edited since."""

    def reason(self, path: Path) -> Reason | None:
        """Return the reason at a path; None where it is not known yet."""
        some = self.roots
        found: Reason | None = None
        for at in path:
            if at >= len(some):
                return None
            found = some[at]
            some = list(found.because()) if found.known else []
        return found

    def lines(self) -> Iterator[tuple[Path, Reason]]:
        """Yield the reasons in sight, from the top down."""

        def below(path: Path, reason: Reason) -> Iterator[tuple[Path, Reason]]:
            yield path, reason
            if path in self.unfolded and reason.known:
                for at, inner in enumerate(reason.because()):
                    yield from below((*path, at), inner)

        for at, root in enumerate(self.roots):
            yield from below((at,), root)

    def text(self) -> str:
        """Return all of it in sight, as text."""
        found = [self.title, *self.notes]
        found += ["\t".join(row) for row in self.table]
        found += ["  " * (len(path) - 1) + "· " + reason.sentence for path, reason in self.lines()]
        return "\n".join(found)
