"""Links in the sheet that ask about the run, and what following one does."""

from __future__ import annotations

from collections.abc import Callable
from html import escape
from urllib.parse import quote, unquote

from gatillo.desk.looks.theme import theme
from gatillo.desk.session.workbench import Workbench
from gatillo.level.naming import token
from gatillo.sim.trace.trace import Way


def ask(link: str, words: str) -> str:
    """Return a link that asks something, as markup."""
    colour = theme().cursor.name()
    return f'<a href="{link}" style="color:{colour}; text-decoration:none">{escape(words)}</a>'


def about_firing(tick: int, position: int) -> str:
    """Return what can be asked about a firing, as markup."""
    links = (ask(f"why:{tick}:{position}", "Why?"), ask(f"caused:{tick}:{position}", "What did it cause?"))
    return f'<p style="margin:4px 0">{" &nbsp; ".join(links)}</p>'


def about_rule(bench: Workbench, rule_id: int) -> str:
    """Return what can be asked about a rule that has not fired at the cursor, as markup."""
    run, tick = bench.run, bench.cursor.tick
    rule = next((t for t in run.program.rules if t.source.id == rule_id), None)
    if rule is None or not run.done:
        return ""
    links = []
    fired = [f for f in run.trace.firings_at(tick) if f.rule_index == rule.index and f.way is Way.DO]
    if 1 <= tick <= run.done and not fired:
        links.append(ask(f"whynot:{rule_id}:{tick}", f"Why did it not fire at tick {tick}?"))
    elif fired:
        links.append(ask(f"why:{tick}:{fired[0].position}", f"Why did it fire at tick {tick}?"))
    if not run.trace.has_fired(rule.index):
        links.append(ask(f"never:{rule_id}", "Why never?"))
    return "".join(f'<p style="margin:4px 0">{link}</p>' for link in links)


def value_link(owner: str, name: str, words: str) -> str:
    """Return a value's name as a link that asks why it is what it is."""
    return ask(f"value:{quote(f'{token(owner)}.{token(name)}')}", words)


def follow(bench: Workbench, link: str) -> None:
    """Ask what a link asks."""
    answers = bench.answers
    what, _, rest = link.partition(":")
    if what == "value":
        answers.why_value(unquote(rest))
        return
    numbers = [int(part) for part in rest.split(":") if part.lstrip("-").isdigit()]
    asks: dict[str, Callable[..., None]] = {
        "why": answers.why,
        "caused": answers.caused,
        "whynot": answers.why_not,
        "never": answers.why_never,
        "there": answers.why_there,
        "card": answers.why_card,
    }
    if what == "back":
        answers.show_again()
    elif what in asks:
        asks[what](*numbers)
