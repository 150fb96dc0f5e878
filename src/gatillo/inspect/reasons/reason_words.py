"""Words for moments, firings and lines, with the names of the objects that they are about."""

from __future__ import annotations

import re

from gatillo.formula.formula import Formula
from gatillo.inspect.reasons.instruments import Match
from gatillo.language.binding import RoleArgument, VariableArgument, WhereArgument
from gatillo.language.sentence import pieces, sentence
from gatillo.level.naming import spoken
from gatillo.sim.program.compiled_line import CompiledLine
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.run.run import Run
from gatillo.sim.world.world import FIRST_CREATED_ID, World


def seconds(run: Run, tick: int) -> str:
    """Return the time of a tick in words."""
    return f"{tick / run.program.rate:.3f} s"


def ordinal(n: int) -> str:
    """Return a number as an ordinal: 1st, 2nd, 3rd, 4th."""
    ending = "th" if 10 <= n % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(n % 10, "th")
    return f"{n}{ending}"


def called(run: Run, object_id: int, world: World | None = None) -> str:
    """Return what an object is called, whether it is still there or not."""
    program = run.program
    if object_id in program.names:
        return program.names[object_id]
    for one in (world, run.world):
        if one is not None and object_id in one.created_of:
            return one.name_of(object_id)
    return f"+{object_id - FIRST_CREATED_ID + 1}"


def for_whom(run: Run, match: Match, world: World | None = None) -> str:
    """Return the objects of a match, each once."""
    return ", ".join(called(run, i, world) for i in dict.fromkeys(match.values()))


def line_words(run: Run, line: CompiledLine, match: Match, world: World | None = None) -> str:
    """Return a line's sentence with the objects of a match in the places of its roles."""
    if line.clause is None:
        return spoken(line.entry.name)
    found = []
    for piece in pieces(line.clause, alone=True):
        argument = line.arguments.get(piece.slot) if piece.slot else None
        words = piece.text
        if isinstance(argument, RoleArgument):
            words = (
                called(run, match[argument.role.token], world)
                if argument.role.token in match
                else argument.role.text
            )
        elif isinstance(argument, VariableArgument) and argument.role is not None:
            if argument.role.token in match:
                words = f"{called(run, match[argument.role.token], world)}.{argument.name}"
        elif isinstance(argument, WhereArgument):
            if (
                len(argument.roles) == 1
                and argument.roles[0] in match
                and words == run.program.roles[argument.roles[0]].text
            ):
                words = called(run, match[argument.roles[0]], world)
        elif isinstance(argument, Formula) and piece.sort == "value":
            words = formula_words(run, argument, match, world)
        found.append(words)
    whole = "".join(found)
    if line.of and line.entry.holds == "conditions":
        whole += f" ({'; '.join(sentence(inner.clause) for inner in line.of if inner.clause is not None)})"
    return whole


def formula_words(run: Run, formula: Formula, match: Match, world: World | None = None) -> str:
    """Return a formula with the objects of a match in the places of its roles."""
    words = formula.source.strip()
    for role in sorted(formula.roles, key=len, reverse=True):
        if role in match:
            words = re.sub(rf"\b{re.escape(role)}\b", called(run, match[role], world), words)
    return words


def place_words(run: Run, rule: CompiledRule, part: str, line: int, card: int) -> str:
    """Return where a line is in its rule or graph."""
    if rule.graph is not None and card:
        if rule.graph.drawn is None:
            number, way = rule.graph.place_of(card)
            return f"card {number}" + (f" ({way.removesuffix(': ')})" if way else "")
        part, line = rule.graph.line_of(card)
    names = {"when": "occasion", "if": "condition", "do": "action", "else": "else"}
    return f"{names.get(part, part)} {line + 1}"


def quoted(name: str) -> str:
    """Return a rule's name as it stands in a sentence."""
    return f"“{name}”"
