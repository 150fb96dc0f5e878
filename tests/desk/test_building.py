"""From an empty level to a checked rule, by real key presses and clicks only.

The counts are written into docs/building.md by `tools/building.py`, which runs these.
"""

from __future__ import annotations

from hands import CTRL, Hands
from PySide6.QtCore import Qt

from gatillo.level.model import empty_level


def outcomes(window) -> list[str]:
    return [v.outcome for v in window.bench.verdicts]


def test_study_1_is_built_from_nothing(open_window, qtbot, record_property):
    window = open_window(empty_level())
    hands = Hands(qtbot, window)
    hands.new_kind("Gardener")
    hands.choose("kind-contact", "movable")
    hands.choose("kind-add-behaviour", "steer by keys")
    hands.place("Gardener", (100, 250))
    hands.new_kind("Pod")
    hands.place("Pod", (200, 250), (300, 250), (300, 250))
    hands.new_kind("Bed")
    hands.choose("kind-shape", "rectangle")
    hands.place("Bed", (205, 250))
    window.order.setFocus()
    hands.new_rule("ga tou po", "rem po", "add 1 pods")
    # the trial: walk ahead for five seconds, and say what must hold
    hands.key(Qt.Key.Key_E, CTRL | Qt.KeyboardModifier.AltModifier)
    hands.press_button("trial-add-key")
    hands.put("trial-key-0-to", "5")
    hands.choose("trial-add-expectation", "a formula holds")
    hands.put("trial-expect-0-formula", "level.pods = 3")
    hands.choose("trial-expect-0-when", "at")
    hands.put("trial-expect-0-time", "9")
    hands.rest()
    assert [r.name for r in window.bench.level.order] == ["Gardener begins to touch Pod"]
    assert outcomes(window) == ["held"]
    assert window.bench.run.world.level["pods"] == 3
    assert len(window.bench.run.trace.firings()) == 2
    assert window.bench.findings == []
    record_property("building", f"study 1, seed pods|{hands.presses}|{hands.clicks}")
    assert hands.count < 130, (hands.presses, hands.clicks)
