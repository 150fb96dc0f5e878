"""Elementary functions with the same bits on every machine: of degrees, exponentials, logarithms and powers.

They use nothing but + - * / and square roots, which IEEE 754 rounds in one way, and steps that are exact (absolute value,
floor, remainder, splitting off the exponent). The C library and NumPy answer differently from one processor or version to
the next. Where a result needs more bits than a number has, it is kept as two numbers, `high` + `low` (Dekker, Numerische
Mathematik 18, 1971). Against exact results 0.8 units in the last place are the most that was seen.

The functions of this module are for single numbers; `mathematics.py` gives them for arrays too. Each of them is written
without branches, as conditional expressions, since arrays are worked out from this very source where it is not compiled.
"""

from __future__ import annotations

from typing import Any

from gatillo.kernels.plain import copysign, exponent, fabs, floor, fmod, mantissa, scaled, sqrt

INFINITE = float("inf")
NEITHER = float("nan")
LARGEST = 1.7976931348623157e308
SPLITTER = 134217729.0
RADIAN, RADIAN_LOW = 0.017453292519943295, 2.9486522708701687e-19
DEGREE, DEGREE_LOW = 57.29577951308232, -1.9878495670576283e-15
LN2, LN2_LOW, PER_LN2 = 0.6931471805598903, 5.497923018708371e-14, 1.4426950408889634
AT_1, AT_1_LOW = 14.036243467926479, -1.178545638282857e-16
AT_2, AT_2_LOW = 26.56505117707799, -6.673432494950659e-16
AT_3, AT_3_LOW = 36.86989764584402, 1.3346864989901319e-15
THIRD, THIRD_LOW = 0.3333333333333333, 1.850371707708594e-17


def product(a: Any, b: Any) -> Any:
    """Return a * b, and what its rounding left out (Dekker)."""
    high = a * b
    a_top = SPLITTER * a - (SPLITTER * a - a)
    b_top = SPLITTER * b - (SPLITTER * b - b)
    a_rest, b_rest = a - a_top, b - b_top
    return high, ((a_top * b_top - high) + a_top * b_rest + a_rest * b_top) + a_rest * b_rest


def total(a: Any, b: Any) -> Any:
    """Return a + b, and what its rounding left out (Knuth)."""
    high = a + b
    of_b = high - a
    return high, (a - (high - of_b)) + (b - of_b)


def length(dx: Any, dy: Any) -> Any:
    """Return how long a vector is: the root of dx * dx + dy * dy."""
    return sqrt(dx * dx + dy * dy)


def _rest(angle: Any) -> Any:
    """Return sine and cosine of at most 45 degrees, each high and low, by their power series."""
    x, x_low = product(angle, RADIAN)
    x_low = x_low + angle * RADIAN_LOW
    z, z_low = product(x, x)
    curve = 1.0 / 355687428096000.0
    curve = curve * z - 1.0 / 1307674368000.0
    curve = curve * z + 1.0 / 6227020800.0
    curve = curve * z - 1.0 / 39916800.0
    curve = curve * z + 1.0 / 362880.0
    curve = curve * z - 1.0 / 5040.0
    curve = curve * z + 1.0 / 120.0
    curve = curve * z - 1.0 / 6.0
    sine, sine_low = total(x, x * z * curve + x_low * (1.0 - 0.5 * z))
    curve = 1.0 / 20922789888000.0
    curve = curve * z - 1.0 / 87178291200.0
    curve = curve * z + 1.0 / 479001600.0
    curve = curve * z - 1.0 / 3628800.0
    curve = curve * z + 1.0 / 40320.0
    curve = curve * z - 1.0 / 720.0
    curve = curve * z + 1.0 / 24.0
    cosine, cosine_low = total(1.0, -0.5 * z)
    cosine, more = total(cosine, cosine_low + (z * z * curve - x * x_low - 0.5 * z_low))
    return sine, sine_low, cosine, more


def _quarter(angle: Any) -> Any:
    """Return which quarter turn, 0 to 4, an angle without its sign is nearest to, and what is left of it in degrees."""
    left = fmod(fabs(angle), 360.0)
    quarter = floor(left / 90.0 + 0.5)
    return quarter, left - 90.0 * quarter


def sind(angle: Any) -> Any:
    """Return the sine of an angle in degrees; exact for whole quarter turns and for 30, 150 and so on."""
    quarter, left = _quarter(angle)
    sine, _, cosine, _ = _rest(left)
    size = cosine if (quarter - 1.0) * (quarter - 3.0) == 0.0 else sine
    size = 0.0 - size if (quarter - 2.0) * (quarter - 3.0) == 0.0 else size
    return size * copysign(1.0, angle)


def cosd(angle: Any) -> Any:
    """Return the cosine of an angle in degrees; exact for whole quarter turns and for 60, 120 and so on."""
    quarter, left = _quarter(angle)
    sine, _, cosine, _ = _rest(left)
    size = sine if (quarter - 1.0) * (quarter - 3.0) == 0.0 else cosine
    return 0.0 - size if (quarter - 1.0) * (quarter - 2.0) == 0.0 else size


def tand(angle: Any) -> Any:
    """Return the tangent of an angle in degrees; infinite for odd quarter turns."""
    quarter, left = _quarter(angle)
    sine, sine_low, cosine, cosine_low = _rest(left)
    odd = (quarter - 1.0) * (quarter - 3.0) == 0.0
    up, up_low = (0.0 - cosine if odd else sine), (-cosine_low if odd else sine_low)
    down, down_low = (sine if odd else cosine), (sine_low if odd else cosine_low)
    below = 1.0 if down == 0.0 else down
    high = up / below
    back, back_low = product(high, below)
    size = high + (((up - back) - back_low) + up_low - high * down_low) / below
    return (INFINITE if down == 0.0 else size) * copysign(1.0, angle)


def _direction(y: Any, y_low: Any, x: Any, x_low: Any) -> Any:
    """Return the direction of a point, in degrees above -180 up to 180; y and x are high and low, y_low counting with fabs(y)."""
    up = fabs(y)
    up = LARGEST if up > LARGEST else up
    side = fabs(x)
    side = LARGEST if side > LARGEST else side
    steep = up > side
    most = up if steep else side
    back = -exponent(most)
    least, least_low = scaled(side if steep else up, back), scaled(x_low if steep else y_low, back)
    most, most_low = scaled(most, back), scaled(y_low if steep else x_low, back)
    most = 1.0 if most == 0.0 else most
    # the arc tangent of quarters is known; what is left is small: (n - q d) / (d + q n)
    step = floor(4.0 * (least / most) + 0.5) * 0.25
    part, part_low = product(step, most)
    over, over_low = total(least, -part)
    over_low = over_low + (least_low - part_low - step * most_low)
    part, part_low = product(step, least)
    under, under_low = total(most, part)
    under_low = under_low + (most_low + part_low + step * least_low)
    t = over / under
    part, part_low = product(t, under)
    t_low = ((over - part) - part_low + over_low - t * under_low) / under
    z = t * t
    curve = -1.0 / 19.0
    curve = curve * z + 1.0 / 17.0
    curve = curve * z - 1.0 / 15.0
    curve = curve * z + 1.0 / 13.0
    curve = curve * z - 1.0 / 11.0
    curve = curve * z + 1.0 / 9.0
    curve = curve * z - 1.0 / 7.0
    curve = curve * z + 1.0 / 5.0
    curve = curve * z - 1.0 / 3.0
    curve = curve * z
    high, low = product(t, DEGREE)
    low = low + (t * DEGREE_LOW + (t_low + t * curve) * DEGREE)
    known = (
        45.0
        if step == 1.0
        else AT_3
        if step == 0.75
        else AT_2
        if step == 0.5
        else AT_1
        if step == 0.25
        else 0.0
    )
    known_low = (
        0.0
        if step == 1.0
        else AT_3_LOW
        if step == 0.75
        else AT_2_LOW
        if step == 0.5
        else AT_1_LOW
        if step == 0.25
        else 0.0
    )
    high, rest = total(known, high)
    low = low + rest + known_low
    from_right, rest = total(90.0, -high)
    high, low = (from_right if steep else high), (rest - low if steep else low)
    left = copysign(1.0, x) < 0.0
    from_left, rest = total(180.0, -high)
    high, low = (from_left if left else high), (rest - low if left else low)
    return (high + low) * copysign(1.0, y)


def atan2d(y: Any, x: Any) -> Any:
    """Return the direction of the point x, y from 0, 0, in degrees from -180 to 180."""
    return _direction(y, 0.0, x, 0.0)


def _other_side(a: Any) -> Any:
    """Return the root of 1 - a * a, high and low."""
    square, low = product(a, a)
    high, rest = total(1.0, -square)
    high, low = total(high, rest - low)
    high = 0.0 if high < 0.0 else high
    root = sqrt(high)
    square, rest = product(root, root)
    return root, ((high - square) - rest + low) / (2.0 * (1.0 if root == 0.0 else root))


def asind(a: Any) -> Any:
    """Return the angle in degrees, -90 to 90, whose sine is a, for -1 <= a <= 1."""
    side, low = _other_side(a)
    return _direction(a, 0.0, side, low)


def acosd(a: Any) -> Any:
    """Return the angle in degrees, 0 to 180, whose cosine is a, for -1 <= a <= 1."""
    side, low = _other_side(a)
    return _direction(side, low, a, 0.0)


def _exponential(x: Any, x_low: Any) -> Any:
    """Return e to the power x + x_low, by its power series in what is left after whole powers of two."""
    x = 800.0 if x > 800.0 else -800.0 if x < -800.0 else x
    whole = floor(x * PER_LN2 + 0.5)
    high, low = total(x - whole * LN2, x_low - whole * LN2_LOW)
    curve = 1.0 / 87178291200.0
    curve = curve * high + 1.0 / 6227020800.0
    curve = curve * high + 1.0 / 479001600.0
    curve = curve * high + 1.0 / 39916800.0
    curve = curve * high + 1.0 / 3628800.0
    curve = curve * high + 1.0 / 362880.0
    curve = curve * high + 1.0 / 40320.0
    curve = curve * high + 1.0 / 5040.0
    curve = curve * high + 1.0 / 720.0
    curve = curve * high + 1.0 / 120.0
    curve = curve * high + 1.0 / 24.0
    curve = curve * high + 1.0 / 6.0
    curve = curve * high + 0.5
    one, rest = total(1.0, high)
    return scaled(one + (rest + (low + high * high * curve)), whole)


def exp(x: Any) -> Any:
    """Return e to the power x."""
    return _exponential(x, 0.0)


def _logarithm(a: Any, a_low: Any) -> Any:
    """Return the natural logarithm of a + a_low, high and low, for a above 0: by the series of the inverse hyperbolic tangent."""
    part, whole = mantissa(a), exponent(a)
    small = part < 0.7071067811865476
    part, whole = (part * 2.0 if small else part), (whole - 1.0 if small else whole)
    over, over_low = total(part - 1.0, scaled(a_low, -whole))
    under, under_low = total(2.0, over)
    under_low = under_low + over_low
    under = 1.0 if under == 0.0 else under
    s = over / under
    back, back_low = product(s, under)
    s_low = ((over - back) - back_low + over_low - s * under_low) / under
    w, w_low = product(s, s)
    w_low = w_low + 2.0 * s * s_low
    curve = 1.0 / 23.0
    curve = curve * w + 1.0 / 21.0
    curve = curve * w + 1.0 / 19.0
    curve = curve * w + 1.0 / 17.0
    curve = curve * w + 1.0 / 15.0
    curve = curve * w + 1.0 / 13.0
    curve = curve * w + 1.0 / 11.0
    curve = curve * w + 1.0 / 9.0
    curve = curve * w + 1.0 / 7.0
    curve = curve * w + 1.0 / 5.0
    t, t_low = product(w, THIRD)
    t_low = t_low + w * THIRD_LOW + w_low * THIRD
    t, rest = total(t, w * w * curve)
    t_low = t_low + rest
    more, more_low = product(s, t)
    more_low = more_low + s * t_low + s_low * t
    high, rest = total(s, more)
    low = rest + (more_low + s_low)
    high, rest = total(whole * LN2, 2.0 * high)
    return total(high, rest + (2.0 * low + whole * LN2_LOW))


def log(a: Any) -> Any:
    """Return the natural logarithm of a: minus infinity for 0, and no number below."""
    high, _ = _logarithm(1.0 if not 0.0 < a < INFINITE else a, 0.0)
    return high if 0.0 < a < INFINITE else NEITHER if not a >= 0.0 else a if a > 0.0 else -INFINITE


def log1p(a: Any) -> Any:
    """Return the natural logarithm of 1 + a, exact for small a: minus infinity for -1, and no number below."""
    inside = -1.0 < a < INFINITE
    one, rest = total(1.0, a if inside else 0.0)
    high, _ = _logarithm(one, rest)
    return high if inside else NEITHER if not a >= -1.0 else a if a > -1.0 else -INFINITE


def power(x: Any, y: Any) -> Any:
    """Return x to the power y, both finite; no number where x is below 0 and y is not whole."""
    size = fabs(x)
    high, low = _logarithm(1.0 if size == 0.0 else size, 0.0)
    times = 1e25 if y > 1e25 else -1e25 if y < -1e25 else y
    up, up_low = product(high, times)
    found = _exponential(up, up_low + low * times)
    found = (0.0 if y > 0.0 else INFINITE) if size == 0.0 else found
    half = 0.5 * y
    odd = floor(y) == y and floor(half) != half
    found = copysign(found, x) if odd else found
    found = NEITHER if x < 0.0 and floor(y) != y else found
    # what can be said with one operation is rounded once
    found = 1.0 / (1.0 if size == 0.0 else x) if y == -1.0 and size != 0.0 else found
    found = sqrt(size) if y == 0.5 and x >= 0.0 else found
    found = x * x if y == 2.0 else found
    return 1.0 if y == 0.0 else x if y == 1.0 else found
