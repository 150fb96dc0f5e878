"""Questions about the run and their answers: why, why not, what it caused, the order of rules, other tick rates.

Answers are worked out in a worker, each reason when it is unfolded. The sheet shows them, the lanes and the level point at
what they speak of.
"""

from __future__ import annotations

import pathlib
from collections.abc import Callable
from functools import partial
from time import monotonic

from PySide6.QtCore import QObject, Signal

from gatillo.desk.session.accept_page import accept_page
from gatillo.desk.session.document import Document
from gatillo.desk.session.page import Page, Path
from gatillo.desk.session.shown_moment import ShownMoment
from gatillo.desk.session.shown_run import ShownRun
from gatillo.desk.session.worker import Gate, Job, Worker
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.coverage import Covered, Reached, covered, missed, run_trials, totals
from gatillo.inspect.moments import Found, find_moments
from gatillo.inspect.order import OrderFinding, free_to_move, order_findings, ranked, swap
from gatillo.inspect.rates import Apart, rate_check, seed_check
from gatillo.inspect.reasons.forward import caused
from gatillo.inspect.reasons.never import why_never
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.reasons.why import Explainer
from gatillo.inspect.reasons.why_not import WhyNot
from gatillo.language.binding import RoleArgument
from gatillo.level.model import Level
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.run.run import Cursor, Run

MOST_OPENED = 3
"""So many causes of a new answer are unfolded by themselves."""
MOST_TRIED = 12
"""So many pairs are exchanged by themselves when order findings are asked for."""
MOST_OFFERED = 6
"""So few objects are each offered to be asked about."""
RATES = (30, 60, 120)
REACHED = "What the trials reach"
PARTLY = "not all of it"
"""How words about a rule or card begin that is reached, while some of its lines or outputs are not."""
MOST_LISTED = 200
SEEDS = 10
CHANGES_TOLD = 1.0
"""Seconds between two showings of the changes tried so far."""


class Answers(QObject):
    """The answer that is shown, and what may be asked."""

    changed = Signal()
    notified = Signal(str)
    swapWanted = Signal(object)
    """A run with the two entries of an order finding swapped is to be compared."""
    ruleWanted = Signal(int)
    """A rule's row is to be shown."""
    compareWanted = Signal(object, str)
    """A run is to be compared, with what it is called."""
    expectWanted = Signal(str, object)
    """A trial, by name, is to expect something from now on."""
    trialWanted = Signal(object, str)
    """A level with a further trial is to be taken, and the trial of that name viewed."""
    acceptWanted = Signal(str, object)
    """A trial, by name, is to accept an order of firing in the place of the one before."""
    changedWanted = Signal(str, object, str)
    """A trial, by name, is to be compared with its run of another level, with what that is called."""

    def __init__(
        self,
        document: Document,
        shown: ShownRun,
        moment: ShownMoment,
        gate: Gate,
        parent: QObject | None = None,
    ) -> None:
        super().__init__(parent)
        self._document, self._shown, self._moment = document, shown, moment
        self.page: Page | None = None
        self.last: Page | None = None
        """The answer that was closed last."""
        self.asked = 0
        """How many questions were asked so far."""
        self.order: list[OrderFinding] = []
        self._order_run: Run | None = None
        self._worker = Worker("asking", gate, self)
        self._worker.failed.connect(self._on_failed)
        self._again: Callable[[], None] | None = None
        self._found: tuple[Run, str, Found] | None = None
        self.reached: tuple[Level, list[Covered]] | None = None
        """What the trials of a level reach, where that was asked."""
        self._reached_at: tuple[list[Covered], dict[tuple[int, str], Covered]] | None = None
        self._explainer: tuple[Run, Explainer] | None = None
        document.selectionChanged.connect(self.dismiss)
        document.levelChanged.connect(self._on_level)
        document.replaced.connect(self._forget)

    # showing

    @property
    def busy(self) -> bool:
        """Whether an answer is being worked out."""
        return self._worker.busy

    def exchanged(self, at: int) -> Run:
        """Return the run with the entries of an order finding exchanged."""
        return swap(self._document.level, self._shown.run, self.order[at])

    def _on_failed(self) -> None:
        if self.page is not None and self.page.busy:
            self.page = Page(
                self.page.title, ["This question could not be answered: something went wrong inside Gatillo."]
            )
        self.changed.emit()

    def dismiss(self) -> None:
        """Close the answer and show the selection."""
        if self.page is not None:
            self.last, self.page = (None if self.page.busy else self.page), None
            self._worker.drop()
            self.changed.emit()

    def _forget(self) -> None:
        """Forget all that was asked: it was about a level that is no longer here."""
        self._worker.drop()
        self.page = self.last = self._again = self._found = self._explainer = None
        self.changed.emit()

    def show_again(self) -> None:
        """Show the answer that was closed last."""
        if self.last is not None:
            self.page = self.last
            self.changed.emit()

    def show(self, page: Page) -> None:
        """Show a page that was made elsewhere."""
        self._worker.drop()
        self._again = None
        self.page = page
        self.changed.emit()

    def close(self) -> None:
        """Stop the worker."""
        self._worker.close()

    def _on_level(self) -> None:
        self.order, self._order_run = [], None
        for page in (self.page, self.last):
            if page is not None:
                page.stale = True
        if self.page is not None:
            self.changed.emit()

    @property
    def may_ask_again(self) -> bool:
        """Whether the last question can be asked again."""
        return self._again is not None

    def ask_again(self) -> None:
        """Ask the last question again, about the present run."""
        if self._again is not None:
            self._again()

    def fold(self, path: Path) -> None:
        """Unfold a reason into its own reasons, or fold it."""
        page = self.page
        reason = page.reason(path) if page is not None else None
        if page is None or reason is None:
            return
        if path in page.unfolded:
            page.unfolded.discard(path)
            self.changed.emit()
            return
        page.unfolded.add(path)
        if reason.known:
            self.changed.emit()
            return

        def show(_: object) -> None:
            self.changed.emit()

        self._worker.ask(lambda job: _known(reason), show)

    def go(self, path: Path) -> None:
        """Point at a reason: the cursor goes to its moment, its objects are ringed."""
        page = self.page
        reason = page.reason(path) if page is not None else None
        if page is None or reason is None:
            return
        page.chosen = path
        run = self._shown.run
        if page.about_rules:
            if reason.rule_id:
                self.ruleWanted.emit(reason.rule_id)
        elif reason.tick <= run.done:
            at = Cursor(reason.tick, reason.position) if reason.position else run.end_of(reason.tick)
            self._moment.move(at)
        self.changed.emit()

    # what the lanes and the level point at

    def pointed(self) -> tuple[int, ...]:
        """Return the objects of the chosen reason, else of the first."""
        if self.page is None or not self.page.roots:
            return ()
        reason = self.page.reason(self.page.chosen) if self.page.chosen is not None else self.page.roots[0]
        return reason.ids if reason is not None else ()

    def arrows(self) -> list[tuple[tuple[int, int, int], tuple[int, int, int]]]:
        """Return arrows from causes to effects, (rule id, tick, position) at both ends, for the reasons in sight."""
        page = self.page
        if page is None:
            return []
        found = []
        firings: dict[Path, tuple[int, int, int]] = {}
        for path, reason in page.lines():
            if reason.position and reason.rule_id:
                firings[path] = (reason.rule_id, reason.tick, reason.position)
                above = next(
                    (firings[path[:n]] for n in range(len(path) - 1, 0, -1) if path[:n] in firings), None
                )
                if above is not None and above != firings[path]:
                    ends = (firings[path], above)
                    found.append(ends if ends[0][1:] <= ends[1][1:] else ends[::-1])
        return list(dict.fromkeys(found))

    # asking

    def explainer(self) -> Explainer:
        """Return what answers for the run that is shown."""
        run = self._shown.run
        if self._explainer is None or self._explainer[0] is not run:
            self._explainer = run, Explainer(run)
        return self._explainer[1]

    def _ask(self, title: str, work: Callable[[Job, Explainer], Page], again: Callable[[], None]) -> None:
        if self._shown.run.true_from:
            self.notified.emit(
                "Numbers were changed while this ran. Ask again once the trial has been run with them."
            )
            return
        self._moment.pause()
        if not self._shown.run.done:
            self.notified.emit("There is no run to ask about yet.")
            return
        self._again = again
        self.asked += 1
        explainer = self.explainer()
        self.page = Page(title, busy=True)
        self.changed.emit()

        def worked(job: Job) -> Page:
            explainer.between = explainer.journal.between = job.go_on
            try:
                return work(job, explainer)
            except (ValueError, LookupError) as error:
                return Page(title, [str(error.args[0]) + "."])

        def show(page: Page) -> None:
            self.page = page
            self.changed.emit()

        self._worker.ask(worked, show)

    def why(self, tick: int, position: int, object_id: int | None = None) -> None:
        """Why a firing came about."""

        def work(job: Job, explainer: Explainer) -> Page:
            reason = explainer.fired(tick, position, object_id)
            page = _page("Why did it fire?", reason)
            page.also.append(("What did it cause?", lambda: self.caused(tick, position)))
            return page

        self._ask("Why did it fire?", work, lambda: self.why(tick, position, object_id))

    def caused(self, tick: int, position: int) -> None:
        """What a firing led to."""

        def work(job: Job, explainer: Explainer) -> Page:
            page = _page("What did it cause?", caused(explainer, tick, position))
            page.also.append(("Why did it fire?", lambda: self.why(tick, position)))
            return page

        self._ask("What did it cause?", work, lambda: self.caused(tick, position))

    def why_not(self, rule_id: int, tick: int, objects: tuple[int, ...] = ()) -> None:
        """Why a rule did not fire in a tick."""

        def work(job: Job, explainer: Explainer) -> Page:
            rule = _turn(explainer.run, rule_id)
            page = _page("Why did it not fire?", WhyNot(explainer).at(rule, tick, objects))
            if page.reason((0, 0)) is not None:
                page.chosen = (0, 0)
            page.also.append(("And in the whole run?", lambda: self.why_never(rule_id)))
            page.also += [
                (f"And for {name}?", partial(self.why_not, rule_id, tick, (one,)))
                for one, name in _spoken_of(explainer.run, rule)
                if (one,) != objects
            ]
            return page

        self._ask("Why did it not fire?", work, lambda: self.why_not(rule_id, tick, objects))

    def why_never(self, rule_id: int) -> None:
        """Why a rule does not fire in the whole run, or when it does first."""

        def work(job: Job, explainer: Explainer) -> Page:
            return _page("In the whole run", why_never(WhyNot(explainer), _turn(explainer.run, rule_id)))

        self._ask("In the whole run", work, lambda: self.why_never(rule_id))

    def why_value(self, formula: str) -> None:
        """Why a formula has its value at the end of the cursor's tick."""
        tick = self._moment.cursor.tick

        def work(job: Job, explainer: Explainer) -> Page:
            try:
                return _page("Why this value?", explainer.value(formula, tick))
            except FormulaError as error:
                return Page("Why this value?", [error.message + "."])

        self._ask("Why this value?", work, lambda: self.why_value(formula))

    def why_there(self, object_id: int) -> None:
        """Why an object is there, or is not."""
        tick = self._moment.cursor.tick
        self._ask(
            "Why is it there?",
            lambda job, explainer: _page("Why is it there?", explainer.there(object_id, tick)),
            lambda: self.why_there(object_id),
        )

    def why_card(self, graph_id: int, number: int) -> None:
        """Why a card ran in the cursor's tick."""
        tick = self._moment.cursor.tick
        self._ask(
            "Why did it run?",
            lambda job, explainer: _page("Why did it run?", explainer.card(tick, graph_id, number)),
            lambda: self.why_card(graph_id, number),
        )

    # whose turn first

    def find_order(self) -> None:
        """Which entries touch the same thing in one tick, and whether their order matters."""
        run, level = self._shown.run, self._document.level
        verdicts = list(self._shown.verdicts) or None

        def work(job: Job, explainer: Explainer) -> Page:
            found = order_findings(run, job.go_on)
            self.order, self._order_run = found, run
            job.report(self._order_page(found, run, of=min(len(found), MOST_TRIED)))
            for at, finding in enumerate(found[:MOST_TRIED]):
                swap(level, run, finding, verdicts, job.is_dropped)
                job.go_on()
                job.report(self._order_page(found, run, at + 1, min(len(found), MOST_TRIED)))
            return self._order_page(found, run)

        self._ask("Order of rules", work, self.find_order)

    def _order_page(self, found: list[OrderFinding], run: Run, tried: int = 0, of: int = 0) -> Page:
        page = Page("Order of rules")
        if of and tried < of:
            page.notes.append(f"Swapping two rules and running again: {tried} of {of} …")
        if not found:
            page.notes.append(
                "The order of the rules makes no difference in this run: no two of them touch the same thing in one tick."
            )
        for at, finding in enumerate(ranked(found)):
            turns = [t.index for t in run.program.rules if t.source.id == finding.first]
            firing = next((f for f in run.trace.firings_at(finding.tick) if f.rule_index in turns), None)
            position = firing.position if firing is not None else 0
            page.roots.append(Reason(finding.sentence(), "note", finding.tick, position, finding.first))
            page.offers[at] = (("Swap and show", partial(self.swapWanted.emit, finding)),)
        return page

    def free(self, rule_id: int | None) -> tuple[int, int] | None:
        """Between which places in turns an entry may stand without any difference in the run; None while that is not known."""
        if rule_id is None or self._order_run is not self._shown.run:
            return None
        try:
            return free_to_move(self._shown.run, self.order, rule_id)
        except LookupError:
            return None

    # at other rates, with other seeds

    def check_rates(self) -> None:
        """The trial at several tick rates against its own."""
        level, trial = self._document.level, self._document.trial
        rates = tuple(r for r in (*RATES, *trial.rates) if r != level.settings.rate)

        def work(job: Job, explainer: Explainer) -> Page:
            found = rate_check(level, trial, tuple(dict.fromkeys(rates)), job.is_dropped)
            job.go_on()
            own = f"{level.settings.rate} ticks a second"
            return self._apart_page(
                "At other tick rates",
                f"“{trial.name}” at {own}, against:",
                found,
                "The same firings and numbers",
            )

        self._ask("At other tick rates", work, self.check_rates)

    def check_seeds(self) -> None:
        """The trial with several seeds against its own."""
        level, trial = self._document.level, self._document.trial

        def work(job: Job, explainer: Explainer) -> Page:
            found = seed_check(level, trial, SEEDS, job.is_dropped)
            job.go_on()
            return self._apart_page(
                "With other seeds",
                f"“{trial.name}” with seed {trial.seed}, against:",
                found,
                "The same firings",
            )

        self._ask("With other seeds", work, self.check_seeds)

    # what the trials reach

    def check_coverage(self) -> None:
        """What all trials reach of the level, and what they do not; rows of the order list are marked by it."""
        level = self._document.level

        def work(job: Job, explainer: Explainer) -> Page:
            begun: list[str] = []

            def go_on(name: str) -> None:
                job.go_on()
                if name not in begun:
                    begun.append(name)
                    words = f"Running trial {len(begun)} of {len(level.trials)}, “{name}” …"
                    job.report(Page(REACHED, [words], busy=True))

            reached = run_trials(level, go_on)
            self.reached = level, covered(level, reached)
            return _reached_page(level, self.reached[1])

        self._ask(REACHED, work, self.check_coverage)

    def take_reached(self, reached: Reached) -> None:
        """Mark what all trials of the level as it is reach, where that was found out elsewhere."""
        level = self._document.level
        self.reached = level, covered(level, reached)
        self.changed.emit()

    def check_changes(self) -> None:
        """Which small changes of the level no trial notices, and what would notice them."""
        # not at the start of the program: it takes 35 ms to load
        from gatillo.desk.session.change_page import CHANGES, ChangePage
        from gatillo.inspect.mutation.trying import try_mutants, unchanged
        from gatillo.inspect.work_queue import Crew, cores

        level = self._document.level

        def work(job: Job, explainer: Explainer) -> Page:
            job.report(Page(CHANGES, ["Running the trials as they are …"], busy=True))
            known = unchanged(level)
            job.go_on()
            listed = ChangePage(known, self.expectWanted.emit, self.changedWanted.emit)
            shown = monotonic()
            for one in try_mutants(known, listed.numbers, crew=Crew(max(2, cores())), stop=job.is_dropped):
                listed.add(one)
                if monotonic() - shown >= CHANGES_TOLD:
                    job.report(listed.page(busy=True))
                    shown = monotonic()
            job.go_on()
            return listed.page()

        self._ask(CHANGES, work, self.check_changes)

    def explore(self, seed: int = 0) -> None:
        """What input breaks an expectation that must hold whatever is pressed, or ends in a fault."""
        from gatillo.desk.session.explore_page import EXPLORED, SECONDS, explored_page, looking_page
        from gatillo.inspect.exploring.exploring import Exploration, Explorer
        from gatillo.inspect.work_queue import Crew, cores

        level, trial = self._document.level, self._document.trial

        def work(job: Job, explainer: Explainer) -> Page:
            explorer = Explorer(level, trial, seed)
            ends, shown = monotonic() + SECONDS, monotonic()

            def stop() -> bool:
                nonlocal shown
                if monotonic() - shown >= CHANGES_TOLD:
                    job.report(looking_page(explorer))
                    shown = monotonic()
                return job.is_dropped() or monotonic() >= ends

            job.report(looking_page(explorer))
            able = not explorer.program.problems and explorer.heard.anything
            result = explorer.explore(stop, crew=Crew(max(2, cores()))) if able else Exploration(0, 0)
            job.go_on()
            return explored_page(level, explorer, result, self.trialWanted.emit)

        self._ask(EXPLORED, work, lambda: self.explore(seed + 1))

    def order_accepted(self) -> None:
        """How the order of firing differs from the one that the viewed trial accepted, and whether to accept it."""
        run, trial = self._shown.run, self._document.trial
        self.show(accept_page(run, trial, lambda made: self.acceptWanted.emit(trial.name, made)))

    def save_page(self, path: pathlib.Path, beside: Run | None, label: str) -> None:
        """Write the shown run as a page for any browser, in the background."""
        # not at the start of the program
        from gatillo.files.run_page.run_page import run_page

        level, run = self._document.level, self._shown.run.so_far()
        verdicts = list(self._shown.verdicts) if self._shown.judged is self._shown.run else None

        def work(job: Job) -> str:
            page = run_page(level, run, beside, label, verdicts)
            job.go_on()
            try:
                path.write_text(page, encoding="utf-8")
            except OSError as error:
                return f"“{path.name}” cannot be written: {error.strerror or error}. Choose another place."
            return f"“{path.name}” is written; any browser shows it."

        self._worker.ask(work, self.notified.emit)

    def reached_of(self, rule_id: int, place: str) -> Covered | None:
        """Return what the trials reach of a rule's line or a graph's card, where that has been asked of the level as it is."""
        if self.reached is None or self.reached[0] is not self._document.level:
            return None
        if self._reached_at is None or self._reached_at[0] is not self.reached[1]:
            self._reached_at = self.reached[1], {(one.rule, one.place): one for one in self.reached[1]}
        return self._reached_at[1].get((rule_id, place))

    def cards_missed(self, graph_id: int) -> dict[int, str]:
        """Return the cards of a graph that the trials do not reach whole, with how far they come; none where that was not asked."""
        if self.reached is None or self.reached[0] is not self._document.level:
            return {}
        found: dict[int, str] = {}
        for one in self.reached[1]:
            if one.rule == graph_id and one.counts and not one.whole and one.sort in ("card", "output"):
                _, number, *output = one.place.split(" ", 2)
                words = f"{PARTLY}: {output[0]} {one.state}" if output else one.state
                # of a card that is never looked at, so are its outputs
                found.setdefault(int(number), words)
        return found

    def missed_in(self, rule_id: int) -> int:
        """Return how many lines or cards of a rule the trials do not reach whole; 0 where that has not been asked."""
        if self.reached is None or self.reached[0] is not self._document.level:
            return 0
        return sum(one.rule == rule_id and bool(one.place) and not one.whole for one in self.reached[1])

    def _apart_page(self, title: str, lead: str, found: list[Apart], alike: str) -> Page:
        page = Page(title, [lead])
        rate = self._shown.run.program.rate
        same = [apart.of for apart in found if apart.same]
        if same:
            page.notes.append(f"{alike}: {', '.join(same)}.")
        for at, apart in enumerate(one for one in found if not one.same):
            tick = round((apart.seconds or 0.0) * rate)
            grounds: Callable[[], list[Reason]] | None = partial(list, apart.why) if apart.why else None
            page.roots.append(Reason(apart.sentence(), "note", tick, grounds=grounds))
            page.offers[at] = (("Compare", partial(self.compareWanted.emit, apart.run, apart.of)),)
        return page

    # finding moments

    def find(self, text: str) -> None:
        """The moments that a text speaks of, such as `sends bang`, `writes level.score` or a formula."""

        def work(job: Job, explainer: Explainer) -> Page:
            found = find_moments(explainer.run, text, job.go_on)
            return _moments_page(text, found)

        self._ask("Find a moment", work, lambda: self.find(text))

    def moments_then(self, text: str, show: Callable[[Found], None]) -> None:
        """Find the moments that a text speaks of, and call `show` with them once they are found; they are found once for a run."""
        run = self._shown.run
        if self._found is not None and self._found[:2] == (run, text):
            show(self._found[2])
            return

        def work(job: Job) -> Found:
            return find_moments(run, text, job.go_on)

        def found(moments: Found) -> None:
            self._found = run, text, moments
            show(moments)

        self._worker.ask(work, found)


def _reached_page(level: Level, found: list[Covered]) -> Page:
    got, ways = totals(found)
    many = len(level.trials)
    page = Page(REACHED, about_rules=True)
    share = f", {got / ways:.0%}" if ways else ""
    page.notes.append(f"{got} of {ways} reached by {many} trial{'s' if many != 1 else ''}{share}.")
    off = sum(one.sort == "rule" and not one.counts for one in found)
    if off:
        page.notes.append(f"{off} rules or graphs are switched off in every trial, and not counted.")
    rest = missed(found)
    page.notes.append(
        "Not reached, or one way only:"
        if rest
        else "Everything is reached, and every condition went both ways."
    )
    page.roots = [
        Reason(one.sentence(), "obstacle" if one.state == "never looked at" else "note", rule_id=one.rule)
        for one in rest[:MOST_LISTED]
    ]
    if len(rest) > MOST_LISTED:
        page.notes.append(f"The first {MOST_LISTED} of {len(rest)} are listed.")
    return page


def _moments_page(text: str, found: Found) -> Page:
    many = len(found.moments)
    page = Page("Find a moment", [f"{found.what}: {many:,} moment{'s' if many != 1 else ''}."])
    page.roots = [Reason(words, "note", at.tick, at.position) for at, words in found.moments[:200]]
    if many > len(page.roots):
        page.notes.append(f"The first {len(page.roots)} are listed.")
    return page


def _page(title: str, reason: Reason) -> Page:
    """Return a page of one reason, unfolded to the second cause."""
    unfolded: set[Path] = {(0,)}
    for at, cause in enumerate(reason.because()):
        if len(unfolded) <= MOST_OPENED and cause.because():
            unfolded.add((0, at))
    return Page(title, roots=[reason], unfolded=unfolded, chosen=(0,))


def _known(reason: Reason) -> bool:
    reason.because()
    return True


def _turn(run: Run, rule_id: int) -> CompiledRule:
    found = next((t for t in run.program.rules if t.source.id == rule_id), None)
    if found is None:
        raise LookupError("this entry is not in the run that is shown")
    return found


def _spoken_of(run: Run, rule: CompiledRule) -> list[tuple[int, str]]:
    """Return objects of the kinds that a turn's occasions and conditions speak of, where they are few."""
    kinds: set[str] = set()
    for line in (*rule.when, *rule.if_):
        for argument in line.arguments.values():
            if isinstance(argument, RoleArgument) and argument.role.source in ("kind", "tag"):
                kinds.update(argument.role.kinds)
    found = [(o.id, o.name) for o in run.program.level.objects if o.kind in kinds]
    return found if len(found) <= MOST_OFFERED else []
