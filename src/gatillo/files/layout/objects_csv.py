"""Objects as a table: a row for each, for a spreadsheet or a script, and read back."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass, field
from typing import Any

import msgspec
from msgspec.structs import replace

from gatillo.formula.values import write_out
from gatillo.level.edits import free_object_id
from gatillo.level.model import Kind, Level, Object, Reference, Value
from gatillo.level.naming import FreeNames, did_you_mean, name_problem
from gatillo.level.validation import flaws

PLACE = ("x", "y", "angle", "scale")
COLUMNS = ("id", "kind", "name", *PLACE, "tags")
"""The columns that every table has; those after them are variables."""
YES, NO = ("yes", "true", "1"), ("no", "false", "0")


@dataclass(slots=True)
class Taken:
    """A level with what was read, how many objects were changed and added, and what was not understood, in sentences."""

    level: Level
    changed: int = 0
    added: int = 0
    problems: list[str] = field(default_factory=list)

    def words(self) -> str:
        """Return what came of it, in a line."""
        return f"{self.changed} changed, {self.added} added" + (
            f", {len(self.problems)} not understood" if self.problems else ""
        )


def objects_as_csv(level: Level) -> str:
    """Return the objects of a level as CSV (RFC 4180), with a column for each variable that an object gives a value of its own."""
    names = list(dict.fromkeys(name for thing in level.objects for name in thing.values))
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([*COLUMNS, *names])
    for thing in level.objects:
        place = [write_out(getattr(thing, field)) for field in PLACE]
        values = [_written(thing.values[name]) if name in thing.values else "" for name in names]
        writer.writerow([thing.id, thing.kind, thing.name, *place, " ".join(thing.tags), *values])
    return out.getvalue()


def _written(value: Value) -> str:
    if isinstance(value, Reference):
        return value.to
    if isinstance(value, tuple):
        return ", ".join(str(write_out(one)) for one in value)
    return str(write_out(value))


def take_csv(level: Level, text: str) -> Taken:
    """Return a level with the objects of a table: known by `id`, else by `name`, else new ones of their `kind`.

    An empty field leaves what there is. A row that is not understood changes nothing, and is told.
    """
    taken = _Rows(level, careful=False).all(text)
    # only where the whole does not hang together is each row looked at by itself
    return taken if next(flaws(taken.level), None) is None else _Rows(level, careful=True).all(text)


class _Rows:
    """Objects by id while rows are taken in."""

    def __init__(self, level: Level, *, careful: bool) -> None:
        self.level, self.careful = level, careful
        self.kinds = {kind.name: kind for kind in level.kinds}
        self.objects = {one.id: one for one in level.objects}
        self.by_name = {one.name: one.id for one in level.objects}
        self.free = FreeNames({*self.by_name, *self.kinds})
        self.next_id = free_object_id(level)
        self.taken = Taken(level)

    def all(self, text: str) -> Taken:
        """Take every row, and return what came of it."""
        taken = self.taken
        reader = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")))
        try:
            heads = [head.strip() for head in reader.fieldnames or ()]
            reader.fieldnames = heads
            if not {"id", "name", "kind"} & set(heads):
                taken.problems.append(
                    "the first row names no column “id”, “name” or “kind”, so nothing was taken"
                )
                return taken
            for number, row in enumerate(reader, 2):
                self._take_row(number, row)
        except csv.Error as error:
            taken.problems.append(f"row {reader.line_num}: this is not CSV: {error}")
        taken.level = self._whole()
        return taken

    def _whole(self) -> Level:
        return replace(self.level, objects=tuple(self.objects.values()))

    def _take_row(self, number: int, row: dict[str | Any, Any]) -> None:
        texts = {
            head: text.strip()
            for head, text in row.items()
            if head and isinstance(text, str) and text.strip()
        }
        if not texts:
            return
        try:
            if None in row:
                raise ValueError("it has more fields than the first row names")
            there = self._known(texts)
            new = self._made(texts, there)
            if new == there:
                return
            before = dict(self.objects) if self.careful else self.objects
            self.objects[new.id] = new
            if self.careful and (flaw := next(flaws(self._whole()), None)) is not None:
                self.objects = before
                raise ValueError(flaw.message)
        except ValueError as problem:
            self.taken.problems.append(f"row {number}: {problem}")
            return
        if there is not None:
            self.by_name.pop(there.name, None)
        self.by_name[new.name] = new.id
        self.taken.added += there is None
        self.taken.changed += there is not None

    def _known(self, texts: dict[str, str]) -> Object | None:
        """Return the object that a row is about; None for a new one. Raises ValueError."""
        if "id" in texts:
            if not texts["id"].isdecimal():
                raise ValueError(f"“{texts['id']}” is no id; an id is a whole number")
            found = self.objects.get(int(texts["id"]))
            if found is not None:
                return found
        number = self.by_name.get(texts.get("name", ""))
        return None if number is None else self.objects[number]

    def _made(self, texts: dict[str, str], there: Object | None) -> Object:
        """Return an object as a row has it. Raises ValueError with a sentence."""
        wanted = texts.get("kind", there.kind if there is not None else "")
        if wanted not in self.kinds:
            hint = did_you_mean(wanted, self.kinds)
            raise ValueError(f"there is no kind “{wanted}”{hint}" if wanted else "it names no kind")
        kind = self.kinds[wanted]
        fields: dict[str, Any] = {"kind": wanted}
        fields |= {name: _number(texts[name], name) for name in PLACE if name in texts}
        if "tags" in texts:
            fields["tags"] = tuple(texts["tags"].split())
        name = texts.get("name", "")
        if name and (problem := name_problem(name)):
            raise ValueError(problem)
        fields |= {"name": name} if name else {}
        fields["values"] = {**(there.values if there is not None else {}), **_values(kind, texts)}
        if there is not None:
            new = replace(there, **fields)
        else:
            if "x" not in fields or "y" not in fields:
                raise ValueError("a new object needs x and y")
            number = int(texts["id"]) if "id" in texts else self.next_id
            self.next_id = max(self.next_id, number + 1)
            new = Object(id=number, **{"name": name or self.free.take("", wanted), **fields})
        try:
            # whatever the table says, what comes of it can be saved
            msgspec.convert(msgspec.to_builtins(new), Object)
        except msgspec.ValidationError as error:
            raise ValueError(f"that cannot stand in a level: {error}") from None
        return new


def _number(text: str, name: str) -> float:
    try:
        return float(text.replace(",", ".")) if text.count(",") == 1 and "." not in text else float(text)
    except ValueError:
        raise ValueError(f"“{text}” is no number for {name}") from None


def _values(kind: Kind, texts: dict[str, str]) -> dict[str, Value]:
    """Return the variables that a row gives; a column that its kind does not have must be empty."""
    known = {variable.name: variable.value for variable in kind.variables}
    found: dict[str, Value] = {}
    for name, text in texts.items():
        if name in COLUMNS:
            continue
        if name not in known:
            raise ValueError(f"{kind.name} has no variable “{name}”{did_you_mean(name, known)}")
        found[name] = _value(text, known[name], name)
    return found


def _value(text: str, declared: Value, name: str) -> Value:
    if isinstance(declared, bool):
        if text.lower() not in YES + NO:
            raise ValueError(f"“{name}” is yes or no, not “{text}”")
        return text.lower() in YES
    if isinstance(declared, Reference):
        return replace(declared, to=text)
    if isinstance(declared, tuple):
        x, _, y = text.strip("()").partition(",")
        return _number(x, name), _number(y.strip(), name)
    return text if isinstance(declared, str) else _number(text, name)
