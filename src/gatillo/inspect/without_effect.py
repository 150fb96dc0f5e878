"""Checks for lines that do nothing, or undo what a line before them does."""

from __future__ import annotations

from collections.abc import Iterator

from msgspec.structs import replace

from gatillo.catalogue.contexts.effects import SELF
from gatillo.catalogue.entries.timed_moves import UNTIL_THERE
from gatillo.formula.formula import Formula
from gatillo.formula.syntax import parse, texts_given
from gatillo.inspect.finding import Finding, Repair, at_line, check, running, running_rules
from gatillo.language.binding import RoleArgument
from gatillo.level.edits import change_rule
from gatillo.level.model import Clause, Rule
from gatillo.level.naming import did_you_mean, spoken
from gatillo.level.roles import Role
from gatillo.sim.program.compiled_line import CompiledLine, steps_of
from gatillo.sim.program.compiled_rule import CompiledRule, every_step
from gatillo.sim.program.program import Program

# two movements at once


@check
def _two_at_once(program: Program) -> Iterator[Finding]:
    """Yield each movement over a time that begins before the one before it, of the same object, can have ended."""
    for rule in running_rules(program):
        for part in (rule.do, rule.else_):
            begun: dict[tuple[str, str], tuple[CompiledLine, float]] = {}
            """By what a movement changes and of whom: its line, and for how many seconds the lines between them wait."""
            for line in part:
                if line.entry.derived.waits:
                    waited = _waits(line)
                    begun = {key: (first, so_far + waited) for key, (first, so_far) in begun.items()}
                moved = _moved_over_a_time(line)
                if moved is None:
                    continue
                first, waited = begun.get(moved, (None, 0.0))
                if first is not None and waited < _lasts(first):
                    who = program.index.role_tokens[moved[1]].text
                    deed = "turns" if moved[0] == "angle" else "moves"
                    message = (
                        f"line {first.number + 1} still {deed} {who} when this begins, and ends there: an object "
                        f"{deed} one way at a time"
                    )
                    yield at_line(
                        rule, line, message, f"wait until {who} is there", _wait_before(rule, line, who)
                    )
                begun[moved] = (line, 0.0)


def _moved_over_a_time(line: CompiledLine) -> tuple[str, str] | None:
    """Return what a line changes of an object over a time, and the object's role; None if it does not."""
    changes = line.entry.derived.over_a_time
    return (changes, line.role_slots[0][1]) if changes and len(line.role_slots) == 1 else None


def _waits(line: CompiledLine) -> float:
    """Return for how many seconds a line waits; without end where that is not known, or where it waits for something."""
    time = line.arguments.get("time")
    return float(time.constant) if isinstance(time, Formula) and time.constant is not None else float("inf")


def _lasts(line: CompiledLine) -> float:
    """Return for how many seconds a movement lasts; the least there is where that is not known."""
    time = line.arguments["time"]
    return float(time.constant) if isinstance(time, Formula) and time.constant is not None else 1e-9


def _wait_before(rule: CompiledRule, line: CompiledLine, who: str) -> Repair:
    rule_id, part, at = rule.source.id, line.part, line.number
    waits = Clause(use=UNTIL_THERE, slots={"who": who})

    def with_wait(source: Rule) -> Rule:
        if part == "do":
            return replace(source, do=(*source.do[:at], waits, *source.do[at:]))
        return replace(source, else_=(*source.else_[:at], waits, *source.else_[at:]))

    return lambda level: change_rule(level, rule_id, with_wait)


# objects that are gone


@check
def _after_removing(program: Program) -> Iterator[Finding]:
    """Yield actions on an object that a line above has removed."""
    for rule in running_rules(program):
        for part in (rule.do, rule.else_):
            removed: dict[str, CompiledLine] = {}
            for line in part:
                for _, role in line.role_slots:
                    if role in removed:
                        text = program.index.role_tokens[role].text
                        above = removed[role].number + 1
                        yield at_line(
                            rule,
                            line,
                            f"line {above} has removed {text}, so this does nothing; put it above that",
                        )
                slot = line.entry.derived.removes
                if slot and not line.once:
                    removed.update({role: line for name, role in line.role_slots if name == slot})


# behaviours that nobody has


@check
def _switches_nothing(program: Program) -> Iterator[Finding]:
    """Yield lines that switch or set a behaviour which none of the objects has."""
    has = {
        kind.name: {spoken(b.use) for b in kind.behaviours} | {use.use for use in kind.own}
        for kind in program.kinds
    }
    for rule in running(program):
        for line in steps_of((*rule.do, *rule.else_)):
            behaviour = line.fixed.get("behaviour")
            role = next((a.role for a in line.arguments.values() if isinstance(a, RoleArgument)), None)
            if not isinstance(behaviour, str) or role is None or not role.kinds:
                continue
            if not any(behaviour in has.get(kind, ()) for kind in role.kinds):
                yield at_line(
                    rule, line, f"{role.text} has no behaviour “{behaviour}”, so there is nothing to switch"
                )


@check
def _prompts_to_nobody(program: Program) -> Iterator[Finding]:
    """Yield prompts that are offered to nobody, or only to those who offer them."""
    there = {thing.kind for thing in program.level.objects}
    there |= {
        str(line.fixed[line.entry.derived.creates])
        for rule in running(program)
        for line in steps_of((*rule.do, *rule.else_))
        if line.entry.derived.creates
    }
    for behaviour in program.behaviours:
        by = behaviour.words.get("by")
        if not isinstance(by, Role) or "entries" not in behaviour.words:
            continue
        kind = program.kinds[behaviour.kind].name
        if not there & set(by.kinds):
            message = f"its prompt is offered to nobody: there is no {by.text}, and no rule creates one"
        elif set(by.kinds) == {kind} and sum(thing.kind == kind for thing in program.level.objects) < 2:
            message = f"its prompt is offered to {by.text} alone, who offers it: name who is to answer it"
        else:
            continue
        yield Finding("warning", kind, None, "behaviour", behaviour.line, message)


# what lags behind a carrier


@check
def _moves_while_it_lags(program: Program) -> Iterator[Finding]:
    """Yield lines that let an object lag behind a carrier, whose own behaviours then move it in vain."""
    moving: dict[str, list[str]] = {}
    """By kind: the behaviours that move it."""
    for behaviour in program.behaviours:
        writes = {t.what for t in behaviour.entry.touches().writes if t.of == SELF}
        if {"x", "y", "vx", "vy", "route"} & writes:
            moving.setdefault(program.kinds[behaviour.kind].name, []).append(spoken(behaviour.entry.name))
    for rule in running(program):
        for line in steps_of((*rule.do, *rule.else_)):
            who = line.arguments.get(line.entry.stills)
            for kind in who.role.kinds if isinstance(who, RoleArgument) and who.role is not None else ():
                if moving.get(kind):
                    vain = ", ".join(moving[kind])
                    message = (
                        f"while {kind} lags behind its carrier it has no motion of its own: its behaviour {vain} "
                        "does nothing then. Attach it without a lag, or switch the behaviour off"
                    )
                    yield at_line(rule, line, message)


# looks


@check
def _shows_no_look(program: Program) -> Iterator[Finding]:
    """Yield lines about a look that none of the objects has, or that their kind's formula decides."""
    for rule in running(program):
        for line in every_step(rule):
            if not any(t.what == "look" for t in (*line.entry.touches().reads, *line.entry.touches().writes)):
                continue
            look = line.fixed.get("look")
            role = next((a.role for a in line.arguments.values() if isinstance(a, RoleArgument)), None)
            if role is None or not role.kinds:
                continue
            kinds = [program.index.kinds[kind] for kind in role.kinds]
            if isinstance(look, str) and not any(one.name == look for kind in kinds for one in kind.looks):
                known = dict.fromkeys(one.name for kind in kinds for one in kind.looks)
                yield at_line(rule, line, f"{role.text} has no look “{look}”{did_you_mean(look, known)}")
            elif all(kind.look for kind in kinds):
                yield at_line(
                    rule,
                    line,
                    f"the formula on the page of {kinds[0].name} decides which look is shown, so that this does nothing",
                )


@check
def _looks_of_formulas(program: Program) -> Iterator[Finding]:
    """Yield texts that a kind's formula gives for a look which the kind does not have."""
    for number, formula in program.looks:
        kind = program.kinds[number]
        known = {look.name for look in kind.looks}
        for text in [str(given.value) for given in texts_given(parse(formula.source))]:
            if text and text not in known:
                message = (
                    f"{kind.name} has no look “{text}”, so its plain look is shown{did_you_mean(text, known)}"
                )
                yield Finding("warning", kind.name, None, "look", 0, message)


# conditions that are always so


@check
def _asked_twice(program: Program) -> Iterator[Finding]:
    """Yield conditions that the lines above them have settled already."""
    for rule in running_rules(program):
        settled: dict[object, CompiledLine] = {}
        for line in rule.if_:
            clause = line.clause
            if clause is None or line.of or any(t.what == "chance" for t in line.entry.touches().reads):
                continue
            key = (clause.use, tuple(sorted(clause.slots.items())))
            above = settled.setdefault(key, line)
            if above is line or "random" in "".join(clause.slots.values()):
                continue
            if above.negated == line.negated:
                yield at_line(rule, line, f"this is always so: condition {above.number + 1} asks the same")
            else:
                yield at_line(
                    rule, line, f"this rule can never fire: condition {above.number + 1} asks the opposite"
                )
