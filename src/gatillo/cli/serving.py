"""`gatillo serve` and `gatillo debug`: a run that another program drives, or an editor steps through."""

from __future__ import annotations

import sys
from pathlib import Path

from gatillo.cli.console import give_up
from gatillo.cli.levels import level_from
from gatillo.serving.debug_adapter import Adapter
from gatillo.serving.server import PortServer, SocketServer, port_server, serve_stream, socket_server


def serve_runs(file: Path | None, *, socket: Path | None, port: int | None) -> None:
    """Serve until the other side ends it, or Ctrl+C."""
    level = level_from(file) if file is not None else None
    folder = file.resolve().parent if file is not None else None
    if socket is None and port is None:
        serve_stream(sys.stdin.buffer, sys.stdout.buffer, level, folder)
        return
    server: PortServer | SocketServer
    try:
        if socket is not None:
            server, where = socket_server(socket, level, folder), str(socket)
        else:
            server = port_server(port or 0, level, folder)
            where = f"port {server.port}"
    except OSError as error:
        give_up(f"nothing can be served at {socket or f'port {port}'}: {error.strerror or error}")
    print(f"serving at {where}; Ctrl+C ends it", file=sys.stderr, flush=True)
    try:
        server.serve_forever()
    finally:
        server.server_close()
        if socket is not None:
            socket.unlink(missing_ok=True)


def debug(file: Path | None) -> None:
    """Let an editor step through a run, over standard input and output."""
    adapter = Adapter(sys.stdin.buffer, sys.stdout.buffer)
    if file is not None:
        adapter = Adapter(sys.stdin.buffer, sys.stdout.buffer, level_from(file), file.stem)
    adapter.serve()
