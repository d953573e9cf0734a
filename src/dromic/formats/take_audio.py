"""A take read from a sound file: WAV, FLAC and whatever else libsndfile knows, any rate, any number of channels.

It is read block by block, so that a long take at a high rate needs no more memory than the one channel that is
kept. Of several channels the mean is taken; where they cancel, or one of them is silent, the loudest.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from math import gcd
from pathlib import Path

import numpy as np
import soundfile
from scipy.signal import resample_poly

from dromic.arrays import Samples
from dromic.errors import RiffError
from dromic.listening.hearing.recording import (
    HEARING_RATE,
    LONGEST_TAKE_S,
    Recording,
    checked,
    clipped_samples,
)

MOST_CHANNELS = 8
LOWEST_RATE, HIGHEST_RATE = 4_000, 400_000
BLOCK_S, EDGE_S = 10, 0.1
CANCELS, HARDLY = 0.25, 0.03


def read_take(path: Path | str) -> Recording:
    """Read a take.

    Parameters
    ----------
    path : Path or str

    Raises
    ------
    RiffError
        For a file that is not there, is no sound file, is too long, or holds nothing to listen to.
    """
    name = str(path)
    try:
        if not Path(path).is_file():
            raise RiffError("there is no such sound file", file=name)
        with soundfile.SoundFile(name) as file:
            return _read(file, name)
    except (soundfile.LibsndfileError, OSError) as error:
        raise RiffError(
            f"this is no sound file that can be read (WAV or FLAC): {_words(error)}", file=name
        ) from None
    except MemoryError:
        raise RiffError("the take does not fit into memory; cut it", file=name) from None


def _read(file: soundfile.SoundFile, name: str) -> Recording:
    rate, channels, frames = file.samplerate, file.channels, file.frames
    if not LOWEST_RATE <= rate <= HIGHEST_RATE or not 1 <= channels <= MOST_CHANNELS:
        raise RiffError(f"{channels} channels at {rate} samples a second cannot be listened to", file=name)
    if frames > LONGEST_TAKE_S * rate:
        raise RiffError(
            f"the take lasts {frames / rate / 60:.0f} minutes; half an hour is the most, cut it", file=name
        )
    powers, together, clipped = np.zeros(channels), 0.0, 0
    for block in file.blocks(BLOCK_S * rate, dtype="float32", always_2d=True):
        powers += (block.astype(float) ** 2).sum(0)
        together += float((block.mean(1, dtype=float) ** 2).sum())
        clipped += sum(clipped_samples(block[:, channel]) for channel in range(channels))
    loudest = int(powers.argmax())
    # Two channels out of phase cancel; one that is silent only halves the other.
    alone = channels > 1 and (
        together < CANCELS**2 * powers[loudest] or float(np.sort(powers)[-2]) < HARDLY**2 * powers[loudest]
    )
    remarks: tuple[str, ...] = ()
    if alone:
        remarks = (f"channel {loudest + 1} of {channels} is listened to; the others are silent or cancel it",)
    file.seek(0)
    blocks = file.blocks(BLOCK_S * rate, dtype="float32", always_2d=True)
    samples = np.zeros(-(-frames * HEARING_RATE // rate) + 1, np.float32)
    filled = 0
    for part in _resampled((block[:, loudest] if alone else block.mean(1) for block in blocks), rate):
        samples[filled : filled + len(part)] = part[: len(samples) - filled]
        filled = min(filled + len(part), len(samples))
    samples = samples[:filled]
    try:
        return checked(samples, clipped, remarks)
    except RiffError as error:
        raise error.in_file(name) from None


def _resampled(blocks: Iterable[Samples], rate: int) -> Iterator[Samples]:
    """Every block at the rate of listening, without seams."""
    common = gcd(rate, HEARING_RATE)
    up, down = HEARING_RATE // common, rate // common
    # What is put before and after a block is a whole number of steps of both rates.
    edge = max(round(EDGE_S * rate / down), 1) * down
    before = np.zeros(edge, np.float32)
    waiting: Samples | None = None
    for block in blocks:
        if waiting is not None:
            yield _middle(before, waiting, block[:edge], up, down)
            before = np.concatenate([before, waiting])[-edge:]
        waiting = block
    if waiting is not None:
        yield _middle(before, waiting, np.zeros(edge, np.float32), up, down)


def _middle(before: Samples, block: Samples, after: Samples, up: int, down: int) -> Samples:
    whole = resample_poly(np.concatenate([before, block, after]), up, down).astype(np.float32)
    first = len(before) * up // down
    return np.asarray(whole[first : first + -(-len(block) * up // down)])


def _words(error: Exception) -> str:
    text = str(error).strip().rstrip(".")
    return text.split(": ", 1)[-1][:120] if text else "it is empty or damaged"
