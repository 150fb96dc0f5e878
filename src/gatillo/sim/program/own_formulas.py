"""Formulas about a single object: conditions of topics and menu entries, readouts, looks, and stops of routes."""

from __future__ import annotations

from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula
from gatillo.formula.syntax import FormulaError
from gatillo.formula.template import compile_template
from gatillo.level.model import Kind, Readout
from gatillo.level.naming import is_point_formula, token
from gatillo.level.roles import Index
from gatillo.sim.program.problems import Problem

CompiledLook = tuple[int, Formula]
"""The number of a kind, and the formula that gives the name of the look to show."""
MovingStop = tuple[int, Formula]
"""The place of a stop in its route, from 0, and the formula that gives its point."""
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


def moving_stops(index: Index, problems: list[Problem]) -> dict[int, tuple[MovingStop, ...]]:
    """Return the stops of routes that are where a formula says, by number of the route.

    A formula may speak of single objects, and of what walks there by its kind. What is wrong with one goes into `problems`.
    """
    found: dict[int, tuple[MovingStop, ...]] = {}
    for number, route in enumerate(index.routes.values()):
        for at, stop in enumerate(route.stops):
            text = stop.where.strip()
            if not text:
                continue
            name = text if is_point_formula(text) else token(text)
            try:
                # what stands somewhere counts as its point where a point is added
                formula = compile_formula(index, f"{name} + (0, 0)", "point")
                several = [r for r in formula.roles if index.role_tokens[r].source not in ("kind", "object")]
                if several:
                    raise FormulaError(f"“{several[0]}” may be several objects; name one", 0, 1)
            except FormulaError as error:
                problems.append(Problem(-1, route.name, "stop", at, "", error.message))
                continue
            found[number] = (*found.get(number, ()), (at, formula))
    return found
