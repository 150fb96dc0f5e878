"""The behaviours of a level's kinds, made ready to act: what they name, and the columns in which objects keep them."""

from __future__ import annotations

from typing import Any

from gatillo.formula.formula import Formula
from gatillo.language.binding import RoleArgument, WhereArgument, Word, bind
from gatillo.level.naming import did_you_mean, spoken, token
from gatillo.level.roles import Index, Role, type_of
from gatillo.sim.program.bodies import FARTHEST_SETTING, Behaviour, memory_column, setting_column
from gatillo.sim.program.problems import Problem
from gatillo.sim.spatial.random_draws import identity


def behaviours_of(index: Index, problems: list[Problem]) -> tuple[Behaviour, ...]:
    """Return the behaviours of all kinds, looked up and with the columns they need; what is wrong goes into `problems`."""
    found: list[Behaviour] = []
    for at, kind in enumerate(index.level.kinds):
        for line, clause in enumerate(kind.behaviours):
            bound = bind(index, clause, "behaviour")
            problems += [Problem(-1, kind.name, "behaviour", line, p.slot, p.message) for p in bound.problems]
            if bound.problems or bound.entry is None:
                continue
            if any(b.kind == at and b.entry is bound.entry for b in found):
                message = "a kind can have this behaviour only once"
                problems.append(Problem(-1, kind.name, "behaviour", line, "", message))
                continue
            before = len(problems)
            words: dict[str, Any] = {}
            columns: dict[str, str] = {}
            starts: dict[str, float] = {}
            formulas: dict[str, Formula] = {}
            for name, argument in bound.arguments.items():
                if isinstance(argument, Word):
                    words[name] = argument.text
                elif isinstance(argument, RoleArgument):
                    words[name] = argument.role
                elif isinstance(argument, WhereArgument) or (
                    isinstance(argument, Formula) and bound.entry.slots[name].type == "text"
                ):
                    words[name] = argument
                elif isinstance(argument, Formula) and isinstance(argument.constant, float):
                    columns[name] = setting_column(bound.entry.name, name)
                    starts[columns[name]] = argument.constant
                    if abs(argument.constant) > FARTHEST_SETTING:
                        message = (
                            f"{name} must lie between -{FARTHEST_SETTING:,.0f} and {FARTHEST_SETTING:,.0f}"
                        )
                        problems.append(Problem(-1, kind.name, "behaviour", line, name, message))
                elif isinstance(argument, Formula) and bound.entry.slots[name].type == "yes/no formula":
                    words[name] = argument
                    meant = {a.role.token for a in bound.arguments.values() if isinstance(a, RoleArgument)}
                    if set(argument.roles) - meant - {token(kind.name)}:
                        message = f"a formula here can only name {kind.name} and its target"
                        problems.append(Problem(-1, kind.name, "behaviour", line, name, message))
                elif isinstance(argument, Formula):
                    # worked out in each tick, for each of them
                    columns[name] = setting_column(bound.entry.name, name)
                    starts[columns[name]] = 0.0
                    formulas[name] = argument
                    if set(argument.roles) - {token(kind.name)}:
                        message = f"a setting's formula speaks of its own {kind.name} only, of the level, or of places"
                        problems.append(Problem(-1, kind.name, "behaviour", line, name, message))
            if len(problems) > before:
                continue
            remembered = {name: memory_column(bound.entry.name, name) for name in bound.entry.remembers}
            starts.update({remembered[name]: value for name, value in bound.entry.remembers.items()})
            goes_by = [k for w in words.values() if isinstance(w, Role) for k in w.kinds]
            goes_by += [
                k
                for w in words.values()
                if isinstance(w, WhereArgument)
                for role in w.roles
                for k in index.role_tokens[role].kinds
            ]
            who = identity("behaviour", kind.name, bound.entry.name)
            found.append(
                Behaviour(
                    at, bound.entry, words, columns, starts, remembered, who, formulas, line, tuple(goes_by)
                )
            )
            if bound.entry.wants and bound.entry.wants not in {c.use for c in kind.behaviours}:
                message = f"it does nothing without “{spoken(bound.entry.wants)}”; give {kind.name} that too"
                problems.append(Problem(-1, kind.name, "behaviour", line, "", message))
    return tuple(found)


def own_behaviour_problems(index: Index) -> list[Problem]:
    """Return what is wrong with the own behaviours that kinds have: unknown ones, and settings that they lack or of another type."""
    found: list[Problem] = []
    for kind in index.level.kinds:
        for line, use in enumerate(kind.own, start=len(kind.behaviours)):
            section = index.own_behaviours.get(use.use)
            if section is None or section.own is None:
                message = (
                    f"there is no own behaviour “{use.use}”{did_you_mean(use.use, index.own_behaviours)}"
                )
                found.append(Problem(-1, kind.name, "behaviour", line, "", message))
                continue
            settings = {s.name: type_of(s.value) for s in section.own.settings}
            for name, value in use.values.items():
                if name not in settings:
                    message = f"“{use.use}” has no setting “{name}”{did_you_mean(name, settings)}"
                elif type_of(value) != settings[name]:
                    message = f"{name} of “{use.use}” is a {settings[name]}, so it cannot be {value!r}"
                else:
                    continue
                found.append(Problem(-1, kind.name, "behaviour", line, name, message))
    return found


def own_settings(
    index: Index, behaviours: tuple[Behaviour, ...], problems: list[Problem]
) -> dict[int, dict[str, float | bool]]:
    """Return the settings of single objects: by object id, the columns with their start values."""
    number = {kind.name: at for at, kind in enumerate(index.level.kinds)}
    found: dict[int, dict[str, float | bool]] = {}
    for thing in index.level.objects:
        if not thing.settings:
            continue
        mine = [b for b in behaviours if b.kind == number[thing.kind]]
        known: dict[str, tuple[str, type]] = {}
        worked_out: set[str] = set()
        for behaviour in mine:
            said = spoken(behaviour.entry.name)
            known[said] = behaviour.on, bool
            known.update({f"{said}: {n}": (column, float) for n, column in behaviour.columns.items()})
            worked_out.update({f"{said}: {n}" for n in behaviour.formulas})
        for name, value in thing.settings.items():
            column, wanted = known.get(name, ("", bool))
            if not column:
                message = f"{thing.kind} has no setting “{name}”{did_you_mean(name, known)}"
                problems.append(Problem(-1, thing.name, "settings", 0, "", message))
            elif name in worked_out:
                message = f"“{name}” is worked out by a formula for every {thing.kind}; let the formula speak of a variable"
                problems.append(Problem(-1, thing.name, "settings", 0, "", message))
            elif isinstance(value, bool) != (wanted is bool):
                message = f"“{name}” must be {'yes or no' if wanted is bool else 'a number'}"
                problems.append(Problem(-1, thing.name, "settings", 0, "", message))
            elif abs(value) > FARTHEST_SETTING:
                message = f"“{name}” must lie between -{FARTHEST_SETTING:,.0f} and {FARTHEST_SETTING:,.0f}"
                problems.append(Problem(-1, thing.name, "settings", 0, "", message))
            else:
                found.setdefault(thing.id, {})[column] = value
    return found


def in_turn(behaviours: list[Behaviour], kind_number: dict[str, int]) -> tuple[Behaviour, ...]:
    """Behaviours of one phase in the order in which they act: those of what others go by before those others.

    The behaviours of one kind keep their order; where kinds go by one another in a circle, the one defined first comes first.
    """
    goes_by: dict[int, set[int]] = {}
    for behaviour in behaviours:
        goes_by.setdefault(behaviour.kind, set()).update(kind_number[k] for k in behaviour.goes_by)
    order: list[int] = []

    def visit(kind: int, above: frozenset[int]) -> None:
        if kind in order or kind in above or kind not in goes_by:
            return
        for other in sorted(goes_by[kind]):
            visit(other, above | {kind})
        order.append(kind)

    for kind in sorted(goes_by):
        visit(kind, frozenset())
    return tuple(sorted(behaviours, key=lambda b: order.index(b.kind)))
