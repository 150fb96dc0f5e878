"""Connections: over standard input and output, or a local socket, each with a run of its own."""

from __future__ import annotations

import logging
import queue
import socket
import socketserver
import threading
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

from gatillo.level.model import Level
from gatillo.serving import messages as m
from gatillo.serving.dispatch import PARSE, answered, encoded, failure
from gatillo.serving.framing import Broken, Over, framed, read_frame
from gatillo.serving.session import Session

MOST_WAITING = 1_000
"""Messages that wait for a peer to read them."""
MOST_WAITING_BYTES = 64 << 20
PATIENCE = 5.0
"""Seconds for which a peer may leave everything unread; then it is dropped."""
MOST_CONNECTIONS = 16
LOOPBACK = "127.0.0.1"
log = logging.getLogger("gatillo.serving")


class Outbox:
    """Messages on their way to a peer, written by a thread of their own, so that a slow peer does not hold a run."""

    def __init__(self, stream: BinaryIO, drop: Callable[[], object]) -> None:
        self._stream, self._drop = stream, drop
        self._waiting: queue.Queue[bytes | None] = queue.Queue(MOST_WAITING)
        self._bytes = 0
        self._lock = threading.Lock()
        self.broken = threading.Event()
        self._thread = threading.Thread(target=self._write, name="outbox", daemon=True)
        self._thread.start()

    def put(self, message: object) -> None:
        """Send a message, once those before it are written; drop the peer if it does not read."""
        body = message if isinstance(message, bytes) else encoded(message)
        if self.broken.is_set():
            return
        with self._lock:
            self._bytes += len(body)
            too_much = self._bytes > MOST_WAITING_BYTES
        try:
            self._waiting.put(body, timeout=PATIENCE)
        except queue.Full:
            too_much = True
        if too_much:
            log.warning("a peer does not read what it is sent; it is dropped")
            self.broken.set()
            self._drop()

    def close(self) -> None:
        """Write what waits, for a moment, and end."""
        try:
            self._waiting.put(None, timeout=0.1)
        except queue.Full:
            return
        self._thread.join(PATIENCE)

    def _write(self) -> None:
        while (body := self._waiting.get()) is not None:
            if self.broken.is_set():
                continue
            try:
                self._stream.write(framed(body))
                self._stream.flush()
            except (OSError, ValueError):
                self.broken.set()
            with self._lock:
                self._bytes -= len(body)


def serve_stream(
    reading: BinaryIO,
    writing: BinaryIO,
    level: Level | None,
    folder: Path | None,
    drop: Callable[[], object] = lambda: None,
) -> None:
    """Answer what comes in on a stream until it ends."""
    outbox = Outbox(writing, drop)

    def notify(name: str, what: m.Result) -> None:
        outbox.put({"jsonrpc": "2.0", "method": name, "params": what})

    session = Session(level, folder, notify)
    session.gone = outbox.broken
    methods = session.methods()
    while not outbox.broken.is_set():
        try:
            raw = read_frame(reading)
        except Broken as broken:
            outbox.put(failure(None, PARSE, str(broken)))
            continue
        except Over as over:
            if str(over):
                outbox.put(failure(None, PARSE, str(over)))
            break
        except (OSError, ValueError):
            break
        answer = answered(raw, methods, lambda error: log.error("a request failed", exc_info=error))
        if answer is not None:
            outbox.put(answer)
    outbox.close()


class _Handler(socketserver.StreamRequestHandler):
    """One connection."""

    server: _Local

    def handle(self) -> None:
        if not self.server.room.acquire(blocking=False):
            words = f"there are {MOST_CONNECTIONS} connections already"
            self.wfile.write(framed(encoded(failure(None, -32000, words))))
            return
        try:
            drop = self._drop
            serve_stream(self.rfile, self.wfile, self.server.level, self.server.folder, drop)  # type: ignore[arg-type]
        finally:
            self.server.room.release()

    def _drop(self) -> None:
        # also ends a write that waits for the peer
        self.connection.shutdown(socket.SHUT_RDWR)


class _Local(socketserver.ThreadingMixIn, socketserver.BaseServer):
    daemon_threads = True
    level: Level | None
    folder: Path | None
    room: threading.BoundedSemaphore

    def open_for(self, level: Level | None, folder: Path | None) -> None:
        self.level, self.folder = level, folder
        self.room = threading.BoundedSemaphore(MOST_CONNECTIONS)


class PortServer(_Local, socketserver.TCPServer):
    """Connections to a port of this machine; other machines cannot reach it."""

    allow_reuse_address = True

    @property
    def port(self) -> int:
        """Which port it is."""
        return int(self.socket.getsockname()[1])


class SocketServer(_Local, socketserver.UnixStreamServer):
    """Connections to a socket of the file system; who may write to the file may connect."""


def port_server(port: int, level: Level | None, folder: Path | None) -> PortServer:
    """Return a server for a port, 0 for any free one; `serve_forever` begins. Raises OSError."""
    server = PortServer((LOOPBACK, port), _Handler)
    server.open_for(level, folder)
    return server


def socket_server(path: Path, level: Level | None, folder: Path | None) -> SocketServer:
    """Return a server for a socket file, which only its owner can write to. Raises OSError."""
    server = SocketServer(str(path), _Handler, bind_and_activate=False)
    server.server_bind()
    path.chmod(0o600)
    server.server_activate()
    server.open_for(level, folder)
    return server
