"""The rules of a level as a page for people."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from gatillo.formula.values import write_out
from gatillo.graphs.outline import outline
from gatillo.language.sentence import mode_words, sentence
from gatillo.level.model import Graph, Level, OwnBehaviour, OwnSetting, Rule, Section, Value
from gatillo.level.own_behaviours import kinds_with


@dataclass(frozen=True, slots=True)
class Target:
    """What a line of the page is about: a rule or graph by its id, and of it a line by its part and number, or a card."""

    rule: int
    part: str = ""
    line: int = 0
    """From 0."""
    card: int = 0


Line = tuple[str, Target | None]


def as_markdown(level: Level) -> str:
    """Return the rules of a level as readable Markdown, in their order, with what its trials expect."""
    return "\n".join(text for text, _ in page_lines(level)).rstrip() + "\n"


def page_lines(level: Level) -> list[Line]:
    """Return the lines of the page, each with what it is about. A text never holds a line break."""
    found: list[Line] = []
    for text, target in _page_lines(level):
        # a note or a text of a rule may have several lines
        first, *more = text.splitlines() or [""]
        found += [(first, target), *((line, target) for line in more)]
    return found


def _page_lines(level: Level) -> Iterator[Line]:
    yield from _plain([f"# {level.name}", ""])
    if level.note:
        yield from _plain([level.note, ""])
    number = 0
    for entry in level.order:
        if isinstance(entry, Section):
            yield from _plain([f"## {entry.name}" + ("" if entry.on else " (switched off)"), ""])
            if entry.note:
                yield from _plain([entry.note, ""])
            if entry.own is not None:
                yield from _plain(_behaviour_lines(level, entry.name, entry.own))
        for rule in entry.rules if isinstance(entry, Section) else (entry,):
            number += 1
            yield from _graph_lines(number, rule) if isinstance(rule, Graph) else _rule_lines(number, rule)
    for trial in level.trials:
        yield from _plain([f"## Trial: {trial.name}", "", f"{trial.length:g} s, seed {trial.seed}.", ""])
        yield from _plain([f"- {e.sentence()}" for e in trial.expectations])
        yield "", None


def _plain(lines: list[str]) -> Iterator[Line]:
    """Yield lines that are about no rule."""
    return ((line, None) for line in lines)


def _behaviour_lines(level: Level, name: str, own: OwnBehaviour) -> list[str]:
    having = kinds_with(level, name)
    lines = [
        f"An own behaviour of {', '.join(having) or 'no kind yet'}. “self” is each object that has it.",
        "",
    ]
    if own.tags:
        lines += [f"Kinds with the tag {' or '.join(own.tags)} have it.", ""]
    if own.sentence:
        lines += [own.sentence, ""]
    for setting in own.settings:
        lines.append(f"- {setting.name}: {_value(setting.value)}" + _range(setting))
        for kind in level.kinds:
            for use in kind.own:
                if use.use == name and setting.name in use.values:
                    lines[-1] += f"; {kind.name} {_value(use.values[setting.name])}"
    return [*lines, ""] if own.settings else lines


def _value(value: Value) -> str:
    return str(write_out(complex(*value) if isinstance(value, tuple) else value))


def _range(setting: OwnSetting) -> str:
    low, high = setting.least, setting.most
    if low is None and high is None:
        return ""
    return (
        f" (from {low:g} to {high:g})"
        if low is not None and high is not None
        else (f" (at least {low:g})" if low is not None else f" (at most {high:g})")
    )


def _rule_lines(number: int, rule: Rule) -> Iterator[Line]:
    mode = mode_words(rule)
    head = (
        f"{number}. **{rule.name}**" + ("" if rule.on else " (switched off)") + (f" — {mode}" if mode else "")
    )
    yield head, Target(rule.id)
    for label, clauses in (("when", rule.when), ("if", rule.if_)):
        for at, clause in enumerate(clauses):
            word = label if at == 0 else {"when": "or when", "if": "and"}[label]
            yield f"   - *{word}* {sentence(clause)}", Target(rule.id, label, at)
    for label, clauses in (("do", rule.do), ("else", rule.else_)):
        for at, clause in enumerate(clauses):
            yield f"   - *{label}* {at + 1}. {sentence(clause)}", Target(rule.id, label, at)
    if rule.note:
        yield f"   - {rule.note}", Target(rule.id)
    yield "", None


def _graph_lines(number: int, graph: Graph) -> Iterator[Line]:
    """Yield a graph's cards in the order in which they run: from each occasion, depth first, along its wires."""
    each = f" — for each {graph.for_}" if graph.for_ else ""
    head = f"{number}. **{graph.name}**" + ("" if graph.on else " (switched off)") + each
    yield head, Target(graph.id)
    for line in outline(graph):
        card = re.match(r"\s*(?:[^.]*: )?(\d+)\. ", line)
        yield f"   - {line}", Target(graph.id, card=int(card[1])) if card else Target(graph.id)
    if graph.note:
        yield f"   - {graph.note}", Target(graph.id)
    yield "", None
