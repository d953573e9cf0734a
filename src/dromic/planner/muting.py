"""What could ring at each note, and what silences it.

Rules of the trade (common practice, no source): the palm lies on the strings below the pick's, on the
ceiling side; the tip of the fretting finger touches the next string on that side; the underside of the
fretting fingers lies on the thinner ones; with an open string there is no finger, and the free fingers have
to lie flat.
"""

from __future__ import annotations

from dromic.planner.plan import Mute, State

PALM = "palm"
TIP = "fingertip"
UNDERSIDE = "underside of the finger"
FREE_FINGERS = "free fingers laid flat"


def mutes_at(state: State, strings: int) -> tuple[Mute, ...]:
    """Return what silences every other string, thickest first.

    Examples
    --------
    >>> [(mute.string, mute.by) for mute in mutes_at(State(((3, 5, 1),), 5, "down", "up"), 4)]
    [(4, 'fingertip'), (2, 'underside of the finger'), (1, 'underside of the finger')]
    """
    sounding = {string for string, _, _ in (*state.notes, *state.held)}
    fretted = [string for string, _, finger in (*state.notes, *state.held) if finger]
    found = []
    for string in range(strings, 0, -1):
        if string in sounding:
            continue
        if string > max(sounding):
            by = TIP if string - 1 in fretted else PALM
        else:
            by = UNDERSIDE if any(one > string for one in fretted) else FREE_FINGERS
        found.append(Mute(string, by))
    return tuple(found)
