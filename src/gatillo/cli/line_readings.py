"""`gatillo read`: what typed lines mean against a level, as the window would offer it."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from gatillo.catalogue.declare.entry import CATALOGUE, Entry
from gatillo.cli.console import give_up, out, write_json
from gatillo.cli.levels import level_from
from gatillo.language.answers import notes
from gatillo.language.reading import Reading
from gatillo.language.rule_lines import read_line
from gatillo.language.sentence import sentence
from gatillo.level.edits import Part
from gatillo.level.model import Clause
from gatillo.level.roles import Index

PARTS: tuple[Part, ...] = ("when", "if", "do", "else")
SHOWN = 5


def print_readings(file: Path, lines: list[str], part: str, as_json: bool) -> bool:
    """Print the readings of lines, best first. Return whether each line has one."""
    if part and part not in PARTS:
        give_up(f"“{part}” is no part of a rule; --part is one of: {', '.join(PARTS)}")
    index = Index(level_from(file))
    parts: tuple[Part, ...] = tuple(p for p in PARTS if p == part) or ("when", "if", "do")
    read = [(line, read_line(index, line, parts) if line.strip() else []) for line in lines]
    if as_json:
        found = [{"line": line, "readings": [_record(index, one) for one in all_]} for line, all_ in read]
        write_json(found)
    else:
        for line, all_ in read:
            _print(index, line, all_)
    return all(all_ for _, all_ in read)


def _print(index: Index, line: str, found: list[Reading]) -> None:
    out.print(line, markup=False)
    if not found:
        out.print("  no sentence matches this")
    for number, reading in enumerate(found[:SHOWN], 1):
        words = [f"{one.label} {sentence(one.clause)}" for one in reading.all_lines]
        out.print(f"  {number}  " + "\n     ".join(words), markup=False)
        for note in notes(index, reading):
            out.print(f"     ({note.text})", markup=False)


def _record(index: Index, reading: Reading) -> dict[str, Any]:
    made: dict[str, Any] = (
        {"lines": [_clause(one) for one in reading.lines]} if reading.lines else _clause(reading)
    )
    return made | {
        "sentence": "; ".join(sentence(one.clause) for one in reading.all_lines),
        "rule": dict(reading.rule),
        "unread": list(reading.all_unread),
        "offers": [
            {
                "slot": offer.slot,
                "typed": offer.typed,
                "nearest": offer.nearest(index, one.entry),
                "make": offer.make,
            }
            for one in reading.all_lines
            for offer in one.offers
        ],
    }


def _clause(reading: Reading) -> dict[str, Any]:
    return {"part": reading.part, **_written(reading.clause, reading.entry)}


def _written(clause: Clause, entry: Entry) -> dict[str, Any]:
    filled = {name: clause.slots.get(name, slot.default) for name, slot in entry.slots.items()}
    made = {
        "entry": clause.use,
        "negated": clause.negated,
        "slots": {name: text for name, text in filled.items() if text},
    }
    # the conditions of a group
    within = [_written(inner, CATALOGUE[inner.use]) for inner in clause.of]
    return made | ({"of": within} if within else {})
