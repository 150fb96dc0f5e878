"""The rows of the order list: what each says, on its left half and in its lane."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from gatillo.catalogue import CATALOGUE
from gatillo.catalogue.cards.graph_cards import ports_of
from gatillo.desk.session.replay import Watch
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.writing.words import Word
from gatillo.graphs.outline import card_words, outline_cards, wired_slots
from gatillo.inspect.expectations import Verdict
from gatillo.language.sentence import Piece, mode_words, pieces
from gatillo.level.edits import Part
from gatillo.level.model import Clause, Graph, KeyBar, Logic, Rule, Section
from gatillo.level.own_behaviours import kinds_with

MOST_KEPT = 5_000
FEW_KEYS = 3
"""Up to so many keys of an input have a row each."""
MOST_INDENTED = 12
"""Cards that hang deeper in a graph stand no farther to the right."""
RowSort = Literal[
    "input", "section", "rule", "graph", "note", "line", "card", "more", "new", "watch", "expectation"
]


@dataclass(slots=True)
class Row:
    """One row. `turn` is the position in the order list of a rule (from 0)."""

    sort: RowSort
    words: list[Word] = field(default_factory=list)
    number: str = ""
    on: bool = True
    rule_index: int | None = None
    rule: Rule | None = None
    graph: Graph | None = None
    section: Section | None = None
    rule_indices: tuple[int, ...] = ()
    """For a folded section: the rules whose lanes are merged here."""
    folded: bool = True
    bars: tuple[KeyBar, ...] = ()
    keys: int = 0
    """For a row of all the keys of an input: how many there are."""
    pale: bool = False
    """For an input: that of the trial's script, while a take is shown or played."""
    watch: Watch | None = None
    verdict: Verdict | None = None
    problem: str = ""
    part: Part | None = None
    line: int = 0
    """For a line: the part it belongs to, and its number there."""
    within: tuple[int, ...] = ()
    writing: bool = False
    """For a new rule's row: whether it is being typed."""
    expectation: int = -1
    card: int = 0
    """For a card of a graph: its number."""

    @property
    def entry(self) -> Logic | None:
        """The rule or the graph that the row belongs to."""
        return self.rule or self.graph


def _clause_words(found: list[Piece], part: Part, line: int, within: tuple[int, ...] = ()) -> list[Word]:
    return [Word(p.text, p.sort, part, line, p.slot, within) for p in found]


_kept: dict[int, tuple[Rule, list[Word]]] = {}
"""Words of rules by their identity; the rule itself is held, so that its identity stays its own."""


def rule_words(rule: Rule) -> list[Word]:
    """Return a rule in one line."""
    kept = _kept.get(id(rule))
    if kept is not None and kept[0] is rule:
        return kept[1]
    if len(_kept) > MOST_KEPT:
        _kept.clear()
    words = _rule_words(rule)
    _kept[id(rule)] = (rule, words)
    return words


def _rule_words(rule: Rule) -> list[Word]:
    words: list[Word] = []
    parts: tuple[tuple[Part, str, tuple], ...] = (  # type: ignore[type-arg]
        ("when", "or", rule.when),
        ("if", "and", rule.if_),
        ("do", "", rule.do),
        ("else", "", rule.else_),
    )
    for part, joint, clauses in parts:
        for line, clause in enumerate(clauses):
            if line == 0:
                words.append(Word(part, "label"))
            else:
                words.append(Word(joint, "label") if joint else Word(str(line + 1), "count"))
            words += _clause_words(pieces(clause), part, line)
    mode = mode_words(rule)
    if mode:
        words.append(Word(mode, "mode"))
    return words


def _within(
    rule: Rule, rule_index: int, on: bool, clause: Clause, part: Part, line: int, within: tuple[int, ...]
) -> list[Row]:
    """Return the lines within a group or a repeat, each in a row of its own."""
    rows: list[Row] = []
    joint = {"any": "or", "all": "and", "none": "nor"}.get(
        CATALOGUE[clause.use].joins if clause.use in CATALOGUE else "", ""
    )
    for at, inner in enumerate(clause.of):
        path = (*within, at)
        lead = Word("    " * len(path) + (joint if joint and at else "·"), "label")
        words = [lead, *_clause_words(pieces(inner, alone=True), part, line, path)]
        rows.append(
            Row("line", words, rule_index=rule_index, rule=rule, on=on, part=part, line=line, within=path)
        )
        rows += _within(rule, rule_index, on, inner, part, line, path)
    return rows


def _unfolded(rule: Rule, rule_index: int, on: bool, problems: dict[tuple[int, str, int], str]) -> list[Row]:
    rows: list[Row] = []
    if rule.note:
        rows.append(Row("note", [Word(rule.note, "mode")], rule=rule, on=on))
    parts: tuple[tuple[Part, str, tuple], ...] = (  # type: ignore[type-arg]
        ("when", "or when", rule.when),
        ("if", "and", rule.if_),
        ("do", "", rule.do),
        ("else", "", rule.else_),
    )
    for part, joint, clauses in parts:
        for line, clause in enumerate(clauses):
            label = Word(part if line == 0 else joint, "label")
            count = [Word(str(line + 1), "count")] if part in ("do", "else") else []
            words = [label, *count, *_clause_words(pieces(clause, alone=True), part, line)]
            problem = problems.get((rule_index, part, line), "")
            rows.append(
                Row(
                    "line",
                    words,
                    rule_index=rule_index,
                    rule=rule,
                    on=on,
                    part=part,
                    line=line,
                    problem=problem,
                )
            )
            rows += _within(rule, rule_index, on, clause, part, line, ())
    more = [Word("+ line", "mode"), Word("type it: any letter begins", "hint")]
    rows.append(Row("more", more, rule=rule, on=on))
    return rows


def _graph_row(graph: Graph, rule_index: int, on: bool, problem: str, folded: bool) -> Row:
    each = f" for each {graph.for_}" if graph.for_ else ""
    many = len(graph.nodes)
    words = [Word(graph.name, "strong"), Word(f"graph{each}, {many} card{'s' if many != 1 else ''}", "mode")]
    return Row(
        "graph", words, str(rule_index + 1), on, rule_index, graph=graph, problem=problem, folded=folded
    )


def _card_rows(graph: Graph, rule_index: int, on: bool, problems: dict[tuple[int, int], str]) -> list[Row]:
    """Return the cards of a graph that matches come to, in the order in which they run, each with a lane of its own."""
    nodes, wired = {node.id: node for node in graph.nodes}, wired_slots(graph)
    rows: list[Row] = []
    for number, depth, lead in outline_cards(graph):
        node = nodes[number]
        ports = ports_of(node.use)
        if ports is not None and not ports.inputs and not ports.outputs:
            # one that only gives a value
            continue
        words = [Word("  " * min(depth, MOST_INDENTED) + str(number), "count")]
        if lead:
            words.append(Word(lead.strip(), "label"))
        words.append(Word(card_words(node, wired.get(number))))
        problem = problems.get((rule_index, number), "")
        rows.append(
            Row("card", words, rule_index=rule_index, graph=graph, on=on, card=number, problem=problem)
        )
    return rows


NEW = {"+ rule": "new rule", "+ graph": "new graph", "+ section": "new section"}
"""What can be added at the end of the list: the words there, and the command (window/commands.py)."""


def _new_row(*, writing: bool, first: bool) -> Row:
    hint = "or type here"
    if first:
        hint = "When something happens, do something: type it here"
    return Row("new", [*(Word(words, "mode") for words in NEW), Word(hint, "hint")], writing=writing)


def _pressed(bench: Workbench) -> tuple[str, tuple[KeyBar, ...]] | None:
    """Return the name of the take that is shown or played, and its keys; None where the script is shown."""
    if bench.player.playing:
        return "playing", bench.run.script.as_input(bench.run.done).keys
    take = bench.take
    return (f"take {take.number}", take.input.keys) if take is not None else None


def _input_rows(bars: tuple[KeyBar, ...], tag: str, *, folded: bool, pale: bool = False) -> list[Row]:
    """Return the rows of the keys of an input; those of more than a few stand together in one, which can be unfolded."""
    rows: list[Row] = []
    keys: dict[str, list[KeyBar]] = {}
    # by name: while a bar is dragged its row must stay where it is
    for bar in sorted(bars, key=lambda b: b.key):
        keys.setdefault(bar.key, []).append(bar)
    many = len(keys) > FEW_KEYS
    if many:
        named = [Word(tag, "tag"), Word(f"{len(keys)} keys", "strong"), Word(", ".join(keys), "hint")]
        rows.append(
            Row("input", named, bars=bars if folded else (), keys=len(keys), folded=folded, pale=pale)
        )
    if not (many and folded):
        for key, its in keys.items():
            rows.append(Row("input", [Word(tag, "tag"), Word(key, "strong")], bars=tuple(its), pale=pale))
    if not keys and tag != "input":
        rows.append(Row("input", [Word(tag, "tag"), Word("no key is pressed", "hint")], pale=pale))
    return rows


def refresh_input(bench: Workbench, rows: list[Row]) -> bool:
    """Bring the rows of what is being pressed up to date; return False where there must be other rows."""
    pressed = _pressed(bench)
    if pressed is None:
        return False
    shown = [row for row in rows if row.sort == "input" and not row.pale]
    wanted = _input_rows(pressed[1], pressed[0], folded=any(row.keys and row.folded for row in shown))
    if [[w.text for w in row.words] for row in wanted] != [[w.text for w in row.words] for row in shown]:
        return False
    for row, new in zip(shown, wanted, strict=True):
        row.bars = new.bars
    return True


def build_rows(
    bench: Workbench,
    folded_sections: set[str],
    open_rules: set[int],
    new_after: tuple[int | None, str] | None = None,
    inputs_folded: bool = False,
) -> list[Row]:
    """Return all rows, from top to bottom: input, the order list, watches, expectations.

    `new_after` says where a rule is being typed: after a rule, or at the end of a section (“”: of the list). The keys
    of an input of more than a few stand together in one row, which can be unfolded.
    """
    pressed = _pressed(bench)
    rows: list[Row] = []
    if pressed is not None:
        rows += _input_rows(pressed[1], pressed[0], folded=inputs_folded)
    rows += _input_rows(bench.trial.input.keys, "input", folded=inputs_folded, pale=pressed is not None)
    problems: dict[int, str] = {}
    at_lines: dict[tuple[int, str, int], str] = {}
    at_cards: dict[tuple[int, int], str] = {}
    for problem in bench.program.problems:
        problems.setdefault(problem.rule_index, problem.sentence())
        at_lines.setdefault((problem.rule_index, problem.part, problem.line), problem.sentence())
    for finding in bench.shown.findings:
        position = bench.program.index.rule_names.get(finding.rule)
        if position is not None:
            problems.setdefault(position, finding.sentence())
            words = finding.sentence() + (f" Ctrl+J: {finding.repair_label}." if finding.repair else "")
            at_lines.setdefault((position, finding.part, finding.line), words)
            if finding.card:
                at_cards.setdefault((position, finding.card), words)
    rule_index = 0
    for entry, tried in zip(bench.level.order, bench.program.level.order, strict=True):
        if isinstance(entry, Section):
            indices = tuple(range(rule_index, rule_index + len(entry.rules)))
            folded = entry.name in folded_sections
            title = [Word(entry.name, "strong")]
            if entry.own is not None:
                having = kinds_with(bench.level, entry.name)
                title.append(Word(f"behaviour of {', '.join(having) or 'no kind yet'}", "mode"))
            if tried.on != entry.on:
                title.append(Word(f"switched {'on' if tried.on else 'off'} by this trial", "mode"))
            elif not entry.on:
                title.append(Word("switched off", "mode"))
            rows.append(
                Row(
                    "section",
                    title,
                    on=tried.on,
                    section=entry,
                    rule_indices=indices if folded else (),
                    folded=folded,
                )
            )
            if folded:
                rule_index += len(entry.rules)
                continue
            writes_here = new_after is not None and new_after[0] is None and new_after[1] == entry.name
        for rule in entry.rules if isinstance(entry, Section) else (entry,):
            # as the trial has it, which may switch rules and sections
            on = bench.program.rules[rule_index].on
            if isinstance(rule, Graph):
                opened = rule.id in open_rules
                rows.append(_graph_row(rule, rule_index, on, problems.get(rule_index, ""), not opened))
                if opened:
                    rows += _card_rows(rule, rule_index, on, at_cards)
                if new_after is not None and new_after[0] == rule.id:
                    rows.append(_new_row(writing=True, first=False))
                rule_index += 1
                continue
            opened = rule.id in open_rules
            line = [Word(rule.name, "strong")] if opened else rule_words(rule)
            if opened and mode_words(rule):
                line.append(Word(mode_words(rule), "mode"))
            rows.append(
                Row(
                    "rule",
                    line,
                    str(rule_index + 1),
                    on,
                    rule_index,
                    rule,
                    folded=not opened,
                    problem=problems.get(rule_index, ""),
                )
            )
            if opened:
                rows += _unfolded(rule, rule_index, on, at_lines)
            if new_after is not None and new_after[0] == rule.id:
                rows.append(_new_row(writing=True, first=False))
            rule_index += 1
        if isinstance(entry, Section) and writes_here:
            rows.append(_new_row(writing=True, first=False))
    if not any(row.writing for row in rows):
        rows.append(_new_row(writing=new_after is not None, first=not bench.level.order))
    for watch in bench.shown.watches or [Watch(s) for s in bench.trial.watches]:
        rows.append(Row("watch", [Word("watch", "tag"), Word(watch.source, "plain")], watch=watch))
    for at, expectation in enumerate(bench.trial.expectations):
        verdict = bench.shown.verdicts[at] if at < len(bench.shown.verdicts) else None
        label = {None: "expect", "held": "held", "failed": "failed"}.get(
            verdict.outcome if verdict else None, "open"
        )
        rows.append(
            Row(
                "expectation",
                [Word(label, f"tag {label}"), Word(expectation.sentence())],
                verdict=verdict,
                expectation=at,
            )
        )
    return rows
