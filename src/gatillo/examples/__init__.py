"""The studies and the whole level, as level files."""

from importlib.resources import as_file, files
from pathlib import Path


def study_names() -> list[str]:
    """File names of all examples, in their order."""
    return sorted(f.name for f in files(__name__).iterdir() if f.name.endswith(".gatillo"))


def study_path(name: str) -> Path:
    """Where an example stands. Raises FileNotFoundError if there is none of that name."""
    with as_file(files(__name__).joinpath(name)) as path:
        if not path.exists():
            raise FileNotFoundError(name)
        return path


DEMO = "01-seed-pods.gatillo"
"""What the demo opens."""
