"""Styles of playing, and what they say about sound: where open strings belong, what must not ring."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.music.riff import Style

CLOSED = frozenset((Style.JAZZ,))
MID_NECK = frozenset((Style.JAZZ, Style.METAL, Style.BLUES))
BY_THE_NUT = frozenset((Style.BLUEGRASS, Style.BASS))


@dataclass(frozen=True)
class Sound:
    """What a riff is to sound like.

    Parameters
    ----------
    style : Style
    high_gain : bool
        Whether what rings on unasked is loud.
    """

    style: Style = Style.ROCK
    high_gain: bool = False

    @property
    def closed(self) -> bool:
        """Whether positions without open strings are the rule."""
        return self.style in CLOSED

    @property
    def mid_neck(self) -> bool:
        """Whether the hand is at home in the middle of the neck."""
        return not self.by_the_nut and (self.high_gain or self.style in MID_NECK)

    @property
    def by_the_nut(self) -> bool:
        """Whether the hand is at home by the nut."""
        return self.style in BY_THE_NUT


PLAIN = Sound()
