"""Writing runs and rules in formats for other programs and for people."""

from __future__ import annotations

import contextlib
import csv
import json
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, TextIO

from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.value_words import as_cell
from gatillo.inspect.watching import Unanswered, follow
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import WAY_WORDS, Did, Fault, Way


def _records(run: Run) -> Iterator[dict[str, object]]:
    """Everything of a run that is exported, in its order: firings, then faults, notes and watched values of each tick."""
    program = run.program
    messages = list(program.messages)
    faults: dict[int, list[Fault]] = {}
    for fault in run.trace.faults:
        faults.setdefault(fault.tick, []).append(fault)
    notes: dict[int, list[str]] = {}
    for tick, text in run.trace.notes:
        notes.setdefault(tick, []).append(text)
    watched = _watched(run)
    yield from _watches_at(run, watched, 0)
    for tick in range(1, run.done + 1):
        yield from _firings_at(run, tick, messages)
        yield from _cards_at(run, tick)
        when: dict[str, object] = {"tick": tick, "time": round(tick / program.rate, 6)}
        for fault in faults.get(tick, ()):
            of = program.rules[fault.rule_index].source.name if fault.rule_index >= 0 else ""
            yield {
                **when,
                "rule": of,
                "way": "fault",
                "part": fault.part,
                "line": fault.number,
                "count": fault.count,
                "text": fault.sentence,
            }
        for text in notes.get(tick, ()):
            yield {**when, "rule": "", "way": "note", "text": text}
        yield from _watches_at(run, watched, tick)


def _watched(run: Run) -> dict[str, list[Any]]:
    """Return the values of each watch at the end of every tick; watches without a valid formula are left out."""
    formulas: dict[str, Formula] = {}
    for text in run.trial.watches:
        with contextlib.suppress(FormulaError):
            formulas[text] = compile_formula(run.program.index, text)
    return dict(zip(formulas, follow(run, list(formulas.values())), strict=True))


def _watches_at(run: Run, watched: dict[str, list[Any]], tick: int) -> Iterator[dict[str, object]]:
    """Yield the watches whose value has changed at a tick; all of them at tick 0."""
    for text, values in watched.items():
        value = values[tick]
        if tick and _plain(values[tick - 1]) == _plain(value):
            continue
        yield {
            "tick": tick,
            "time": round(tick / run.program.rate, 6),
            "rule": "",
            "way": "watch",
            "watch": text,
            "value": _plain(value),
        }


def _plain(value: Any) -> Any:
    if isinstance(value, complex):
        return [value.real, value.imag]
    return None if isinstance(value, Unanswered) else value


def _firings_at(run: Run, tick: int, messages: list[str]) -> Iterator[dict[str, object]]:
    program = run.program
    effects = run.trace.effects_at(tick)
    for firing in run.trace.firings_at(tick):
        done: dict[str, list[object]] = {}
        for position, did, number in effects:
            if position != firing.position:
                continue
            what: object = number
            if did is Did.WROTE:
                what = ".".join(program.tick_tables.written[number])
            elif did is Did.SENT:
                what = messages[number]
            done.setdefault(did.name.lower(), []).append(what)
        yield {
            "tick": tick,
            "time": round(tick / program.rate, 6),
            "position": firing.position,
            "rule": program.rules[firing.rule_index].source.name,
            "order": firing.rule_index + 1,
            "matches": firing.matches,
            "way": WAY_WORDS[firing.way],
            "fault": firing.faulted,
            **done,
        }


def _cards_at(run: Run, tick: int) -> Iterator[dict[str, object]]:
    """The cards of graphs that ran in a tick, in their order; `position` is that of the firing that they are part of, or led to nothing before."""
    for ran in run.trace.cards_at(tick):
        rule = run.program.rules[ran.rule_index]
        assert rule.graph is not None
        if rule.graph.drawn is not None:
            # a rule that speaks of own nodes has lines, not cards
            continue
        card, way = rule.graph.place_of(ran.card)
        yield {
            "tick": tick,
            "time": round(tick / run.program.rate, 6),
            "position": ran.firings + 1,
            "rule": rule.source.name,
            "order": ran.rule_index + 1,
            "matches": ran.matches,
            "way": "card",
            "step": ran.step,
            "card": card,
            **({"within": way.removesuffix(": ")} if way else {}),
        }


Writer = Callable[[Run, TextIO], None]
WRITERS: dict[str, Writer] = {}
"""By the ending of a file's name: what writes a trace into it."""


def writes(ending: str) -> Callable[[Writer], Writer]:
    """Declare a format of traces: `write(run, out)` writes one into a text file."""

    def declare(write: Writer) -> Writer:
        WRITERS[ending] = write
        return write

    return declare


def write_trace(run: Run, path: Path) -> None:
    """Write a run's firings; the name's ending says how: .jsonl, .csv or .vcd.

    Raises ValueError for another ending, OSError when the file cannot be written.
    """
    writer = WRITERS.get(path.suffix.lower())
    if writer is None:
        raise ValueError(f"a trace is written as {', '.join(WRITERS)}; “{path.name}” ends otherwise")
    with path.open("w", encoding="utf-8", newline="") as out:
        writer(run, out)


@writes(".jsonl")
def _jsonl(run: Run, out: TextIO) -> None:
    head = {
        "level": run.program.level.name,
        "trial": run.trial.name,
        "rate": run.program.rate,
        "seed": run.trial.seed,
        "ticks": run.done,
        "digest": run.trace.digest(),
    }
    out.write(json.dumps(head, ensure_ascii=False) + "\n")
    for record in _records(run):
        out.write(json.dumps(record, ensure_ascii=False) + "\n")


@writes(".csv")
def _csv(run: Run, out: TextIO) -> None:
    fields = [
        "tick",
        "time",
        "position",
        "order",
        "rule",
        "matches",
        "way",
        "fault",
        "wrote",
        "created",
        "removed",
        "sent",
        "waits",
        "step",
        "card",
        "within",
        "part",
        "line",
        "count",
        "text",
        "watch",
        "value",
    ]
    writer = csv.DictWriter(out, fields)
    writer.writeheader()
    for record in _records(run):
        cells = {k: "; ".join(map(str, v)) if isinstance(v, list) else v for k, v in record.items()}
        writer.writerow({k: as_cell(v) if isinstance(v, str) else v for k, v in cells.items()})


_VCD_SAYS = """
For each rule a scope with three numbers: for how many matches it fired in a tick by “do”, by “else”, and went on
after a wait (resumed). A graph has one more for each of its cards: how many matches came to it. The number of ticks in which a rule faults is in fault. Watches are reals, yes/no as 1 and 0; a
watch without an answer is 0. Notes stand as comments at their time. One time step is a nanosecond.
"""


@writes(".vcd")
def _vcd(run: Run, out: TextIO) -> None:
    """Value change dump (IEEE 1364-2005, clause 18): for each rule, the matches it fired for in a tick, by how it came about."""
    program = run.program
    ways = (*Way, _FAULT)
    codes: dict[tuple[int, Way | str], str] = {
        (rule.index, way): _vcd_code(rule.index * len(ways) + at)
        for rule in program.rules
        for at, way in enumerate(ways)
    }
    cards: dict[tuple[int, Way | str], str] = {
        (rule.index, _card(number)): _vcd_code(len(codes) + at)
        for at, (rule, number) in enumerate(
            (rule, number) for rule in program.rules for number in _cards_of(rule)
        )
    }
    codes.update(cards)
    watched = {
        text: v for text, v in _watched(run).items() if not any(isinstance(x, str | complex) for x in v)
    }
    watch_codes = {text: _vcd_code(len(codes) + at) for at, text in enumerate(watched)}
    nanoseconds = 1_000_000_000 / program.rate
    out.write(f"$comment {_VCD_SAYS}$end\n$timescale 1 ns $end\n$scope module rules $end\n")
    for rule in program.rules:
        out.write(f"$scope module r{rule.index + 1}_{_vcd_name(rule.source.name)} $end\n")
        for way in ways:
            name = WAY_WORDS[way] if isinstance(way, Way) else way
            out.write(f"$var integer 32 {codes[rule.index, way]} {name} $end\n")
        for number in _cards_of(rule):
            out.write(f"$var integer 32 {codes[rule.index, _card(number)]} {_card(number)} $end\n")
        out.write("$upscope $end\n")
    out.write("$upscope $end\n$scope module watches $end\n")
    for at, text in enumerate(watched):
        out.write(f"$var real 64 {watch_codes[text]} w{at + 1}_{_vcd_name(text)} $end\n")
    out.write("$upscope $end\n$enddefinitions $end\n#0\n$dumpvars\n")
    out.writelines(f"b0 {code}\n" for code in codes.values())
    out.writelines(f"r{_vcd_real(watched[text][0])} {code}\n" for text, code in watch_codes.items())
    out.write("$end\n")
    notes: dict[int, list[str]] = {}
    for tick, text in run.trace.notes:
        notes.setdefault(tick, []).append(text)
    faults: dict[int, dict[int, int]] = {}
    for fault in run.trace.faults:
        if fault.rule_index >= 0:
            here = faults.setdefault(fault.tick, {})
            here[fault.rule_index] = here.get(fault.rule_index, 0) + fault.count
    before: dict[tuple[int, Way | str], int] = {}
    for tick in range(1, run.done + 1):
        now: dict[tuple[int, Way | str], int] = {}
        for firing in run.trace.firings_at(tick):
            now[firing.rule_index, firing.way] = now.get((firing.rule_index, firing.way), 0) + firing.matches
        for ran in run.trace.cards_at(tick):
            key = (ran.rule_index, _card(ran.card))
            if key in cards:
                now[key] = now.get(key, 0) + ran.matches
        for position, count in faults.get(tick, {}).items():
            now[position, _FAULT] = count
        lines = [
            f"b{now.get(key, 0):b} {codes[key]}\n"
            for key in sorted({*before, *now}, key=str)
            if before.get(key, 0) != now.get(key, 0)
        ]
        lines += [
            f"r{_vcd_real(v[tick])} {watch_codes[text]}\n"
            for text, v in watched.items()
            if _vcd_real(v[tick]) != _vcd_real(v[tick - 1])
        ]
        lines += [f"$comment note: {_vcd_words(text)} $end\n" for text in notes.get(tick, ())]
        if lines:
            out.write(f"#{round(tick * nanoseconds)}\n")
            out.writelines(lines)
        before = now
    out.write(f"#{round((run.done + 1) * nanoseconds)}\n")


_FAULT = "fault"


def _card(number: int) -> str:
    return f"card_{number}"


def _cards_of(rule: CompiledRule) -> list[int]:
    """Return the cards of a graph that matches come to, without those within own nodes."""
    graph = rule.graph
    if graph is None or graph.drawn is not None:
        return []
    return [
        n for n, c in graph.cards.items() if n not in graph.origins and (c.ports.inputs or c.ports.outputs)
    ]


def _vcd_name(text: str) -> str:
    return "".join(c if c.isalnum() and c.isascii() else "_" for c in text)[:60]


def _vcd_words(text: str) -> str:
    return " ".join(text.replace("$", "＄").split())


def _vcd_real(value: Any) -> str:
    return f"{float(value):.16g}" if isinstance(value, bool | int | float) else "0"


def _vcd_code(number: int) -> str:
    """Return a short printable identifier, characters ! to ~."""
    code = ""
    while True:
        number, digit = divmod(number, 94)
        code += chr(33 + digit)
        if not number:
            return code
