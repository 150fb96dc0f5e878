"""Which run is shown: a small state machine, without Qt."""

from __future__ import annotations

from enum import Enum, auto

from gatillo.desk.session.replay import Replayed, Watch
from gatillo.inspect.comparison import Comparison
from gatillo.inspect.expectations import Verdict
from gatillo.inspect.finding import Finding
from gatillo.sim.run.run import Run


class State(Enum):
    """What the shown run is."""

    OPENED = auto()
    """A level was opened and its first run is not whole yet."""
    WHOLE = auto()
    """A run to its end, of the level as it is."""
    REMADE = auto()
    """The level was edited: the run before is shown until the new one has passed the cursor."""
    DRAGGED = auto()
    """A value is being dragged: the run goes as far as one frame had time for."""
    PLAYED = auto()
    """A run with the live keyboard."""


class ShownRun:
    """The run that is shown, those it may be compared with, and what has been found out about it."""

    def __init__(self, run: Run) -> None:
        self.state = State.OPENED
        self.run = run
        """What the level view and the cursor show."""
        self.whole: Run | None = None
        """The last run that went to its end: what the next edit is compared with."""
        self.previous: Run | None = None
        """The whole run before that one."""
        self.growing: Run | None = None
        """The run that is being made after an edit, as far as it has come; None before it has begun."""
        self.judged: Run | None = None
        """The run that verdicts, watches and findings are about."""
        self.verdicts: list[Verdict] = []
        self.watches: list[Watch] = []
        self.findings: list[Finding] = []
        self.comparison = Comparison()
        self.compared = False
        """Whether the lanes mark what differs from another run."""
        self.held = False
        """Whether that comparison was asked for: then an edit does not replace it."""

    @property
    def latest(self) -> Run:
        """The run that the lanes show: the growing one if there is one, else the shown one."""
        return self.growing or self.run

    @property
    def overlaid(self) -> Run | None:
        """The whole run from before the edit, which the lanes show pale where the latest has not come yet; else None."""
        whole, latest = self.whole, self.latest
        if whole is None or self.state is State.PLAYED or latest.program is whole.program:
            return None
        return whole if latest.done < min(whole.done, latest.length) else None

    # what happens to it

    def open(self, run: Run) -> None:
        """Show the first run of another level or trial."""
        self.state, self.run = State.OPENED, run
        self.whole = self.previous = self.growing = None
        self.findings = []
        self.forget_judgement()
        self.compare_with_none()

    def remake(self) -> None:
        """The level was edited: a new run is to be made, which has not begun."""
        self.state = State.OPENED if self.whole is None else State.REMADE
        self.growing = None

    def grow(self, run: Run, cursor_tick: int) -> None:
        """The run that is being made has grown. It is shown once it has reached the cursor, the first one at once."""
        run.remember(self.run)
        if self.whole is None or run.done >= cursor_tick:
            self.run = run
        self.growing = run if self.whole is not None else None

    def complete(self, found: Replayed) -> None:
        """The run that was made is whole."""
        if self.whole is not self.run:
            # one that was shown as it grew: what has been worked out for it still holds
            found.run.remember(self.run)
        self.state, self.run, self.growing = State.WHOLE, found.run, None
        self.previous, self.whole = self.whole, found.run
        if found.comparison is not None and not self.held:
            self.comparison, self.compared = found.comparison, True
        self.forget_judgement()

    def drag(self, run: Run) -> None:
        """Show a run that was made while a value is being dragged."""
        self.state, self.run = State.DRAGGED, run
        self.forget_judgement()

    def play(self, run: Run) -> None:
        """Show a run that begins to be played."""
        self.state, self.run, self.growing = State.PLAYED, run, None
        # the verdicts stay: they are about the trial's script
        self.watches = []
        self.compare_with_none()

    def fail(self) -> None:
        """The new run could not be made: show the last whole one."""
        self.growing = None
        if self.whole is not None:
            self.state, self.run = State.WHOLE, self.whole

    # what has been found out about it

    def judge(self, found: Replayed) -> None:
        """Take the verdicts, watches and findings of a run."""
        self.verdicts, self.watches, self.findings = found.verdicts, found.watches, found.findings
        self.judged = found.run

    def forget_judgement(self) -> None:
        """Forget verdicts and watches, which are about another run. Findings stay until there are new ones."""
        self.verdicts, self.watches = [], []

    def findings_of(self, rule_id: int | None) -> list[Finding]:
        """Return the findings about a rule."""
        return [f for f in self.findings if f.rule_id == rule_id and rule_id is not None]

    def compare_with(self, comparison: Comparison, *, stays: bool = True) -> None:
        """Take a comparison that was asked for; one that `stays` is not replaced after an edit."""
        self.comparison, self.compared, self.held = comparison, True, stays

    def compare_with_none(self) -> None:
        """Forget the comparison."""
        self.comparison, self.compared, self.held = Comparison(), False, False
