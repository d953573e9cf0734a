"""Where the two hands meet in the same gap: the synchronisation spots that have a time of their own.

A spot is a string change of the pick together with a shift, a roll or a jump of the same finger; picking resumed
after legato; the first note of another subdivision; or the seam of a loop. Its load is the larger of the two hands'
loads plus the extra time over the gap.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dromic.hands.fretting import FretMoves
from dromic.hands.profile import SyncCosts

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

CHANGE_SHIFT = "string change with a shift"
CHANGE_ROLL = "string change with a roll"
CHANGE_JUMP = "string change with the same finger jumping"
RESUME = "picking resumed after legato"
SUBDIVISION = "another subdivision begins"
SEAM = "the seam of the loop"


@dataclass(frozen=True)
class SyncContext:
    """What a link says about the hands' meeting, apart from their moves.

    Parameters
    ----------
    picked : bool
        Whether the second note is picked at all; if not, only one hand is at work.
    resumes : bool
        Whether it is the first picked note after legato.
    subdivides : bool
        Whether another subdivision begins with it (sixteenths to triplets).
    seam : bool
        Whether the link leads from the end of a loop to its start.
    """

    picked: bool
    resumes: bool = False
    subdivides: bool = False
    seam: bool = False


def sync_times(
    moves: FretMoves, changes_string: Bools, together: SyncCosts, meeting: SyncContext
) -> dict[str, Floats]:
    """Extra time of each kind of spot.

    Parameters
    ----------
    moves : FretMoves
        Moves of the fretting hand.
    changes_string : ndarray of bool, of the shape of the moves
    together : SyncCosts
    meeting : SyncContext

    Returns
    -------
    dict of str to ndarray, of the shape of the moves, milliseconds
    """
    if not meeting.picked:
        return {}
    by_link = {
        RESUME: together.resume_ms * meeting.resumes,
        SUBDIVISION: together.subdivision_ms * meeting.subdivides,
        SEAM: together.seam_ms * meeting.seam,
    }
    parts = {
        CHANGE_SHIFT: together.change_shift_ms * (changes_string & moves.shifted),
        CHANGE_ROLL: together.change_roll_ms * (changes_string & moves.rolled),
        CHANGE_JUMP: together.change_jump_ms * (changes_string & moves.jumped & ~moves.shifted),
    }
    return parts | {name: np.full(changes_string.shape, value) for name, value in by_link.items() if value}


def load_effort(load: Floats, overload: float) -> Floats:
    """Effort of a load: its square, and much more beyond the limit of 1.

    Examples
    --------
    >>> load_effort(np.array([0.5, 1.5]), 8.0).tolist()
    [0.25, 4.25]
    """
    beyond = np.maximum(load - 1.0, 0.0)
    effort: Floats = load * load + overload * (beyond * beyond)
    return effort
