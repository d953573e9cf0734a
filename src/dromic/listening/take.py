"""What is in a take, note by note: a listener reports it, a simulated player tells it of itself, in one form."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class State(StrEnum):
    """What became of a note."""

    PLAYED = "played"
    MISSED = "missed"
    DOUBLE = "double"
    SMEARED = "smeared"


class End(StrEnum):
    """How a note ends: into the next, before it, or ringing on under it."""

    JOINED = "joined"
    GAP = "gap"
    RINGS = "rings"


@dataclass(frozen=True)
class TakeNote:
    """One note, or chord, of a take.

    Parameters
    ----------
    round : int
        From 0.
    index : int
        Of the plan's event.
    onset_s : float
        From the start of the take; of a missed note, where it was due.
    deviation_ms : float
        Against the beat; late is above zero.
    state : State
    loudness_db : float or None
        Against the same kind of note played evenly; None where it cannot be told.
    end : End or None
        None for a missed note, the last one, and where it cannot be told.
    gap_ms : float or None
        How long it was silent before the next note, where it was.
    cents : float or None
        How far a bend or slide is off its goal; None for other notes.
    ring_db : float or None
        How loud it rings on under the next note, against what it was before.
    spread_ms : float or None
        How long a chord's strings take to begin, where that is more than can be told from a chord that is hit.
    onset_sure_ms, loudness_sure_db, cents_sure : float or None
        Standard errors of what was heard; None in what a player tells of itself.
    """

    round: int
    index: int
    onset_s: float
    deviation_ms: float
    state: State = State.PLAYED
    loudness_db: float | None = None
    end: End | None = None
    gap_ms: float | None = None
    cents: float | None = None
    ring_db: float | None = None
    spread_ms: float | None = None
    onset_sure_ms: float | None = None
    loudness_sure_db: float | None = None
    cents_sure: float | None = None


@dataclass(frozen=True)
class Restart:
    """Where the player stopped and began again: when, and at which event."""

    onset_s: float
    index: int


@dataclass(frozen=True)
class UnaskedString:
    """An open string that sounds unasked: when it is heard first, which, and its level against the note played."""

    onset_s: float
    string: int
    level_db: float


@dataclass(frozen=True)
class Finding:
    """What a kind of movement does to the notes after it, where that is more than chance.

    Parameters
    ----------
    key : str
        The kind of movement, as `dromic.listening.hearing.effects` names it.
    effect_ms, low_ms, high_ms : float
        How late its notes come against the others, or how much more uneven, with the 90 % interval.
    notes : int
        How many notes there are of it.
    text : str
        One sentence for the player.
    """

    key: str
    effect_ms: float
    low_ms: float
    high_ms: float
    notes: int
    text: str


@dataclass(frozen=True)
class TakeReport:
    """Everything in a take.

    Parameters
    ----------
    tempo : float
        At its start, quarter notes a minute.
    start_s : float
        Where the riff begins.
    rounds : int
    notes : tuple of TakeNote
    extra : tuple of float
        Onsets of notes that are not in the riff, in seconds.
    restarts : tuple of Restart
    unasked : tuple of UnaskedString
    findings : tuple of Finding
        The largest first.
    """

    tempo: float
    start_s: float
    rounds: int
    notes: tuple[TakeNote, ...]
    extra: tuple[float, ...] = ()
    restarts: tuple[Restart, ...] = ()
    unasked: tuple[UnaskedString, ...] = ()
    findings: tuple[Finding, ...] = ()
