"""The compiled part of the package; all else is said in pyproject.toml.

``DROMIC_KERNEL_CHECKS=1`` in the environment builds it with every index checked, for tests that try to break it.
"""

import os

from Cython.Build import cythonize
from setuptools import Extension, setup

checks = os.environ.get("DROMIC_KERNEL_CHECKS") == "1"
checked = ["-O1", "-g", "-fsanitize=address,undefined", "-fno-omit-frame-pointer"] if checks else ["-g0"]
kernel = Extension(
    "dromic.planner.kernel.compiled",
    ["src/dromic/planner/kernel/compiled.pyx"],
    include_dirs=["src/dromic/planner/kernel"],
    depends=["src/dromic/planner/kernel/loops.h"],
    # Sums must be those of NumPy to the last bit: nothing contracted, nothing reordered.
    extra_compile_args=["-O3", "-ffp-contract=off", "-fno-trapping-math", "-fno-math-errno", *checked],
    extra_link_args=["-fsanitize=address,undefined"] if checks else [],
)
modules = cythonize([kernel], compiler_directives={"boundscheck": checks}, build_dir="build")
for module in modules:
    # Without a compiler the package is installed all the same, and counts in NumPy.
    module.optional = True
setup(ext_modules=modules)
