"""Finds the schools: every module of this package that defines ``SCHOOL``. Adding one touches one file."""

from __future__ import annotations

import pkgutil
from importlib import import_module

import dromic.schools
from dromic.errors import RiffError
from dromic.music.riff import Style
from dromic.schools.school import School

DEFAULT_SCHOOL = "least-motion"


def _found() -> dict[str, School]:
    modules = (
        import_module(f"dromic.schools.{info.name}") for info in pkgutil.iter_modules(dromic.schools.__path__)
    )
    schools = [module.SCHOOL for module in modules if isinstance(getattr(module, "SCHOOL", None), School)]
    return {school.name: school for school in sorted(schools, key=lambda school: school.name)}


SCHOOLS = _found()
FORMS = sum(len(school.variants) or 1 for school in SCHOOLS.values())
"""How many forms the schools have together: as many models there are at once where all are compared."""
# What each style is mostly picked with, where the player says the style alone.
SCHOOL_OF_STYLE = {
    Style.ROCK: "pulse-alternate",
    Style.METAL: "strict-alternate",
    Style.BLUEGRASS: "pulse-alternate",
    Style.JAZZ: "economy",
    Style.COUNTRY: "hybrid",
    Style.BLUES: "pulse-alternate",
    Style.BASS: "bass-two-finger",
}


def school_named(name: str) -> School:
    """Return a school.

    Raises
    ------
    RiffError
        For an unknown name.

    Examples
    --------
    >>> school_named("economy").title
    'Economy'
    """
    if name not in SCHOOLS:
        raise RiffError(f"school: found '{name}', expected one of {', '.join(SCHOOLS)}")
    return SCHOOLS[name]
