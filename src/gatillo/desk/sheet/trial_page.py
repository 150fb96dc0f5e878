"""The sheet of a trial: length, seed, keys that are held, and what must hold."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtWidgets import QLineEdit, QVBoxLayout

from gatillo.desk.session.naming import take_name
from gatillo.desk.session.selection import Selection
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.form import Form
from gatillo.formula.compiling import compile_formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.expectations import faults_amiss
from gatillo.language.sentence import expectation_sentence
from gatillo.level import thing_edits
from gatillo.level.edits import change_trial
from gatillo.level.keys import KEYS, POINTER_KEYS
from gatillo.level.model import (
    Expectation,
    FiresBefore,
    FiresInOrder,
    FiresTimes,
    HoldsAt,
    HoldsWhenever,
    Input,
    KeyBar,
    Trial,
)
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
    first = rules[0] if rules else ""
    kinds: tuple[tuple[str, Expectation], ...] = (
        ("a rule fires a number of times", FiresTimes(rule=first)),
        (
            "one rule fires before another",
            FiresBefore(first=first, then=rules[1] if len(rules) > 1 else first),
        ),
        ("a formula holds", HoldsAt(formula="time > 0", when="always")),
        ("a formula holds whenever a rule fires", HoldsWhenever(rule=first, formula="time > 0")),
    )
    adder = form.combo(
        "add-expectation",
        "add an expectation",
        None,
        [(made, words) for words, made in kinds],
        lambda made: bench.edit(
            thing_edits.add_expectation(bench.level, trial.name, made),
            f"expect that {expectation_sentence(made)}",
        ),
    )
    adder.setPlaceholderText("+ expectation")
    form.alone(adder)


def _expectation(form: Form, trial: Trial, at: int, expectation: Expectation, rules: list[str]) -> None:
    bench = form.bench
    names = [(r, r) for r in rules]

    def put(changed: Expectation | None) -> None:
        words = expectation_sentence(changed if changed is not None else expectation)
        label = f"expect that {words}" if changed is not None else f"no longer expect that {words}"
        bench.edit(
            thing_edits.set_expectation(bench.level, trial.name, at, expectation, changed),
            label,
            join=f"expect {trial.name} {at}",
        )

    def field(**fields: object) -> None:
        put(replace(expectation, **fields))

    def formula(text: str) -> str | None:
        try:
            compile_formula(bench.program.index, text, "yes/no")
        except FormulaError as error:
            return error.message
        field(formula=text)
        return None

    name = f"expect-{at}"
    row = form.row()
    if isinstance(expectation, FiresTimes):
        row.addWidget(form.combo(f"{name}-rule", "rule", expectation.rule, names, lambda r: field(rule=r)))
        how = [(h, h) for h in ("exactly", "at least", "at most")]
        row.addWidget(form.combo(f"{name}-how", "how often", expectation.how, how, lambda h: field(how=h)))
        row.addWidget(
            form.spin(
                f"{name}-times",
                "times",
                expectation.times,
                lambda v: field(times=int(v)),
                least=0,
                decimals=0,
                suffix=" time" if expectation.times == 1 else " times",
            )
        )
    elif isinstance(expectation, FiresBefore):
        row.addWidget(
            form.combo(f"{name}-first", "first", expectation.first, names, lambda r: field(first=r))
        )
        row.addWidget(form.label("before"))
        row.addWidget(form.combo(f"{name}-then", "before", expectation.then, names, lambda r: field(then=r)))
    elif isinstance(expectation, HoldsAt):
        row.addWidget(_wide(form.line(f"{name}-formula", "formula", expectation.formula, formula)))
        when = [("at", "at"), ("always", "always"), ("never", "never"), ("by", "by")]
        row.addWidget(form.label("holds"))
        row.addWidget(form.combo(f"{name}-when", "when", expectation.when, when, lambda w: field(when=w)))
        if expectation.when in ("at", "by"):
            row.addWidget(
                form.spin(
                    f"{name}-time",
                    "time",
                    expectation.time,
                    lambda v: field(time=v),
                    least=0,
                    most=3600,
                    suffix=" s",
                )
            )
    elif isinstance(expectation, HoldsWhenever):
        row.addWidget(_wide(form.line(f"{name}-formula", "formula", expectation.formula, formula)))
        row.addWidget(form.label("whenever fires"))
        row.addWidget(
            form.combo(f"{name}-rule", "whenever", expectation.rule, names, lambda r: field(rule=r))
        )
    else:
        words = expectation_sentence(expectation)
        if isinstance(expectation, FiresInOrder):
            words = " → ".join(expectation.rules)
        row.addWidget(form.words(words, quiet=False))
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
    form.buttons(form.button("+ key", "add-key", lambda: put((*bars, new), "hold a key")))


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
