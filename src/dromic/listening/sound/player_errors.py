"""How far from perfect a simulated player is."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Errors:
    """How far from perfect a player is.

    Parameters
    ----------
    clock_ms, hand_ms : float
        Standard deviations of the clock's intervals and of the hand at each note.
    drift : float
        How much faster the take is at its end than at its start, as a share of the tempo.
    late_ms : tuple of (str, float)
        By how much notes after a kind of movement come late: ``shift``, ``skip``, ``sweep``, ``inside``,
        ``outside`` or ``legato``.
    missed, double, smeared, extra, rings, cut : float
        Shares of notes that are missed, sounded twice, blurred into the one before, followed by one that is not in
        the riff, ring on under the next, or end too early.
    loud_db : float
        Standard deviation of the loudness.
    hiccup : (float, float) or None
        A tempo at which the hands come apart, and the standard deviation in ms of every note within three percent
        of it.
    restarts : int
        How often the player stops, and goes back to the beginning of that bar.
    off_goal_cents : float
        Standard deviation of where bends and slides come to.
    unasked : float
        Share of notes with which an open string begins to sound that nobody asked for.
    """

    clock_ms: float = 0.0
    hand_ms: float = 0.0
    drift: float = 0.0
    late_ms: tuple[tuple[str, float], ...] = ()
    missed: float = 0.0
    double: float = 0.0
    smeared: float = 0.0
    extra: float = 0.0
    rings: float = 0.0
    cut: float = 0.0
    loud_db: float = 0.0
    hiccup: tuple[float, float] | None = None
    restarts: int = 0
    off_goal_cents: float = 0.0
    unasked: float = 0.0


LEVELS = {
    "none": Errors(),
    "light": Errors(
        clock_ms=4.0,
        hand_ms=3.0,
        drift=0.01,
        late_ms=(("shift", 8.0),),
        missed=0.01,
        extra=0.005,
        rings=0.01,
        cut=0.02,
        loud_db=1.5,
    ),
    "heavy": Errors(
        clock_ms=9.0,
        hand_ms=7.0,
        drift=0.04,
        late_ms=(("shift", 18.0), ("skip", 12.0)),
        missed=0.05,
        double=0.02,
        smeared=0.03,
        extra=0.02,
        rings=0.05,
        cut=0.06,
        loud_db=3.0,
        restarts=1,
        off_goal_cents=15.0,
        unasked=0.01,
    ),
}
