"""Plain loops over numbers, which are compiled where there is a compiler (setup.py) and run as Python elsewhere.

A kernel is a Python module of functions over numbers and buffers, and beside it a `.pxd` file with the same functions' C types.
Both ways the same operations are done in the same order, so that the results have the same bits. A kernel knows no world: it
is given columns of numbers, and writes what it finds into buffers that it is given. Arrays are given to it through `column`.
With GATILLO_KERNELS=python in the environment the Python sources are used though they have been compiled.
"""

from __future__ import annotations

import os
import sys
import warnings
from contextlib import suppress
from importlib import import_module
from importlib.abc import MetaPathFinder
from importlib.machinery import EXTENSION_SUFFIXES, ModuleSpec
from importlib.util import module_from_spec, spec_from_file_location
from pathlib import Path
from types import ModuleType
from typing import Any

import numpy as np
from numpy.typing import NDArray

_FOLDER = Path(__file__).parent


def as_python(name: str) -> ModuleType:
    """Return a kernel's source as a Python module, whether it has been compiled or not."""
    spec = spec_from_file_location(f"{__name__}.{name}", _FOLDER / f"{name}.py")
    assert spec is not None and spec.loader is not None
    module = module_from_spec(spec)
    spec.loader.exec_module(module)
    return module


class _Sources(MetaPathFinder):
    """Finds the sources of kernels in the place of what they have been compiled to, whichever imports which."""

    def find_spec(self, fullname: str, path: object, target: ModuleType | None = None) -> ModuleSpec | None:
        package, _, name = fullname.rpartition(".")
        if package != __name__ or not (_FOLDER / f"{name}.pxd").exists():
            return None
        return spec_from_file_location(fullname, _FOLDER / f"{name}.py")


if os.environ.get("GATILLO_KERNELS") == "python":
    sys.meta_path.insert(0, _Sources())

KERNELS: dict[str, ModuleType] = {
    name: import_module(f"{__package__}.{name}")
    for name in sorted(path.stem for path in _FOLDER.glob("*.pxd"))
    if name != "native"
}
"""The kernels by name: what has C types beside it."""
ufuncs: Any = None
"""The elementary functions over arrays, compiled; None where kernels are not compiled."""
if all(str(kernel.__file__).endswith(tuple(EXTENSION_SUFFIXES)) for kernel in KERNELS.values()):
    with suppress(ImportError):
        # each of them is compiled by itself, where that succeeds
        ufuncs = import_module(f"{__package__}.ufuncs")
COMPILED = ufuncs is not None
"""Whether the kernels are compiled here, and the compiled ones are used."""

SENTENCE = (
    "with compiled kernels"
    if COMPILED
    else "without compiled kernels: runs give the same results, and take longer"
)
"""What is said of this installation."""


def _is_stale(kernel: ModuleType) -> bool:
    """Return whether a source was changed after it was compiled."""
    made = Path(str(kernel.__file__)).stat().st_mtime
    sources = (_FOLDER / f"{kernel.__name__.rpartition('.')[2]}{ending}" for ending in (".py", ".pxd"))
    return any(source.exists() and source.stat().st_mtime > made + 2 for source in sources)


if COMPILED and any(map(_is_stale, KERNELS.values())):
    warnings.warn("a kernel was changed after it was compiled; “make setup” compiles it", stacklevel=2)


def column(array: NDArray[Any]) -> Any:
    """Return an array as a kernel takes it: as it is, or for a kernel in Python as a memoryview of it, which gives plain numbers."""
    return array if COMPILED else array.data


def room(rows: int, many: int) -> NDArray[np.int64]:
    """Return an uninitialised buffer of whole numbers, shape (rows, many), for what a kernel finds."""
    return np.empty((rows, many), dtype=np.int64)
