"""Checks of a level that do not run it: what cannot work, and what is probably not meant."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

from msgspec.structs import replace

from gatillo.catalogue.cards.graph_cards import NUMBERED
from gatillo.catalogue.declare.named_types import is_own_node
from gatillo.formula.compiling import compile_formula
from gatillo.formula.formula import Formula
from gatillo.formula.syntax import FormulaError
from gatillo.language.binding import RoleArgument, VariableArgument, Word
from gatillo.level.edits import change_rule, set_slot
from gatillo.level.graphs import OUTPUT, wires_of
from gatillo.level.keys import KEYS, POINTER_KEYS
from gatillo.level.model import Graph, HoldsAt, HoldsWhenever, Level
from gatillo.level.naming import did_you_mean, nearest, shortened, spoken, token
from gatillo.level.roles import all_logic
from gatillo.sim.program.compiled_graph import CompiledGraph
from gatillo.sim.program.compiled_line import CompiledLine, steps_of
from gatillo.sim.program.compiled_rule import CompiledRule, every_step
from gatillo.sim.program.program import Program
from gatillo.sim.program.touched import names_of, writes_of

Repair = Callable[[Level], Level]


@dataclass(frozen=True, slots=True)
class Finding:
    """Something that a check found: where, how severe, a sentence, and a repair where there is one."""

    severity: Literal["error", "warning"]
    """An error keeps a rule from running; a warning is probably not meant."""
    rule: str
    rule_id: int | None
    part: str
    line: int
    message: str
    repair_label: str = ""
    repair: Repair | None = None
    card: int = 0
    """Of a graph: at which of its cards."""

    @property
    def grave(self) -> bool:
        """Whether it is an error: a rule that cannot run."""
        return self.severity == "error"

    def sentence(self) -> str:
        """Return where it stands and what it is, in one line."""
        sort = "" if self.rule_id is None else "graph " if self.part in ("card", "graph") else "rule "
        where = f"{sort}“{self.rule}”" if self.rule else "level"
        if self.card:
            where += f", card {self.card}"
        elif self.part and self.part != "graph":
            where += f", {self.part} {self.line + 1}"
        return shortened(
            f"{where}: {self.message}" + (f" ({self.repair_label})" if self.repair_label else "")
        )


def findings(level: Level, program: Program | None = None) -> list[Finding]:
    """Every finding of a level: what keeps rules from running first, then in the order of the rules."""
    program = program or Program(level)
    found = [_problem(program, p) for p in program.problems]
    for check in (
        _messages,
        _never_fires,
        _one_shots,
        _per_tick,
        _removed_before,
        _two_writers,
        _against_behaviours,
        _unused,
        _circles,
        _looked_for,
        _cards,
        _keys,
    ):
        found.extend(check(program))
    return found


def _problem(program: Program, problem: object) -> Finding:
    turn, rule, part, line, slot, message = (
        getattr(problem, name) for name in ("turn", "rule", "part", "line", "slot", "message")
    )
    rule_id = program.turns[turn].rule.id if turn >= 0 else None
    card: int = getattr(problem, "card", 0)
    said = (f"{slot}: " if slot else "") + message
    return Finding("error", rule, rule_id, "card" if card else part, line, said, card=card)


def _at(
    turn: CompiledRule, step: CompiledLine, message: str, label: str = "", repair: Repair | None = None
) -> Finding:
    if turn.graph is not None:
        # what is repaired is a rule's line
        card, way = turn.graph.place_of(turn.graph.number_of(step))
        part, line = turn.graph.line_of(card)
        if part != "card":
            return Finding("warning", turn.rule.name, turn.rule.id, part, line, way + message)
        return _at_card(turn, card, way + message)
    return Finding("warning", turn.rule.name, turn.rule.id, step.part, step.line, message, label, repair)


def _at_card(turn: CompiledRule, card: int, message: str) -> Finding:
    return Finding("warning", turn.rule.name, turn.rule.id, "card", 0, message, card=card)


def _running(program: Program) -> list[CompiledRule]:
    return [turn for turn in program.turns if turn.runs]


def _running_rules(program: Program) -> list[CompiledRule]:
    """Without graphs, whose cards do not stand below one another."""
    return [turn for turn in program.turns if turn.runs and turn.graph is None]


def _against_behaviours(program: Program) -> Iterator[Finding]:
    """Yield the actions that give objects a velocity, where a behaviour of theirs replaces it in the next tick."""
    index = program.index
    switched = {
        access.named
        for turn in _running(program)
        for step in every_step(turn)
        for access in (site.access for site in writes_of(names_of(index, turn), step))
        if access.what == "on"
    }
    for turn in _running(program):
        for step in steps_of((*turn.do, *turn.else_)):
            kinds = {
                site.access.kind
                for site in writes_of(names_of(index, turn), step)
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
                    yield _at(turn, step, message)
                    break


# messages


def _message_lines(
    program: Program, part_of: Callable[[CompiledRule], Iterator[CompiledLine]]
) -> dict[str, list[tuple[CompiledRule, CompiledLine, str]]]:
    found: dict[str, list[tuple[CompiledRule, CompiledLine, str]]] = {}
    for turn in _running(program):
        for step in part_of(turn):
            for name, argument in step.arguments.items():
                if isinstance(argument, Word) and step.entry.slots[name].type == "message":
                    found.setdefault(argument.text, []).append((turn, step, name))
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


def _messages(program: Program) -> Iterator[Finding]:
    sent, heard, listening = _sent(program), _heard(program), _listening(program)
    for name, known, what in (
        (sent, heard, "is sent but no rule hears it"),
        (heard, sent, "is heard but nothing sends it"),
    ):
        for message, lines in name.items():
            if message in known or (name is sent and message in listening):
                continue
            meant = nearest(message, [m for m in known if m not in name])
            for turn, step, slot in lines:
                label, repair = "", None
                if meant is not None:
                    label = f"perhaps “{meant}” is meant"
                    repair = _slot_repair(turn, step, slot, meant)
                yield _at(turn, step, f"“{message}” {what}", label, repair)


def _slot_repair(turn: CompiledRule, step: CompiledLine, slot: str, text: str) -> Repair:
    rule_id, part, line = turn.rule.id, step.part, step.line
    return lambda level: set_slot(level, rule_id, part, line, slot, text)


# rules that never fire


def _never_fires(program: Program) -> Iterator[Finding]:
    placed = {o.kind for o in program.level.objects}
    created = {
        step.fixed[step.entry.derived.creates]
        for turn in _running(program)
        for step in every_step(turn)
        if step.entry.derived.creates
    }
    there = placed | created
    for turn in _running_rules(program):
        for step in (*turn.when, *turn.if_):
            for argument in step.arguments.values():
                if (
                    isinstance(argument, RoleArgument)
                    and not argument.role.new
                    and not there & set(argument.role.kinds)
                ):
                    yield _at(
                        turn,
                        step,
                        f"this rule can never fire: there is no “{argument.role.text}”, and no rule creates one",
                    )
        for step in turn.if_:
            for argument in step.arguments.values():
                if isinstance(argument, Formula) and argument.constant is False and not step.negated:
                    yield _at(turn, step, "this rule can never fire: this condition is always no")
            rule = step.fixed.get("rule")
            if rule is not None:
                other = program.turns[program.index.rule_names[rule]]
                if not other.runs:
                    yield _at(
                        turn, step, f"this rule can never fire: “{rule}” is switched off or has a finding"
                    )


# every tick instead of once


def _continuing(turn: CompiledRule) -> bool:
    return not turn.when or any(step.entry.continuing for step in turn.when)


def _one_shots(program: Program) -> Iterator[Finding]:
    for turn in _running_rules(program):
        if turn.rule.fires != "each tick" or turn.rule.cooldown or not _continuing(turn):
            continue
        for step in turn.do:
            if step.entry.one_shot:
                rule_id = turn.rule.id
                yield _at(
                    turn,
                    step,
                    "this is done in every tick for as long as the rule holds",
                    "let the rule fire on becoming true",
                    lambda level, i=rule_id: change_rule(
                        level, i, lambda r: replace(r, fires="on becoming true")
                    ),  # type: ignore[misc]
                )
                break


def _per_tick(program: Program) -> Iterator[Finding]:
    for turn in _running_rules(program):
        if turn.rule.fires != "each tick" or turn.rule.cooldown or not _continuing(turn):
            continue
        for step in turn.do:
            for slot in step.entry.derived.adds:
                argument = step.arguments[slot]
                if not isinstance(argument, Formula) or not _moves_by_tick(argument):
                    continue
                if not step.entry.derived.writes and not _is_measure(step):
                    continue
                per_second = f"({argument.source.strip()}) * {program.rate} * dt"
                yield _at(
                    turn,
                    step,
                    f"“{argument.source.strip()}” is added in every tick, so it depends on the tick rate",
                    f"write {per_second}",
                    _slot_repair(turn, step, slot, per_second),
                )


def _moves_by_tick(formula: Formula) -> bool:
    if formula.constant is not None:
        return bool(formula.constant != 0)
    return (
        ("clock", "dt") not in formula.reads
        and "random" not in formula.source
        and "if(" not in formula.source
    )


def _is_measure(step: CompiledLine) -> bool:
    """Whether what is added to is a place, an angle or a variable; counting touches is no measure."""
    return any(isinstance(a, VariableArgument) for a in step.arguments.values())


# order and writers


def _removed_before(program: Program) -> Iterator[Finding]:
    removing: list[tuple[CompiledRule, CompiledLine]] = []
    for turn in _running_rules(program):
        for step in turn.when:
            for above, gone in removing:
                same = any(w.entry is step.entry and w.fixed == step.fixed for w in above.when)
                if same and gone.fixed[gone.entry.derived.removes] in step.fixed.values():
                    yield _at(
                        turn,
                        step,
                        f"“{above.rule.name}”, above, always removes the “{gone.fixed[gone.entry.derived.removes].text}” first",
                    )
        if turn.when and not turn.if_:
            removing += [(turn, step) for step in turn.do if step.entry.derived.removes]


def _two_writers(program: Program) -> Iterator[Finding]:
    seen: dict[object, CompiledRule] = {}
    for turn in _running_rules(program):
        if turn.if_ or not turn.when:
            continue
        for step in turn.do:
            target = next((a for a in step.arguments.values() if isinstance(a, VariableArgument)), None)
            if not step.entry.derived.assigns or target is None:
                continue
            for when in turn.when:
                key = (
                    when.entry.name,
                    str(sorted((k, str(v)) for k, v in when.fixed.items())),
                    str([(name, formula.source) for name, formula in when.worked_out]),
                    str([(name, a.source) for name, a in when.arguments.items() if isinstance(a, Formula)]),
                    target.key,
                    str(target.role),
                )
                other = seen.setdefault(key, turn)
                if other is not turn:
                    yield _at(
                        turn,
                        step,
                        f"“{other.rule.name}” sets the same variable on the same occasion; this one wins",
                    )


# variables


def _formulas(program: Program) -> Iterator[Formula]:
    for turn in program.turns:
        for step in every_step(turn):
            yield from (a for a in step.arguments.values() if isinstance(a, Formula))
    sources = [s for t in program.level.trials for s in t.watches]
    for trial in program.level.trials:
        sources += [e.formula for e in trial.expectations if isinstance(e, HoldsAt | HoldsWhenever)]
    for source in sources:
        try:
            yield compile_formula(program.index, source)
        except FormulaError:
            continue


def _unused(program: Program) -> Iterator[Finding]:
    read = {name for f in _formulas(program) for owner, name in f.reads if owner == "level"}
    written = {name for owner, name in program.tick_tables.written if owner == "level"}
    watched = {
        a.name
        for t in program.turns
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


def _circles(program: Program) -> Iterator[Finding]:
    heard = _heard(program)
    leads: dict[int, set[int]] = {}
    for message, lines in _sent(program).items():
        for sender, _, _ in lines:
            leads.setdefault(sender.position, set()).update(t.position for t, _, _ in heard.get(message, ()))
    told: set[frozenset[int]] = set()
    for start in leads:
        circle = _circle_from(start, leads)
        if circle and frozenset(circle) not in told:
            told.add(frozenset(circle))
            turns = [program.turns[p] for p in circle]
            if all(not t.if_ and not t.rule.cooldown and t.rule.fires == "each tick" for t in turns):
                names = " → ".join(f"“{t.rule.name}”" for t in (*turns, turns[0]))
                own = [*steps_of((*turns[0].do, *turns[0].else_)), *turns[0].when]
                sends = (
                    s
                    for s in own
                    if s.part != "when" and any(x.type == "message" for x in s.entry.slots.values())
                )
                step = next(sends, own[0])
                yield _at(turns[0], step, f"these messages cause one another without end: {names}")


def _circle_from(start: int, leads: dict[int, set[int]]) -> list[int]:
    """The shortest way from a rule back to itself."""
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
    """The level with a finding's repair done. Raises ValueError if there is none."""
    if finding.repair is None:
        raise ValueError("there is no repair for this finding")
    return finding.repair(level)


# input


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


# roles that are looked for


def _looked_for(program: Program) -> Iterator[Finding]:
    """Lines that speak of an object which the conditions above have not brought in, though it reads as if they had."""
    for turn in _running_rules(program):
        brought: set[str] = {r for step in turn.when for r in step.roles}
        looked: dict[str, CompiledLine] = {}
        for step in turn.if_:
            here = [r for r in step.roles if r not in brought and r not in step.subject]
            brings = not step.negated and step.entry.joins != "none"
            brought.update(step.roles if brings else step.subject)
            for role in here:
                looked.setdefault(role, step)
        absent = {role for role, step in looked.items() if role not in brought}
        for part, roles in ((turn.do, absent), (turn.else_, set(looked))):
            for step in steps_of(part):
                for role in step.roles:
                    if role in roles:
                        text = program.index.role_tokens[role].text
                        above = looked[role]
                        why = (
                            f"condition {above.line + 1} is negated, so it brings no {text} in"
                            if role in absent
                            else f"“else” is for those for whom condition {above.line + 1} found no {text}"
                        )
                        yield _at(turn, step, f"“{text}” is every {text} here: {why}")


# graphs


def _cards(program: Program) -> Iterator[Finding]:
    """Cards of graphs that nothing reaches, that give what nobody takes, or that can never hand anything on."""
    drawn = {entry.id: entry for _, _, entry in all_logic(program.level) if isinstance(entry, Graph)}
    for turn in _running(program):
        if turn.graph is None or turn.rule.id not in drawn:
            continue
        cards, own_node = turn.graph.cards, is_own_node(drawn[turn.rule.id])
        gives = {node.id for node in drawn[turn.rule.id].nodes if node.use == OUTPUT}
        entered: dict[int, set[str]] = {}
        for card in cards.values():
            for follows in card.outputs.values():
                for number, port, _ in follows:
                    entered.setdefault(number, set()).add(port)
        taken = {start.node for start, _ in wires_of(turn.graph.graph, values=True)}
        reached = _reached(turn.graph)
        for number, card in cards.items():
            if number in turn.graph.origins:
                # told where the own node itself stands
                continue
            if card.ports.inputs and number not in reached and not own_node:
                yield _at_card(turn, number, "nothing ever reaches this card; wire an output to it")
            if not card.ports.inputs and not card.ports.outputs and number not in taken | gives:
                yield _at_card(turn, number, "nothing takes this card's value; wire it to a slot")
            if card.card is None:
                continue
            if card.card.value == "kept" and number not in taken:
                yield _at_card(turn, number, "what this card keeps is never read; wire its value to a slot")
            numbers = sorted(int(port) for port in card.outputs) if NUMBERED in card.ports.outputs else []
            if numbers and numbers != list(range(1, len(numbers) + 1)):
                gap = next(n for n in range(1, numbers[-1]) if n not in numbers)
                yield _at_card(turn, number, f"its output {gap} leads nowhere, though later ones do")
            opens = card.words.get("start") == "closed" and "open" in card.ports.inputs
            if opens and "open" not in entered.get(number, set()):
                yield _at_card(turn, number, "this gate can never open: nothing comes into “open”")


def _reached(graph: CompiledGraph) -> set[int]:
    """The cards to which some way leads from an occasion."""
    ahead, found = list(graph.occasions), set(graph.occasions)
    while ahead:
        for follows in graph.cards[ahead.pop()].outputs.values():
            for number, _, _ in follows:
                if number not in found:
                    found.add(number)
                    ahead.append(number)
    return found
