"""Draws the floors of the code from its imports: docs/floors.svg. With --check says whether the picture is current.

A row for each floor, the topmost first; a dot under each floor that it imports from. What imports from a floor above
would stand right of the steps and be drawn in red (import-linter forbids it).
"""

from __future__ import annotations

import ast
import sys
import tomllib
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
SOURCE = ROOT / "src" / "gatillo"
PICTURE = ROOT / "docs" / "floors.svg"


def _floors() -> tuple[str, ...]:
    """Return the floors from the lowest up, as import-linter's layers in pyproject.toml state them.

    A package whose own floors are stated there stands as these; those of the desk stand under docs/architecture.md.
    """
    contracts = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["importlinter"]["contracts"]
    layers = {
        container: [name for layer in contract["layers"] for name in layer.split(" : ")]
        for contract in contracts
        for container in contract.get("containers", ())
    }
    del layers["gatillo.desk"]
    return tuple(
        floor
        for name in reversed(layers.pop("gatillo"))
        for floor in [
            *(f"{name}.{inner}" for inner in reversed(layers.get(f"gatillo.{name}", ()))),
            *([] if f"gatillo.{name}" in layers else [name]),
        ]
    )


FLOORS = _floors()
STEP, LEFT, TOP = 26, 130, 100


def floor_of(module: str) -> str | None:
    """The floor of a module's dotted name, without `gatillo.`."""
    return next((f for f in FLOORS if module == f or module.startswith(f + ".")), None)


def imports() -> dict[str, set[str]]:
    """The floors that each floor imports from."""
    found: dict[str, set[str]] = {floor: set() for floor in FLOORS}
    for path in sorted(SOURCE.rglob("*.py")):
        name = ".".join(path.relative_to(SOURCE).with_suffix("").parts).removesuffix(".__init__")
        floor = floor_of(name)
        for node in ast.walk(ast.parse(path.read_text())) if floor else ():
            if isinstance(node, ast.ImportFrom) and (node.module or "").startswith("gatillo."):
                other = floor_of((node.module or "").removeprefix("gatillo."))
                if other is not None and other != floor:
                    found[str(floor)].add(other)
    return found


def picture() -> str:
    """The picture as SVG."""
    found = imports()
    many = len(FLOORS)
    wide, high = LEFT + STEP * many + 20, TOP + STEP * many + 20
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {high}" font-family="sans-serif" font-size="13">',
        f'<rect width="{wide}" height="{high}" fill="#FBFAF6"/>',
    ]
    for column, floor in enumerate(FLOORS):
        x = LEFT + STEP * column + STEP // 2
        parts.append(
            f'<text transform="translate({x + 4} {TOP - 8}) rotate(-60)" fill="#22303A">{floor}</text>'
        )
    for row, floor in enumerate(reversed(FLOORS)):
        y = TOP + STEP * row
        own = many - 1 - row
        parts.append(f'<text x="{LEFT - 10}" y="{y + 18}" text-anchor="end" fill="#22303A">{floor}</text>')
        parts.append(
            f'<rect x="{LEFT}" y="{y + 1}" width="{STEP * (own + 1)}" height="{STEP - 2}" fill="#E8ECE6"/>'
        )
        for column, other in enumerate(FLOORS):
            if other in found[floor]:
                colour = "#B3261E" if column > own else "#1E6F8A"
                x = LEFT + STEP * column + STEP // 2
                parts.append(f'<circle cx="{x}" cy="{y + STEP // 2}" r="6" fill="{colour}"/>')
    return "\n".join([*parts, "</svg>", ""])


def main() -> int:
    """Write the picture, or check it."""
    if "--check" in sys.argv:
        if not PICTURE.exists() or PICTURE.read_text() != picture():
            print("docs/floors.svg is stale: run make schema")
            return 1
        return 0
    PICTURE.write_text(picture())
    return 0


if __name__ == "__main__":
    sys.exit(main())
