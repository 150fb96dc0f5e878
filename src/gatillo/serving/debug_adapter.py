"""Stepping through a run from any editor: the Debug Adapter Protocol, with the rules as the lines of a page.

The protocol: Debug Adapter Protocol 1.68, Microsoft. Its words are kept where it has them; a thread is the run, a stack is the
line, the firing and the tick.
"""

from __future__ import annotations

import logging
import threading
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO

import msgspec

from gatillo.files.level_file import LevelFileError, read_level
from gatillo.files.rules_page import Target, page_lines
from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula
from gatillo.formula.syntax import FormulaError
from gatillo.formula.values import write_out
from gatillo.inspect.created_names import with_created
from gatillo.inspect.watching import Unanswered, value_in
from gatillo.level.model import Level
from gatillo.level.roles import Index
from gatillo.library import Simulation, start
from gatillo.serving.framing import Broken, Over, framed, read_frame
from gatillo.serving.showing import level_values, objects_shown, own_columns
from gatillo.sim.run.run import Cursor, Run
from gatillo.sim.world.world import World

THREAD, PAGE = 1, 1
"""The number of the only thread, and of the only source."""
LINE_FRAME, FIRING_FRAME, TICK_FRAME = 1, 2, 3
ROLES, LEVEL, OBJECTS = 1, 2, 3
FIRST_OBJECT = 1_000
"""Objects are variables with parts: numbered by their ids from here on."""
CAPABILITIES = {
    "supportsConfigurationDoneRequest": True,
    "supportsConditionalBreakpoints": True,
    "supportsStepBack": True,
    "supportsEvaluateForHovers": True,
    "supportsLoadedSourcesRequest": True,
    "supportsTerminateRequest": True,
}
log = logging.getLogger("gatillo.serving")
Answer = dict[str, Any]


class Refused(Exception):
    """A request that cannot be answered; the message says why, in a sentence."""


@dataclass(slots=True)
class Breakpoint:
    """A line at which runs are held, if a formula holds there."""

    target: Target
    condition: tuple[Formula, Index] | None = None


@dataclass(slots=True)
class Held:
    """Where a run is held: the moment, and what it is held at."""

    cursor: Cursor
    target: Target | None = None


@dataclass
class Adapter:
    """One editor's session."""

    reading: BinaryIO
    writing: BinaryIO
    level: Level | None = None
    name: str = "level"
    lines: list[tuple[str, Target | None]] = field(default_factory=list)
    points: list[Breakpoint] = field(default_factory=list)
    at: Held = field(default_factory=lambda: Held(Cursor()))
    over: bool = False

    def __post_init__(self) -> None:
        self._number = 0
        self._lock = threading.Lock()
        self._simulation: Simulation | None = None
        self._going: threading.Thread | None = None
        self._pause = threading.Event()
        self._entry = False
        if self.level is not None:
            self._open(self.level, {})

    # messages

    def serve(self) -> None:
        """Answer an editor until it ends the session."""
        while not self.over:
            try:
                message = msgspec.json.decode(read_frame(self.reading))
            except (Broken, msgspec.DecodeError, UnicodeDecodeError, RecursionError) as broken:
                log.warning("not a message: %s", broken)
                continue
            except (Over, OSError, ValueError):
                break
            if isinstance(message, dict) and message.get("type") == "request":
                self._answer(message)
        self._hold_still()

    def _answer(self, request: dict[str, Any]) -> None:
        name = request.get("command")
        answer: Answer = {
            "type": "response",
            "request_seq": request.get("seq", 0),
            "command": str(name),
            "success": True,
        }
        then: Callable[[], object] | None = None
        try:
            deed = self._deeds().get(str(name))
            if deed is None:
                raise Refused(f"“{name}” is not supported")
            given = request.get("arguments")
            body, then = deed(given if isinstance(given, dict) else {})
            if body is not None:
                answer["body"] = body
        except Refused as refused:
            answer |= {"success": False, "message": str(refused)}
        except Exception as error:
            # a fault of ours must not end the session
            log.error("a request failed", exc_info=error)
            answer |= {"success": False, "message": f"{name} failed: {type(error).__name__}"}
        self._send(answer)
        if then is not None:
            then()

    def _send(self, message: Answer) -> None:
        with self._lock:
            self._number += 1
            try:
                self.writing.write(framed(msgspec.json.encode({"seq": self._number, **message})))
                self.writing.flush()
            except (OSError, ValueError):
                self.over = True

    def _event(self, event: str, **body: Any) -> None:
        self._send({"type": "event", "event": event, **({"body": body} if body else {})})

    def _deeds(self) -> dict[str, Callable[[dict[str, Any]], tuple[Any, Callable[[], object] | None]]]:
        plain: dict[str, Callable[[dict[str, Any]], Any]] = {
            "loadedSources": lambda _: {"sources": [self._source()]},
            "source": lambda _: {"content": self._text(), "mimeType": "text/markdown"},
            "setBreakpoints": self._set_breakpoints,
            "setExceptionBreakpoints": lambda _: {"breakpoints": []},
            "threads": lambda _: {"threads": [{"id": THREAD, "name": f"the run of {self.name}"}]},
            "stackTrace": lambda _: self._stack(),
            "scopes": lambda _: self._scopes(),
            "variables": self._variables,
            "evaluate": self._evaluate,
        }
        going = {
            "continue": lambda: self._run_on(1),
            "reverseContinue": lambda: self._run_on(-1),
            "next": lambda: self._step(self._next_firing),
            "stepIn": lambda: self._step(self._next_step),
            "stepOut": lambda: self._step(self._end_of_tick),
            "stepBack": lambda: self._step(self._previous_step),
        }
        deeds: dict[str, Any] = {name: lambda given, do=do: (do(given), None) for name, do in plain.items()}
        deeds |= {
            name: lambda _, do=do, name=name: (
                {"allThreadsContinued": True} if name == "continue" else None,
                do,
            )
            for name, do in going.items()
        }
        return deeds | {
            "initialize": lambda _: (CAPABILITIES, None),
            "launch": self._launch,
            "configurationDone": lambda _: (None, self._begin),
            "pause": lambda _: (None, self._pause.set),
            "terminate": lambda _: (None, lambda: self._event("terminated")),
            "disconnect": lambda _: (None, self._end),
        }

    def _end(self) -> None:
        self.over = True

    # the level and its page

    def _launch(self, given: dict[str, Any]) -> tuple[Any, Callable[[], object]]:
        file = given.get("program")
        if isinstance(file, str):
            try:
                level = read_level(file)
            except LevelFileError as error:
                raise Refused(str(error)) from None
            self.name = Path(file).stem
        elif self.level is not None:
            level = self.level
        else:
            raise Refused("give the level file as “program”")
        self._open(level, given)
        self._entry = given.get("stopOnEntry") is True
        return None, lambda: self._event("initialized")

    def _open(self, level: Level, given: dict[str, Any]) -> None:
        trial, rate, seed = given.get("trial"), given.get("rate"), given.get("seed")
        try:
            self._simulation = start(
                level,
                trial if isinstance(trial, str) else None,
                rate=rate if isinstance(rate, int) and 10 <= rate <= 240 else None,
                seed=seed if isinstance(seed, int) and seed >= 0 else None,
            )
        except KeyError as error:
            raise Refused(f"“{level.name}” has no trial “{error.args[0]}”") from None
        self.level, self.lines, self.points, self.at = level, page_lines(level), [], Held(Cursor())

    @property
    def _run(self) -> Run:
        if self._simulation is None:
            raise Refused("nothing has been launched")
        return self._simulation.run

    def _text(self) -> str:
        return "\n".join(text for text, _ in self.lines) + "\n"

    def _source(self) -> Answer:
        return {"name": f"{self.name}.md", "sourceReference": PAGE, "origin": "the rules of the level"}

    def _line_of(self, target: Target | None) -> int:
        """Return the line of the page, from 1, that is about something; 1 for nothing."""
        found = [number for number, (_, one) in enumerate(self.lines, 1) if one == target and target]
        if not found and target is not None:
            found = [n for n, (_, one) in enumerate(self.lines, 1) if one == Target(target.rule)]
        return found[0] if found else 1

    def _set_breakpoints(self, given: dict[str, Any]) -> Answer:
        wanted = given.get("breakpoints")
        self.points = []
        answers = []
        for one in wanted if isinstance(wanted, list) else []:
            line = one.get("line") if isinstance(one, dict) else None
            answers.append(
                self._breakpoint(line, one.get("condition")) if isinstance(line, int) else _missing()
            )
        return {"breakpoints": answers}

    def _breakpoint(self, line: int, condition: Any) -> Answer:
        """Set a breakpoint at a line, or at the next one below that is about a rule."""
        below = ((n, t) for n, (_, t) in enumerate(self.lines, 1) if n >= line and t is not None)
        number, target = next(below, (0, None))
        if target is None:
            return {"verified": False, "message": "no rule stands in this line or below it"}
        formula = None
        if isinstance(condition, str) and condition.strip():
            try:
                formula = self._formula(condition)
            except FormulaError as error:
                return {"verified": False, "line": line, "message": f"the condition cannot be read: {error}"}
        self.points.append(Breakpoint(target, formula))
        return {"verified": True, "line": number, "source": self._source()}

    def _formula(self, text: str) -> tuple[Formula, Index]:
        readable, index = with_created(self._run, text)
        return compile_formula(index, readable), index

    # going on and back

    def _begin(self) -> None:
        if self._entry:
            self._stopped("entry")
        else:
            self._run_on(1)

    def _hold_still(self) -> None:
        """Wait until nothing runs."""
        self._pause.set()
        if self._going is not None:
            self._going.join()
            self._going = None

    def _run_on(self, way: int) -> None:
        self._hold_still()
        self._pause.clear()
        self._going = threading.Thread(target=self._go, args=(way,), name="run", daemon=True)
        self._going.start()

    def _go(self, way: int) -> None:
        try:
            held = self._next_held(way)
        except Exception as error:
            log.error("a run failed", exc_info=error)
            self._event("terminated")
            return
        if held is not None:
            self.at = held
            self._stopped("breakpoint" if held.target is not None else "pause")
        elif way < 0:
            self.at = Held(Cursor())
            self._stopped("entry")
        else:
            self.at = Held(self._run.end_of(self._run.done))
            self._event("exited", exitCode=0)
            self._event("terminated")

    def _next_held(self, way: int) -> Held | None:
        """Return the next moment at which a breakpoint holds, or where it was paused; None at the trial's end or beginning."""
        run, tick = self._run, self.at.cursor.tick
        while tick > 0 if way < 0 else tick <= run.length:
            if self._pause.is_set():
                return Held(run.end_of(min(tick, run.done)))
            if tick > run.done and not run.advance(1):
                return None
            if tick > run.done:
                return None
            moments = list(self._moments(tick)) if tick else []
            for held in moments if way > 0 else reversed(moments):
                beyond = held.cursor > self.at.cursor if way > 0 else held.cursor < self.at.cursor
                if beyond:
                    return held
            tick += way
        return None

    def _moments(self, tick: int) -> Iterator[Held]:
        """Yield the moments of a tick at which breakpoints hold, in their order."""
        run = self._run
        rules = {point.target.rule for point in self.points}
        ids = [rule.source.id for rule in run.program.rules]
        firings = run.trace.firings_at(tick)
        cards = {ids[ran.rule_index] for ran in run.trace.cards_at(tick)}
        if not rules & ({ids[f.rule_index] for f in firings} | cards):
            return
        found = [(Cursor(tick, f.position), Target(ids[f.rule_index])) for f in firings]
        for ran in run.steps_at(tick):
            number = ids[ran.rule_index]
            about = Target(number, card=ran.card) if ran.card else Target(number, ran.part, ran.line)
            found.append((Cursor(tick, ran.firings, ran.step), about))
        for cursor, about in sorted(found, key=lambda one: one[0]):
            for point in self.points:
                if _meets(point.target, about) and self._holds(point, cursor):
                    yield Held(cursor, point.target)
                    break

    def _holds(self, point: Breakpoint, cursor: Cursor) -> bool:
        if point.condition is None:
            return True
        value = value_in(self._run.world_at(cursor), *point.condition)
        return not isinstance(value, Unanswered) and bool(value)

    def _step(self, find: Callable[[Run, Cursor], Cursor | None]) -> None:
        self._hold_still()
        found = find(self._run, self.at.cursor)
        if found is None:
            self._event("exited", exitCode=0)
            self._event("terminated")
            return
        self.at = Held(found)
        self._stopped("step")

    @staticmethod
    def _ahead(run: Run, at: Cursor, find: Callable[[Cursor], Cursor | None]) -> Cursor | None:
        """Return what is found after a moment; what has not been run yet is run for it."""
        while (found := find(at)) is None:
            if run.done >= run.length or not run.advance(1):
                return None
        return found

    def _next_firing(self, run: Run, at: Cursor) -> Cursor | None:
        return self._ahead(run, at, run.next_firing)

    def _next_step(self, run: Run, at: Cursor) -> Cursor | None:
        return self._ahead(run, at, run.next_step)

    @staticmethod
    def _previous_step(run: Run, at: Cursor) -> Cursor | None:
        return run.previous_step(at) or Cursor()

    @staticmethod
    def _end_of_tick(run: Run, at: Cursor) -> Cursor | None:
        end = run.end_of(at.tick)
        if at < end or run.done > at.tick:
            return end if at < end else run.end_of(at.tick + 1)
        return run.end_of(at.tick + 1) if run.advance(1) and run.done > at.tick else None

    def _stopped(self, reason: str) -> None:
        self._event("stopped", reason=reason, threadId=THREAD, allThreadsStopped=True)

    # looking

    def _world(self) -> World:
        return self._run.world_at(self.at.cursor)

    def _firing(self) -> int:
        """Return the place of the firing at the cursor; 0 for none."""
        at = self.at.cursor
        place = at.position + (at.step > 0)
        return place if 0 < place <= self._run.trace.count_at(at.tick) else 0

    def _stack(self) -> Answer:
        run, at = self._run, self.at.cursor
        frames = []
        place = self._firing()
        rule = run.program.rules[run.trace.firings_at(at.tick)[place - 1].rule_index] if place else None
        step = next((s for s in run.steps_at(at.tick) if s.step == at.step), None) if at.step else None
        if step is not None:
            of = run.program.rules[step.rule_index].source
            target = Target(of.id, card=step.card) if step.card else Target(of.id, step.part, step.line)
            line = self._line_of(target)
            frames.append(self._frame(LINE_FRAME, self.lines[line - 1][0].strip(" -"), line))
        if rule is not None:
            words = f"“{rule.source.name}” fires, {place} in tick {at.tick}"
            frames.append(self._frame(FIRING_FRAME, words, self._line_of(Target(rule.source.id))))
        seconds = at.tick / run.program.rate
        line = frames[0]["line"] if frames else 1
        frames.append(self._frame(TICK_FRAME, f"tick {at.tick}, {seconds:.3f} s", line))
        return {"stackFrames": frames, "totalFrames": len(frames)}

    def _frame(self, number: int, name: str, line: int) -> Answer:
        return {"id": number, "name": name, "line": line, "column": 1, "source": self._source()}

    def _scopes(self) -> Answer:
        roles = [{"name": "Roles", "variablesReference": ROLES, "expensive": False}] if self._firing() else []
        return {
            "scopes": [
                *roles,
                {"name": "Level", "variablesReference": LEVEL, "expensive": False},
                {"name": "Objects", "variablesReference": OBJECTS, "expensive": True},
            ]
        }

    def _variables(self, given: dict[str, Any]) -> Answer:
        wanted, world = given.get("variablesReference"), self._world()
        found: list[Answer] = []
        if wanted == LEVEL:
            found = [_variable(name, value) for name, value in level_values(world).items()]
        elif wanted == OBJECTS:
            for row in world.alive.nonzero()[0].tolist():
                number = world.id.item(row)
                place = f"{world.x.item(row):g}, {world.y.item(row):g}"
                found.append(_variable(world.name_of(number), place, FIRST_OBJECT + number))
        elif wanted == ROLES and self._firing():
            seen = self._run.witness(self.at.cursor.tick)[self._firing() - 1]
            for role, ids in seen.ids.items():
                names = ", ".join(self._run.world.name_of(i) for i in ids)
                parts = FIRST_OBJECT + ids[0] if len(ids) == 1 and world.row_of_id(ids[0]) >= 0 else 0
                found.append(_variable(role.replace("_", " "), names, parts))
        elif isinstance(wanted, int) and wanted >= FIRST_OBJECT:
            row = world.row_of_id(wanted - FIRST_OBJECT)
            rows = world.alive.nonzero()[0]
            for one in objects_shown(world, rows[rows == row], own_columns(world.program)):
                parts_of = {
                    "kind": one.kind,
                    "x": one.x,
                    "y": one.y,
                    "facing": one.facing,
                    "scale": one.scale,
                }
                found += [_variable(name, value) for name, value in {**parts_of, **one.values}.items()]
        return {"variables": found}

    def _evaluate(self, given: dict[str, Any]) -> Answer:
        text = given.get("expression")
        if not isinstance(text, str):
            raise Refused("give a formula as “expression”")
        try:
            value = value_in(self._world(), *self._formula(text))
        except FormulaError as error:
            raise Refused(f"“{text[:100]}” cannot be read: {error}") from None
        said = value.reason if isinstance(value, Unanswered) else str(write_out(value))
        return {"result": said, "variablesReference": 0}


def _missing() -> Answer:
    return {"verified": False, "message": "a breakpoint has a line"}


def _variable(name: str, value: Any, parts: int = 0) -> Answer:
    words = (
        value
        if isinstance(value, str)
        else str(write_out(complex(*value) if isinstance(value, list) else value))
    )
    return {"name": name, "value": words, "variablesReference": parts}


def _meets(wanted: Target, about: Target) -> bool:
    """Return whether a breakpoint is met: at a line that is done or a card that runs; elsewhere in a rule where it fires."""
    if wanted.rule != about.rule:
        return False
    if wanted.card or wanted.part in ("do", "else"):
        return wanted == about
    return not about.part and not about.card
