"""The rules of a level as a page for people."""

from __future__ import annotations

from gatillo.formula.values import write_out
from gatillo.graphs.outline import outline
from gatillo.language.sentence import mode_words, sentence
from gatillo.level.model import Graph, Level, OwnBehaviour, OwnSetting, Rule, Section, Value
from gatillo.level.own_behaviours import kinds_with


def as_markdown(level: Level) -> str:
    """Return the rules of a level as readable Markdown, in their order, with what its trials expect."""
    lines = [f"# {level.name}", ""]
    if level.note:
        lines += [level.note, ""]
    number = 0
    for entry in level.order:
        if isinstance(entry, Section):
            lines += [f"## {entry.name}" + ("" if entry.on else " (switched off)"), ""]
            if entry.note:
                lines += [entry.note, ""]
            if entry.own is not None:
                lines += _behaviour_lines(level, entry.name, entry.own)
        for rule in entry.rules if isinstance(entry, Section) else (entry,):
            number += 1
            lines += _graph_lines(number, rule) if isinstance(rule, Graph) else _rule_lines(number, rule)
    for trial in level.trials:
        lines += [f"## Trial: {trial.name}", "", f"{trial.length:g} s, seed {trial.seed}.", ""]
        lines += [f"- {e.sentence()}" for e in trial.expectations]
        lines.append("")
    return "\n".join(lines).rstrip() + "\n"


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


def _rule_lines(number: int, rule: Rule) -> list[str]:
    mode = mode_words(rule)
    lines = [
        f"{number}. **{rule.name}**" + ("" if rule.on else " (switched off)") + (f" — {mode}" if mode else "")
    ]
    for label, clauses in (("when", rule.when), ("if", rule.if_)):
        for at, clause in enumerate(clauses):
            word = label if at == 0 else {"when": "or when", "if": "and"}[label]
            lines.append(f"   - *{word}* {sentence(clause)}")
    for label, clauses in (("do", rule.do), ("else", rule.else_)):
        lines += [f"   - *{label}* {at}. {sentence(clause)}" for at, clause in enumerate(clauses, 1)]
    if rule.note:
        lines.append(f"   - {rule.note}")
    return [*lines, ""]


def _graph_lines(number: int, graph: Graph) -> list[str]:
    """Return a graph's cards in the order in which they run: from each occasion, depth first, along its wires."""
    each = f" — for each {graph.for_}" if graph.for_ else ""
    lines = [f"{number}. **{graph.name}**" + ("" if graph.on else " (switched off)") + each]
    lines += [f"   - {line}" for line in outline(graph)]
    if graph.note:
        lines.append(f"   - {graph.note}")
    return [*lines, ""]
