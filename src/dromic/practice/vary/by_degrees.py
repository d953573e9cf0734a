"""A lick on the other degrees of its scale, and with other intervals where it leaps."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import replace

from dromic.errors import RiffError
from dromic.music.chords import Chord, chord_on
from dromic.music.pitch import Pitch
from dromic.music.riff import Riff
from dromic.music.scales import FORMULAS, Scale, outside
from dromic.practice.vary.lick import Draft, Drafts, Lick, Refusal, moved_notes, with_signs_changed

_ORDINALS = ("", "second", "third", "fourth", "fifth", "sixth", "seventh", "octave", "ninth", "tenth")
LEAST_LEAP = 2


def scale_of(lick: Lick) -> Scale:
    """The scale that a lick goes through: a pentatonic where it has no other tones, else the key's.

    Parameters
    ----------
    lick : Lick

    Raises
    ------
    RiffError
        Where no key can be told.
    """
    key = lick.key
    five = Scale(key.tonic, FORMULAS["minor pentatonic" if key.minor else "major pentatonic"])
    return key.scale if outside(five, lick.midis) else five


def spellings(lick: Lick) -> dict[int, Pitch]:
    """Notes as they are spelled, by MIDI number."""
    notes = [note.target for event in lick.riff.written_events() for note in event.notes]
    return {what.midi: what for what in notes if isinstance(what, Pitch)}


def drafts(lick: Lick) -> Drafts:
    """The lick on every other degree, and with its leaps changed."""
    scale, spelled = scale_of(lick), spellings(lick)
    strange = outside(scale, lick.midis)
    if strange:
        yield Refusal(
            "degrees",
            f"{scale} does not hold {', '.join(strange)}; such tones stay altered on the other degrees too. Write "
            "another key where that is not meant.",
        )
    for degrees in range(1, scale.size):
        yield _on_degree(lick, scale, spelled, degrees)
    yield from _leaps(lick, scale, spelled)


def shifted(lick: Lick, degrees: int, scale: Scale | None = None) -> Riff:
    """The lick so many degrees of a scale higher.

    Parameters
    ----------
    lick : Lick
    degrees : int
    scale : Scale or None
        None for its own.

    Raises
    ------
    RiffError
        Where it leaves the neck.
    """
    own = scale or scale_of(lick)
    return moved_notes(lick, _up(lick, own, spellings(lick), degrees), f"{degrees} degrees higher").riff


def _on_degree(lick: Lick, scale: Scale, spelled: dict[int, Pitch], degrees: int) -> Draft | Refusal:
    name = f"from the {_ORDINALS[degrees]} degree of {scale}"
    trouble = ""
    # The nearer way first: the seventh degree is a step down.
    for octaves in (0, -1) if 2 * degrees <= scale.size + 1 else (-1, 0):
        way = degrees + octaves * scale.size
        try:
            moved = moved_notes(lick, _up(lick, scale, spelled, way), name)
        except RiffError as error:
            trouble = trouble or error.message
            continue
        words = f"{name}, {'below' if octaves else 'above'}{moved.words}"
        riff = with_signs_changed(moved.riff, lambda chord: _sign_up(chord, lick.key.scale, degrees))
        return Draft(words, "degrees", replace(riff, title=lick.title(name)), lick.all_origins())
    return Refusal("degrees", trouble)


def _up(lick: Lick, scale: Scale, spelled: dict[int, Pitch], way: int) -> Callable[[int, int], int]:
    """A note so many degrees higher; one outside the scale, a semitone from the next, leads there still."""
    line = _line(lick)

    def up(at: int, midi: int) -> int:
        after = line[at + 1] if at + 1 < len(line) else None
        leads = after is not None and abs(after - midi) == 1 and scale.holds(after) and line[at] == midi
        if scale.holds(midi) or not leads or after is None:
            return scale.up(midi, way, spelled.get(midi))
        return scale.up(after, way, spelled.get(after)) + midi - after

    return up


def _sign_up(chord: Chord, scale: Scale, degrees: int) -> Chord | None:
    """The chord so many degrees higher, as the scale stacks it; none where its root is outside."""
    pitch_classes = [tone.pitch_class for tone in scale.tones]
    if chord.root.pitch_class not in pitch_classes or scale.size != 7:
        return None
    degree = (pitch_classes.index(chord.root.pitch_class) + degrees) % 7
    return chord_on(scale.tones, degree, 4 if len(chord.degrees) > 3 else 3)


def _leaps(lick: Lick, scale: Scale, spelled: dict[int, Pitch]) -> Drafts:
    """The commonest leap made wider, narrower, and turned over."""
    lines = _line(lick)
    steps = [None if midi is None else scale.step(midi, spelled.get(midi)).number for midi in lines]
    leaps = {
        at: steps[at] - before  # type: ignore[operator]
        for at, before in enumerate(steps[:-1], start=1)
        if before is not None and steps[at] is not None
    }
    leaps = {at: by for at, by in leaps.items() if abs(by) >= LEAST_LEAP}
    if not leaps:
        yield Refusal("degrees", "There are no leaps in it to make wider or narrower; it goes by steps.")
        return
    commonest = Counter(abs(by) for by in leaps.values()).most_common(1)[0][0]
    targets = {at: by for at, by in leaps.items() if abs(by) == commonest}
    name = _ORDINALS[commonest] if commonest < len(_ORDINALS) else f"{commonest} degrees"
    size = scale.size
    wanted = [(commonest + 1, False), (commonest - 1, False)]
    if commonest < size:
        wanted.append((size - commonest, True))
    for new, turned in wanted:
        if not 1 <= new < len(_ORDINALS) or (new == commonest and not turned):
            continue
        to = _ORDINALS[new]
        words = f"leaps of a {name} turned over into a {to}" if turned else f"leaps of a {name} made a {to}"

        def leap(at: int, midi: int, new: int = new, turned: bool = turned) -> int:
            if at not in targets:
                return midi
            way = 1 if targets[at] > 0 else -1
            by = (-way * new if turned else way * new) - targets[at]
            return scale.up(midi, by, spelled.get(midi))

        try:
            moved = moved_notes(lick, leap, words)
        except RiffError as error:
            yield Refusal("degrees", error.message)
            continue
        made = replace(moved.riff, title=lick.title(words))
        yield Draft(words + moved.words, "degrees", made, lick.all_origins())


def _line(lick: Lick) -> list[int | None]:
    """The MIDI number of each struck note; None for a chord."""
    events = lick.riff.written_events()
    line: list[int | None] = []
    for written in lick.struck:
        notes = events[written].notes
        line.append(lick.instrument.pitch_of(notes[0].target) if len(notes) == 1 else None)
    return line
