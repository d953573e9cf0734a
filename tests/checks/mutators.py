"""Ways of breaking files that know how the files are built: lines and columns, events, elements, values.

Every mutator takes a file and gives a broken one. What is repeated, is repeated up to some thousand times, for the
limits of a reader lie there and not within the few bytes that a small file has.
"""

from __future__ import annotations

import copy
import json
import random
import struct
from collections.abc import Callable, Sequence
from typing import Any

from lxml import etree

Mutator = Callable[[bytes, random.Random], bytes]

LARGEST = 400_000
TIMES = (2, 3, 7, 40, 130, 513, 1030, 4000)
# How often each is drawn: the long ones cost what hundreds of short ones do.
_OFTEN = (400, 300, 150, 60, 20, 8, 2, 1)
NUMBERS = (
    "0",
    "-1",
    "1",
    "5",
    "24",
    "25",
    "99",
    "127",
    "128",
    "1025",
    "65536",
    "99999",
    "1e9",
    "0.5",
    "1/0",
    "9" * 40,
)
WORDS = {
    "riff": (
        "| || [A] [ ] x2 x99 x0 {3/4} {tempo 90} {tempo 0} 6:0 7:0 1:25 C#4 Cb-1 r ( ) .m .h "
        ".p .T .n .w1 .bq .i !d !t @4 @9 ^24 /8 /16q5 /8t /64.. # title: tempo: meter: "
        "tuning: instrument: capo: pickup: swing: gain: \ufeff"
    ),
    "tab": (
        "| || ||* *|| |: :| x4 e| B| E| 12 <12> [7] 7* tr t12 /12 5\\ b9 b1/4 bf ~ x PM---- T "
        "PH N.H. > . [Solo] Am F/C capo 2 3/4 140bpm 1&2& rhythm stroke d u ^ v <b> [tab] "
        "&nbsp; \t \u2014 \xbd"
    ),
    "abc": (
        "| |: :| :: |1 |2 || |] [1 [K:D] [M:6/8] [Q:1/4=60] {g} (3 (3:2:3 (9 [CEG] +CEG+ "
        "!trill! !2! T ~ .A ^^c __d =e z Z4 X:1 K: L:1/8 M:C| V:2 P:A >> <<< - \\ %%x Q:9999 "
        'w: "Am" y & $'
    ),
    "text": ("| [ ] ( ) { } : ; / \\ # . - + * ~"),
}


def _times(chance: random.Random) -> int:
    return chance.choices(TIMES, _OFTEN)[0]


def flipped(data: bytes, chance: random.Random) -> bytes:
    """Bytes changed, put in and taken out."""
    made = bytearray(data)
    for _ in range(chance.randint(1, 12)):
        at = chance.randrange(len(made) + 1)
        made[at : at + chance.randrange(4)] = chance.randbytes(chance.randrange(4))
    return bytes(made)


def cut(data: bytes, chance: random.Random) -> bytes:
    """Only the beginning, or only the end."""
    at = chance.randrange(len(data) + 1)
    return data[:at] if chance.random() < 0.7 else data[at:]


def text_mutator(words: str, others: Sequence[bytes]) -> Mutator:
    """Lines and words moved, repeated, replaced and mixed with those of other files."""
    known = words.split(" ")

    def mutate(data: bytes, chance: random.Random) -> bytes:
        lines = data.decode("utf-8", "replace").split("\n")
        for _ in range(chance.randint(1, 4)):
            _LINES[chance.randrange(len(_LINES))](lines, chance, known, others)
            if sum(map(len, lines)) > LARGEST:
                break
        return "\n".join(lines)[:LARGEST].encode("utf-8", "replace")

    return mutate


def _repeat_piece(lines: list[str], chance: random.Random, _known: list[str], _others: Sequence[bytes]) -> None:
    at = chance.randrange(len(lines))
    begin = chance.randrange(len(lines[at]) + 1)
    end = min(begin + chance.choice((1, 2, 4, 9, 30)), len(lines[at]))
    times = _times(chance)
    lines[at] = lines[at][:begin] + lines[at][begin:end] * times + lines[at][end:]


def _repeat_columns(lines: list[str], chance: random.Random, _known: list[str], _others: Sequence[bytes]) -> None:
    """The same columns of several lines in a row: what tablature and rows beside it are made of."""
    at, count = chance.randrange(len(lines)), chance.choice((2, 4, 6, 6, 8))
    longest = max((len(line) for line in lines[at : at + count]), default=0)
    begin = chance.randrange(longest + 1)
    end, times = begin + chance.choice((1, 2, 3, 8)), _times(chance)
    for number in range(at, min(at + count, len(lines))):
        line = lines[number]
        lines[number] = line[:begin] + line[begin:end] * times + line[end:]


def _cut_columns(lines: list[str], chance: random.Random, _known: list[str], _others: Sequence[bytes]) -> None:
    at, count = chance.randrange(len(lines)), chance.choice((1, 2, 6))
    begin = chance.randrange(60)
    end = begin + chance.choice((1, 1, 2, 10))
    for number in range(at, min(at + count, len(lines))):
        lines[number] = lines[number][:begin] + lines[number][end:]


def _repeat_lines(lines: list[str], chance: random.Random, _known: list[str], _others: Sequence[bytes]) -> None:
    at, count = chance.randrange(len(lines)), chance.choice((1, 1, 2, 6, 8))
    lines[at : at + count] = lines[at : at + count] * _times(chance)


def _drop_lines(lines: list[str], chance: random.Random, _known: list[str], _others: Sequence[bytes]) -> None:
    at = chance.randrange(len(lines))
    del lines[at : at + chance.choice((1, 1, 3))]
    lines.extend([] if lines else [""])


def _swap_lines(lines: list[str], chance: random.Random, _known: list[str], _others: Sequence[bytes]) -> None:
    one, other = chance.randrange(len(lines)), chance.randrange(len(lines))
    lines[one], lines[other] = lines[other], lines[one]


def _put_word(lines: list[str], chance: random.Random, known: list[str], _others: Sequence[bytes]) -> None:
    at = chance.randrange(len(lines))
    place = chance.randrange(len(lines[at]) + 1)
    word = chance.choice(known if chance.random() < 0.7 else NUMBERS)
    lines[at] = lines[at][:place] + chance.choice(("", " ")) + word + chance.choice(("", " ")) + lines[at][place:]


def _change_number(lines: list[str], chance: random.Random, _known: list[str], _others: Sequence[bytes]) -> None:
    places = [(at, column) for at, line in enumerate(lines) for column, sign in enumerate(line) if sign.isdigit()]
    if places:
        at, column = chance.choice(places)
        lines[at] = lines[at][:column] + chance.choice(NUMBERS) + lines[at][column + 1 :]


def _put_lines_of_another(
    lines: list[str], chance: random.Random, _known: list[str], others: Sequence[bytes]
) -> None:
    other = chance.choice(others).decode("utf-8", "replace").split("\n")
    begin = chance.randrange(len(other))
    at = chance.randrange(len(lines) + 1)
    lines[at:at] = other[begin : begin + chance.choice((1, 3, 8))]


_LINES = (
    _repeat_piece,
    _repeat_columns,
    _cut_columns,
    _repeat_lines,
    _drop_lines,
    _swap_lines,
    _put_word,
    _put_word,
    _change_number,
    _put_lines_of_another,
)


def xml_mutator(others: Sequence[bytes]) -> Mutator:
    """Elements taken out, doubled, moved, mixed with those of other files; texts and attributes changed."""
    trees = [etree.fromstring(one) for one in others if not one.startswith(b"PK")]

    def mutate(data: bytes, chance: random.Random) -> bytes:
        if data.startswith(b"PK"):
            return flipped(data, chance)
        root = copy.deepcopy(trees[chance.randrange(len(trees))])
        for _ in range(chance.randint(1, 5)):
            every = list(root.iter("*"))
            if len(every) < 2 or len(every) > 30_000:
                break
            _change_element(chance.choice(every[1:]), every, chance, trees)
        made: bytes = etree.tostring(root)
        return made

    return mutate


def _change_element(one: Any, every: list[Any], chance: random.Random, trees: list[Any]) -> None:
    parent = one.getparent()
    kind = chance.randrange(7)
    if kind == 0:
        parent.remove(one)
    elif kind == 1:
        times = _times(chance) if len(one) < 30 else 2
        for _ in range(times):
            parent.insert(parent.index(one), copy.deepcopy(one))
    elif kind == 2:
        one.text = chance.choice((*NUMBERS, "", "C", "quarter", "yes", "stop", "palm", "x" * 3000))
    elif kind == 3:
        name = chance.choice((*one.attrib.keys(), "type", "number", "tempo", "times"))
        one.set(name, chance.choice((*NUMBERS, "start", "stop", "no")))
    elif kind == 4:
        target = chance.choice(every)
        if one is not target and target not in one.iterdescendants():
            target.append(copy.deepcopy(one))
    elif kind == 5:
        one.tag = chance.choice(every).tag
    else:
        other = list(chance.choice(trees).iter("*"))
        parent.append(copy.deepcopy(chance.choice(other[1:] or other)))


EVENTS = (
    b"\x90\x28\x40",
    b"\x80\x28\x00",
    b"\x90\x28\x00",
    b"\xb0\x7b\x00",
    b"\xe0\x00\x40",
    b"\xc0\x18",
    b"\xff\x51\x03\x00\x00\x01",
    b"\xff\x51\x03\xff\xff\xff",
    b"\xff\x58\x04\x07\x03\x18\x08",
    b"\xff\x58\x04\x00\x00\x00\x00",
    b"\xff\x59\x02\xfd\x01",
    b"\xff\x03\x04Name",
    b"\xff\x2f\x00",
    b"\xf0\x03\x01\x02\xf7",
    b"\x99\x28\x40",
)
WAITS = (b"\x00", b"\x01", b"\x60", b"\x81\x00", b"\xff\x7f", b"\xff\xff\xff\x7f")


def midi_mutator(data: bytes, chance: random.Random) -> bytes:
    """Events put into tracks, pieces of tracks repeated, lengths kept right for the most part."""
    if chance.random() < 0.25 or not data.startswith(b"MThd"):
        return flipped(data, chance)
    head, tracks = bytearray(data[:14]), _tracks(data)
    for _ in range(chance.randint(1, 6)):
        if not tracks:
            break
        at = chance.randrange(len(tracks))
        track = bytearray(tracks[at])
        place = chance.randrange(len(track) + 1)
        kind = chance.randrange(6)
        if kind < 2:
            track[place:place] = chance.choice(WAITS) + chance.choice(EVENTS)
        elif kind == 2:
            end = place + chance.choice((1, 4, 8, 40))
            track[place:end] = track[place:end] * _times(chance)
        elif kind == 3:
            del track[place : place + chance.choice((1, 3, 4, 20))]
        elif kind == 4:
            tracks.insert(at, bytes(track))
        else:
            head[chance.choice((9, 11, 12, 13))] = chance.choice((0, 1, 2, 24, 96, 127, 128, 255))
        tracks[at] = bytes(track[:LARGEST])
    body = b"".join(b"MTrk" + struct.pack(">I", len(track)) + track for track in tracks)
    return bytes(head) + body


def _tracks(data: bytes) -> list[bytes]:
    found, at = [], 14
    while data[at : at + 4] == b"MTrk":
        length = int.from_bytes(data[at + 4 : at + 8], "big")
        found.append(data[at + 8 : at + 8 + length])
        at += 8 + length
    return found


VALUES: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 2.5, 1e308, 10**30, float("nan"), float("inf"), "", "x", "\ud800", "9" * 5000,
    [], {},    [[]], {"schema": 2}, "| 6:0/1 |", "title: a\n| 6:0/1 |",
)  # fmt: skip


def json_mutator(data: bytes, chance: random.Random) -> bytes:
    """Values of other kinds, keys taken out, doubled and misspelt, lists made long and deep."""
    try:
        tree = json.loads(data)
    except ValueError:
        return flipped(data, chance)
    for _ in range(chance.randint(1, 4)):
        places: list[tuple[Any, Any]] = []
        _places(tree, places)
        if not places:
            break
        holder, key = chance.choice(places)
        kind = chance.randrange(6)
        if kind == 0:
            del holder[key]
        elif kind == 1 and isinstance(holder, dict):
            holder[chance.choice((*holder, "schema", "riff", "kept", "x" * 50))] = copy.deepcopy(holder[key])
        elif kind == 2:
            deep: Any = holder[key]
            for _ in range(chance.choice((1, 5, 60))):
                deep = [deep] if chance.random() < 0.5 else {"riff": deep}
            holder[key] = deep
        elif kind == 3:
            holder[key] = [copy.deepcopy(holder[key])] * _times(chance)
        else:
            holder[key] = copy.deepcopy(chance.choice(VALUES))
    return json.dumps(tree)[:LARGEST].encode("utf-8", "surrogatepass")


def _places(tree: Any, found: list[tuple[Any, Any]]) -> None:
    """Every place of a value in a tree, with what holds it."""
    waiting = [tree]
    while waiting and len(found) < 2_000:
        one = waiting.pop()
        keys = list(one) if isinstance(one, dict) else range(len(one)) if isinstance(one, list) else ()
        for key in keys:
            found.append((one, key))
            waiting.append(one[key])
