"""The page itself: one file without anything from elsewhere, texts of the level escaped, and nothing else allowed in it."""

from __future__ import annotations

import base64
import hashlib
from collections.abc import Sequence
from functools import cache
from importlib import resources

import msgspec
from jinja2 import Environment, StrictUndefined

from gatillo.files.run_page.run_data import run_data
from gatillo.inspect.comparison import compare
from gatillo.inspect.expectations import Verdict
from gatillo.level.model import Level
from gatillo.sim.run.run import Run


def run_page(
    level: Level,
    run: Run,
    beside: Run | None = None,
    label: str = "",
    verdicts: Sequence[Verdict] | None = None,
) -> str:
    """Return a run of a level as a page in HTML. With another run beside it, both are shown, and which firings only one has.

    `verdicts` are those of the run where they are known; else it is run once more to judge it.
    """
    runs = [run_data(run, level, verdicts), *([run_data(beside)] if beside is not None else [])]
    data = {"runs": runs, "beside": label}
    words = compare(beside, run).words() if beside is not None else ""
    script, style = _part("run.js"), _part("run.css")
    return (
        _environment()
        .from_string(_part("run.html"))
        .render(
            level=level,
            trial=run.trial,
            rate=run.program.rate,
            words=words,
            label=label,
            data=_as_script(data),
            script=script,
            style=style,
            script_hash=_digest(script),
            style_hash=_digest(style),
        )
    )


@cache
def _environment() -> Environment:
    return Environment(autoescape=True, undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True)


@cache
def _part(name: str) -> str:
    return resources.files("gatillo.files.run_page").joinpath(name).read_text(encoding="utf-8")


def _digest(text: str) -> str:
    """Return what a content security policy names a text by."""
    return "sha256-" + base64.b64encode(hashlib.sha256(text.encode()).digest()).decode()


def _as_script(data: object) -> str:
    """Return data as JSON that can stand in a script element: nothing in it can end the element or begin a comment."""
    text = msgspec.json.encode(data).decode()
    for mark in "<>&\u2028\u2029":
        text = text.replace(mark, f"\\u{ord(mark):04x}")
    return text
