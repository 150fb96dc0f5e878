"""Renaming things: the name is checked at once, and changed throughout the level."""

from __future__ import annotations

from collections.abc import Iterable

from gatillo.desk.session.selection import Selection, Thing
from gatillo.desk.session.workbench import Workbench
from gatillo.language.renaming import Sort, rename, uses
from gatillo.level.model import Level
from gatillo.level.naming import free_name_problem, name_problem
from gatillo.level.thing_edits import change_kind, follow_name


def take_name(
    bench: Workbench, sort: Sort, old: str, new: str, taken: Iterable[str], *, kind: str = ""
) -> str | None:
    """Rename a thing and follow it with the selection; a sentence if the name will not do."""
    free = sort in ("rule", "section", "trial", "variant", "topic", "clip", "message")
    problem = free_name_problem(new) if free else name_problem(new)
    if problem:
        return problem
    if new != old and new in set(taken):
        return f"“{new}” is taken; choose another name"
    level = rename(bench.level, sort, old, new, kind=kind)
    if sort == "kind":
        level = change_kind(level, new, lambda k: follow_name(k, old))
    selected = bench.selection.thing
    if selected is not None and selected.name == old and selected.sort == sort:
        bench.document.selection = Selection(thing=Thing(selected.sort, new))
    if sort == "trial" and bench.trial.name == old:
        bench.document.trial_name = new
    if sort == "trial":
        bench.takes.renamed(old, new)
    bench.edit(level, f"rename {old} to {new}")
    return None


def told_uses(level: Level, sort: Sort, name: str, *, kind: str = "", most: int = 4) -> str:
    """Return where a thing is spoken of, as the end of a sentence; empty if nowhere."""
    found = [use.where for use in uses(level, sort, name, kind=kind)]
    if not found:
        return ""
    more = f" and {len(found) - most} more" if len(found) > most else ""
    return ", ".join(found[:most]) + more


def delete_thing(bench: Workbench, sort: Sort, name: str, level: Level, *, kind: str = "") -> None:
    """Remove a thing, and say where it is still mentioned and what can be done."""
    used = told_uses(bench.level, sort, name, kind=kind)
    bench.select(Selection())
    bench.edit(level, f"delete {name}")
    if used:
        bench.notify(
            f"“{name}” is gone, but {used} still speak{'s' if ',' not in used and ' and ' not in used else ''} of it. "
            "Undo (Ctrl+Z) brings it back; otherwise correct the lines that have a finding."
        )
