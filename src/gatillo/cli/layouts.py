"""`gatillo export` and `gatillo import`: layouts as SVG and CSV."""

from __future__ import annotations

from pathlib import Path

from gatillo.cli.console import give_up, out
from gatillo.cli.levels import level_from, trial_from
from gatillo.files.layout.objects_csv import Taken, objects_as_csv, take_csv
from gatillo.files.layout.svg_in import NoDrawing, read_drawing, suggested, take_drawing
from gatillo.files.layout.svg_out import level_svg
from gatillo.files.level_file import LevelFileError, write_level
from gatillo.files.reading import NotRead, NotThere, bytes_of
from gatillo.level.edits import as_tried
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run

MOST_BYTES = 16 << 20


def export_layout(file: Path, result: Path, trial: str | None, tick: int | None) -> None:
    """Write the objects of a level as CSV, or the level as SVG: as laid out, or at the end of a tick."""
    level = level_from(file)
    ending = result.suffix.lower()
    if ending not in (".svg", ".csv"):
        give_up(f"a layout is written as .svg or .csv; “{result.name}” ends otherwise")
    world = None
    if tick is not None:
        if ending == ".csv":
            give_up("the table has objects as they are laid out; leave out --tick, or write .svg")
        chosen = trial_from(level, trial)
        run = Run(Program(as_tried(level, chosen)), chosen)
        run.advance(min(tick, run.length))
        world = run.world
    text = objects_as_csv(level) if ending == ".csv" else level_svg(level, world)
    try:
        result.write_text(text, encoding="utf-8")
    except OSError as error:
        give_up(f"“{result}” cannot be written: {error.strerror or error}")


def import_layout(file: Path, layout: Path, result: Path | None, meanings: list[str], *, show: bool) -> bool:
    """Take a layout into a level and write it; return whether all of it was understood. With `show` only the table is printed."""
    level = level_from(file)
    text = _text_of(layout)
    if layout.suffix.lower() == ".csv":
        taken = take_csv(level, text)
    else:
        try:
            drawing = read_drawing(text)
        except NoDrawing as error:
            give_up(f"“{layout.name}” was not read: {error}")
        table = suggested(level, drawing)
        for meaning in meanings:
            row, equals, what = meaning.partition("=")
            if not equals or row.strip() not in table:
                give_up(f"“{meaning}”: write ROW=WHAT, where ROW is one of: {', '.join(table) or 'none'}")
            table[row.strip()] = what.strip()
        many = drawing.rows()
        for row, what in table.items():
            out.print(f"{row} ({many[row]}): {what}", markup=False)
        if show:
            return True
        taken = take_drawing(level, drawing, table)
    _tell(taken)
    try:
        write_level(result or file, taken.level)
    except LevelFileError as error:
        give_up(str(error))
    return not taken.problems


def _tell(taken: Taken) -> None:
    out.print(taken.words(), markup=False)
    for problem in taken.problems:
        out.print(f"  {problem}", markup=False)


def _text_of(path: Path) -> str:
    try:
        return bytes_of(path, MOST_BYTES).decode("utf-8")
    except NotThere:
        give_up(f"there is no file “{path}”")
    except NotRead as error:
        give_up(f"“{path.name}” {error}")
    except UnicodeDecodeError:
        give_up(f"“{path.name}” is not text in UTF-8")
