"""Entries about tags."""

import numpy as np
from numpy.typing import NDArray

from gatillo.catalogue.entry import action, condition, role, slot
from gatillo.catalogue.surroundings import Asked, Deed, Rows


@condition(
    "{who} has tag {tag}", "Whether the object, or its kind, carries a tag.", who=role(), tag=slot("tag")
)
def has_tag(world: Asked, who: Rows, tag: str) -> NDArray[np.bool_]:
    return world.tagged(who, tag)


@action(
    "give {who} the tag {tag}",
    "It carries the tag from now on; rules about that tag include it.",
    who=role(),
    tag=slot("tag", makes=True),
)
def give_tag(deed: Deed, who: Rows, tag: str) -> None:
    deed.tag(who, tag, True)


@action("take the tag {tag} from {who}", "It no longer carries the tag.", tag=slot("tag"), who=role())
def take_tag(deed: Deed, tag: str, who: Rows) -> None:
    deed.tag(who, tag, False)
