"""Sound made longer without being made lower: overlapping pieces, each laid where it fits the one before best.

References
----------
Verhelst and Roelands 1993, An overlap-add technique based on waveform similarity (WSOLA), ICASSP.
"""

from __future__ import annotations

import numpy as np

from dromic.arrays import Floats, Samples

FRAME, SEARCH = 1024, 320


def stretched(samples: Samples | Floats, count: int) -> Floats:
    """The same sound in so many samples.

    Parameters
    ----------
    samples : ndarray, shape (samples,)
    count : int

    Returns
    -------
    ndarray, shape (count,)

    Examples
    --------
    A tone keeps its pitch.

    >>> tone = np.sin(2 * np.pi * 440 * np.arange(22050) / 22050)
    >>> longer = stretched(tone, 44100)
    >>> crossings = np.count_nonzero(np.diff(np.signbit(longer[4000:-4000])))
    >>> bool(abs(crossings / (36100 / 22050) / 2 - 440) < 5)
    True
    """
    if count <= 0 or not len(samples):
        return np.zeros(max(count, 0))
    ratio = len(samples) / count
    hop = FRAME // 2
    window = np.hanning(FRAME + 1)[:-1]
    source = np.concatenate([np.zeros(SEARCH + hop), samples, np.zeros(2 * FRAME + SEARCH)]).astype(float)
    out = np.zeros(count + 2 * FRAME)
    natural = SEARCH
    for start in range(0, count + hop, hop):
        wanted = SEARCH + min(round(start * ratio), len(samples))
        if start:
            low = max(wanted - SEARCH, 0)
            goal = source[natural : natural + FRAME]
            room = source[low : low + 2 * SEARCH + FRAME]
            likeness = np.correlate(room, goal[: len(room)], "valid")
            wanted = low + int(likeness.argmax()) if len(likeness) else wanted
        piece = source[wanted : wanted + FRAME]
        out[start : start + len(piece)] += piece * window[: len(piece)]
        natural = wanted + hop
    # The first half frame fades in over silence that was put before.
    return out[hop : hop + count]
