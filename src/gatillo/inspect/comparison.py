"""What differs between two runs: firings only in one, per rule."""

from __future__ import annotations

from dataclasses import dataclass, field

from gatillo.sim.run.run import Run


@dataclass(frozen=True, slots=True)
class Comparison:
    """Ticks of firings that only the run before has, and only the run after, by rule id."""

    gone: dict[int, tuple[int, ...]] = field(default_factory=dict)
    new: dict[int, tuple[int, ...]] = field(default_factory=dict)

    @property
    def gone_count(self) -> int:
        """How many firings of the run before are gone."""
        return sum(map(len, self.gone.values()))

    @property
    def new_count(self) -> int:
        """How many firings the run before did not have."""
        return sum(map(len, self.new.values()))

    def sentence(self) -> str:
        """The difference in a few words."""
        gone, new = self.gone_count, self.new_count
        if not gone and not new:
            return "replayed: same firings"
        moved = min(gone, new)
        told = [f"{moved} firing{'s' if moved != 1 else ''} moved"] if moved else []
        if new > gone:
            told.append(f"{new - gone} more")
        elif gone > new:
            told.append(f"{gone - new} fewer")
        return "replayed: " + ", ".join(told)


def compare(before: Run, after: Run) -> Comparison:
    """Which firings (rule, tick) only one of the two runs has. Rules are told apart by their id."""
    sides: list[dict[int, set[int]]] = []
    for run in (before, after):
        found: dict[int, set[int]] = {}
        ids = [turn.rule.id for turn in run.program.turns]
        tick, _, turn, _, _ = run.trace.columns()
        for t, at in zip(tick.tolist(), turn.tolist(), strict=True):
            found.setdefault(ids[at], set()).add(t)
        sides.append(found)
    old, now = sides
    gone = {rule: tuple(sorted(ticks - now.get(rule, set()))) for rule, ticks in old.items()}
    new = {rule: tuple(sorted(ticks - old.get(rule, set()))) for rule, ticks in now.items()}
    return Comparison({r: t for r, t in gone.items() if t}, {r: t for r, t in new.items() if t})
