"""What a catalogue entry reads and writes, and of which objects: derived from the methods that its code calls.

From the source of an entry's computation, and of the functions that it hands its context to, follows which methods of the
context (contexts/) it calls, and from which of its slots each parameter comes. What that is at a line of a rule is in
sim/program/touched.py.
"""

from __future__ import annotations

import ast
import inspect
import textwrap
from collections.abc import Callable, Iterator
from functools import cache
from types import FunctionType
from typing import Any

from gatillo.catalogue.contexts.effects import ANYBODY, ATTRIBUTES, DT, SELF, Touch, Touches


def touched_by(
    compute: Callable[..., Any], slots: tuple[str, ...], telling: frozenset[str], world: type
) -> Touches:
    """Return what an entry's computation touches, in the names of its slots, of which some are `telling` of objects.

    `world` is the protocol through which it sees the world. Raises TypeError where that cannot be seen from its source.
    """
    function = inspect.unwrap(compute)
    assert isinstance(function, FunctionType)
    parameters = list(inspect.signature(function).parameters)
    known = {name: frozenset({name}) for name in slots}
    if len(parameters) > 1 and parameters[1] == "rows" and "rows" not in slots:
        known["rows"] = frozenset({SELF})
    return _walked(function, parameters[0], tuple(sorted(known.items())), telling | {SELF, ANYBODY}, world)


@cache
def _walked(
    function: FunctionType,
    world_name: str,
    known: tuple[tuple[str, frozenset[str]], ...],
    telling: frozenset[str],
    world: type,
) -> Touches:
    return _Walk(function, world_name, dict(known), telling, world).touched()


class _Walk:
    """One function, with the slots from which each of its names may come."""

    def __init__(
        self,
        function: FunctionType,
        world_name: str,
        known: dict[str, frozenset[str]],
        telling: frozenset[str],
        world: type,
    ) -> None:
        self.function = function
        self.world_name = world_name
        self.known = known
        self.telling = telling
        self.world = world
        self.constants: dict[str, Any] = {
            **function.__globals__,
            **inspect.getclosurevars(function).nonlocals,
        }
        self.found = Touches()
        """What has been found so far."""

    def touched(self) -> Touches:
        tree = _source(self.function)
        # what a name comes from may be known only further down, in a loop
        for _ in range(3):
            for node in ast.walk(tree):
                self.take_names(node)
        for node in ast.walk(tree):
            if isinstance(node, ast.Call):
                self.take_call(node)
            elif isinstance(node, ast.Attribute) and self.is_world(node.value):
                self.take_attribute(node.attr)
        return self.found

    def is_world(self, node: ast.expr) -> bool:
        return isinstance(node, ast.Name) and node.id == self.world_name

    def take_names(self, node: ast.AST) -> None:
        """Note from which slots a name that is given a value comes."""
        if isinstance(node, ast.Assign):
            for target in node.targets:
                self.give(target, node.value)
        elif isinstance(node, ast.AnnAssign | ast.NamedExpr) and node.value is not None:
            self.give(node.target, node.value)
        elif isinstance(node, ast.For | ast.comprehension):
            self.give(node.target, node.iter)

    def give(self, target: ast.expr, value: ast.expr) -> None:
        if (
            isinstance(target, ast.Tuple)
            and isinstance(value, ast.Tuple)
            and len(target.elts) == len(value.elts)
        ):
            for one, other in zip(target.elts, value.elts, strict=True):
                self.give(one, other)
        elif isinstance(target, ast.Tuple):
            each = value.args if _is_call(value, "zip") and len(value.args) == len(target.elts) else None  # type: ignore[attr-defined]
            for at, one in enumerate(target.elts):
                self.give(one, each[at] if each else value)
        elif isinstance(target, ast.Name):
            self.known[target.id] = self.known.get(target.id, frozenset()) | self.slots(value)

    def slots(self, node: ast.AST) -> frozenset[str]:
        """Return the slots from which the objects of an expression come."""
        if isinstance(node, ast.Name):
            return self.known.get(node.id, frozenset())
        if isinstance(node, ast.Attribute) and self.is_world(node.value) and node.attr == DT:
            return frozenset({DT})
        if isinstance(node, ast.Subscript):
            # which of them does not matter
            return self.slots(node.value)
        if isinstance(node, ast.Call):
            given = [*node.args, *(keyword.value for keyword in node.keywords)]
            if _is_call(node, "where") and len(given) == 3:
                given = given[1:]
            came = frozenset[str]().union(*map(self.slots, given))
            if isinstance(node.func, ast.Attribute) and not self.is_world(node.func.value):
                came |= self.slots(node.func.value)
            if not came and isinstance(node.func, ast.Attribute) and self.is_world(node.func.value):
                return frozenset({ANYBODY})
            return came
        return frozenset[str]().union(*map(self.slots, ast.iter_child_nodes(node)))

    def take_attribute(self, name: str) -> None:
        if hasattr(getattr(self.world, name, None), "__touches__"):
            return
        if name not in ATTRIBUTES:
            raise TypeError(f"{self.function.__name__} reads {name}, which ATTRIBUTES does not list")
        if ATTRIBUTES[name]:
            read = frozenset({Touch(ATTRIBUTES[name])})
            self.found |= Touches(read, frozenset(), read)

    def take_call(self, call: ast.Call) -> None:
        if isinstance(call.func, ast.Attribute) and self.is_world(call.func.value):
            self.take_method(call, getattr(self.world, call.func.attr))
            return
        given = [*call.args, *(keyword.value for keyword in call.keywords)]
        if not any(self.is_world(value) for value in given):
            return
        function = self.constants.get(call.func.id) if isinstance(call.func, ast.Name) else None
        if not isinstance(function, FunctionType):
            raise TypeError(f"{self.function.__name__} hands the world to what cannot be looked into")
        arguments = _bound(function, call)
        inner = next(name for name, value in arguments.items() if self.is_world(value))
        known = {name: came for name, value in arguments.items() if (came := self.slots(value))}
        self.found |= _walked(function, inner, tuple(sorted(known.items())), self.telling, self.world)

    def take_method(self, call: ast.Call, method: Any) -> None:
        declared: Touches | None = getattr(method, "__touches__", None)
        if declared is None:
            raise TypeError(f"{method.__qualname__} does not say what it touches")
        arguments = _bound(method, call)
        reads, writes, seen = (
            frozenset(each for touch in side for each in self.placed(touch, arguments))
            for side in (declared.reads, declared.writes, declared.seen)
        )
        self.found |= Touches(
            reads,
            writes,
            seen,
            frozenset[str]().union(*(self.added(arguments.get(name)) for name in declared.adds)),
        )

    def added(self, node: ast.expr | None) -> frozenset[str]:
        """Return the slots from which an addend comes; none if it is multiplied by the time of a tick."""
        came = self.slots(node) if node is not None else frozenset()
        return frozenset() if DT in came else came

    def placed(self, touch: Touch, arguments: dict[str, ast.expr]) -> Iterator[Touch]:
        """Yield what a method says of its parameters, of the slots that they come from."""
        if touch.of and touch.of not in (ANYBODY, SELF) and _is_nobody(arguments.get(touch.of)):
            return
        named = ""
        if touch.named:
            named = self.word(arguments.get(touch.named), touch)
            if named == "=":
                # nothing is named there
                return
        what = touch.what
        if what.startswith("{"):
            word = self.word(arguments[what.strip("{}")], touch)
            what = word.removeprefix("=") if word.startswith("=") else f"{{{word}}}"
        whose: frozenset[str] = frozenset({touch.of})
        if touch.of not in ("", ANYBODY, SELF):
            whose = (self.slots(arguments[touch.of]) & self.telling) or frozenset({ANYBODY})
        for one in whose:
            yield Touch(what, one, named)

    def word(self, node: ast.expr | None, touch: Touch) -> str:
        """Return a slot with a name, or `=NAME` for one that is written out."""
        if isinstance(node, ast.Constant):
            return f"={node.value!s}"
        came = self.slots(node) if node is not None else frozenset()
        if len(came) > 1:
            raise TypeError(f"{self.function.__name__}: it cannot be seen which {touch.what} is meant")
        return next(iter(came), "")


def _is_call(node: ast.AST, name: str) -> bool:
    return isinstance(node, ast.Call) and name == (
        node.func.attr
        if isinstance(node.func, ast.Attribute)
        else node.func.id
        if isinstance(node.func, ast.Name)
        else ""
    )


def _is_nobody(node: ast.expr | None) -> bool:
    return node is None or (isinstance(node, ast.Constant) and node.value is None)


def _bound(function: Callable[..., Any], call: ast.Call) -> dict[str, ast.expr]:
    """Return which expression is given for each parameter; one with a star is given for all that are left."""
    parameters = [name for name in inspect.signature(function).parameters if name != "self"]
    found: dict[str, ast.expr] = {}
    for at, value in enumerate(call.args):
        if isinstance(value, ast.Starred):
            # how many it stands for is not seen: what comes after it is given for the last ones
            after = call.args[at + 1 :]
            last = len(parameters) - len(after)
            found.update(dict.fromkeys(parameters[at:last], value.value))
            found.update(zip(parameters[last:], after, strict=True))
            break
        found[parameters[at]] = value
    for keyword in call.keywords:
        if keyword.arg is None:
            found.update({p: keyword.value for p in parameters if p not in found})
        else:
            found[keyword.arg] = keyword.value
    return found


@cache
def _source(function: FunctionType) -> ast.AST:
    tree = ast.parse(textwrap.dedent(inspect.getsource(function)))
    # without its decorators, which hold what belongs to the declaration
    for node in ast.walk(tree):
        if isinstance(node, ast.FunctionDef):
            node.decorator_list = []
    return tree
