"""Entries about falling, springing back and sliding to a stop."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.contexts.action import ActionApi
from gatillo.catalogue.contexts.behaviour import BehaviourApi
from gatillo.catalogue.contexts.values import Numbers, Rows
from gatillo.catalogue.declare.entry import action, behaviour, choice, number, role
from gatillo.catalogue.declare.subjects import Subject
from gatillo.catalogue.declare.wording import worded

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
    says=[
        "gravity {gravity}",
        "drop/fall with gravity {gravity}",
        "bounce [off] things",
        "ball/physics",
    ],
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
    says=[
        worded("no gravity for/on {who}", gravity="0"),
        "{who} gravity {gravity}",
        worded("{who} has no gravity", gravity="0"),
        "gravity of {who} = {gravity}",
        "change/make [the] gravity of/on/for {who} [to] {gravity}",
        "set {who} [an] gravity to {gravity}",
        "set {who} 's gravity to {gravity}",
        "set gravity on/for {who} to {gravity}",
        "give {who} [a] gravity [of] {gravity}",
        worded("make {who} weightless", gravity="0"),
        "let {who} fall with [gravity] {gravity}",
        worded("turn/switch off gravity for/of/on {who}", gravity="0"),
        worded("turn/switch gravity off for/of/on {who}", gravity="0"),
        worded("let {who} float/hover", gravity="0"),
        "turn/switch gravity on for {who} at/with {gravity}",
        "turn/switch on gravity for {who} at/with {gravity}",
    ],
)
def set_gravity(world: ActionApi, who: Rows, gravity: Numbers) -> None:
    world.set_physical(who, "gravity", gravity)


@action(
    "set the friction of {who} to {friction}",
    "0 slides for ever, 1 stops at once. Seen from above: the part of its speed that it loses in a "
    "tenth of a second; with gravity, friction acts on what it rests on.",
    who=role(),
    friction=number("0.2", "0 to 1"),
    says=[
        "{who} friction {friction}",
        "friction of {who} = {friction}",
        "change/make [the] friction of/on/for {who} [to] {friction}",
        "set {who} friction to {friction}",
        "set {who} 's friction to {friction}",
        "set friction on/for {who} to {friction}",
        "give {who} [a] friction [of] {friction}",
        worded("make {who} slippery/smooth", friction="0"),
        worded("let {who} slide without friction", friction="0"),
        "make {who} rough with friction {friction}",
        "give {who} [a] friction [of] {friction}",
    ],
)
def set_friction(world: ActionApi, who: Rows, friction: Numbers) -> None:
    world.set_physical(who, "friction", friction)


@action(
    "set the bounce of {who} to {bounce}",
    "How much of its speed is left after a hit: 0 none, 1 all.",
    who=role(),
    bounce=number("0.5", "0 to 1"),
    says=[
        "{who} bounce/bounciness {bounce}",
        "bounce/bounciness of {who} = {bounce}",
        "change/make/set [the] bounce/bounciness of/on/for {who} [to] {bounce}",
        "set {who} bounce/bounciness to {bounce}",
        "set {who} 's bounce/bounciness to {bounce}",
        "give {who} [a] bounce/bounciness [of] {bounce}",
        "let/make {who} bounce by/with {bounce}",
        worded("let/make {who} not bounce", bounce="0"),
        worded("stop {who} bouncing", bounce="0"),
    ],
)
def set_bounce(world: ActionApi, who: Rows, bounce: Numbers) -> None:
    world.set_physical(who, "bounce", bounce)


@action(
    "set the mass of {who} to {mass}",
    "Sets its mass from now on: of two that push one another, the lighter one moves more.",
    who=role(),
    mass=number("1", "above 0"),
    says=[
        "{who} mass/weight {mass}",
        "mass/weight of {who} = {mass}",
        "change/make/set [the] mass/weight of/on/for {who} [to] {mass}",
        "set {who} mass/weight to {mass}",
        "set {who} 's mass/weight to {mass}",
        "give {who} [a] mass/weight [of] {mass}",
        "{who} weighs {mass}",
        "let/make {who} weigh {mass}",
        worded("make {who} twice as heavy", mass="{who}.mass * 2"),
        worded("make {who} half as heavy", mass="{who}.mass / 2"),
        worded("make {who} {n} times as heavy", numbers=("n",), mass="{who}.mass * {n}"),
        worded("make {who} heavier by {n}", numbers=("n",), mass="{who}.mass + {n}"),
        worded("make {who} lighter by {n}", numbers=("n",), mass="{who}.mass - {n}"),
    ],
)
def set_mass(world: ActionApi, who: Rows, mass: Numbers) -> None:
    world.set_physical(who, "mass", mass)


@action(
    "set the contact of {who} to {contact}",
    "Sets whether it is ignored, only noticed, pushed or immovable from now on. Once movable, it is pulled by the level's gravity.",
    who=role(),
    contact=choice("movable", "fixed", "sensed", "none"),
    says=[
        worded(
            "let things/objects/everything/everyone/others pass/go/walk/fly/move through {who}",
            contact="none",
        ),
        "contact/collision of {who} = {contact}",
        "change/make/set [the] contact/collision/collisions of/on/for {who} [to] {contact}",
        "set {who} contact/collision/collisions to {contact}",
        "set {who} 's contact/collision to {contact}",
        "make {who} {contact}",
        worded("turn/switch off [the] contact/collision/collisions of/for/on {who}", contact="none"),
        worded("ignore [the] contact/collision/collisions of {who}", contact="none"),
        worded("let {who} be pushed", contact="movable"),
        worded("make {who} pushable/loose/movable", contact="movable"),
        worded("make {who} immovable/stuck/solid", contact="fixed"),
        worded("make {who} [a] ghost/passable/intangible", contact="none"),
        worded("let {who} block [the] others/everything/everyone/anything", contact="fixed"),
        worded(
            "let {who} pass/go/fly/walk through everything/anything/all/others/things/objects/walls",
            contact="none",
        ),
        worded("freeze/fix {who} in place", contact="fixed"),
    ],
)
def set_contact(world: ActionApi, who: Rows, contact: str) -> None:
    world.set_contact(who, contact)
