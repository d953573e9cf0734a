"""Styles of playing, and what they say about sound: where open strings belong, what must not ring."""

from __future__ import annotations

from dataclasses import dataclass

from dromic.hands.constants import Damping, OpenStrings
from dromic.music.riff import Style

CLOSED = frozenset((Style.JAZZ,))
MID_NECK = frozenset((Style.JAZZ, Style.METAL))
BY_THE_NUT = frozenset((Style.BLUEGRASS, Style.BASS))


@dataclass(frozen=True)
class Sound:
    """What a riff is to sound like.

    Parameters
    ----------
    style : Style
    high_gain : bool
        Whether what rings on unasked is loud.
    open_strings : OpenStrings
    damping : Damping
        What the player says to open strings and to what rings on, whatever the style and the gain.
    """

    style: Style = Style.ROCK
    high_gain: bool = False
    open_strings: OpenStrings = OpenStrings.BY_STYLE
    damping: Damping = Damping.BY_GAIN

    @property
    def closed(self) -> bool:
        """Whether positions without open strings are the rule."""
        if self.open_strings is OpenStrings.BY_STYLE:
            return self.style in CLOSED
        return self.open_strings is OpenStrings.AVOIDED

    @property
    def damps(self) -> bool:
        """Whether what rings on unasked has to be damped."""
        if self.damping is Damping.BY_GAIN:
            return self.high_gain
        return self.damping is Damping.ALWAYS

    @property
    def open_is_loud(self) -> bool:
        """Whether an open string rings into what follows, as far as the player minds."""
        return self.damps and self.open_strings is not OpenStrings.WELCOME

    @property
    def mid_neck(self) -> bool:
        """Whether the hand is at home in the middle of the neck."""
        return not self.by_the_nut and (self.high_gain or self.style in MID_NECK)

    @property
    def by_the_nut(self) -> bool:
        """Whether the hand is at home by the nut."""
        return self.style in BY_THE_NUT


PLAIN = Sound()
