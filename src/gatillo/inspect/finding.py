"""What a check of a level finds, and how checks are declared."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import Literal

from gatillo.level.edits import set_slot
from gatillo.level.model import Level
from gatillo.level.naming import shortened
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.program.program import Program

Repair = Callable[[Level], Level]


@dataclass(frozen=True, slots=True)
class Finding:
    """Something that a check found: where, how severe, a sentence, and a repair where there is one."""

    severity: Literal["error", "warning"]
    """An error keeps a rule from running; a warning is probably not meant."""
    rule: str
    rule_id: int | None
    part: str
    line: int
    message: str
    repair_label: str = ""
    repair: Repair | None = None
    card: int = 0
    """Of a graph: at which of its cards."""

    @property
    def grave(self) -> bool:
        """Whether it is an error: a rule that cannot run."""
        return self.severity == "error"

    def sentence(self) -> str:
        """Return where it is and what it is, in one line."""
        sort = "" if self.rule_id is None else "graph " if self.part in ("card", "graph") else "rule "
        where = f"{sort}“{self.rule}”" if self.rule else "level"
        if self.card:
            where += f", card {self.card}"
        elif self.part and self.part != "graph":
            where += f", {self.part} {self.line + 1}"
        return shortened(
            f"{where}: {self.message}" + (f" ({self.repair_label})" if self.repair_label else "")
        )


Check = Callable[[Program], Iterable[Finding]]
CHECKS: list[Check] = []
"""All checks, in the order in which they were declared."""


def check(made: Check) -> Check:
    """Declare a check: what it yields is among the findings of every level. Checks run in the order in which they stand."""
    CHECKS.append(made)
    return made


def at_line(
    rule: CompiledRule, compiled: CompiledLine, message: str, label: str = "", repair: Repair | None = None
) -> Finding:
    """Return a warning at a line of a rule, or at the card of a graph that is the line."""
    if rule.graph is not None:
        # what is repaired is a rule's line
        card, way = rule.graph.place_of(rule.graph.number_of(compiled))
        part, line = rule.graph.line_of(card)
        if part != "card":
            return Finding("warning", rule.source.name, rule.source.id, part, line, way + message)
        return at_card(rule, card, way + message)
    return Finding(
        "warning", rule.source.name, rule.source.id, compiled.part, compiled.number, message, label, repair
    )


def at_card(rule: CompiledRule, card: int, message: str) -> Finding:
    """Return a warning at a card of a graph."""
    return Finding("warning", rule.source.name, rule.source.id, "card", 0, message, card=card)


def running(program: Program) -> list[CompiledRule]:
    """Return the rules and graphs that run."""
    return [rule for rule in program.rules if rule.runs]


def running_rules(program: Program) -> list[CompiledRule]:
    """Without graphs, whose cards do not stand below one another."""
    return [rule for rule in program.rules if rule.runs and rule.graph is None]


def slot_repair(rule: CompiledRule, compiled: CompiledLine, slot: str, text: str) -> Repair:
    """Return the repair that puts a text into a slot of a line."""
    rule_id, part, line = rule.source.id, compiled.part, compiled.number
    return lambda level: set_slot(level, rule_id, part, line, slot, text)
