"""One run that a peer drives: the methods of the protocol, each with its record of parameters."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path
from time import monotonic
from typing import Any

import msgspec
import numpy as np
from msgspec.structs import replace

from gatillo.files.level_file import LevelFileError, decode_level, read_level
from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula, column_key
from gatillo.formula.syntax import FormulaError
from gatillo.inspect.created_names import with_created
from gatillo.inspect.reasons.asking import named_object
from gatillo.inspect.reasons.reason import Reason
from gatillo.inspect.watching import Unanswered, value_in
from gatillo.level.keys import KEYS, POINTER_KEYS
from gatillo.level.model import Circle, Input, Kind, Level, Value
from gatillo.level.naming import did_you_mean, token
from gatillo.level.roles import Index, all_logic, type_of
from gatillo.library import Simulation, start
from gatillo.serving import messages as m
from gatillo.serving.dispatch import Answer, Refused
from gatillo.serving.showing import (
    Watched,
    as_json,
    firing_shown,
    level_values,
    objects_shown,
    own_columns,
)
from gatillo.sim.run.run import Cursor, Run
from gatillo.sim.world.input_script import MovedOutside, Outside, SentOutside, SetOutside
from gatillo.sim.world.world import World

HELD = {"held": True, "failed": False}
"""Of an outcome, whether the expectation held; of any other it is not known."""
MOST_STOPS = 100
MOST_SECONDS = 20.0
"""How long an answer to *why* may take."""
Notify = Callable[[str, m.Result], object]


class Session:
    """A run that is driven from outside. `notify` is called with what changed in each tick, once that is wanted."""

    def __init__(self, level: Level | None, folder: Path | None, notify: Notify) -> None:
        """Begin with a level, or none; `folder` is where other level files may be opened."""
        self.level = level
        self.folder = folder
        self.notify = notify
        self.gone = threading.Event()
        """Set when nobody listens any more: what takes long ends then."""
        self._simulation: Simulation | None = None
        self._cursor = Cursor()
        self._watched: Watched | None = None
        self._subscribed = False
        self._stop_rules: dict[str, int] = {}
        self._stop_formulas: dict[str, tuple[Formula, Index]] = {}

    def methods(self) -> dict[str, Answer]:
        """Return what answers each method."""
        return {name: getattr(self, name) for name in m.METHODS}

    # opening

    def open(self, asked: m.Open) -> m.Opened:
        """Open a level and a trial of it."""
        level = self._level_of(asked)
        if not level.trials:
            raise Refused(f"“{level.name}” has no trial")
        trial = next((t for t in level.trials if asked.trial in ("", t.name)), None)
        if trial is None:
            hint = did_you_mean(asked.trial, [t.name for t in level.trials])
            raise Refused(f"“{level.name}” has no trial “{asked.trial}”{hint}")
        if not asked.scripted:
            trial = replace(trial, input=Input())
            level = replace(level, trials=tuple(trial if t.name == trial.name else t for t in level.trials))
        self._simulation = start(level, trial.name, rate=asked.rate, seed=asked.seed)
        self.level = level
        run = self._run
        self._cursor, self._stop_rules, self._stop_formulas = Cursor(), {}, {}
        self._watch_from_here()
        return m.Opened(
            level=level.name,
            trial=trial.name,
            rate=run.program.rate,
            length=run.length,
            width=level.settings.width,
            height=level.settings.height,
            kinds=[_kind_shown(kind) for kind in level.kinds],
            rules=[logic.name for _, _, logic in all_logic(level)],
            trials=[t.name for t in level.trials],
            problems=self._simulation.problems(),
        )

    def _level_of(self, asked: m.Open) -> Level:
        try:
            if asked.level is not None:
                return decode_level(msgspec.json.encode(asked.level), "the level")
            if asked.file:
                return read_level(self._allowed(asked.file))
        except LevelFileError as error:
            raise Refused(str(error)) from None
        if self.level is None:
            raise Refused("no level is open: give “level” or “file”")
        return self.level

    def _allowed(self, file: str) -> Path:
        """Return the path of a level file; only those in and below the folder of the server's level can be opened."""
        if self.folder is None:
            raise Refused("this server opens no files; give the level itself as “level”")
        try:
            folder = self.folder.resolve()
            path = (folder / file).resolve()
        except (OSError, ValueError, RuntimeError) as error:
            raise Refused(f"“{file[:100]}” is not a file name: {error}") from None
        if not path.is_relative_to(folder):
            raise Refused(
                f"“{file[:100]}” is not in the folder of the level that the server was started with"
            )
        return path

    @property
    def _sim(self) -> Simulation:
        if self._simulation is None:
            self.open(m.Open())
        assert self._simulation is not None
        return self._simulation

    @property
    def _run(self) -> Run:
        return self._sim.run

    @property
    def _world(self) -> World:
        return self._run.world_at(self._cursor)

    @property
    def _within(self) -> bool:
        """Whether the cursor is within a tick."""
        return self._cursor != self._run.end_of(self._cursor.tick)

    # going on and back

    def step(self, asked: m.Step) -> m.Moment:
        """Go on, or back."""
        stopped = ""
        for _ in range(asked.count):
            stopped, gone = self._one_step(asked.by, asked.back)
            if stopped or not gone or self.gone.is_set():
                break
        return self._moment(stopped)

    def _one_step(self, by: str, back: bool) -> tuple[str, bool]:
        run, at = self._run, self._cursor
        if by == "tick":
            if back:
                self._cursor = run.end_of(at.tick - 1)
                return "", at.tick > 0
            if self._within:
                self._cursor = run.end_of(at.tick)
                return "", True
            return self._to_tick(at.tick + 1)
        find = {
            ("firing", False): run.next_firing,
            ("firing", True): run.previous_firing,
            ("step", False): run.next_step,
            ("step", True): run.previous_step,
        }[by, back]
        found = find(at)
        while found is None and not back:
            # what follows has not been run yet
            stopped, gone = self._to_tick(run.done + 1)
            if not gone or self.gone.is_set():
                return stopped, False
            found = find(at)
        if found is None:
            return "", False
        self._cursor = found
        return "", True

    def _to_tick(self, tick: int) -> tuple[str, bool]:
        """Put the cursor at the end of a tick, which is run if it has not been yet; return the stop met, and whether it was reached."""
        run = self._run
        if tick <= run.done:
            self._cursor = run.end_of(tick)
            return self._stop_at(tick), True
        if run.done >= run.length:
            return "", False
        run.advance(1)
        self._cursor = run.end_of(run.done)
        if self._subscribed and self._watched is not None:
            self.notify("changed", self._watched.since())
        return self._stop_at(run.done), True

    def run(self, asked: m.RunOn) -> m.Moment:
        """Run on to a stop, by some ticks, or to the end."""
        last = self._cursor.tick + asked.ticks if asked.ticks is not None else self._run.length
        stopped = ""
        while self._cursor.tick < last and not stopped and not self.gone.is_set():
            stopped, gone = self._to_tick(self._cursor.tick + 1)
            if not gone:
                break
        return self._moment(stopped)

    def go(self, asked: m.Go) -> m.Moment:
        """Go to a moment, running up to it if need be."""
        while self._run.done < asked.tick and not self.gone.is_set():
            if not self._to_tick(self._run.done + 1)[1]:
                raise Refused(f"the trial has {self._run.length} ticks; there is no tick {asked.tick}")
        end = self._run.end_of(asked.tick)
        position = end.position if asked.position is None else min(asked.position, end.position)
        self._cursor = Cursor(asked.tick, position)
        return self._moment("")

    def _moment(self, stopped: str) -> m.Moment:
        run, at = self._run, self._cursor
        over = at.tick >= run.length and not self._within
        return m.Moment(
            tick=at.tick,
            position=at.position,
            step=at.step,
            seconds=at.tick / run.program.rate,
            done=run.done,
            over=over,
            stopped=stopped,
        )

    # stops

    def stop(self, asked: m.Stop) -> m.Stops:
        """Set a stop, or clear all."""
        if not asked.rule and not asked.formula:
            self._stop_rules, self._stop_formulas = {}, {}
        if len(self._stop_rules) + len(self._stop_formulas) >= MOST_STOPS:
            raise Refused(f"there are {MOST_STOPS} stops, and no more can be set")
        if asked.rule:
            rules = {rule.source.name: rule.index for rule in self._run.program.rules}
            if asked.rule not in rules:
                raise Refused(f"there is no rule “{asked.rule}”{did_you_mean(asked.rule, rules)}")
            self._stop_rules[asked.rule] = rules[asked.rule]
        if asked.formula:
            self._stop_formulas[asked.formula] = self._formula(asked.formula)
        return m.Stops(rules=[*self._stop_rules], formulas=[*self._stop_formulas])

    def _stop_at(self, tick: int) -> str:
        """Return the stop that is met in a tick; "" for none."""
        if self._stop_rules:
            fired = {firing.rule_index for firing in self._run.trace.firings_at(tick)}
            for name, index in self._stop_rules.items():
                if index in fired:
                    return f"“{name}” fired"
        for text, formula in self._stop_formulas.items():
            before = self._run.world_at(self._run.end_of(tick - 1))
            now = self._run.world_at(self._run.end_of(tick))
            if self._holds(formula, now) and not self._holds(formula, before):
                return text
        return ""

    def _holds(self, formula: tuple[Formula, Index], world: World) -> bool:
        value = value_in(world, *formula)
        return not isinstance(value, Unanswered) and bool(value)

    # input and changes from outside

    def hold(self, asked: m.Keys) -> m.Accepted:
        """Press keys."""
        keys = [_key(name) for name in asked.keys]

        def press(run: Run, tick: int) -> None:
            for key in keys:
                run.script.press(tick, key)

        return self._come_in(press)

    def release(self, asked: m.Keys) -> m.Accepted:
        """Let keys go."""
        keys = [_key(name) for name in asked.keys]

        def release(run: Run, tick: int) -> None:
            for key in keys:
                run.script.release(tick, key)

        return self._come_in(release)

    def point(self, asked: m.Point) -> m.Accepted:
        """Move the pointer."""
        return self._come_in(lambda run, tick: run.script.point(tick, asked.x, asked.y))

    def choose(self, asked: m.Choose) -> m.Accepted:
        """Choose a topic or an entry of a menu."""
        return self._come_in(lambda run, tick: run.script.choose(tick, asked.text))

    def set(self, asked: m.Set) -> m.Accepted:
        """Set a variable from outside."""
        change = self._set_own(asked) if asked.object else self._set_level(asked)
        return self._come_in(lambda run, tick: run.script.come_from_outside(tick, change))

    def move(self, asked: m.Move) -> m.Accepted:
        """Move an object from outside."""
        number = self._object(asked.object)
        change = MovedOutside(number, asked.x, asked.y, asked.object, asked.angle)
        return self._come_in(lambda run, tick: run.script.come_from_outside(tick, change))

    def send(self, asked: m.Send) -> m.Accepted:
        """Send a message from outside."""
        known = self._run.program.messages
        if asked.message not in known:
            raise Refused(
                f"no rule hears or sends a message “{asked.message}”{did_you_mean(asked.message, known)}"
            )
        change = SentOutside(asked.message)
        return self._come_in(lambda run, tick: run.script.come_from_outside(tick, change))

    def _come_in(self, put: Callable[[Run, int], object]) -> m.Accepted:
        """Put something into the tick after the cursor; what had been run after the cursor is run anew when it is wanted."""
        run, tick = self._run, self._cursor.tick
        if tick >= run.length:
            raise Refused("the trial is over; open it again, or go back first")
        if tick < run.done:
            run = run.resume_at(tick)
            run.script = _continued(run, tick)
            self._sim.take(run)
            self._watch_from_here()
        self._cursor = run.end_of(tick)
        put(run, tick + 1)
        return m.Accepted(tick=tick + 1)

    def _set_level(self, asked: m.Set) -> Outside:
        known = {v.name: v for v in self._run.program.level.variables}
        if asked.variable not in known:
            raise Refused(
                f"the level has no variable “{asked.variable}”{did_you_mean(asked.variable, known)}"
            )
        value = self._value_for(asked, known[asked.variable].value)
        return SetOutside(token(asked.variable), value, f"level.{asked.variable}")

    def _set_own(self, asked: m.Set) -> Outside:
        number = self._object(asked.object)
        row = self._world.row_of_id(number)
        kind = self._run.program.kinds[self._world.kind.item(row)]
        known = {v.name: v for v in kind.variables}
        if asked.variable not in known:
            hint = did_you_mean(asked.variable, known)
            raise Refused(f"{asked.object} has no variable “{asked.variable}”{hint}")
        declared = known[asked.variable].value
        key = column_key(token(asked.variable), type_of(declared))
        if key not in self._world.variables:
            raise Refused(
                f"nothing reads or writes “{asked.variable}” of {kind.name}, so it is not kept in a run"
            )
        return SetOutside(key, self._value_for(asked, declared), f"{asked.object}.{asked.variable}", number)

    def _value_for(self, asked: m.Set, declared: Value) -> Any:
        """Return a value as a run holds it. Raises Refused where it is of another type."""
        wanted, value = type_of(declared), asked.value
        if wanted == "object":
            if not isinstance(value, str):
                raise Refused(f"“{asked.variable}” refers to an object: give its name, or “” for nobody")
            return self._object(value) if value else 0
        if isinstance(value, int) and not isinstance(value, bool):
            value = float(value)
        if type_of(value) != wanted:
            raise Refused(f"“{asked.variable}” is a {wanted}, so it cannot be {value!r}")
        return complex(*value) if isinstance(value, tuple) else value

    def _object(self, name: str) -> int:
        try:
            number = named_object(self._run, name)
        except KeyError as error:
            raise Refused(str(error.args[0])) from None
        if self._world.row_of_id(number) < 0:
            raise Refused(f"{name} is not in the level at tick {self._cursor.tick}")
        return number

    # looking

    def objects(self, asked: m.Objects) -> m.ObjectsShown:
        """Objects at the cursor."""
        world = self._world
        rows = world.alive.nonzero()[0]
        if asked.kind:
            numbers = world.program.kind_number
            if asked.kind not in numbers:
                raise Refused(f"there is no kind “{asked.kind}”{did_you_mean(asked.kind, numbers)}")
            rows = rows[world.kind[rows] == numbers[asked.kind]]
        if asked.names is not None:
            wanted = {self._object(name) for name in asked.names}
            rows = rows[np.isin(world.id[rows], list(wanted))]
        return m.ObjectsShown(objects=objects_shown(world, rows, own_columns(world.program)))

    def variables(self, asked: m.Nothing) -> m.VariablesShown:
        """Level variables at the cursor."""
        return m.VariablesShown(values=level_values(self._world))

    def value(self, asked: m.Value) -> m.ValueShown:
        """A formula's value at the cursor."""
        found = value_in(self._world, *self._formula(asked.formula))
        if isinstance(found, Unanswered):
            return m.ValueShown(value=None, unanswered=found.reason)
        return m.ValueShown(value=as_json(found))

    def _formula(self, text: str) -> tuple[Formula, Index]:
        try:
            readable, index = with_created(self._run, text)
            return compile_formula(index, readable), index
        except FormulaError as error:
            raise Refused(f"“{text[:100]}” cannot be read: {error}") from None

    def matches(self, asked: m.Matches) -> m.MatchesShown:
        """Who took part in a firing."""
        run = self._run
        firings = run.trace.firings_at(asked.tick) if asked.tick <= run.done else []
        if asked.position > len(firings):
            raise Refused(f"tick {asked.tick} has {len(firings)} firings so far")
        firing = firings[asked.position - 1]
        seen = run.witness(asked.tick)[asked.position - 1]
        roles = {role: [run.world.name_of(i) for i in ids] for role, ids in seen.ids.items()}
        name = run.program.rules[firing.rule_index].source.name
        return m.MatchesShown(rule=name, matches=firing.matches, roles=roles)

    def firings(self, asked: m.Firings) -> m.FiringsShown:
        """What has fired."""
        trace = self._run.trace
        found = trace.firings() if asked.tick is None else trace.firings_at(asked.tick)
        return m.FiringsShown(firings=[firing_shown(self._run, firing) for firing in found])

    def faults(self, asked: m.Nothing) -> m.FaultsShown:
        """What went wrong while running."""
        return m.FaultsShown(faults=self._sim.faults())

    def verdicts(self, asked: m.Nothing) -> m.Verdicts:
        """What the trial expects, and whether it held."""
        shown = [
            m.VerdictShown(sentence=v.sentence(), held=HELD.get(v.outcome)) for v in self._sim.verdicts()
        ]
        return m.Verdicts(verdicts=shown, passed=self._sim.passed())

    def why(self, asked: m.Why) -> m.ReasonGiven:
        """Why a rule fired."""
        return self._reasons(lambda: self._sim.why(asked.rule, asked.tick, asked.about), asked.depth)

    def why_not(self, asked: m.WhyNot) -> m.ReasonGiven:
        """Why a rule did not fire."""
        return self._reasons(lambda: self._sim.why_not(asked.rule, asked.tick, asked.about), asked.depth)

    def why_value(self, asked: m.WhyValue) -> m.ReasonGiven:
        """Why a value is what it is."""
        tick = self._cursor.tick if asked.tick is None else asked.tick
        return self._reasons(lambda: self._sim.why_value(asked.formula, tick), asked.depth)

    def _reasons(self, ask: Callable[[], Reason], depth: int) -> m.ReasonGiven:
        begun = monotonic()

        def given(reason: Reason, left: int) -> m.ReasonGiven:
            late = monotonic() - begun > MOST_SECONDS or self.gone.is_set()
            inner = reason.because() if left > 0 and not late else ()
            return m.ReasonGiven(
                sentence=reason.sentence, tick=reason.tick, because=[given(one, left - 1) for one in inner]
            )

        try:
            return given(ask(), depth)
        except (KeyError, ValueError, FormulaError) as error:
            raise Refused(str(error.args[0]) if error.args else str(error)) from None

    # being told

    def subscribe(self, asked: m.Nothing) -> m.Moment:
        """Be told after each tick that is run what has changed in it."""
        self._subscribed = True
        self._watch_from_here()
        return self._moment("")

    def unsubscribe(self, asked: m.Nothing) -> m.Moment:
        """Be told no more."""
        self._subscribed = False
        return self._moment("")

    def _watch_from_here(self) -> None:
        self._watched = Watched(self._run, own_columns(self._run.program)) if self._subscribed else None


def _continued(run: Run, tick: int) -> Any:
    """Return a run's script up to a tick, with what the trial itself brings in after it."""
    script = run.script.up_to(tick)
    own = type(script)(run.trial.input, run.program.rate)
    script.events |= {t: e for t, e in own.events.items() if t > tick}
    script.pointer |= {t: p for t, p in own.pointer.items() if t > tick}
    script.choices |= {t: c for t, c in own.choices.items() if t > tick}
    return script


_KEYS = {name.lower(): name for name in (*KEYS, *POINTER_KEYS)}


def _key(name: str) -> str:
    found = _KEYS.get(name.lower())
    if found is None:
        raise Refused(f"there is no key “{name[:40]}”; keys are called A, Space, Up, pointer left")
    return found


def _kind_shown(kind: Kind) -> m.KindShown:
    shape = kind.shape
    if isinstance(shape, Circle):
        return m.KindShown(name=kind.name, colour=kind.colour, radius=shape.radius, scenery=kind.scenery)
    return m.KindShown(
        name=kind.name, colour=kind.colour, width=shape.width, height=shape.height, scenery=kind.scenery
    )
