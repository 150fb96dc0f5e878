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


def items(view):
    return [view.getChildAtIndex(at) for at in range(view.childCount)]


def do(one, name):
    deeds = one.queryAction()
    at = next(n for n in range(deeds.nActions) if deeds.getName(n) == name)
    assert deeds.doAction(at)
    time.sleep(1.0)


top = window(sys.argv[1])
time.sleep(3.0)
order, level = named(top, "Order of rules and their lanes"), named(top, "Level")
say(order=[told(one) for one in items(order)])
say(level=[told(one) for one in items(level)])
rule = next(one for one in items(order) if one.name.startswith("rule 1 "))
say(firings=[told(one) for one in items(rule)])
do(items(rule)[0], "go there")
say(at_the_firing=told(rule))
do(rule, "switch on or off")
say(switched=told(next(one for one in items(order) if one.name.startswith("rule 1 "))))
do(rule, "switch on or off")
do(items(level)[0], "select")
say(selected=told(items(level)[0]))
say(done=True)
