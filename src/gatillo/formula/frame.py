"""What a formula reads of the run in which it is worked out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol, TypeVar

import numpy as np
from numpy.typing import NDArray

Mask = Any
"""A yes/no array of length n, or one yes/no for all matches."""
FloatArray = NDArray[np.float64]
Method = TypeVar("Method", bound=Callable[..., Any])


def reads(what: str) -> Callable[[Method], Method]:
    """Declare what of the run a method of the frame reads: a function that calls it reads that too."""

    def declare(method: Method) -> Method:
        method.__reads__ = what  # type: ignore[attr-defined]
        return method

    return declare


class Frame(Protocol):
    """The matches a formula is worked out over, and the world behind them.

    A value is one Python value when it is the same for all matches, else an array of length `n`.
    """

    n: int
    active: Mask
    """Matches for which the part being worked out matters; faults elsewhere are dropped."""

    def rows(self, role: str) -> NDArray[np.int64]:
        """World row of the role's object, per match."""

    def ids(self, role: str) -> NDArray[np.int64]:
        """Return id of the role's object, per match."""

    @reads("role")
    def property(self, role: str, name: str) -> Any:
        """Return a property or variable of the role's object, per match."""

    @reads("level")
    def level_value(self, name: str) -> Any:
        """Return a level variable."""

    @reads("clock")
    def clock(self, name: str) -> float:
        """`time` (s), `dt` (s) or `tick`."""

    @reads("pointer")
    def pointer(self, axis: str) -> float:
        """Pointer position in level units, axis `x` or `y`."""

    @reads("kind")
    def everyone(self, kind: str) -> NDArray[np.int64]:
        """World rows of all objects of a kind."""

    @reads("there")
    def present(self, ids: Any) -> Any:
        """Return ids of objects, with 0 (nobody) in the place of those that have been removed; one id or one per match."""

    @reads("role")
    def values_of(self, rows: NDArray[np.int64], name: str) -> Any:
        """Return a property or variable of those rows."""

    @reads("role")
    def point_of(self, role: str, point: str) -> tuple[Any, Any]:
        """Return where a named point of the role's object is, x and y per match."""

    @reads("timer")
    def timer(self, name: str) -> float:
        """Return seconds that a timer has run."""

    @reads("item")
    def items(self, role: str, name: str) -> Any:
        """Return how many of an item the role's object holds, per match."""

    def kind_names(self, role: str) -> Any:
        """Return the name of the kind of the role's object, per match. It never changes."""

    @reads("saying")
    def said(self, role: str) -> Any:
        """Return the text that the role's object says, "" if nothing, per match."""

    @reads("telling")
    def player_message(self) -> str:
        """Return the message that the player is shown, "" if there is none."""

    @reads("message")
    def sent(self, message: str, role: str) -> Any:
        """Return the number that the role's object sent with a message a tick before, per match."""

    @reads("key")
    def key_down(self, name: str) -> bool:
        """Return whether a key is down."""

    @reads("kind")
    def tally(self, kind: str, role: str, others: tuple[str, ...], holds: Any) -> Any:
        """Return for how many objects of a kind, in the place of `role`, a part of a formula holds; `others` are its other roles."""

    def pulled(self, card: tuple[int, int], identity: int, evaluate: Any) -> Any:
        """Return what a graph's card works out over these matches: once for each table of matches in the graph's turn."""

    @reads("card")
    def held(self, card: tuple[int, int], otherwise: Any) -> Any:
        """Return what a graph's card keeps, for each match."""

    @reads("card")
    def kept(self, card: tuple[int, int], role: str) -> Any:
        """Return the number that a graph's card keeps for the role's object, per match; for all matches where the role is ""."""

    @reads("chance")
    def draw(self, call: int) -> FloatArray:
        """Return one uniform draw from [0, 1) per match; `call` distinguishes the draws of one formula."""

    def fault(self, bad: Mask, sentence: str) -> None:
        """Report that the formula has no answer for the matches in `bad`."""
