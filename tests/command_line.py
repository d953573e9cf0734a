"""The command line as a process that need not load the program each time.

One process loads it and forks for every command: each has its own memory, output and exit code, as a user's has.
"""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import tempfile
from collections.abc import Mapping
from functools import cache
from pathlib import Path

LONGEST_S = 120


@cache
def _server() -> subprocess.Popen[str]:
    command = [sys.executable, "-m", "tests.command_line"]
    root = Path(__file__).parents[1]
    return subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=root)


def run_command(
    *words: str, env: Mapping[str, str] | None = None, folder: Path | None = None
) -> subprocess.CompletedProcess[str]:
    """Run ``dromic`` with some words; as `subprocess.run`, with what it wrote as text."""
    server = _server()
    assert server.stdin is not None
    assert server.stdout is not None
    with tempfile.TemporaryDirectory() as place:
        out, err = (Path(place) / name for name in ("out", "err"))
        wanted = {
            "words": words,
            "env": dict(os.environ if env is None else env),
            "folder": str(folder or Path.cwd()),
            "out": str(out),
            "err": str(err),
        }
        print(json.dumps(wanted), file=server.stdin, flush=True)
        code = int(server.stdout.readline())
        return subprocess.CompletedProcess(words, code, out.read_text(), err.read_text())


def _run(wanted: Mapping[str, object]) -> None:
    """What the forked process does; it ends as any other, so that what is open is closed."""
    signal.alarm(LONGEST_S)
    os.chdir(str(wanted["folder"]))
    os.environ.clear()
    os.environ.update(wanted["env"])  # type: ignore[call-overload]
    for number, name in ((1, "out"), (2, "err")):
        os.dup2(os.open(str(wanted[name]), os.O_WRONLY | os.O_CREAT), number)
    os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
    sys.argv = ["dromic", *wanted["words"]]  # type: ignore[misc]
    from dromic.entry import main

    sys.exit(main())


def _serve() -> None:
    import dromic.cli
    import dromic.cli_practice
    import dromic.planner.planning  # noqa: F401

    for line in sys.stdin:
        child = os.fork()
        if not child:
            _run(json.loads(line))
        _, status = os.waitpid(child, 0)
        print(os.waitstatus_to_exitcode(status), flush=True)


if __name__ == "__main__":
    _serve()
