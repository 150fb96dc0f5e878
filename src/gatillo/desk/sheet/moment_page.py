"""What the sheet says about the moment at the cursor, as rich text."""

from __future__ import annotations

from html import escape
from typing import Any

import numpy as np

from gatillo.catalogue.cards.graph_cards import sentence_of
from gatillo.desk.looks.theme import kind_colour, theme
from gatillo.desk.session.moment_words import changes_words, ordinal, who_words
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet.questions import about_firing, ask, value_link
from gatillo.desk.writing.sentence_layout import kind_of
from gatillo.formula.formula import column_key
from gatillo.formula.values import write_number, write_out
from gatillo.graphs.outline import card_words, wired_slots
from gatillo.inspect.finding import Finding
from gatillo.inspect.shown_looks import shown_looks
from gatillo.language.sentence import pieces
from gatillo.level.model import Clause, Graph, Reference, Rule, Variable
from gatillo.level.naming import token
from gatillo.level.roles import type_of
from gatillo.sim.trace.trace import Way
from gatillo.sim.world.world import World


def quiet(words: str) -> str:
    """Return words in a quiet colour, as markup."""
    return f'<span style="color:{theme().quiet.name()}">{words}</span>'


def heading(words: str) -> str:
    """Return a heading, as markup."""
    return f'<p style="margin:16px 0 5px 0; color:{theme().quiet.name()}"><b>{escape(words)}</b></p>'


def table(rows: list[tuple[str, str]]) -> str:
    """Two columns: what, and its value in figures."""
    cells = "".join(
        f'<tr><td style="padding:2px 18px 2px 0; color:{theme().quiet.name()}">{what}</td>'
        f'<td style="padding:2px 0"><tt>{value}</tt></td></tr>'
        for what, value in rows
    )
    return f"<table cellspacing='0'>{cells}</table>"


def clause_html(bench: Workbench, clause: Clause) -> str:
    """Return a clause as rich text, roles in their kinds' colours."""
    text = ""
    for piece in pieces(clause):
        words = escape(piece.text)
        if piece.sort == "role":
            kind = kind_of(bench.program.index, piece.text)
            colour = kind_colour(kind.colour).name() if kind else theme().ink.name()
            words = f'<b style="color:{colour}">{words}</b>'
        elif piece.sort == "value":
            words = f"<tt>{words}</tt>"
        text += words
    return text


def rule_html(bench: Workbench, rule: Rule) -> str:
    """Return a rule's lines, the actions numbered."""
    lines = []
    for label, joint, clauses in (
        ("when", "or when", rule.when),
        ("if", "and", rule.if_),
        ("do", "", rule.do),
        ("else", "", rule.else_),
    ):
        for at, clause in enumerate(clauses):
            word = label if at == 0 else joint
            number = f"{at + 1}&nbsp;" if label in ("do", "else") else ""
            lines.append(
                f'<tr><td style="padding:3px 10px 3px 0; color:{theme().quiet.name()}"><b>{word}</b></td>'
                f'<td style="padding:3px 0"><b style="color:{theme().fires.name()}">{number}</b>{clause_html(bench, clause)}</td></tr>'
            )
    return f"<table cellspacing='0'>{''.join(lines)}</table>"


def firing_html(bench: Workbench) -> str:
    """Return the firing at the cursor: which rule, for which, and what it then did."""
    cursor, run = bench.cursor, bench.run
    firings = run.trace.firings_at(cursor.tick)
    # within a firing, it is that one
    position = cursor.position + (cursor.step > 0)
    if not 1 <= position <= len(firings):
        return faults_html(bench)
    firing = firings[position - 1]
    rule = run.program.rules[firing.rule_index].source
    t = theme()
    way = {
        Way.RESUMED: " It went on after its wait.",
        Way.ELSE: " Its conditions failed, so “else” was done.",
    }.get(firing.way, "")
    many = f" for {firing.matches} matches" if firing.matches > 1 else ""
    text = heading(
        f"{ordinal(firing.position)} of {len(firings)} firing{'s' if len(firings) > 1 else ''} of tick {cursor.tick}"
    )
    text += f'<p style="margin:2px 0"><span style="color:{t.fires.name()}">●</span> <b>“{escape(rule.name)}”</b> fired{many}.{way}</p>'
    witnessed = bench.moment.witnessed()
    if len(witnessed) < position:
        return text
    seen = witnessed[position - 1]
    assert seen.world is not None
    if seen.ids:
        text += f'<p style="margin:2px 0">{escape(who_words(seen.world, seen))}</p>'
    text += about_firing(cursor.tick, position)
    lines = [
        f'<tr><td style="padding:2px 8px 2px 0; color:{t.fires.name()}"><b>{number}</b></td><td>{escape(words)}</td></tr>'
        for number, words in changes_words(seen)
    ]
    if lines:
        text += heading("It then") + f"<table cellspacing='0'>{''.join(lines)}</table>"
    return text + faults_html(bench, firing.rule_index)


def faults_html(bench: Workbench, rule_index: int | None = None) -> str:
    """Return the faults at the cursor: of a rule's firing, or of all that did not fire."""
    cursor, run = bench.cursor, bench.run
    fired = {firing.rule_index for firing in run.trace.firings_at(cursor.tick)}
    found = [
        f.sentence
        for f in run.trace.faults
        if f.tick == cursor.tick
        and (f.rule_index == rule_index if rule_index is not None else f.rule_index not in fired)
    ]
    colour = theme().fault.name()
    return "".join(f'<p style="color:{colour}">▲ {escape(sentence)}</p>' for sentence in dict.fromkeys(found))


def object_html(bench: Workbench, object_id: int) -> str:
    """Return an object's values at the cursor."""
    world = bench.world
    row, scenery = world.row_of_id(object_id), bench.program.index.scenery
    when = f"at tick {bench.cursor.tick}" if bench.cursor.tick else "at the start"
    if row < 0:
        gone = "It is not there at this tick: removed, or not yet created."
        if any(thing.id == object_id for thing in bench.level.objects if thing.kind in scenery):
            gone = "It is scenery: it is only drawn and takes no part in runs."
        return heading(f"Values {when}") + quiet(gone)
    kind = world.program.kinds[world.kind.item(row)]
    name = world.name_of(object_id)
    rows: list[tuple[str, str]] = [
        (
            value_link(name, "x", "x, y") if object_id in world.program.names else "x, y",
            f"{_short(world.x.item(row))}, {_short(world.y.item(row))}",
        ),
        ("facing", f"{_short(world.angle.item(row) + kind.drawn_facing)}°"),
        ("speed", f"{_short(float(np.hypot(world.vx.item(row), world.vy.item(row))))} a second"),
    ]
    for variable in kind.variables:
        value = world.variables[column_key(token(variable.name), type_of(variable.value))][row]
        known = object_id in world.program.names
        words = value_link(name, variable.name, variable.name) if known else escape(variable.name)
        rows.append((words, escape(_value(world, variable, value))))
    look = shown_looks(world).get(row)
    if look is not None:
        rows.append(("look", escape(look.name)))
    saying = world.display.sayings.get(object_id)
    if saying is not None:
        rows.append(("says", escape(saying[0])))
    there = ask(f"there:{object_id}", "Why is it there?") if object_id not in world.program.names else ""
    return heading(f"Values {when}") + table(rows) + there


def variables_html(bench: Workbench) -> str:
    """Return the level's variables at the cursor, as markup."""
    world, level = bench.world, bench.level
    if not level.variables:
        return ""
    rows = [
        (
            value_link("level", v.name, f"level.{v.name}"),
            escape(_value(world, v, world.level.get(token(v.name), v.value))),
        )
        for v in level.variables
    ]
    when = f"Variables at tick {bench.cursor.tick}" if bench.cursor.tick else "Variables at the start"
    return heading(when) + table(rows)


def verdicts_html(bench: Workbench) -> str:
    """Return what the trial expects, and what came of it."""
    text, t = "", theme()
    if bench.trial.expectations:
        text += heading(f"Expectations of “{bench.trial.name}”")
        if not bench.shown.verdicts:
            text += quiet("checking …")
        marks = {"held": ("✓", t.held), "failed": ("✕", t.fault), "could not be judged": ("?", t.finding)}
        lines = []
        for verdict in bench.shown.verdicts:
            mark, colour = marks[verdict.outcome]
            words = escape(verdict.sentence().removesuffix(": held"))
            lines.append(
                f'<tr><td style="padding:2px 8px 2px 0; color:{colour.name()}"><b>{mark}</b></td><td style="padding:2px 0">{words}</td></tr>'
            )
        text += f"<table cellspacing='0'>{''.join(lines)}</table>"
    return text


def _place(finding: Finding) -> str:
    return f"card {finding.card}" if finding.card else f"{finding.part} {finding.line + 1}"


def card_html(bench: Workbench, graph: Graph, number: int) -> str:
    """Return a card of a graph: what it does, how often it ran, and by the cursor."""
    node = next((n for n in graph.nodes if n.id == number), None)
    rule = next((t for t in bench.run.program.rules if t.source.id == graph.id and t.graph is not None), None)
    if node is None or rule is None or rule.graph is None:
        return ""
    entry = sentence_of(node.use)
    text = heading(f"Card {number}")
    text += f'<p style="margin:2px 0"><b>{escape(card_words(node, wired_slots(graph).get(number)))}</b></p>'
    if entry is not None:
        text += quiet(escape(entry.help))
    ticks, runs = bench.run.trace.card_columns()
    inner = [n for n, origin in rule.graph.origins.items() if origin.card == number]
    mine = (runs[:, 2] == rule.index) & np.isin(runs[:, 3], [number, *inner])
    many = len(np.unique(ticks[mine]))
    if not many:
        return text + '<p style="margin:4px 0">It does not run in this trial.</p>'
    first = int(ticks[mine][0]) / bench.run.program.rate
    words = f"It runs in <b>{many}</b> tick{'s' if many != 1 else ''} of this trial, first at {first:.3f} s"
    here = [
        r
        for r in bench.run.trace.cards_at(bench.cursor.tick)
        if r.rule_index == rule.index and r.card == number
    ]
    if here:
        matches = sum(r.matches for r in here)
        words += f"; in this tick for {matches} match{'es' if matches != 1 else ''}"
    asks = (
        f'<p style="margin:4px 0">{ask(f"card:{graph.id}:{number}", "Why did it run?")}</p>' if here else ""
    )
    return text + f'<p style="margin:4px 0">{words}.</p>{asks}'


def rule_counts_html(bench: Workbench, rule_id: int) -> str:
    """Return how often a rule fires in this trial, in plain words."""
    rule = next((t for t in bench.run.program.rules if t.source.id == rule_id), None)
    if rule is None:
        return ""
    text = "".join(
        f'<p style="margin:4px 0; color:{theme().finding.name()}">▲ {escape(_place(f))}: {escape(f.message)}'
        + (f"<br>{quiet(escape(f.repair_label) + ' — Ctrl+J does it')}" if f.repair else "")
        + "</p>"
        for f in bench.shown.findings_of(rule_id)
    )
    if any(p.rule_index == rule.index for p in bench.program.problems):
        return text + quiet("It does not run until this is fixed.")
    if not rule.on:
        return text + quiet("Switched off: it does not run.")
    faults = {s: n for (at, _, _, s), n in bench.run.trace.fault_counts().items() if at == rule.index}
    colour = theme().fault.name()
    text += "".join(
        f'<p style="margin:4px 0; color:{colour}">▲ {escape(sentence)}'
        + (f" ({many} times)" if many > 1 else "")
        + "</p>"
        for sentence, many in list(faults.items())[:5]
    )
    tick, _, turns, matches, way = bench.run.trace.columns()
    mine = (turns == rule.index) & ((way & 7) == Way.DO)
    count = int(mine.sum())
    if not count:
        return text + quiet("It does not fire in this trial.")
    first = int(tick[mine][0])
    total = int(matches[mine].sum())
    often = f"<b>{count}</b> time{'s' if count != 1 else ''} in this trial, first at {first / bench.program.rate:.3f} s"
    lead = {
        "each tick": "It fires in each tick in which this holds",
        "on becoming true": "It fires when this becomes true",
        "first time only": "It fires the first time only",
    }[rule.source.fires]
    lead = (
        "It fires for each occasion that leads to an action"
        if rule.graph is not None and rule.graph.drawn is None
        else lead
    )
    words = f"{lead}: {often}"
    if total != count:
        words += f", for {total} matches in all"
    return text + f'<p style="margin:4px 0">{words}.</p>'


def _value(world: World, variable: Variable, value: Any) -> str:
    """Return a variable's value at the cursor; an object by its name."""
    if isinstance(value, Reference):
        # the run that is shown does not know the variable yet
        return value.to or "nobody"
    if isinstance(value, tuple):
        return f"({_short(value[0])}, {_short(value[1])})"
    if isinstance(variable.value, Reference):
        return world.name_of(int(value)) if value else "nobody"
    return _short(value)


def _short(value: Any) -> str:
    if isinstance(value, float | np.floating):
        return write_number(round(float(value), 2))
    if isinstance(value, complex):
        return f"({_short(value.real)}, {_short(value.imag)})"
    return str(write_out(value))
