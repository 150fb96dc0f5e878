"""Reading typed lines, with every key press: in Night shift, and in a level with 300 kinds and 2,000 names."""

from __future__ import annotations

import statistics
import time

from rich.console import Console
from rich.table import Table

from gatillo.examples import DEMO, study_path
from gatillo.files.level_file import read_level
from gatillo.language.rule_lines import read_line
from gatillo.language.typed_words import split_words
from gatillo.level.model import FORMAT_VERSION, Circle, Kind, Level, Object, Spot, Variable
from gatillo.level.roles import Index

IN_NIGHT_SHIFT = (
    "gardener hits pod",
    "set gardener x to 20",
    "move the goose to porch step in 2 seconds",
    "if seed bomb.charge > 50 and lamp.visits < 3",
    "when gardener hits pod if pods < 3 destroy pod and add 1 to pods else say full at gardener",
)
IN_THE_LARGE = (
    "thing a0 hits thing b1",
    "move thing c2 to spot 44 over 2 s",
    "when thing a0 touches thing b1 if n4 > 3 remove thing b1 and add 1 to n5",
    "set thing d3.v1 to n7 * 2",
)


def large() -> Level:
    """Return a level of 300 kinds, 1,200 objects, 500 spots and 100 variables."""
    kinds = tuple(
        Kind(
            name=f"Thing {chr(97 + n % 26)}{n}",
            shape=Circle(radius=5.0),
            variables=tuple(Variable(name=f"v{m}") for m in range(3)),
        )
        for n in range(300)
    )
    objects = tuple(
        Object(id=4 * n + m + 1, kind=kind.name, name=f"{kind.name} {m}", x=9.0 * m, y=float(n))
        for n, kind in enumerate(kinds)
        for m in range(4)
    )
    return Level(
        format=FORMAT_VERSION,
        name="large",
        kinds=kinds,
        objects=objects,
        places=tuple(Spot(name=f"spot {n}", x=float(n), y=float(n)) for n in range(500)),
        variables=tuple(Variable(name=f"n{n}") for n in range(100)),
    )


def pressed(level: Level, lines: tuple[str, ...]) -> tuple[list[float], list[float]]:
    """Return the seconds of each key press of some lines, and those of only parting them into words."""
    index = Index(level)
    read_line(index, "gardener hits pod")
    read, parted = [], []
    for line in lines:
        for end in range(1, len(line) + 1):
            start = time.perf_counter()
            read_line(index, line[:end])
            middle = time.perf_counter()
            split_words(line[:end] + " ")
            read.append(middle - start)
            parted.append(time.perf_counter() - middle)
    return read, parted


def main() -> None:
    table = Table(title="a typed line's readings, each key press")
    for title in ("level", "median", "95 of 100", "most", "aim", "× parting into words"):
        table.add_column(title)
    for name, level, lines, aim in (
        ("Night shift", read_level(study_path(DEMO)), IN_NIGHT_SHIFT, "15 ms"),
        ("300 kinds, 2,000 names", large(), IN_THE_LARGE, "50 ms"),
    ):
        read, parted = pressed(level, lines)
        ordered = sorted(read)
        table.add_row(
            name,
            f"{statistics.median(read) * 1e3:.1f} ms",
            f"{ordered[int(0.95 * len(ordered))] * 1e3:.1f} ms",
            f"{ordered[-1] * 1e3:.0f} ms",
            aim,
            f"{sum(read) / sum(parted):.0f}",
        )
    Console(highlight=False).print(table)


if __name__ == "__main__":
    main()
