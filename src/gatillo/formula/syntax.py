"""Reading a formula: from text to a tree whose every part knows where it is."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files
from typing import Any

from lark import Lark, Token, Transformer, v_args
from lark.exceptions import UnexpectedCharacters, UnexpectedEOF, UnexpectedInput, VisitError

MOST_CHARACTERS = 4_000
MOST_DEPTH = 60


class FormulaError(ValueError):
    """A formula that cannot be read or does not make sense.

    `message` is a whole sentence, `start` and `end` the place in the text (characters, end exclusive).
    """

    def __init__(self, message: str, start: int, end: int) -> None:
        super().__init__(message)
        self.message = message
        self.start = start
        self.end = max(end, start + 1)


@dataclass(frozen=True, slots=True)
class Node:
    """One part of a formula. `op` names what it does, `parts` are its operands."""

    op: str
    start: int
    end: int
    parts: tuple[Node, ...] = ()
    value: float | str | bool | None = None
    name: str = ""
    member: str = ""


def _span(meta: Any) -> tuple[int, int]:
    return meta.start_pos, meta.end_pos


@v_args(meta=True)
class _Build(Transformer[Token, Node]):
    def number(self, meta: Any, args: list[Any]) -> Node:
        value = float(args[0])
        if value in (float("inf"), float("-inf")):
            raise FormulaError(f"“{args[0]}” is too large a number", *_span(meta))
        return Node("constant", *_span(meta), value=value)

    def text(self, meta: Any, args: list[Any]) -> Node:
        return Node("constant", *_span(meta), value=str(args[0])[1:-1].replace('""', '"'))

    def yes(self, meta: Any, args: list[Any]) -> Node:
        return Node("constant", *_span(meta), value=True)

    def no(self, meta: Any, args: list[Any]) -> Node:
        return Node("constant", *_span(meta), value=False)

    def name(self, meta: Any, args: list[Any]) -> Node:
        return Node("name", *_span(meta), name=str(args[0]))

    def member(self, meta: Any, args: list[Any]) -> Node:
        return Node("member", *_span(meta), name=str(args[0]), member=str(args[1]))

    def coordinate(self, meta: Any, args: list[Any]) -> Node:
        return Node("coordinate", *_span(meta), (args[0],), member=str(args[1]))

    def call(self, meta: Any, args: list[Any]) -> Node:
        parts = tuple(a for a in args[1:] if a is not None)
        return Node("call", *_span(meta), parts, name=str(args[0]))

    def compare(self, meta: Any, args: list[Any]) -> Node:
        return Node(str(args[1]), *_span(meta), (args[0], args[2]))

    def __default__(self, data: Any, children: list[Any], meta: Any) -> Node:
        names = {
            "add": "+",
            "subtract": "-",
            "multiply": "*",
            "divide": "/",
            "modulo": "mod",
            "power": "^",
            "negative": "negative",
            "not_": "not",
            "conjunction": "and",
            "disjunction": "or",
            "unary": "plus",
            "point": "point",
        }
        return Node(names[str(data)], *_span(meta), tuple(children))


@lru_cache(maxsize=1)
def _parser() -> Lark:
    grammar = files("gatillo.formula").joinpath("grammar.lark").read_text(encoding="utf-8")
    return Lark(grammar, parser="lalr", propagate_positions=True, maybe_placeholders=False)


def _bound_nesting(source: str) -> None:
    depth = 0
    run = 0
    for at, character in enumerate(source):
        depth += (character == "(") - (character == ")")
        # unary signs and powers nest without brackets
        run = (
            run + 1
            if character in "-+^ " or source.startswith("not", at)
            else 0
            if character in ",)"
            else run
        )
        if depth > MOST_DEPTH or run > MOST_DEPTH * 4:
            raise FormulaError("this formula is nested too deeply to be read; split it up", at, at + 1)


@lru_cache(maxsize=4096)
def parse(source: str) -> Node:
    """Read one formula.

    Raises FormulaError with a sentence and the place when the text is not a formula.
    """
    if not source.strip():
        raise FormulaError("there is no formula here yet; write a number or a name", 0, 1)
    if len(source) > MOST_CHARACTERS:
        raise FormulaError(
            f"a formula may have at most {MOST_CHARACTERS} characters; this has {len(source)}",
            MOST_CHARACTERS,
            len(source),
        )
    _bound_nesting(source)
    try:
        return _Build().transform(_parser().parse(source))
    except VisitError as wrapped:
        if isinstance(wrapped.orig_exc, FormulaError):
            raise wrapped.orig_exc from None
        raise
    except RecursionError:
        raise FormulaError(
            "this formula is nested too deeply to be read; split it up", 0, len(source)
        ) from None
    except UnexpectedInput as error:
        raise _explain(source, error) from None


def _explain(source: str, error: UnexpectedInput) -> FormulaError:
    end = len(source)
    if isinstance(error, UnexpectedEOF):
        return FormulaError("the formula breaks off; something is missing at its end", end, end + 1)
    at = error.pos_in_stream if error.pos_in_stream is not None else end
    if isinstance(error, UnexpectedCharacters):
        seen = source[at]
        if seen == '"':
            return FormulaError("this text has no closing quotation mark", at, end)
        hint = {
            "'": "; put text in double quotes",
            "!": "; write “not” or “<>”",
            "&": "; write “and”",
            "|": "; write “or”",
            "%": "; write “mod” for the remainder, or divide by 100",
            "{": "; braces belong in texts, not in formulas",
        }.get(seen, "")
        return FormulaError(f"“{seen}” cannot stand here{hint}", at, at + 1)
    token = getattr(error, "token", None)
    if token is None or token.type == "$END":
        return FormulaError("the formula breaks off; something is missing at its end", end, end + 1)
    word = str(token)
    if token.type == "COMPARE":
        return FormulaError("compare two things at a time; join comparisons with “and”", at, at + len(word))
    if token.type in ("NAME", "NUMBER", "TEXT"):
        return FormulaError(f"an operator such as + or * is missing before “{word}”", at, at + len(word))
    return FormulaError(f"“{word}” cannot stand here", at, at + len(word))


def names_in(node: Node) -> set[str]:
    """Return every first name (role, `level`, `pointer`, place, kind) that the formula mentions."""
    found = {node.name} if node.op in ("name", "member") else set()
    for part in node.parts:
        found |= names_in(part)
    return found


_COMPARES = frozenset(["=", "<>", "<", ">", "<=", ">="])


def texts_given(node: Node) -> list[Node]:
    """Return the texts in quotes that a formula can give: those that it compares with others are left out."""
    if node.op == "constant":
        return [node] if isinstance(node.value, str) else []
    if node.op in _COMPARES:
        return []
    return [text for part in node.parts for text in texts_given(part)]


def depth_of(node: Node) -> int:
    """Return how many parts of a formula stand within one another, itself counted."""
    return 1 + max(map(depth_of, node.parts), default=0)
