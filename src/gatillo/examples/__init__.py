"""The studies and the whole level, as level files."""

from importlib.resources import as_file, files
from pathlib import Path

DEMO = "night-shift.gatillo"
"""The whole level: what the demo opens."""


def study_names() -> list[str]:
    """File names of the studies, in their order."""
    return [name for name in example_names() if name != DEMO]


def example_names() -> list[str]:
    """File names of all examples: the whole level, then the studies in their order."""
    found = sorted(f.name for f in files(__name__).iterdir() if f.name.endswith(".gatillo"))
    return [DEMO, *(name for name in found if name != DEMO)]


def study_path(name: str) -> Path:
    """Return where an example is. Raises FileNotFoundError if there is none of that name."""
    with as_file(files(__name__).joinpath(name)) as path:
        if not path.exists():
            raise FileNotFoundError(name)
        return path


def picture_path(name: str, *, dark: bool) -> Path:
    """Return where the picture of an example is, amid its first trial; made by `make shots`."""
    return (
        study_path(name).parent / "pictures" / f"{name.partition('.')[0]}-{'dark' if dark else 'light'}.png"
    )
