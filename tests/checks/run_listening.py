"""How well takes are heard: ``.venv/bin/python -m tests.checks.run_listening [--seeds N] [--write]``.

Takes of the simulated player in our own voice, and takes of another player through fluidsynth with General MIDI
sound fonts (Debian: fluidsynth, fluid-soundfont-gm, timgm6mb-soundfont), on seeds that were not used in tuning.
Onsets are scored by mir_eval. ``--write`` writes the figures to docs/listening.md.
"""

from __future__ import annotations

import argparse
import resource
import tempfile
import time
from collections import Counter
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import mir_eval
import numpy as np

from dromic.formats.take_audio import read_take
from dromic.listening.hearing.expected import expected_of
from dromic.listening.hearing.listener import Heard, listen
from dromic.listening.hearing.review import review_of
from dromic.listening.sound.player_errors import LEVELS, Errors
from dromic.listening.sound.rendering import write_wav
from dromic.listening.sound.simulated import performance, take_of
from dromic.listening.take import State, TakeNote, TakeReport
from tests.listening.material import material
from tests.listening.other_player import (
    CLEAN,
    FINGER_BASS,
    PICK_BASS,
    SOUND_FONTS,
    STEEL,
    Habits,
    other_take,
    write_sounded,
)

FIRST_SEED = 1000
WITHIN_S = 0.06
PAGE = Path(__file__).parents[2] / "docs" / "listening.md"


@dataclass
class Figures:
    """What one take, or many, came to."""

    takes: int = 0
    seconds: float = 0.0
    spent: float = 0.0
    f25: list[float] = field(default_factory=list)
    picked: list[float] = field(default_factory=list)
    slurred: list[float] = field(default_factory=list)
    jitter: list[float] = field(default_factory=list)
    loudness: list[float] = field(default_factory=list)
    counts: Counter[str] = field(default_factory=Counter)
    lost: list[str] = field(default_factory=list)

    def add(self, other: Figures) -> None:
        """Count another take in."""
        for name, value in vars(other).items():
            mine = getattr(self, name)
            if isinstance(value, Counter):
                mine.update(value)
            elif isinstance(value, list):
                mine.extend(value)
            else:
                setattr(self, name, mine + value)


def score(heard: Heard, truth: TakeReport) -> Figures:
    """Compare what was heard with what is true."""
    found = Figures(takes=1)
    told, counts = heard.report, found.counts
    picked = {note.index: note.picked for note in expected_of(heard.plan).notes}
    real = sorted([n.onset_s for n in truth.notes if n.state is not State.MISSED] + list(truth.extra))
    claimed = sorted([n.onset_s for n in told.notes if n.state is not State.MISSED] + list(told.extra))
    found.f25.append(mir_eval.onset.f_measure(np.array(real), np.array(claimed), window=0.025)[0])
    mine: dict[tuple[int, int], list[TakeNote]] = {}
    for note in told.notes:
        mine.setdefault((note.round, note.index), []).append(note)
    deviations = []
    for note in truth.notes:
        near = [n for n in mine.get((note.round, note.index), []) if abs(n.onset_s - note.onset_s) < 0.25]
        if note.state is State.MISSED:
            counts["missed"] += 1
            counts["missed, named"] += any(n.state is State.MISSED for n in near)
            continue
        own = [n for n in near if n.state is not State.MISSED and abs(n.onset_s - note.onset_s) < WITHIN_S]
        counts["played"] += 1
        if not own:
            counts["false missed"] += any(n.state is State.MISSED for n in near)
            counts["not found"] += 1
            continue
        (found.picked if picked[note.index] else found.slurred).append(1000 * (own[0].onset_s - note.onset_s))
        deviations.append((note, own[0]))
        counts["state right"] += own[0].state is note.state
        if note.loudness_db is not None and own[0].loudness_db is not None:
            found.loudness.append(own[0].loudness_db - note.loudness_db)
        if note.end is not None and own[0].end is not None:
            counts["ends told"] += 1
            counts["ends right"] += own[0].end is note.end
    if len(deviations) > 8:
        # Nobody can hear which part of slow wandering is the player's own clock, so the same smooth curve is taken
        # from both: what differs are the onsets.
        said = np.array([mine.deviation_ms for _, mine in deviations])
        off = np.array([1000 * (mine.onset_s - real.onset_s) for real, mine in deviations])
        off -= np.median(off)
        spreads = [1.4826 * float(np.median(np.abs(one - np.median(one)))) for one in (said - off, said)]
        found.jitter.append(spreads[1] - spreads[0])
    counts["restarts"] += len(truth.restarts)
    counts["restarts, named"] += sum(
        any(one.index == other.index and abs(one.onset_s - other.onset_s) < 0.15 for other in told.restarts)
        for one in truth.restarts
    )
    counts["false restarts"] += max(len(told.restarts) - len(truth.restarts), 0)
    counts["extra"] += len(truth.extra)
    named = sum(any(abs(one - other) < 0.05 for other in told.extra) for one in truth.extra)
    counts["extra, named"] += named
    counts["false extra"] += max(len(told.extra) - named, 0)
    return found


def one_take(job: tuple[str, str, int]) -> Figures:
    """Play, sound, read and hear one take."""
    name, voice, seed = job
    plan = material()[name]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "take.wav"
        if voice in LEVELS:
            take = take_of(performance(plan, seed, LEVELS[voice], rounds=2))
            write_wav(take.sound, path)
            truth = take.truth
        else:
            bass = "bass" in plan.instrument.name
            font, program = {
                "fluid clean": (SOUND_FONTS[0], FINGER_BASS if bass else CLEAN),
                "fluid steel": (SOUND_FONTS[0], PICK_BASS if bass else STEEL),
                "small font": (SOUND_FONTS[1], PICK_BASS if bass else CLEAN),
            }[voice]
            habits = Habits(
                missed=0.03, extra=0.01, restarts=seed % 2, cut=0.05, rings=0.03, tempo_ratio=0.8 + 0.1 * (seed % 5)
            )
            played = other_take(plan, seed, habits, rounds=2)
            write_sounded(played, path, program, font)
            truth = played.truth
        before = time.process_time()
        try:
            recording = read_take(path)
            heard = listen(plan, recording)
        except Exception as error:  # noqa: BLE001
            return Figures(takes=1, lost=[f"{name}, {voice}, seed {seed}: {error}"])
    found = score(heard, truth)
    found.spent, found.seconds = time.process_time() - before, recording.seconds
    return found


def table(groups: dict[str, Figures]) -> Iterable[str]:
    """Figures as lines of Markdown."""
    yield "| what | goal, own / independent | " + " | ".join(groups) + " |"
    yield "|---|---|" + "---|" * len(groups)

    def share(figures: Figures, part: str, whole: str) -> str:
        count = figures.counts[whole]
        return f"{figures.counts[part] / count:.3f} ({figures.counts[part]} of {count})" if count else "-"

    def row(words: str, goal: str, values: Iterable[str]) -> str:
        return f"| {words} | {goal} | " + " | ".join(values) + " |"

    def late(values: list[float]) -> str:
        return f"{np.quantile(np.abs(values), 0.95):.1f} ms (bias {np.median(values):+.1f})" if values else "-"

    all_of = list(groups.values())
    yield row("takes", "", (str(one.takes) for one in all_of))
    yield row("F at 25 ms", ".99 / .97", (f"{np.mean(one.f25):.3f}" for one in all_of))
    yield row("picked onsets, 95th percentile", "3 / 5 ms", (late(one.picked) for one in all_of))
    yield row("slurred onsets, 95th percentile", "5 / 8 ms", (late(one.slurred) for one in all_of))
    yield row(
        "takes with jitter's sd within 1 ms",
        "90 %",
        (f"{np.mean(np.abs(one.jitter) < 1.0):.2f}" for one in all_of),
    )
    yield row("missed notes named", "95 %", (share(one, "missed, named", "missed") for one in all_of))
    yield row("restarts named", "95 %", (share(one, "restarts, named", "restarts") for one in all_of))
    yield row("extra notes named", "80 %", (share(one, "extra, named", "extra") for one in all_of))
    yield row(
        "false missed, extra, restart a take",
        "0.3",
        (
            f"{sum(one.counts[f'false {what}'] for what in ('missed', 'extra', 'restarts')) / one.takes:.2f}"
            for one in all_of
        ),
    )
    yield row("attacks right", "", (share(one, "state right", "played") for one in all_of))
    yield row(
        "loudness within 2 dB",
        "",
        (f"{np.mean(np.abs(one.loudness) < 2):.2f}" if one.loudness else "-" for one in all_of),
    )
    yield row("ends right, where told", "95 %", (share(one, "ends right", "ends told") for one in all_of))
    yield row("seconds a second of audio", ".03", (f"{one.spent / max(one.seconds, 1e-9):.3f}" for one in all_of))
    yield row("takes not heard at all", "0", (str(len(one.lost)) for one in all_of))


PLANTED = (("rolls", "sweep", 4), ("shifts", "shift", 5), ("sixteenths", "sweep", 7), ("triplets", "inside", 6))


def one_effect(job: tuple[str, str, int, float, int]) -> tuple[float, bool, bool, float | None]:
    """Plant an effect of one class in a take; was it found, was anything else told, and how large."""
    name, key, rounds, planted, seed = job
    plan = material()[name]
    errors = Errors(clock_ms=4, hand_ms=3, drift=0.01, missed=0.01, late_ms=((key, planted),))
    take = take_of(performance(plan, seed, errors, rounds=rounds))
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "take.wav"
        write_wav(take.sound, path)
        found = review_of(plan, read_take(path)).report.findings
    own = [one for one in found if one.key == key]
    return planted, bool(own), len(own) < len(found), own[0].effect_ms if own else None


def effects_table(seeds: int, first: int) -> Iterable[str]:
    """How often a planted effect of one movement class is found, heard from the sound of the take."""
    jobs = [
        (name, key, rounds, planted, seed)
        for planted in (0.0, 5.0, 10.0, 20.0)
        for name, key, rounds in PLANTED
        for seed in range(first, first + seeds)
    ]
    with ProcessPoolExecutor() as pool:
        rows = list(pool.map(one_effect, jobs))
    yield "| planted | found | told size | something else told |"
    yield "|---|---|---|---|"
    for planted in (0.0, 5.0, 10.0, 20.0):
        own = [row for row in rows if row[0] == planted]
        sizes = [row[3] for row in own if row[3] is not None]
        size = f"{np.mean(sizes):.1f} ms" if sizes else "-"
        yield (
            f"| {planted:.0f} ms | {np.mean([row[1] for row in own]):.2f} of {len(own)} takes | {size} | "
            f"{np.mean([row[2] for row in own]):.2f} |"
        )


def main() -> None:
    """Run everything and say what came of it."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--seeds", type=int, default=3)
    parser.add_argument("--first", type=int, default=FIRST_SEED)
    parser.add_argument("--write", action="store_true")
    options = parser.parse_args()
    voices = ("none", "light", "heavy", "fluid clean", "fluid steel", "small font")
    jobs = [
        (name, voice, seed)
        for voice in voices
        for name in material()
        for seed in range(options.first, options.first + options.seeds)
    ]
    groups = {voice: Figures() for voice in voices}
    with ProcessPoolExecutor() as pool:
        for job, figures in zip(jobs, pool.map(one_take, jobs), strict=True):
            groups[job[1]].add(figures)
    lines = [*table(groups), "", *effects_table(4 * options.seeds, options.first), ""]
    for figures in groups.values():
        lines += [f"- {one}" for one in figures.lost]
    print("\n".join(lines))
    print(f"memory of the largest process: {resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024:.0f} MB")
    if options.write:
        text = PAGE.read_text(encoding="utf-8")
        start, end = text.index("<!-- figures -->"), text.index("<!-- end -->")
        PAGE.write_text(
            text[:start] + "<!-- figures -->\n" + "\n".join(lines) + "\n" + text[end:], encoding="utf-8"
        )


if __name__ == "__main__":
    main()
