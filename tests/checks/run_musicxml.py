"""Read every score twice, and write the figures to docs/musicxml.md.

    .venv/bin/python -m tests.checks.run_musicxml

Takes some minutes on two cores.
"""

from __future__ import annotations

import os
from collections import Counter
from multiprocessing import Pool
from pathlib import Path

from rich.progress import track

from dromic.formats.reading.raw import counted
from tests.checks.musicxml_scores import OTHER, Compared, compared, reason, scores, text_of

PAGE = Path(__file__).parents[2] / "docs" / "musicxml.md"


def _refusal(words: str) -> str:
    """What a refusal says, without the places and the pitches of its file."""
    if "does not reach" in words:
        return "notes that no guitar or bass reaches"
    return words.split(":")[-1].strip()


def main() -> None:
    """Read them all."""
    rows: list[str] = []
    reasons, refusals = Counter[str](), Counter[str]()
    places: list[str] = []
    for name, paths in scores().items():
        with Pool(os.cpu_count()) as pool:
            found: list[Compared] = list(
                track(pool.imap(compared, paths, chunksize=2), total=len(paths), description=name)
            )
        whole = sum(not one.unlike and not one.trouble for one in found)
        bars, unlike = sum(one.bars for one in found), sum(len(one.unlike) for one in found)
        voices, refused = sum(one.voices for one in found), sum(len(one.refused) for one in found)
        rows.append(
            f"| {name} | {len(paths)} | {whole} | {bars} | {bars - unlike} | {voices} | {voices - refused} |"
        )
        for number, (one, path) in enumerate(zip(found, paths, strict=True), start=1):
            refusals.update(_refusal(words) for words in one.refused)
            if one.unlike or one.trouble:
                why = reason(one, text_of(path))
                reasons[why] += 1
                if why == OTHER:
                    part, bar, ours, theirs = one.unlike[0]
                    places.append(f"- {name}, score {number}, part {part} bar {bar}: {ours[:3]} and {theirs[:3]}")
    PAGE.write_text(
        "# MusicXML scores read twice\n\n"
        "Made by `.venv/bin/python -m tests.checks.run_musicxml`. The MusicXML test suite and the scores of many "
        "notation programs that the music21 package carries, every voice of every part read by Dromic and by "
        "music21: the same pitches at the same places of each bar, for the same lengths. *Riffs* are the voices "
        "of which Dromic makes a riff; it refuses a voice only with a sentence.\n\n"
        "| collection | scores | alike from end to end | bars | alike | voices | riffs |\n"
        "|---|---|---|---|---|---|---|\n"
        + "\n".join(rows)
        + "\n\nWhere the two differ:\n\n"
        + "\n".join(f"- {counted(count, 'score')}: {why}" for why, count in reasons.most_common())
        + "\n\nVoices that make no riff:\n\n"
        + "\n".join(f"- {counted(count, 'voice')}: {why}" for why, count in refusals.most_common())
        + ("\n\nWhere no reason is known:\n\n" + "\n".join(places[:40]) if places else "")
        + "\n",
        encoding="utf-8",
    )
    print(PAGE.read_text(encoding="utf-8"))


if __name__ == "__main__":
    main()
