"""The commands that say why."""

from __future__ import annotations

from pathlib import Path

import typer

from gatillo.cli.console import give_up, out, write_json
from gatillo.cli.levels import level_from, trial_from
from gatillo.cli.run_report import run_with_progress
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.reasons.asking import named_object, named_rule
from gatillo.inspect.reasons.forward import caused
from gatillo.inspect.reasons.never import why_never
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.level.edits import as_tried
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run


def tell_why(
    file: Path,
    trial: str | None,
    rule: str,
    tick: int | None,
    about: str | None,
    value: str,
    there: str,
    forward: bool,
    depth: int,
    as_json: bool,
) -> None:
    """Print why; exits with 1 where nothing fired, with 2 for what there is not."""
    if sum(map(bool, (rule, value, there))) != 1:
        give_up("say what is asked about: one of --rule NAME, --value FORMULA, --there OBJECT")
    run = _run(file, trial)
    explainer = Explainer(run)
    try:
        if value or there:
            at = run.done if tick is None else tick
            reason = explainer.value(value, at) if value else explainer.there(named_object(run, there), at)
            _print(reason, depth, as_json)
            return
        compiled = named_rule(run, rule)
        fired = [f for f in run.trace.firings() if f.rule_index == compiled.index and tick in (None, f.tick)]
        if not fired:
            reason = (
                WhyNot(explainer).at(compiled, tick)
                if tick is not None
                else why_never(WhyNot(explainer), compiled)
            )
            _print(reason, depth, as_json)
            raise typer.Exit(1)
        object_id = named_object(run, about) if about is not None else None
        for firing in fired:
            reason = explainer.fired(firing.tick, firing.position, object_id)
            if object_id is None or object_id in reason.ids:
                if forward:
                    reason = caused(explainer, firing.tick, firing.position)
                _print(reason, depth, as_json)
                return
        give_up(f"“{rule}” fired, but not for {about}" + (f" in tick {tick}" if tick is not None else ""))
    except FormulaError as error:
        give_up(f"“{value}”: {error.message}")
    except (KeyError, ValueError) as error:
        give_up(str(error.args[0]))


def tell_why_not(
    file: Path, trial: str | None, rule: str, tick: int | None, about: list[str], depth: int, as_json: bool
) -> None:
    """Print why not; exits with 1 where it did fire, with 2 for what there is not."""
    run = _run(file, trial)
    try:
        compiled, why_not = named_rule(run, rule), WhyNot(Explainer(run))
        ids = tuple(named_object(run, name) for name in about)
        reason = why_not.at(compiled, tick, ids) if tick is not None else why_never(why_not, compiled)
    except (KeyError, ValueError) as error:
        give_up(str(error.args[0]))
    _print(reason, depth, as_json)
    raise typer.Exit(1 if " did fire" in reason.sentence else 0)


def _run(file: Path, trial: str | None) -> Run:
    level = level_from(file)
    chosen = trial_from(level, trial)
    return run_with_progress(Run(Program(as_tried(level, chosen)), chosen), "running")


def _print(reason: Reason, depth: int, as_json: bool) -> None:
    if as_json:
        write_json(reason.as_data(depth))
        return
    for line in reason.lines(depth):
        out.print(line, markup=False, soft_wrap=True)
