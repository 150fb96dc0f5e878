"""The entries of the core that tests/plain_run.py does not know, written from docs/catalogue.md: for the levels of the conformance set.

Nothing moves in them. What only shows or says something changes neither a firing nor a number.
"""

from __future__ import annotations

import math
from types import SimpleNamespace

from plain_run import Match, PlainRun

SHOWN = frozenset(
    ["tell_player", "clear_message", "note", "show", "hide", "set_depth", "set_scale", "set_colour", "say"]
)


class PlainCore(PlainRun):
    """A plain loop with timers, tags, sections and what becomes of numbers."""

    def __init__(self, level) -> None:
        super().__init__(level)
        tags = {kind.name: set(kind.tags) for kind in level.kinds}
        self.tags = {thing.id: set(tags[thing.kind]) for thing in self.objects}
        self.timers = {}
        self.made, self.gone = [], []
        self.over = False

    # occasions

    def begins(self):
        for name, (runs, since) in self.timers.items():
            self.timers[name] = (runs, since + runs)
        self.before = self.made, self.gone
        self.made, self.gone = [], []
        for wait in [w for w in self.waits if getattr(w, "until", "")]:
            # each match goes on when it holds for it
            yes = [bool(self.value(wait.until, match)) for match in wait.matches]
            if any(yes) and not all(yes):
                self.waits.append(SimpleNamespace(**{**vars(wait), **self.those(wait, yes, False)}))
                vars(wait).update(self.those(wait, yes, True))
            wait.due = self.tick if any(yes) else math.inf
        return super().begins()

    def those(self, wait, yes, wanted):
        """Return the matches of a wait for which what it waits for holds, or does not, and their keys."""
        left = [at for at, holds in enumerate(yes) if holds is wanted]
        return {"matches": [wait.matches[at] for at in left], "keys": [wait.keys[at] for at in left]}

    def occasion(self, rule, at, clause):
        slots, use = clause.slots, clause.use
        one = {
            "every_tick": lambda: True,
            "level_starts": lambda: self.tick == 1,
            "after_start": lambda: self.tick == max(1, math.ceil(float(slots["time"]) * self.rate - 1e-9)),
            "timer_reaches": lambda: self.timers.get(slots["timer"], (0, -1))[1] == self.ticks(slots["time"]),
        }
        if use in one:
            return [Match()] if one[use]() else []
        if use in ("is_created", "is_removed"):
            return [Match({slots["a"]: thing}) for thing in self.before[use == "is_removed"]]
        if use == "heard_from":
            # nothing in these levels sends from an object what such a rule hears
            return []
        return super().occasion(rule, at, clause)

    def ticks(self, time):
        return math.ceil(float(time) * self.rate - 1e-9)

    def changed(self, rule, at, clause):
        if clause.use != "falls_below":
            return super().changed(rule, at, clause)
        _, _, name = clause.slots["variable"].partition(".")
        was = self.seen.get((rule.id, at), self.laid_out[None][name])
        now = self.seen[rule.id, at] = getattr(self.level, name)
        return [Match()] if was >= float(clause.slots["limit"]) > now else []

    # conditions

    def roles_of(self, condition):
        role = condition.slots.get("who") or condition.slots.get("a")
        return [role] if role else super().roles_of(condition)

    def holds(self, clause, match):
        slots = clause.slots
        if clause.use == "compare":
            return self.value(f"{slots['left']} {slots['comparison']} {slots['right']}", match)
        if clause.use == "has_tag":
            return slots["tag"] in self.tags[match[slots["who"]].id]
        if clause.use == "sent_number":
            # nobody sent one: it is 0
            return self.value(f"0 {clause.slots['comparison']} {slots['limit']}", match)
        return super().holds(clause, match)

    # actions

    def act(self, rule, lines, matches):
        for at, clause in enumerate(lines):
            if matches and clause.use == "wait_until":
                self.wait(rule, lines[at + 1 :], self.with_roles(matches, ["Lamp"]), "1")
                self.waits[-1].due, self.waits[-1].until = math.inf, clause.slots["formula"]
                return super().act(rule, lines[:at], matches)
        return super().act(rule, lines, matches)

    def write(self, clause, matches):
        slots, use = clause.slots, clause.use
        if use in SHOWN or use.startswith("switch_section"):
            return
        if use == "end_trial":
            self.over = True
        elif use.endswith("_timer"):
            runs, since = self.timers.get(slots["timer"], (0, 0))
            after = {"start_timer": (1, since), "stop_timer": (0, since), "reset_timer": (runs, 0)}
            self.timers[slots["timer"]] = after[use]
        elif use in ("give_tag", "take_tag"):
            for match in self.with_roles(matches, [slots["who"]]):
                tags = self.tags[match[slots["who"]].id]
                (tags.add if use == "give_tag" else tags.discard)(slots["tag"])
        elif use == "send_from":
            many = len(self.with_roles(matches, [slots["who"]]))
            self.sent[slots["message"]] = self.sent.get(slots["message"], 0) + many
        elif use == "create_ring":
            self.create(slots["kind"], int(slots["count"]) * len(self.with_roles(matches, [slots["where"]])))
        elif use in ("toggle", "keep_between", "move_number"):
            _, _, name = slots["variable"].partition(".")
            for match in matches:
                now = getattr(self.level, name)
                setattr(self.level, name, self.other(use, slots, now, match))
        else:
            super().write(clause, matches)

    def other(self, use, slots, now, match):
        """Return what becomes of a level variable."""
        if use == "toggle":
            return not now
        if use == "keep_between":
            return min(max(now, self.value(slots["low"], match)), self.value(slots["high"], match))
        goal, step = self.value(slots["goal"], match), self.value(slots["rate"], match) / self.rate
        return goal if abs(goal - now) <= step else now + math.copysign(step, goal - now)
