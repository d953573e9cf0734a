"""Where the two hands have to meet in the same gap: hand-sync spots that have a time of their own.

Such a spot is a string change of the pick together with a shift, a roll or a jump of the same finger; picking
resumed after legato; the first note of another subdivision; or the seam of a loop. Its load is the larger of the
two hands' loads plus the extra time over the gap.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeVar

import numpy as np

from dromic.arrays import Bools, Floats, Terms
from dromic.hands.comfort import Comfort
from dromic.hands.constants import SyncCosts
from dromic.hands.fretting_tables import FretMoves


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


def sync_times(moves: FretMoves, changes_string: Bools, costs: SyncCosts, context: SyncContext) -> Terms:
    """Extra time of each kind of spot, by key.

    Parameters
    ----------
    moves : FretMoves
        Moves of the fretting hand.
    changes_string : ndarray of bool, of the shape of the moves
    costs : SyncCosts
    context : SyncContext

    Returns
    -------
    dict of str to ndarray, of the shape of the moves, milliseconds
        Only kinds that can be there.
    """
    if not context.picked:
        return {}
    by_link = {
        "resume_ms": costs.resume_ms * context.resumes,
        "subdivision_ms": costs.subdivision_ms * context.subdivides,
        "seam_ms": costs.seam_ms * context.seam,
    }
    by_move = {
        "change_shift_ms": costs.change_shift_ms * (changes_string & moves.shifted & ~moves.flown),
        "change_roll_ms": costs.change_roll_ms * (changes_string & moves.rolled),
        "change_jump_ms": costs.change_jump_ms * (changes_string & moves.jumped),
    }
    return by_move | {key: np.full(changes_string.shape, value) for key, value in by_link.items() if value}


Loads = TypeVar("Loads", Floats, float)


def load_effort(load: Loads, comfort: Comfort) -> Loads:
    """Effort of a load, or of an array of them: hardly any while calm, steep near 1, and much more beyond it.

    Examples
    --------
    >>> comfort = Comfort(at_ease=0.1, calm=0.5, strain=2.0, overload=8.0)
    >>> load_effort(np.array([0.4, 1.0, 1.5]), comfort).round(3).tolist()
    [0.016, 0.6, 4.225]
    """
    if isinstance(load, float):
        above, beyond = max(load - comfort.calm, 0.0), max(load - 1.0, 0.0)
    else:
        above, beyond = np.maximum(load - comfort.calm, 0.0), np.maximum(load - 1.0, 0.0)
    return comfort.at_ease * (load * load) + comfort.strain * (above * above) + comfort.overload * (beyond * beyond)
