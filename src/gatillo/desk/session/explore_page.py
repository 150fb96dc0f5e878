"""The answer to what happens if something else is pressed: input that breaks an expectation or ends in a fault."""

from __future__ import annotations

from collections.abc import Callable

from gatillo.desk.session.page import Page
from gatillo.inspect.exploring.exploring import Exploration, Explorer, kept_as_trial
from gatillo.inspect.exploring.scripts import input_lines
from gatillo.level.model import Level

EXPLORED = "What if something else is pressed?"
SECONDS = 60
"""How long is looked before it is said that nothing was found."""


def looking_page(explorer: Explorer) -> Page:
    """Return the page while it is looked."""
    page = Page(EXPLORED, _wanted(explorer), busy=True)
    page.notes.append(
        f"{explorer.tries} run{'s' if explorer.tries != 1 else ''} so far; {explorer.kept} scripts reached something new."
    )
    return page


def explored_page(
    level: Level, explorer: Explorer, result: Exploration, keep: Callable[[Level, str], object]
) -> Page:
    """Return the page of what came of it; `keep(level, name)` takes the level with what was found as a trial of that name."""
    page = Page(EXPLORED)
    if explorer.program.problems:
        page.notes = [
            "A rule of the level cannot run. Repair that first:",
            explorer.program.problems[0].sentence(),
        ]
        return page
    if not explorer.heard.anything:
        page.notes = ["The level listens to no key, no pointer and no choice, so there is nothing to try."]
        return page
    page.notes = _wanted(explorer)
    runs = f"{result.tries} run{'s' if result.tries != 1 else ''}"
    if result.found is None:
        page.notes.append(f"Nothing broke in {runs}, {SECONDS} s.")
        return page
    found = result.found
    page.notes.append(f"Broken after {runs}: {found.broken.words}.")
    page.notes.append(
        "It takes only this input:" if input_lines(found.input) else "It takes no input at all."
    )
    page.notes += [f"– {line}" for line in input_lines(found.input)]
    trial = next((t for t in level.trials if t.name == explorer.trial.name), None)
    if trial is not None:
        page.also.append(("Keep it as a trial", lambda: keep(*kept_as_trial(level, trial, found))))
    return page


def _wanted(explorer: Explorer) -> list[str]:
    wanted = explorer.trial.expectations
    if not wanted:
        return [
            f"No expectation of “{explorer.trial.name}” is marked “whatever is pressed” on the page of all trials, "
            "so only faults are looked for, and whether the level can be left stuck."
        ]
    return ["Looked for: input that breaks one of these, ends in a fault, or leaves the level stuck."] + [
        f"– {one.sentence()}" for one in wanted
    ]
