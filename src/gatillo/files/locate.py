"""Finding the line of a part of the document in its JSON text."""

from __future__ import annotations

import re

_STEP = re.compile(r"\.([^.\[]+)|\[(\d+)\]|\[\.\.\.\]")
_STRING = re.compile(r'"(?:[^"\\]|\\.)*"')
_SPACE = re.compile(r"[\s,:]*")
_SCALAR = re.compile(r"[^\s,\]}]+")


def line_of(text: str, path: str) -> int:
    """Return the line (from 1) on which the part at `path` (such as `$.objects[2].kind`) begins.

    A path that leads nowhere gives the line of the last part of it that exists.
    """
    at = _skip(text, 0)
    for key, number in _STEP.findall(path):
        found = _member(text, at, key) if key else _item(text, at, int(number)) if number else None
        if found is None:
            break
        at = found
    return text.count("\n", 0, at) + 1


def _skip(text: str, at: int) -> int:
    match = _SPACE.match(text, at)
    return match.end() if match else at


def _after(text: str, at: int) -> int:
    """Return the position after the value that starts here."""
    if at >= len(text):
        return at
    if text[at] == '"':
        match = _STRING.match(text, at)
        return match.end() if match else len(text)
    if text[at] not in "[{":
        match = _SCALAR.match(text, at)
        return match.end() if match else at + 1
    depth = 0
    while at < len(text):
        character = text[at]
        if character == '"':
            match = _STRING.match(text, at)
            at = match.end() if match else len(text)
            continue
        depth += (character in "[{") - (character in "]}")
        at += 1
        if depth == 0:
            break
    return at


def _member(text: str, at: int, key: str) -> int | None:
    if at >= len(text) or text[at] != "{":
        return None
    at = _skip(text, at + 1)
    while at < len(text) and text[at] == '"':
        end = _after(text, at)
        name = text[at + 1 : end - 1]
        at = _skip(text, end)
        if name == key:
            return at
        at = _skip(text, _after(text, at))
    return None


def _item(text: str, at: int, number: int) -> int | None:
    if at >= len(text) or text[at] != "[":
        return None
    at = _skip(text, at + 1)
    while at < len(text) and text[at] != "]":
        if number == 0:
            return at
        number -= 1
        at = _skip(text, _after(text, at))
    return None


_TOKEN = re.compile(r'"(?:[^"\\]|\\.)*"|[{}\[\],:]|[^\s{}\[\],:"]+')


def lines_of(text: str) -> dict[str, int]:
    """Return the line (from 1) on which each value of a JSON text begins, by its path, such as `$.order[2].do[0]`.

    The text must be whole JSON: it is that of a file that has been read.
    """
    found: dict[str, int] = {"$": 1}
    line, last = 1, 0
    path: list[str] = ["$"]
    """The paths of the objects and arrays within which it is, and of the value at hand."""
    within: list[tuple[str, int]] = []
    """By object or array: which of both, and how many values it has had."""
    key = ""
    for token in _TOKEN.finditer(text):
        line += text.count("\n", last, token.start())
        last = token.start()
        word = token[0]
        if word in "}]":
            within.pop()
            path.pop()
        elif word == ",":
            sort, many = within[-1]
            within[-1] = (sort, many + 1)
            key = ""
        elif word == ":":
            continue
        elif within and within[-1][0] == "{" and not key:
            key = word[1:-1]
        else:
            here = path[-1]
            if within:
                sort, many = within[-1]
                here = f"{here}.{key}" if sort == "{" else f"{here}[{many}]"
                found[here] = line
            if word in "{[":
                within.append((word, 0))
                path.append(here)
                key = ""
    return found
