"""The page on which an order of firing is accepted: the difference first, then the question."""

from __future__ import annotations

from collections.abc import Callable

from gatillo.desk.session.page import Page
from gatillo.inspect.expectations import accepted, order_differences
from gatillo.level.expectations import SameOrder
from gatillo.level.model import Trial
from gatillo.sim.run.run import Run

ORDER = "The accepted order of firing"
MOST_LISTED = 60


def accept_page(run: Run, trial: Trial, accept: Callable[[SameOrder], object]) -> Page:
    """Return the page: how a run's order of firing differs from the one that its trial accepted, and an offer to accept it."""
    page = Page(ORDER)
    if run.done < run.length:
        page.notes.append("The run is not over yet. Ask again when it is.")
        return page
    before = next((one for one in trial.expectations if isinstance(one, SameOrder)), None)
    now = accepted(run)
    many = f"{len(now.firings):,} firing{'s' if len(now.firings) != 1 else ''}"
    if before is None:
        page.notes.append(f"“{trial.name}” has accepted no order yet. This run has {many}.")
        page.notes.append(
            "Once accepted, the trial fails when any firing is added, lost or comes at another time."
        )
    elif before.digest == now.digest and before.rate == now.rate:
        page.notes.append("The order of firing is the accepted one.")
        return page
    else:
        if before.rate != now.rate:
            page.notes.append(f"It was accepted at {before.rate} ticks a second; this run has {now.rate}.")
        lines = order_differences(before.firings, now.firings)
        gone = sum(line.startswith("−") for line in lines)
        page.notes.append(f"{gone} firings are gone (−), {len(lines) - gone} are new (+):")
        page.table = [("", "tick and rule"), *((line[:1], line[1:]) for line in lines[:MOST_LISTED])]
        if len(lines) > MOST_LISTED:
            page.notes.append(f"The first {MOST_LISTED} of {len(lines)} are listed.")
    page.also.append((f"Accept these {many}", lambda: accept(now)))
    return page
