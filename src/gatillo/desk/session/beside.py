"""Comparing the shown run with another: before the last edit, another trial, a variant, two rules swapped."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal

from gatillo.desk.session.answers import Answers
from gatillo.desk.session.document import Document
from gatillo.desk.session.moment_cache import AT_ONCE
from gatillo.desk.session.page import Page
from gatillo.desk.session.shown_moment import ShownMoment
from gatillo.desk.session.shown_run import ShownRun, State
from gatillo.desk.session.worker import Gate, Job, Worker
from gatillo.files.saved_trace import SavedTraceError, read_firings
from gatillo.inspect.comparison import (
    Comparison,
    Firings,
    by_rule,
    compare,
    compared,
    first_parted,
)
from gatillo.inspect.order import OrderFinding, swap
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.sides import why_on_both_sides
from gatillo.inspect.state import Parted
from gatillo.level.edits import as_tried
from gatillo.level.model import Level, Trial
from gatillo.sim.program.program import Program
from gatillo.sim.run.run import Run
from gatillo.sim.world.world import World

MOST_PARTED = 6
HEADINGS = ("", "other", "this", "only other", "only this", "moved")


class Beside(QObject):
    """The other run, and what differs. It is the one before, this one the one after."""

    changed = Signal()
    marked = Signal()
    """What the lanes mark as different has changed."""
    notified = Signal(str)

    def __init__(
        self,
        document: Document,
        shown: ShownRun,
        moment: ShownMoment,
        answers: Answers,
        gate: Gate,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._document, self._shown, self._moment, self._answers = document, shown, moment, answers
        self.run: Run | None = None
        self.label = ""
        self.comparison = Comparison()
        self._worker = Worker("beside", gate, self)
        self._worker.failed.connect(self.changed)
        self._ghost: tuple[Run, int, World] | None = None
        answers.swapWanted.connect(self.compare_with_swapped)
        answers.compareWanted.connect(self.compare_with)

    def close(self) -> None:
        """Stop the worker."""
        self._worker.close()

    @property
    def busy(self) -> bool:
        """Whether another run is being made or compared."""
        return self._worker.busy

    def dismiss(self) -> None:
        """Close the comparison, whatever the shown run is compared with."""
        self._worker.drop()
        if self.run is not None or self._shown.compared:
            self.run, self._ghost, self.comparison = None, None, Comparison()
            self._shown.compare_with_none()
            self.marked.emit()
            self.changed.emit()

    def compare_again(self) -> None:
        """Compare again after the shown run has changed, unless it is played or still catching up."""
        shown = self._shown
        if self.run is not None and shown.state is not State.PLAYED and shown.overlaid is None:
            self._mark(self.run)

    def _mark(self, run: Run) -> None:
        self.comparison = compare(run, self._shown.run)
        self._shown.compare_with(self.comparison)
        self.marked.emit()
        self.changed.emit()

    # which run

    def compare_with_before(self) -> None:
        """The run before the last edit."""
        before = self._shown.previous
        if before is None:
            self.notified.emit("There is no run before this one: nothing has been edited yet.")
            return
        self.compare_with(before, "before the last edit")

    def compare_with_trial(self, name: str) -> None:
        """Another trial of the level."""
        level = self._document.level
        trial = next((t for t in level.trials if t.name == name), None)
        if trial is not None:
            self._make(f"trial “{name}”", lambda: Run(Program(as_tried(level, trial)), trial))

    def compare_with_tried(self, label: str, trial: Trial) -> None:
        """The viewed trial with other input: a take, or its script."""
        level = self._document.level
        self._make(label, lambda: Run(Program(as_tried(level, trial)), trial))

    def compare_with_changed(self, level: Level, words: str) -> None:
        """The viewed trial in a level that is a little different."""
        trial = self._document.trial
        self._make(words, lambda: Run(Program(as_tried(level, trial)), trial))

    def compare_with_version(self, level: Level, words: str) -> None:
        """Another version of the level, with its own trial of the same name, or the viewed one without what it switches."""
        mine = self._document.trial
        theirs = next((trial for trial in level.trials if trial.name == mine.name), None)
        trial = theirs or replace(mine, values={}, on=(), off=())
        self._make(words, lambda: Run(Program(as_tried(level, trial)), trial))

    def compare_with_variant(self, name: str) -> None:
        """A variant of the level, with the trial that is shown."""
        level, trial = self._document.level, self._document.trial
        variant = next((v for v in level.variants if v.name == name), None)
        if variant is not None:
            tried = as_tried(as_tried(level, trial), variant)
            self._make(f"variant “{name}”", lambda: Run(Program(tried), trial))

    def compare_with_saved(self, path: Path) -> None:
        """The firings of a trace that was saved; its rules are matched by their names."""
        try:
            saved = read_firings(path)
        except SavedTraceError as error:
            self.notified.emit(f"{error}.")
            return
        mine = self._shown.run
        ids = {rule.source.name: rule.source.id for rule in mine.program.rules}
        here: Firings = {}
        there: Firings = {}
        for firing in mine.trace.firings():
            here.setdefault(mine.program.rules[firing.rule_index].source.id, set()).add((firing.tick, 0))
        lost: dict[str, int] = {}
        for tick, _, name, _ in saved:
            if name in ids:
                there.setdefault(ids[name], set()).add((tick, 0))
            else:
                lost[name] = lost.get(name, 0) + 1
        comparison = compared(there, here)
        self.dismiss()
        self._shown.compare_with(comparison, stays=False)
        self.marked.emit()
        page = Page("Comparison", [f"Compared with: the saved trace {path.name}, {len(saved):,} firings."])
        first = comparison.first_tick
        page.notes.append(
            "Every firing is the same."
            if first is None and not lost
            else f"{comparison.words()[:1].upper()}{comparison.words()[1:]}"
            + (f"; the first that differs at tick {first}." if first is not None else ".")
        )
        page.notes += [
            f"{many} firings of “{name}”, which this level does not have." for name, many in lost.items()
        ]
        page.also = [("Close the comparison", self.dismiss)]
        self._answers.show(page)

    def compare_with_swapped(self, finding: OrderFinding) -> None:
        """The level with two entries exchanged."""
        level, run = self._document.level, self._shown.run
        first, second = finding.names

        def work(job: Job) -> Run:
            return swap(level, run, finding, list(self._shown.verdicts) or None, job.is_dropped)

        def show(other: Run) -> None:
            self.compare_with(other, f"“{first}” and “{second}” swapped")

        self._worker.ask(work, show)

    def _make(self, label: str, make: Callable[[], Run]) -> None:
        asked = self._answers.asked

        def work(job: Job) -> Run:
            run = make()
            while run.done < run.length:
                run.advance(60, job.is_dropped)
                job.go_on()
            return run

        def show(run: Run) -> None:
            self.compare_with(run, label, asked)

        self._worker.ask(work, show)

    def compare_with(self, run: Run, label: str, asked: int | None = None) -> None:
        """Compare a run with this one and show what differs, unless more has been asked than so many questions by then."""
        asked = self._answers.asked if asked is None else asked
        mine = self._shown.run
        self.run, self.label, self._ghost = run, label, None
        self._mark(run)

        def work(job: Job) -> tuple[list[Parted], tuple[Reason, ...]]:
            if run.program.rate != mine.program.rate:
                return [], ()
            parted = first_parted(run, mine, job.go_on)
            return parted, why_on_both_sides(run, mine, parted[0]) if parted else ()

        def show(found: tuple[list[Parted], tuple[Reason, ...]]) -> None:
            # the answer to a newer question stays
            if self.run is run and self._answers.asked == asked:
                self._answers.show(self._page(run, mine, *found))

        self._worker.ask(work, show)

    def _page(self, run: Run, mine: Run, parted: list[Parted], why: tuple[Reason, ...]) -> Page:
        page = Page("Comparison", [f"Compared with: {self.label}."])
        comparison = self.comparison
        rate = mine.program.rate
        if run.program.rate != rate:
            page.notes.append(
                "They have different tick rates, so only firings at the same tick number are matched."
            )
        first = comparison.first_tick
        if first is None:
            page.notes.append("Every firing is the same.")
        else:
            page.notes.append(
                f"{comparison.words()[:1].upper()}{comparison.words()[1:]}; the first that differs at {first / rate:.3f} s (tick {first})."
            )
            rows = by_rule(run, mine)
            page.table = [HEADINGS, *((name, *map(str, numbers)) for name, *numbers in rows)]
        if parted:
            names = "; ".join(
                f"{p.name}: {p.before} in the other run, {p.after} in this run" for p in parted[:MOST_PARTED]
            )
            more = f" and {len(parted) - MOST_PARTED} more" if len(parted) > MOST_PARTED else ""
            tick = parted[0].tick
            page.notes.append(
                f"First different at the end of tick {tick} ({tick / rate:.3f} s): {names}{more}."
            )
            for side, reason in zip(("other run", "this run"), why, strict=False):
                page.roots.append(
                    Reason(
                        f"{side}: {reason.sentence}",
                        "value",
                        tick,
                        0,
                        0,
                        0,
                        reason.ids,
                        reason.because_again(),
                    )
                )
        elif run.program.rate == rate:
            page.notes.append("The level and its objects have the same values at the end of every tick.")
        page.also = [("Close the comparison", self.dismiss)]
        return page

    # going from difference to difference

    def step(self, by: int) -> None:
        """Put the cursor at the next firing that differs, or the one before."""
        now = self._moment.cursor.tick
        ticks = self._shown.comparison.ticks()
        found = [t for t in ticks if t > now] if by > 0 else [t for t in ticks if t < now][::-1]
        if not found:
            self.notified.emit(
                "No firing differs after this moment." if by > 0 else "No firing differs before this moment."
            )
            return
        self._moment.move(self._shown.run.end_of(found[0]))

    def ghosts(self) -> World | None:
        """Return the other run at the cursor's tick, where it is quickly had; None while there is none."""
        run = self.run
        if run is None:
            return None
        tick = min(self._moment.cursor.tick, run.done)
        if self._ghost is not None and self._ghost[:2] == (run, tick):
            return self._ghost[2]
        if run.seconds_to(run.end_of(tick)) > AT_ONCE:
            return None
        self._ghost = run, tick, run.world_at(run.end_of(tick))
        return self._ghost[2]
