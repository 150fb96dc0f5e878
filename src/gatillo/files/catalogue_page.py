"""The reference page of the catalogue, drawn from its declarations."""

from __future__ import annotations

from gatillo.catalogue import CATALOGUE, Entry
from gatillo.catalogue.cards.graph_cards import CARDS, Card
from gatillo.catalogue.declare.subjects import SUBJECTS, in_order
from gatillo.formula.function_table import FUNCTIONS

_GROUPS = {
    "occasion": ("Occasions", "*when*: what lets a rule be looked at, and the matches it begins with."),
    "condition": ("Conditions", "*if*: each drops matches, or brings a new role in."),
    "pick": ("Picks", "*if*: of the matches, which are kept."),
    "action": ("Actions", "*do* and *else*: each over all matches, one effect for each."),
    "behaviour": ("Behaviours", "Ready-made continuing motion that a kind has."),
}


def _sentence(entry: Entry) -> str:
    return "".join(text if slot is None else f"*{slot}*" for text, slot in entry.parts())


def _entry(entry: Entry) -> list[str]:
    lines = [f"**{_sentence(entry)}** — `{entry.name}`", "", entry.help, "", *_also(entry)]
    for name, slot in entry.slots.items():
        first = f"; first `{slot.default}`" if slot.default else ""
        options = f": {', '.join(slot.options)}" if slot.options else ""
        lines.append(f"- *{name}*: {slot.hint}{options}{first}")
    return [*lines, ""] if entry.slots else lines


def _also(said: Entry | Card) -> list[str]:
    """Return the line with the further wordings of a sentence."""
    if not said.wordings:
        return []
    ways = (f"`{'not: ' if one.negated else ''}{one.text}`" for one in said.wordings)
    return [f"Also typed: {' · '.join(ways)}", ""]


def _card(card: Card) -> list[str]:
    inputs, outputs = card.ports.inputs, card.ports.outputs
    ways = f"{', '.join(inputs) or '–'} → {', '.join(outputs) or '–'}" + (
        "; gives a value" if card.value else ""
    )
    lines = [f"**{card.sentence}** — `{card.name}` ({ways})", "", card.help, "", *_also(card)]
    for name, slot in card.slots.items():
        options = f": {', '.join(slot.options)}" if slot.options else ""
        first = f"; first `{slot.default}`" if slot.default else ""
        lines.append(f"- *{name}*: {slot.hint}{options}{first}")
    return [*lines, ""] if card.slots else lines


def catalogue_page() -> str:
    """Return the page as Markdown."""
    lines = [
        "# The catalogue",
        "",
        "What rules can be made of. This page is made from the declarations by `make schema`.",
        "",
        "*Also typed* lists further wordings by which a typed line finds the sentence ([typed lines](typed-lines.md)): `a/b` are words of which "
        "one is meant, `[a]` may be left out, and *not:* says the opposite of the sentence.",
        "",
    ]
    for group, (title, what) in _GROUPS.items():
        entries = [e for e in CATALOGUE.values() if e.group == group]
        lines += [f"## {title}", "", f"{what} {len(entries)} of them.", ""]
        for subject in sorted({e.subject for e in entries}, key=in_order):
            lines += [f"### {SUBJECTS[subject].title.capitalize()}", ""]
            for entry in entries:
                if entry.subject == subject:
                    lines += _entry(entry)
    lines += [
        "## Cards that only graphs have",
        "",
        f"How they run: [graphs.md](graphs.md). {len(CARDS)} of them.",
        "",
    ]
    for card in CARDS.values():
        lines += _card(card)
    lines += ["## Functions in formulas", "", "| written | gives | |", "| --- | --- | --- |"]
    lines += [f"| `{f.written}` | {f.result} | {f.help} |" for f in FUNCTIONS.values()]
    lines.append(
        "| `if(c, a, b)` | same | a where c holds, else b; only the one that is needed is worked out. |"
    )
    return "\n".join(lines) + "\n"
