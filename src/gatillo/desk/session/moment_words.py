"""What a firing or a look did, in words: for hovering and for the sheet."""

from __future__ import annotations

from typing import Any

from gatillo.desk.session.moment_cache import AT_ONCE
from gatillo.formula.values import write_number, write_out
from gatillo.sim.run.run import Change, Cursor, Run, Witnessed
from gatillo.sim.trace.trace import Way
from gatillo.sim.world.world import World

_MOST_NAMED = 4
_MOST_CHANGES = 12


def names(world: World, ids: list[int]) -> str:
    """Return objects by name, the first few."""
    words = ", ".join(world.name_of(i) for i in ids[:_MOST_NAMED])
    return words + (f" and {len(ids) - _MOST_NAMED:,} more" if len(ids) > _MOST_NAMED else "")


def _value(value: Any) -> str:
    if isinstance(value, tuple):
        return ", ".join(write_number(round(float(v), 2)) for v in value)
    if isinstance(value, float):
        return write_number(round(value, 3))
    return str(write_out(value)) if not isinstance(value, str) else value


def change_words(world: World, change: Change) -> list[str]:
    """Return what one action changed, a line for each object (the first few)."""
    if change.name == "message":
        return [f"sent “{change.after}”"]
    if change.ids is None:
        after = change.after
        return [
            f"level.{change.name}: {_value(change.before)} → {_value(after[-1] if hasattr(after, '__len__') and not isinstance(after, str) else after)}"
        ]
    found = []
    for at, object_id in enumerate(change.ids[:_MOST_NAMED]):
        before = _item(change.before, at)
        after = _item(change.after, at)
        who = world.name_of(object_id)
        if change.name == "there":
            found.append(f"{who} {after}")
        elif change.name == "says":
            found.append(f"{who} says “{after}”")
        else:
            found.append(f"{who}.{change.name}: {_value(before)} → {_value(after)}")
    if len(change.ids) > _MOST_NAMED:
        found.append(f"… and {len(change.ids) - _MOST_NAMED:,} more")
    return found


def changes_words(seen: Witnessed) -> list[tuple[int, str]]:
    """Return what a firing changed: the number of the action and a line of words each (the first few)."""
    assert seen.world is not None
    found = [
        (c.line + 1, words) for c in seen.changes[:_MOST_CHANGES] for words in change_words(seen.world, c)
    ]
    if len(seen.changes) > _MOST_CHANGES:
        left = seen.changes[_MOST_CHANGES:]
        found.append((left[0].line + 1, f"… and {len(left):,} changes more"))
    return found


def _item(values: Any, at: int) -> Any:
    return values[at] if hasattr(values, "__len__") and not isinstance(values, str) else values


def who_words(world: World, seen: Witnessed) -> str:
    """Return which objects took part in a firing, in words."""
    return "; ".join(f"{role.replace('_', ' ')}: {names(world, ids)}" for role, ids in seen.ids.items())


def firing_words(run: Run, cursor: Cursor) -> str:
    """Return a firing in a few lines: which rule, for which, what it changed."""
    firings = run.trace.firings_at(cursor.tick)
    if not 1 <= cursor.position <= len(firings):
        return ""
    firing = firings[cursor.position - 1]
    way = {Way.RESUMED: ", going on after a wait", Way.ELSE: ", else"}.get(firing.way, "")
    lines = [
        f"{run.program.rules[firing.rule_index].source.name}: {ordinal(firing.position)} of {len(firings)} at {cursor.tick / run.program.rate:.3f} s{way}"
    ]
    if firing.matches > 1:
        lines.append(f"{firing.matches} matches")
    # pointing at a mark of a slow run shows the rest once the cursor stands there
    quick = run.seconds_to(run.end_of(cursor.tick - 1)) + run.pace <= AT_ONCE
    witnessed = run.witness(cursor.tick) if quick else []
    if len(witnessed) >= cursor.position:
        seen = witnessed[cursor.position - 1]
        assert seen.world is not None
        if seen.ids:
            lines.append(who_words(seen.world, seen))
        lines += [f"{number}. {words}" for number, words in changes_words(seen)]
    for fault in run.trace.faults:
        if fault.tick == cursor.tick and fault.rule_index == firing.rule_index:
            lines.append(f"fault: {fault.sentence}")
    return "\n".join(lines)


def step_words(run: Run, cursor: Cursor) -> str:
    """Return the step after which the cursor stands: which line of which rule, or which card, and for how many."""
    # pointing at a slow run shows the rest once the cursor stands there
    quick = run.seconds_to(run.end_of(cursor.tick - 1)) + run.pace <= AT_ONCE
    steps = run.steps_at(cursor.tick) if quick else run.trace.cards_at(cursor.tick)
    step = next((s for s in steps if s.step == cursor.step), None)
    if step is None:
        return f"step {cursor.step}"
    rule = run.program.rules[step.rule_index]
    many = f", {step.matches} matches" if step.matches != 1 else ""
    if rule.graph is None:
        return f"{rule.source.name}: {step.part} {step.line + 1}{many}"
    card, way = rule.graph.place_of(step.card)
    part, line = rule.graph.line_of(card)
    where = f"card {card}" if part == "card" else f"{part} {line + 1}"
    return f"{rule.source.name}: {where}{', ' + way.removesuffix(': ') if way else ''}{many}"


def look_words(run: Run, rule_index: int, tick: int) -> str:
    """Return why a rule that was looked at in a tick did not fire: its faults, or how many candidates passed what."""
    faults = [f.sentence for f in run.trace.faults if (f.rule_index, f.tick) == (rule_index, tick)]
    if faults:
        return "\n".join(f"fault: {sentence}" for sentence in dict.fromkeys(faults))
    for look in run.trace.looks_at(tick):
        if look.rule_index == rule_index and not look.fired:
            rule = run.program.rules[rule_index].source
            if look.passed and look.passed[-1] == 0:
                return f"{rule.name}: {look.candidates} candidate{'s' if look.candidates != 1 else ''}, none passed condition {len(look.passed)}"
            return f"{rule.name}: held back ({rule.fires}{', resting' if rule.cooldown else ''})"
    return ""


def ordinal(n: int) -> str:
    """Return a number as a place in an order: 1st, 2nd."""
    ending = "th" if 10 <= n % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(n % 10, "th")
    return f"{n}{ending}"
