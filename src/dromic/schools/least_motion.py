"""Least motion: no rule but the movement itself."""

from dromic.schools.school import School

SCHOOL = School(
    "least-motion",
    "Least motion",
    "No rule but the movement itself: whatever costs the hands least.",
    begins_with_either=True,
)
