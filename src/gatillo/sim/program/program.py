"""Compiling a level: rules and graphs are looked up, compiled, and indexed by the facts that wake them."""

from __future__ import annotations

import gc
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from copy import copy
from dataclasses import dataclass, replace

import msgspec

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.declare.named_types import is_own_node
from gatillo.catalogue.entries.prompts import menu_conditions
from gatillo.formula.formula import EVERY
from gatillo.graphs.conversion import GROUP_OF, Drawn, drawn_rule, speaks_of_own_nodes
from gatillo.language.binding import Bound, RoleArgument, VariableArgument, bind
from gatillo.language.own_behaviours import as_it_is_said, as_it_runs
from gatillo.level.model import Clause, Graph, Level, Logic, Node, Rule, Section
from gatillo.level.naming import token
from gatillo.level.roles import Index, Role, all_logic
from gatillo.sim.program.behaviours import behaviours_of, own_behaviour_problems, own_settings
from gatillo.sim.program.compiled_graph import CompiledGraph, Lines
from gatillo.sim.program.compiled_line import (
    PARTS,
    CompiledLine,
    Limits,
    Part,
    effect_on_itself,
    make_step,
    moved,
    steps_of,
    ticks_of,
)
from gatillo.sim.program.compiled_rule import CompiledRule, Named, named_by, whose
from gatillo.sim.program.dependencies import depends_on, stirred_by
from gatillo.sim.program.flattening import MOST_CARDS, Flat, Origin, flattened
from gatillo.sim.program.graph_lowering import as_rule, compile_graph, lines_of
from gatillo.sim.program.kind_tables import KindTables
from gatillo.sim.program.own_formulas import about_itself, compiled_looks, compiled_readouts, moving_stops
from gatillo.sim.program.problems import Problem
from gatillo.sim.program.screens import screen_of
from gatillo.sim.program.tick_tables import TickTables
from gatillo.sim.program.wake_index import wake_index


@dataclass(frozen=True, slots=True)
class _Made:
    """A rule made ready; holds the rule, so that its identity stays its own."""

    rule: Rule
    blocks: dict[Part, tuple[CompiledLine, ...]]
    problems: list[Problem]
    named: Named


@dataclass(frozen=True, slots=True)
class _MadeGraph:
    """A graph, or a rule with own nodes, made ready at a place in the order list; holds it, so that its identity stays its own."""

    entry: Logic
    position: int
    rule: Rule
    compiled: CompiledGraph
    blocks: dict[Part, tuple[CompiledLine, ...]]
    problems: list[Problem]
    named: Named
    uses: tuple[Graph, ...] = ()
    """The own nodes in it."""
    own_cards: int = 0
    """How many cards those have in their places."""
    refused: bool = False
    """Whether they had too many."""


def _same_logic(one: Logic, other: Logic) -> bool:
    """Return whether two entries are the same but for where cards stand, what is noted and whether they are switched on."""
    if one is other:
        return True
    if not (isinstance(one, Graph) and isinstance(other, Graph)) or len(one.nodes) != len(other.nodes):
        return False
    return _same_but_cards(one, other) and all(
        a is b or ((a.id, a.use, a.once) == (b.id, b.use, b.once) and a.slots == b.slots and a.of == b.of)
        for a, b in zip(one.nodes, other.nodes, strict=True)
    )


def _same_but_cards(one: Graph, other: Graph) -> bool:
    """Return whether two graphs have the same wires, id, name and settings; their cards may differ."""
    mine = (one.id, one.name, one.for_, one.shared, one.wires, one.values)
    return mine == (other.id, other.name, other.for_, other.shared, other.wires, other.values)


def _keeps_lines(made: _MadeGraph, other: Logic, position: int) -> bool:
    """Return whether cards that have not changed have the lines that they had.

    That is so where nothing but the slots of cards has changed, and where cards and wires came after the others or the last of
    them went: the numbers of the others stay.
    """
    one = made.entry
    if not (isinstance(one, Graph) and isinstance(other, Graph)) or made.position != position:
        return False
    if made.problems or made.uses or one.values != other.values:
        return False
    alike = (one.id, one.name, one.for_, one.shared) == (other.id, other.name, other.for_, other.shared)
    cards = [(n.id, n.use) for n in one.nodes], [(n.id, n.use) for n in other.nodes]
    return alike and _begins_alike(one.wires, other.wires) and _begins_alike(*cards)


def _begins_alike(one: Sequence[object], other: Sequence[object]) -> bool:
    """Return whether one of two sequences begins with the other."""
    both = min(len(one), len(other))
    return one[:both] == other[:both]


def _same_names(one: Level, other: Level) -> bool:
    """Return whether everything that a rule may name is the same in two levels."""
    return (
        one.kinds is other.kinds
        and one.objects is other.objects
        and one.places is other.places
        and one.clips is other.clips
        and one.variables is other.variables
        and one.settings == other.settings
        and _rule_names(one) == _rule_names(other)
    )


def _rule_names(level: Level) -> list[str]:
    return [
        name
        for entry in level.order
        for name in (
            [entry.name, *(rule.name for rule in entry.rules)] if isinstance(entry, Section) else [entry.name]
        )
    ]


def _kinds_of(index: Index, whose: str) -> tuple[str, ...]:
    """Return the kinds of what a formula reads: of a role, or of every object of a kind."""
    if whose.startswith(f"{EVERY} "):
        return (whose.removeprefix(f"{EVERY} "),)
    role = index.role_tokens.get(whose)
    return role.kinds if role is not None else ()


NO_IF = "there is no “if” just above this “otherwise”; put one there"


def _is_branch(clause: Clause, branch: str) -> bool:
    entry = CATALOGUE.get(clause.use)
    return entry is not None and entry.branch == branch


def _turn_round(line: CompiledLine) -> None:
    """Negate the lines within each “none of”: all of them must hold, and none brings an object in."""
    for inner in line.of:
        if line.entry.joins == "none" and not line.negated:
            inner.negated, inner.brings = not inner.negated, False
        _turn_round(inner)


@contextmanager
def _without_collecting() -> Iterator[None]:
    """Keep the collector from walking again and again through lines that all stay: a third of the time of large levels."""
    collecting = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if collecting:
            gc.enable()


class Program:
    """A level made ready to run. Nothing in it changes while it runs; many runs can share it."""

    def __init__(self, level: Level, before: Program | None = None) -> None:
        """Make a level ready to run. Rules that `before` has made ready are taken from it, if nothing they name changed."""
        index: Index = Index(level, before.index if before is not None else None)
        # the level without its scenery
        level = index.level
        self.level = level
        self.index: Index = index
        self.kinds = level.kinds
        self.kind_number = {kind.name: at for at, kind in enumerate(level.kinds)}
        self.rate = level.settings.rate
        self.dt = 1.0 / level.settings.rate
        self.kind_tables = KindTables(level, index)
        self._made: dict[int, _Made] = {}
        self._made_graphs: dict[int, _MadeGraph] = {}
        same = before is not None and _same_names(before.level, level)
        self._before = before._made if before is not None and same else {}
        self._graphs_before = before._made_graphs if before is not None and same else {}
        self.names = {o.id: o.name for o in level.objects}
        self.problems: list[Problem] = []
        self._own_cards = 0
        """Cards of own nodes in their places, so far."""
        self._graphs = {entry.name: entry for _, _, entry in all_logic(level) if isinstance(entry, Graph)}
        with _without_collecting():
            self.rules = tuple(
                self._turn(
                    position,
                    as_it_runs(entry, section),
                    entry.on and (section is None or section.on),
                    section,
                )
                for position, section, entry in all_logic(level)
            )
        self._excuse_own_nodes()
        self.roles = self._roles()
        """Every role by token, those of graphs too."""
        for rule in self.rules:
            rule.screen = screen_of(rule, self.roles) if rule.runs else None
        self._find_switched()
        self.kind_tokens = tuple(token(kind.name) for kind in level.kinds)
        self.readouts = compiled_readouts(index, self.kinds, self.problems)
        self.looks = compiled_looks(index, self.kinds, self.problems)
        self.moving_stops = moving_stops(index, self.problems)
        """By number of the route: the stops that are where a formula says."""
        self.topic_conditions = tuple(
            tuple(
                about_itself(index, kind, t.only_if, self.problems, "topic", i)
                for i, t in enumerate(kind.topics)
            )
            for kind in self.kinds
        )
        """By kind and topic: under which condition it can be chosen, None for always."""
        self.behaviours = behaviours_of(self.index, self.problems)
        self.entry_conditions = {
            (b.kind, entry): about_itself(
                index, self.kinds[b.kind], asked, self.problems, "behaviour", 0, "entries"
            )
            for b in self.behaviours
            if "entries" in b.words
            for entry, asked in menu_conditions(b.words["entries"]).items()
        }
        """By kind and entry of its prompt's menu: under which condition it is offered."""
        self.own_settings = own_settings(self.index, self.behaviours, self.problems)
        self.problems += own_behaviour_problems(self.index)
        woken = wake_index(self.rules)
        self.wakes, self.always, self.noticed, self.alarms = (
            woken.wakes,
            woken.always,
            woken.noticed,
            woken.alarms,
        )
        self.messages = self._message_names()
        self._name_writes(before)
        self.tick_tables = TickTables(level, index, self.rules, self.behaviours, self.wakes)
        self._before, self._graphs_before = {}, {}

    # reading rules

    def _turn(self, position: int, entry: Logic, on: bool, section: Section | None) -> CompiledRule:
        before = len(self.problems)
        graph: CompiledGraph | None = None
        if section is not None and section.own is not None and not self.index.tags.get(section.name):
            return self._idle(position, entry, on, section)
        if isinstance(entry, Graph) or speaks_of_own_nodes(entry):
            rule, graph, blocks = self._graph_made(position, entry)
        else:
            rule, blocks = entry, self._blocks(position, entry)
        compiled = CompiledRule(
            position, rule, on, blocks["when"], blocks["if"], blocks["do"], blocks["else"]
        )
        compiled.section = section.name if section is not None else ""
        compiled.runs = len(self.problems) == before
        compiled.limits = Limits(
            rule.fires,
            rule.first_per == "object",
            ticks_of(rule.cooldown, self.rate),
            rule.cooldown_per == "object",
            rule.while_waiting,
        )
        compiled.plain = compiled.limits.plain
        compiled.graph = graph
        compiled.stirs = stirred_by(self.index, compiled) if compiled.runs else None
        compiled.named = (
            self._made_graphs[entry.id].named if graph is not None else self._made[id(entry)].named
        )
        if section is not None and section.own is not None and len(self.problems) > before:
            self.problems[before:] = [
                replace(p, message=as_it_is_said(p.message, section)) for p in self.problems[before:]
            ]
        return compiled

    def _idle(self, position: int, entry: Logic, on: bool, section: Section) -> CompiledRule:
        """Return a rule of an own behaviour that no kind has: it is not looked at, and never runs."""
        rule = entry if isinstance(entry, Rule) else as_rule(entry, lines_of(entry))
        compiled = CompiledRule(position, rule, on, (), (), (), ())
        compiled.section = section.name
        compiled.runs = False
        compiled.named = named_by(dict.fromkeys(PARTS, ()))
        return compiled

    def _graph_made(
        self, position: int, entry: Logic
    ) -> tuple[Rule, CompiledGraph, dict[Part, tuple[CompiledLine, ...]]]:
        """Return the cards of a graph, or of a rule with own nodes.

        They are reused from the previous program where the entry and its position have not changed.
        """
        made = self._graphs_before.get(entry.id)
        room = MOST_CARDS - self._own_cards
        same = made is not None and _same_logic(made.entry, entry) and made.position == position
        if (
            made is None
            or not same
            or made.refused
            or made.own_cards > room
            or any(self._graphs.get(g.name) is not g for g in made.uses)
        ):
            before = len(self.problems)
            drawn = None if isinstance(entry, Graph) else drawn_rule(entry, self._graphs)
            for part, line, sentence in drawn.wrong if drawn is not None else ():
                self.problems.append(Problem(position, entry.name, part, line, "", sentence))
            graph = drawn.graph if drawn is not None else entry
            assert isinstance(graph, Graph)
            flat = flattened(graph, self._graphs, self._problem_at(position, entry.name, {}, drawn), room)
            refused = flat.refused
            if refused:
                # none of its cards is looked at
                flat = Flat(msgspec.structs.replace(graph, nodes=(), wires=(), values=()))
            nodes = lines_of(flat.graph)
            rule = as_rule(flat.graph, nodes)
            kept = made.compiled if made is not None and _keeps_lines(made, entry, position) else None
            compiled, blocks = self._graph(position, flat, rule, nodes, drawn, kept)
            made = _MadeGraph(
                entry,
                position,
                rule,
                compiled,
                blocks,
                self.problems[before:],
                named_by(blocks),
                flat.uses,
                len(flat.origins),
                refused,
            )
        else:
            self.problems += made.problems
            if made.entry is not entry:
                # moved, switched or noted on, which no card knows of
                compiled = copy(made.compiled)
                if isinstance(entry, Graph) and compiled.graph is made.entry:
                    compiled.graph = entry
                made = replace(made, entry=entry, compiled=compiled)
        self._own_cards += made.own_cards
        self._made_graphs[entry.id] = made
        return made.rule, made.compiled, made.blocks

    def _problem_at(
        self, position: int, name: str, origins: dict[int, Origin], drawn: Drawn | None
    ) -> Callable[[Node | None, str, str], None]:
        def problem(node: Node | None, slot: str, message: str) -> None:
            card = node.id if node is not None else 0
            origin = origins.get(card)
            if origin is not None:
                card, slot, message = origin.card, "", f"{origin.way}{f', {slot}' if slot else ''}: {message}"
            if drawn is not None:
                part, line = drawn.lines.get(card, ("do", 0))
                self.problems.append(Problem(position, name, part, line, "", message))
                return
            part = "card" if node is not None else "graph"
            self.problems.append(Problem(position, name, part, 0, slot, message, card))

        return problem

    def _graph(
        self,
        position: int,
        flat: Flat,
        rule: Rule,
        nodes: Lines,
        drawn: Drawn | None,
        before: CompiledGraph | None,
    ) -> tuple[CompiledGraph, dict[Part, tuple[CompiledLine, ...]]]:
        """Return a graph's cards, looked up and compiled."""
        graph = flat.graph
        problem = self._problem_at(position, graph.name, flat.origins, drawn)

        def make_line(
            rule: Rule, part: Part, line: int, clause: Clause, bound: Bound, index: Index
        ) -> CompiledLine | None:
            before = len(self.problems)
            made = self._line(position, rule, part, line, clause, bound, index=index)
            noted, self.problems[before:] = self.problems[before:], []
            at = nodes[part][line][0]
            for found in noted:
                problem(at, found.slot, found.message)
            return made

        compiled, blocks = compile_graph(
            self.index,
            graph,
            rule,
            nodes,
            self.kind_number,
            self.rate,
            make_line,
            problem,
            flat.shared,
            before,
        )
        compiled.origins = flat.origins
        compiled.wire_of = flat.wire_of
        compiled.drawn = drawn
        if drawn is not None:
            # what its conditions let pass is reported at the places of the rule's
            compiled.straight = None
        made = self._roles_made(blocks)
        if is_own_node(self._graphs.get(graph.name, graph)):
            # what the graph that uses it has created it may speak of: reported there
            return compiled, blocks
        for made_line in (*blocks["if"], *steps_of(blocks["do"] + blocks["else"])):
            for name in made_line.roles:
                role = compiled.roles.get(name)
                if role is not None and role.new and name not in made:
                    problem(nodes[made_line.part][made_line.number][0], "", f"no card creates “{role.text}”")
        return compiled, blocks

    def _excuse_own_nodes(self) -> None:
        """Take back what is wrong with an own node by itself, where nothing is in the graphs that use it.

        By itself it has no more than what its inputs say of themselves: a number, where it may be given a text.
        """
        wrong = {p.rule for p in self.problems if p.rule_index >= 0}
        for name in wrong & {n for n, graph in self._graphs.items() if is_own_node(graph)}:
            own = self._graphs[name]
            users = [m for m in self._made_graphs.values() if any(used is own for used in m.uses)]
            within = f"in “{name}”"
            if users and not any(within in p.message for m in users for p in m.problems):
                self.problems = [p for p in self.problems if p.rule != name]

    def _roles(self) -> dict[str, Role]:
        found = self.index.role_tokens
        graphs = [rule.graph for rule in self.rules if rule.graph is not None and rule.graph.kind is not None]
        return {**found, **{t: r for graph in graphs for t, r in graph.roles.items()}} if graphs else found

    def _blocks(self, position: int, rule: Rule) -> dict[Part, tuple[CompiledLine, ...]]:
        """Return a rule's lines, looked up and compiled; taken from the program before where the rule is the same."""
        made = self._before.get(id(rule))
        if made is not None and made.rule is rule:
            self.problems += [replace(p, rule_index=position) for p in made.problems]
            blocks = {part: tuple(moved(s, position) for s in steps) for part, steps in made.blocks.items()}
            self._made[id(rule)] = _Made(rule, blocks, made.problems, made.named)
            return blocks
        before = len(self.problems)
        blocks = {
            part: self._block(position, rule, part, clauses)
            for part, clauses in zip(PARTS, (rule.when, rule.if_, rule.do, rule.else_), strict=True)
        }
        known = self._roles_made(blocks)
        for part in PARTS:
            # a group of conditions has the roles of its lines
            for line in steps_of(blocks[part]) if part in ("do", "else") else blocks[part]:
                for name in line.roles:
                    role = self.index.role_tokens[name]
                    if role.new and name not in known:
                        message = f"nothing above creates “{role.text}”; put a “create” line before this one"
                        self.problems.append(Problem(position, rule.name, part, line.number, "", message))
        self._made[id(rule)] = _Made(rule, blocks, self.problems[before:], named_by(blocks))
        return blocks

    def _find_switched(self) -> None:
        """Which turns some rule switches; the rest run for good, or never."""
        switched: set[int] = set()
        for rule in self.rules:
            for type, name in rule.named.switches if rule.runs else ():
                if type == "section":
                    switched.update(self.index.section_names[name])
                else:
                    switched.add(self.index.rule_names[name])
        for rule in self.rules:
            rule.switched = rule.index in switched
            rule.runs = rule.runs and (rule.on or rule.switched)

    def is_on(self, compiled: CompiledRule, switched: dict[str, bool]) -> bool:
        """Return whether a turn is on, after what rules have switched."""
        rule = switched.get(f"rule {compiled.source.name}", compiled.source.on)
        if not compiled.section:
            return rule
        section = next(e for e in self.level.order if isinstance(e, Section) and e.name == compiled.section)
        return rule and switched.get(f"section {compiled.section}", section.on)

    def _roles_made(self, blocks: dict[Part, tuple[CompiledLine, ...]]) -> set[str]:
        made = set()
        for part in ("do", "else"):
            for line in steps_of(blocks.get(part, ())):
                if line.entry.derived.creates:
                    made.add(token(f"new {line.fixed[line.entry.derived.creates]}"))
        return made

    def _block(
        self, position: int, rule: Rule, part: Part, clauses: tuple[Clause, ...]
    ) -> tuple[CompiledLine, ...]:
        steps: list[CompiledLine] = []
        for line, clause in enumerate(clauses):
            if line == 0 or not _is_branch(clauses[line - 1], "if"):
                self._unpaired(rule, part, line, clause, position)
            bound = bind(self.index, clause, GROUP_OF[part])
            compiled = self._line(position, rule, part, line, clause, bound)
            if compiled is not None:
                steps.append(compiled)
        return tuple(steps)

    def _line(
        self,
        position: int,
        rule: Rule,
        part: Part,
        line: int,
        clause: Clause,
        bound: Bound,
        within: str = "",
        index: Index | None = None,
    ) -> CompiledLine | None:
        index = index or self.index

        def problem(slot: str, message: str) -> None:
            self.problems.append(Problem(position, rule.name, part, line, slot, message))

        for found in bound.problems:
            problem(found.slot, found.message)
        entry = bound.entry
        if entry is None or bound.problems:
            return None
        if clause.of and not entry.holds:
            problem("", f"“{clause.use}” cannot hold lines of its own")
            return None
        compiled = make_step(bound, entry, rule, part, line, within)
        compiled.at = (position, part, line)
        if part == "if" and not within:
            compiled.depends = depends_on(index, self.kind_number, compiled)
        if part == "when":
            for name, argument in compiled.arguments.items():
                about = argument.role if isinstance(argument, RoleArgument | VariableArgument) else None
                if about is not None and about.source == "reference":
                    message = (
                        f"an occasion cannot be about “{about.text}”; name its kind here "
                        "and compare the two in a condition"
                    )
                    problem(name, message)
            for name, formula in compiled.worked_out:
                if formula.roles:
                    problem(name, "an occasion's number cannot speak of objects; use a condition for that")
        self._pair_branches(clause.of, problem)
        inner: list[CompiledLine] = []
        for at, nested in enumerate(clause.of):
            bound_below = bind(index, nested, "condition" if entry.holds == "conditions" else "action")
            made = self._line(position, rule, part, line, nested, bound_below, f"{within}/{at}", index)
            if made is not None:
                inner.append(made)
                if made.entry.derived.waits:
                    problem("", "a wait cannot stand within a repeat or an “if”; put it after")
        compiled.of = tuple(inner)
        compiled.makes = compiled.makes or any(nested.makes for nested in inner)
        if entry.holds == "conditions":
            compiled.roles = tuple(dict.fromkeys((*compiled.roles, *(r for s in inner for r in s.roles))))
            compiled.subject = next((s.subject for s in inner if s.subject), ())
            if not within:
                _turn_round(compiled)
        if part in ("do", "else"):
            compiled.own = effect_on_itself(entry, compiled.arguments, lambda whose: _kinds_of(index, whose))
        return compiled

    def _unpaired(self, rule: Rule, part: Part, line: int, clause: Clause, position: int) -> None:
        if _is_branch(clause, "otherwise"):
            self.problems.append(Problem(position, rule.name, part, line, "", NO_IF))

    def _pair_branches(self, clauses: tuple[Clause, ...], problem: Callable[[str, str], None]) -> None:
        for at, clause in enumerate(clauses):
            if _is_branch(clause, "otherwise") and (at == 0 or not _is_branch(clauses[at - 1], "if")):
                problem("", NO_IF)

    def _message_names(self) -> dict[str, int]:
        names: dict[str, int] = {}
        for rule in self.rules:
            for name in rule.named.messages:
                names.setdefault(name, len(names))
        return names

    def _name_writes(self, before: Program | None) -> None:
        """Record on each line the variables it writes. Lines reused from the previous program have them already."""
        known = {id(rule.named) for rule in before.rules} if before is not None else set()
        for rule in self.rules:
            if id(rule.named) in known or not rule.named.written:
                continue
            for line in steps_of((*rule.do, *rule.else_)):
                line.writes = {
                    (a.key, a.role is not None): (
                        a.name,
                        (whose(a), a.name),
                    )
                    for a in line.arguments.values()
                    if isinstance(a, VariableArgument)
                }
