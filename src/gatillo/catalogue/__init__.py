"""The catalogue: what rules can be made of. Importing it declares every entry."""

from gatillo.catalogue import (
    areas,
    bonds,
    changes,
    contact,
    flow,
    keys,
    life,
    messages,
    moving,
    picks,
    pointer,
    relations,
    tags,
    talking,
    time,
    variables,
)
from gatillo.catalogue.entry import ALWAYS, CATALOGUE, Entry, Slot

__all__ = [
    "ALWAYS",
    "CATALOGUE",
    "Entry",
    "Slot",
    "areas",
    "bonds",
    "changes",
    "contact",
    "flow",
    "keys",
    "life",
    "messages",
    "moving",
    "picks",
    "pointer",
    "relations",
    "tags",
    "talking",
    "time",
    "variables",
]
