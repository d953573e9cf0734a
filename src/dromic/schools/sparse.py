"""Sparse picking: pick only what cannot be hammered on or pulled off; the fretting hand carries the rhythm."""

from dromic.music.riff import Style
from dromic.schools.school import School

SCHOOL = School(
    "sparse",
    "Sparse picking",
    "Pick only what cannot be hammered on or pulled off, from nowhere on a new string if need be; the "
    "fretting hand carries the rhythm.",
    slurs=True,
    picked_effort=0.3,
    style_with_gain=Style.METAL,
)
