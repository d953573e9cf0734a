"""Notes in another order or rhythm: units of what belongs together, and how they are laid into bars."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from fractions import Fraction

from dromic.errors import RiffError
from dromic.music.laying import laid_in_bars
from dromic.music.riff import Event, Mark, Phrase, Riff


@dataclass(frozen=True)
class Unit:
    """A struck note or a rest with what belongs to it: grace notes before it, ties behind it.

    Parameters
    ----------
    events : tuple of Event
    origins : tuple of int or None
        Of its struck events, in order.
    """

    events: tuple[Event, ...]
    origins: tuple[int | None, ...] = ()

    @property
    def quarters(self) -> Fraction:
        """Its length."""
        return sum((event.quarters for event in self.events), Fraction(0))

    @property
    def rest(self) -> bool:
        """Whether nothing sounds."""
        return all(event.rest for event in self.events)

    @property
    def plain(self) -> bool:
        """Whether it is one note or rest by itself."""
        return len(self.events) == 1


def units_of(riff: Riff) -> tuple[Unit, ...]:
    """The notes of a riff with what belongs to them, phrases one after the other, repeats played once.

    Parameters
    ----------
    riff : Riff
    """
    units: list[Unit] = []
    graces: list[Event] = []
    struck = 0
    for event in riff.written_events():
        if event.grace:
            graces.append(event)
            continue
        if Mark.TIE in event.marks and units and not graces:
            units[-1] = replace(units[-1], events=(*units[-1].events, event))
            continue
        events = (*graces, event)
        own = tuple(range(struck, struck + sum(not one.rest for one in events)))
        struck += len(own)
        units.append(Unit(events, own))
        graces = []
    return tuple(units)


def laid(riff: Riff, units: Iterable[Unit], title: str) -> tuple[Riff, tuple[int | None, ...]]:
    """Units laid into bars of the riff's metre, as one phrase, with the origins of their struck notes.

    Parameters
    ----------
    riff : Riff
        The header comes from it; a metre or a tempo that changes inside it does not.
    units : iterable of Unit
    title : str

    Raises
    ------
    RiffError
        Where a tuplet does not fit into the bars.
    """
    some = _without_last_rests(list(units))
    if not some:
        raise RiffError("there are no notes in it")
    meter = riff.phrases[0].bars[0].meter or riff.meter
    pickup = riff.pickup

    def length(number: int) -> tuple[Fraction, None]:
        return (pickup if pickup and not number else meter.bar), None

    bars = laid_in_bars([event for unit in some for event in unit.events], length)
    origins = tuple(origin for unit in some for origin in unit.origins)
    first = riff.phrases[0]
    made = replace(
        riff,
        title=title,
        meter=meter,
        phrases=(Phrase(tuple(bars), first.name if first.school else None, 1, first.school),),
        comments=(),
        tail=(),
    )
    return made, origins


def _without_last_rests(units: list[Unit]) -> list[Unit]:
    while units and units[-1].rest:
        units = units[:-1]
    return units


def without_reaching_marks(unit: Unit) -> Unit:
    """A unit whose first note is struck: what led to it from another note is gone."""
    leads = {Mark.HAMMER, Mark.PULL, Mark.SLIDE, Mark.RELEASE}
    first = unit.events[0]
    notes = tuple(replace(note, marks=note.marks - leads) for note in first.notes)
    return replace(unit, events=(replace(first, marks=first.marks - leads, notes=notes), *unit.events[1:]))
