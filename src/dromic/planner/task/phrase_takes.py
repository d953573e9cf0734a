"""Phrases that are played several times."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dromic.planner.task.step import Step


@dataclass(frozen=True)
class RepeatedPhrase:
    """Steps of a phrase that is played several times: the first, how many a take has, and how many takes."""

    first: int
    length: int
    takes: int

    def places(self, offset: int) -> tuple[int, ...]:
        """Steps that are one and the same note."""
        return tuple(self.first + take * self.length + offset for take in range(self.takes))


def repeated_phrases(steps: Sequence[Step]) -> tuple[RepeatedPhrase, ...]:
    """Find the phrases that are played more than once."""
    takes: dict[int, dict[int, int]] = {}
    first: dict[int, int] = {}
    for index, step in enumerate(steps):
        moment = step.moment
        first.setdefault(moment.phrase, index)
        of_phrase = takes.setdefault(moment.phrase, {})
        of_phrase[moment.pass_number] = of_phrase.get(moment.pass_number, 0) + 1
    return tuple(
        RepeatedPhrase(first[phrase], of_phrase[0], len(of_phrase))
        for phrase, of_phrase in takes.items()
        if len(of_phrase) > 1 and 0 in of_phrase
    )


def slurred_alike(steps: Sequence[Step]) -> tuple[Step, ...]:
    """Steps of which a repeated one may be slurred only where it may be in every pass."""
    slurred_alike = list(steps)
    for phrase in repeated_phrases(steps):
        for offset in range(phrase.length):
            places = phrase.places(offset)
            may_slur = all(steps[place].may_slur for place in places)
            for place in places:
                slurred_alike[place] = replace(slurred_alike[place], may_slur=may_slur)
    return tuple(slurred_alike)
