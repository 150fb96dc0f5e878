"""Checks of a level that do not run it: what cannot work, and what is probably a mistake."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Iterator

from msgspec.structs import replace

from gatillo.catalogue.cards.graph_cards import NUMBERED
from gatillo.catalogue.declare.named_types import is_own_node
from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula
from gatillo.formula.syntax import FormulaError
from gatillo.inspect import without_effect as without_effect
from gatillo.inspect.finding import (
    CHECKS,
    Finding,
    at_card,
    at_line,
    check,
    running,
    running_rules,
    slot_repair,
)
from gatillo.language.binding import RoleArgument, VariableArgument, Word
from gatillo.language.own_behaviours import as_it_is_said
from gatillo.level.edits import change_rule
from gatillo.level.graphs import OUTPUT, wires_of
from gatillo.level.keys import KEYS, POINTER_KEYS
from gatillo.level.model import Graph, Level, Section
from gatillo.level.naming import did_you_mean, nearest, spoken, token
from gatillo.level.roles import all_logic
from gatillo.sim.program.compiled_graph import CompiledGraph
from gatillo.sim.program.compiled_line import CompiledLine, steps_of
from gatillo.sim.program.compiled_rule import CompiledRule, every_step
from gatillo.sim.program.program import Program
from gatillo.sim.program.touched import names_of, writes_of


def findings(level: Level, program: Program | None = None) -> list[Finding]:
    """Return every finding of a level: what keeps rules from running first, then in the order of the rules."""
    program = program or Program(level)
    found = [*_unsettled(level), *(_problem(program, p) for p in program.problems)]
    for made in CHECKS:
        found.extend(made(program))
    own = {
        entry.id: section
        for _, section, entry in all_logic(program.level)
        if section is not None and section.own is not None
    }
    return [_as_written(one, own) for one in found] if own else found


def _unsettled(level: Level) -> Iterator[Finding]:
    """Yield a warning where a merge left something to be settled."""
    many = len(level.unsettled)
    if many:
        changes = "a change" if many == 1 else f"{many} changes"
        words = (
            f"{changes} on which two merged versions differ must be settled: choose File, Settle the merge"
        )
        yield Finding("warning", "", None, "", 0, words)


def _as_written(found: Finding, own: dict[int, Section]) -> Finding:
    """Return a finding at a rule of an own behaviour in the words of the rule."""
    section = own.get(found.rule_id) if found.rule_id is not None else None
    return (
        found
        if section is None
        else dataclasses.replace(found, message=as_it_is_said(found.message, section))
    )


def _problem(program: Program, problem: object) -> Finding:
    index, rule, part, line, slot, message = (
        getattr(problem, name) for name in ("rule_index", "rule", "part", "line", "slot", "message")
    )
    rule_id = program.rules[index].source.id if index >= 0 else None
    card: int = getattr(problem, "card", 0)
    said = (f"{slot}: " if slot else "") + message
    return Finding("error", rule, rule_id, "card" if card else part, line, said, card=card)


# messages


def _message_lines(
    program: Program, part_of: Callable[[CompiledRule], Iterator[CompiledLine]]
) -> dict[str, list[tuple[CompiledRule, CompiledLine, str]]]:
    found: dict[str, list[tuple[CompiledRule, CompiledLine, str]]] = {}
    for rule in running(program):
        for line in part_of(rule):
            for name, argument in line.arguments.items():
                if isinstance(argument, Word) and line.entry.slots[name].type == "message":
                    found.setdefault(argument.text, []).append((rule, line, name))
    return found


def _sent(program: Program) -> dict[str, list[tuple[CompiledRule, CompiledLine, str]]]:
    return _message_lines(program, lambda t: steps_of((*t.do, *t.else_)))


def _listening(program: Program) -> set[str]:
    """Messages that behaviours hear."""
    return {
        words
        for b in program.behaviours
        for name, words in b.words.items()
        if b.entry.slots[name].type == "message"
    }


def _heard(program: Program) -> dict[str, list[tuple[CompiledRule, CompiledLine, str]]]:
    return _message_lines(program, lambda t: steps_of(t.when))


def _sent_at_stops(program: Program) -> dict[str, tuple[str, int]]:
    """Return the messages that stops of routes send: by name, the route and the number of the first such stop."""
    found: dict[str, tuple[str, int]] = {}
    for route in program.index.routes.values():
        for number, stop in enumerate(route.stops, 1):
            if stop.message:
                found.setdefault(stop.message, (route.name, number))
    return found


@check
def _messages(program: Program) -> Iterator[Finding]:
    sent, heard, listening = _sent(program), _heard(program), _listening(program)
    at_stops = _sent_at_stops(program)
    for message, (route, number) in at_stops.items():
        if message not in heard and message not in listening:
            said = f"“{message}” is sent at stop {number}, but no rule hears it{did_you_mean(message, heard)}"
            yield Finding("warning", route, None, "stop", number - 1, said)
    for name, known, what in (
        (sent, heard, "is sent but no rule hears it"),
        (heard, sent, "is heard but nothing sends it"),
    ):
        for message, lines in name.items():
            if message in known or (name is sent and message in listening):
                continue
            if name is heard and message in at_stops:
                continue
            meant = nearest(message, [m for m in known if m not in name])
            for rule, line, slot in lines:
                label, repair = "", None
                if meant is not None:
                    label = f"perhaps “{meant}” is meant"
                    repair = slot_repair(rule, line, slot, meant)
                yield at_line(rule, line, f"“{message}” {what}", label, repair)


# rules that never fire


@check
def _never_fires(program: Program) -> Iterator[Finding]:
    placed = {o.kind for o in program.level.objects}
    created = {
        line.fixed[line.entry.derived.creates]
        for compiled in running(program)
        for line in every_step(compiled)
        if line.entry.derived.creates
    }
    there = placed | created
    for compiled in running_rules(program):
        for line in (*compiled.when, *compiled.if_):
            for argument in line.arguments.values():
                if (
                    isinstance(argument, RoleArgument)
                    and not argument.role.new
                    and not there & set(argument.role.kinds)
                ):
                    yield at_line(
                        compiled,
                        line,
                        f"this rule can never fire: there is no “{argument.role.text}”, and no rule creates one",
                    )
        for line in compiled.if_:
            for argument in line.arguments.values():
                if isinstance(argument, Formula) and argument.constant is False and not line.negated:
                    yield at_line(compiled, line, "this rule can never fire: this condition is always no")
            rule = line.fixed.get("rule")
            if rule is not None:
                other = program.rules[program.index.rule_names[rule]]
                if not other.runs:
                    yield at_line(
                        compiled, line, f"this rule can never fire: “{rule}” is switched off or has a finding"
                    )


# every tick instead of once


def _continuing(rule: CompiledRule) -> bool:
    return not rule.when or any(line.entry.continuing for line in rule.when)


@check
def _one_shots(program: Program) -> Iterator[Finding]:
    for rule in running_rules(program):
        if rule.source.fires != "each tick" or rule.source.cooldown or not _continuing(rule):
            continue
        for line in rule.do:
            if line.entry.one_shot:
                rule_id = rule.source.id
                yield at_line(
                    rule,
                    line,
                    "this is done in every tick for as long as the rule holds",
                    "let the rule fire on becoming true",
                    lambda level, i=rule_id: change_rule(
                        level, i, lambda r: replace(r, fires="on becoming true")
                    ),  # type: ignore[misc]
                )
                break


@check
def _per_tick(program: Program) -> Iterator[Finding]:
    for rule in running_rules(program):
        if rule.source.fires != "each tick" or rule.source.cooldown or not _continuing(rule):
            continue
        for line in rule.do:
            for slot in line.entry.derived.adds:
                argument = line.arguments[slot]
                if not isinstance(argument, Formula) or not _moves_by_tick(argument):
                    continue
                if not line.entry.derived.writes and not _is_measure(line):
                    continue
                per_second = f"({argument.source.strip()}) * {program.rate} * dt"
                yield at_line(
                    rule,
                    line,
                    f"“{argument.source.strip()}” is added in every tick, so it depends on the tick rate",
                    f"write {per_second}",
                    slot_repair(rule, line, slot, per_second),
                )


def _moves_by_tick(formula: Formula) -> bool:
    if formula.constant is not None:
        return bool(formula.constant != 0)
    return (
        ("clock", "dt") not in formula.reads
        and "random" not in formula.source
        and "if(" not in formula.source
    )


def _is_measure(line: CompiledLine) -> bool:
    """Return whether what is added to is a place, an angle or a variable; counting touches is no measure."""
    return any(isinstance(a, VariableArgument) for a in line.arguments.values())


# order and writers


@check
def _removed_before(program: Program) -> Iterator[Finding]:
    removing: list[tuple[CompiledRule, CompiledLine]] = []
    for rule in running_rules(program):
        for line in rule.when:
            for above, gone in removing:
                same = any(w.entry is line.entry and w.fixed == line.fixed for w in above.when)
                if same and gone.fixed[gone.entry.derived.removes] in line.fixed.values():
                    yield at_line(
                        rule,
                        line,
                        f"“{above.source.name}”, above, always removes the “{gone.fixed[gone.entry.derived.removes].text}” first",
                    )
        if rule.when and not rule.if_:
            removing += [(rule, line) for line in rule.do if line.entry.derived.removes]


@check
def _two_writers(program: Program) -> Iterator[Finding]:
    seen: dict[object, CompiledRule] = {}
    for rule in running_rules(program):
        if rule.if_ or not rule.when:
            continue
        for line in rule.do:
            target = next((a for a in line.arguments.values() if isinstance(a, VariableArgument)), None)
            if not line.entry.derived.assigns or target is None:
                continue
            for when in rule.when:
                key = (
                    when.entry.name,
                    str(sorted((k, str(v)) for k, v in when.fixed.items())),
                    str([(name, formula.source) for name, formula in when.worked_out]),
                    str([(name, a.source) for name, a in when.arguments.items() if isinstance(a, Formula)]),
                    target.key,
                    str(target.role),
                )
                other = seen.setdefault(key, rule)
                if other is not rule:
                    yield at_line(
                        rule,
                        line,
                        f"“{other.source.name}” sets the same variable on the same occasion; this one wins",
                    )


@check
def _against_behaviours(program: Program) -> Iterator[Finding]:
    """Yield the actions that give objects a velocity, where a behaviour of theirs replaces it in the next tick."""
    index = program.index
    switched = {
        access.named
        for rule in running(program)
        for line in every_step(rule)
        for access in (site.access for site in writes_of(names_of(index, rule), line))
        if access.what == "on"
    }
    for rule in running(program):
        for line in steps_of((*rule.do, *rule.else_)):
            kinds = {
                site.access.kind
                for site in writes_of(names_of(index, rule), line)
                if site.access.what == "vx"
            }
            for behaviour in program.behaviours:
                kind = program.kinds[behaviour.kind]
                said = spoken(behaviour.entry.name)
                falls = program.level.settings.gravity != 0 and kind.contact == "movable"
                if (
                    kind.name in kinds
                    and behaviour.entry.derived.drives
                    and said not in switched
                    and not falls
                ):
                    message = (
                        f"{kind.name} has this velocity for the rest of the tick only: its behaviour “{said}” gives it "
                        "another in the next. Switch the behaviour off meanwhile, or move the object"
                    )
                    yield at_line(rule, line, message)
                    break


# variables


def _formulas(program: Program) -> Iterator[Formula]:
    for rule in program.rules:
        for line in every_step(rule):
            yield from (a for a in line.arguments.values() if isinstance(a, Formula))
    yield from (formula for _, formula in program.looks)
    for *_, value, most in program.readouts:
        yield value
        if most is not None:
            yield most
    sources = [s for t in program.level.trials for s in t.watches]
    for trial in program.level.trials:
        sources += [formula for e in trial.expectations for formula in e.formulas()]
    for source in sources:
        try:
            yield compile_formula(program.index, source)
        except FormulaError:
            continue


@check
def _unused(program: Program) -> Iterator[Finding]:
    read = {name for f in _formulas(program) for owner, name in f.reads if owner == "level"}
    written = {name for owner, name in program.tick_tables.written if owner == "level"}
    watched = {
        a.name
        for t in program.rules
        for s in t.when
        for a in s.arguments.values()
        if isinstance(a, VariableArgument)
    }
    for variable in program.level.variables:
        name = token(variable.name)
        if name not in read | written | watched:
            yield Finding(
                "warning", "", None, "", 0, f"the variable level.{name} is neither read nor written"
            )
        elif name not in read | watched:
            yield Finding("warning", "", None, "", 0, f"the variable level.{name} is written but never read")


# circles of messages


@check
def _circles(program: Program) -> Iterator[Finding]:
    heard = _heard(program)
    leads: dict[int, set[int]] = {}
    for message, lines in _sent(program).items():
        for sender, _, _ in lines:
            leads.setdefault(sender.index, set()).update(t.index for t, _, _ in heard.get(message, ()))
    seen: set[frozenset[int]] = set()
    for start in leads:
        circle = _circle_from(start, leads)
        if circle and frozenset(circle) not in seen:
            seen.add(frozenset(circle))
            turns = [program.rules[p] for p in circle]
            if all(not t.if_ and not t.source.cooldown and t.source.fires == "each tick" for t in turns):
                names = " → ".join(f"“{t.source.name}”" for t in (*turns, turns[0]))
                own = [*steps_of((*turns[0].do, *turns[0].else_)), *turns[0].when]
                sends = (
                    s
                    for s in own
                    if s.part != "when" and any(x.type == "message" for x in s.entry.slots.values())
                )
                line = next(sends, own[0])
                yield at_line(turns[0], line, f"these messages cause one another without end: {names}")


def _circle_from(start: int, leads: dict[int, set[int]]) -> list[int]:
    """Return the shortest way from a rule back to itself."""
    paths = [[start]]
    seen: set[int] = set()
    while paths:
        path = paths.pop(0)
        for after in sorted(leads.get(path[-1], ())):
            if after == start:
                return path
            if after not in seen:
                seen.add(after)
                paths.append([*path, after])
    return []


def repaired(level: Level, finding: Finding) -> Level:
    """Return the level with a finding's repair done. Raises ValueError if there is none."""
    if finding.repair is None:
        raise ValueError("there is no repair for this finding")
    return finding.repair(level)


# input


# roles that are looked for


@check
def _looked_for(program: Program) -> Iterator[Finding]:
    """Lines that speak of an object which the conditions above have not brought in, though it reads as if they had."""
    for rule in running_rules(program):
        brought: set[str] = {r for line in rule.when for r in line.roles}
        looked: dict[str, CompiledLine] = {}
        for line in rule.if_:
            here = [r for r in line.roles if r not in brought and r not in line.subject]
            brings = not line.negated and line.entry.joins != "none"
            brought.update(line.roles if brings else line.subject)
            for role in here:
                looked.setdefault(role, line)
        absent = {role for role, line in looked.items() if role not in brought}
        for part, roles in ((rule.do, absent), (rule.else_, set(looked))):
            for line in steps_of(part):
                for role in line.roles:
                    if role in roles:
                        text = program.index.role_tokens[role].text
                        above = looked[role]
                        why = (
                            f"condition {above.number + 1} is negated, so it brings no {text} in"
                            if role in absent
                            else f"“else” is for matches for which condition {above.number + 1} found no {text}"
                        )
                        yield at_line(rule, line, f"“{text}” is every {text} here: {why}")


# graphs


@check
def _cards(program: Program) -> Iterator[Finding]:
    """Yield cards of graphs that nothing reaches, that give a value nothing takes, or that can never hand anything on."""
    drawn = {entry.id: entry for _, _, entry in all_logic(program.level) if isinstance(entry, Graph)}
    for rule in running(program):
        if rule.graph is None or rule.source.id not in drawn:
            continue
        cards, own_node = rule.graph.cards, is_own_node(drawn[rule.source.id])
        gives = {node.id for node in drawn[rule.source.id].nodes if node.use == OUTPUT}
        entered: dict[int, set[str]] = {}
        for card in cards.values():
            for follows in card.outputs.values():
                for number, port, _ in follows:
                    entered.setdefault(number, set()).add(port)
        taken = {start.node for start, _ in wires_of(rule.graph.graph, values=True)}
        reached = _reached(rule.graph)
        for number, card in cards.items():
            if number in rule.graph.origins:
                # reported where the own node itself is
                continue
            if card.ports.inputs and number not in reached and not own_node:
                yield at_card(rule, number, "nothing ever reaches this card; wire an output to it")
            if not card.ports.inputs and not card.ports.outputs and number not in taken | gives:
                yield at_card(rule, number, "nothing takes this card's value; wire it to a slot")
            if card.card is None:
                continue
            if card.card.value == "kept" and number not in taken:
                yield at_card(rule, number, "what this card keeps is never read; wire its value to a slot")
            numbers = sorted(int(port) for port in card.outputs) if NUMBERED in card.ports.outputs else []
            if numbers and numbers != list(range(1, len(numbers) + 1)):
                gap = next(n for n in range(1, numbers[-1]) if n not in numbers)
                yield at_card(rule, number, f"its output {gap} leads nowhere, though later ones do")
            opens = card.words.get("start") == "closed" and "open" in card.ports.inputs
            if opens and "open" not in entered.get(number, set()):
                yield at_card(rule, number, "this gate can never open: nothing comes into “open”")


@check
def _keys(program: Program) -> Iterator[Finding]:
    """Keys in a trial's input that no keyboard has: rules never see them."""
    known = (*KEYS, *POINTER_KEYS)
    for trial in program.level.trials:
        for key in dict.fromkeys(bar.key for bar in trial.input.keys if bar.key not in known):
            meant = did_you_mean(key, known)
            yield Finding(
                "error",
                "",
                None,
                "",
                0,
                f"the trial “{trial.name}” holds the key “{key}”, which does not exist{meant}",
            )


def _reached(graph: CompiledGraph) -> set[int]:
    """Return the cards to which some way leads from an occasion."""
    ahead, found = list(graph.occasions), set(graph.occasions)
    while ahead:
        for follows in graph.cards[ahead.pop()].outputs.values():
            for number, _, _ in follows:
                if number not in found:
                    found.add(number)
                    ahead.append(number)
    return found
