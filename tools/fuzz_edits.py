"""Random edits for fuzz.py: any of the document's edits, with names and numbers of the level and some that are not in it."""

from __future__ import annotations

import random
from collections.abc import Callable
from typing import Any

from msgspec.structs import replace

from gatillo.catalogue import CATALOGUE
from gatillo.language.renaming import rename
from gatillo.level import arranging, edits, rule_edits, thing_edits
from gatillo.level.expectations import HoldsAt
from gatillo.level.model import Clause, Level, Rule, Section
from gatillo.level.roles import all_rules

TEXTS = ("", "x", "Pod", "another Pod", "level.n + 1", "1 / 0", "anything", "0.5", "{", "a b", "9x", "<b>")
NUMBERS = (0.0, -0.0, 1.0, -7.5, 1e9, 1e-12, 359.9)


class Editor:
    """Picks an edit and its parts at random."""

    def __init__(self, chance: random.Random) -> None:
        self.chance = chance

    def edited(self, level: Level) -> Level:
        """The level after one random edit. What an edit refuses raises ValueError or KeyError."""
        done = self.chance.choice(DEEDS)(self, level)
        return done if isinstance(done, Level) else done[0]

    def one(self, names: Any, but: Any = "nobody") -> Any:
        """One of some names, seldom another."""
        names = list(names)
        return self.chance.choice(names) if names and self.chance.random() < 0.95 else but

    def number(self) -> float:
        return self.chance.choice([*NUMBERS, round(self.chance.uniform(-200, 200), 2)])

    def text(self) -> str:
        return self.chance.choice(TEXTS)

    def kind(self, level: Level) -> str:
        return str(self.one([k.name for k in level.kinds]))

    def place(self, level: Level) -> str:
        return str(self.one([p.name for p in level.places]))

    def trial(self, level: Level) -> str:
        return str(self.one([t.name for t in level.trials]))

    def section(self, level: Level) -> str:
        return str(self.one([e.name for e in level.order if isinstance(e, Section)]))

    def ids(self, level: Level) -> set[int]:
        all_ids = [o.id for o in level.objects]
        return set(self.chance.sample(all_ids, min(len(all_ids), self.chance.choice((1, 1, 2, 5)))))

    def rule(self, level: Level) -> Rule:
        rules = [rule for _, _, rule in all_rules(level)]
        if not rules:
            raise KeyError("no rule")
        return self.chance.choice(rules)

    def clause(self) -> Clause:
        entry = CATALOGUE[self.chance.choice(list(CATALOGUE))]
        return Clause(entry.name, {name: self.text() for name in entry.slots})

    def line(self, level: Level) -> tuple[int, Any, int]:
        """A rule's id, a part of it and a line in it."""
        rule = self.rule(level)
        part: Any = self.chance.choice(("when", "if", "do", "else"))
        return rule.id, part, self.chance.randrange(max(1, len(edits.clauses_of(rule, part))))


Deed = Callable[[Editor, Level], Any]

DEEDS: tuple[Deed, ...] = (
    lambda e, level: edits.move_objects(level, e.ids(level), e.number(), e.number()),
    lambda e, level: edits.place_object(level, e.kind(level), e.number(), e.number()),
    lambda e, level: edits.duplicate_objects(level, e.ids(level), 9.0, -9.0),
    lambda e, level: edits.delete_objects(level, e.ids(level)),
    lambda e, level: edits.set_object(level, min(e.ids(level)), angle=e.number(), tags=(e.text() or "t",)),
    lambda e, level: edits.switch_rule(level, e.rule(level).id, e.chance.random() < 0.5),
    lambda e, level: edits.switch_section(level, e.section(level), e.chance.random() < 0.5),
    lambda e, level: edits.move_rule(level, e.rule(level).id, e.chance.choice((-3, -1, 1, 2))),
    lambda e, level: edits.set_slot(level, *e.line(level), e.text(), e.text()),
    lambda e, level: edits.change_trial(
        level, e.trial(level), lambda t: replace(t, length=abs(e.number()) + 0.1)
    ),
    lambda e, level: rule_edits.add_rule(
        level, Rule(0, "Fresh", do=(e.clause(),)), e.one([e.rule(level).id, None], None)
    ),
    lambda e, level: rule_edits.delete_rule(level, e.rule(level).id),
    lambda e, level: rule_edits.duplicate_rule(level, e.rule(level).id),
    lambda e, level: rule_edits.add_line(level, *e.line(level)[:2], e.clause()),
    lambda e, level: rule_edits.delete_line(level, *e.line(level)),
    lambda e, level: rule_edits.negate_line(level, e.rule(level).id, 0),
    lambda e, level: rule_edits.move_line(level, *e.line(level), e.chance.choice((-1, 1))),
    lambda e, level: rule_edits.group_lines(
        level, e.rule(level).id, 0, e.chance.choice(("all_of", "any_of", "none_of"))
    ),
    lambda e, level: rule_edits.ungroup_line(level, *e.line(level)),
    lambda e, level: rule_edits.add_section(level, e.text() or "Part"),
    lambda e, level: rule_edits.delete_section(level, e.section(level), keep_rules=e.chance.random() < 0.5),
    lambda e, level: rule_edits.move_section(level, e.section(level), e.chance.choice((-1, 1))),
    lambda e, level: rule_edits.put_rule(
        level, e.rule(level).id, before=e.one([e.rule(level).id, None], None)
    ),
    lambda e, level: thing_edits.add_kind(level, e.chance.choice(("", "Zed", "Pod"))),
    lambda e, level: thing_edits.set_kind(
        level, e.kind(level), mass=abs(e.number()) + 1.0, tags=(e.text() or "t",)
    ),
    lambda e, level: thing_edits.delete_kind(level, e.kind(level)),
    lambda e, level: thing_edits.add_variable(
        level, e.one([None, e.kind(level)], None), e.chance.choice(("", "v", "n"))
    ),
    lambda e, level: thing_edits.delete_variable(level, None, str(e.one([v.name for v in level.variables]))),
    lambda e, level: thing_edits.add_place(level, thing_edits.new_spot(e.number(), e.number())),
    lambda e, level: thing_edits.add_place(level, thing_edits.new_area(e.number(), 0.0, 40.0, 30.0)),
    lambda e, level: thing_edits.move_place(level, e.place(level), e.number(), e.number()),
    lambda e, level: thing_edits.delete_place(level, e.place(level)),
    lambda e, level: thing_edits.add_trial(level),
    lambda e, level: thing_edits.delete_trial(level, e.trial(level)),
    lambda e, level: thing_edits.add_expectation(level, e.trial(level), HoldsAt(formula=e.text() or "1 > 0")),
    lambda e, level: arranging.align(level, e.ids(level), "left"),
    lambda e, level: arranging.distribute(level, e.ids(level), "x"),
    lambda e, level: arranging.copies_in_ring(level, min(e.ids(level)), 3, 40.0),
    lambda e, level: arranging.group(level, e.ids(level)),
    lambda e, level: arranging.ungroup(level, e.ids(level)),
    lambda e, level: rename(level, "kind", e.kind(level), e.chance.choice(("Zed", "Pod", "a b", "9x", ""))),
    lambda e, level: rename(level, "place", e.place(level), e.chance.choice(("bed", "far bed", "9x"))),
    lambda e, level: rename(level, "rule", e.rule(level).name, e.chance.choice(("Other", "{", ""))),
)
