"""What a kind of file could not hold: what was written is read again, and compared with what was meant."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from dromic.music.riff import MARK_WORDS, Event, Mark, Note, Place, Riff


@dataclass(frozen=True)
class _Facet:
    """One thing a riff may say: how it is called, and what a riff says of it."""

    words: str
    of: Callable[[Riff], object]
    empty: object = ""


def _comments(riff: Riff) -> tuple[str, ...]:
    bars = [bar for phrase in riff.phrases for bar in phrase.bars]
    inside = [text for bar in bars for text in (*bar.lead, bar.comment) if text]
    return tuple(sorted(text.strip() for text in (*riff.comments, *inside, *riff.tail)))


def _events(riff: Riff) -> list[Event]:
    return list(riff.written_events())


def _notes(riff: Riff) -> Iterator[Note]:
    for event in _events(riff):
        yield from event.notes


def _tempi(riff: Riff) -> tuple[float, ...]:
    return tuple(round(bar.tempo, 1) for phrase in riff.phrases for bar in phrase.bars if bar.tempo is not None)


def _names(riff: Riff) -> tuple[str, ...]:
    return tuple(phrase.name for phrase in riff.phrases if phrase.name)


def _schools(riff: Riff) -> tuple[str, ...]:
    return tuple(phrase.school for phrase in riff.phrases if phrase.school)


def _strokes(riff: Riff) -> int:
    return sum(event.locks.stroke is not None for event in _events(riff))


def _positions(riff: Riff) -> int:
    return sum(event.locks.position is not None for event in _events(riff))


def _fingers(riff: Riff) -> int:
    own = sum(note.locks.finger is not None for note in _notes(riff))
    return own + sum(event.locks.finger is not None for event in _events(riff))


def _places(riff: Riff) -> int:
    return sum(isinstance(note.target, Place) for note in _notes(riff))


def _marked(riff: Riff, mark: Mark) -> int:
    return sum(mark in event.marks or any(mark in note.marks for note in event.notes) for event in _events(riff))


_FACETS = (
    _Facet("comments", _comments, ()),
    _Facet("the title", lambda riff: riff.title),
    _Facet("the section", lambda riff: riff.section),
    _Facet("the key", lambda riff: riff.key.replace(" major", "").replace(" minor", "m")),
    _Facet("the gain", lambda riff: riff.gain, Riff(()).gain),
    _Facet("the style", lambda riff: riff.style, None),
    _Facet("the capo", lambda riff: riff.capo, 0),
    _Facet("swing", lambda riff: riff.swing, Riff(()).swing),
    _Facet("changes of tempo", _tempi, ()),
    _Facet("the tempo", lambda riff: round(riff.tempo, 1)),
    _Facet("the tuning or the instrument", lambda riff: (riff.instrument, riff.tuning), ("guitar-6", "")),
    _Facet("measures of the instrument", lambda riff: (riff.scale, riff.nut, riff.bridge), (0.0, 0.0, 0.0)),
    _Facet("names of phrases", _names, ()),
    _Facet("schools of single phrases", _schools, ()),
)
_COUNTED = {
    "chord signs": lambda riff: sum(event.chord is not None for event in _events(riff)),
    "strokes": _strokes,
    "hand positions": _positions,
    "fingers": _fingers,
    "strings and frets": _places,
}


def losses(meant: Riff, read: Riff) -> tuple[str, ...]:
    r"""What a riff says that it does not say any more after it was written and read again.

    Parameters
    ----------
    meant, read : Riff

    Returns
    -------
    tuple of str
        Words for each kind of thing.

    Examples
    --------
    >>> from dromic.formats.rifftext.reader import read_riff_text
    >>> meant = read_riff_text("key: Em\ngain: high\n| 6:0.m!d/1 |").riff
    >>> losses(meant, read_riff_text("key: Em\n| 6:0.m/1 |").riff)
    ('the gain', 'strokes')
    """
    losses = [one.words for one in _FACETS if one.of(meant) not in (one.empty, one.of(read))]
    losses += [words for words, count in _COUNTED.items() if count(read) < count(meant)]
    losses += [MARK_WORDS[mark] for mark in Mark if _marked(read, mark) < _marked(meant, mark)]
    return tuple(losses)


def with_losses(told: tuple[str, ...], lost: tuple[str, ...]) -> tuple[str, ...]:
    """Remarks of a writer, and one more for what it did not mention.

    Examples
    --------
    >>> with_losses(("comments are left out",), ("comments", "the gain"))
    ('comments are left out', 'left out: the gain')
    """
    words = " ".join(told).lower()
    more = [one for one in lost if not re.search(rf"\b{re.escape(one.lower().removeprefix('the '))}s?\b", words)]
    return (*told, f"left out: {', '.join(more)}") if more else told
