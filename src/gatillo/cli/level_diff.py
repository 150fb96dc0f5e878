"""`gatillo diff` and `gatillo merge`: what differs between two levels, in sentences, and two versions made one."""

from __future__ import annotations

from itertools import groupby
from pathlib import Path

from gatillo.cli.console import give_up, out, write_json
from gatillo.cli.levels import level_from
from gatillo.files.level_file import LevelFileError, write_level
from gatillo.inspect.level_difference import Difference, level_differences
from gatillo.inspect.merging.levels import merge
from gatillo.inspect.merging.settling import questions
from gatillo.level.model import FORMAT_VERSION, Level


def print_difference(before: Path, after: Path, *, as_json: bool, as_markdown: bool) -> bool:
    """Print what differs between two level files; return whether anything does."""
    found = level_differences(level_from(before), level_from(after))
    if as_json:
        write_json([{"about": d.about, "sort": d.sort, "words": d.words} for d in found])
    elif as_markdown:
        out.print(as_page(found, before.name, after.name), markup=False)
    else:
        for line in as_lines(found):
            out.print(line, markup=False)
    return bool(found)


def as_lines(found: list[Difference]) -> list[str]:
    """Return differences as lines of text, those of one thing together."""
    lines: list[str] = []
    for about, some in groupby(found, lambda d: d.about):
        words = [d.words for d in some]
        lines += (
            [f"{about}: {words[0]}"] if len(words) == 1 else [f"{about}:", *(f"  {one}" for one in words)]
        )
    return lines


def as_page(found: list[Difference], before: str, after: str) -> str:
    """Return differences as Markdown: a heading, and a list for each thing that differs."""
    lines = [f"# {before} → {after}", ""]
    if not found:
        lines.append("Nothing differs.")
    for about, some in groupby(found, lambda d: d.about):
        lines += [f"**{about}**", "", *(f"- {d.words}" for d in some), ""]
    return "\n".join(lines).rstrip()


def merge_files(base: Path, ours: Path, theirs: Path, result: Path) -> list[str]:
    """Write two versions of a level merged; return what is to be settled, a sentence for each.

    An empty base stands for none: both versions are new.
    """
    merged = merge(_base_from(base), level_from(ours), level_from(theirs))
    try:
        write_level(result, merged)
    except LevelFileError as error:
        give_up(str(error))
    return [one.sentence() for one in questions(merged)]


def _base_from(path: Path) -> Level:
    try:
        empty = path.stat().st_size == 0
    except OSError:
        empty = False
    return Level(format=FORMAT_VERSION, name="") if empty else level_from(path)
