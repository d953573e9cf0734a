"""Do the tests notice? Small faults are put into the heart, one at a time, and its tests are run.

``python -m tests.checks.run_mutants --count 100 --write`` samples mutants of `hands`, `planner`, `practice/climb`,
`history` and `app/chart/layout` in a copy of the checkout, runs each against the tests of its room, and writes
docs/mutants.md.
"""

from __future__ import annotations

import argparse
import ast
import os
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue
from random import Random

ROOT = Path(__file__).parents[2]
PAGE = ROOT / "docs" / "mutants.md"
MODEL_PAGE = "tests/test_core.py::test_the_model_page_has_every_constant_as_it_is"
# Quick ones first: a mutant that is noticed is noticed soon.
PLANNER = (
    MODEL_PAGE,
    "tests/hands",
    "tests/planner/test_corpus.py",
    "tests/planner/test_planning.py",
    "tests/planner",
    "tests/schools",
    "tests/checks/test_trade.py",
    "tests/checks/test_trade_fretting.py",
    "tests/checks/test_trade_picking.py",
    "tests/checks/test_ceilings.py",
    "tests/checks/test_physics.py",
    "tests/checks/test_promises.py",
)
TOLD = (
    "tests/music/test_harmony.py",
    "tests/app/test_comparing.py",
    "tests/app/test_deciding.py",
    "tests/app/test_learning.py",
    "tests/planner",
    "tests/test_cli.py",
    "tests/formats",
)
# Of several that hold for a module the last counts.
ROOMS = {
    "src/dromic/hands/*.py": PLANNER,
    "src/dromic/planner/**/*.py": PLANNER,
    "src/dromic/planner/told/*.py": TOLD,
    "src/dromic/planner/play_learning.py": TOLD,
    "src/dromic/planner/families.py": TOLD,
    "src/dromic/hands/learning.py": TOLD,
    "src/dromic/planner/kernel/plain.py": ("tests/planner/test_kernel.py", "tests/planner"),
    "src/dromic/practice/**/*climb*.py": ("tests/practice",),
    "src/dromic/practice/log/history.py": ("tests/practice",),
    "src/dromic/app/chart/layout.py": (
        "tests/app/test_chart_layout.py",
        "tests/app/test_kept_pictures.py",
        "tests/app",
    ),
}
COMPARED = {ast.Lt: "<=", ast.LtE: "<", ast.Gt: ">=", ast.GtE: ">", ast.Eq: "!=", ast.NotEq: "=="}
REASONED = {ast.Add: "-", ast.Sub: "+", ast.Mult: "/", ast.Div: "*"}
MOST_SECONDS = 1800


@dataclass(frozen=True)
class Mutant:
    """A fault: where it is, and what stands there instead."""

    path: Path
    line: int
    first: int
    last: int
    old: str
    new: str
    tests: tuple[str, ...]

    @property
    def words(self) -> str:
        """Where it is and what it does."""
        return f"{self.path.as_posix()}:{self.line}: `{self.old}` becomes `{self.new}`"


def mutants_of(path: Path, tests: tuple[str, ...]) -> Iterator[Mutant]:
    """Every fault that can be put into a module."""
    source = (ROOT / path).read_text(encoding="utf-8")
    lines = source.split("\n")
    tree = ast.parse(source)
    shown = {id(node) for parent in ast.walk(tree) if isinstance(parent, ast.Expr) for node in ast.walk(parent)}
    made = (one for one in ast.walk(tree) if isinstance(one, ast.ClassDef | ast.FunctionDef))
    shown |= {id(node) for one in made for decorator in one.decorator_list for node in ast.walk(decorator)}
    for node in ast.walk(tree):
        if id(node) in shown or isinstance(node, ast.JoinedStr):
            continue
        for line, first, last, new in _faults(node, lines):
            yield Mutant(path, line, first, last, lines[line - 1][first:last], new, tests)


def _faults(node: ast.AST, lines: Sequence[str]) -> Iterator[tuple[int, int, int, str]]:
    if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in COMPARED:
        yield from _between(node.left, node.comparators[0], COMPARED[type(node.ops[0])], lines)
    elif isinstance(node, ast.BinOp) and type(node.op) in REASONED:
        yield from _between(node.left, node.right, REASONED[type(node.op)], lines)
    elif isinstance(node, ast.BoolOp) and len(node.values) == 2:
        one, two = node.values
        yield from _between(one, two, "or" if isinstance(node.op, ast.And) else "and", lines)
    elif isinstance(node, ast.Constant) and node.end_col_offset is not None:
        value = node.value
        new = ""
        if isinstance(value, bool):
            new = str(not value)
        elif isinstance(value, int):
            new = str(value + 1)
        elif isinstance(value, float):
            new = repr(value * 1.5 + 0.1)
        if new:
            yield node.lineno, node.col_offset, node.end_col_offset, new
    elif isinstance(node, ast.IfExp | ast.If) and node.test.lineno == node.test.end_lineno:
        end = node.test.end_col_offset
        assert end is not None
        old = lines[node.test.lineno - 1][node.test.col_offset : end]
        yield node.test.lineno, node.test.col_offset, end, f"(not ({old}))"


def _between(one: ast.expr, two: ast.expr, new: str, lines: Sequence[str]) -> Iterator[tuple[int, int, int, str]]:
    """Another operator between two expressions of one line."""
    if one.end_lineno != two.lineno or one.end_col_offset is None:
        return
    between = lines[two.lineno - 1][one.end_col_offset : two.col_offset]
    old = between.strip(" ()")
    if old and " " not in old:
        first = one.end_col_offset + between.index(old)
        yield two.lineno, first, first + len(old), new


def sampled(count: int, seed: int) -> list[Mutant]:
    """Mutants, as many of each room as it has of all lines."""
    tests_of: dict[Path, tuple[str, ...]] = {}
    for pattern, tests in ROOMS.items():
        tests_of.update((path.relative_to(ROOT), tests) for path in ROOT.glob(pattern))
    every = [mutant for path in sorted(tests_of) for mutant in mutants_of(path, tests_of[path])]
    return Random(seed).sample(every, min(count, len(every)))


def noticed(mutant: Mutant, copy: Path) -> bool:
    """Whether the tests of its room fail with a mutant in a copy of the checkout."""
    path = copy / mutant.path
    source = path.read_text(encoding="utf-8")
    lines = source.split("\n")
    line = lines[mutant.line - 1]
    lines[mutant.line - 1] = line[: mutant.first] + mutant.new + line[mutant.last :]
    path.write_text("\n".join(lines), encoding="utf-8")
    environment = os.environ | {"PYTHONPATH": str(copy / "src"), "QT_QPA_PLATFORM": "offscreen"}
    command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:benchmark", "-p", "no:cacheprovider"]
    try:
        run = subprocess.run(
            [*command, *mutant.tests],
            cwd=copy,
            env=environment,
            capture_output=True,
            timeout=MOST_SECONDS,
            check=False,
        )
        return run.returncode != 0
    except subprocess.TimeoutExpired:
        # What no longer ends is seen.
        return True
    finally:
        path.write_text(source, encoding="utf-8")


def judged(mutants: Sequence[Mutant], workers: int) -> Iterator[tuple[Mutant, bool]]:
    """Whether each mutant is noticed; several at a time, each in a copy of its own."""
    with tempfile.TemporaryDirectory() as folder:
        copies: Queue[Path] = Queue()
        for number in range(workers):
            copy = Path(folder) / str(number)
            for part in ("src", "tests", "benchmarks", "docs", "pyproject.toml", "README.md", "CHANGELOG.md"):
                place = ROOT / part
                if place.is_dir():
                    shutil.copytree(place, copy / part, ignore=shutil.ignore_patterns("__pycache__"))
                else:
                    shutil.copy(place, copy / part)
            copies.put(copy)

        def work(mutant: Mutant) -> tuple[Mutant, bool]:
            copy = copies.get()
            try:
                return mutant, noticed(mutant, copy)
            finally:
                copies.put(copy)

        with ThreadPoolExecutor(workers) as threads:
            for mutant, seen in threads.map(work, mutants):
                print("noticed " if seen else "SURVIVED", mutant.words, flush=True)
                yield mutant, seen


def page(results: Sequence[tuple[Mutant, bool]], seed: int) -> str:
    """The page of figures."""
    seen = Counter(mutant.path.parts[2] for mutant, noticed_it in results if noticed_it)
    every = Counter(mutant.path.parts[2] for mutant, _ in results)
    rows = "\n".join(f"| {room} | {count} | {seen[room]} |" for room, count in sorted(every.items()))
    survivors = "\n".join(f"- {mutant.words}" for mutant, noticed_it in results if not noticed_it)
    share = 100 * seen.total() / max(every.total(), 1)
    return f"""# Mutants

Small faults (another comparison, operator, number or truth value, a condition turned round) put into `hands`,
`planner`, `practice/climb`, `history` and `app/chart/layout`, one at a time, each against the tests of its room:
`python -m tests.checks.run_mutants --count {len(results)} --seed {seed}`. {share:.0f} % are noticed.

| room | mutants | noticed |
|---|---|---|
{rows}

Those that live:

{survivors or "none"}
"""


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--count", type=int, default=100)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--workers", type=int, default=2)
    parser.add_argument("--write", action="store_true")
    asked = parser.parse_args()
    results = list(judged(sampled(asked.count, asked.seed), asked.workers))
    text = page(results, asked.seed)
    print(text)
    if asked.write:
        PAGE.write_text(text, encoding="utf-8")


if __name__ == "__main__":
    main()
