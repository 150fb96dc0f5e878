"""Entries about tags."""

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.entry import condition, role, slot
from gatillo.catalogue.surroundings import Asked, Rows


@condition(
    "{who} has tag {tag}", "Whether the object, or its kind, carries a tag.", who=role(), tag=slot("tag")
)
def has_tag(world: Asked, who: Rows, tag: str) -> NDArray[np.bool_]:
    return world.tagged(who, tag)
