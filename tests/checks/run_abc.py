"""Read every tune of the collections twice, and write the figures to docs/abc.md.

    .venv/bin/python -m tests.checks.run_abc [--every N]

Takes some minutes on two cores.
"""

from __future__ import annotations

import argparse
import os
from collections import Counter
from multiprocessing import Pool
from pathlib import Path

from rich.progress import track

from dromic.formats.reading.raw import counted
from tests.checks.abc_reasons import reasons
from tests.checks.abc_tunes import COLLECTIONS, Compared, compared, tunes

PAGE = Path(__file__).parents[2] / "docs" / "abc.md"


def _read(text: str) -> tuple[Compared, tuple[str, ...]]:
    one = compared(text)
    return one, () if one.agree else reasons(one, text)


def main() -> None:
    """Read them all."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--every", type=int, default=1)
    every = parser.parse_args().every
    rows, causes, several, shown = [], Counter[str](), 0, []
    for name in COLLECTIONS:
        texts = tunes(name)[::every]
        with Pool(os.cpu_count()) as pool:
            both = list(track(pool.imap(_read, texts, chunksize=8), total=len(texts), description=name))
        found = [one for one, _ in both]
        alike = sum(one.agree for one in found)
        read = sum(not one.riff_refused for one in found)
        notes = sum(len(one.ours) for one in found)
        rows.append(f"| {name} | {len(texts)} | {notes} | {read} | {alike} | {100 * alike / len(texts):.1f} % |")
        for number, (one, why) in enumerate(both, start=1):
            if not one.agree:
                causes.update(why)
                several += len(why) > 1
            if one.riff_refused or not (one.agree or why):
                shown.append(f"- {name}, tune {number}: {one.riff_refused or one.where}")
    PAGE.write_text(
        "# ABC tunes read twice\n\n"
        "Made by `.venv/bin/python -m tests.checks.run_abc`. Every tune of the open collections that the music21 "
        "package carries, read by Dromic and by music21, note by note (pitches and lengths in written order, ties "
        "joined, ornaments taken out for both). *Read* means that Dromic makes a riff of the whole tune, repeats, "
        "endings and ornaments included.\n\n"
        "| collection | tunes | notes | read | alike | share |\n|---|---|---|---|---|---|\n"
        + "\n".join(rows)
        + "\n\nWhere the two differ; each cause was written out of the tune, and then the two agreed "
        f"({several} of the tunes have more than one cause):\n\n"
        + "\n".join(f"- {counted(count, 'tune')}: {why}" for why, count in causes.most_common())
        + ("\n\nWhere no reason is known:\n\n" + "\n".join(shown[:60]) if shown else "")
        + "\n",
        encoding="utf-8",
    )
    print(PAGE.read_text(encoding="utf-8"))


if __name__ == "__main__":
    main()
