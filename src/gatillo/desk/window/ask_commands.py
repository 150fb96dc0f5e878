"""What can be asked about the run: the Ask menu."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from gatillo.desk.session.page import Page
from gatillo.desk.session.stops import Stops
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.window.commands import Run
from gatillo.level.model import Graph
from gatillo.level.roles import all_logic
from gatillo.sim.run.run import Cursor
from gatillo.sim.trace.trace import Firing

AskText = Callable[[str, str], str | None]
"""Asks for a line of text: what for, and what is there at first; None when it was not given."""
ChooseFile = Callable[[str, str], Path | None]
"""Lets a file be chosen: what for, and of which sort."""
Choose = Callable[[str, list[str]], str | None]
"""Lets one of several be chosen."""


class AskCommands:
    """Questions about what is selected at the cursor, and runs laid beside one another."""

    def __init__(
        self, bench: Workbench, stops: Stops, ask_text: AskText, choose: Choose, choose_file: ChooseFile
    ) -> None:
        self.choose_file = choose_file
        self.bench = bench
        self.stops = stops
        self.ask_text = ask_text
        self.choose = choose
        self._found = ""

    def runs(self) -> dict[str, Run]:
        """Return commands by name, with what they do."""
        bench = self.bench
        return {
            "ask why": self.why,
            "ask why not": self.why_not,
            "ask never": self.never,
            "ask caused": self.caused,
            "ask value": self.value,
            "ask order": bench.answers.find_order,
            "ask rates": bench.answers.check_rates,
            "ask seeds": bench.answers.check_seeds,
            "ask coverage": bench.answers.check_coverage,
            "ask changes": bench.answers.check_changes,
            "explore": bench.answers.explore,
            "accept order": bench.answers.order_accepted,
            "answer again": bench.answers.show_again,
            "answer done": bench.answers.dismiss,
            "beside before": bench.beside.compare_with_before,
            "beside other": self.lay_beside,
            "beside saved": self.lay_saved,
            "beside none": bench.beside.dismiss,
            "next difference": lambda: bench.beside.step(1),
            "previous difference": lambda: bench.beside.step(-1),
            "find moment": self.find,
            "next of it": lambda: self.step_selected(1),
            "previous of it": lambda: self.step_selected(-1),
            "stop at it": self.stop_at_selected,
            "stop at": self.stop_at,
            "next stop": lambda: self.stops.step(1),
            "previous stop": lambda: self.stops.step(-1),
            "stops": self.show_stops,
        }

    # why

    def _here(self) -> tuple[int | None, Firing | None]:
        """Return the selected rule, and its firing at the cursor; with none selected the firing at the cursor itself."""
        bench = self.bench
        cursor, run = bench.cursor, bench.run
        firings = run.trace.firings_at(cursor.tick)
        selected = bench.selection.rule
        position = cursor.position + (cursor.step > 0)
        if selected is None:
            return None, firings[position - 1] if 1 <= position <= len(firings) else None
        mine = [f for f in firings if run.program.rules[f.rule_index].source.id == selected]
        at_cursor = next((f for f in mine if f.position == position), None)
        return selected, at_cursor or (mine[0] if mine else None)

    def why(self) -> None:
        """Why the selected rule fired at the cursor, or why it did not; with none selected, the firing there."""
        rule, firing = self._here()
        if firing is not None:
            self.bench.answers.why(firing.tick, firing.position)
        elif rule is not None and self.bench.cursor.tick:
            self.bench.answers.why_not(rule, self.bench.cursor.tick)
        elif rule is not None:
            self.bench.answers.why_never(rule)
        else:
            self.bench.notify(
                "Put the cursor at a firing, or select a rule, to ask why it fired or why it did not."
            )

    def _selected_rule(self) -> int:
        assert self.bench.selection.rule is not None
        return self.bench.selection.rule

    def why_not(self) -> None:
        """Why the selected rule did not fire at the cursor; for the selected objects, if there are some."""
        self.bench.answers.why_not(self._selected_rule(), max(1, self.bench.cursor.tick))

    def never(self) -> None:
        """Why the selected rule never fires in this run."""
        self.bench.answers.why_never(self._selected_rule())

    def caused(self) -> None:
        """What the firing at the cursor led to."""
        _, firing = self._here()
        if firing is None:
            self.bench.notify("Put the cursor at a firing to ask what it caused.")
        else:
            self.bench.answers.caused(firing.tick, firing.position)

    def value(self) -> None:
        """Why a formula has the value that it has at the cursor."""
        text = self.ask_text("Why is this value what it is? A formula, such as level.score or Moth_3.x:", "")
        if text:
            self.bench.answers.why_value(text)

    # side by side

    def lay_beside(self) -> None:
        """Compare this run with another trial, a variant, a take, or the script that a take is of."""
        level = self.bench.level
        trials = {f"trial “{t.name}”": t.name for t in level.trials if t.name != self.bench.trial.name}
        variants = {f"variant “{v.name}”": v.name for v in level.variants}
        takes = {take.label: take for take in self.bench.takes.of_trial(self.bench.trial.name)}
        takes = {label: take for label, take in takes.items() if take is not self.bench.take}
        script = f"the script of “{self.bench.trial.name}”"
        words = [*([script] if self.bench.take is not None else []), *takes, *trials, *variants]
        if not words:
            self.bench.notify(
                "There is nothing to compare with: no other trial, no variant and no take. Play, or make a variant with Level › New variant."
            )
            return
        chosen = self.choose("Compare this run with:", words)
        if chosen == script:
            self.bench.beside.compare_with_tried(script, self.bench.trial)
        elif chosen in takes:
            self.bench.beside.compare_with_tried(chosen, takes[chosen].of(self.bench.trial))
        elif chosen in trials:
            self.bench.beside.compare_with_trial(trials[chosen])
        elif chosen in variants:
            self.bench.beside.compare_with_variant(variants[chosen])

    def lay_saved(self) -> None:
        """Compare this run with the firings of a saved trace."""
        path = self.choose_file("Compare with a saved trace", "Traces (*.jsonl)")
        if path is not None:
            self.bench.beside.compare_with_saved(path)

    # moments

    def find(self) -> None:
        """List the moments that a text speaks of."""
        text = self.ask_text(
            "Find moments: “sends bang”, “writes level.score”, “creates Pod”, “faults”, a rule’s name, or a formula:",
            self._found,
        )
        if text:
            self._found = text
            self.bench.answers.find(text)

    def step_selected(self, by: int) -> None:
        """The next firing of the selected rule or of the selected objects, or run of the selected card; or the one before."""
        bench = self.bench
        objects = sorted(bench.selection.objects)
        if bench.selection.rule is None and objects:
            # scenery takes part in no run, and what was placed since is in none yet
            there = [name for i in objects[:2] if (name := bench.run.program.names.get(i))]
            if not there:
                bench.notify("What is selected takes no part in this run.")
                return
            names = " > ".join(there)
            bench.answers.moments_then(
                names, lambda found: self._step_to([at for at, _ in found.moments], by)
            )
            return
        card = next(iter(bench.selection.cards), 0)
        self._step_to(self.stops.moments_of(self._selected_rule(), card), by)

    def _step_to(self, moments: list[Cursor], by: int) -> None:
        now = self.bench.cursor
        found = [at for at in moments if at > now] if by > 0 else [at for at in moments if at < now][::-1]
        if not found:
            self.bench.notify(
                "It does not fire again after this moment."
                if by > 0
                else "It did not fire before this moment."
            )
            return
        self.bench.move_cursor(found[0])

    # stops

    def stop_at_selected(self) -> None:
        """Set a stop at the selected rule's firings or the selected card's runs; remove it if it is set."""
        bench = self.bench
        rule = self._selected_rule()
        entry = next(e for _, _, e in all_logic(bench.level) if e.id == rule)
        card = next(iter(bench.selection.cards), 0) if isinstance(entry, Graph) else 0
        self.stops.toggle(rule, card)

    def stop_at(self) -> None:
        """Hold a run at the moments that a text speaks of."""
        text = self.ask_text(
            "Stop a run at: “sends bang”, “writes level.score”, “faults”, or when a formula becomes true:", ""
        )
        if text:
            self.stops.add(text)

    def show_stops(self) -> None:
        """List the stops, to be switched and removed."""
        page = Page("Stops")
        stops = self.stops
        if not stops.stops:
            page.notes.append(
                "There are no stops. Select a rule or a card and choose Run › Stops › Stop here."
            )
        for at, stop in enumerate(stops.stops):
            words = stops.words(stop)
            switch = f"{'●' if stop.on else '○'} {words}: switch {'off' if stop.on else 'on'}"
            page.also += [
                (switch, partial(self._switch, at)),
                (f"    remove {words}", partial(self._take_away, at)),
            ]
        self.bench.answers.show(page)

    def _switch(self, at: int) -> None:
        self.stops.switch(at)
        self.show_stops()

    def _take_away(self, at: int) -> None:
        self.stops.remove(at)
        self.show_stops()
