"""Random riffs and requests for the promises: every school, locks, loops, repeats, swing, odd metres, marks."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from random import Random

from dromic.errors import RiffError
from dromic.formats.rifftext.reader import read_riff_text
from dromic.hands.constants import ThumbOver
from dromic.hands.profile import hands_named
from dromic.music.pitch import pitch_name
from dromic.music.riff import Riff, Stroke, Style
from dromic.planner.limits import Limits
from dromic.planner.plan import Objective
from dromic.planner.request import Request
from dromic.schools.registry import SCHOOLS, school_named

INSTRUMENTS = {
    "guitar-6": (40, 45, 50, 55, 59, 64),
    "guitar-7": (35, 40, 45, 50, 55, 59, 64),
    "bass-4": (28, 33, 38, 43),
    "bass-6": (23, 28, 33, 38, 43, 48),
}
METERS = ((4, 8), (5, 16), (6, 8), (7, 8), (9, 8), (10, 16), (12, 8), (8, 16))
TEMPI = (40, 80, 120, 160, 220)
MARKS = ("m", ">", "z", "v", "x", "h", "p", "s", "l", "l", "b2", "k")
SCALES = ((0, 2, 3, 5, 7, 8, 10), (0, 2, 4, 5, 7, 9, 11), (0, 3, 5, 7, 10))
CHORDS = ((0, 3, 7), (0, 4, 7), (0, 7, 12), (0, 7, 16), (0, 5, 9), (0, 3, 7, 10), (0, 7, 12, 16))
CHORDS_FROM = 1_000_000
"""From this seed on every bar is a chord, broken or struck above its bass."""
LOCKS = ("!d", "!u", "!u", "!d", "!m", "!i", "@1", "@2", "@3", "@4", "^5", "!h")


@dataclass(frozen=True)
class Promised:
    """A riff with its text, and how it is to be planned."""

    text: str
    riff: Riff
    request: Request
    words: str


@dataclass
class _Writer:
    chance: Random
    tuning: tuple[int, ...]
    base: int
    scale: tuple[int, ...]
    pitched: bool
    chorded: float
    marked: float
    locked: float
    at: int = 0

    def rarely(self, share: float) -> bool:
        return self.chance.random() < share

    def place(self, string: int | None = None) -> str:
        string = string or self.chance.randint(1, len(self.tuning))
        return f"{string}:{self.chance.choice((0, *range(self.base, self.base + 5)))}"

    def note(self) -> str:
        if not self.pitched or self.rarely(0.15):
            return self.place()
        ladder = [
            midi for midi in range(self.tuning[0], self.tuning[-1] + 12) if (midi - self.base) % 12 in self.scale
        ]
        self.at = min(max(self.at + self.chance.choice((-2, -1, 0, 1, 1, 2)), 0), len(ladder) - 1)
        return str(pitch_name(ladder[self.at]))

    def chord(self) -> str:
        count = self.chance.choice((2, 2, 3, 4))
        first = self.chance.randint(1, max(len(self.tuning) - count + 1, 1))
        strings = range(min(first + count - 1, len(self.tuning)), first - 1, -1)
        return f"({' '.join(self.place(string) for string in strings)})"

    def event(self, value: str) -> str:
        if self.rarely(0.1):
            return f"r{value}"
        chord = self.rarely(self.chorded)
        words = self.chord() if chord else self.note()
        if self.rarely(self.marked):
            words += "." + self.chance.choice(MARKS)
        words += value
        if self.rarely(self.locked):
            words += self.chance.choice(LOCKS)
        return words

    def chord_bar(self, values: list[str]) -> str:
        """A bar of a chord: what is marked to ring, what goes round, or strums."""
        root = self.tuning[0] + self.chance.randint(0, 14)
        tones = [root + tone for tone in self.chance.choice(CHORDS)]
        kind = self.chance.choice(("rings", "rings", "round", "strum"))
        events = []
        for at, value in enumerate(values):
            names = [str(pitch_name(tone)) for tone in tones]
            if kind == "strum" and at % 2:
                word = f"({' '.join(names[1:])})"
            elif kind == "strum":
                word = names[0]
            else:
                word = names[at % min(len(names), 3)] if kind == "round" else self.chance.choice(names)
                if self.rarely(0.08):
                    word = str(pitch_name(self.chance.choice(tones) + self.chance.choice((-2, -1, 1, 2))))
            marks = ("l" if kind == "rings" else "") + (self.chance.choice("hpx>") if self.rarely(0.05) else "")
            word += f".{marks}" if marks else ""
            events.append(word + value + (self.chance.choice(LOCKS) if self.rarely(self.locked / 3) else ""))
        return " ".join(events)


def _text(chance: Random, instrument: str, meter: tuple[int, int], header: str, *, chords: bool) -> str:
    tuning = INSTRUMENTS[instrument]
    chorded = chance.choice((0.0, 0.0, 0.1, 0.4))
    writer = _Writer(
        chance,
        tuning,
        chance.randint(1, 9),
        chance.choice(SCALES),
        chance.random() < 0.5,
        chorded,
        chance.choice((0.0, 0.15, 0.4)),
        chance.choice((0.0, 0.1, 0.3)),
        chance.randint(2, 10),
    )
    phrases = []
    for number in range(chance.choice((1, 1, 1, 2))):
        bars = []
        for bar in range(chance.choice((1, 1, 2))):
            values = [f"/{meter[1]}" if not bar and not at and not number else "" for at in range(meter[0])]
            bars.append(writer.chord_bar(values) if chords else " ".join(writer.event(value) for value in values))
        times = chance.choice((1, 1, 1, 2, 3))
        phrases.append(f"[{'AB'[number]}] | {' | '.join(bars)} |" + (f" x{times}" if times > 1 else ""))
    return f"{header}\n" + "\n".join(phrases) + "\n"


def edited(text: str, chance: Random) -> str:
    """A riff's text with one thing changed: a note, a mark, a lock, durations, metre, tempo, header, repeats."""
    lines = text.strip().split("\n")
    body = [at for at, line in enumerate(lines) if "|" in line]
    at = chance.choice(body)
    words = lines[at].split()
    events = [number for number, word in enumerate(words) if word[:1] in "r(ABCDEFG1234567890"]
    # Chords have blanks inside them.
    whole = [number for number in events if word_is_whole(words[number])]
    kind = chance.choice(("note", "note", "chord", "mark", "lock", "values", "tempo", "gain", "times", "metre"))
    if kind in ("note", "chord", "mark", "lock") and whole:
        number = chance.choice(whole)
        name, slash, value = words[number].partition("/")
        value = slash + value.split("!")[0].split("@")[0].split("^")[0]
        note = f"{chance.randint(1, 4)}:{chance.randint(0, 9)}"
        plain = name.split(".")[0].split("!")[0].split("@")[0].split("^")[0]
        words[number] = {
            "note": chance.choice((note, "r", "E3", "A2", "C3")) + value,
            "chord": f"(4:{chance.randint(0, 5)} 3:{chance.randint(0, 5)}){value}",
            "mark": plain + ("" if plain == "r" else "." + chance.choice(MARKS)) + value,
            "lock": plain + value + ("" if plain == "r" else chance.choice(LOCKS)),
        }[kind]
    elif kind == "values" and len(whole) > 2:
        number = chance.randrange(len(whole) - 2)
        some = whole[number : number + 3]
        if all("/" not in words[one] for one in some) and some == list(range(some[0], some[0] + 3)):
            unit = int(next(line for line in lines if line.startswith("meter")).split("/")[1])
            for one, value in zip(some, (f"/{unit}.", f"/{unit * 2}", f"/{unit}"), strict=True):
                name = words[one].split("!")[0].split("@")[0].split("^")[0]
                words[one] = name + value
    elif kind == "times" and words[-1].startswith("x"):
        words[-1] = f"x{chance.randint(2, 4)}"
    lines[at] = " ".join(words)
    if kind == "tempo":
        lines = [f"tempo: {chance.choice(TEMPI)}" if line.startswith("tempo") else line for line in lines]
    if kind == "gain":
        lines = [line for line in lines if not line.startswith("gain")]
        lines.insert(0, f"gain: {chance.choice(('clean', 'crunch', 'high'))}")
    if kind == "metre":
        lines = _in_another_metre(lines)
    return "\n".join(lines) + "\n"


def _in_another_metre(lines: list[str]) -> list[str]:
    """Eighths as sixteenths, or the other way round; left alone where there are dots."""
    unit = next(line for line in lines if line.startswith("meter")).rpartition("/")[2]
    other = {"8": "16", "16": "8"}[unit]
    if any(f"/{unit}." in line for line in lines):
        return lines
    changed = (line.startswith("meter") or "|" in line for line in lines)
    pairs = zip(lines, changed, strict=True)
    return [line.replace(f"/{unit}", f"/{other}") if there else line for line, there in pairs]


def word_is_whole(word: str) -> bool:
    """Whether a word is an event of its own, and no part of a chord."""
    return "(" not in word and ")" not in word


def promised(seed: int) -> Promised | None:
    """A riff and a request, the same for a seed every time; None where chance wrote what cannot be read."""
    chance = Random(seed)
    school = list(SCHOOLS)[seed % len(SCHOOLS)]
    basses = [name for name in INSTRUMENTS if name.startswith("bass")]
    instrument = chance.choice(basses if school == "bass-two-finger" else ["guitar-6"] * 3 + list(INSTRUMENTS))
    meter, tempo = chance.choice(METERS), chance.choice(TEMPI)
    header = [f"instrument: {instrument}", f"tempo: {tempo}", f"meter: {meter[0]}/{meter[1]}"]
    if chance.random() < 0.3:
        header.append(f"gain: {chance.choice(('clean', 'crunch', 'high'))}")
    if chance.random() < 0.2 and meter[1] == 8 and meter[0] in (4, 7):
        header.append("swing: 2:1")
    if chance.random() < 0.2:
        header.append(f"tuning: {chance.choice(('drop', 'half-step-down', 'whole-step-down'))}")
    text = _text(chance, instrument, meter, "\n".join(header), chords=seed >= CHORDS_FROM)
    settings: dict[str, object] = {}
    options: tuple[tuple[float, str, Callable[[], object]], ...] = (
        (0.25, "loop", lambda: True),
        (0.2, "objective", lambda: Objective.TEMPO),
        (0.1, "identical_repeats", lambda: True),
        (0.1, "first_stroke", lambda: chance.choice((Stroke.DOWN, Stroke.UP))),
        (
            0.1,
            "limits",
            lambda: Limits(chance.choice((0, 1)), chance.choice((9, 13)), open_strings=chance.random() < 0.8),
        ),
        (0.1, "style", lambda: chance.choice(list(Style))),
        (0.1, "by_phrase", lambda: {"A": school_named(chance.choice(list(SCHOOLS)))}),
    )
    for share, name, option in options:
        if chance.random() < share:
            settings[name] = option()
    hands = chance.choice(("medium", "medium", "small", "large", "beginner", "fast"))
    try:
        riff = read_riff_text(text).riff
    except RiffError:
        return None
    told = {name: value if name != "by_phrase" else value["A"].name for name, value in settings.items()}  # type: ignore[index]
    played_by = hands_named(hands)
    if chance.random() < 0.1:
        played_by = replace(played_by, fretting=replace(played_by.fretting, thumb=ThumbOver.FOR_BASS))
        hands += " (thumb over the neck)"
    request = Request(played_by, school_named(school), **settings)  # type: ignore[arg-type]
    return Promised(text, riff, request, f"{school}, {hands} hands, {told}")
