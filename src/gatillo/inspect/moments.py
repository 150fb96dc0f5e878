"""Finding the moments of a run that a text describes, and stops at which a run pauses."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from gatillo.formula.compiling import compile_formula
from gatillo.inspect.reasons.reason_words import called
from gatillo.inspect.watching import follow
from gatillo.level.naming import did_you_mean
from gatillo.sim.matching.match_table import Matches
from gatillo.sim.run.run import Cursor, Run
from gatillo.sim.trace.trace import Did, NullRecorder, Way


@dataclass(slots=True)
class Found:
    """The moments that were found, in order, each with a few words."""

    what: str
    moments: list[tuple[Cursor, str]] = field(default_factory=list)

    def next(self, cursor: Cursor, by: int) -> Cursor | None:
        """Return the moment after a cursor, or before it."""
        if by > 0:
            return next((at for at, _ in self.moments if at > cursor), None)
        return next((at for at, _ in reversed(self.moments) if at < cursor), None)


def find_moments(run: Run, text: str, between: Callable[[], None] = lambda: None) -> Found:
    """Return the moments of a run that a text speaks of.

    `sends MESSAGE`, `writes level.score` or `writes score`, `creates KIND`, `removes NAME`, `fires RULE` (or a rule's name alone),
    `fires RULE for OBJECT`, `faults`, an object's name: the firings in which it takes part, `OBJECT > OBJECT`: those of matches of
    both; anything else is a yes/no formula: the moments at which it becomes true. Raises ValueError with a sentence.
    """
    words = text.strip()
    verb, _, rest = words.partition(" ")
    rest = rest.strip().strip('“”"')
    names = {compiled.source.name: compiled.index for compiled in run.program.rules}
    objects = _objects_named(run, words)
    if objects:
        return _with_objects(run, words, objects, None, between)
    rule, _, about = rest.rpartition(" for ")
    if verb == "fires" and rest not in names and rule in names and _objects_named(run, about):
        return _with_objects(
            run, f"“{rule}” fires for {about}", _objects_named(run, about), names[rule], between
        )
    if verb == "fires" or words in names:
        name = rest if verb == "fires" else words
        if name not in names:
            raise ValueError(f"there is no rule “{name}”{did_you_mean(name, names)}")
        return _firings(run, name, names[name])
    if verb == "sends":
        if rest not in run.program.messages:
            raise ValueError(f"no rule knows of a message “{rest}”{did_you_mean(rest, run.program.messages)}")
        return _effects(run, f"“{rest}” is sent", Did.SENT, lambda n: n == run.program.messages[rest])
    if verb == "writes":
        return _writes(run, rest)
    if verb in ("creates", "removes"):
        return _coming_and_going(run, verb, rest)
    if verb == "faults":
        found = Found("faults")
        found.moments = [(run.end_of(f.tick), f.sentence) for f in run.trace.faults]
        return found
    return _becomes_true(run, words, between)


def _when(run: Run, tick: int) -> str:
    return f"{tick / run.program.rate:.3f} s, tick {tick}"


def _objects_named(run: Run, text: str) -> frozenset[int]:
    """Return the objects that a text such as `Moth 3` or `Moth 3 > Lamp 1` names; none where it names anything else."""
    wanted = [part.strip() for part in text.split(">")]
    known = {name: i for i, name in run.program.names.items()}
    known |= {called(run, i): i for i in run.world.created_of if i not in run.program.names}
    if not all(name in known for name in wanted):
        return frozenset()
    return frozenset(known[name] for name in wanted)


class _Parts(NullRecorder):
    """Notes the firings whose matches are about some objects, all in one match."""

    watching = True

    def __init__(self, objects: frozenset[int], rule_index: int | None) -> None:
        self.objects = objects
        self.rule_index = rule_index
        self.now = 0
        self.tick = self.position = 0
        self.found: list[tuple[int, int, int]] = []

    def tick_begins(self, tick: int) -> None:
        self.tick, self.position = tick, 0

    def fires(self, rule_index: int, matches: int, way: Way) -> None:
        self.position += 1
        self.now = rule_index

    def takes_part(self, table: Matches, ids: dict[str, NDArray[np.int64]]) -> None:
        if self.rule_index not in (None, self.now):
            return
        fits = np.ones(table.n, dtype=bool)
        for one in self.objects:
            mine = np.zeros(table.n, dtype=bool)
            for column in ids.values():
                mine |= column == one
            fits &= mine
        if fits.any():
            self.found.append((self.tick, self.position, self.now))


def _with_objects(
    run: Run, what: str, objects: frozenset[int], rule_index: int | None, between: Callable[[], None]
) -> Found:
    parts = _Parts(objects, rule_index)
    if run.done:
        run.replay(1, run.done, parts, between)
    found = Found(f"firings of {what}" if rule_index is None else what)
    for tick, position, which in parts.found:
        name = run.program.rules[which].source.name
        found.moments.append((Cursor(tick, position), f"{_when(run, tick)}, “{name}”"))
    return found


def _firings(run: Run, name: str, rule_index: int) -> Found:
    found = Found(f"“{name}” fires")
    for firing in run.trace.firings():
        if firing.rule_index == rule_index:
            many = f", for {firing.matches} matches" if firing.matches > 1 else ""
            found.moments.append(
                (
                    Cursor(firing.tick, firing.position),
                    f"{_when(run, firing.tick)}, {firing.position} of the tick{many}",
                )
            )
    return found


def _effects(run: Run, what: str, did: Did, wanted: Callable[[int], bool]) -> Found:
    found = Found(what)
    for tick in range(1, run.done + 1):
        firings = None
        for position, done, number in run.trace.effects_at(tick):
            if done is did and wanted(number):
                firings = firings or run.trace.firings_at(tick)
                if 1 <= position <= len(firings):
                    rule = run.program.rules[firings[position - 1].rule_index].source.name
                    moment = (Cursor(tick, position), f"{_when(run, tick)}, by “{rule}”")
                    if moment not in found.moments[-1:]:
                        found.moments.append(moment)
    return found


def _writes(run: Run, name: str) -> Found:
    owner, _, variable = name.rpartition(".")
    written = run.program.tick_tables.written
    numbers = {n for n, (whose, what) in enumerate(written) if what == variable and owner in ("", whose)}
    if not numbers:
        known = [f"{whose}.{what}" for whose, what in written]
        raise ValueError(f"no rule writes “{name}”{did_you_mean(name, known)}")
    return _effects(run, f"{name} is written", Did.WROTE, numbers.__contains__)


def _coming_and_going(run: Run, verb: str, name: str) -> Found:
    program = run.program
    # those whose rows are gone are known to the kept moments before
    created: dict[int, int] = {}
    for world in (*run.keyframes.values(), run.world):
        created.update(world.created_of)
    kinds = {k.name for k in program.kinds}
    ids = {i for i, known in program.names.items() if known == name}
    if not ids and name not in kinds and name:
        raise ValueError(
            f"there is no kind or object “{name}”{did_you_mean(name, [*kinds, *program.names.values()])}"
        )

    def wanted(number: int) -> bool:
        if ids:
            return number in ids
        kind = (
            program.kinds[created[number]].name
            if number in created
            else next((o.kind for o in program.level.objects if o.id == number), "")
        )
        return not name or kind == name

    did = Did.CREATED if verb == "creates" else Did.REMOVED
    return _effects(run, f"{name or 'something'} is {verb.removesuffix('s')}d", did, wanted)


def _becomes_true(run: Run, text: str, between: Callable[[], None]) -> Found:
    formula = compile_formula(run.program.index, text, "yes/no")

    def stop() -> bool:
        between()
        return False

    (values,) = follow(run, [formula], stop)
    found = Found(f"{text} becomes true")
    before = False
    for tick, value in enumerate(values):
        if value is True and not before:
            found.moments.append((run.end_of(tick), _when(run, tick)))
        before = value is True
    return found


@dataclass(frozen=True, slots=True)
class Stop:
    """Where a run pauses: what is found by a text, or a card of a graph; `on` says whether it is heeded."""

    text: str = ""
    graph_id: int = 0
    card: int = 0
    on: bool = True

    def words(self) -> str:
        """Return what it stops at."""
        return self.text or f"card {self.card}"


def stop_moments(run: Run, stops: list[Stop], between: Callable[[], None] = lambda: None) -> list[Cursor]:
    """Return every moment at which one of the stops that are on holds a run, in order. Stops that make no sense hold nothing."""
    found: set[Cursor] = set()
    for stop in stops:
        if not stop.on:
            continue
        if stop.card:
            found |= _card_moments(run, stop)
            continue
        try:
            moments = [at for at, _ in find_moments(run, stop.text, between).moments]
        except ValueError:
            continue
        found |= set(moments)
    return sorted(found)


def _card_moments(run: Run, stop: Stop) -> set[Cursor]:
    rule = next((t for t in run.program.rules if t.source.id == stop.graph_id and t.graph is not None), None)
    if rule is None or rule.graph is None:
        return set()
    inner = {n for n, origin in rule.graph.origins.items() if origin.card == stop.card} | {stop.card}
    return {
        Cursor(ran.tick, ran.firings, ran.step)
        for tick in range(1, run.done + 1)
        for ran in run.trace.cards_at(tick)
        if ran.rule_index == rule.index and ran.card in inner
    }
