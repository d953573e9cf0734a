"""Where the two hands meet in the same gap (the synchronisation spots that are found so far).

A spot is a string change of the pick together with a shift, a roll or a jump of the same finger, or picking
resumed after legato. Its load is the larger of the two hands' loads plus the extra time over the gap.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from dromic.hands.fretting import FretMoves
from dromic.hands.profile import Together

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

CHANGE_SHIFT = "string change with a shift"
CHANGE_ROLL = "string change with a roll"
CHANGE_JUMP = "string change with the same finger jumping"
RESUME = "picking resumed after legato"


def extra_parts(
    moves: FretMoves, changes_string: Bools, together: Together, *, picked: bool, resumes: bool
) -> dict[str, Floats]:
    """Extra time of each kind of spot.

    Parameters
    ----------
    moves : FretMoves
        Moves of the fretting hand, (A, B).
    changes_string : ndarray of bool, shape (A, B)
    together : Together
    picked : bool
        Whether the second note is picked at all.
    resumes : bool
        Whether it is the first picked note after legato.

    Returns
    -------
    dict of str to ndarray, shape (A, B), milliseconds
    """
    if not picked:
        return {}
    return {
        CHANGE_SHIFT: together.change_shift_ms * (changes_string & moves.shifted),
        CHANGE_ROLL: together.change_roll_ms * (changes_string & moves.rolled),
        CHANGE_JUMP: together.change_jump_ms * (changes_string & moves.jumped & ~moves.shifted),
        RESUME: np.full(changes_string.shape, together.resume_ms if resumes else 0.0),
    }


def load_effort(load: Floats, overload: float) -> Floats:
    """Effort of a load: its square, and much more beyond the limit of 1.

    Examples
    --------
    >>> load_effort(np.array([0.5, 1.5]), 8.0).tolist()
    [0.25, 4.25]
    """
    effort: Floats = load**2 + overload * np.maximum(load - 1.0, 0.0) ** 2
    return effort
