"""Writing runs and rules in formats for other programs and for people."""

from __future__ import annotations

import csv
import json
from collections.abc import Iterator
from pathlib import Path
from typing import TextIO

from gatillo.catalogue.sentence import expectation_sentence, mode_words, sentence
from gatillo.level.model import Level, Rule, Section
from gatillo.sim.run import Run
from gatillo.sim.trace import Did, Way

_WAYS = {Way.DO: "do", Way.ELSE: "else", Way.RESUMED: "resumed"}


def _records(run: Run) -> Iterator[dict[str, object]]:
    program = run.program
    messages = list(program.messages)
    for tick in range(1, run.done + 1):
        deeds = run.trace.deeds_at(tick)
        for firing in run.trace.firings_at(tick):
            done: dict[str, list[object]] = {}
            for position, did, number in deeds:
                if position != firing.position:
                    continue
                what: object = number
                if did is Did.WROTE:
                    what = ".".join(program.written[number])
                elif did is Did.SENT:
                    what = messages[number]
                done.setdefault(did.name.lower(), []).append(what)
            yield {
                "tick": tick,
                "time": round(tick / program.rate, 6),
                "position": firing.position,
                "rule": program.turns[firing.turn].rule.name,
                "order": firing.turn + 1,
                "matches": firing.matches,
                "way": _WAYS[firing.way],
                "fault": firing.faulted,
                **done,
            }


def write_trace(run: Run, path: Path) -> None:
    """Write a run's firings; the name's ending says how: .jsonl, .csv or .vcd.

    Raises ValueError for another ending, OSError when the file cannot be written.
    """
    writers = {".jsonl": _jsonl, ".csv": _csv, ".vcd": _vcd}
    writer = writers.get(path.suffix.lower())
    if writer is None:
        raise ValueError(f"a trace is written as {', '.join(writers)}; “{path.name}” ends otherwise")
    with path.open("w", encoding="utf-8", newline="") as out:
        writer(run, out)


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
    ]
    writer = csv.DictWriter(out, fields)
    writer.writeheader()
    for record in _records(run):
        writer.writerow({k: "; ".join(map(str, v)) if isinstance(v, list) else v for k, v in record.items()})


def _vcd(run: Run, out: TextIO) -> None:
    """Value change dump (IEEE 1364-2005, clause 18): for each rule, the matches it fired for in a tick."""
    program = run.program
    codes = {turn.position: _vcd_code(turn.position) for turn in program.turns}
    nanoseconds = 1_000_000_000 / program.rate
    out.write("$timescale 1 ns $end\n$scope module rules $end\n")
    for turn in program.turns:
        name = "".join(c if c.isalnum() and c.isascii() else "_" for c in turn.rule.name)
        out.write(f"$var integer 32 {codes[turn.position]} r{turn.position + 1}_{name} $end\n")
    out.write("$upscope $end\n$enddefinitions $end\n#0\n$dumpvars\n")
    out.writelines(f"b0 {code}\n" for code in codes.values())
    out.write("$end\n")
    before: dict[int, int] = {}
    for tick in range(1, run.done + 1):
        now: dict[int, int] = {}
        for firing in run.trace.firings_at(tick):
            now[firing.turn] = now.get(firing.turn, 0) + firing.matches
        changed = {
            turn: now.get(turn, 0) for turn in {*before, *now} if before.get(turn, 0) != now.get(turn, 0)
        }
        if changed:
            out.write(f"#{round(tick * nanoseconds)}\n")
            out.writelines(f"b{count:b} {codes[turn]}\n" for turn, count in sorted(changed.items()))
        before = now
    out.write(f"#{round((run.done + 1) * nanoseconds)}\n")


def _vcd_code(number: int) -> str:
    """A short printable identifier, characters ! to ~."""
    code = ""
    while True:
        number, digit = divmod(number, 94)
        code += chr(33 + digit)
        if not number:
            return code


def as_markdown(level: Level) -> str:
    """The rules of a level as readable Markdown, in their order, with what its trials expect."""
    lines = [f"# {level.name}", ""]
    if level.note:
        lines += [level.note, ""]
    number = 0
    for entry in level.order:
        if isinstance(entry, Section):
            lines += [f"## {entry.name}" + ("" if entry.on else " (switched off)"), ""]
            if entry.note:
                lines += [entry.note, ""]
        for rule in entry.rules if isinstance(entry, Section) else (entry,):
            number += 1
            lines += _rule_lines(number, rule)
    for trial in level.trials:
        lines += [f"## Trial: {trial.name}", "", f"{trial.length:g} s, seed {trial.seed}.", ""]
        lines += [f"- {expectation_sentence(e)}" for e in trial.expectations]
        lines.append("")
    return "\n".join(lines).rstrip() + "\n"


def _rule_lines(number: int, rule: Rule) -> list[str]:
    mode = mode_words(rule)
    lines = [
        f"{number}. **{rule.name}**" + ("" if rule.on else " (switched off)") + (f" — {mode}" if mode else "")
    ]
    for label, clauses in (("when", rule.when), ("if", rule.if_)):
        for at, clause in enumerate(clauses):
            word = label if at == 0 else {"when": "or when", "if": "and"}[label]
            lines.append(f"   - *{word}* {sentence(clause)}")
    for label, clauses in (("do", rule.do), ("else", rule.else_)):
        lines += [f"   - *{label}* {at}. {sentence(clause)}" for at, clause in enumerate(clauses, 1)]
    if rule.note:
        lines.append(f"   - {rule.note}")
    return [*lines, ""]
