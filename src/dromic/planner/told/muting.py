"""What could ring at each note, and what silences it.

Rules of the trade (common practice, no source). On the ceiling side the palm lies on the strings below the
pick's, or the floating thumb does where fingers pluck; the tip of a fretting finger touches the next string on
that side; when an accent lifts the palm, the side of the fretting thumb takes the thickest string. On the floor
side the underside of the fretting fingers lies on the thinner strings; with an open string there is no finger
there, and the free fingers have to lie flat. A string that rang until now and whose finger comes off it is
stopped by that finger as it lifts, unless it is needed at once on another string.
"""

from __future__ import annotations

from dataclasses import dataclass

from dromic.hands.fingers import THUMB as OVER_NECK
from dromic.hands.grips import Grip
from dromic.planner.plan import Mute

PALM = "palm"
THUMB = "floating thumb"
SIDE_OF_THUMB = "side of the fretting thumb"
TIP = "fingertip"
UNDERSIDE = "underside of the finger"
FREE_FINGERS = "free fingers laid flat"
LIFTING = "finger lifting off it"


@dataclass(frozen=True)
class Attack:
    """How a note begins, as far as muting goes.

    Parameters
    ----------
    accented : bool
        Whether the palm bounces off the strings.
    hammered_before : bool
        Whether the note before it was hammered on.
    with_pick : bool
        Whether a pick is held; if not, the thumb floats.
    """

    accented: bool = False
    hammered_before: bool = False
    with_pick: bool = True


PLAIN = Attack()


def mutes_at(grip: Grip, strings: int, before: Grip | None = None, attack: Attack = PLAIN) -> tuple[Mute, ...]:
    """Return what silences every other string, thickest first.

    Parameters
    ----------
    grip : Grip
        How what sounds is held.
    strings : int
    before : Grip or None
        What sounded until now.
    attack : Attack

    Examples
    --------
    >>> from dromic.hands.grips import Grip
    >>> [(mute.string, mute.by) for mute in mutes_at(Grip(((3, 5, 1),), 5), 4)]
    [(4, 'fingertip'), (2, 'underside of the finger'), (1, 'underside of the finger')]
    """
    sounding = _sounding(grip)
    rang = {} if before is None else _sounding(before)
    mutes = []
    for string in range(strings, 0, -1):
        if string in sounding:
            continue
        still = string in rang
        by = _by(string, strings, grip, sounding, attack)
        if still and rang[string] and rang[string] not in sounding.values():
            by = LIFTING
        # An open string that rang on, with nothing but free fingers to stop it, is what goes wrong.
        doubtful = still and by == FREE_FINGERS
        doubtful |= attack.hammered_before and still and not any(sounding.values())
        mutes.append(Mute(string, by, still, doubtful))
    return tuple(mutes)


def _sounding(grip: Grip) -> dict[int, int]:
    """Strings that sound and their fingers."""
    return {string: finger for string, _, finger in grip.sounding}


def _by(string: int, strings: int, grip: Grip, sounding: dict[int, int], attack: Attack) -> str:
    if string < max(sounding):
        return (
            UNDERSIDE
            if any(0 < finger < OVER_NECK and one > string for one, finger in sounding.items())
            else FREE_FINGERS
        )
    if sounding.get(string - 1):
        return TIP
    if not attack.with_pick:
        return THUMB
    if attack.accented:
        return SIDE_OF_THUMB if string == strings else FREE_FINGERS
    return PALM
