"""Writing rules in the order list: new rules, new lines, and what is done to them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

import msgspec
from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer
from PySide6.QtWidgets import QAbstractScrollArea, QApplication

from gatillo.catalogue.declare.entry import CATALOGUE
from gatillo.desk.order_list.geometry import ListGeometry
from gatillo.desk.order_list.list_state import ListState
from gatillo.desk.order_list.rows import Row
from gatillo.desk.session.rename_things import take_name
from gatillo.desk.session.selection import Selection
from gatillo.desk.writing.slot_editor import Edited, SlotEditor
from gatillo.desk.writing.typed_line import TypedLine
from gatillo.desk.writing.words import Word
from gatillo.language.answers import with_names_made
from gatillo.language.binding import SlotProblem, bind
from gatillo.language.firing_phrases import fields_for, firing_alone
from gatillo.language.reading import Reading
from gatillo.language.renaming import Sort
from gatillo.language.sentence import firing_sentence, sentence
from gatillo.level import rule_edits, thing_edits
from gatillo.level.edits import Part, clauses_of, line_at
from gatillo.level.model import Clause, Graph, Level, Logic, Rule, Section
from gatillo.level.roles import Index, all_logic, all_rules

NEW_PARTS: tuple[Part, ...] = ("when", "if", "do")
LATER_PARTS: tuple[Part, ...] = ("do", "if", "when")
CLIP_START = "gatillo rules\n"
LONGEST_NAME = 44


_GROUPS: dict[Part, Literal["occasion", "condition", "action"]] = {
    "when": "occasion",
    "if": "condition",
    "do": "action",
    "else": "action",
}


def roles_of(rule: Rule) -> tuple[str, ...]:
    """Return the roles that a rule's slots name."""
    return tuple(
        dict.fromkeys(
            clause.slots[name]
            for clause in (*rule.when, *rule.if_, *rule.do, *rule.else_)
            if clause.use in CATALOGUE
            for name, slot in CATALOGUE[clause.use].slots.items()
            if slot.kind.holds in ("role", "where") and clause.slots.get(name)
        )
    )


def edited_slot(index: Index, rule: Rule, word: Word) -> Edited:
    """Return the slot of a rule's line that a word stands in, to be edited."""
    part = word.part
    assert part is not None
    clause = line_at(rule, part, word.line, word.within)
    declared = CATALOGUE[clause.use].slots[word.slot]

    def wrong(text: str) -> SlotProblem | None:
        tried = replace(clause, slots={**clause.slots, word.slot: text})
        return next((p for p in bind(index, tried, _GROUPS[part]).problems if p.slot == word.slot), None)

    text = clause.slots.get(word.slot, declared.default)
    name = f"{word.slot} of {rule.name}"
    return Edited(name, text, declared, index, roles_of(rule), wrong, key=(rule, word))


EMPTY = ("…", "“…”", "“”")
"""How a slot stands in a sentence that has nothing in it: a name or a formula, a text."""


class RuleWriter(QObject):
    """What the keyboard and the pointer write into the order list."""

    def __init__(self, state: ListState, geometry: ListGeometry, area: QAbstractScrollArea) -> None:
        super().__init__(area)
        self.state = state
        self.geometry = geometry
        self.area = area
        self.bench = state.bench
        self.editor = SlotEditor(area.viewport(), state.bench)
        self.editor.taken.connect(lambda key, text: state.set_slot(key[0], key[1], text))
        self.editor.walked.connect(state.walk_slots)
        self.editor.closed.connect(self._on_editor_closed)
        self.line = TypedLine(area.viewport(), state.bench)
        self.line.index_of = lambda: self.bench.index_at(self.rule_id, self._section)
        self.line.taken.connect(self._take)
        self.line.plain = self._set_firing
        self.line.explain = self._says_how_it_fires
        self.line.ended.connect(self._ended)
        self.rule_id: int | None = None
        """The rule that is being written; None while it has no line yet."""
        self._after: int | None = None
        self._section = ""
        self._filling: tuple[int, tuple[tuple[Part | None, int], ...]] | None = None
        self._then_new = False
        """Whether a new rule follows the line that is being taken."""

    # new rules and lines

    def new_rule(self, text: str = "") -> None:
        """Open a typed line for a rule below the current one; in an empty list, for the first.

        A line that is being typed is taken first, and the slots that it leaves empty are asked for.
        """
        if not text and self.line.chosen() is not None:
            self._then_new = True
            self.line.take()
            return
        row = self.state.current_row()
        self.rule_id = None
        self._after = row.entry.id if row is not None and row.entry is not None else None
        self._section = row.section.name if row is not None and row.section is not None else ""
        if row is None or (row.entry is None and row.section is None):
            # at the end of what runs, not within a first try that is switched off
            on = [e for e in self.bench.level.order if e.on]
            self._section = on[-1].name if on and isinstance(on[-1], Section) else ""
        self.state.begin_draft(self._after, self._section)
        at = next(i for i, r in enumerate(self.state.rows) if r.sort == "new" and r.writing)
        names = [kind.name.lower() for kind in self.bench.level.kinds]
        touch = f"{names[0]} touches {names[1]} · " if len(names) > 1 else ""
        self._open(at, NEW_PARTS, (), f"what happens? {touch}every 2 s · …  (↓ lists all)", text)

    def new_line(self, text: str = "", parts: tuple[Part, ...] | None = None) -> None:
        """Open a typed line at the end of the current rule."""
        row = self.state.current_row()
        if row is None or row.rule is None:
            self.new_rule(text)
            return
        self.rule_id = row.rule.id
        self._open_next(text, parts)

    def _open_next(self, text: str = "", parts: tuple[Part, ...] | None = None) -> None:
        assert self.rule_id is not None
        try:
            rule = rule_edits.rule_of(self.bench.level, self.rule_id)
        except KeyError:
            return
        self.state.open_rule(rule.id)
        at = next((i for i, r in enumerate(self.state.rows) if r.sort == "more" and r.rule is rule), None)
        if at is None:
            # its section has been folded meanwhile
            return
        if parts is None:
            parts = LATER_PARTS if rule.when or rule.if_ else NEW_PARTS
        names = [kind.name.lower() for kind in self.bench.level.kinds]
        remove = f"remove {names[-1]} · " if names else ""
        hint = f"and then? {remove}else …  (↓ lists all, Enter ends)"
        lines = (*rule.when, *rule.if_, *rule.do)
        self._open(at, parts, roles_here(rule), hint, text, lines[-1].use if lines else "")

    def _open(
        self, at: int, parts: tuple[Part, ...], here: tuple[str, ...], hint: str, text: str, after: str = ""
    ) -> None:
        self.state.stand_at(at)
        self.line.open_line(self.geometry.text_area(at), parts, here, hint, text, after)

    def reopen_in_place(self) -> None:
        """Lay the open line over its row again, after rows or the view have moved."""
        if self.line.field is None:
            return
        at = next(
            (i for i, r in enumerate(self.state.rows) if r.sort in ("new", "more") and self._is_mine(r)), None
        )
        if at is not None:
            self.line.field.setGeometry(self.geometry.text_area(at).adjusted(-6, 1, 0, -1).toRect())

    def _is_mine(self, row: Row) -> bool:
        return row.writing if row.sort == "new" else row.rule is not None and row.rule.id == self.rule_id

    def _take(self, reading: Reading) -> None:
        """A reading was chosen: put its lines into the level, then their empty slots, then the next line."""
        level = self.bench.level
        if self._is_gone():
            # it was taken back, or has become a graph, while its line was open
            self.bench.notify("The rule that this line belongs to is gone; nothing was added.")
            self.state.end_draft()
            self.rule_id = None
            return
        level, reading = with_names_made(level, self.line.index, reading)
        added: list[tuple[Part, int]] = []
        label = ""
        for line in reading.all_lines:
            clause, part = filled(line.clause), line.part
            if self.rule_id is None:
                rule = replace(Rule(id=0, name=name_for(clause)), **{rule_edits.FIELD[part]: (clause,)})
                level, self.rule_id = rule_edits.add_rule(level, rule, self._after, self._section)
                label = f"add the rule “{rule.name}”"
                added.append((part, 0))
            else:
                added.append((part, len(clauses_of(rule_edits.rule_of(level, self.rule_id), part))))
                level = rule_edits.add_line(level, self.rule_id, part, clause)
                label = label or f"add “{sentence(clause)}”"
        assert self.rule_id is not None
        rule = rule_edits.rule_of(level, self.rule_id)
        level = rule_edits.set_rule(level, rule.id, **fields_for(rule, reading))
        if len(added) > 1 and label.startswith("add “"):
            label = f"add {len(added)} lines"
        # said before the edit, so that the rows are built once
        self.state.end_draft()
        self.state.open_rule(self.rule_id)
        self.bench.edit(level, label)
        self.bench.select(Selection(rule=self.rule_id))
        self._filling = (self.rule_id, tuple(added))
        self._fill_next()

    def _is_gone(self) -> bool:
        """Return whether the rule that is being written has been removed."""
        return self.rule_id is not None and not any(
            r.id == self.rule_id for _, _, r in all_rules(self.bench.level)
        )

    def _firing(self, text: str) -> dict[str, Any]:
        """Return the fields that a text sets which says nothing but how often the rule fires; {} for any other, or without a rule."""
        return firing_alone(text) if self.rule_id is not None and not self._is_gone() else {}

    def _says_how_it_fires(self, text: str) -> str:
        """Return what a text that says nothing but how often the rule fires would set; "" for any other."""
        return firing_sentence(replace(Rule(id=0, name=""), **self._firing(text)))

    def _set_firing(self, text: str) -> bool:
        """Set how often the rule fires, if a typed text says nothing else: “at most once a second”. Return whether it did."""
        fields = self._firing(text)
        if not fields:
            return False
        assert self.rule_id is not None
        rule = rule_edits.rule_of(self.bench.level, self.rule_id)
        level = rule_edits.set_rule(self.bench.level, rule.id, **fields)
        self.bench.edit(level, f"change when “{rule.name}” fires")
        self.bench.notify(firing_sentence(rule_edits.rule_of(level, rule.id)))
        QTimer.singleShot(0, self._open_next)
        return True

    def _fill_next(self) -> None:
        """Open the next slot of the new lines that is still empty; when none is, the next line."""
        if self._filling is None:
            return
        rule_id, lines = self._filling
        for at, row in enumerate(self.state.rows):
            if row.sort == "line" and row.rule is not None and row.rule.id == rule_id:
                for number, word in enumerate(self.state.slots_of(at)):
                    if (word.part, word.line) in lines and word.text in EMPTY:
                        self.state.stand_at(at, number)
                        self.edit_slot(listing=self.line.clicked)
                        return
        self._filling = None
        if self._then_new:
            self._then_new = False
            self.new_rule()
        else:
            self._open_next()

    def edit_slot(self, *, listing: bool = False) -> None:
        """Edit the current slot in place; with none chosen, the first. `listing` as of `SlotEditor.open_editor`."""
        state = self.state
        slots, row = state.slots_of(state.current), state.current_row()
        if row is not None and row.sort == "new":
            self.new_rule()
        elif row is not None and row.sort == "more":
            self.new_line()
        if not slots:
            return
        if not 0 <= state.current_slot < len(slots):
            state.stand_at(state.current, 0)
        word = slots[state.current_slot]
        rule = state.rows[state.current].rule
        assert rule is not None and word.part is not None
        edited = edited_slot(self.bench.index_at(rule.id), rule, word)
        self.editor.open_editor(edited, self.geometry.word_area(state.current, word), listing=listing)

    def give_up(self) -> None:
        """Put away what is being written: it belongs to a level that is no longer here."""
        self.editor.close_editor(keep=False)
        self.line.close_line()
        self.state.end_draft()

    def _on_editor_closed(self, kept: bool) -> None:
        """A slot's editor has closed: go on writing, if it was part of that."""
        self.area.setFocus()
        if self._filling is None:
            return
        if not kept:
            self._filling, self._then_new = None, False
            return
        QTimer.singleShot(0, self._fill_next)

    def _ended(self, had_keyboard: bool) -> None:
        self.state.end_draft()
        if self.rule_id is not None:
            self.state.show_rule(self.rule_id)
        if had_keyboard:
            self.area.setFocus()

    # what is done to rules and lines

    def delete(self) -> None:
        """Remove the current line, rule or section."""
        row = self.state.current_row()
        if row is None:
            return
        level = self.bench.level
        if row.sort == "line" and row.rule is not None and row.part is not None:
            words = sentence(line_at(row.rule, row.part, row.line, row.within))
            self.bench.edit(
                rule_edits.delete_line(level, row.rule.id, row.part, row.line, row.within),
                f"delete “{words}”",
            )
        elif row.graph is not None:
            self.bench.edit(
                rule_edits.delete_rule(level, row.graph.id), f"delete the graph “{row.graph.name}”"
            )
        elif row.rule is not None and row.sort == "rule":
            self.bench.edit(rule_edits.delete_rule(level, row.rule.id), f"delete the rule “{row.rule.name}”")
        elif row.section is not None:
            self.bench.edit(
                rule_edits.delete_section(level, row.section.name, keep_rules=True),
                f"remove the section “{row.section.name}”",
            )
            self.bench.notify("The section is gone; its rules stay where they were.")

    def duplicate(self) -> None:
        """Copy the current rule or line."""
        row = self.state.current_row()
        if row is None or row.entry is None:
            return
        if row.rule is not None and row.sort == "line" and row.part is not None:
            clause = clauses_of(row.rule, row.part)[row.line]
            level = rule_edits.add_line(self.bench.level, row.rule.id, row.part, clause, row.line + 1)
            self.bench.edit(level, f"duplicate “{sentence(clause)}”")
            return
        level, made = rule_edits.duplicate_rule(self.bench.level, row.entry.id)
        self.bench.edit(level, f"duplicate “{row.entry.name}”")
        self.state.show_rule(made)
        self.bench.select(Selection(rule=made))

    def negate(self) -> None:
        """Turn the current condition round."""
        row = self.state.current_row()
        if row is None or row.rule is None or row.part != "if":
            self.bench.notify("Only a condition can be negated; unfold the rule and select its line.")
            return
        words = sentence(line_at(row.rule, "if", row.line, row.within))
        self.bench.edit(
            rule_edits.negate_line(self.bench.level, row.rule.id, row.line, row.within),
            f"negate “{words}”",
        )

    def group(self, group: str) -> None:
        """Put the current condition into a group, or take a group's lines out of it."""
        row = self.state.current_row()
        if row is None or row.rule is None or row.part is None:
            self.bench.notify("Select a line of an unfolded rule first.")
            return
        clause = clauses_of(row.rule, row.part)[row.line]
        if clause.of:
            level = rule_edits.ungroup_line(self.bench.level, row.rule.id, row.part, row.line)
            self.bench.edit(level, f"ungroup “{sentence(clause)}”")
        elif row.part == "if":
            level = rule_edits.group_lines(self.bench.level, row.rule.id, row.line, group)
            self.bench.edit(level, f"group “{sentence(clause)}”")

    def move_line(self, by: int) -> bool:
        """Move the current line within its part; False if no line is current."""
        row = self.state.current_row()
        if row is None or row.sort != "line" or row.rule is None or row.part is None or row.within:
            return False
        words = sentence(clauses_of(row.rule, row.part)[row.line])
        level, to = rule_edits.move_line(self.bench.level, row.rule.id, row.part, row.line, by)
        at = self.state.current + (to - row.line)
        self.bench.edit(level, f"move “{words}” {'up' if by < 0 else 'down'}")
        self.state.stand_at(at, self.state.current_slot)
        return True

    def move_current(self, by: int) -> None:
        """Move the current line within its rule, or the current rule or section in the order."""
        row = self.state.current_row()
        if row is not None and row.section is not None:
            self.state.move_section(row.section.name, by)
        elif not self.move_line(by):
            self.state.move_rule(by)

    def new_section(self) -> None:
        """A new section at the end of the list."""
        level, name = rule_edits.add_section(self.bench.level, "Section 1")
        self.bench.edit(level, f"add the section “{name}”")
        at = next(
            i for i, r in enumerate(self.state.rows) if r.section is not None and r.section.name == name
        )
        self.state.choose(at)

    def rename_everywhere(self, ask: Callable[[str], str | None]) -> None:
        """Give what the current slot names another name, in the whole level; `ask` gives the new one."""
        row, slots = self.state.current_row(), self.state.slots_of(self.state.current)
        if row is None or row.rule is None or not 0 <= self.state.current_slot < len(slots):
            self.bench.notify("Press Tab to go to a name first; then it can be renamed everywhere.")
            return
        word = slots[self.state.current_slot]
        assert word.part is not None
        clause = line_at(row.rule, word.part, word.line, word.within)
        type_ = CATALOGUE[clause.use].slots[word.slot].type
        found = named_by(self.bench.program.index, type_, clause.slots.get(word.slot, ""))
        if found is None:
            self.bench.notify(
                "This is not the name of a kind, a place, a message or the like, so it cannot be renamed."
            )
            return
        sort, name, kind = found
        new = ask(name)
        if new and new.strip() != name:
            problem = take_name(
                self.bench, sort, name, new.strip(), names_of(self.bench.level, sort, kind), kind=kind
            )
            if problem:
                self.bench.notify(problem[0].upper() + problem[1:] + ".")

    # between levels

    def copy(self) -> None:
        """Put the current rule, or the rules of the current section, on the clipboard."""
        row = self.state.current_row()
        rules: tuple[Logic, ...] = ()
        if row is not None and row.entry is not None:
            rules = (row.entry,)
        elif row is not None and row.section is not None:
            rules = row.section.rules
        if rules:
            text = CLIP_START + msgspec.json.encode(rules).decode()
            QApplication.clipboard().setText(text)
            self.bench.notify(f"{len(rules)} rule{'s' if len(rules) != 1 else ''} copied.")

    def paste(self) -> None:
        """Put the rules on the clipboard below the current one."""
        text = QApplication.clipboard().text()
        if not text.startswith(CLIP_START):
            self.bench.notify(
                "There are no rules on the clipboard. Copy a rule first, here or in another level."
            )
            return
        try:
            rules = msgspec.json.decode(text[len(CLIP_START) :].encode(), type=tuple[Rule | Graph, ...])
        except (msgspec.MsgspecError, UnicodeError, RecursionError):
            self.bench.notify("The clipboard contains only a part of a rule; copy the rule again.")
            return
        row = self.state.current_row()
        after = row.entry.id if row is not None and row.entry is not None else None
        section = row.section.name if row is not None and row.section is not None else ""
        level, ids = rule_edits.add_rules(self.bench.level, rules, after, section)
        self.bench.edit(level, f"paste {len(rules)} rule{'s' if len(rules) != 1 else ''}")
        if ids:
            self.state.show_rule(ids[-1])


def filled(clause: Clause) -> Clause:
    """Return the clause with every slot's default written out, so that what it says stands in the file."""
    entry = CATALOGUE[clause.use]
    slots = {
        name: clause.slots.get(name, slot.default)
        for name, slot in entry.slots.items()
        if clause.slots.get(name, slot.default)
    }
    return Clause(
        use=clause.use,
        slots=slots,
        negated=clause.negated,
        once=clause.once,
        of=tuple(map(filled, clause.of)),
    )


def roles_here(rule: Rule) -> tuple[str, ...]:
    """Return the roles that a rule speaks of, in the order in which it does."""
    found: dict[str, None] = {}
    for clause in (*rule.when, *rule.if_, *rule.do):
        entry = CATALOGUE.get(clause.use)
        for name, slot in entry.slots.items() if entry is not None else ():
            if slot.kind.holds in ("role", "where") and clause.slots.get(name):
                found[clause.slots[name]] = None
            if entry is not None and entry.derived.creates == name and clause.slots.get(name):
                found[f"new {clause.slots[name]}"] = None
    return tuple(found)


def name_for(clause: Clause) -> str:
    """Return a name for a rule that begins with this line."""
    words = sentence(clause).replace("…", "").strip()
    words = words[:1].upper() + words[1:]
    return words if len(words) <= LONGEST_NAME else words[: LONGEST_NAME - 1].rstrip() + "…"


def named_by(index: Index, type: str, text: str) -> tuple[Sort, str, str] | None:
    """Return what a slot's text names: its sort, its name, and for a kind's variable the kind."""
    plain: dict[str, Sort] = {
        "kind": "kind",
        "area": "place",
        "tag": "tag",
        "rule": "rule",
        "section": "section",
        "message": "message",
        "timer": "timer",
        "item": "item",
        "topic": "topic",
        "clip": "clip",
        "point": "point",
        "look": "look",
        "entry": "entry",
    }
    if type in plain:
        return plain[type], text, ""
    if type in ("role", "where", "per"):
        if text in index.places:
            return "place", text, ""
        role = index.role(text)
        if role is not None and role.source in ("kind", "object", "tag"):
            return {"kind": "kind", "object": "object", "tag": "tag"}[role.source], role.of, ""  # type: ignore[return-value]
    if type.endswith("variable"):
        owner, _, name = text.rpartition(".")
        if owner == "level":
            return "level variable", name, ""
        role = index.role(owner)
        if (
            role is not None
            and len(role.kinds) == 1
            and any(v.name == name for v in index.kinds[role.kinds[0]].variables)
        ):
            return "kind variable", name, role.kinds[0]
    return None


def names_of(level: Level, sort: Sort, kind: str) -> list[str]:
    """Return the names that a thing of a sort must not take."""
    if sort in ("kind", "object"):
        return [k.name for k in level.kinds] + [o.name for o in level.objects]
    if sort == "place":
        return [p.name for p in level.places]
    if sort in ("level variable", "kind variable"):
        return [v.name for v in thing_edits.variables_of(level, kind or None)]
    if sort == "rule":
        return [entry.name for _, _, entry in all_logic(level)]
    return []


def is_typed(text: str) -> bool:
    """Return whether a key's text begins a word, so that typing it begins a line."""
    return len(text) == 1 and text.isalpha()
