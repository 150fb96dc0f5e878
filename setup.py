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
NOT_KERNELS = ("__init__", "plain")
PLAIN, COMPILED = "from gatillo.kernels.plain import", "from cython.cimports.libc.math import"
WANTED = os.environ.get("GATILLO_KERNELS", "")
# no fused multiply-add: results must have the same bits on every processor
FLAGS = ["-O2", "-g0", "-ffp-contract=off", "-fno-fast-math"]


def extensions() -> list[Any]:
    """Return the kernels as extensions; none where they are not to be compiled."""
    if WANTED == "python":
        return []
    try:
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
    found = []
    for source in sorted(KERNELS.glob("*.py")):
        name = source.stem
        if name in NOT_KERNELS:
            continue
        # the same source, with the C library's functions in the place of Python's
        text = source.read_text(encoding="utf-8").replace(PLAIN, COMPILED)
        for path, words in (
            (build / f"{name}.py", text),
            (build / f"{name}.pxd", source.with_suffix(".pxd").read_text(encoding="utf-8")),
        ):
            if not path.exists() or path.read_text(encoding="utf-8") != words:
                path.write_text(words, encoding="utf-8")
        found.append(
            Extension(
                f"gatillo.kernels.{name}",
                [str(build / f"{name}.py")],
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
