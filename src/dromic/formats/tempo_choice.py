"""Which tempo a riff has that comes from a file with several."""

from __future__ import annotations

from bisect import bisect_right
from collections import Counter
from collections.abc import Iterable

from dromic.formats.raw import Remarks
from dromic.formats.rifftext_header import FASTEST, SLOWEST

ASSUMED = 120.0


def main_tempo(tempi: Iterable[tuple[float, float]], notes: Iterable[float], remarks: Remarks) -> float:
    """Choose the tempo that most notes are played at; of tempi less than one apart, the first.

    Parameters
    ----------
    tempi : iterable of (float, float)
        Places, in any unit, and the tempi that hold from there on, in quarter notes a minute.
    notes : iterable of float
        The notes' places.
    remarks : Remarks
        Is told of tempi that are left out, and where there is none.

    Returns
    -------
    float
        In quarter notes a minute.

    Examples
    --------
    >>> remarks = Remarks()
    >>> main_tempo([(0, 90), (4, 140), (12, 70)], [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 12], remarks)
    140
    >>> remarks.told()
    ('the tempo goes from 70 to 140 in the file; 140 holds, which most notes are played at',)
    """
    good = sorted(((at, tempo) for at, tempo in tempi if SLOWEST <= tempo <= FASTEST), key=lambda one: one[0])
    if not good:
        remarks.add(f"the file gives no tempo; {ASSUMED:g} quarter notes a minute are assumed")
        return ASSUMED
    places = [at for at, _ in good]
    played = Counter(round(good[max(bisect_right(places, note) - 1, 0)][1]) for note in notes)
    most = max(played, key=lambda tempo: played[tempo]) if played else round(good[0][1])
    chosen = next(tempo for _, tempo in good if round(tempo) == most)
    slowest, fastest = min(tempo for _, tempo in good), max(tempo for _, tempo in good)
    if fastest - slowest >= 1:
        remarks.add(
            f"the tempo goes from {slowest:g} to {fastest:g} in the file; {chosen:g} holds, "
            "which most notes are played at"
        )
    return chosen
