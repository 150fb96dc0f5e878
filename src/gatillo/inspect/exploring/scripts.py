"""Input as a list of single pieces, varied at random and made small."""

from __future__ import annotations

from collections.abc import Callable
from random import Random

from msgspec.structs import replace

from gatillo.inspect.exploring.listening import Listening
from gatillo.level.model import Choice, Input, KeyBar, PointerMove

Piece = KeyBar | PointerMove | Choice
Pieces = tuple[Piece, ...]
STEP = 0.05
"""Seconds; times are whole numbers of these."""
HOLDS = (0.1, 0.3, 1.0, 2.5)
"""How long a key may be held, in seconds: a tap, a press, and longer."""
MOST_PIECES = 60


def pieces_of(given: Input) -> Pieces:
    """Return input as single pieces."""
    return (*given.keys, *given.pointer, *given.choices)


def input_of(pieces: Pieces) -> Input:
    """Return the input that pieces make, each sort by its time."""
    return Input(
        keys=tuple(
            sorted(
                (p for p in pieces if isinstance(p, KeyBar)), key=lambda bar: (bar.start, bar.end, bar.key)
            )
        ),
        pointer=tuple(sorted((p for p in pieces if isinstance(p, PointerMove)), key=lambda move: move.at)),
        choices=tuple(sorted((p for p in pieces if isinstance(p, Choice)), key=lambda one: one.at)),
    )


def varied(given: Pieces, heard: Listening, length: float, chance: Random) -> Pieces:
    """Return pieces with one to four of them added, taken out, or moved."""
    found = list(given)
    for _ in range(chance.choice((1, 1, 2, 4))):
        deeds: list[Callable[[], None]] = [lambda: found.append(_new(heard, length, chance))] * 5
        if found:
            deeds += [
                lambda: _take_out(found, chance),
                lambda: _move(found, length, chance),
                lambda: _move(found, length, chance),
            ]
        chance.choice(deeds)()
    while len(found) > MOST_PIECES:
        _take_out(found, chance)
    return tuple(found)


def _new(heard: Listening, length: float, chance: Random) -> Piece:
    sorts = ["key"] * (3 if heard.keys else 0)
    sorts += ["point"] * (2 if heard.points else 0)
    sorts += ["choice"] * (2 if heard.choices else 0)
    sort, at = chance.choice(sorts), _time(chance.random() * length)
    if sort == "point":
        x, y = chance.choice(heard.points)
        return PointerMove(at=at, x=x, y=y)
    if sort == "choice":
        return Choice(at=at, text=chance.choice(heard.choices))
    end = _time(min(length, at + chance.choice(HOLDS)))
    return KeyBar(key=chance.choice(heard.keys), start=at, end=max(end, at + STEP))


def _time(seconds: float) -> float:
    return round(round(seconds / STEP) * STEP, 2)


def _take_out(found: list[Piece], chance: Random) -> None:
    if found:
        found.pop(chance.randrange(len(found)))


def _move(found: list[Piece], length: float, chance: Random) -> None:
    if not found:
        return
    at = chance.randrange(len(found))
    piece = found[at]
    to = _time(chance.random() * length)
    if isinstance(piece, KeyBar):
        # moved as it is, or held from where it is to another time
        if chance.random() < 0.5:
            held = piece.end - piece.start
            found[at] = replace(piece, start=to, end=max(to + STEP, _time(min(length, to + held))))
        else:
            found[at] = replace(piece, end=max(_time(piece.start + STEP), to))
    else:
        found[at] = replace(piece, at=to)


def shifted(pieces: Pieces, by: float) -> Pieces:
    """Return pieces so many seconds later."""
    return tuple(
        replace(one, start=one.start + by, end=one.end + by)
        if isinstance(one, KeyBar)
        else replace(one, at=one.at + by)
        for one in pieces
    )


# making small


def smallest(pieces: Pieces, still: Callable[[Pieces], bool]) -> Pieces:
    """Return as few of the pieces as were found for which `still` holds, keys held as briefly as that allows.

    Taking out any single piece of the result, or holding a key for a tap only where it is held longer, would not do. (Delta
    debugging: Zeller, Hildebrandt: Simplifying and isolating failure-inducing input, 2002.)
    """
    parts = 2
    found = pieces
    while found:
        size = max(1, -(-len(found) // parts))
        for start in range(0, len(found), size):
            rest = (*found[:start], *found[start + size :])
            if still(rest):
                found, parts = rest, max(2, parts - 1)
                break
        else:
            if size == 1:
                break
            parts = min(len(found), parts * 2)
    for at, piece in enumerate(found):
        if isinstance(piece, KeyBar):
            found = _shortest(found, at, piece, still)
    return found


def _shortest(found: Pieces, at: int, bar: KeyBar, still: Callable[[Pieces], bool]) -> Pieces:
    for held in HOLDS:
        if bar.start + held >= bar.end:
            break
        tried = (*found[:at], replace(bar, end=_time(bar.start + held)), *found[at + 1 :])
        if still(tried):
            return tried
    return found


def input_lines(given: Input) -> list[str]:
    """Return input in words, a line for each key, pointer move and choice, by their times."""

    def words(piece: Piece) -> tuple[float, str]:
        if isinstance(piece, KeyBar):
            return piece.start, f"{piece.start:g} s to {piece.end:g} s: hold {piece.key}"
        if isinstance(piece, PointerMove):
            return piece.at, f"{piece.at:g} s: put the pointer at {piece.x:g}, {piece.y:g}"
        return piece.at, f"{piece.at:g} s: choose “{piece.text}”"

    return [line for _, line in sorted(map(words, pieces_of(given)))]
