"""Formulas as Python expressions over the world's columns, for one match: what `formula.compiling` makes of it, without arrays.

An expression speaks of the world as `world` and of the row of each role by a name that it is given. Where a formula has no
answer, its expression raises one of `NO_ANSWER`; the formula is then worked out as for many matches, which tells the fault.
Not all formulas have one: what draws at random, looks at all objects of a kind or reads the cards of a graph has none.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, NoReturn, get_args

from gatillo.formula.formula import PROPERTY_TYPES, Formula, column_key
from gatillo.formula.function_table import FUNCTIONS, Argument
from gatillo.formula.syntax import FormulaError, Node, parse
from gatillo.formula.values import half_open_degrees
from gatillo.kernels.mathematics import power
from gatillo.level.keys import KEYS, POINTER_KEYS
from gatillo.level.model import Area, Spot
from gatillo.level.properties import PROPERTIES
from gatillo.level.roles import Index, ValueType
from gatillo.sim.world.columns import COLUMNS
from gatillo.sim.world.world import World


class NoAnswer(ArithmeticError):
    """A part of a formula has no finite answer, or it says so itself."""


NO_ANSWER = (NoAnswer, ZeroDivisionError, OverflowError)


class NotWritten(Exception):
    """A formula has no expression for one match."""


class _Strict:
    """A frame for functions that read nothing of a run: what they report ends the expression."""

    n = 1
    active = True

    def fault(self, bad: Any, sentence: str) -> None:
        if bad:
            raise NoAnswer(sentence)


STRICT = _Strict()


def finite_number(value: Any) -> Any:
    """Return a number, or raise NoAnswer where it is infinite or none."""
    if value - value != 0:
        raise NoAnswer
    return value


def raised(base: Any, exponent: Any) -> float:
    """Return a power, or raise NoAnswer where it is not finite."""
    return float(finite_number(power(base, exponent)))


def present(world: World, object_id: int) -> int:
    """Return the id of an object, 0 (nobody) where it has been removed."""
    return object_id if world.row_of_id(int(object_id)) >= 0 else 0


def facing(world: World, row: int) -> float:
    """Return which way an object faces, in degrees above -180 up to 180."""
    turned: float = half_open_degrees(
        world.angle.item(row) + world.program.kind_tables.drawn_facing.item(world.kind.item(row))
    )
    return turned


HELPERS: dict[str, Any] = {
    "finite_number": finite_number,
    "raised": raised,
    "present": present,
    "facing": facing,
    "STRICT": STRICT,
}
"""What expressions call by name."""

_PLAIN = frozenset({"constant", "name", "member"})
_INFIX = {
    "+": "+",
    "-": "-",
    "*": "*",
    "/": "/",
    "=": "==",
    "<>": "!=",
    "<": "<",
    "<=": "<=",
    ">": ">",
    ">=": ">=",
}
_ASKED: dict[str, Callable[[list[str]], str]] = {
    "timer": lambda given: f"world.timer_seconds({given[0]})",
    "key_down": lambda given: f"({given[0]} in world.input.held)",
    "items": lambda given: f"world.items.get((world.id.item({given[0]}), {given[1]}), 0.0)",
    "facing": lambda given: f"facing(world, {given[0]})",
    "count": lambda given: f"float(len(world.rows_of_kind(world.program.kind_number[{given[0]}])))",
}
"""By function that asks something of the run: its expression."""
_VALUES: frozenset[str] = frozenset({"number", "yes/no", "text"})
_GIVEN = frozenset(get_args(Argument)) & {*_VALUES, "any", "same", "location"}
"""Types of arguments that are worked out before a function is called."""


@dataclass(slots=True)
class Writer:
    """Writes the expressions of one line; `row_of` gives the name of a role's row, `known` takes what they call."""

    index: Index
    row_of: Callable[[str], str]
    known: dict[str, Any] = field(default_factory=lambda: dict(HELPERS))

    def written(self, formula: Formula) -> str:
        """Return a formula's expression. Raises NotWritten."""
        if formula.constant is not None:
            return repr(formula.constant)
        if formula.given:
            self.refuse()
        try:
            tree = parse(formula.source)
        except FormulaError:
            self.refuse()
        kind, text = self.of(tree)
        if kind != formula.type:
            self.refuse()
        return text

    def refuse(self) -> NoReturn:
        """Say that there is no expression."""
        raise NotWritten

    def column(self, role: str, name: str) -> str:
        """Return what reads a property or variable of a role's object, by its column."""
        row = self.row_of(role)
        if name == "facing":
            return f"facing(world, {row})"
        if name == "name":
            return f"world.name_of(world.id.item({row}))"
        if name in COLUMNS:
            return f"world.{name}.item({row})"
        if name in PROPERTIES:
            self.refuse()
        return f"world.variables[{name!r}].item({row})"

    def of(self, node: Node) -> tuple[ValueType, str]:
        """Return type and expression of a part."""
        if node.op == "constant":
            kind = (
                "yes/no"
                if isinstance(node.value, bool)
                else "text"
                if isinstance(node.value, str)
                else "number"
            )
            return kind, repr(node.value)  # type: ignore[return-value]
        if node.op == "name":
            return self.name(node.name)
        if node.op == "member":
            return self.member(node)
        if node.op == "call":
            return self.call(node)
        parts = [self.of(part) for part in node.parts]
        texts = [text for _, text in parts]
        if node.op in ("and", "or"):
            return "yes/no", f"({f' {node.op} '.join(texts)})"
        if node.op == "not":
            return "yes/no", f"(not {texts[0]})"
        if any(kind == "point" for kind, _ in parts) or node.op == "point":
            self.refuse()
        if node.op == "negative":
            return "number", f"(-{texts[0]})"
        if node.op == "mod":
            return "number", f"(finite_number({texts[0]}) % finite_number({texts[1]}))"
        if node.op == "^":
            return "number", f"raised({texts[0]}, {texts[1]})"
        if node.op not in _INFIX:
            self.refuse()
        if node.op in "+-*/":
            if parts[0][0] != "number" or parts[1][0] != "number":
                # what stands somewhere, taken for the point at which it stands
                self.refuse()
            return "number", f"({texts[0]} {node.op} {texts[1]})"
        sides = [
            f"finite_number({text})" if kind == "number" and part.op not in _PLAIN else text
            for part, (kind, text) in zip(node.parts, parts, strict=True)
        ]
        return "yes/no", f"({sides[0]} {_INFIX[node.op]} {sides[1]})"

    def name(self, name: str) -> tuple[ValueType, str]:
        """Return what a single word is."""
        if name in ("time", "dt", "tick"):
            return "number", f"float(world.{name})"
        if name == "nobody":
            return "object", "0"
        if name not in self.index.role_tokens:
            self.refuse()
        return "object", f"world.id.item({self.row_of(name)})"

    def member(self, node: Node) -> tuple[ValueType, str]:
        """Return what a variable or coordinate is."""
        first, member = node.name, node.member
        if first == "level":
            kind = self.index.level_tokens[member]
            text = f"world.level[{member!r}]"
            return kind, f"present(world, {text})" if kind == "object" else text
        if first == "pointer":
            return "number", f"world.input.pointer_{member}"
        role = self.index.role_tokens.get(first)
        if role is not None:
            kind = PROPERTY_TYPES.get(member) or self.index.variable_type(role, member) or self.refuse()
            text = self.column(first, column_key(member, kind))
            return kind, f"present(world, {text})" if kind == "object" else text
        place = self.index.place_tokens.get(first)
        if not isinstance(place, Spot | Area):
            self.refuse()
        return "number", repr(float(place.x if member == "x" else place.y))

    def call(self, node: Node) -> tuple[ValueType, str]:
        """Return what calls a function."""
        if node.name == "if":
            (_, test), (of, then), (_, other) = map(self.of, node.parts)
            return of, f"({then} if {test} else {other})"
        declared = FUNCTIONS[node.name]
        wanted = [declared.arguments[min(at, len(declared.arguments) - 1)] for at in range(len(node.parts))]
        if node.name in _ASKED:
            named = zip(wanted, node.parts, strict=True)
            text = _ASKED[node.name]([self.named(what, part) for what, part in named])
            return declared.result, text  # type: ignore[return-value]
        if declared.result == "point" or declared.reads or declared.properties or not set(wanted) <= _GIVEN:
            self.refuse()
        kind: ValueType | None = None if declared.result == "same" else declared.result
        texts = []
        for what, part in zip(wanted, node.parts, strict=True):
            if what == "location":
                texts.append(self.location(part))
                continue
            of, text = self.of(part)
            kind = kind or of
            texts.append(text)
        self.known[f"call_{node.name}"] = declared.compute
        assert kind is not None
        as_kind = {"number": "float", "yes/no": "bool"}.get(kind, "str")
        return kind, f"{as_kind}(call_{node.name}(STRICT, {', '.join(texts)}))"

    def named(self, wanted: str, part: Node) -> str:
        """Return an argument that is a name: a role's row, or a text."""
        if wanted == "role":
            return self.row_of(part.name)
        if wanted == "kind":
            return repr(self.index.kind_tokens[part.name])
        if wanted == "key" and part.value not in (*KEYS, *POINTER_KEYS):
            self.refuse()
        return repr(part.value)

    def location(self, part: Node) -> str:
        """Return a pair of coordinates."""
        if part.op != "name":
            self.refuse()
        if part.name == "pointer":
            return "(world.input.pointer_x, world.input.pointer_y)"
        if part.name in self.index.role_tokens:
            return f"({self.column(part.name, 'x')}, {self.column(part.name, 'y')})"
        place = self.index.place_tokens.get(part.name)
        if not isinstance(place, Spot | Area):
            self.refuse()
        return f"({float(place.x)!r}, {float(place.y)!r})"
