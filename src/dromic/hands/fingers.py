"""The fretting hand's fingers, by number: 0 is none, 1 to 4 are the fingers, 5 is the thumb over the neck."""

from __future__ import annotations

LITTLE = 4
THUMB = 5
FINGERS = (1, 2, 3, LITTLE)


def finger_sign(finger: int) -> str:
    """A finger as it is written beside a note.

    Examples
    --------
    >>> finger_sign(3), finger_sign(THUMB)
    ('3', 'T')
    """
    return "T" if finger == THUMB else str(finger)


FINGERS_BY_SIGN = {finger_sign(finger): finger for finger in (*FINGERS, THUMB)}


def finger_words(finger: int) -> str:
    """A finger in words.

    Examples
    --------
    >>> finger_words(3), finger_words(THUMB)
    ('finger 3', 'the thumb')
    """
    return "the thumb" if finger == THUMB else f"finger {finger}"
