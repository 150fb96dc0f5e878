"""The catalogue: what rules can be made of. Importing it declares every entry."""

from gatillo.catalogue import contact, keys, life, messages, moving, tags, time, variables
from gatillo.catalogue.entry import ALWAYS, CATALOGUE, Entry, Slot

__all__ = [
    "ALWAYS",
    "CATALOGUE",
    "Entry",
    "Slot",
    "contact",
    "keys",
    "life",
    "messages",
    "moving",
    "tags",
    "time",
    "variables",
]
