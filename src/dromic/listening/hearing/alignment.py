"""Which moment of a take is which note of the riff: a dynamic programme over moments and notes.

A state is a moment matched with a note. From one match to the next there may be moments that belong to no note and
notes that were not played, each at a price; the time between them is compared with the riff's at the tempo of that
path, which follows the player. At the end of a round the riff begins again. A player may stop and begin again at a
bar line, at a price. Prices are in nats: differences of log-likelihoods as a player and a detector like the ones in
the tests have them.

Only notes near those that paths have come to are worked out, so the work grows with the length of the take, not
with its product with the length of the riff.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

import numpy as np
from numpy.typing import NDArray

from dromic.arrays import Floats
from dromic.listening.hearing.expected import Expected

Ints = NDArray[np.int64]

BACK_MOMENTS, MOST_SKIPPED = 14, 3
SPREAD_S, SPREAD_SHARE = 0.014, 0.045
LARGEST_TIME_PRICE, LATER_PRICE = 9.0, 1.5
MATCH, MISSED, MISSED_SLUR = 1.5, 4.0, 3.5
PITCH_WEIGHT, EVEN_PITCH = 11.0, 0.55
WEAK_BELOW, WEAK_PRICE = 0.25, 5.0
EXTRA_LEAST, EXTRA_STRONG = 0.3, 4.5
OUTSIDE_SHARE, OUTSIDE_MOST = 0.3, 12.0
RESTART, SEAM, PAUSE_LEAST_S = 11.0, 5.0, 0.25
BEGINS_AT_BAR = 8.0
UNFINISHED_MOST = 8.0
NEARLY_OVER, IN_TIME, IN_TIME_S = 3, 1.3, 0.2
BEAM, KEPT = 45.0, 90.0
FOLLOWS_MOST, FOLLOWS_A_QUARTER = 0.3, 0.25
NOWHERE: Final = -1e18

START, GOES_ON, AGAIN = 0, 1, 2


@dataclass(frozen=True)
class Match:
    """A moment that is a note.

    Parameters
    ----------
    moment : int
    note : int
        Its place in the riff's notes.
    round : int
    pauses : bool
        Whether the player stopped before it: the time until it says nothing.
    again : bool
        Whether the player went back after that stop, to a bar that had been played or begun.
    quarter_s : float
        How long a quarter note lasts there.
    """

    moment: int
    note: int
    round: int
    pauses: bool
    again: bool
    quarter_s: float


@dataclass(frozen=True)
class Alignment:
    """A take's moments and the riff's notes.

    Parameters
    ----------
    matches : tuple of Match
    score : float
        In nats; differences of it can be compared within one take.
    """

    matches: tuple[Match, ...]
    score: float


@dataclass(frozen=True)
class Moments:
    """What is known of every moment.

    Parameters
    ----------
    times, strengths : ndarray, shape (moments,)
    fits : ndarray, shape (moments, notes)
        Evidence from 0 to 1 that the pitch is the note's; 1 for a dead note.
    """

    times: Floats
    strengths: Floats
    fits: Floats


def align(
    moments: Moments,
    expected: Expected,
    quarter_s: float,
    watch: Callable[[float], None] | None = None,
) -> Alignment:
    """The likeliest way in which moments are notes.

    Parameters
    ----------
    moments : Moments
    expected : Expected
    quarter_s : float
        About how long a quarter note lasts at the beginning; a tenth more or less does not matter.
    watch : callable or None
        Told the share of the work that is done; what it raises cancels.
    """
    return _Programme(moments, expected, quarter_s).solve(watch)


@dataclass(frozen=True)
class AlignmentCosts:
    """What matching, missing and passing over costs in one take.

    Parameters
    ----------
    gain : ndarray, shape (moments, notes)
        For taking a moment as a note, the time aside.
    missed : ndarray, shape (notes,)
    before : ndarray, shape (moments + 1,)
        For taking all moments before one as no notes of the riff.
    entries, starts : Entries
        Where a player may begin: anywhere that makes sense, and at the riff's own start.
    """

    gain: Floats
    missed: Floats
    before: Floats
    entries: Entries
    starts: Entries

    @staticmethod
    def of(moments: Moments, expected: Expected) -> AlignmentCosts:
        """AlignmentCosts of a take's moments and a riff's notes."""
        picked = np.array([note.picked for note in expected.notes])
        missed = np.where(picked, MISSED, MISSED_SLUR)
        weak = np.where(picked, WEAK_PRICE, 0.0)
        strength = np.clip(moments.strengths, 0.0, 1.0)
        gain = (
            MATCH
            + PITCH_WEIGHT * (moments.fits - EVEN_PITCH)
            - weak[None, :] * np.clip(1 - strength / WEAK_BELOW, 0.0, 1.0)[:, None]
        )
        before = np.concatenate([[0.0], np.cumsum(EXTRA_LEAST + EXTRA_STRONG * strength)])
        bars = _with_late_entries(np.array(expected.bar_starts), missed, BEGINS_AT_BAR)
        starts = _with_late_entries(np.array([0]), missed, 0.0)
        return AlignmentCosts(gain, missed, before, _cheapest(bars, starts), starts)

    def outside(self, moment: int) -> float:
        """For what sounds before the riff begins."""
        return float(min(OUTSIDE_SHARE * self.before[moment], OUTSIDE_MOST))

    def outside_after(self, moment: int) -> float:
        """For what sounds after the riff is over."""
        return float(min(OUTSIDE_SHARE * (self.before[-1] - self.before[moment + 1]), OUTSIDE_MOST))


@dataclass(frozen=True)
class Entries:
    """Notes at which a player may come in, and what that costs."""

    notes: Ints
    prices: Floats


def _with_late_entries(starts: Ints, missed: Floats, price: float) -> Entries:
    """Where a player begins, or up to a few notes later where the first ones are missed."""
    found: dict[int, float] = {}
    for start in starts:
        so_far = price
        for note in range(int(start), min(int(start) + MOST_SKIPPED + 1, len(missed))):
            found[note] = min(so_far, found.get(note, np.inf))
            so_far += float(missed[note])
    notes = sorted(found)
    return Entries(np.array(notes), np.array([found[note] for note in notes]))


def _cheapest(one: Entries, other: Entries) -> Entries:
    found: dict[int, float] = {}
    for entries in (one, other):
        for note, price in zip(entries.notes, entries.prices, strict=True):
            found[int(note)] = min(float(price), found.get(int(note), np.inf))
    notes = sorted(found)
    return Entries(np.array(notes), np.array([found[note] for note in notes]))


@dataclass(frozen=True)
class _Row:
    """The states of one moment: notes, what paths to them are worth, and where these come from."""

    notes: Ints
    score: Floats
    quarter: Floats
    back: NDArray[np.int32]
    back_note: NDArray[np.int32]
    how: NDArray[np.int8]


@dataclass(frozen=True)
class _Stop:
    """The best place to have stopped until a moment."""

    worth: float
    moment: int
    note: int
    quarter_s: float


class _Programme:
    def __init__(self, moments: Moments, expected: Expected, quarter_s: float) -> None:
        self.moments, self.expected = moments, expected
        self.count, self.notes = len(moments.times), len(expected.notes)
        self.prices = AlignmentCosts.of(moments, expected)
        self.gain, self.before = self.prices.gain, self.prices.before
        self.again = _with_late_entries(np.array(expected.bar_starts), self.prices.missed, RESTART)
        self.seam = _with_late_entries(np.array([0]), self.prices.missed, SEAM)
        self.skips = np.arange(MOST_SKIPPED + 1)
        here = np.arange(self.notes)
        self.previous = (here[None, :] - 1 - self.skips[:, None]) % self.notes
        wraps = (here[None, :] - 1 - self.skips[:, None]) // self.notes
        beats = expected.beats
        self.apart = beats[None, :] - beats[self.previous] - wraps * expected.length
        over = np.concatenate([[0.0], np.cumsum(np.tile(self.prices.missed, 2))])
        # Notes between the two that were not played.
        self.unplayed = over[here + self.notes][None, :] - over[here[None, :] + self.notes - self.skips[:, None]]
        # Dense rows of the last moments only; of all moments those states that a good path may come through.
        self.score = np.full((BACK_MOMENTS + 1, self.notes), NOWHERE)
        self.quarter = np.full((BACK_MOMENTS + 1, self.notes), quarter_s)
        self.start_quarter = quarter_s
        self.rows: list[_Row] = []
        left = np.concatenate([np.cumsum(self.prices.missed[::-1])[::-1][1:], [0.0]])
        self.left = np.minimum(left, UNFINISHED_MOST)

    def solve(self, watch: Callable[[float], None] | None) -> Alignment:
        if not self.count:
            return Alignment((), 0.0)
        stops: list[_Stop] = []
        seams: list[_Stop] = []
        best_end = (NOWHERE, 0, 0)
        for here in range(self.count):
            if watch is not None and here % 64 == 0:
                watch(here / self.count)
            row = self._begun(here)
            if here:
                self._go_on(here, row)
                self._again(here, row, stops, self.again)
                self._again(here, row, seams, self.seam)
            self._keep(here, row)
            for found, note in ((stops, int(row.score.argmax())), (seams, self.notes - 1)):
                # What lies between a stop and a new beginning costs less: the player may try things.
                worth = float(row.score[note]) + OUTSIDE_SHARE * float(self.before[here + 1])
                stop = _Stop(worth, here, note, float(row.quarter[note]))
                found.append(stop if not found or worth > found[-1].worth else found[-1])
            ends = row.score - self.left
            best_end = max(
                best_end, (float(ends.max()) - self.prices.outside_after(here), here, int(ends.argmax()))
            )
        score, moment, note = best_end
        return self._traced(moment, note, score)

    def _begun(self, here: int) -> _Row:
        """The take begins here: at the riff's start, a little behind it, or at a bar line."""
        entries = self.prices.entries
        score = np.full(self.notes, NOWHERE)
        score[entries.notes] = self.gain[here, entries.notes] - entries.prices - self.prices.outside(here)
        nothing = np.zeros(self.notes, np.int32)
        quarter = np.full(self.notes, self.start_quarter)
        return _Row(
            np.arange(self.notes), score, quarter, nothing, nothing.copy(), np.full(self.notes, START, np.int8)
        )

    def _keep(self, here: int, row: _Row) -> None:
        kept = row.score > row.score.max() - KEPT
        row.score[~kept] = NOWHERE
        place = here % (BACK_MOMENTS + 1)
        self.score[place], self.quarter[place] = row.score, row.quarter
        self.rows.append(
            _Row(*(part[kept] for part in (row.notes, row.score, row.quarter, row.back, row.back_note, row.how)))
        )

    def _go_on(self, here: int, row: _Row) -> None:
        first = max(0, here - BACK_MOMENTS)
        places = np.arange(first, here) % (BACK_MOMENTS + 1)
        score = self.score[places]
        active = self._active(score)
        if not len(active):
            return
        previous, apart = self.previous[:, active], self.apart[:, active]
        quarter = self.quarter[places][:, previous]
        due = apart[None] * quarter
        passed = (self.moments.times[here] - self.moments.times[first:here])[:, None, None]
        spread = SPREAD_S + SPREAD_SHARE * due
        off = (passed - due) / spread
        price = 0.5 * off * off
        # A player who hesitates goes on; one who is early by that much does not.
        far = LARGEST_TIME_PRICE + LATER_PRICE * np.log1p(np.maximum(off, 0.0))
        price = np.where((price > far) & (off > 0), far, price)
        between = (self.before[here] - self.before[first + 1 : here + 1])[:, None, None]
        total = score[:, previous] - price - np.log(spread / SPREAD_S) - between
        total -= self.unplayed[None][:, :, active]
        flat = total.reshape(-1, len(active))
        which = flat.argmax(0)
        columns = np.arange(len(active))
        value = flat[which, columns] + self.gain[here, active]
        better = value > row.score[active]
        moment, skip = np.divmod(which, len(self.skips))
        notes = active[better]
        row.score[notes] = value[better]
        row.back[notes] = first + moment[better]
        row.back_note[notes] = previous[skip, columns][better]
        row.how[notes] = GOES_ON
        took = quarter[moment, skip, columns][better]
        far_off = np.abs(off[moment, skip, columns])[better] > 3.0
        share = np.minimum(FOLLOWS_MOST, FOLLOWS_A_QUARTER * apart[skip, columns][better])
        waited = np.maximum(due[moment, skip, columns][better], 1e-6)
        ratio = np.clip(passed[moment, 0, 0][better] / waited, 0.5, 2.0)
        row.quarter[notes] = took * np.where(far_off, 1.0, 1.0 + share * (ratio - 1.0))

    def _active(self, score: Floats) -> Ints:
        """Notes that can follow those that good paths have come to."""
        lately = score.max(0)
        reached = np.flatnonzero(lately > lately.max() - BEAM)
        following = (reached[:, None] + 1 + self.skips[None, :]) % self.notes
        return np.unique(following)

    def _again(self, here: int, row: _Row, stops: list[_Stop], entries: Entries) -> None:
        """The player stopped, and begins again here."""
        long_before = int(np.searchsorted(self.moments.times, self.moments.times[here] - PAUSE_LEAST_S, "right"))
        if not long_before:
            return
        stop = stops[long_before - 1]
        if stop.worth <= NOWHERE / 2:
            return
        outside = OUTSIDE_SHARE * self.before[here]
        value = stop.worth - outside - entries.prices + self.gain[here, entries.notes]
        better = value > row.score[entries.notes]
        notes = entries.notes[better]
        row.score[notes] = value[better]
        row.back[notes], row.back_note[notes] = stop.moment, stop.note
        row.how[notes] = AGAIN
        row.quarter[notes] = stop.quarter_s

    def _is_over(self, before: int, left_at: int, moment: int, quarter_s: float) -> bool:
        """Whether a round is over after a note: after its last one, or a note or two earlier and no stop."""
        if before == self.notes - 1:
            return True
        beats = self.expected.length - float(self.expected.beats[before])
        waited = float(self.moments.times[moment] - self.moments.times[left_at])
        return before >= self.notes - NEARLY_OVER and waited < IN_TIME * beats * quarter_s + IN_TIME_S

    def _traced(self, moment: int, note: int, score: float) -> Alignment:
        path: list[tuple[int, int, int, float]] = []
        while True:
            row = self.rows[moment]
            at = int(np.searchsorted(row.notes, note))
            how = int(row.how[at])
            path.append((moment, note, how, float(row.quarter[at])))
            if how == START:
                break
            moment, note = int(row.back[at]), int(row.back_note[at])
        path.reverse()
        matches: list[Match] = []
        number, before, left_at = 0, -1, 0
        for moment, note, how, quarter in path:
            seam = how == AGAIN and note <= MOST_SKIPPED and self._is_over(before, left_at, moment, quarter)
            left_at = moment
            number += (how == GOES_ON and note <= before) or seam
            matches.append(Match(moment, note, number, how != GOES_ON, how == AGAIN and not seam, quarter))
            before = note
        return Alignment(tuple(matches), score)
