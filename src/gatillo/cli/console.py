"""Where the commands write, and how they exit with an error."""

from __future__ import annotations

from functools import cache
from typing import TYPE_CHECKING, Any, NoReturn

import typer

if TYPE_CHECKING:
    from rich.console import Console


class Later:
    """A console that is made when it is first written to: the window and `--help` need none."""

    def __init__(self, *, stderr: bool = False) -> None:
        self._stderr = stderr

    @property
    def made(self) -> Console:
        """The console itself."""
        return _console(self._stderr)

    def __getattr__(self, name: str) -> Any:
        return getattr(self.made, name)


@cache
def _console(stderr: bool) -> Console:
    from rich.console import Console

    return Console(stderr=stderr, highlight=False, soft_wrap=True)


out = Later()
err = Later(stderr=True)


def give_up(sentence: str) -> NoReturn:
    """Say what is wrong and leave with exit code 2."""
    err.print(sentence, markup=False)
    raise typer.Exit(2)
