"""The sheet of a rule: what it says, when it fires and what that means in this trial."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout

from gatillo.catalogue import CATALOGUE
from gatillo.desk.looks.plain import Rich
from gatillo.desk.session.rename_things import take_name
from gatillo.desk.session.workbench import Workbench
from gatillo.desk.sheet import moment_page as words
from gatillo.desk.sheet.form import Form
from gatillo.desk.sheet.own_fields import own_behaviour_fields, take_behaviour_name
from gatillo.level import rule_edits
from gatillo.level.model import Rule, Section
from gatillo.level.roles import all_logic

MODES = (
    ("each tick", "each tick it holds"),
    ("on becoming true", "when it becomes true"),
    ("first time only", "the first time only"),
)
SCOPES = (("rule", "for the rule as a whole"), ("object", "for each object"))
WAITING = (
    ("ignore", "ignores it"),
    ("restart", "restarts its wait"),
    ("stack", "waits a second time"),
)


def rule_page(bench: Workbench, column: QVBoxLayout, rule: Rule) -> None:
    """Fields of a rule."""
    sentence = Rich(words.rule_html(bench, rule))
    sentence.setWordWrap(True)
    column.addWidget(sentence)
    form = Form(bench, column, "rule")

    def put(label: str, **fields: object) -> None:
        level = rule_edits.set_rule(bench.level, rule.id, **fields)
        bench.edit(level, f"{label} of “{rule.name}”", join=f"rule {rule.id} {' '.join(fields)}")

    taken = [entry.name for _, _, entry in all_logic(bench.level) if entry is not rule]
    form.text("name", "name", rule.name, lambda text: take_name(bench, "rule", rule.name, text, taken))
    form.choice("fires", "fires", rule.fires, MODES, lambda mode: put("change when it fires", fires=mode))
    if rule.fires == "first time only":
        form.choice(
            "first time",
            "first-per",
            rule.first_per,
            SCOPES,
            lambda s: put("change when it fires", first_per=s),
        )
    form.number(
        "then rests",
        "cooldown",
        rule.cooldown,
        lambda v: put("change the rest", cooldown=v),
        least=0,
        most=3600,
        step=0.5,
        suffix=" s",
        none="no rest",
    )
    if rule.cooldown:
        form.choice(
            "rests",
            "cooldown-per",
            rule.cooldown_per,
            SCOPES,
            lambda s: put("change the rest", cooldown_per=s),
        )
    form.checks(
        "of several matches",
        form.tick(
            "once",
            rule.once_for_all,
            lambda yes: put("change the matches", once_for_all=yes),
            "act once for all of them",
        ),
        form.tick(
            "one-at-a-time",
            rule.one_at_a_time,
            lambda yes: put("change the matches", one_at_a_time=yes),
            "one after the other, each seeing the last",
        ),
    )
    if any(c.use in CATALOGUE and CATALOGUE[c.use].derived.waits for c in (*rule.do, *rule.else_)):
        form.choice(
            "fires while waiting",
            "waiting",
            rule.while_waiting,
            WAITING,
            lambda w: put("change waiting", while_waiting=w),
        )
    form.text(
        "note",
        "note",
        rule.note,
        lambda text: put("change the note", note=text),
        hint="why this rule is here",
    )


def section_page(bench: Workbench, column: QVBoxLayout, section: Section) -> None:
    """Fields of a section."""
    form = Form(bench, column, "section")
    taken = [e.name for e in bench.level.order if isinstance(e, Section) and e is not section]

    def put(label: str, **fields: object) -> None:
        bench.edit(
            rule_edits.set_section(bench.level, section.name, **fields), f"{label} of “{section.name}”"
        )

    form.text(
        "name",
        "name",
        section.name,
        lambda text: (
            take_behaviour_name(bench, section.name, text, taken)
            if section.own is not None
            else take_name(bench, "section", section.name, text, taken)
        ),
    )
    form.text(
        "note",
        "note",
        section.note,
        lambda text: put("change the note", note=text),
        hint="what these rules do",
    )
    form.check("runs", "on", section.on, lambda yes: put("switch", on=yes), words="switched on")
    own_behaviour_fields(form, section)
