"""Another way of playing one note: another stroke, place, finger, position of the hand, or shape of a chord."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

from dromic.hands.fingers import finger_words
from dromic.music.riff import Place, Stroke
from dromic.planner.task.state import State


class WayKind(StrEnum):
    """What another way changes."""

    STROKE = "stroke"
    PLACE = "place"
    FINGER = "finger"
    POSITION = "position"
    SHAPE = "shape"


@dataclass(frozen=True)
class OtherStroke:
    """Sounded by another stroke or finger; by `Stroke.NONE`, hammered on or pulled off."""

    stroke: Stroke

    kind = WayKind.STROKE

    @property
    def words(self) -> str:
        """The way in words.

        Examples
        --------
        >>> OtherStroke(Stroke.UP).words, OtherStroke(Stroke.MIDDLE).words
        ('up stroke', 'plucked with m')
        """
        if self.stroke is Stroke.NONE:
            return "hammered on or pulled off"
        if self.stroke is Stroke.CHORD_PLUCK:
            return "plucked together"
        return f"{self.stroke} stroke" if self.stroke in (Stroke.DOWN, Stroke.UP) else f"plucked with {self.stroke}"


@dataclass(frozen=True)
class OtherPlace:
    """On another string."""

    place: Place

    kind = WayKind.PLACE

    @property
    def words(self) -> str:
        """The way in words."""
        return f"string {self.place.string}, fret {self.place.fret}"


@dataclass(frozen=True)
class OtherFinger:
    """At the same place by another finger."""

    place: Place
    finger: int

    kind = WayKind.FINGER

    @property
    def words(self) -> str:
        """The way in words."""
        return finger_words(self.finger)


@dataclass(frozen=True)
class OtherPosition:
    """The same notes by the same fingers, with the hand elsewhere.

    Parameters
    ----------
    notes : tuple of (Place, int)
        Place and finger of each note, thickest string first.
    position : int
    """

    notes: tuple[tuple[Place, int], ...]
    position: int

    kind = WayKind.POSITION

    @property
    def words(self) -> str:
        """The way in words."""
        return f"hand at fret {self.position}"


@dataclass(frozen=True)
class OtherShape:
    """A chord held in another shape.

    Parameters
    ----------
    notes : tuple of (Place, int)
        Place and finger of each note, thickest string first.
    moved : bool
        Whether the places differ too, and not the fingers only.
    """

    notes: tuple[tuple[Place, int], ...]
    moved: bool = False

    kind = WayKind.SHAPE

    @property
    def words(self) -> str:
        """The way in words.

        Examples
        --------
        >>> OtherShape(((Place(6, 5), 1), (Place(5, 7), 3)), moved=True).words
        '6:5 5:7, fingers 1 3'
        """
        fingers = f"fingers {' '.join(str(finger) for _, finger in self.notes)}"
        return f"{' '.join(str(place) for place, _ in self.notes)}, {fingers}" if self.moved else fingers


OtherWay = OtherStroke | OtherPlace | OtherFinger | OtherPosition | OtherShape


@dataclass(frozen=True)
class Detour:
    """What the best plan with another choice plays otherwise: its first step, and the states from there on."""

    first: int
    states: tuple[State, ...]


@dataclass(frozen=True)
class Alternative:
    """Another way of playing one note, and what the best plan with it costs more.

    Parameters
    ----------
    way : OtherWay
    price : float
        Cost of the best plan with it, less the cost of the plan.
    ceiling : float or None
        Tempo that plan could reach; None where nothing has to move, or where it is not worked out.
    detour : Detour or None
        What that plan plays otherwise; known only of the cheapest that can be seen, for least effort once through.
    """

    way: OtherWay
    price: float
    ceiling: float | None
    detour: Detour | None = field(default=None, compare=False, repr=False)

    @property
    def kind(self) -> WayKind:
        """What it changes."""
        return self.way.kind

    @property
    def words(self) -> str:
        """The way in words."""
        return self.way.words
