"""Entries that move and turn objects by hand."""

import numpy as np

from gatillo.catalogue.entry import action, choice, number, role
from gatillo.catalogue.surroundings import Deed, Numbers, Rows


@action(
    "move {who} by {dx}, {dy} along {axes} axes",
    "Moves at once by an offset: x to the right and y up, or ahead and to the left of where it faces.",
    who=role(),
    dx=number("0", "units along the first axis"),
    dy=number("0", "units along the second axis"),
    axes=choice("the level's", "its own"),
)
def move_by(deed: Deed, who: Rows, dx: Numbers, dy: Numbers, axes: str) -> None:
    if axes == "its own":
        facing = np.radians(deed.angles(who))
        ahead, left = dx, dy
        dx = ahead * np.cos(facing) - left * np.sin(facing)
        dy = ahead * np.sin(facing) + left * np.cos(facing)
    deed.shift(who, dx, dy)


@action(
    "turn {who} by {angle}°",
    "Turns at once; positive is counter-clockwise.",
    who=role(),
    angle=number("90", "degrees, counter-clockwise"),
)
def turn_by(deed: Deed, who: Rows, angle: Numbers) -> None:
    deed.rotate(who, angle)
