"""`gatillo diff`: what differs between two levels, in sentences."""

from __future__ import annotations

from itertools import groupby
from pathlib import Path

from gatillo.cli.console import out, write_json
from gatillo.cli.levels import level_from
from gatillo.inspect.level_difference import Difference, level_differences


def print_difference(before: Path, after: Path, *, as_json: bool, as_markdown: bool) -> bool:
    """Print what differs between two level files; return whether anything does."""
    found = level_differences(level_from(before), level_from(after))
    if as_json:
        write_json([{"about": d.about, "sort": d.sort, "words": d.words} for d in found])
    elif as_markdown:
        out.print(as_page(found, before.name, after.name), markup=False)
    else:
        for about, some in groupby(found, lambda d: d.about):
            lines = [d.words for d in some]
            if len(lines) == 1:
                out.print(f"{about}: {lines[0]}", markup=False)
            else:
                out.print(f"{about}:", markup=False)
                for line in lines:
                    out.print(f"  {line}", markup=False)
    return bool(found)


def as_page(found: list[Difference], before: str, after: str) -> str:
    """Return differences as Markdown: a heading, and a list for each thing that differs."""
    lines = [f"# {before} → {after}", ""]
    if not found:
        lines.append("Nothing differs.")
    for about, some in groupby(found, lambda d: d.about):
        lines += [f"**{about}**", "", *(f"- {d.words}" for d in some), ""]
    return "\n".join(lines).rstrip()
