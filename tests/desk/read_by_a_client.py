"""A client of the desktop's accessibility bus: run by the system's Python, it says what it reads and does, as JSON lines."""

import json
import sys
import time

import pyatspi


def say(**what):
    print(json.dumps(what), flush=True)


def window(name):
    for _ in range(120):
        for app in pyatspi.Registry.getDesktop(0):
            for one in app or ():
                if one and name in (one.name or ""):
                    return one
        time.sleep(0.25)
    raise SystemExit(f"no window “{name}”")


def walk(one):
    yield one
    for at in range(one.childCount):
        inner = one.getChildAtIndex(at)
        if inner is not None:
            yield from walk(inner)


def named(top, name, role="list"):
    return next(one for one in walk(top) if one.name == name and one.getRoleName() == role)


def told(one):
    state = one.getState()
    box = one.queryComponent().getExtents(0)
    return {
        "name": one.name,
        "detail": one.description,
        "role": one.getRoleName(),
        "checked": state.contains(pyatspi.STATE_CHECKED),
        "selected": state.contains(pyatspi.STATE_SELECTED),
        "box": [box.x, box.y, box.width, box.height],
        "parts": one.childCount,
    }


def soon(find):
    """Return what is found, once something is."""
    for _ in range(80):
        try:
            found = find()
        except StopIteration:
            found = None
        if found:
            return found
        time.sleep(0.25)
    raise SystemExit("it did not come")


def items(view):
    return [view.getChildAtIndex(at) for at in range(view.childCount)]


def do(one, name, seen=None):
    """Do something, and wait until what is seen of an item (the same one if no other is given) is another."""
    seen = seen or one
    before = told(seen)
    deeds = one.queryAction()
    at = next(n for n in range(deeds.nActions) if deeds.getName(n) == name)
    assert deeds.doAction(at)
    for _ in range(80):
        if told(seen) != before:
            return
        time.sleep(0.25)
    raise SystemExit(f"{name} of “{one.name}” changed nothing")


def first_rule(order):
    """Return the first rule, once its run is there."""
    for _ in range(160):
        found = next((one for one in items(order) if one.name.startswith("rule 1 ")), None)
        if found is not None and found.description.startswith("fired 1"):
            return found
        time.sleep(0.25)
    raise SystemExit("the first rule did not come to have fired")


top = window(sys.argv[1])
order, level = named(top, "Order of rules and their lanes"), named(top, "Level")
rule = first_rule(order)
say(order=[told(one) for one in items(order)])
say(level=[told(one) for one in items(level)])
say(firings=[told(one) for one in items(rule)])
do(items(rule)[0], "go there", rule)
say(at_the_firing=told(rule))
do(rule, "switch on or off")
say(switched=told(rule))
do(items(level)[0], "select")
say(selected=told(items(level)[0]))
graph = next(one for one in items(order) if one.name.startswith("graph "))
deeds = graph.queryAction()
assert deeds.doAction(next(n for n in range(deeds.nActions) if deeds.getName(n) == "open"))
sheet = soon(lambda: named(top, "Graph"))
cards = soon(lambda: items(sheet))
say(cards=[told(one) for one in cards])
say(wires=[told(one) for one in items(cards[0])])
do(items(cards[0])[0], "select")
say(wire=told(items(cards[0])[0]))
do(items(cards[0])[0], "go to its card", cards[1])
say(followed=told(cards[1]))
say(done=True)
