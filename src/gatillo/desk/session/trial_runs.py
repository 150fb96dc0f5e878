"""Running trials beside the window: one, some or all of a level, at all their rates and with all their seeds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from dataclasses import replace as with_fields
from typing import Any, Literal

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from gatillo.desk.session.document import Document
from gatillo.desk.session.worker import Gate, Job, Worker
from gatillo.level.model import Level, Trial

Outcome = Literal["not run", "running", "passed", "failed", "not judged"]


@dataclass(slots=True)
class Results:
    """What came of the runs of one trial."""

    level: Level
    trial: Trial
    wanted: int
    """How many runs it has: its rates times its seeds."""
    runs: list[Any] = field(default_factory=list)
    """A `Checked` of each run that is over, in their order."""
    stale: bool = False
    """The level or the trial has been edited since."""
    _share: str = ""

    @property
    def outcome(self) -> Outcome:
        """What the runs came to. What could not be judged is as bad as what failed."""
        wrong = [one for one in self.runs if not one.passed]
        if wrong:
            judged = all(v.outcome != "could not be judged" for one in wrong for v in one.verdicts)
            return "failed" if judged else "not judged"
        return "passed" if len(self.runs) == self.wanted else "running"

    def words(self) -> str:
        """Return what the runs came to, in a few words."""
        last = next((one for one in self.runs if not one.passed), None)
        if last is None:
            if len(self.runs) < self.wanted:
                return f"{len(self.runs)} of {self.wanted} runs"
            fails = self.trial.fails
            many = len(self.trial.expectations) - fails
            meant = f", {fails} fail as meant" if fails else ""
            return (
                f"{many} hold{'s' if many == 1 else ''}{meant}" if many or fails else "nothing expected"
            ) + self._times()
        wrong = sum(not one.passed for one in self.runs)
        at = f" in {wrong} of {len(self.runs)} runs" if self.wanted > 1 else ""
        if last.problems:
            return "a rule cannot run"
        if last.amiss:
            return f"faults{at}"
        failed = sum(v.outcome == "failed" for v in last.verdicts)
        unjudged = sum(v.outcome == "could not be judged" for v in last.verdicts)
        parts = [f"{failed} of {len(last.verdicts)} fail{'s' if failed == 1 else ''}"] if failed else []
        parts += [f"{unjudged} not judged"] if unjudged else []
        return (", ".join(parts) or "nothing fails that is meant to") + at

    def _times(self) -> str:
        return f", {self.wanted} runs" if self.wanted > 1 else ""

    def share(self) -> str:
        """Return how much of the level the trial reaches, in percent; "" while that is not known."""
        if not self._share and self.runs and self.runs[0].reached is not None:
            from gatillo.inspect.coverage import covered, totals

            reached, of = totals(covered(self.level, self.runs[0].reached))
            self._share = f"{reached / of:.0%}" if of else "–"
        return self._share

    def sentences(self) -> list[str]:
        """Return what did not come out as meant, a sentence for each, with the run that it is of."""
        found: list[str] = []
        for one in self.runs:
            if one.passed:
                continue
            where = f"At {one.rate} ticks a second, seed {one.seed}: " if self.wanted > 1 else ""
            said = [p.sentence() for p in one.problems] + ([one.amiss] if one.amiss else [])
            said += [v.sentence() for v in one.verdicts if v.outcome != "held"]
            found += [f"{where}{sentence}" for sentence in said]
        return found


class TrialRuns(QObject):
    """Runs trials in processes, and keeps what came of each until it is run again."""

    changed = Signal()
    """A run is over, or what is kept has become stale."""

    def __init__(self, document: Document, gate: Gate, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._document = document
        self._worker = Worker("trials", gate, self)
        self._worker.failed.connect(self.changed)
        self._kept: dict[str, Results] = {}
        self.done, self.wanted = 0, 0
        """How many runs of those asked for last are over, and how many they are."""
        document.levelChanged.connect(self._on_level)
        document.replaced.connect(self._forget)

    def close(self) -> None:
        """Stop what runs."""
        self._worker.close()

    @property
    def busy(self) -> bool:
        """Whether trials are being run."""
        return self._worker.busy

    def of(self, trial: str) -> Results | None:
        """Return what came of a trial; None where it has not been run."""
        return self._kept.get(trial)

    def run(self, names: Sequence[str]) -> None:
        """Run trials, at all their rates and with all their seeds; what runs already is dropped."""
        # not at the start of the program: the pool of processes takes 20 ms to load
        from gatillo.inspect.checking import Checked, checked, tasks_of
        from gatillo.inspect.work_queue import Crew, cores

        level = self._document.level
        trials = [trial for trial in level.trials if trial.name in names]
        tasks = tasks_of(0, level, trials, (), 1)
        first: set[str] = set()
        for at, task in enumerate(tasks):
            # one run of each says what it reaches
            if task.trial not in first:
                first.add(task.trial)
                tasks[at] = with_fields(task, reached=True)
        for trial in trials:
            many = sum(task.trial == trial.name for task in tasks)
            self._kept[trial.name] = Results(level, trial, many)
        self.done, self.wanted = 0, len(tasks)
        if not tasks:
            return

        def work(job: Job) -> None:
            for one in checked([("", level)], tasks, Crew(max(2, min(cores(), len(tasks)))), job.is_dropped):
                job.report(one)
            job.go_on()

        def show(one: Checked | None) -> None:
            if one is not None:
                self.done += 1
                results = self._kept.get(one.trial)
                if results is not None and results.level is level:
                    results.runs.append(one)
            self.changed.emit()

        self._worker.ask(work, show)
        self.changed.emit()

    def stop(self) -> None:
        """Break off. Trials whose runs are not all over count as not run."""
        self._worker.drop()
        self._kept = {name: found for name, found in self._kept.items() if found.outcome != "running"}
        self.changed.emit()

    def reached(self) -> Any:
        """Return what all trials together reach (inspect/coverage.py); None until all are run of the level as it is."""
        from gatillo.inspect.coverage import Reached

        together = Reached()
        for trial in self._document.level.trials:
            results = self._kept.get(trial.name)
            if results is None or results.stale or not results.runs or results.runs[0].reached is None:
                return None
            together.add(results.runs[0].reached)
        return together

    def _on_level(self) -> None:
        """Tell what is kept from what is true of the level as it is now."""
        level = self._document.level
        bare = replace(level, trials=())
        trials = {trial.name: trial for trial in level.trials}
        self._kept = {name: found for name, found in self._kept.items() if name in trials}
        for name, found in self._kept.items():
            found.stale = found.trial != trials[name] or replace(found.level, trials=()) != bare
        self.changed.emit()

    def _forget(self) -> None:
        self._worker.drop()
        self._kept.clear()
        self.changed.emit()
