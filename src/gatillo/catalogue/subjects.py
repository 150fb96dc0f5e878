"""The subjects of the catalogue, from what every level needs to what few do, with their titles."""

from __future__ import annotations

SUBJECTS: dict[str, str] = {
    "time": "time",
    "keys": "keys",
    "contact": "touching",
    "areas": "areas",
    "messages": "messages",
    "variables": "variables",
    "relations": "who and where",
    "moving": "moving and turning",
    "life": "coming, going, looks",
    "changes": "changes",
    "pointer": "pointer",
    "flow": "timers, switching, telling",
    "picks": "picks",
    "own": "own nodes",
    "tags": "tags",
    "bonds": "attaching, items",
    "prompts": "prompts and menus",
    "talking": "talking",
    "steering": "steering",
    "goals": "goals",
    "walking": "routes",
    "flocking": "flocking",
    "turning": "circling and turning",
    "falling": "falling and bouncing",
    "carrying": "leading and carrying",
    "focus": "focus",
    "clips": "recorded motion",
    "behaving": "behaviours",
}
"""By the name of the module that declares them."""


def in_order(subject: str) -> int:
    """Where a subject stands in lists."""
    return list(SUBJECTS).index(subject)
