"""A client for programs in Python: drives a run in another process, or over a local socket.

with gatillo.connect(Path("garden.gatillo")) as garden:
garden.open(trial="The whole round")
garden.subscribe()
garden.hold(keys=["Right"])
garden.step(count=60)
print(garden.variables().values, garden.changes())
"""

from __future__ import annotations

import queue
import socket
import subprocess
import sys
import threading
from collections import deque
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from types import TracebackType
from typing import Any, BinaryIO, Self, cast

import msgspec

from gatillo.serving.framing import Broken, Over, framed, read_frame
from gatillo.serving.messages import METHODS, Changed, Result

PATIENCE = 60.0
"""Seconds for which an answer is waited for."""
MOST_CHANGES = 100_000
"""Ticks whose changes are kept until they are taken; the oldest give way."""


class RemoteError(Exception):
    """What the server answered in the place of a result: a sentence, with the standard's `code`."""

    def __init__(self, code: int, message: str) -> None:
        super().__init__(message)
        self.code = code


class Client:
    """A connection to a server. Each method of the protocol is a method here: `step(count=3)` returns its result as a record."""

    def __init__(self, reading: BinaryIO, writing: BinaryIO, close: Callable[[], object]) -> None:
        self._reading, self._writing, self._close = reading, writing, close
        self._number = 0
        self._answers: queue.Queue[dict[str, Any] | None] = queue.Queue()
        self._changes: deque[Changed] = deque(maxlen=MOST_CHANGES)
        self._thread = threading.Thread(target=self._read, name="client", daemon=True)
        self._thread.start()

    def __getattr__(self, name: str) -> Callable[..., Any]:
        if name not in METHODS:
            raise AttributeError(f"a client has no method “{name}”; it has: {', '.join(METHODS)}")
        return lambda **params: self.call(name, **params)

    def __dir__(self) -> list[str]:
        return sorted([*super().__dir__(), *METHODS])

    def call(self, method: str, **params: Any) -> Result:
        """Ask something and return the answer, a record of `gatillo.serving.messages`.

        Raises RemoteError where the server refuses, with its sentence; ConnectionError if the connection has ended.
        """
        self._number += 1
        message = {"jsonrpc": "2.0", "id": self._number, "method": method, "params": params}
        try:
            self._writing.write(framed(msgspec.json.encode(message)))
            self._writing.flush()
        except (OSError, ValueError) as error:
            raise ConnectionError(f"the connection has ended: {error}") from None
        try:
            answer = self._answers.get(timeout=PATIENCE)
        except queue.Empty:
            raise TimeoutError(f"no answer to “{method}” within {PATIENCE:g} s") from None
        if answer is None:
            raise ConnectionError("the connection has ended")
        if "error" in answer:
            raise RemoteError(answer["error"]["code"], answer["error"]["message"])
        return msgspec.convert(answer["result"], METHODS[method][1])

    def changes(self) -> list[Changed]:
        """Return what changed in each tick since this was asked last, the oldest first. `subscribe` begins it."""
        found: list[Changed] = []
        while self._changes:
            found.append(self._changes.popleft())
        return found

    def _read(self) -> None:
        while True:
            try:
                message = msgspec.json.decode(read_frame(self._reading))
            except (Broken, msgspec.DecodeError):
                continue
            except (Over, OSError, ValueError):
                break
            if message.get("method") == "changed":
                self._changes.append(msgspec.convert(message["params"], Changed))
            elif "method" not in message:
                self._answers.put(message)
        self._answers.put(None)

    def close(self) -> None:
        """End the connection; a server that was started with it ends too."""
        self._close()

    def __enter__(self) -> Self:
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        self.close()


def connect(where: Path | str | int) -> Client:
    """Return a client: of a server of its own for a level file, or of one that runs at a socket file or at a port.

    Raises OSError if there is no server at that socket or port.
    """
    if isinstance(where, int):
        return _over(socket.create_connection(("127.0.0.1", where), timeout=10))
    path = Path(where)
    if path.is_socket():
        unix = socket.socket(socket.AF_UNIX)
        unix.connect(str(path))
        return _over(unix)
    words = [sys.executable, "-m", "gatillo.cli.main", "serve", str(path)]
    process = subprocess.Popen(words, stdin=subprocess.PIPE, stdout=subprocess.PIPE)
    assert process.stdin is not None and process.stdout is not None
    writing, reading = process.stdin, process.stdout

    def close() -> None:
        writing.close()
        try:
            process.wait(10)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()
        reading.close()

    return Client(cast(BinaryIO, reading), cast(BinaryIO, writing), close)


def _over(connection: socket.socket) -> Client:
    connection.settimeout(None)

    def close() -> None:
        # the other side may have ended it
        with suppress(OSError):
            connection.shutdown(socket.SHUT_RDWR)
        connection.close()

    return Client(cast(BinaryIO, connection.makefile("rb")), cast(BinaryIO, connection.makefile("wb")), close)
