"""The subjects of the catalogue: each module of entries/ is one, and says its title and its place in lists."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Subject:
    """What a module of entries says of itself."""

    title: str
    place: int
    """Its place in lists, from what every level needs to what few do. Each subject has one of its own."""


SUBJECTS: dict[str, Subject] = {}
"""By the name of the module that declares them, in the order of their places. Filled when the catalogue is imported."""


def add_subjects(found: dict[str, object]) -> None:
    """Add the subjects of modules, given by the modules' names.

    Raises TypeError for a module without a `SUBJECT`, and for two with the same place or title.
    """
    for name, subject in found.items():
        if not isinstance(subject, Subject):
            raise TypeError(f"entries/{name}.py does not say its SUBJECT")
        for other, known in SUBJECTS.items():
            if subject.place == known.place or subject.title == known.title:
                raise TypeError(f"entries/{name}.py and entries/{other}.py have the same title or place")
        SUBJECTS[name] = subject
    ordered = sorted(SUBJECTS.items(), key=lambda item: item[1].place)
    SUBJECTS.clear()
    SUBJECTS.update(ordered)


def in_order(subject: str) -> int:
    """Return a subject's place in lists."""
    return SUBJECTS[subject].place
