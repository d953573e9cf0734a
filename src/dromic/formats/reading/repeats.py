"""Repeat signs and endings as files have them, made into phrases that are played so many times."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from dromic.formats.reading.raw import RawBar, RawPhrase, Remarks

MOST_ROUNDS, MOST_ENDINGS = 99, 12


@dataclass
class MarkedBar:
    """A bar with the signs around it.

    Parameters
    ----------
    bar : RawBar
    begins : bool
        A repeat begins before it.
    rounds : int
        A repeat ends after it: how often the passage is played; 0 for no repeat.
    ending : tuple of int
        The rounds for which an ending begins here; empty for none.
    double : bool
        A double or final bar line stands after it, which ends an ending and is where a repeat without a
        beginning goes back to.
    name : str or None
        Of the phrase that begins here.
    """

    bar: RawBar
    begins: bool = False
    rounds: int = 0
    ending: tuple[int, ...] = ()
    double: bool = False
    name: str | None = None


@dataclass
class _Section:
    common: list[MarkedBar] = field(default_factory=list)
    endings: list[tuple[tuple[int, ...], list[MarkedBar]]] = field(default_factory=list)
    rounds: int = 1


def phrases_of(bars: Sequence[MarkedBar], remarks: Remarks, *, letters: bool = True) -> list[RawPhrase]:
    """Make phrases of bars with repeat signs; endings are written out round by round.

    Parameters
    ----------
    bars : sequence of MarkedBar
    remarks : Remarks
    letters : bool
        Whether phrases are called A, B and so on where the file names none.
    """
    phrases: list[RawPhrase] = []
    sections = _sections(bars)
    if letters and len(sections) > 1 and not any(marked.name for marked in bars):
        for number, section in enumerate(sections):
            first = (section.common or section.endings[0][1])[0]
            first.name = _letter(number)
    for section in sections:
        if not section.endings:
            phrases += _cut(section.common, section.rounds)
            continue
        wanted = max([section.rounds, *(number for numbers, _ in section.endings for number in numbers)])
        if wanted > MOST_ENDINGS:
            remarks.add(f"endings are played for {MOST_ENDINGS} rounds at most")
        for number in range(1, min(wanted, MOST_ENDINGS) + 1):
            own = next((bars for numbers, bars in section.endings if number in numbers), [])
            phrases += _cut([*section.common, *own], 1, number)
    return phrases


def _letter(number: int) -> str:
    """A, B, … Z, then A2 and so on."""
    return chr(ord("A") + number % 26) + (str(number // 26 + 1) if number >= 26 else "")


def _sections(bars: Sequence[MarkedBar]) -> list[_Section]:
    """Cut where repeats begin and end."""
    found: list[_Section] = []
    now = _Section()

    def close() -> None:
        nonlocal now
        if now.common or now.endings:
            found.append(now)
        now = _Section()

    ended = False
    for marked in bars:
        if marked.begins and (now.common or now.endings):
            close()
        elif ended and not marked.ending:
            # After a repeat sign only another ending goes on with the same passage.
            close()
        if marked.ending:
            now.endings.append((marked.ending, [marked]))
        elif now.endings:
            now.endings[-1][1].append(marked)
        else:
            now.common.append(marked)
        ended = bool(marked.rounds)
        if marked.rounds:
            now.rounds = max(now.rounds, marked.rounds)
            if not now.endings:
                _from_double(now, found)
        elif marked.double and len(now.endings) > 1:
            close()
            ended = False
    close()
    return found


def _from_double(now: _Section, found: list[_Section]) -> None:
    """Let a repeat that has no beginning go back to the last double bar line inside it."""
    if now.common[0].begins:
        return
    at = max((number for number, one in enumerate(now.common[:-1], start=1) if one.double), default=0)
    if at:
        found.append(_Section(now.common[:at]))
        now.common = now.common[at:]


def _cut(bars: Sequence[MarkedBar], times: int, round_number: int = 1) -> list[RawPhrase]:
    """Phrases where names begin; a repeat over several names is written out."""
    pieces: list[RawPhrase] = []
    for marked in bars:
        if marked.name is not None or not pieces:
            name = marked.name and (f"{marked.name} {round_number}" if round_number > 1 else marked.name)
            pieces.append(RawPhrase(name=name))
        copied = marked.bar.copied()
        pieces[-1].bars.append(copied)
    if len(pieces) == 1:
        pieces[0].times = times
        return pieces
    rounds = []
    for _ in range(min(times, MOST_ROUNDS)):
        rounds += [RawPhrase([bar.copied() for bar in piece.bars], piece.name) for piece in pieces]
    return rounds
