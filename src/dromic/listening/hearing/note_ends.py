"""How a note ends: into the next one, some time before it, or ringing on under it.

Only the harmonics of a note that no note beside it has are looked at. A note that dies away by itself, a palm mute
or a dead note, says nothing of the hand; nor does one whose harmonics are all those of the next.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dromic.arrays import Floats, Samples
from dromic.listening.hearing.harmonics import STEP, own_harmonics, tracks, window_for
from dromic.listening.hearing.recording import HEARING_RATE
from dromic.listening.take import End

GAP_DB, RINGS_DB = 18.0, -16.0
LEAST_GAP_MS = 18.0
RING_FROM_S, RING_TO_S = 0.028, 0.11
LEAST_NOTE_S = 0.07


@dataclass(frozen=True)
class NoteEnd:
    """How a note ends.

    Parameters
    ----------
    end : End or None
        None where it cannot be told.
    gap_ms : float or None
        How long it was silent before the next note.
    ring_db : float or None
        How loud it rings under the next note, against what it was before.
    why_not : str
        Why it cannot be told; empty where it can.
    """

    end: End | None
    gap_ms: float | None = None
    ring_db: float | None = None
    why_not: str = ""


def end_of(
    samples: Samples,
    onset_s: float,
    next_s: float,
    later_s: float,
    pitches: tuple[float, ...],
    following: tuple[float, ...],
    *,
    same_string: bool,
    dies_away: bool,
) -> NoteEnd:
    """How a note ends.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
    onset_s, next_s, later_s : float
        Where it begins, and the next two notes.
    pitches, following : tuple of float
        MIDI numbers of the note and of the next.
    same_string : bool
        Whether the next note is on its string, so that it cannot ring on.
    dies_away : bool
        Whether it dies away by itself: a palm mute, a dead note.
    """
    if not pitches:
        return NoteEnd(None, why_not="a dead note has no end to hear")
    if next_s - onset_s < LEAST_NOTE_S:
        return NoteEnd(None, why_not="it is too short to tell how it ends")
    window = window_for((*pitches, *following))
    half = window / 2 / HEARING_RATE
    others = tuple(one for one in following if one not in pitches)
    sets = [own_harmonics(pitch, others, window) for pitch in pitches]
    own = np.unique(np.concatenate(sets))
    ring_end = min(next_s + RING_TO_S, later_s - 0.3 * half)
    track = tracks(samples, onset_s, max(ring_end, next_s + STEP / HEARING_RATE), (own,), window)[0]
    decibels = 20 * np.log10(np.maximum(track.levels, 1e-7))
    before = _before(track.times, decibels, onset_s, next_s, half)
    if before is None:
        return NoteEnd(None, why_not="it is too short to tell how it ends")
    if not same_string and len(own) and not any(one in pitches for one in following):
        ringing = decibels[(track.times >= next_s + RING_FROM_S) & (track.times <= ring_end)]
        if len(ringing) >= 3:
            level = float(np.median(ringing)) - before
            if level > RINGS_DB:
                return NoteEnd(End.RINGS, ring_db=round(level, 1))
    if dies_away:
        return NoteEnd(None, why_not="a muted note dies away by itself")
    gap_ms = _gap(samples, onset_s, next_s)
    if gap_ms >= LEAST_GAP_MS:
        return NoteEnd(End.GAP, gap_ms=round(float(gap_ms), 1))
    return NoteEnd(End.JOINED)


def _before(times: Floats, decibels: Floats, onset_s: float, next_s: float, half_s: float) -> float | None:
    """How loud a note is while it is held."""
    here = (times >= onset_s + min(half_s, 0.3 * (next_s - onset_s))) & (times <= next_s - 0.3 * half_s)
    return float(np.quantile(decibels[here], 0.75)) if here.any() else None


def _gap(samples: Samples, onset_s: float, next_s: float) -> float:
    """How long it is nearly silent before the next note, in ms."""
    first, last = round((onset_s + 0.006) * HEARING_RATE), round((next_s - 0.002) * HEARING_RATE)
    size = round(0.012 * HEARING_RATE)
    step = round(0.002 * HEARING_RATE)
    piece = samples[max(first, 0) : last]
    if len(piece) < 2 * size:
        return 0.0
    frames = np.lib.stride_tricks.sliding_window_view(piece, size)[::step]
    level = 10 * np.log10(np.maximum((frames.astype(float) ** 2).mean(1), 1e-12))
    held = float(np.quantile(level[: max(len(level) // 3, 1)], 0.5))
    loud = np.flatnonzero(level > held - GAP_DB)
    over = int(loud[-1]) + 1 if len(loud) else 0
    if over >= len(level):
        return 0.0
    # The last frame that is loud ends where the note does, less what the fall itself takes.
    start = first + over * step + size // 2
    return float(max(next_s - start / HEARING_RATE, 0.0) * 1000)
