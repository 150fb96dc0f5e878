"""Compiles the kernels (src/gatillo/kernels) where that is possible; all else is in pyproject.toml.

Without Cython, a compiler or Python's headers the kernels stay Python modules, which do the same more slowly. With
GATILLO_KERNELS=python in the environment nothing is compiled; with GATILLO_KERNELS=compiled a failure is an error.
"""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

from setuptools import Extension, setup

KERNELS = Path("src/gatillo/kernels")
INSTEAD = {
    "from gatillo.kernels.plain import": "from cython.cimports.gatillo.kernels.native import",
    **{
        f"from gatillo.kernels.{name} import": f"from cython.cimports.gatillo.kernels.{name} import"
        for name in ("columns", "elementary", "nearness", "shapes")
    },
}
"""What a compiled kernel imports in the place of Python functions: C functions of the same names."""
WANTED = os.environ.get("GATILLO_KERNELS", "")
# no fused multiply-add: results must have the same bits on every processor
FLAGS = ["-O2", "-g0", "-ffp-contract=off", "-fno-fast-math"]


def write(path: Path, words: str) -> None:
    """Write a file anew if it has other words: what depends on it is compiled again then."""
    if not path.exists() or path.read_text(encoding="utf-8") != words:
        path.write_text(words, encoding="utf-8")


def extensions() -> list[Any]:
    """Return the kernels as extensions; none where they are not to be compiled."""
    if WANTED == "python":
        return []
    try:
        import numpy
        from Cython.Build import cythonize
    except ImportError:
        if WANTED == "compiled":
            raise
        return []
    # Cython finds the types of a module by its package
    build = Path("build/kernels/gatillo/kernels")
    build.mkdir(parents=True, exist_ok=True)
    for package in (build, build.parent):
        (package / "__init__.py").touch()
    for types in KERNELS.glob("*.pxd"):
        write(build / types.name, types.read_text(encoding="utf-8"))
    found = []
    for source in sorted((*KERNELS.glob("*.py"), *KERNELS.glob("*.pyx"))):
        name = source.stem
        if source.suffix == ".py" and not source.with_suffix(".pxd").exists():
            continue
        # the same source, with C functions in the place of Python's
        text = source.read_text(encoding="utf-8")
        for python, native in INSTEAD.items():
            text = text.replace(python, native)
        write(build / source.name, text)
        found.append(
            Extension(
                f"gatillo.kernels.{name}",
                [str(build / source.name)],
                include_dirs=[numpy.get_include()],
                define_macros=[("NPY_NO_DEPRECATED_API", "NPY_2_0_API_VERSION")],
                extra_compile_args=FLAGS,
            )
        )
    directives = {
        "language_level": 3,
        "annotation_typing": False,
        "boundscheck": False,
        "wraparound": False,
        "cdivision": True,
    }
    made: list[Any] = cythonize(found, compiler_directives=directives)
    for extension in made:
        extension.optional = WANTED != "compiled"
    return made


setup(ext_modules=extensions())
