"""How far apart two shapes are, and along which normal: discs and boxes at any angle."""

from __future__ import annotations

from typing import Any

from gatillo.kernels.elementary import cosd, sind
from gatillo.kernels.plain import fabs, sqrt

INFINITE = float("inf")
MOVABLE = 2
LEEWAY = 1e-6
"""Units by which ways that meet may miss one another in the last digit."""
FEW = 64
"""Up to so many pairs are put in order and compared with those before."""


def disc_and_box(
    radius: float, wide: float, high: float, cos: float, sin: float, dx: float, dy: float
) -> Any:
    """Return the gap between a disc and a box, and the unit normal x, y from the disc to the box.

    `wide` and `high` are half the box's size, `cos` and `sin` of its angle; its middle lies dx, dy from the disc's.
    """
    across, along = dx * cos + dy * sin, dy * cos - dx * sin
    out_x = across - min(max(across, -wide), wide)
    out_y = along - min(max(along, -high), high)
    outside = sqrt(out_x * out_x + out_y * out_y)
    gap = outside - radius
    if outside == 0:
        # a middle inside the box leaves by its nearest side
        by_x, by_y = wide - fabs(across), high - fabs(along)
        gap = -min(by_x, by_y) - radius
        if by_x <= by_y:
            out_x, out_y = (-1.0 if across < 0 else 1.0), 0.0
        else:
            out_x, out_y = 0.0, (-1.0 if along < 0 else 1.0)
        outside = 1.0
    nx, ny = out_x / outside, out_y / outside
    return gap, nx * cos - ny * sin, nx * sin + ny * cos


def two_boxes(
    wide: float,
    high: float,
    its_wide: float,
    its_high: float,
    angle: float,
    its_angle: float,
    dx: float,
    dy: float,
) -> Any:
    """Return the gap between two boxes along the axis on which it is widest, and the unit normal x, y from the first to the other.

    Sizes are halves, angles in degrees; the other's middle lies dx, dy from the first one's.
    """
    cos, sin = fabs(cosd(its_angle - angle)), fabs(sind(its_angle - angle))
    best, best_x, best_y = -INFINITE, 1.0, 0.0
    for box in range(2):
        axis_x, axis_y = cosd(its_angle if box else angle), sind(its_angle if box else angle)
        own_wide, own_high = (its_wide, its_high) if box else (wide, high)
        far_wide, far_high = (wide, high) if box else (its_wide, its_high)
        for quarter in range(2):
            offset = dx * axis_x + dy * axis_y
            if quarter:
                gap = fabs(offset) - own_high - far_wide * sin - far_high * cos
            else:
                gap = fabs(offset) - own_wide - far_wide * cos - far_high * sin
            if gap > best:
                side = -1.0 if offset < 0 else 1.0
                best, best_x, best_y = gap, axis_x * side, axis_y * side
            axis_x, axis_y = -axis_y, axis_x
    return best, best_x, best_y


class Scene:
    """Where things stand, what shape they have, how they move, and which kinds sense each other.

    `pose` is x, y, angle, scale, kind, number (the id), and `wide` and `high`, half width and height of the upright box about each;
    `flight` is vx, vy, gravity and friction; `marks` say with 0 or 1 who is there, has moved, sleeps and stands on something, and
    in which tick each was found moved last; `contact` is 0 for none, 1 sensed, 2 movable, 3 fixed. All are columns by row. `sizes`,
    shape (kinds, 3), are half width, half height and radius at scale 1; `senses` has shape (kinds, kinds).
    """

    def __init__(self, pose: Any, flight: Any, marks: Any, contact: Any, sizes: Any, senses: Any) -> None:
        self.x, self.y, self.angle, self.scale, self.kind, self.number, self.wide, self.high = pose
        self.vx, self.vy, self.gravity, self.friction = flight
        self.alive, self.moved, self.asleep, self.grounded, self.last_moved = marks
        self.contact, self.sizes, self.senses = contact, sizes, senses


def meeting(scene: Any, one: Any, other: Any, most: float, met: Any) -> int:
    """Find which pairs of rows are of kinds that sense each other, and no farther apart than `most`. Return how many.

    `met` takes the pairs as ids, the lower in the upper half.
    """
    many = 0
    for k in range(len(one)):
        i, j = one[k], other[k]
        if scene.senses[scene.kind[i], scene.kind[j]] and _gap(scene, i, j) <= most:
            met[many] = _code(scene.number[i], scene.number[j])
            many += 1
    return many


def meeting_among(scene: Any, rows: Any, most: float, met: Any) -> int:
    """Find the pairs of `meeting` among some rows, of which the first has moved; a pair may come twice. Return how many."""
    many = 0
    for k in range(len(rows)):
        i = rows[k]
        if not scene.moved[i]:
            continue
        for n in range(len(rows)):
            j = rows[n]
            if (
                i != j
                and _boxes_meet(scene, i, j, most)
                and scene.senses[scene.kind[i], scene.kind[j]]
                and _gap(scene, i, j) <= most
            ):
                met[many] = _code(scene.number[i], scene.number[j])
                many += 1
    return many


def settle(scene: Any, sensed: Any, before: Any, most: float, tick: int, met: Any) -> int:
    """Find which pairs of rows touch in a tick: of those `sensed`, and those that touched `before` and have stood still.

    Return how many, in any order and some of them twice; -1 where they are the same as before, in which case `met` is not to
    be looked at. Pairs are ids, the lower in the upper half; `before` is sorted. Who has moved has been looked at then.
    """
    many = meeting_among(scene, sensed, most, met)
    for k in range(len(before)):
        code = before[k]
        if _stands(scene, code >> 32) and _stands(scene, code & 0xFFFFFFFF):
            met[many] = code
            many += 1
    for row in range(len(scene.moved)):
        if scene.moved[row]:
            scene.last_moved[row] = tick
            scene.moved[row] = 0
    if many == len(before) and many <= FEW:
        for n in range(1, many):
            code, at = met[n], n
            while at > 0 and met[at - 1] > code:
                met[at] = met[at - 1]
                at -= 1
            met[at] = code
        same = True
        for n in range(many):
            if met[n] != before[n]:
                same = False
        if same:
            return -1
    return many


def _stands(scene: Any, number: int) -> bool:
    """Return whether an object, by its id, is there and has not moved."""
    low, high = 0, len(scene.number)
    while low < high:
        middle = (low + high) // 2
        if scene.number[middle] < number:
            low = middle + 1
        else:
            high = middle
    return (
        low < len(scene.number) and scene.number[low] == number and scene.alive[low] and not scene.moved[low]
    )


def lie_apart(scene: Any, solid: Any, skin: float, deep: float) -> bool:
    """Return whether no two solid things overlap by more than `deep`, of which one has moved and one is movable."""
    for k in range(len(solid)):
        i = solid[k]
        if not scene.moved[i]:
            continue
        for n in range(len(solid)):
            j = solid[n]
            if (
                i != j
                and (scene.contact[i] == MOVABLE or scene.contact[j] == MOVABLE)
                and _boxes_meet(scene, i, j, skin)
                and _gap(scene, i, j) < -deep
            ):
                return False
    return True


def _boxes_meet(scene: Any, i: int, j: int, most: float) -> bool:
    """Return whether the upright boxes about two rows come within `most` of each other."""
    wide, high = scene.wide[j] + (scene.wide[i] + most), scene.high[j] + (scene.high[i] + most)
    return bool(fabs(scene.x[j] - scene.x[i]) <= wide and fabs(scene.y[j] - scene.y[i]) <= high)


def _code(one: int, other: int) -> int:
    return (one << 32) | other if one < other else (other << 32) | one


def _gap(scene: Any, i: int, j: int) -> Any:
    """Return the gap between the shapes of two rows."""
    gap, _, _ = _apart(scene, i, j)
    return gap


def can_close(scene: Any, i: int, j: int, way: float, straight: bool, dt: float) -> bool:
    """Return whether two shapes can come to touch in a tick: others stay apart along the line that is between them now.

    `way` is how far both go at most, together; with `straight` neither is pulled or slowed.
    """
    gap, nx, ny = _apart(scene, i, j)
    if straight and gap > 0.0:
        way = ((scene.vx[i] - scene.vx[j]) * nx + (scene.vy[i] - scene.vy[j]) * ny) * dt
    return bool(gap <= way + LEEWAY)


def _apart(scene: Any, i: int, j: int) -> Any:
    """Return the gap between the shapes of two rows, and the unit normal x, y from the first to the other."""
    first, second = scene.kind[i], scene.kind[j]
    dx, dy = scene.x[j] - scene.x[i], scene.y[j] - scene.y[i]
    size, its_size = fabs(scene.scale[i]), fabs(scene.scale[j])
    wide, high, radius = (
        scene.sizes[first, 0] * size,
        scene.sizes[first, 1] * size,
        scene.sizes[first, 2] * size,
    )
    its_wide, its_high = scene.sizes[second, 0] * its_size, scene.sizes[second, 1] * its_size
    its_radius = scene.sizes[second, 2] * its_size
    if scene.sizes[first, 2] > 0 and scene.sizes[second, 2] > 0:
        away = sqrt(dx * dx + dy * dy)
        safe = away if away > 0.0 else 1.0
        return away - radius - its_radius, dx / safe, dy / safe
    if scene.sizes[first, 2] > 0:
        cos, sin = cosd(scene.angle[j]), sind(scene.angle[j])
        gap, nx, ny = disc_and_box(radius, its_wide, its_high, cos, sin, dx, dy)
        return gap, nx, ny
    if scene.sizes[second, 2] > 0:
        cos, sin = cosd(scene.angle[i]), sind(scene.angle[i])
        gap, nx, ny = disc_and_box(its_radius, wide, high, cos, sin, -dx, -dy)
        return gap, -nx, -ny
    gap, nx, ny = two_boxes(wide, high, its_wide, its_high, scene.angle[i], scene.angle[j], dx, dy)
    return gap, nx, ny
