"""The order of a list that two sides have changed, each for itself.

Two items that one side has put the other way round stand as that side has them; what a side has added stands after the item that
it follows there. The result does not depend on which side is called ours.
"""

from __future__ import annotations

from collections.abc import Collection, Hashable, Sequence
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

K = TypeVar("K", bound=Hashable)
MOST_COMPARED = 6_000
"""Items of a list whose pairs are compared; of a longer one that both sides have reordered, our order is kept."""


def ordered(base: Sequence[K], ours: Sequence[K], theirs: Sequence[K], *, kept: Collection[K]) -> list[K]:
    """Return the items that are kept in the order that both sides want where `agree` says that there is one, else in ours.

    Each sequence holds an item once. `kept` holds items of ours and of theirs only.
    """
    kept = set(kept)
    both = kept & set(ours) & set(theirs)
    common = [one for one in ours if one in both]
    wanted = _both_orders(
        [one for one in base if one in both], common, [one for one in theirs if one in both]
    )
    result: list[K] = []
    ours_after, theirs_after = _added_after(ours, both, kept), _added_after(theirs, both, kept)
    for anchor in (None, *(common if wanted is None else wanted)):
        if anchor is not None:
            result.append(anchor)
        # of two lists of new ones the same comes first whichever side it is on
        first, second = sorted((ours_after.get(anchor, []), theirs_after.get(anchor, [])), key=repr)
        result += [*first, *(one for one in second if one not in first)]
    return list(dict.fromkeys(result))


def agree(base: Sequence[K], ours: Sequence[K], theirs: Sequence[K]) -> bool:
    """Return whether what both sides did to the order of their common items can be done together."""
    both = set(ours) & set(theirs)
    return _both_orders(*([one for one in some if one in both] for some in (base, ours, theirs))) is not None


def _added_after(side: Sequence[K], common: Collection[K], kept: Collection[K]) -> dict[K | None, list[K]]:
    """Return what a side has that the other has not, by the common item before it; None is the beginning."""
    found: dict[K | None, list[K]] = {}
    anchor: K | None = None
    for one in side:
        if one in common:
            anchor = one
        elif one in kept:
            found.setdefault(anchor, []).append(one)
    return found


def _both_orders(base: list[K], ours: list[K], theirs: list[K]) -> list[K] | None:
    """Return the common items in the order that has what each side did, or None where they contradict one another."""
    if ours == theirs:
        return ours
    known = set(base)
    if [one for one in ours if one in known] == base and len(base) == len(ours):
        return theirs
    if [one for one in theirs if one in known] == base and len(base) == len(theirs):
        return ours
    if len(ours) > MOST_COMPARED or len(base) < len(ours):
        return None
    at = {one: number for number, one in enumerate(base)}
    mine, other = _flipped([at[one] for one in ours]), _flipped([at[one] for one in theirs])
    twice = _surely_moved(mine) & _surely_moved(other)
    if bool((mine[twice] != other[twice]).any()):
        return None
    upper = np.triu(np.ones_like(mine), 1)
    before = np.where(mine | other, ~upper, upper)
    np.fill_diagonal(before, False)
    # a full order of n items has one that comes before n - 1 others, one before n - 2, and so on
    wins = before.sum(axis=1)
    if len(set(wins.tolist())) < len(base):
        return None
    return [base[number] for number in np.argsort(-wins, kind="stable").tolist()]


def _flipped(order: list[int]) -> NDArray[np.bool_]:
    """Return for each pair of items, numbered as they stood, whether they now stand the other way round: n × n."""
    place = np.empty(len(order), dtype=np.int64)
    place[order] = np.arange(len(order))
    later = place[:, None] > place[None, :]
    upper = np.triu(np.ones_like(later), 1)
    flipped: NDArray[np.bool_] = np.where(upper, later, later.T)
    np.fill_diagonal(flipped, False)
    return flipped


def _surely_moved(flipped: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Return which items were moved themselves, past more others than any of these were: (n,).

    Of two neighbours that changed places either may have been moved, so neither is sure.
    """
    past = flipped.sum(axis=1)
    most_of_others = np.where(flipped, past[None, :], -1).max(axis=1, initial=-1)
    sure: NDArray[np.bool_] = past > np.maximum(most_of_others, 0)
    return sure
