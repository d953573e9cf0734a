"""Read tunes that another program has written as MIDI, and write the figures to docs/midi.md.

    .venv/bin/python -m tests.checks.run_midi [--every N]

Takes some minutes on two cores.
"""

from __future__ import annotations

import argparse
import os
from multiprocessing import Pool
from pathlib import Path

from rich.progress import track

from tests.checks.abc_tunes import COLLECTIONS, tunes
from tests.checks.midi_tunes import Played, played

PAGE = Path(__file__).parents[2] / "docs" / "midi.md"


def main() -> None:
    """Read them all, or every Nth."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--every", type=int, default=1)
    every = parser.parse_args().every
    rows, shown = [], []
    for name in COLLECTIONS:
        texts = tunes(name)[::every]
        with Pool(os.cpu_count()) as pool:
            found: list[Played | None] = list(
                track(pool.imap(played, texts, chunksize=4), total=len(texts), description=name)
            )
        good = [one for one in found if one is not None]
        notes, lengths = sum(len(one.written) for one in good), sum(one.lengths for one in good)
        places = sum(one.places for one in good)
        rows.append(f"| {name} | {len(texts)} | {len(good)} | {places} | {notes} | {lengths} |")
        shown += [
            f"- {name}, tune {number * every + 1}: {_where(one)}"
            for number, one in enumerate(found)
            if one is not None and not one.places
        ]
    PAGE.write_text(
        "# Tunes through MIDI\n\n"
        f"Made by `.venv/bin/python -m tests.checks.run_midi{f' --every {every}' if every > 1 else ''}`. Tunes of "
        "the open collections that the music21 package carries, written by music21 as MIDI files with their "
        "repeats played out, and read by Dromic. *At their places*: every note and chord has its pitches and "
        "begins where music21 wrote it; the last column counts the notes that have their length, too.\n\n"
        "| collection | tunes | written | at their places | notes | with their length |\n"
        "|---|---|---|---|---|---|\n"
        + "\n".join(rows)
        + ("\n\nWhere one is not:\n\n" + "\n".join(shown[:60]) if shown else "")
        + "\n",
        encoding="utf-8",
    )
    print(PAGE.read_text(encoding="utf-8"))


def _where(one: Played) -> str:
    pairs = zip(one.written, one.read, strict=False)
    number, (written, read) = next(
        ((number, pair) for number, pair in enumerate(pairs, start=1) if pair[0][:2] != pair[1][:2]),
        (0, (None, None)),
    )
    if written is None or read is None:
        return f"{len(one.written)} and {len(one.read)} notes"
    return f"note {number}: {written[0]} at {written[1]} and {read[0]} at {read[1]}"


if __name__ == "__main__":
    main()
