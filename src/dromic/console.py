"""What is said on standard output and standard error, and what stands in the way of it.

Titles and names come from files of strangers: what would steer a terminal is not sent to it. An output that is
closed, full or of another encoding is a failure in one line like any other.
"""

from __future__ import annotations

import io
import os
import signal
import sys
import time
import unicodedata
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from types import FrameType
from typing import TextIO

from dromic.errors import DromicError, RiffError

LONGEST_MESSAGE = 300
BREAKS = "\n\t"
INTERRUPTED = 130
FIRST_PROGRESS_S, EVERY_PROGRESS_S = 1.0, 0.2


class OutputError(RiffError):
    """Standard output does not take what is said."""


def harmless(text: str) -> str:
    r"""The text without what steers a terminal, and without halves of characters.

    Examples
    --------
    >>> harmless("a\x1b[2Jb\ud800")
    'a?[2Jb?'
    """
    if text.isprintable() and not _halved(text):
        return text
    return "".join("?" if one not in BREAKS and unicodedata.category(one) in ("Cc", "Cs") else one for one in text)


def _halved(text: str) -> bool:
    try:
        text.encode()
    except UnicodeEncodeError:
        return True
    return False


def one_line(error: DromicError) -> str:
    r"""The error in one line that fits a terminal, its middle left out where it is too long.

    Examples
    --------
    >>> one_line(RiffError("no\nbar"))
    'no bar'
    """
    words = " ".join(harmless(str(error)).split())
    if len(words) <= LONGEST_MESSAGE:
        return words
    half = (LONGEST_MESSAGE - 5) // 2
    return f"{words[:half]} ... {words[-half:]}"


def say(text: str, end: str = "\n") -> None:
    """Write to standard output.

    Raises
    ------
    OutputError
        When it is closed or full.
    """
    _write(harmless(text) + end)


def tell(text: str) -> None:
    """Write a line to standard error, if anybody listens."""
    with suppress(OSError, ValueError, AttributeError):
        sys.stderr.write(harmless(text) + "\n")
        sys.stderr.flush()


@contextmanager
def progress(words: str) -> Iterator[Callable[[float], None]]:
    """While work is done that may take long: gives what is to be told how much of it is done, from 0 to 1.

    It is shown on standard error, in one line that goes again, where that is a terminal, after a second.
    """
    stream = sys.stderr
    shown = False
    next_s = time.monotonic() + FIRST_PROGRESS_S

    def show(share: float) -> None:
        nonlocal shown, next_s
        now = time.monotonic()
        if now < next_s or not _is_terminal(stream):
            return
        next_s, shown = now + EVERY_PROGRESS_S, True
        with suppress(OSError, ValueError):
            stream.write(f"\r{words} {100 * min(max(share, 0.0), 1.0):.0f} % ")
            stream.flush()

    try:
        yield show
    finally:
        if shown:
            with suppress(OSError, ValueError):
                stream.write("\r" + " " * (len(words) + 7) + "\r")
                stream.flush()


def _is_terminal(stream: TextIO | None) -> bool:
    try:
        return stream is not None and stream.isatty()
    except (OSError, ValueError):
        return False


def _write(text: str) -> None:
    try:
        if sys.stdout is None:
            raise OutputError("standard output is closed; give it a file or a terminal")
        sys.stdout.write(text)
        sys.stdout.flush()
    except BrokenPipeError:
        raise
    except (OSError, ValueError) as error:
        words = (getattr(error, "strerror", None) or str(error)).lower()
        raise OutputError(f"standard output cannot be written: {words}; give it another file") from None


def settle_streams() -> None:
    """Let both outputs say every letter somehow, whatever the encoding."""
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")


def forget_output() -> None:
    """Throw away what standard output could not take, so that nothing complains of it at the end."""
    with suppress(OSError, ValueError, AttributeError):
        nowhere = os.open(os.devnull, os.O_WRONLY)
        os.dup2(nowhere, sys.stdout.fileno())
        os.close(nowhere)


@contextmanager
def ends_tidily() -> Iterator[None]:
    """A request to end (SIGTERM) ends what runs as an error would, so that it leaves nothing half done."""

    def leave(number: int, _: FrameType | None) -> None:
        raise SystemExit(128 + number)

    before = signal.signal(signal.SIGTERM, leave)
    try:
        yield
    finally:
        signal.signal(signal.SIGTERM, before)
