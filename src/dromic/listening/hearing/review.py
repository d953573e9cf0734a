"""What a player is told of a take: one finding on top, the spots to work on, and the figures behind them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from dromic.listening.hearing.effects import findings
from dromic.listening.hearing.hiccup import Hiccup, hiccup_of
from dromic.listening.hearing.listener import Heard, listen
from dromic.listening.hearing.recording import Recording
from dromic.listening.hearing.spots import Spot, spots_of
from dromic.listening.take import End, State, TakeReport
from dromic.planner.plan import Plan

NOTHING = "nothing stands out"


@dataclass(frozen=True)
class Review:
    """A take, heard and judged.

    Parameters
    ----------
    heard : Heard
    report : TakeReport
        With its findings.
    spots : tuple of Spot
        The worst first.
    hiccup : Hiccup or None
        Where it becomes uneven while the tempo grows.
    """

    heard: Heard
    report: TakeReport
    spots: tuple[Spot, ...]
    hiccup: Hiccup | None

    @property
    def plan(self) -> Plan:
        """What was to be played."""
        return self.heard.plan

    @property
    def missed(self) -> int:
        """Notes that were missed."""
        return sum(note.state is State.MISSED for note in self.report.notes)

    @property
    def top(self) -> str:
        """The one sentence on top."""
        if self.hiccup is not None:
            return self.hiccup.text
        if self.report.findings:
            return self.report.findings[0].text
        return NOTHING

    @cached_property
    def unevenness(self) -> tuple[float, float] | None:
        """Standard deviation of the onsets in ms, with its standard error; None for too few notes."""
        off = np.array([note.deviation_ms for note in self.report.notes if note.state is not State.MISSED])
        if len(off) < 8:
            return None
        spread = 1.4826 * float(np.median(np.abs(off - np.median(off))))
        return spread, spread * 1.17 / float(np.sqrt(len(off)))

    @cached_property
    def loudness_spread(self) -> float | None:
        """Standard deviation of the loudness in dB, like with like; None for too few notes."""
        loud = [note.loudness_db for note in self.report.notes if note.loudness_db is not None]
        return float(np.std(loud)) if len(loud) >= 8 else None

    @property
    def lines(self) -> tuple[str, ...]:
        """The figures behind it, one sentence each; what cannot be told is said."""
        report, measured = self.report, self.heard.measured
        rounds = f" in {report.rounds} rounds" if report.rounds > 1 else ""
        lines = [
            f"{len(report.notes) - self.missed} of {len(report.notes)} notes played{rounds}, at {report.tempo:.0f} "
            f"at the start ({self.plan.tempo:.0f} planned)"
        ]
        if self.unevenness is not None:
            lines.append(f"uneven by {self.unevenness[0]:.1f} ms (give or take {self.unevenness[1]:.1f})")
        else:
            lines.append("too few notes to tell how even it is")
        if self.loudness_spread is not None:
            lines.append(f"loudness varies by {self.loudness_spread:.1f} dB among notes of a kind")
        counted = (
            (len(report.extra), "note that is not in the riff", "notes that are not in the riff"),
            (len(report.restarts), "restart", "restarts"),
            (sum(n.state is State.DOUBLE for n in report.notes), "double attack", "double attacks"),
            (sum(n.state is State.SMEARED for n in report.notes), "smeared attack", "smeared attacks"),
            (sum(n.end is End.RINGS for n in report.notes), "note rings on", "notes ring on"),
        )
        lines += [f"{count} {one if count == 1 else more}" for count, one, more in counted if count]
        if measured.swing is not None:
            swing = measured.swing
            lines.append(f"swing {swing.ratio:.2f} to 1 ({swing.low:.2f} to {swing.high:.2f}, {swing.pairs} pairs)")
        bent = [note for note in report.notes if note.cents is not None]
        if bent:
            middle = float(np.median([abs(note.cents or 0.0) for note in bent]))
            worst = max(bent, key=lambda note: abs(note.cents or 0.0))
            lines.append(
                f"bends and slides off by {middle:.0f} cents in the middle, "
                f"{worst.cents:+.0f} at most ({self.plan.events[worst.index].moment.place_words})"
            )
        raked = sum(note.spread_ms is not None for note in report.notes)
        if raked:
            lines.append(f"{raked} chords raked rather than hit" if raked > 1 else "1 chord raked rather than hit")
        for one in report.unasked[:3]:
            level = f"{-one.level_db:.0f} dB under the note" if one.level_db < -1 else "as loud as the note"
            lines.append(f"string {one.string} sounds unasked from {one.onset_s:.1f} s, {level}")
        uneven = [tone for tone in measured.tones if abs(tone.brighter) > max(0.15, 2 * tone.sure)]
        for tone in uneven[:2]:
            way = "brighter" if tone.brighter > 0 else "duller"
            lines.append(f"string {tone.string} sounds {way} than the others at its pitch")
        untold = sum(bool(why) for why in measured.untold[:-1])
        if untold:
            lines.append(f"how {untold} of the notes end cannot be told (muted, too short, or hidden by the next)")
        lines.append("a steady lead or lag of the whole take cannot be told without a reference click")
        return tuple(lines)


def review_of(plan: Plan, recording: Recording, watch: Callable[[float], None] | None = None) -> Review:
    """Listen to a take of a plan, and judge it.

    Parameters
    ----------
    plan : Plan
    recording : Recording
    watch : callable or None
        Told the share of the work that is done; what it raises cancels.

    Raises
    ------
    RiffError
        As `dromic.listening.hearing.listener.listen`.
    """
    heard = listen(plan, recording, watch)
    report = replace(heard.report, findings=findings(plan, heard.report))
    return Review(heard, report, spots_of(plan, report), hiccup_of(plan, report))
