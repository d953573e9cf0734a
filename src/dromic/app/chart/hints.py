"""What the chart says where the pointer rests: every lane tells its own story, in words.

Pure text from a layout, without Qt.
"""

from __future__ import annotations

from collections.abc import Callable

from dromic.app.chart.layout import PLATE_WIDTH, ChartLayout, Column
from dromic.music.riff import MARK_WORDS, Stroke, stroke_words
from dromic.planner.model import Model
from dromic.planner.plan import PlannedEvent
from dromic.planner.reasons import HandReason, Reason, reason_for, what_words

LANE_WORDS = {
    "ruler": "Bars and beats, with the names of phrases above them",
    "strokes": "What sounds each note: down and up strokes, plucking fingers, or a letter where it is slurred",
    "strings": "The strings as they are spaced, and the pick's way through and over them",
    "mutes": "What keeps the other strings silent at each note",
    "hand": "The fretting hand along the neck, in true distances: its band, and the fingers that are down",
    "load": "Time needed over time given; a bar above the line of 1 cannot be played at this tempo",
}
_HANDS = {"pick": "pick", "fret": "fretting hand", "sync": "both hands at once"}
_KINDS = {"rest": "a rest stroke: it ends on the next string", "free": "a free stroke: it ends above the strings"}


def lane_at(layout: ChartLayout, y: float) -> str:
    """Which lane of the chart a height lies in."""
    for name, band in (
        ("ruler", layout.ruler),
        ("strokes", layout.strokes),
        ("strings", layout.field),
        ("mutes", layout.mutes),
        ("hand", layout.hand),
    ):
        if y < band.bottom + (layout.hand.top - layout.mutes.bottom if name == "mutes" else 0):
            return name
    return "load"


def label_hint(layout: ChartLayout, y: float) -> str:
    """What a label on the left stands for."""
    return LANE_WORDS[lane_at(layout, y)]


def hint(layout: ChartLayout, model: Model, x: float, y: float) -> str:
    """Say what stands at a place of the chart.

    Parameters
    ----------
    layout : ChartLayout
    model : Model
        The plan's own (see `dromic.planner.reasons.model_of`).
    x, y : float
        In the chart's coordinates.
    """
    lane = lane_at(layout, y)
    column = layout.columns[layout.nearest(x)]
    if lane == "strings" and abs(x - column.plate_x) > PLATE_WIDTH / 2 + 2:
        # Beside a plate the pick is on its way, and the way belongs to the note that it leads to.
        after = column if x < column.plate_x else next(iter(layout.columns[column.step + 1 :]), column)
        if after.step and after.plate_x > x:
            return _way_hint(layout, model, after)
    words: dict[str, Callable[[ChartLayout, Model, Column], str]] = {
        "ruler": _ruler_hint,
        "strokes": _stroke_hint,
        "strings": _string_hint,
        "mutes": _mute_hint,
        "hand": _hand_hint,
        "load": _load_hint,
    }
    return f"{column.event.moment.place_words}\n{words[lane](layout, model, column)}"


def _reason(layout: ChartLayout, model: Model, column: Column) -> Reason:
    return reason_for(layout.plan, column.step, model)


def _hand(reason: Reason, name: str) -> HandReason | None:
    return next((hand for hand in reason.hands if hand.kind == name), None)


def _ruler_hint(layout: ChartLayout, _model: Model, column: Column) -> str:
    moment = column.event.moment
    phrase = layout.plan.riff.phrases[moment.phrase]
    named = f"phrase {phrase.name}" if phrase.name else ""
    times = f"time {moment.pass_number + 1} of {phrase.times}" if phrase.times > 1 else ""
    return "\n".join(filter(None, [f"metre {moment.meter}", ", ".join(filter(None, [named, times]))]))


def _stroke_hint(layout: ChartLayout, model: Model, column: Column) -> str:
    event = column.event
    here, state = layout.plan.task.steps[column.step], layout.plan.states[column.step]
    if event.stroke is Stroke.NONE:
        return f"{MARK_WORDS[event.legato] if event.legato is not None else 'slurred'}: not picked"
    pick = event.stroke in (Stroke.DOWN, Stroke.UP)
    lines = [f"{event.stroke} stroke" if pick else stroke_words(event.stroke)]
    if pick:
        lines.append("it ends above the strings" if state.stroke is state.escape else "it ends between the strings")
        lines += [_KINDS["rest"]] if event.stroke_kind == "rest" else []
    lines += _reason(layout, model, column).school
    if here.locks.stroke is not None:
        lines.append("locked by you")
    return "\n".join(lines)


def _string_hint(layout: ChartLayout, _model: Model, column: Column) -> str:
    plan, event = layout.plan, column.event
    marks = ", ".join(MARK_WORDS[mark] for mark in sorted(event.moment.event.marks))
    spots = "; ".join(event.spots)
    told = what_words(plan.task.steps[column.step], plan.states[column.step])
    return "\n".join(filter(None, [told, marks, spots and f"trips hands up: {spots}"]))


def _way_hint(layout: ChartLayout, model: Model, column: Column) -> str:
    pick = _hand(_reason(layout, model, column), "pick")
    where = f"on the way to {column.event.moment.place_words}"
    if pick is None:
        return f"{where}\nthe pick rests: the note is not picked"
    return f"{where}\n{pick.words}\n{_time_words(pick)}"


def _mute_hint(_layout: ChartLayout, _model: Model, column: Column) -> str:
    event: PlannedEvent = column.event
    lines = [
        f"string {mute.string}: {mute.by}" + (", with care: it rang until now" if mute.doubtful else "")
        for mute in event.mutes
    ]
    return "\n".join(lines) or "nothing has to be kept silent here"


def _hand_hint(layout: ChartLayout, model: Model, column: Column) -> str:
    event = column.event
    fret = _hand(_reason(layout, model, column), "fret")
    fingers = sorted({(note.finger, note.fret) for note in (*event.notes, *event.held) if note.finger})
    down = ", ".join(f"finger {finger} at fret {fret_number}" for finger, fret_number in fingers)
    lines = [f"hand at fret {event.position}" if event.position else "", down or "no finger is down"]
    lines += [fret.words, _time_words(fret)] if fret is not None else []
    return "\n".join(filter(None, lines))


def _load_hint(layout: ChartLayout, model: Model, column: Column) -> str:
    reason, tempo_ratio = _reason(layout, model, column), layout.view.tempo_ratio
    if not reason.hands:
        return "the first note: both hands start from rest"
    lines = []
    for hand in reason.hands:
        load = hand.load * tempo_ratio
        over = ": no time for it" if load > 1.0 else ""
        lines.append(
            f"{_HANDS[hand.kind]}: {hand.needed_ms:.0f} of {hand.gap_ms / tempo_ratio:.0f} ms, {load:.2f}{over}"
        )
    return "\n".join(lines)


def _time_words(hand: HandReason) -> str:
    return f"{hand.needed_ms:.0f} of {hand.gap_ms:.0f} ms"
