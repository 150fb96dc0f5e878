"""Commands that make many runs: who does them, and how they end early."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

import typer

from gatillo.cli.console import err, give_up
from gatillo.inspect.work_queue import ClusterError, Crew, cores

BROKEN_OFF = 130
"""The exit code after Ctrl+C, as shells have it."""


@contextmanager
def working(jobs: int, cluster: str) -> Iterator[Crew]:
    """Return a context with the crew for a command: so many processes, 0 for one on each core, or a cluster's workers.

    Ctrl+C ends the command with 130; a cluster that cannot be used ends it with a sentence.
    """
    try:
        yield Crew(jobs or cores(), cluster)
    except KeyboardInterrupt:
        err.print("broken off")
        raise typer.Exit(BROKEN_OFF) from None
    except ClusterError as error:
        give_up(str(error))
