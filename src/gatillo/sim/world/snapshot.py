"""Copies, digests and sizes of what a run holds, by walking what is declared."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import fields, is_dataclass
from itertools import islice
from typing import Any

import numpy as np

from gatillo.formula.formula import Formula

_SETTLED = frozenset((bool, int, float, str, type(None), tuple, frozenset, np.ndarray))
"""What is never changed in place where it is held as state."""
_PLAIN = (bool, int, float, complex, str, type(None))


def copied(value: Any) -> Any:
    """Return a copy that can be changed without changing the value: of lists, sets, dicts and records that are not frozen.

    Arrays within are shared: what is declared as state replaces them, and never writes into them.
    """
    kind = type(value)
    if kind in _SETTLED:
        return value
    if kind is dict:
        if not value or _are_settled(value.values()):
            return value.copy()
        return {key: copied(inner) for key, inner in value.items()}
    if kind is list:
        return value.copy() if _are_settled(value) else [copied(inner) for inner in value]
    if kind is set:
        return set(value)
    names = _changeable(kind)
    if not names:
        return value
    made = object.__new__(kind)
    for name in names:
        inner = getattr(value, name)
        setattr(made, name, inner if type(inner) in _SETTLED else copied(inner))
    return made


def _are_settled(values: Iterable[Any]) -> bool:
    """Return whether none of these can be changed: told from their types alone, which is quick for very many."""
    return not any(kind in _HOLDERS or _changeable(kind) for kind in set(map(type, values)))


_HOLDERS = (dict, list, set)
_CHANGEABLE: dict[Any, tuple[str, ...]] = {}


def _changeable(kind: Any) -> tuple[str, ...]:
    """Return the fields of a record that can be changed; none for what is no such record."""
    names = _CHANGEABLE.get(kind)
    if names is None:
        settled = getattr(kind, "__dataclass_params__", None)
        plain = settled is None or settled.frozen
        names = _CHANGEABLE[kind] = () if plain else tuple(field.name for field in fields(kind))
    return names


def written(value: Any) -> bytes:
    """Return a value as bytes, such that two values give the same only when they cannot be distinguished.

    Raises TypeError for what cannot be written down: state that a digest would leave out is not taken in silence.
    """
    parts: list[bytes] = []
    _feed(value, parts.append)
    return b"".join(parts)


def _feed(value: Any, take: Callable[[bytes], object]) -> None:
    if isinstance(value, np.generic):
        value = value.item()
    if isinstance(value, _PLAIN):
        take(f"{type(value).__name__} {value!r};".encode())
    elif isinstance(value, np.ndarray):
        take(f"{value.dtype.str}{value.shape}".encode())
        take(repr(value.tolist()).encode() if value.dtype == object else value.tobytes())
    elif isinstance(value, dict):
        take(f"{{{len(value)}".encode())
        for key, inner in value.items():
            _feed(key, take)
            _feed(inner, take)
    elif isinstance(value, tuple | list):
        take(f"[{len(value)}".encode())
        for inner in value:
            _feed(inner, take)
    elif isinstance(value, set | frozenset):
        take(f"<{sorted(map(repr, value))}".encode())
    elif isinstance(value, Formula):
        take(value.source.encode())
    elif is_dataclass(value) and not isinstance(value, type):
        take(f"({type(value).__name__}".encode())
        for field in fields(value):
            _feed(getattr(value, field.name), take)
    else:
        raise TypeError(f"a {type(value).__name__} is held as state, but nothing says how to write it down")


_SAMPLE = 32


def size_of(value: Any) -> int:
    """Return about how many bytes a value takes. Of a long list only some items are measured."""
    if isinstance(value, np.ndarray):
        return int(value.nbytes)
    if isinstance(value, dict):
        return 100 + 100 * len(value) + _sizes(value.values(), len(value))
    if isinstance(value, tuple | list | set | frozenset):
        return 60 + _sizes(value, len(value))
    if is_dataclass(value) and not isinstance(value, type):
        return 60 + sum(size_of(getattr(value, field.name)) for field in fields(value))
    return 40


def _sizes(values: Iterable[Any], count: int) -> int:
    if count <= 2 * _SAMPLE:
        return sum(map(size_of, values))
    some = [size_of(value) for value in islice(values, 0, None, count // _SAMPLE)]
    return sum(some) * count // len(some)
