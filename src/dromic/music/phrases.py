"""The phrases of a riff: repeated, copied, begun, played by a school of their own; and riffs of new bars."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from dromic.errors import RiffError
from dromic.music.editing import where
from dromic.music.laying import rests_of
from dromic.music.riff import Bar, Phrase, Riff

MOST_TIMES = 99


def set_times(riff: Riff, phrase: int, times: int) -> Riff:
    """Return the riff with a phrase played so many times.

    Parameters
    ----------
    riff : Riff
    phrase, times : int
    """
    if not 1 <= times <= MOST_TIMES:
        raise RiffError(f"found {times} times, expected 1 to {MOST_TIMES}")
    changed = replace(riff.phrases[phrase], times=times)
    return replace(riff, phrases=(*riff.phrases[:phrase], changed, *riff.phrases[phrase + 1 :]))


def copied_phrase(riff: Riff, phrase: int) -> Riff:
    """Return the riff with a phrase written out once more after itself, under a name of its own."""
    names = {one.name for one in riff.phrases}
    base = riff.phrases[phrase].name or "copy"
    name = next(f"{base} {number}" for number in range(2, 1000) if f"{base} {number}" not in names)
    copy = replace(riff.phrases[phrase], name=name[:40])
    return replace(riff, phrases=(*riff.phrases[: phrase + 1], copy, *riff.phrases[phrase + 1 :]))


def split_phrase(riff: Riff, written: int, name: str) -> Riff:
    """Return the riff with a phrase beginning at the bar of an event.

    Parameters
    ----------
    riff : Riff
    written : int
        The event's place in reading order.
    name : str
    """
    at = where(riff, written)
    old = riff.phrases[at.phrase]
    if not at.bar:
        renamed = replace(old, name=name)
        return replace(riff, phrases=(*riff.phrases[: at.phrase], renamed, *riff.phrases[at.phrase + 1 :]))
    parts = replace(old, bars=old.bars[: at.bar]), Phrase(old.bars[at.bar :], name, 1, old.school)
    return replace(riff, phrases=(*riff.phrases[: at.phrase], *parts, *riff.phrases[at.phrase + 1 :]))


def with_phrase_school(riff: Riff, phrase: int, school: str) -> Riff:
    """Return the riff with a phrase played by a school of its own; a phrase without a name gets one.

    Parameters
    ----------
    riff : Riff
    phrase : int
        Its place in the riff.
    school : str
        Empty to play it like the rest.
    """
    old = riff.phrases[phrase]
    names = {one.name for one in riff.phrases}
    free = next(f"phrase {number}" for number in range(phrase + 1, 10_000) if f"phrase {number}" not in names)
    name = old.name or (free if school else None)
    changed = replace(old, name=name, school=school)
    return replace(riff, phrases=(*riff.phrases[:phrase], changed, *riff.phrases[phrase + 1 :]))


def on_same_instrument(head: Riff, bars: Sequence[Bar], **more: Any) -> Riff:
    """Return a riff of other bars for the instrument, the tempo and the gain of another, in four quarters.

    Parameters
    ----------
    head : Riff
    bars : sequence of Bar
    **more
        Further fields of the riff.
    """
    made = Riff(
        (Phrase(tuple(bars)),),
        instrument=head.instrument,
        tuning=head.tuning,
        scale=head.scale,
        nut=head.nut,
        bridge=head.bridge,
        capo=head.capo,
        tempo=head.tempo,
        gain=head.gain,
    )
    return replace(made, **more)


def empty_like(last: Riff) -> Riff:
    """Return a riff of one silent bar for the instrument of another."""
    return on_same_instrument(last, [Bar(rests_of(last.meter.bar))], meter=last.meter)
