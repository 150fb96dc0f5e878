"""The sheet of a trial: length, seed, keys that are held, and what must hold."""

from __future__ import annotations

from collections.abc import Callable
from string import Formatter
from typing import Literal, get_args, get_origin, get_type_hints

from msgspec.structs import replace
from PySide6.QtWidgets import QLineEdit, QVBoxLayout

from gatillo.desk.session.rename_things import take_name
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.form import Form
from gatillo.desk.sheet.part_menu import part_button
from gatillo.formula.compiling import compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.expectations import faults_amiss
from gatillo.level import thing_edits
from gatillo.level.document import Duration
from gatillo.level.edits import change_trial
from gatillo.level.expectations import (
    KINDS,
    Expectation,
    RuleName,
    YesNo,
)
from gatillo.level.keys import KEYS, POINTER_KEYS
from gatillo.level.model import Input, KeyBar, Trial
from gatillo.level.roles import all_logic


def trial_page(bench: Workbench, column: QVBoxLayout, trial: Trial) -> None:
    """Fields of a trial."""
    form = Form(bench, column, "trial")

    def put(label: str, **fields: object) -> None:
        level = change_trial(bench.level, trial.name, lambda t: replace(t, **fields))
        bench.edit(level, f"{label} of “{trial.name}”", join=f"trial {trial.name} {' '.join(fields)}")

    taken = [t.name for t in bench.level.trials if t is not trial]
    form.text("name", "name", trial.name, lambda text: take_name(bench, "trial", trial.name, text, taken))
    form.number(
        "length",
        "length",
        trial.length,
        lambda v: put("change the length", length=v),
        least=0.1,
        most=3600,
        suffix=" s",
    )
    form.number(
        "seed",
        "seed",
        trial.seed,
        lambda v: put("change the seed", seed=int(v)),
        least=0,
        most=1e9,
        decimals=0,
    )
    form.text(
        "tick rates",
        "rates",
        ", ".join(map(str, trial.rates)),
        lambda text: _take_rates(put, text),
        hint="30, 60, 120",
    )
    form.number(
        "faults expected",
        "faults",
        trial.faults,
        lambda v: put("change how many faults are expected", faults=int(v)),
        least=0,
        most=1e6,
        decimals=0,
    )
    fails = form.number(
        "failures expected",
        "fails",
        trial.fails,
        lambda v: put("change how many expectations are to fail", fails=int(v)),
        least=0,
        most=1e5,
        decimals=0,
    )
    fails.setToolTip(
        "For a trial that shows a mistake: how many expectations must fail. The trial passes when exactly that many fail"
    )
    amiss = faults_amiss(bench.run) if bench.run.done >= bench.run.length else ""
    if amiss and bench.trial.name == trial.name:
        form.finding(f"this trial does not pass: {amiss}")
    _expectations(form, trial)
    _keys(form, trial)
    _watches(form, trial, put)
    moves, choices = len(trial.input.pointer), len(trial.input.choices)
    if moves or choices:
        form.words(f"The script also holds {moves} moves of the pointer and {choices} choices.")
    form.buttons(
        form.button("Clear the input", "clear-input", lambda: put("clear the input", input=Input())),
        form.button("Delete the trial", "delete", lambda: _delete(bench, trial)),
    )


def _delete(bench: Workbench, trial: Trial) -> None:
    bench.select(Selection())
    bench.edit(thing_edits.delete_trial(bench.level, trial.name), f"delete the trial “{trial.name}”")


def _take_rates(put: Callable[..., None], text: str) -> str | None:
    try:
        rates = tuple(int(part) for part in text.replace(",", " ").split())
    except ValueError:
        return "write tick rates as whole numbers, such as 30, 60, 120"
    if any(not 10 <= rate <= 240 for rate in rates):
        return "a tick rate must be between 10 and 240 a second"
    put("change the tick rates", rates=rates)
    return None


# what must hold


def _expectations(form: Form, trial: Trial) -> None:
    bench = form.bench
    form.heading("What must hold")
    rules = [entry.name for _, _, entry in all_logic(bench.level)]
    for at, expectation in enumerate(trial.expectations):
        _expectation(form, trial, at, expectation, rules)
    adder = form.combo(
        "add-expectation",
        "add an expectation",
        None,
        [(kind.blank(rules), kind.offer) for kind in KINDS if kind.offer],
        lambda made: bench.edit(
            thing_edits.add_expectation(bench.level, trial.name, made),
            f"expect that {made.sentence()}",
        ),
    )
    adder.setPlaceholderText("+ expectation")
    row = form.row()
    row.addWidget(adder)
    row.addWidget(
        part_button(
            form,
            "expectations",
            trial.name,
            trial.expectations,
            [one.sentence() for one in trial.expectations],
        )
    )
    form.full(form.box(row))


def _expectation(form: Form, trial: Trial, at: int, expectation: Expectation, rules: list[str]) -> None:
    bench = form.bench
    names = [(r, r) for r in rules]

    def put(changed: Expectation | None) -> None:
        words = (changed if changed is not None else expectation).sentence()
        label = f"expect that {words}" if changed is not None else f"no longer expect that {words}"
        bench.edit(
            thing_edits.set_expectation(bench.level, trial.name, at, expectation, changed),
            label,
            join=f"expect {trial.name} {at}",
        )

    def field(**fields: object) -> None:
        put(replace(expectation, **fields))

    def formula(of: str, text: str) -> str | None:
        try:
            compile_formula(bench.program.index, text, "yes/no")
        except FormulaError as error:
            return error.message
        field(**{of: text})
        return None

    name = f"expect-{at}"
    hints = get_type_hints(type(expectation), include_extras=True)
    row = form.row()
    if not expectation.row():
        row.addWidget(form.words(expectation.sentence(), quiet=False))
    for words, of, said, _ in Formatter().parse(expectation.row()):
        if words.strip():
            row.addWidget(form.label(words.strip()))
        if of is None:
            continue
        value, hint, key, label = getattr(expectation, of), hints[of], f"{name}-{of}", said or of
        if hint == RuleName:
            row.addWidget(form.combo(key, label, value, names, lambda r, of=of: field(**{of: r})))
        elif hint == YesNo:
            row.addWidget(_wide(form.line(key, label, value, lambda text, of=of: formula(of, text))))
        elif get_origin(hint) is Literal:
            options = [(word, word) for word in get_args(hint)]
            row.addWidget(form.combo(key, label, value, options, lambda w, of=of: field(**{of: w})))
        elif hint is int:
            row.addWidget(
                form.spin(
                    key,
                    label,
                    value,
                    lambda v, of=of: field(**{of: int(v)}),
                    least=0,
                    decimals=0,
                    suffix=f" {label.removesuffix('s') if value == 1 else label}",
                )
            )
        elif hint == Duration:
            row.addWidget(
                form.spin(
                    key, label, value, lambda v, of=of: field(**{of: v}), least=0, most=3600, suffix=" s"
                )
            )
        else:
            raise TypeError(f"the trial's page cannot show {type(expectation).__name__}.{of}")
    row.addWidget(form.remover(f"{name}-remove", f"expectation {at + 1}", lambda: put(None)))
    form.column.addWidget(form.box(row))


def _wide(field: QLineEdit) -> QLineEdit:
    field.setMinimumWidth(170)
    return field


# input


def _keys(form: Form, trial: Trial) -> None:
    bench, bars = form.bench, trial.input.keys
    form.heading("Keys that are held, from … to … in seconds")

    def put(changed: tuple[KeyBar, ...], label: str) -> None:
        bench.edit(
            thing_edits.set_bars(bench.level, trial.name, changed),
            f"{label} in “{trial.name}”",
            join=f"keys {label}",
        )

    def change(at: int, **fields: object) -> str | None:
        bar = replace(bars[at], **fields)
        if bar.end < bar.start:
            return "a key cannot be released before it is pressed"
        put(tuple(bar if i == at else b for i, b in enumerate(bars)), f"change key {bar.key}")
        return None

    known = [(k, k) for k in (*KEYS, *POINTER_KEYS)]
    for at, bar in enumerate(bars):
        row = form.row()
        row.addWidget(
            form.combo(f"key-{at}-key", f"key {at + 1}", bar.key, known, lambda k, i=at: change(i, key=k))
        )
        row.addWidget(
            form.spin(
                f"key-{at}-from", "from", bar.start, lambda v, i=at: change(i, start=v), least=0, suffix=" s"
            )
        )
        row.addWidget(
            form.spin(f"key-{at}-to", "to", bar.end, lambda v, i=at: change(i, end=v), least=0, suffix=" s")
        )
        row.addWidget(
            form.remover(
                f"key-{at}-remove",
                f"key bar {at + 1}",
                lambda i=at: put(tuple(b for j, b in enumerate(bars) if j != i), "release a key"),
            )
        )
        form.column.addWidget(form.box(row))
    last = bars[-1] if bars else KeyBar(key="Up", start=0.0, end=0.0)
    new = KeyBar(key=last.key, start=round(last.end + 0.5, 3), end=round(last.end + 1.5, 3))
    form.buttons(
        form.button("+ key", "add-key", lambda: put((*bars, new), "hold a key")),
        part_button(
            form, "keys", trial.name, bars, [f"{b.key} from {b.start:g} to {b.end:g} s" for b in bars]
        ),
    )


def _watches(form: Form, trial: Trial, put: Callable[..., None]) -> None:
    form.heading("Watched over the run")
    bench = form.bench

    def take(text: str, at: int) -> str | None:
        kept = list(trial.watches)
        if text:
            try:
                compile_formula(bench.program.index, text)
            except FormulaError as error:
                return error.message
            kept[at : at + 1] = [text]
        else:
            del kept[at : at + 1]
        put("change the watches", watches=tuple(kept))
        return None

    for at, watch in enumerate((*trial.watches, "")):
        form.text(
            "formula" if watch else "+ watch",
            f"watch-{at}",
            watch,
            lambda text, i=at: take(text, i),
            hint="level.pods",
        )
    form.buttons(part_button(form, "watches", trial.name, trial.watches, list(trial.watches)))
