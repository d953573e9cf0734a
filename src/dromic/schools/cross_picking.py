"""Cross-picking roll: a fixed cycle of strokes from the start of every bar, over chord shapes."""

from collections.abc import Callable

from dromic.music.riff import Stroke, Style
from dromic.schools.school import School, StrokeContext, Verdict

_D, _U = Stroke.DOWN, Stroke.UP
_CYCLES = {
    "down-down-up": (_D, _D, _U),
    "down-down-down-up-up-up": (_D, _D, _D, _U, _U, _U),
    "strict alternation": (_D, _U),
}
_WORDS = "A fixed cycle of strokes rolls over three strings or more, and begins again with every bar."


def _rule(name: str, cycle: tuple[Stroke, ...]) -> Callable[[StrokeContext], Verdict]:
    def on_stroke(context: StrokeContext) -> Verdict:
        at = context.count % len(cycle)
        reason = f"note {at + 1} of the roll {name}" if len(cycle) > 2 else "the roll alternates"
        return Verdict(context.stroke is cycle[at], reason=reason)

    return on_stroke


def _form(name: str, cycle: tuple[Stroke, ...]) -> School:
    return School("cross-picking", f"Cross-picking, {name}", _WORDS, on_stroke=_rule(name, cycle))


SCHOOL = School(
    "cross-picking",
    "Cross-picking",
    _WORDS,
    variants=tuple(_form(name, cycle) for name, cycle in _CYCLES.items()),
    style=Style.BLUEGRASS,
)
