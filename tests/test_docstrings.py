"""Every public function and class has a docstring: its own, its declaration's, its protocol's, or Qt's for what Qt calls."""

from __future__ import annotations

import importlib
import inspect
import pkgutil

import gatillo
from gatillo.catalogue import CATALOGUE


def modules():
    for found in pkgutil.walk_packages(gatillo.__path__, "gatillo."):
        if found.name != "gatillo.__main__":
            yield importlib.import_module(found.name)


def called_by_qt(name):
    return name == "event" or (name[0].islower() and any(letter.isupper() for letter in name))


def public(module):
    """What a module itself defines and names without an underscore, with the methods of its classes."""
    for name, thing in vars(module).items():
        if name.startswith("_") or getattr(thing, "__module__", None) != module.__name__:
            continue
        if inspect.isclass(thing):
            yield name, thing
            for part, member in vars(thing).items():
                if (
                    not part.startswith("_")
                    and not called_by_qt(part)
                    and type(member).__name__ != "Signal"
                    and (callable(member) or isinstance(member, property))
                ):
                    yield f"{name}.{part}", getattr(thing, part)
        elif inspect.isfunction(thing):
            yield name, thing


def test_every_public_function_says_what_it_gives():
    missing = [
        f"{module.__name__}.{name}"
        for module in modules()
        for name, thing in public(module)
        if not inspect.getdoc(thing)
    ]
    assert missing == []


def test_what_an_entry_computes_says_what_its_declaration_says():
    assert all(inspect.getdoc(entry.compute) for entry in CATALOGUE.values())
