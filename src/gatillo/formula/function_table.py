"""How functions of formulas are declared, and the table of all of them."""

from __future__ import annotations

import inspect
from collections.abc import Callable
from dataclasses import dataclass
from types import CodeType, FunctionType
from typing import Any, Literal, get_args

from gatillo.formula.frame import Frame
from gatillo.level.properties import PROPERTIES

Argument = Literal[
    "number",
    "yes/no",
    "text",
    "location",
    "role",
    "area",
    "route",
    "kind",
    "kind variable",
    "any",
    "same",
    "each of kind",
    "message",
    "timer",
    "item",
    "key",
    "rule",
    "card",
]
"""`each of kind` is a yes/no part in which the kind's name speaks of each of its objects in turn; `card` is the number of a
card of the graph named before it; the four before that and `rule`, a graph's, are names in double quotes."""


@dataclass(frozen=True, slots=True)
class Function:
    """A formula function: how it is written, what it takes and gives, and what it means."""

    name: str
    written: str
    arguments: tuple[Argument, ...]
    result: Literal["number", "yes/no", "text", "point", "same"]
    help: str
    compute: Callable[..., Any]
    repeats: bool = False
    """The last argument may be given any number of times."""
    reads: frozenset[str] = frozenset()
    """What of the run it reads by itself, derived from its code: `clock`, `chance`, `timer` … (frame.py)."""
    properties: tuple[str, ...] = ()
    """The properties that it reads of the objects it is given, derived from its code."""
    draws: bool = False
    """Whether it draws a random number for each place where it is in a formula."""

    @property
    def steady(self) -> bool:
        """Whether its value can change only when its arguments do."""
        return not self.reads


FUNCTIONS: dict[str, Function] = {}


def function(
    written: str,
    arguments: tuple[Argument, ...],
    result: Literal["number", "yes/no", "text", "point", "same"],
    help: str,
    *,
    repeats: bool = False,
) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Declare a formula function; `written` is how it is shown, e.g. `sin(a)`.

    What it reads follows from its code. Raises TypeError for a name that is taken, an unknown type of argument, or a
    computation that does not take these arguments.
    """

    def declare(compute: Callable[..., Any]) -> Callable[..., Any]:
        name = written.split("(")[0]
        if name in FUNCTIONS:
            raise TypeError(f"two formula functions are called {name}")
        unknown = set(arguments) - set(get_args(Argument))
        if unknown:
            raise TypeError(f"{name}: there is no argument of type {', '.join(sorted(unknown))}")
        code = compute.__code__
        takes, any_number = code.co_argcount - 1, bool(code.co_flags & inspect.CO_VARARGS)
        if not any_number and takes != sum(_TAKES.get(wanted, 1) for wanted in arguments):
            raise TypeError(f"{name} declares {len(arguments)} arguments, and its computation takes {takes}")
        used, words = _used_by(compute)
        reads = {what for one in used if (what := getattr(getattr(Frame, one), "__reads__", ""))}
        draws = "call" in code.co_varnames[: code.co_argcount + code.co_kwonlyargcount]
        if draws and "chance" not in reads:
            raise TypeError(f"{name} takes a call for its draws, and draws nothing")
        properties = tuple(
            dict.fromkeys(
                stored
                for word, made in PROPERTIES.items()
                if word in words and "role" in arguments
                for stored in (made.of or (word,))
            )
        )
        FUNCTIONS[name] = Function(
            name, written, arguments, result, help, compute, repeats, frozenset(reads), properties, draws
        )
        return compute

    return declare


_TAKES = {"kind variable": 2}
"""By type of argument: how many values its computation is given for it, where that is not one."""


def _used_by(compute: Callable[..., Any]) -> tuple[set[str], set[str]]:
    """Return the methods of the frame that a computation calls, also by way of other functions, and the texts in its code."""
    used: set[str] = set()
    words: set[str] = set()
    seen: set[FunctionType] = set()
    left = [compute]
    while left:
        function = left.pop()
        if not isinstance(function, FunctionType) or function in seen:
            continue
        seen.add(function)
        left += [cell.cell_contents for cell in function.__closure__ or ()]
        codes = [function.__code__]
        while codes:
            code = codes.pop()
            used.update(name for name in code.co_names if hasattr(Frame, name))
            words.update(one for one in code.co_consts if isinstance(one, str))
            codes += [one for one in code.co_consts if isinstance(one, CodeType)]
            called = (function.__globals__.get(name) for name in code.co_names)
            left += [one for one in called if isinstance(one, FunctionType) and one.__module__ == __name__]
    return used, words
