"""Coverage as Cobertura XML, which servers that run checks can draw: a class for each rule, a line for each of its lines.

The format is that of the Cobertura coverage tool's DTD, coverage-04.dtd. A condition is a branch with two ways.
"""

from __future__ import annotations

import time
from collections.abc import Sequence
from pathlib import Path
from xml.etree import ElementTree

from gatillo.files.locate import lines_of
from gatillo.files.xml_text import printable
from gatillo.inspect.coverage import Covered
from gatillo.level.model import Graph, Level, Section


def write_cobertura(found: Sequence[tuple[Path, Level, Sequence[Covered]]], path: Path) -> None:
    """Write what was reached of some levels. Raises OSError when it cannot be written.

    A line's number is that of the level's file on which it begins.
    """
    every = [one for _, _, covered in found for one in covered if one.counts]
    root = ElementTree.Element("coverage", _rates(every))
    root.set("version", "gatillo")
    root.set("timestamp", str(int(time.time())))
    root.set("complexity", "0")
    reached, ways = _branches(every)
    lines = [one for one in every if one.place]
    root.set("lines-valid", str(len(lines)))
    root.set("lines-covered", str(sum(one.state == "acted" for one in lines)))
    root.set("branches-valid", str(ways))
    root.set("branches-covered", str(reached))
    ElementTree.SubElement(ElementTree.SubElement(root, "sources"), "source").text = "."
    packages = ElementTree.SubElement(root, "packages")
    for file, level, covered in found:
        counted = [one for one in covered if one.counts]
        package = ElementTree.SubElement(packages, "package", _rates(counted))
        package.set("name", printable(file.stem))
        package.set("complexity", "0")
        classes = ElementTree.SubElement(package, "classes")
        numbers = _numbers(file, level)
        names = dict.fromkeys((one.rule, one.name) for one in counted)
        for rule, name in names:
            mine = [one for one in counted if (one.rule, one.name) == (rule, name)]
            _class(classes, file, name, mine, numbers)
    ElementTree.indent(root)
    ElementTree.ElementTree(root).write(path, encoding="utf-8", xml_declaration=True)


def _class(
    classes: ElementTree.Element,
    file: Path,
    name: str,
    covered: Sequence[Covered],
    numbers: dict[tuple[int, str], int],
) -> None:
    made = ElementTree.SubElement(classes, "class", _rates(covered))
    made.set("name", printable(name))
    made.set("filename", printable(str(file)))
    made.set("complexity", "0")
    ElementTree.SubElement(made, "methods")
    lines = ElementTree.SubElement(made, "lines")
    # a card and its outputs are one line with branches
    at: dict[int, list[Covered]] = {}
    for one in covered:
        place = " ".join(one.place.split()[:2])
        number = numbers.get((one.rule, place), numbers.get((one.rule, ""), 1))
        at.setdefault(number, []).append(one)
    for number, items in at.items():
        line = ElementTree.SubElement(lines, "line", number=str(number))
        line.set("hits", str(int(items[0].state == "acted")))
        reached, ways = _branches(items)
        line.set("branch", "true" if ways else "false")
        if ways:
            line.set("condition-coverage", f"{round(100 * reached / ways)}% ({reached}/{ways})")


def _branches(covered: Sequence[Covered]) -> tuple[int, int]:
    pairs = [one.parts for one in covered if one.sort in ("condition", "output")]
    return sum(reached for reached, _ in pairs), sum(ways for _, ways in pairs)


def _rates(covered: Sequence[Covered]) -> dict[str, str]:
    lines = [one for one in covered if one.place]
    done = sum(one.state == "acted" for one in lines)
    reached, ways = _branches(covered)
    return {
        "line-rate": f"{done / len(lines):.4f}" if lines else "1.0000",
        "branch-rate": f"{reached / ways:.4f}" if ways else "1.0000",
    }


def _numbers(file: Path, level: Level) -> dict[tuple[int, str], int]:
    """Return on which line of a level's file each line of a rule and each card begins, by the rule's id and the place."""
    try:
        lines = lines_of(file.read_text(encoding="utf-8"))
    except (OSError, UnicodeError):
        return {}
    found: dict[tuple[int, str], int] = {}
    for at, entry in enumerate(level.order):
        rules = entry.rules if isinstance(entry, Section) else (entry,)
        for inner, rule in enumerate(rules):
            path = f"$.order[{at}].rules[{inner}]" if isinstance(entry, Section) else f"$.order[{at}]"
            found[rule.id, ""] = lines.get(path, 1)
            if isinstance(rule, Graph):
                for card, node in enumerate(rule.nodes):
                    found[rule.id, f"card {node.id}"] = lines.get(f"{path}.nodes[{card}]", 1)
                continue
            for part in ("when", "if", "do", "else"):
                before = f"{path}.{part}["
                for one, number in lines.items():
                    if one.startswith(before) and one.endswith("]"):
                        places = one[len(before) :].rstrip("]").split("].of[")
                        if all(p.isdigit() for p in places):
                            found[rule.id, f"{part} {'.'.join(str(int(p) + 1) for p in places)}"] = number
    return found
