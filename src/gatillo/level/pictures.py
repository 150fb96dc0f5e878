"""Pictures within a level: small PNG files as text, and nothing else."""

from __future__ import annotations

import base64
import binascii

PREFIX = "data:image/png;base64,"
MOST_BYTES = 300_000
_SIGNATURE = b"\x89PNG\r\n\x1a\n"
MOST_SIDE = 2048
"""Pixels of either side."""
MOST_PIXELS = 16 << 20
"""Pixels of all pictures of a level together; they take four bytes each once they are shown."""


def as_text(png: bytes) -> str:
    """Return a PNG as it stands in a level. Raises ValueError with a sentence if it cannot stand there."""
    if not png.startswith(_SIGNATURE):
        raise ValueError("a picture within a level is a PNG; this is not one")
    if len(png) > MOST_BYTES:
        raise ValueError(
            f"the picture takes {len(png) // 1000} kB; within a level it may take {MOST_BYTES // 1000} kB. Make it smaller"
        )
    wide, high = size_of(png)
    if not (0 < wide <= MOST_SIDE and 0 < high <= MOST_SIDE):
        raise ValueError(
            f"the picture has {wide:,} × {high:,} pixels; within a level a side may have 1 to {MOST_SIDE:,}. Make it smaller"
        )
    return PREFIX + base64.b64encode(png).decode("ascii")


def as_png(text: str) -> bytes:
    """Return the PNG that a level's text holds. Raises ValueError with a sentence."""
    if not text.startswith(PREFIX):
        raise ValueError(f"a picture begins with “{PREFIX}”")
    try:
        png = base64.b64decode(text[len(PREFIX) :], validate=True)
    except binascii.Error:
        raise ValueError("the picture is not whole: its text cannot be read") from None
    as_text(png)
    return png


def size_of(png: bytes) -> tuple[int, int]:
    """Return the width and height in pixels that a PNG says it has (its first chunk, IHDR, PNG specification 11.2.2).

    Nothing is unpacked. Raises ValueError where it does not begin as a PNG does.
    """
    if png[:8] != _SIGNATURE or png[12:16] != b"IHDR" or len(png) < 24:
        raise ValueError("the picture is not a whole PNG: it does not say how large it is")
    return int.from_bytes(png[16:20], "big"), int.from_bytes(png[20:24], "big")
