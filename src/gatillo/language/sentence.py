"""Rules as sentences: typed pieces for the window to typeset, and plain text for everything else."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from gatillo.catalogue.cards.graph_cards import sentence_of
from gatillo.level.graphs import OWN
from gatillo.level.model import Clause, Rule

Sort = Literal["plain", "role", "value", "name", "choice", "unknown"]


@dataclass(frozen=True, slots=True)
class Piece:
    """A piece of a sentence. `slot` names the slot it fills, "" for plain words."""

    text: str
    sort: Sort = "plain"
    slot: str = ""
    empty: bool = False
    """A slot with nothing in it yet."""


def pieces(clause: Clause, *, alone: bool = False) -> list[Piece]:
    """Return the sentence of one clause, its slots filled in; `alone` without the lines within it."""
    entry = sentence_of(clause.use)
    if clause.use == OWN:
        # an own node is called what it is called
        given = [
            Piece(f", {n} = ") if k == 0 else Piece(t, "value", n)
            for n, t in clause.slots.items()
            if n != "graph"
            for k in (0, 1)
        ]
        return [Piece(clause.slots.get("graph", "") or "…", "name"), *given]
    if entry is None:
        return [Piece(f"“{clause.use}”", "unknown")]
    found: list[Piece] = [Piece("not: ")] if clause.negated else []
    for text, slot in entry.parts():
        if slot is None:
            found.append(Piece(text))
            continue
        filled = clause.slots.get(slot, entry.slots[slot].default)
        kind, empty = entry.slots[slot].kind, not filled
        if kind.holds == "text":
            filled = f"“{filled}”"
        found.append(Piece(filled or "…", kind.look, slot, empty))
    if clause.of and not alone:
        # lines within a line are read, not edited, in one sentence
        found.append(Piece(f" ({'; '.join(map(sentence, clause.of))})"))
    return found


def sentence(clause: Clause) -> str:
    """Return one clause in plain words."""
    return "".join(piece.text for piece in pieces(clause))


def mode_words(rule: Rule) -> str:
    """Return how a rule's firing is limited, in words; empty when it is not."""
    words = []
    if rule.fires == "on becoming true":
        words.append("on becoming true")
    elif rule.fires == "first time only":
        words.append("first time only" + (" for each object" if rule.first_per == "object" else ""))
    if rule.cooldown:
        words.append(
            f"then rests {rule.cooldown:g} s" + (" for each object" if rule.cooldown_per == "object" else "")
        )
    if rule.once_for_all:
        words.append("once for all matches")
    if rule.one_at_a_time:
        words.append("one match at a time")
    return ", ".join(words)


def firing_sentence(rule: Rule) -> str:
    """Return how a rule's firing is limited, as a sentence; empty when it is not."""
    words = mode_words(rule)
    if not words:
        return ""
    return f"Fires{', ' if words.startswith('then') else ' '}{words.replace('first time only', 'the first time only')}."


def rule_sentence(rule: Rule) -> str:
    """Return a whole rule in one line of plain words."""
    words = []
    for label, clauses, joint in (
        ("when", rule.when, " or "),
        ("if", rule.if_, " and "),
        ("do", rule.do, "; "),
        ("else", rule.else_, "; "),
    ):
        if clauses:
            words.append(f"{label} {joint.join(map(sentence, clauses))}")
    mode = mode_words(rule)
    return "  ".join(words) + (f"  ({mode})" if mode else "")
