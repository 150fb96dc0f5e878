"""What a tick must know of all rules and behaviours together: worked out once, when it is first asked for."""

from __future__ import annotations

from functools import cached_property

import numpy as np

from gatillo.catalogue.declare.facts import Contact, Fact
from gatillo.formula.formula import column_key
from gatillo.language.binding import RoleArgument
from gatillo.level.model import Level, Reference, Value
from gatillo.level.naming import token
from gatillo.level.roles import Index, type_of
from gatillo.sim.program.behaviours import in_turn
from gatillo.sim.program.bodies import BUSY, WALK, Behaviour
from gatillo.sim.program.compiled_rule import CompiledRule, every_step
from gatillo.sim.program.dependencies import pose_of

Plain = float | bool | str | complex
"""A value as a run holds it: a reference is the id of its object, 0 for nobody."""


class TickTables:
    """What follows from the rules, the behaviours and the facts that wake. Nothing in it changes but `sensed_by`."""

    def __init__(
        self,
        level: Level,
        index: Index,
        turns: tuple[CompiledRule, ...],
        behaviours: tuple[Behaviour, ...],
        wakes: dict[Fact, tuple[int, ...]],
    ) -> None:
        self.level = level
        self.index = index
        self.kinds = level.kinds
        self.rules = turns
        self.behaviours = behaviours
        self.wakes = wakes
        self.kind_number = {kind.name: at for at, kind in enumerate(level.kinds)}
        self._acting: dict[str, tuple[Behaviour, ...]] = {}
        self.sensed_by: dict[str, np.ndarray] = {}
        """By kinds that move: which kinds' contacts with them are asked for; filled as runs ask."""

    @cached_property
    def touch_facts(self) -> dict[str, dict[int, Contact]]:
        """Contacts that wake some rule, by state and by the number of their pair of kinds, either way round."""
        many = len(self.kinds)
        found: dict[str, dict[int, Contact]] = {"begun": {}, "touching": {}, "ended": {}}
        for fact in self.wakes:
            if isinstance(fact, Contact):
                one, other = self.kind_number[fact.one], self.kind_number[fact.other]
                found[fact.state][one * many + other] = found[fact.state][other * many + one] = fact
        return found

    @cached_property
    def prompting(self) -> tuple[tuple[int, Behaviour], ...]:
        """The prompts, with their numbers among the behaviours."""
        return tuple((n, b) for n, b in enumerate(self.behaviours) if b.entry.phase == "prompts")

    @cached_property
    def kinds_looking(self) -> frozenset[int]:
        """The kinds whose objects can look into a noise, and then do nothing else."""
        return frozenset(b.kind for b in self.behaviours if BUSY in b.remembered.values())

    @cached_property
    def poses_asked(self) -> dict[int, str]:
        """Kinds whose pose some remembering condition depends on, with what to note when it changes."""
        asked = {d for rule in self.rules for line in rule.if_ for d in line.depends or ()}
        return {at: pose_of(at) for at in range(len(self.kinds)) if pose_of(at) in asked}

    @cached_property
    def senses(self) -> np.ndarray:
        """Which pairs of kinds some running rule wants to know the contact of; shape (kinds, kinds)."""
        many = len(self.kinds)
        table = np.zeros((many, many), dtype=bool)
        for pairs in self.touch_facts.values():
            for code in pairs:
                one, other = divmod(code, many)
                table[one, other] = table[other, one] = True
        for rule in self.rules:
            for line in every_step(rule) if rule.runs else ():
                if line.entry.derived.contact is not None:
                    a, b = (line.fixed_role(slot) for slot in line.entry.derived.contact)
                    for one_kind in a.kinds:
                        for other_kind in b.kinds:
                            one, other = self.kind_number[one_kind], self.kind_number[other_kind]
                            table[one, other] = table[other, one] = True
        return table

    @cached_property
    def needs(self) -> frozenset[str]:
        """What must be found in each tick for the rules that run."""
        return frozenset(
            n
            for rule in self.rules
            if rule.runs
            for line in every_step(rule)
            for n in line.entry.derived.needs
        )

    @cached_property
    def areas_asked(self) -> dict[str, np.ndarray]:
        """Areas that occasions ask about, each with which kinds, shape (kinds,)."""
        found: dict[str, np.ndarray] = {}
        for rule in self.rules:
            for line in rule.when if rule.runs else ():
                for name, slot in line.entry.slots.items():
                    if slot.type == "area":
                        kinds = found.setdefault(line.fixed[name], np.zeros(len(self.kinds), dtype=bool))
                        for argument in line.arguments.values():
                            if isinstance(argument, RoleArgument):
                                kinds[[self.kind_number[k] for k in argument.role.kinds]] = True
        return found

    @cached_property
    def sensed(self) -> np.ndarray:
        """By kind: whether some running rule asks for its contacts."""
        return np.asarray(self.senses.any(axis=1))

    # behaviours and columns

    def acting(self, phase: str) -> tuple[Behaviour, ...]:
        """Return the behaviours that act in a phase of the tick."""
        found = self._acting.get(phase)
        if found is None:
            found = self._acting[phase] = in_turn(
                [b for b in self.behaviours if b.entry.phase == phase], self.kind_number
            )
        return found

    @cached_property
    def physical(self) -> bool:
        """Whether anything can fall, slide to a stop or spring back."""
        return bool(
            self.level.settings.gravity
            or any(k.contact == "movable" and (k.friction or k.bounce or k.mass != 1.0) for k in self.kinds)
            or any(b.entry.derived.physics for b in self.behaviours)
            or any(
                line.entry.derived.physics for rule in self.rules if rule.runs for line in every_step(rule)
            )
        )

    @cached_property
    def walking(self) -> bool:
        """Whether anything can walk a route."""
        return any(b.entry.walks for b in self.behaviours) or any(
            line.entry.walks for rule in self.rules if rule.runs for line in every_step(rule)
        )

    @cached_property
    def driving(self) -> tuple[tuple[Behaviour, ...], tuple[Behaviour, ...]]:
        """The behaviours that drive objects: those that walk routes, and all others, each in the order in which they act."""
        behaviours = (*self.acting("urge"), *self.acting("motion"))
        return (
            tuple(b for b in behaviours if b.entry.walks),
            tuple(b for b in behaviours if not b.entry.walks),
        )

    @cached_property
    def columns(self) -> dict[str, type]:
        """Columns of variables and settings that objects have, with their array type."""
        types: dict[str, type] = {
            "number": np.float64,
            "yes/no": np.bool_,
            "text": object,
            "object": np.int64,
            "point": np.complex128,
        }
        found = {
            column_key(token(v.name), type_of(v.value)): types[type_of(v.value)]
            for kind in self.kinds
            for v in kind.variables
        }
        for behaviour in self.behaviours:
            found.update(
                dict.fromkeys([*behaviour.columns.values(), *behaviour.remembered.values()], np.float64)
            )
            found[behaviour.on] = np.bool_
        if self.walking:
            found.update(dict.fromkeys(WALK.values(), np.float64))
        return found

    def plain(self, value: Value) -> Plain:
        """Return a value of the document as a run holds it."""
        if isinstance(value, Reference):
            thing = self.index.objects.get(value.to)
            return thing.id if thing is not None else 0
        if isinstance(value, tuple):
            return complex(*value)
        return float(value) if isinstance(value, int) and not isinstance(value, bool) else value

    @cached_property
    def starts(self) -> tuple[dict[str, Plain], ...]:
        """For each kind: what its columns start with."""
        found: list[dict[str, Plain]] = []
        for at, kind in enumerate(self.kinds):
            start: dict[str, Plain] = {
                column_key(token(v.name), type_of(v.value)): self.plain(v.value) for v in kind.variables
            }
            for behaviour in self.behaviours:
                if behaviour.kind == at:
                    start.update(behaviour.starts)
                    start[behaviour.on] = True
            found.append(start)
        return tuple(found)

    @cached_property
    def written(self) -> tuple[tuple[str, str], ...]:
        """Every variable some action writes: (owner's role text or “level”, name)."""
        return tuple(dict.fromkeys(v for rule in self.rules for v in rule.named.written))

    @cached_property
    def write_numbers(self) -> dict[tuple[str, str], int]:
        """The numbers that written variables have in the traces of this program."""
        return {variable: at for at, variable in enumerate(self.written)}
