"""Entries about falling, springing back and sliding to a stop."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.values import Numbers, Rows
from gatillo.catalogue.declare.entry import action, behaviour, choice, number, role
from gatillo.catalogue.declare.subjects import Subject

SUBJECT = Subject("falling and bouncing", place=240)

Floats = NDArray[np.float64]


def _part(value: Numbers) -> Numbers:
    """Return a number limited to 0 … 1. For a few objects np.clip takes several times as long."""
    return np.minimum(np.maximum(value, 0.0), 1.0)


@behaviour(
    "fall and bounce: gravity {gravity}, bounce {bounce}, losing {slowing} of its speed a second",
    "Has a gravity of its own instead of the level's, bounces off solid objects, and is slowed by friction.",
    gravity=number("600", "units a second per second, downward"),
    bounce=number("0.5", "of the speed at which it hits, the part that is left: 0 to 1"),
    slowing=number("0", "the part of its speed that it loses in a second: 0 to 1"),
)
def fall_and_bounce(
    world: BehaviourApi, rows: Rows, gravity: Floats, bounce: Floats, slowing: Floats
) -> None:
    world.fall(rows, gravity, _part(bounce), _part(slowing))


@action(
    "set the gravity of {who} to {gravity}",
    "Sets what pulls it down from now on, in units a second per second; 0 lets it float.",
    who=role(),
    gravity=number("600", "units a second per second, downward"),
)
def set_gravity(world: ActionApi, who: Rows, gravity: Numbers) -> None:
    world.set_physical(who, "gravity", gravity)


@action(
    "set the friction of {who} to {friction}",
    "0 slides for ever, 1 stops at once. Seen from above: the part of its speed that it loses in a "
    "tenth of a second; with gravity, friction acts on what it rests on.",
    who=role(),
    friction=number("0.2", "0 to 1"),
)
def set_friction(world: ActionApi, who: Rows, friction: Numbers) -> None:
    world.set_physical(who, "friction", friction)


@action(
    "set the bounce of {who} to {bounce}",
    "How much of its speed is left after a hit: 0 none, 1 all.",
    who=role(),
    bounce=number("0.5", "0 to 1"),
)
def set_bounce(world: ActionApi, who: Rows, bounce: Numbers) -> None:
    world.set_physical(who, "bounce", bounce)


@action(
    "set the mass of {who} to {mass}",
    "Sets its mass from now on: of two that push one another, the lighter one moves more.",
    who=role(),
    mass=number("1", "above 0"),
)
def set_mass(world: ActionApi, who: Rows, mass: Numbers) -> None:
    world.set_physical(who, "mass", mass)


@action(
    "set the contact of {who} to {contact}",
    "Sets whether it is ignored, only noticed, pushed or immovable from now on. Once movable, it is pulled by the level's gravity.",
    who=role(),
    contact=choice("movable", "fixed", "sensed", "none"),
)
def set_contact(world: ActionApi, who: Rows, contact: str) -> None:
    world.set_contact(who, contact)
