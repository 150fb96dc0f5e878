"""Levels and trials that a command is asked about."""

from __future__ import annotations

from pathlib import Path

from gatillo.cli.console import give_up
from gatillo.files.level_file import LevelFileError, read_level
from gatillo.level.model import Graph, Level, Trial
from gatillo.level.roles import all_logic


def level_from(path: Path) -> Level:
    """Return the level in a file, or an exit with a sentence."""
    try:
        return read_level(path)
    except LevelFileError as error:
        give_up(str(error))


def graph_from(level: Level, name: str) -> Graph:
    """Return the graph of that name, or an exit with a sentence."""
    graphs = [entry for _, _, entry in all_logic(level) if isinstance(entry, Graph)]
    found = next((graph for graph in graphs if graph.name == name), None)
    if found is None:
        there = ", ".join(f"“{graph.name}”" for graph in graphs) or "none"
        give_up(f"“{level.name}” has no graph “{name}”; it has: {there}")
    return found


def trial_from(level: Level, name: str | None) -> Trial:
    """Return the trial of that name, or the first; or an exit with a sentence."""
    if not level.trials:
        give_up(f"“{level.name}” has no trial to run")
    if name is None:
        return level.trials[0]
    found = next((t for t in level.trials if t.name == name), None)
    if found is None:
        give_up(f"“{level.name}” has no trial “{name}”; it has: {', '.join(t.name for t in level.trials)}")
    return found
