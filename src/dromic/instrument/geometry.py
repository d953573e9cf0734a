"""Where frets and strings lie, in millimetres.

Fret f lies L(1 - 2^(-f/12)) from the nut, L being the scale length (twelve-tone equal temperament).
Across the strings, y grows toward the floor: the thickest string has y = 0, and a down stroke goes
toward larger y. Strings fan out evenly from nut to bridge.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

FINGER_BEHIND_MM = 6.0
FINGER_BEHIND_SHARE = 0.3
PICKING_SPOT = 0.85


def fret_mm(scale_mm: float, fret: float) -> float:
    """Distance of a fret from the nut.

    Examples
    --------
    >>> fret_mm(648.0, 12)
    324.0
    """
    return float(scale_mm * (1.0 - 2.0 ** (-fret / 12.0)))


def finger_spots(scale_mm: float, frets: int) -> NDArray[np.float64]:
    """Where the finger lands for every fret: just behind it.

    Parameters
    ----------
    scale_mm : float
        Scale length in millimetres.
    frets : int
        Highest fret.

    Returns
    -------
    ndarray, shape (frets + 1,), millimetres from the nut
        Entry 0 is the nut itself. A finger lies 6 mm behind the fret, or three tenths of the fret's
        width where that is less (common practice: close to the fret, not on it).
    """
    lines = scale_mm * (1.0 - 2.0 ** (-np.arange(frets + 1) / 12.0))
    widths = np.diff(lines, prepend=0.0)
    spots: NDArray[np.float64] = lines - np.minimum(FINGER_BEHIND_MM, FINGER_BEHIND_SHARE * widths)
    spots[0] = 0.0
    return spots


def string_offsets(count: int, nut_mm: float, bridge_mm: float, along: float) -> NDArray[np.float64]:
    """Distance of each string from the thickest one.

    Parameters
    ----------
    count : int
        Number of strings.
    nut_mm, bridge_mm : float
        Outer string to outer string, at the nut and at the bridge.
    along : float
        Where to measure: 0 at the nut, 1 at the bridge.

    Returns
    -------
    ndarray, shape (count,), millimetres, thickest string first
    """
    width = nut_mm + along * (bridge_mm - nut_mm)
    return np.linspace(0.0, width, count)
