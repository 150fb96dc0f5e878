"""Write what a Debian package has besides the program: its desktop files, and a manual page made from the commands.

Run by debian/rules with the Python of the package: `pages.py DATA_DIRECTORY`.
"""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Any

import typer

import gatillo
from gatillo.cli.main import app
from gatillo.desktop import write_files


def roff(text: str) -> str:
    """Return text as it stands in a manual page."""
    return text.replace("\\", "\\e").replace("-", "\\-").replace("\n.", "\n\\&.").replace("\n'", "\n\\&'")


def options(command: Any) -> list[str]:
    """Return the lines that describe a command's arguments and options."""
    lines = []
    context = command.context_class(command)
    for parameter in command.params:
        record = parameter.get_help_record(context)
        if record is not None:
            lines += [".TP", f".B {roff(record[0])}", roff(record[1])]
    return lines


def manual() -> str:
    """Return the manual page of `gatillo`."""
    group: Any = typer.main.get_command(app)
    lines = [
        f'.TH GATILLO 1 "" "Gatillo {gatillo.__version__}" "User Commands"',
        ".SH NAME",
        "gatillo \\- event rules and node graphs for level designers",
        ".SH SYNOPSIS",
        ".B gatillo",
        ".RI [ FILE ]",
        ".br",
        ".B gatillo",
        ".I COMMAND",
        "[OPTIONS] ...",
        ".SH DESCRIPTION",
        roff(group.help or ""),
        "Without a command the window is opened.",
        ".SH COMMANDS",
    ]
    for name, command in group.commands.items():
        if command.hidden:
            continue
        context = command.context_class(command, info_name=name)
        usage = " ".join(command.collect_usage_pieces(context))
        lines += [f".SS gatillo {roff(name)} {roff(usage)}", roff(command.help or ""), *options(command)]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    write_files(Path(sys.argv[1]), "gatillo")
    Path("debian/gatillo.1").write_text(manual(), "utf-8")
