"""What the parts of an answer ask for: the protocol of `Explainer` (why.py)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from gatillo.inspect.reasons.journal import Journal, Moment, Wrote
from gatillo.inspect.reasons.reason import Reason
from gatillo.sim.program.compiled_rule import CompiledRule
from gatillo.sim.run.run import Run
from gatillo.sim.trace.trace import Firing
from gatillo.sim.world.world import World


class Explaining(Protocol):
    """A run, what was written in it, and reasons for firings, values and objects."""

    run: Run
    between: Callable[[], None]
    journal: Journal

    def fired(self, tick: int, position: int, object_id: int | None = None) -> Reason:
        """Return why a firing came about."""

    def only_fired(self, tick: int, position: int, object_id: int | None = None) -> list[Reason]:
        """Return a firing as the only reason for something."""

    def last_firing(self, rule: CompiledRule, before: int) -> Firing | None:
        """Return the last firing of a turn before a tick."""

    def there(self, object_id: int, tick: int | None = None) -> Reason:
        """Return why an object is there, or is not."""

    def by(self, wrote: Wrote) -> str:
        """Return the rule and the line that wrote something."""

    def from_write(self, words: str, wrote: Wrote, ids: tuple[int, ...] = ()) -> Reason:
        """Return a reason that something was written."""

    def place_reason(self, object_id: int, world: World, tick: int) -> Reason:
        """Return why an object stands where it does at the end of a tick."""

    def velocity_reason(self, object_id: int, world: World, at: Moment) -> Reason:
        """Return what gave an object its velocity."""
