"""A level's rules run by a plain loop, written from docs/how-a-level-runs.md: one match after the other, each a dictionary.

It knows only what the tests that use it need: moths and lamps that stand still, their numbers p and q, the level's u and v,
conditions and actions that compute, waits, and all that a rule says of its firings.
"""

from __future__ import annotations

import math
import re
from types import SimpleNamespace

from msgspec.structs import replace

from gatillo.level.model import Level, Rule

ROLES = {"Moth": "Moth", "another_Moth": "Moth", "Lamp": "Lamp", "new_Lamp": "Lamp"}
NAMED = re.compile(r"\b(another_Moth|new_Lamp|Moth|Lamp)\.")


class Match(dict):
    """Objects by roles; `of` is the match from which it was made.

    The first match of a list has a log of what was created: when, for which objects by roles, and which lamps.
    """

    def __init__(self, roles=(), of=None, log=()):
        super().__init__(roles)
        self.of = of
        self.log = list(log)

    def first(self):
        return self if self.of is None else self.of.first()

    def created(self, now, lamps):
        """Lamps were created for this match by a line that was carried out at `now`; a later one has a greater number."""
        self.first().log.append((now, without_new(self), lamps))

    def newest(self):
        """When a lamp was last created for this match, or a line last made none for it, and the lamps; None if never."""
        come = [(now, lamps) for now, roles, lamps in self.first().log if agree(roles, self)]
        last = max((now for now, _ in come), default=None)
        return (
            None if last is None else (last, [lamp for now, lamps in come if now == last for lamp in lamps])
        )

    def new_lamps(self):
        newest = self.newest()
        return [] if newest is None else newest[1]

    def alone(self):
        """The same match by itself: what is created for others from now on is not new for it."""
        newest = self.newest()
        return Match(self, log=() if newest is None else [(newest[0], {}, newest[1])])


def without_new(match):
    return {role: thing for role, thing in match.items() if role != "new_Lamp"}


def agree(one, other):
    """Whether two matches have the same objects in the roles that both have."""
    return all(one[role] is other[role] for role in one if role in other)


def roles_in(*texts):
    """Roles in the order in which texts name them."""
    return list(dict.fromkeys(role for text in texts for role in NAMED.findall(text)))


def python_of(formula):
    text = formula.replace("<>", "!=").replace(" mod ", " % ")
    return re.sub(r"(?<![<>!=])=(?!=)", "==", text)


def ages(match):
    return [thing.id for thing in match.values()]


class PlainRun:
    """The state of a run, and what fired: by tick the names of rules with how many matches, resumed ones too."""

    def __init__(self, level: Level) -> None:
        self.level = SimpleNamespace(**{v.name: v.value for v in level.variables})
        starts = {k.name: {v.name: v.value for v in k.variables} for k in level.kinds}
        self.objects = [
            SimpleNamespace(kind=o.kind, id=o.id, x=o.x, **starts[o.kind])
            for o in sorted(level.objects, key=lambda o: o.id)
        ]
        self.laid_out = {getattr(one, "id", None): dict(vars(one)) for one in [*self.objects, self.level]}
        self.rules = [rule for rule in level.order if isinstance(rule, Rule)]
        self.rate = level.settings.rate
        self.tick = 0
        self.fired = []
        self.held = {rule.id: set() for rule in self.rules}
        self.used = {rule.id: set() for rule in self.rules}
        self.rested = {rule.id: {} for rule in self.rules}
        self.waits = []
        self.starts = starts
        self.next_id = 1_000_000
        self.now = 0
        self.sent, self.heard = {}, {}
        self.off = set()
        self.seen = {}

    # formulas and matches

    def value(self, formula, match):
        known = {role.replace(" ", "_"): thing for role, thing in match.items()}
        return eval(python_of(formula), {}, {**known, "level": self.level, "tick": self.tick})

    def joined(self, matches, role):
        """Every match with every object for a role; roles of one kind never stand for the same object."""
        return [
            Match({**match, role: thing}, match)
            for match in matches
            for thing in (match.new_lamps() if role == "new_Lamp" else self.objects)
            if thing.kind == ROLES[role]
            and not any(
                other is thing
                for r, other in match.items()
                if ROLES[r] == ROLES[role] and "new_Lamp" not in (r, role)
            )
        ]

    def with_roles(self, matches, roles):
        for role in roles:
            if matches and role not in matches[0]:
                matches = self.joined(matches, role)
        return matches

    def key(self, match):
        return tuple(sorted((role, thing.id) for role, thing in match.items()))

    # a tick

    def step(self):
        self.tick += 1
        for wait in self.begins():
            self.fired.append((self.tick, wait.rule.name, "resumed", len(wait.matches)))
            self.each_or_all(wait.rule, wait.lines, wait.matches)
        for rule in self.rules:
            if rule.name in self.off:
                self.held[rule.id] = set()
            else:
                self.turn(rule)

    def begins(self):
        """Clocks: messages become audible; gives the waits that are due, with those of their matches that are there yet."""
        self.sent, self.heard = {}, self.sent
        due = [wait for wait in self.waits if wait.due <= self.tick]
        self.waits = [wait for wait in self.waits if wait.due > self.tick]
        for wait in due:
            # asked as its turn comes: one that goes on before it can remove somebody
            wait.matches = [m for m in wait.matches if all(thing in self.objects for thing in m.values())]
            if wait.matches:
                yield wait

    def occasions(self, rule):
        """What all that come yield, each combination once; each role then stands for everybody in what does not name it."""
        if not rule.when:
            return [Match()]
        come = [found for at, clause in enumerate(rule.when) if (found := self.occasion(rule, at, clause))]
        if len(come) < 2:
            return come[0] if come else []
        roles = list(dict.fromkeys(role for found in come for role in found[0]))
        if not roles:
            return max(come, key=len)
        whole = {}
        for found in come:
            for match in self.with_roles(found, roles):
                whole.setdefault(self.key(match), Match({role: match[role] for role in roles}))
        return sorted(whole.values(), key=ages)

    def occasion(self, rule, at, clause):
        slots = clause.slots
        if clause.use == "each_in_every_tick":
            return self.joined([Match()], slots["who"])
        if clause.use == "message_heard":
            return [Match() for _ in range(self.heard.get(slots["message"], 0))]
        if clause.use == "every_seconds":
            period = float(slots["period"])
            return (
                [Match()]
                if self.tick in {math.ceil((n + 1) * period * self.rate - 1e-9) for n in range(1000)}
                else []
            )
        if clause.use == "after_rule":
            later = max(1, math.ceil(float(slots["time"]) * self.rate - 1e-9))
            return (
                [Match()]
                if any(f == (self.tick - later, slots["rule"], "do") for f in (g[:3] for g in self.fired))
                else []
            )
        return self.changed(rule, at, clause)

    def changed(self, rule, at, clause):
        owner, _, name = clause.slots["variable"].partition(".")
        limit = float(clause.slots.get("limit", 0))
        whose = [self.level] if owner == "level" else [one for one in self.objects if one.kind == owner]
        first = self.laid_out if owner != "level" else {None: self.laid_out[None]}
        before = self.seen.get((rule.id, at), {number: values.get(name) for number, values in first.items()})
        self.seen[rule.id, at] = {getattr(one, "id", None): getattr(one, name) for one in whose}
        found = []
        for one in whose:
            number, now = getattr(one, "id", None), getattr(one, name)
            if number in before:
                was = before[number]
                if was != now if clause.use == "variable_changes" else was <= limit < now:
                    found.append(Match() if owner == "level" else Match({owner: one}))
        return found

    def turn(self, rule):
        matches = self.occasions(rule)
        if not matches:
            self.held[rule.id] = set()
            return
        # what an else is for: matches without the roles that were only looked for, each with what was found for it
        matches = [Match(match) for match in matches]
        units = [(match, [match]) for match in matches]
        come = [id(match) for match in matches]

        def in_turn(match):
            # what comes several times, as a message does, has its turn after turn
            return come.index(id(match.first())), ages(match)

        elsewhere = []
        for clause in rule.if_:
            roles = self.roles_of(clause)
            if roles and roles[0] not in next(match for _, found in units for match in found):
                # its subject is there for it: what has failed by now is an else without it
                elsewhere.append([unit for unit, found in units if not found])
                units = self.with_subject([(unit, found) for unit, found in units if found], roles[0])
            if clause.use not in ("first_n", "best_by"):
                units = [(unit, self.passing(clause, roles, found)) for unit, found in units]
            else:
                units = [(unit, self.with_roles(found, roles)) for unit, found in units]
                kept = self.picked(clause, sorted((m for _, found in units for m in found), key=in_turn))
                units = [(unit, [m for m in found if any(m is one for one in kept)]) for unit, found in units]
            if not any(found for _, found in units):
                break
        passed = [match for _, found in units for match in found]
        passed.sort(key=in_turn)
        self.fire(rule, self.may_fire(rule, passed))
        elsewhere.append([unit for unit, found in units if not found])
        for failed in elsewhere:
            if failed and rule.else_:
                self.fired.append((self.tick, rule.name, "else", len(failed)))
                self.carry_out(rule, rule.else_, failed)

    def roles_of(self, condition):
        if condition.of:
            return list(dict.fromkeys(role for line in condition.of for role in self.roles_of(line)))
        return roles_in(condition.slots.get("formula", condition.slots.get("value", "")))

    def with_subject(self, units, role):
        return [
            (
                Match({**unit, role: thing}),
                [match for match in self.joined(found, role) if match[role] is thing],
            )
            for unit, found in units
            for thing in self.objects
            if any(match[role] is thing for match in self.joined(found, role))
        ]

    def picked(self, clause, matches):
        slots = clause.slots
        if clause.use == "first_n":
            return matches[: math.floor(float(slots["count"]))]
        sign = 1 if slots["end"] == "lowest" else -1
        return matches and [min(matches, key=lambda match: sign * self.value(slots["value"], match))]

    def passing(self, clause, roles, matches):
        if clause.use == "none_of" and not clause.negated:
            # each line turned round, and none brings anybody in
            for line in clause.of:
                once = [
                    bool(self.passing(replace(line, negated=False), self.roles_of(line), [m]))
                    for m in matches
                ]
                matches = [match for match, yes in zip(matches, once, strict=True) if yes is line.negated]
            return matches
        turned = clause.negated is not (clause.use == "none_of")
        passed = []
        for match in matches:
            holding = [one for one in self.with_roles([match], roles) if self.holds(clause, one)]
            passed += ([match] if not holding else []) if turned else holding
        return passed

    def holds(self, clause, match):
        if not clause.of:
            return self.value(clause.slots["formula"], match)
        some = [bool(self.value(line.slots["formula"], match)) is not line.negated for line in clause.of]
        return all(some) if clause.use == "all_of" else any(some)

    def may_fire(self, rule, matches):
        keys = {self.key(match) for match in matches}
        before, self.held[rule.id] = self.held[rule.id], keys
        if rule.fires == "on becoming true":
            matches = [match for match in matches if self.key(match) not in before]
        if rule.fires == "first time only":
            per = (lambda match: self.key(match)) if rule.first_per == "object" else (lambda match: None)
            used = self.used[rule.id]
            matches = [match for match in matches if per(match) not in used]
        if rule.cooldown:
            rests = math.ceil(rule.cooldown * self.rate - 1e-9)
            per = (lambda match: self.key(match)) if rule.cooldown_per == "object" else (lambda match: None)
            rested = self.rested[rule.id]
            matches = [match for match in matches if self.tick >= rested.get(per(match), -math.inf) + rests]
        if rule.while_waiting == "ignore":
            waiting = {key for wait in self.waits if wait.rule is rule for key in wait.keys}
            matches = [match for match in matches if self.key(match) not in waiting]
        for match in matches:
            self.used[rule.id] |= {self.key(match), None}
            self.rested[rule.id] |= {self.key(match): self.tick, None: self.tick}
        if rule.while_waiting == "restart":
            again = {self.key(match) for match in matches}
            for wait in self.waits:
                if wait.rule is rule:
                    left = [at for at, key in enumerate(wait.keys) if key not in again]
                    wait.matches = [wait.matches[at] for at in left]
                    wait.keys = [wait.keys[at] for at in left]
            self.waits = [wait for wait in self.waits if wait.matches]
        return matches

    def fire(self, rule, matches):
        if matches and rule.do:
            self.fired.append((self.tick, rule.name, "do", len(matches)))
            self.carry_out(rule, rule.do, matches)

    # actions

    def carry_out(self, rule, lines, matches):
        # what is created from now on is of each match alone
        matches = [Match(match) for match in (matches[:1] if rule.once_for_all else matches)]
        self.each_or_all(rule, lines, matches)

    def each_or_all(self, rule, lines, matches):
        if rule.one_at_a_time:
            for match in matches:
                self.act(rule, lines, [match])
        else:
            self.act(rule, lines, matches)

    def act(self, rule, lines, matches):
        otherwise = None
        for at, clause in enumerate(lines):
            slots = clause.slots
            if clause.use == "wait":
                self.wait(rule, lines[at + 1 :], matches, slots["time"])
                return
            if clause.use == "if_so":
                acting = self.with_roles(matches, roles_in(slots["formula"]))
                holds = [bool(self.value(slots["formula"], match)) for match in acting]
                otherwise = [match for match, yes in zip(acting, holds, strict=True) if not yes]
                self.act(rule, clause.of, [match for match, yes in zip(acting, holds, strict=True) if yes])
            elif clause.use == "otherwise":
                self.act(rule, clause.of, otherwise or [])
            elif clause.use == "repeat":
                acting = self.with_roles(matches, roles_in(slots["count"]))
                counts = [math.floor(self.value(slots["count"], match)) for match in acting]
                for time in range(max(counts, default=0)):
                    self.act(rule, clause.of, [m for m, n in zip(acting, counts, strict=True) if n > time])
            elif not matches:
                continue
            elif clause.use == "send_message":
                self.sent[slots["message"]] = self.sent.get(slots["message"], 0) + len(
                    matches[:1] if clause.once else matches
                )
            elif clause.use in ("switch_rule_off", "switch_rule_on"):
                (self.off.add if clause.use.endswith("off") else self.off.discard)(slots["rule"])
            elif clause.use == "cancel_waits":
                self.waits = [wait for wait in self.waits if wait.rule.name != slots["rule"]]
            elif clause.use == "remove":
                gone = [match[slots["who"]] for match in self.with_roles(matches, [slots["who"]])]
                self.objects = [one for one in self.objects if one not in gone]
            elif clause.use == "create":
                # as wide as it is: the lamps of all its matches, then who has which
                self.now += 1
                for match in matches:
                    many = math.floor(self.value(slots["count"], match))
                    match.created(self.now, self.create(slots["kind"], many) if many else [])
            else:
                self.write(clause, matches)

    def wait(self, rule, lines, matches, time):
        """The shorter waits are started first, each with its matches."""
        matches = self.with_roles(matches, roles_in(time))
        ticks = [max(1, math.ceil(self.value(time, match) * self.rate - 1e-9)) for match in matches]
        for lasts in sorted(set(ticks)):
            some = [match.alone() for match, n in zip(matches, ticks, strict=True) if n == lasts]
            keys = [self.key(match) for match in some]
            self.waits.append(
                SimpleNamespace(due=self.tick + lasts, rule=rule, lines=lines, matches=some, keys=keys)
            )

    def create(self, kind, many):
        made = []
        for _ in range(many):
            made.append(SimpleNamespace(kind=kind, id=self.next_id, x=0.0, **self.starts[kind]))
            self.next_id += 1
        self.objects += made
        return made

    @staticmethod
    def may_be(role, other):
        """Whether two roles can stand for the same object."""
        return ROLES.get(role, role) == ROLES.get(other, other)

    def write(self, clause, matches):
        variable = clause.slots["variable"]
        owner, _, name = variable.partition(".")
        formula = {
            "set_variable": lambda s: s["value"],
            "add_to": lambda s: f"{variable} + ({s['amount']})",
            "multiply": lambda s: f"{variable} * ({s['factor']})",
        }[clause.use](clause.slots)
        matches = self.with_roles(matches, roles_in(*in_order(clause)))
        if clause.once:
            matches = matches[:1]
        whose = [self.level if owner == "level" else match[owner] for match in matches]
        shared = len({id(one) for one in whose}) < len(whose)
        reads = any(
            name == read and self.may_be(role, owner) for role, read in re.findall(r"\b(\w+)\.(\w+)", formula)
        )
        values = [] if shared and reads else [self.value(formula, match) for match in matches]
        for at, match in enumerate(matches):
            setattr(whose[at], name, values[at] if values else self.value(formula, match))


def in_order(clause):
    """What stands in an action's slots, in the order of its sentence."""
    s = clause.slots
    sentences = {
        "set_variable": ("variable", "value"),
        "add_to": ("amount", "variable"),
        "multiply": ("variable", "factor"),
    }
    return [s[name] for name in sentences[clause.use]]
