"""A take as it is listened to: one channel at one rate, with what has to be said about it."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from dromic.arrays import Floats, Samples
from dromic.errors import RiffError

HEARING_RATE = 22_050
SHORTEST_S = 0.5
LONGEST_TAKE_S = 1_800.0
SILENT = 10 ** (-60 / 20)
QUIET = 10 ** (-40 / 20)
CLIPPED_AT, CLIPPED_RUN = 0.999, 3
HUM_HZ = (50.0, 60.0)
HUM_WITHIN_DB = 35.0


@dataclass(frozen=True)
class Recording:
    """A take to be listened to.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
        From -1 to 1, at `HEARING_RATE` a second.
    remarks : tuple of str
        What the player should know of the recording.
    """

    samples: Samples = field(repr=False)
    remarks: tuple[str, ...] = ()

    @property
    def seconds(self) -> float:
        """Its length."""
        return len(self.samples) / HEARING_RATE


def checked(samples: Samples, clipped: int, remarks: tuple[str, ...] = ()) -> Recording:
    """A recording that can be listened to.

    Parameters
    ----------
    samples : ndarray of float32, shape (samples,)
        Changed in place: a steady offset is taken off.
    clipped : int
        Samples at full scale, several in a row, before anything was done to the sound.
    remarks : tuple of str
        What has been noticed already.

    Raises
    ------
    RiffError
        For one that is too short, silent, or holds numbers that are none.
    """
    if len(samples) < SHORTEST_S * HEARING_RATE:
        raise RiffError(f"the take lasts {len(samples) / HEARING_RATE:.2f} s; there is nothing to listen to yet")
    if not np.isfinite(samples).all():
        raise RiffError("the take holds samples that are not numbers; save it again as 16-bit WAV or FLAC")
    samples -= np.float32(samples.mean())
    loud = peak_of(samples)
    if loud < SILENT:
        raise RiffError("the take is silent; check that the instrument is plugged in and the right input is chosen")
    found = list(remarks)
    if loud < QUIET:
        found.append(f"the take is very quiet (its peak is at {20 * np.log10(loud):.0f} dB); turn the input up")
    if clipped:
        found.append(
            f"the recording clips ({clipped} samples at full scale): loudness and attacks are less sure; turn the "
            "input down"
        )
    hum = _hum(samples)
    if hum:
        found.append(f"there is mains hum at {hum:.0f} Hz: soft notes and the ends of notes are less sure")
    return Recording(samples, tuple(found))


def peak_of(samples: Samples) -> float:
    """The largest sample, whatever its sign; a long take is not copied for it."""
    return float(max(samples.max(), -samples.min())) if len(samples) else 0.0


def piece_of(samples: Samples, first: int, last: int) -> Samples:
    """Samples from one place to another, with silence where there are none.

    Parameters
    ----------
    samples : Samples
    first, last : int
    """
    inside = samples[max(first, 0) : max(last, 0)]
    before, after = max(min(0, last) - first, 0), max(last - max(first, len(samples)), 0)
    return np.pad(inside, (before, after)) if before or after else inside


def clipped_samples(block: Floats) -> int:
    """How many samples stand at full scale, three or more in a row.

    Examples
    --------
    >>> clipped_samples(np.array([0.0, 1.0, 1.0, 1.0, 0.2, -1.0, 0.0]))
    3
    """
    full = np.abs(block) >= CLIPPED_AT
    edges = np.flatnonzero(np.diff(np.concatenate([[False], full, [False]]).astype(np.int8)))
    runs = edges[1::2] - edges[::2]
    return int(runs[runs >= CLIPPED_RUN].sum())


def _hum(samples: Samples) -> float | None:
    """The mains frequency that lies under the whole take, its quietest parts too; None where there is none."""
    size = HEARING_RATE // 2
    if len(samples) < 2 * size:
        return None
    frames = samples[: len(samples) // size * size].reshape(-1, size)
    level = np.sqrt(np.einsum("ij,ij->i", frames, frames) / size)
    quiet = frames[level <= np.quantile(level, 0.15)]
    spectrum = np.sqrt((np.abs(np.fft.rfft(quiet * np.hanning(size))) ** 2).mean(0)) * 4 / size
    floor = float(np.median(spectrum[20:500]))
    loud = peak_of(samples)
    for hertz in HUM_HZ:
        lines = [round(hertz * part * size / HEARING_RATE) for part in (1, 2, 3)]
        strong = [float(spectrum[line - 1 : line + 2].max()) for line in lines]
        if (
            strong[0] > 10 * floor
            and max(strong[1:]) > 3 * floor
            and strong[0] > loud * 10 ** (-HUM_WITHIN_DB / 20)
        ):
            return hertz
    return None
