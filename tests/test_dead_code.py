"""Nothing in the program is used by nobody."""

from __future__ import annotations

from pathlib import Path

from vulture import Vulture

ROOT = Path(__file__).parents[1]
SURE = 60
# Called by Qt, or read by name: settings, colours, what a report holds, values of an enumeration in files.
PUBLIC = (
    "*Event",
    "columnCount",
    "headerData",
    "highlightBlock",
    "isSequential",
    "writeData",
    "volume_*",
    "ribbon",
    "file_watch",
    "own_hands",
    "loudness_sure_db",
    "CRUNCH",
)


def test_nothing_is_left_that_nobody_uses() -> None:
    code = Vulture(ignore_names=PUBLIC)
    code.scavenge([str(ROOT / folder) for folder in ("src/dromic", "tests", "docs", "benchmarks")])
    unused = code.get_unused_code(min_confidence=SURE)
    assert [str(item) for item in unused if ROOT / "src" in Path(item.filename).parents] == []
