"""Where the commands write to, and how they give up."""

from __future__ import annotations

from typing import NoReturn

import typer
from rich.console import Console

out = Console(highlight=False, soft_wrap=True)
err = Console(stderr=True, highlight=False, soft_wrap=True)


def give_up(sentence: str) -> NoReturn:
    """Say what is wrong and leave with exit code 2."""
    err.print(sentence, markup=False)
    raise typer.Exit(2)
