"""How many messages a MIDI file holds, counted without building any of them.

Source: the Standard MIDI File format as commonly documented: chunks, variable-length numbers, running status.
"""

from __future__ import annotations

HEADER = 8
META, SYSEX, SYSEX_GOES_ON = 0xFF, 0xF0, 0xF7
ONE_DATA_BYTE = range(0xC0, 0xE0)


def more_messages_than(data: bytes, most: int) -> bool:
    """Whether a file holds more messages than that; a broken one is counted as far as it can be read.

    Parameters
    ----------
    data : bytes
    most : int

    Examples
    --------
    >>> track = bytes([0, 0x90, 40, 64, 10, 40, 0])
    >>> head = b"MThd" + bytes([0, 0, 0, 6, 0, 0, 0, 1, 0, 96])
    >>> file = head + b"MTrk" + bytes([0, 0, 0, 7]) + track
    >>> more_messages_than(file, 1), more_messages_than(file, 2)
    (True, False)
    """
    count, at = 0, 0
    while at + HEADER <= len(data):
        kind, size = data[at : at + 4], int.from_bytes(data[at + 4 : at + HEADER])
        at += HEADER
        if kind == b"MTrk":
            count += _messages(data, at, min(at + size, len(data)), most - count)
            if count > most:
                return True
        at += size
    return False


def _messages(data: bytes, at: int, end: int, most: int) -> int:
    """Count the messages of a track, one beyond the most at least if there are more."""
    count = status = 0
    try:
        while at < end and count <= most:
            while data[at] & 0x80:
                at += 1
            at += 1
            if data[at] & 0x80:
                status = data[at]
                at += 1
            if status in (META, SYSEX, SYSEX_GOES_ON):
                at += status == META
                length = data[at] & 0x7F
                while data[at] & 0x80:
                    at += 1
                    length = length << 7 | data[at] & 0x7F
                at += 1 + length
            else:
                at += 1 if status in ONE_DATA_BYTE else 2
            count += 1
    except IndexError:
        # Broken off; the reader says so.
        return count
    return count
