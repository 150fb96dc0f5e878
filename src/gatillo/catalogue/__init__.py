"""The catalogue: what rules and graphs can be made of. Importing it declares every entry of entries/."""

from importlib import import_module
from pkgutil import iter_modules

from gatillo.catalogue import entries
from gatillo.catalogue.declare.entry import CATALOGUE, Entry, Slot, check_undone
from gatillo.catalogue.declare.subjects import add_subjects

__all__ = ["CATALOGUE", "Entry", "Slot"]

add_subjects(
    {
        found.name: getattr(import_module(f"{entries.__name__}.{found.name}"), "SUBJECT", None)
        for found in iter_modules(entries.__path__)
    }
)
check_undone()
