"""Tries to break the compiled kernel: ``.venv/bin/python -m tests.checks.run_kernel_fuzz --seconds 60``.

The kernel is built a second time, in a folder of its own, with every index of its wrapper checked and its loops
under the sanitizers of the compiler (addresses and undefined behaviour). Moves that no hand makes are then put
through it, and every number is compared with the kernel in NumPy. A wrong address ends the process with a report; a
wrong number, with the seed.
"""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent.parent


def built(folder: Path) -> dict[str, str]:
    """Build the package with checks in a folder, and return the environment that runs it."""
    copy, made = folder / "copy", folder / "made"
    shutil.copytree(ROOT / "src", copy / "src", ignore=shutil.ignore_patterns("*.so", "__pycache__", "*.egg-info"))
    for name in ("setup.py", "pyproject.toml", "README.md", "LICENSE"):
        shutil.copy(ROOT / name, copy / name)
    command = [sys.executable, "-m", "pip", "install", "--quiet", "--no-deps", "--target", str(made), str(copy)]
    subprocess.run(command, env=os.environ | {"DROMIC_KERNEL_CHECKS": "1"}, check=True)
    asan = subprocess.run(["gcc", "-print-file-name=libasan.so"], capture_output=True, text=True, check=True)
    return os.environ | {
        "LD_PRELOAD": asan.stdout.strip(),
        # The interpreter itself frees nothing at its end.
        "ASAN_OPTIONS": "detect_leaks=0",
        "UBSAN_OPTIONS": "halt_on_error=1",
        "PYTHONPATH": f"{made}:{ROOT}",
        "PYTHONMALLOC": "malloc",
    }


def fuzz(seconds: float, seed: int) -> int:
    """Put random moves through both kernels; how many."""
    from tests.planner.test_kernel import check, made_up_from

    until, count = time.monotonic() + seconds, 0
    while time.monotonic() < until:
        moves = made_up_from(np.random.default_rng(seed + count))
        try:
            check(moves, seed + count)
        except AssertionError as error:
            error.add_note(f"seed {seed + count}")
            raise
        count += 1
    return count


def main() -> None:
    """Build, fuzz in a process of its own, and say how much was tried."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=float, default=60.0)
    parser.add_argument("--seed", type=int, default=0)
    parser.add_argument("--inside", action="store_true", help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.inside:
        from dromic.planner import kernel
        from dromic.planner.kernel import COMPILED

        assert COMPILED, "the kernel with checks was not built"
        assert not Path(str(kernel.__file__)).is_relative_to(ROOT), "this is the kernel without checks"
        print(f"{fuzz(options.seconds, options.seed)} moves, no difference and nothing out of bounds")
        return
    with tempfile.TemporaryDirectory() as folder:
        env = built(Path(folder))
        command = [sys.executable, "-m", "tests.checks.run_kernel_fuzz", "--inside"]
        command += ["--seconds", str(options.seconds), "--seed", str(options.seed)]
        sys.exit(subprocess.run(command, env=env, cwd=ROOT, check=False).returncode)


if __name__ == "__main__":
    main()
