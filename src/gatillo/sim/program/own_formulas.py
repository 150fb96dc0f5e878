"""Formulas about a single object of a kind: conditions of topics and menu entries, readouts, and which look is shown."""

from __future__ import annotations

from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula
from gatillo.formula.syntax import FormulaError
from gatillo.formula.template import compile_template
from gatillo.level.model import Kind, Readout
from gatillo.level.naming import token
from gatillo.level.roles import Index
from gatillo.sim.program.problems import Problem

CompiledLook = tuple[int, Formula]
"""The number of a kind, and the formula that gives the name of the look to show."""
CompiledReadout = tuple[int, int, Readout, Formula, Formula | None]
"""The number of a kind, the place among its readouts, the readout, and its compiled value and most."""


def about_itself(
    index: Index, kind: Kind, text: str, problems: list[Problem], part: str, line: int, slot: str = ""
) -> Formula | None:
    """Return a yes/no formula about an object, which it names by its kind; None, with a problem, if it is wrong.

    None without a problem if there is no text. `part`, `line` and `slot` say where the formula is.
    """
    if not text.strip():
        return None
    try:
        formula = compile_formula(index, text, "yes/no")
        if set(formula.roles) - {token(kind.name)}:
            raise FormulaError(f"this speaks of its own {kind.name} only", 0, 1)
    except FormulaError as error:
        problems.append(Problem(-1, kind.name, part, line, slot, error.message))
        return None
    return formula


def compiled_readouts(
    index: Index, kinds: tuple[Kind, ...], problems: list[Problem]
) -> tuple[CompiledReadout, ...]:
    """Return the readouts of all kinds; what is wrong with one goes into `problems`."""
    found: list[CompiledReadout] = []
    for at, kind in enumerate(kinds):
        for place, readout in enumerate(kind.readouts):
            try:
                most = None
                if readout.shows == "text":
                    value = compile_template(index, readout.value)
                else:
                    value = compile_formula(index, readout.value, "number")
                    most = compile_formula(index, readout.most, "number")
                for formula in (value, most):
                    if set(formula.roles if formula else ()) - {token(kind.name)}:
                        raise FormulaError(f"a readout speaks of its own {kind.name} only", 0, 1)
            except FormulaError as error:
                problems.append(Problem(-1, kind.name, "readout", place, "", error.message))
                continue
            found.append((at, place, readout, value, most))
    return tuple(found)


def compiled_looks(
    index: Index, kinds: tuple[Kind, ...], problems: list[Problem]
) -> tuple[CompiledLook, ...]:
    """Return the formulas by which kinds choose their look; what is wrong with one goes into `problems`."""
    found: list[CompiledLook] = []
    for at, kind in enumerate(kinds):
        if not kind.look.strip():
            continue
        try:
            formula = compile_formula(index, kind.look, "text")
            if set(formula.roles) - {token(kind.name)}:
                raise FormulaError(f"the look of {kind.name} speaks of its own {kind.name} only", 0, 1)
        except FormulaError as error:
            problems.append(Problem(-1, kind.name, "look", 0, "", error.message))
            continue
        found.append((at, formula))
    return tuple(found)
