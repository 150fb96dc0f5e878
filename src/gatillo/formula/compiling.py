"""Checking a formula against a level and compiling it to array code.

Checking and compiling are one walk: what cannot be compiled is refused with a sentence and the place.
"""

from __future__ import annotations

import operator
from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from gatillo.formula.formula import (
    CHANCE,
    EVERY,
    PROPERTY_TYPES,
    SAYING,
    TELLING,
    THERE,
    Evaluate,
    Formula,
    column_key,
)
from gatillo.formula.frame import Frame
from gatillo.formula.function_table import FUNCTIONS, Function
from gatillo.formula.syntax import FormulaError, Node, depth_of, names_in, parse
from gatillo.formula.values import as_point, finite, guarded
from gatillo.kernels.mathematics import power as exponentiated
from gatillo.level.keys import KEYS, POINTER_KEYS
from gatillo.level.model import Area, Graph, Route, Spot
from gatillo.level.naming import did_you_mean, token
from gatillo.level.properties import PROPERTIES
from gatillo.level.roles import Index, Role, ValueType, all_logic

KEEPING: set[str] = set()
"""Cards whose kept value a formula can read. The catalogue fills it as its cards are declared."""
_PLAIN = frozenset({"constant", "name", "member"})
"""Parts of a formula that are finite in every world."""


def _checked(code: Evaluate) -> Evaluate:
    """Return a part of a formula, with a fault where it has no finite answer."""

    def checked(f: Frame) -> Any:
        value = code(f)
        return value if type(value) is float and value - value == 0 else finite(f, value)

    return checked


class _Compiler:
    def __init__(
        self, index: Index, source: str, first_call: int, inputs: Mapping[str, Formula] | None = None
    ) -> None:
        self.index = index
        self.inputs = inputs or {}
        self.source = source
        self.call = first_call
        self.roles: dict[str, None] = {}
        self.reads: dict[tuple[str, str], None] = {}
        self.steady = True
        self.graph: Graph | None = None
        """The graph that was named last."""

    def text_of(self, node: Node) -> str:
        return self.source[node.start : node.end]

    def build(self, node: Node) -> tuple[ValueType, Evaluate]:
        """Type and code of one part. Raises FormulaError."""
        if node.op == "constant":
            return self.constant(node)
        if node.op == "name":
            return self.name(node)
        if node.op == "member":
            return self.member(node)
        if node.op == "call":
            return self.function(node)
        if node.op == "point":
            x, y = (self.wanted(part, "number", "a point") for part in node.parts)
            return "point", lambda f: as_point(finite(f, x(f)), finite(f, y(f)))
        if node.op == "coordinate":
            return self.coordinate(node)
        if node.op in ("and", "or"):
            return self.junction(node)
        if node.op == "not":
            inner = self.wanted(node.parts[0], "yes/no", "not")
            return "yes/no", lambda f: _negate(inner(f))
        if node.op == "negative":
            found = self.build(node.parts[0])
            inner = found[1] if found[0] == "point" else self.number_in(node.parts[0], found, "-")
            return found[0], lambda f: -inner(f)
        if node.op in _COMPARE:
            return self.comparison(node)
        return self.arithmetic(node)

    def wanted(self, node: Node, kind: ValueType, by: str) -> Evaluate:
        found, code = self.build(node)
        if found != kind:
            raise FormulaError(
                f"{by} needs a {kind}, but “{self.text_of(node)}” is {_a(found)}", node.start, node.end
            )
        return code

    def coordinate(self, node: Node) -> tuple[ValueType, Evaluate]:
        kind, code = self.build(node.parts[0])
        if kind != "point" or node.member not in ("x", "y"):
            said = (
                "a point has x and y only"
                if kind == "point"
                else f"“{self.text_of(node.parts[0])}” is {_a(kind)}, which has no “{node.member}”"
            )
            raise FormulaError(said, node.start, node.end)
        return "number", (lambda f: code(f).real) if node.member == "x" else (lambda f: code(f).imag)

    def is_location(self, node: Node) -> bool:
        """Return whether a part names what stands somewhere: an object, a spot or an area, or the pointer."""
        name = node.name
        return node.op == "name" and (
            name == "pointer"
            or (name not in self.inputs and name in self.index.role_tokens)
            or isinstance(self.index.place_tokens.get(name), Spot | Area)
        )

    def point(self, node: Node) -> Evaluate:
        """Return the code of a part that is a point, or names what stands somewhere."""
        if self.is_location(node):
            at = self.location(node)
            return lambda f: as_point(*at(f))
        return self.wanted(node, "point", "this")

    def built_alike(self, nodes: tuple[Node, ...]) -> list[tuple[ValueType, Evaluate]]:
        """Return parts with their types; where one is a point, what stands somewhere is the point at which it stands."""
        plain = [None if n.op == "name" and n.name == "pointer" else self.build(n) for n in nodes]
        if any(found is None or found[0] == "point" for found in plain):
            return [
                ("point", self.point(node)) if self.is_location(node) else found or self.build(node)
                for node, found in zip(nodes, plain, strict=True)
            ]
        return [found for found in plain if found is not None]

    def constant(self, node: Node) -> tuple[ValueType, Evaluate]:
        value = node.value
        kind: ValueType = (
            "yes/no" if isinstance(value, bool) else "text" if isinstance(value, str) else "number"
        )
        return kind, lambda f: value

    def name(self, node: Node) -> tuple[ValueType, Evaluate]:
        name = node.name
        given = self.inputs.get(name)
        if given is not None:
            self.roles.update(dict.fromkeys(given.roles))
            self.reads.update(dict.fromkeys(given.reads))
            self.steady = False
            return given.type, given.evaluate
        if name in ("time", "dt", "tick"):
            self.reads[("clock", name)] = None
            self.steady = False
            return "number", lambda f: f.clock(name)
        if name == "nobody":
            return "object", lambda f: 0
        role = self.index.role_tokens.get(name)
        if role is not None:
            self.roles[name] = None
            return "object", lambda f: f.ids(name)
        if name in self.index.place_tokens:
            return "place", lambda f: None
        if name in self.index.level_tokens:
            raise FormulaError(f"“{name}” belongs to the level: write level.{name}", node.start, node.end)
        if name in FUNCTIONS:
            raise FormulaError(
                f"“{name}” is a function: write {FUNCTIONS[name].written}", node.start, node.end
            )
        index, words = self.index, ("level", "pointer", "time", "dt", "tick")
        known = index.known(
            "values", lambda: (*index.kind_tokens, *index.place_tokens, *index.objects, *words)
        )
        raise FormulaError(f"nothing is called “{name}”{known.hint(name)}", node.start, node.end)

    def member(self, node: Node) -> tuple[ValueType, Evaluate]:
        first, member = node.name, node.member
        if first == "level":
            kind = self.index.level_tokens.get(member)
            if kind is None:
                raise FormulaError(
                    f"the level has no variable “{member}”{self.index.known('level', lambda: self.index.level_tokens).hint(member)}",
                    node.start + len("level."),
                    node.end,
                )
            self.reads[("level", member)] = None
            if kind == "object":
                return kind, lambda f: f.present(f.level_value(member))
            return kind, lambda f: f.level_value(member)
        if first == "pointer":
            if member not in ("x", "y"):
                raise FormulaError("the pointer has only x and y", node.start, node.end)
            self.reads[("pointer", member)] = None
            self.steady = False
            return "number", lambda f: f.pointer(member)
        role = self.index.role_tokens.get(first)
        if role is not None:
            kind = self.variable(role, member, node)
            self.roles[first] = None
            self.reads[(first, member)] = None
            self.steady = self.steady and not (member in PROPERTIES and PROPERTIES[member].integrated)
            key = column_key(member, kind)
            if kind == "object":
                return kind, lambda f: f.present(f.property(first, key))
            return kind, lambda f: f.property(first, key)
        place = self.index.place_tokens.get(first)
        if place is not None:
            if member not in ("x", "y") or not isinstance(place, Spot | Area):
                raise FormulaError(f"“{first}” is a place; it has x and y only", node.start, node.end)
            value = place.x if member == "x" else place.y
            return "number", lambda f: value
        known = self.index.known(
            "owners", lambda: (*self.index.kind_tokens, *self.index.place_tokens, "level", "pointer")
        )
        raise FormulaError(
            f"nothing is called “{first}”{known.hint(first)}", node.start, node.start + len(first)
        )

    def variable(self, role: Role, member: str, node: Node) -> ValueType:
        kind = PROPERTY_TYPES.get(member) or self.index.variable_type(role, member)
        if kind is None:
            known = [*PROPERTY_TYPES, *self.index.variable_tokens(role)]
            raise FormulaError(
                f"“{role.text}” has no variable “{member}”{did_you_mean(member, known)}",
                node.start + len(role.token) + 1,
                node.end,
            )
        return kind

    def junction(self, node: Node) -> tuple[ValueType, Evaluate]:
        codes = [self.wanted(part, "yes/no", node.op) for part in node.parts]
        settles = node.op == "or"

        def evaluate(f: Frame) -> Any:
            result = codes[0](f)
            for code in codes[1:]:
                if _single(result):
                    if bool(result) is settles:
                        return result
                    result = code(f)
                    continue
                before = f.active
                f.active = before & (~result if settles else result)
                other = code(f)
                f.active = before
                result = (result | other) if settles else (result & other)
            return result

        return "yes/no", evaluate

    def comparison(self, node: Node) -> tuple[ValueType, Evaluate]:
        (left_type, left), (right_type, right) = self.built_alike(node.parts)
        if left_type != right_type:
            raise FormulaError(
                f"“{self.text_of(node.parts[0])}” is {_a(left_type)} and "
                f"“{self.text_of(node.parts[1])}” is {_a(right_type)}; they cannot be compared",
                node.start,
                node.end,
            )
        if left_type != "number" and node.op not in ("=", "<>"):
            raise FormulaError(f"{_a(left_type)} can only be compared with = or <>", node.start, node.end)
        self.check_kind(node)
        compute = _COMPARE[node.op]
        if left_type == "number":
            # what went beyond all numbers on the way is no answer, though it could be compared
            if node.parts[0].op not in _PLAIN:
                left = _checked(left)
            if node.parts[1].op not in _PLAIN:
                right = _checked(right)
        if left_type == "text":
            return "yes/no", lambda f: _as_bool(compute(left(f), right(f)))
        if node.parts[1].op == "constant":
            limit = node.parts[1].value
            return "yes/no", lambda f: compute(left(f), limit)
        return "yes/no", lambda f: compute(left(f), right(f))

    def check_kind(self, node: Node) -> None:
        """Raise FormulaError if kind(A) is compared with a text that is no kind of the level: it would never hold."""
        for one, other in (node.parts, node.parts[::-1]):
            named = other.value if other.op == "constant" else None
            if (
                one.op == "call"
                and one.name == "kind"
                and isinstance(named, str)
                and named not in self.index.kinds
            ):
                raise FormulaError(
                    f"there is no kind called “{named}”{did_you_mean(named, self.index.kinds)}",
                    other.start,
                    other.end,
                )

    def of_points(self, node: Node, sides: list[tuple[ValueType, Evaluate]]) -> Evaluate:
        """Return the code of a sum, difference, multiple or part of points."""
        kinds = [kind for kind, _ in sides]
        if node.op in ("+", "-"):
            one, other = (
                code if kind == "point" else self.point(part)
                for part, (kind, code) in zip(node.parts, sides, strict=True)
            )
            sign = _SIMPLE[node.op]
            return lambda f: sign(one(f), other(f))
        at = kinds.index("point")
        point, number = sides[at][1], sides[1 - at][1]
        if kinds[1 - at] != "number" or node.op not in ("*", "/") or (node.op == "/" and at == 1):
            raise FormulaError(
                "a point can be added to a point, subtracted from one, and multiplied or divided by a number",
                node.start,
                node.end,
            )
        if node.op == "*":

            def multiplied(f: Frame) -> Any:
                a, b = point(f), number(f)
                return as_point(a.real * b, a.imag * b)

            return multiplied
        what = self.text_of(node.parts[1])

        def divided(f: Frame) -> Any:
            a, b = point(f), number(f)
            b = guarded(f, b == 0, f"divides by zero: “{what}” is 0", 1.0, b)
            return as_point(a.real / b, a.imag / b)

        return divided

    def number_in(self, node: Node, found: tuple[ValueType, Evaluate], by: str) -> Evaluate:
        """Return the code of a part that must be a number."""
        kind, code = found
        if kind != "number":
            raise FormulaError(
                f"{by} needs a number, but “{self.text_of(node)}” is {_a(kind)}", node.start, node.end
            )
        return code

    def arithmetic(self, node: Node) -> tuple[ValueType, Evaluate]:
        located = [self.is_location(part) for part in node.parts] if node.op in ("+", "-") else []
        sides = (
            [
                ("place", _nowhere) if at else self.build(part)
                for part, at in zip(node.parts, located, strict=True)
            ]
            if any(located)
            else [self.build(part) for part in node.parts]
        )
        if any(located) or any(kind == "point" for kind, _ in sides):
            return "point", self.of_points(node, sides)
        left, right = (
            self.number_in(part, side, node.op) for part, side in zip(node.parts, sides, strict=True)
        )
        what = self.text_of(node.parts[1])
        if node.op == "mod":
            left, right = _checked(left), _checked(right)
        if node.op in ("/", "mod"):
            compute = operator.truediv if node.op == "/" else np.mod
            why = "divides by zero" if node.op == "/" else "takes the remainder of a division by zero"

            def divide(f: Frame) -> Any:
                a, b = left(f), right(f)
                if _single(b):
                    if b == 0:
                        f.fault(True, f"{why}: “{what}” is 0")
                        return 0.0
                    return compute(a, b)
                bad = b == 0
                if bad.any():
                    f.fault(bad, f"{why}: “{what}” is 0")
                    return np.where(bad, 0.0, compute(a, np.where(bad, 1.0, b)))
                return compute(a, b)

            return "number", divide
        if node.op == "^":
            whole = self.text_of(node)

            def power(f: Frame) -> Any:
                raised = np.asarray(exponentiated(left(f), right(f)))
                bad = ~np.isfinite(raised)
                if bad.any():
                    f.fault(bad, f"“{whole}” has no finite answer")
                    raised = np.where(bad, 0.0, raised)
                return float(raised) if raised.ndim == 0 else raised

            return "number", power
        simple = _SIMPLE[node.op]
        if node.parts[1].op == "constant":
            by = node.parts[1].value
            return "number", lambda f: simple(left(f), by)
        return "number", lambda f: simple(left(f), right(f))

    def function(self, node: Node) -> tuple[ValueType, Evaluate]:
        if node.name == "if":
            return self.choice(node)
        declared = FUNCTIONS.get(node.name)
        if declared is None:
            raise FormulaError(
                f"there is no function “{node.name}”{did_you_mean(node.name, [*FUNCTIONS, 'if'])}",
                node.start,
                node.start + len(node.name),
            )
        least = len(declared.arguments)
        if len(node.parts) < least or (len(node.parts) > least and not declared.repeats):
            raise FormulaError(
                f"{declared.written} takes {least}{' or more' if declared.repeats else ''} "
                f"value{'s' if least > 1 else ''}; here are {len(node.parts)}",
                node.start,
                node.end,
            )
        self.steady = self.steady and declared.steady
        if "clock" in declared.reads:
            self.reads[("clock", "time")] = None
        if TELLING in declared.reads:
            self.reads[(TELLING, "")] = None
        result: ValueType = "number" if declared.result == "same" else declared.result
        codes: list[Evaluate] = []
        for at, part in enumerate(node.parts):
            wanted = declared.arguments[min(at, least - 1)]
            if wanted == "each of kind":
                codes.append(self.each_of(node.parts[0], part))
                continue
            if declared.result == "same":
                kind, code = self.build(part)
                if at == 0:
                    result = kind
                elif kind != result:
                    raise FormulaError(
                        f"all values of {declared.written} must be of one type", part.start, part.end
                    )
            else:
                code = self.argument(declared, wanted, part)
            codes.append(code)
        return result, self.bound(declared, node, codes)

    def bound(self, declared: Function, node: Node, codes: list[Evaluate]) -> Evaluate:
        compute = declared.compute
        if "chance" in declared.reads:
            self.reads[(CHANCE, "")] = None
        if declared.draws:
            call = self.call
            self.call += 1
            return lambda f: compute(f, *[code(f) for code in codes], call=call)
        if declared.arguments == ("kind variable",):
            part = node.parts[0]
            kind, key = self.index.kind_tokens[part.name], column_key(part.member, "number")
            self.reads[(f"{EVERY} {kind}", part.member)] = None
            self.reads[(f"{EVERY} {kind}", THERE)] = None
            return lambda f: compute(f, kind, key)
        if len(codes) == 1:
            only = codes[0]
            return lambda f: compute(f, only(f))
        return lambda f: compute(f, *[code(f) for code in codes])

    def argument(self, declared: Function, wanted: str, part: Node) -> Evaluate:
        if wanted in ("number", "yes/no", "text"):
            return self.wanted(part, wanted, f"{declared.name}( )")  # type: ignore[arg-type]
        if wanted == "any":
            kind, code = self.build(part)
            if kind in ("object", "place"):
                raise FormulaError(f"“{self.text_of(part)}” is {_a(kind)}, not a value", part.start, part.end)
            return code
        if wanted in ("message", "timer", "item", "key"):
            return self.named(declared, wanted, part)
        if wanted in ("rule", "card"):
            return self.of_graph(declared, wanted, part)
        if wanted == "location":
            return self.location(part)
        if wanted == "role":
            role = self.index.role_tokens.get(part.name) if part.op == "name" else None
            if role is None:
                raise FormulaError(self.index.unknown_role(self.text_of(part)), part.start, part.end)
            self.roles[role.token] = None
            for read in (*declared.properties, *declared.reads & {SAYING}):
                self.reads[(role.token, read)] = None
            return lambda f: role.token
        if wanted == "route":
            route = self.index.place_tokens.get(part.name) if part.op == "name" else None
            if not isinstance(route, Route):
                routes = self.index.known("routes", lambda: map(token, self.index.routes))
                raise FormulaError(
                    f"“{self.text_of(part)}” is not a route{routes.hint(part.name)}", part.start, part.end
                )
            return lambda f: route
        if wanted == "area":
            place = self.index.place_tokens.get(part.name) if part.op == "name" else None
            if not isinstance(place, Area):
                areas = self.index.known(
                    "areas", lambda: [t for t, p in self.index.place_tokens.items() if isinstance(p, Area)]
                )
                raise FormulaError(
                    f"“{self.text_of(part)}” is not an area{areas.hint(part.name)}",
                    part.start,
                    part.end,
                )
            return lambda f: place
        if wanted == "kind":
            kind_name = self.index.kind_tokens.get(part.name) if part.op == "name" else None
            if kind_name is None:
                raise FormulaError(
                    f"“{self.text_of(part)}” is not a kind{self.index.known('kinds', lambda: self.index.kind_tokens).hint(part.name)}",
                    part.start,
                    part.end,
                )
            whats = (THERE, "x", "y") if "area" in declared.arguments else (THERE,)
            self.reads.update({(f"{EVERY} {kind_name}", what): None for what in whats})
            return lambda f: kind_name
        return self.kind_variable(declared, part)

    def kind_variable(self, declared: Function, part: Node) -> Evaluate:
        role = self.index.role_tokens.get(part.name)
        if part.op != "member" or role is None or part.name not in self.index.kind_tokens:
            raise FormulaError(f"{declared.written} needs a kind and its variable", part.start, part.end)
        if self.variable(role, part.member, part) != "number":
            raise FormulaError(f"“{self.text_of(part)}” is not a number", part.start, part.end)
        self.reads[(role.token, part.member)] = None
        return lambda f: None

    def named(self, declared: Function, wanted: str, part: Node) -> Evaluate:
        """Return a name in double quotes."""
        name = part.value
        if part.op != "constant" or not isinstance(name, str) or not name.strip():
            raise FormulaError(
                f"{declared.written} wants the name of a {wanted} in double quotes here", part.start, part.end
            )
        keys = (*KEYS, *POINTER_KEYS)
        if wanted == "key" and name not in keys:
            raise FormulaError(
                f"there is no key called “{name}”{did_you_mean(name, keys)}", part.start, part.end
            )
        # of an item the role, given before it, says whose it is
        owner, what = (next(reversed(self.roles), ""), f"item {name}") if wanted == "item" else (wanted, name)
        self.reads[(owner, what)] = None
        return lambda f: name

    def of_graph(self, declared: Function, wanted: str, part: Node) -> Evaluate:
        """Return a graph by its name in double quotes, or one of its cards that keep a value, by its number."""
        graphs = {e.name: e for _, _, e in all_logic(self.index.level) if isinstance(e, Graph)}
        if wanted == "rule":
            graph = graphs.get(part.value) if part.op == "constant" and isinstance(part.value, str) else None
            if graph is None:
                said = f"there is no graph called “{part.value}”{did_you_mean(str(part.value), graphs)}"
                if part.op != "constant" or not isinstance(part.value, str):
                    said = f"{declared.written} wants the name of a graph in double quotes here"
                raise FormulaError(said, part.start, part.end)
            self.graph = graph
            return lambda f: graph.id
        keeping = [node.id for node in self.graph.nodes if node.use in KEEPING] if self.graph else []
        if part.op != "constant" or part.value not in keeping:
            known = ", ".join(map(str, keeping)) or "none"
            raise FormulaError(
                f"this is no number of a hold or count card of the graph; there are: {known}",
                part.start,
                part.end,
            )
        number = int(part.value)
        self.steady = False
        # what is kept may change in any turn
        self.reads[("held", str(number))] = self.reads[("clock", "tick")] = None
        return lambda f: number

    def each_of(self, kind: Node, part: Node) -> Evaluate:
        """Return a part asked of every object of a kind, in the place of the kind's name."""
        mine, inner_roles, inner_reads = kind.name, self.roles, self.reads
        self.roles, self.reads = {}, {}
        code = self.wanted(part, "yes/no", "count_where( )")
        others = tuple(role for role in self.roles if role != mine)
        reads, self.roles, self.reads = self.reads, inner_roles, inner_reads
        of = self.index.kind_tokens.get(mine, "")
        self.reads[(f"{EVERY} {of}", THERE)] = None
        self.reads.update(
            {(f"{EVERY} {of}" if owner == mine else owner, name): None for owner, name in reads}
        )
        self.roles.update(dict.fromkeys(others))
        return lambda f: (mine, others, code)

    def location(self, part: Node) -> Evaluate:
        name = part.name
        if part.op == "name":
            if name == "pointer":
                self.reads[("pointer", "x")] = self.reads[("pointer", "y")] = None
                self.steady = False
                return lambda f: (f.pointer("x"), f.pointer("y"))
            if name in self.index.role_tokens:
                self.roles[name] = None
                self.reads[(name, "x")] = self.reads[(name, "y")] = None
                return lambda f: (f.property(name, "x"), f.property(name, "y"))
            place = self.index.place_tokens.get(name)
            if isinstance(place, Spot | Area):
                point = (place.x, place.y)
                return lambda f: point
            known = self.index.known(
                "points", lambda: (*self.index.kind_tokens, *self.index.place_tokens, "pointer")
            )
            raise FormulaError(f"nothing is called “{name}”{known.hint(name)}", part.start, part.end)
        kind, code = self.build(part)
        if kind != "point":
            raise FormulaError(
                f"“{self.text_of(part)}” is not an object, a place, a point or the pointer",
                part.start,
                part.end,
            )

        def coordinates(f: Frame) -> Any:
            point = code(f)
            return point.real, point.imag

        return coordinates

    def choice(self, node: Node) -> tuple[ValueType, Evaluate]:
        if len(node.parts) != 3:
            raise FormulaError("if(condition, then, else) takes 3 values", node.start, node.end)
        test = self.wanted(node.parts[0], "yes/no", "if( )")
        (kind, then), (other_kind, other) = self.built_alike(node.parts[1:])
        if kind != other_kind:
            raise FormulaError(
                f"both answers of if( ) must be of one type; these are {_a(kind)} and {_a(other_kind)}",
                node.start,
                node.end,
            )

        def evaluate(f: Frame) -> Any:
            yes = test(f)
            if _single(yes):
                return then(f) if yes else other(f)
            before = f.active
            f.active = before & yes
            a = then(f)
            f.active = before & ~yes
            b = other(f)
            f.active = before
            if kind == "text":
                result = np.empty(len(yes), dtype=object)
                result[:] = np.where(yes, a, b)
                return result
            return np.where(yes, a, b)

        return kind, evaluate


_COMPARE: dict[str, Callable[[Any, Any], Any]] = {
    "=": operator.eq,
    "<>": operator.ne,
    "<": operator.lt,
    "<=": operator.le,
    ">": operator.gt,
    ">=": operator.ge,
}
_SIMPLE: dict[str, Callable[[Any, Any], Any]] = {"+": operator.add, "-": operator.sub, "*": operator.mul}


def _nowhere(f: Frame) -> Any:
    """Stand for the code of a name that is only worked out as a point."""
    raise TypeError("a name that stands somewhere is worked out as a point")


def _sums_up_beyond(values: Any) -> bool:
    """Return whether some of many values may be infinite or no number: their sum is then."""
    total = np.add.reduce(values)
    return bool(total - total != 0)


def _single(value: Any) -> bool:
    return not (isinstance(value, np.ndarray) and value.ndim)


def _negate(value: Any) -> Any:
    return not value if _single(value) else ~value


def _as_bool(value: Any) -> Any:
    return value.astype(bool) if isinstance(value, np.ndarray) else value


def _a(kind: str) -> str:
    return {"yes/no": "a yes/no", "object": "an object", "text": "a text"}.get(kind, f"a {kind}")


def unknown_names(index: Index, source: str) -> list[str]:
    """Return the names in a formula that nothing has, in alphabetical order; none where it cannot be read."""
    try:
        names = names_in(parse(source))
    except FormulaError:
        return []
    known = {*index.role_tokens, *index.place_tokens, *index.level_tokens, *FUNCTIONS}
    return sorted(names - known - {"level", "pointer", "time", "dt", "tick", "nobody", "if"})


MOST_STEPS = 600
"""Maximum depth of an evaluation, counted over the cards of a graph that pass values to one another."""


def compile_formula(
    index: Index,
    source: str,
    wanted: ValueType | None = None,
    *,
    first_call: int = 0,
    inputs: Mapping[str, Formula] | None = None,
) -> Formula:
    """Check a formula against a level's names and compile it.

    `wanted` is the type it must have, if any; `first_call` numbers its random draws, so that the
    slots of one line draw apart; `inputs` are names that stand for what other formulas give. Raises FormulaError with a sentence and the place in the text.
    """
    if inputs:
        return _compiled(index, source, wanted, first_call, inputs)
    key = source, wanted, first_call
    found: Formula | None = index.compiled.get(key)
    if found is None:
        found = index.compiled[key] = _compiled(index, source, wanted, first_call, None)
    return found


def _compiled(
    index: Index,
    source: str,
    wanted: ValueType | None,
    first_call: int,
    inputs: Mapping[str, Formula] | None,
) -> Formula:
    tree = parse(source)
    compiler = _Compiler(index, source, first_call, inputs)
    kind: ValueType
    if wanted == "point" and compiler.is_location(tree):
        kind, code = "point", compiler.point(tree)
    else:
        kind, code = compiler.build(tree)
    if wanted is not None and kind != wanted:
        raise FormulaError(f"a {wanted} is needed here, but “{source.strip()}” is {_a(kind)}", 0, len(source))
    whole = source.strip()
    deep = depth_of(tree) + 3 + max((given.deep for given in (inputs or {}).values()), default=0)
    if inputs and deep > MOST_STEPS:
        raise FormulaError(
            "too many values depend on one another here; let a variable hold one of them", 0, len(source)
        )

    def evaluate(f: Frame) -> Any:
        value = code(f)
        if type(value) is float and value - value == 0:
            return value
        if kind == "number":
            if _single(value):
                value = float(value)
                if value - value != 0:  # infinite or not a number
                    f.fault(True, f"“{whole}” has no finite answer")
                    return 0.0
            elif _sums_up_beyond(value):
                bad = ~np.isfinite(value)
                if bad.any():
                    f.fault(bad, f"“{whole}” has no finite answer")
                    value = np.where(bad, 0.0, value)
        elif kind == "point":
            value = finite(f, value)
        if bare and not _single(value):
            # a frame may show its own columns; what leaves a formula must not change with them
            value = value.copy()
        return value

    bare = tree.op in ("member", "call", "coordinate")
    constant = tree.value if tree.op == "constant" else None
    if tree.op == "negative" and isinstance(tree.parts[0].value, float) and tree.parts[0].op == "constant":
        constant = -tree.parts[0].value
    return Formula(
        source,
        kind,
        tuple(compiler.roles),
        tuple(compiler.reads),
        code if constant is not None or not (bare or kind in ("number", "point")) else evaluate,
        constant,
        compiler.steady,
        bool(inputs),
        deep=deep,
    )
