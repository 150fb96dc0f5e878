"""Levels and trials that a command is asked about."""

from __future__ import annotations

from pathlib import Path

from gatillo.cli.console import give_up
from gatillo.files.level_file import LevelFileError, read_level
from gatillo.level.model import Level, Trial


def level_from(path: Path) -> Level:
    """The level in a file, or an exit with a sentence."""
    try:
        return read_level(path)
    except LevelFileError as error:
        give_up(str(error))


def trial_from(level: Level, name: str | None) -> Trial:
    """The trial of that name, or the first; or an exit with a sentence."""
    if not level.trials:
        give_up(f"“{level.name}” has no trial to run")
    if name is None:
        return level.trials[0]
    found = next((t for t in level.trials if t.name == name), None)
    if found is None:
        give_up(f"“{level.name}” has no trial “{name}”; it has: {', '.join(t.name for t in level.trials)}")
    return found
