"""JSON-RPC 2.0: what a peer asks, checked and answered, and what goes wrong as the standard's error objects.

The standard: JSON-RPC 2.0 Specification, JSON-RPC Working Group, 2013.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

import msgspec

from gatillo.serving.messages import METHODS, Params, Result

PARSE, INVALID, NO_METHOD, PARAMS, INTERNAL, REFUSED = -32700, -32600, -32601, -32602, -32603, -32000
"""The standard's codes, and ours for what cannot be done now."""
MOST_AT_ONCE = 100
"""Requests in one batch."""
Answer = Callable[[Any], Result]
Logged = Callable[[BaseException], object]


class Refused(Exception):
    """Something that cannot be done now; the message says why, in a sentence."""


def encoded(message: object) -> bytes:
    """Return a message as JSON; what is no number of JSON becomes null."""
    return msgspec.json.encode(message)


def failure(number: Any, code: int, words: str) -> dict[str, Any]:
    """Return an error object for a request with an id; None where the id is not known."""
    return {"jsonrpc": "2.0", "id": number, "error": {"code": code, "message": words}}


def answered(raw: bytes, methods: Mapping[str, Answer], logged: Logged = lambda _: None) -> bytes | None:
    """Return the answer to a message, a request or a batch of them; None where nothing is to be answered."""
    try:
        message = msgspec.json.decode(raw)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        return encoded(failure(None, PARSE, f"this is not JSON: {str(error)[:200]}"))
    if not isinstance(message, list):
        one = _one(message, methods, logged)
        return None if one is None else encoded(one)
    if not message or len(message) > MOST_AT_ONCE:
        words = f"a batch has 1 to {MOST_AT_ONCE} requests, not {len(message):,}"
        return encoded(failure(None, INVALID, words))
    some = [answer for request in message if (answer := _one(request, methods, logged)) is not None]
    return encoded(some) if some else None


def _one(request: Any, methods: Mapping[str, Answer], logged: Logged) -> dict[str, Any] | None:
    """Return the answer to a request; None to a notification, even to one that fails."""
    if not isinstance(request, dict) or request.get("jsonrpc") != "2.0":
        return failure(None, INVALID, "a request is an object with “jsonrpc”: “2.0”")
    known = "id" in request
    number = request.get("id")
    if known and (isinstance(number, bool) or not isinstance(number, str | int | float | None)):
        return failure(None, INVALID, "an id is a text or a number")
    name = request.get("method")
    if not isinstance(name, str):
        return failure(number, INVALID, "a request has a method, by its name")
    found = _result(name, request.get("params"), methods, logged)
    if not known:
        return None
    if isinstance(found, Result):
        return {"jsonrpc": "2.0", "id": number, "result": found}
    code, words = found
    return failure(number, code, words)


def _result(
    name: str, params: Any, methods: Mapping[str, Answer], logged: Logged
) -> Result | tuple[int, str]:
    if name not in METHODS or name not in methods:
        return NO_METHOD, f"there is no method “{name[:100]}”; there are: {', '.join(methods)}"
    try:
        asked = _params(METHODS[name][0], params)
    except (msgspec.ValidationError, RecursionError) as error:
        return PARAMS, f"{name}: {error}"
    try:
        return methods[name](asked)
    except Refused as error:
        return REFUSED, str(error)
    except Exception as error:
        # a fault of ours must not end the connection
        logged(error)
        return INTERNAL, f"{name} failed: {type(error).__name__}"


def _params(kind: type[Params], params: Any) -> Params:
    """Return parameters given by name, or one after the other, as a record. Raises ValidationError."""
    if params is None:
        params = {}
    if isinstance(params, list):
        fields = msgspec.structs.fields(kind)
        if len(params) > len(fields):
            raise msgspec.ValidationError(f"there are {len(fields)} parameters at most, not {len(params)}")
        params = {field.name: value for field, value in zip(fields, params, strict=False)}
    if not isinstance(params, dict):
        raise msgspec.ValidationError("parameters are an object or a list")
    return msgspec.convert(params, kind)
