"""What was last made of an object, kept with it.

A riff is worked out again at every key, and nearly all of it is as it was: the same bars, and what was made of
them. What is made of an object hangs on it, with all else that it was made from, and goes when the object goes.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

T = TypeVar("T")


def last_of(owner: object, name: str, made_from: tuple[object, ...], make: Callable[[], T]) -> T:
    """Make something of an object, or take what was made of it last if it was made from the same.

    Parameters
    ----------
    owner : object
        One that never changes, and has a ``__dict__``.
    name : str
        What is made.
    made_from : tuple
        All that it depends on beside the owner.
    make : callable

    Examples
    --------
    >>> from dromic.music.rhythm import NoteValue
    >>> value = NoteValue(8)
    >>> [last_of(value, "_times", (by,), lambda by=by: by * value.base) for by in (2, 2, 3)]
    [16, 16, 24]
    """
    own = owner.__dict__
    found = own.get(name)
    if found is not None and found[0] == made_from:
        value: T = found[1]
        return value
    value = make()
    own[name] = made_from, value
    return value
