"""Where the program starts: before anything large is loaded, so that Ctrl+C is quiet even then."""

from __future__ import annotations

import gc
import os
import signal
import sys
from contextlib import suppress
from types import FrameType

from dromic.console import INTERRUPTED


def _leave(_number: int, _frame: FrameType | None) -> None:
    with suppress(OSError):
        os.write(2, b"interrupted\n")
    os._exit(INTERRUPTED)


def main() -> int:
    """Load the program and run it."""
    signal.signal(signal.SIGINT, _leave)
    # What is loaded stays: looking for garbage in it takes a tenth of the time.
    gc.disable()
    from dromic.cli import main as run

    gc.freeze()
    gc.enable()
    signal.signal(signal.SIGINT, signal.default_int_handler)
    return run()


if __name__ == "__main__":
    sys.exit(main())
