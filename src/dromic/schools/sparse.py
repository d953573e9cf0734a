"""Sparse picking: pick only what cannot be hammered on or pulled off; the fretting hand carries the rhythm."""

from dataclasses import dataclass

from dromic.hands.declaring import TRADE, constant
from dromic.music.riff import Style
from dromic.schools.school import School


@dataclass(frozen=True)
class Efforts:
    """What the school would rather not."""

    picked: float = constant(0.3, "effort", "any picked note", TRADE)


EFFORTS = Efforts()


SCHOOL = School(
    "sparse",
    "Sparse picking",
    "Pick only what cannot be hammered on or pulled off, from nowhere on a new string if need be; the "
    "fretting hand carries the rhythm.",
    slurs=True,
    picked_effort=EFFORTS.picked,
    style_with_gain=Style.METAL,
    efforts=EFFORTS,
)
