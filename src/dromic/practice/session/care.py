"""Care for the hands and how to hold the instrument: cautions where a plan or a session calls for them, and cards.

All of it is common practice, no source, and none of it is medical advice.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from dromic.music.riff import Gain, Mark
from dromic.planner.plan import Plan
from dromic.practice.passages.drill import Drill, Focus

STRETCH_SHARE = 0.6
FAST = 1.1
LONG_MINUTES = 60
PAIN = (
    "The session is over: you said that something hurts. Tiredness is normal, pain is not. Rest the hands; if "
    "pain, numbness or tingling comes back or stays, see a doctor or a hand therapist before you play on."
)


@dataclass(frozen=True)
class Card:
    """One thing about holding and touching the instrument.

    Parameters
    ----------
    key : str
        Names its drawing.
    title : str
    words : str
        One sentence.
    needed : callable
        Whether a plan calls for it.
    """

    key: str
    title: str
    words: str
    needed: Callable[[Plan], bool]


def _total(plan: Plan, key: str) -> float:
    return float(plan.totals.get(key, 0.0))


def _marked(mark: Mark) -> Callable[[Plan], bool]:
    return lambda plan: any(mark in event.moment.event.marks for event in plan.events)


def _stretched(plan: Plan) -> bool:
    return _total(plan, "max_stretch_mm") > STRETCH_SHARE * plan.hand_mm


def _is_bass(plan: Plan) -> bool:
    return plan.instrument.name.startswith("bass")


CARDS = (
    Card(
        "palm",
        "Palm mute",
        "The palm lies just behind the saddles' edge, and lifts with an accent.",
        _marked(Mark.PALM_MUTE),
    ),
    Card(
        "depth",
        "Pick depth",
        "Just enough pick in the strings for a solid touch: too much hangs up, too little misses.",
        lambda plan: _total(plan, "sweeps") > 0 and not _is_bass(plan),
    ),
    Card(
        "arm",
        "Arm",
        "The forearm comes over at about 45 degrees; for a wide jump the hand glides, the wrist does not reach.",
        lambda plan: _total(plan, "skips") > 0 and not _is_bass(plan),
    ),
    Card(
        "stretch",
        "Wide stretch",
        "Bring elbow and arm along and let the thumb move, so that the wrist stays straight.",
        _stretched,
    ),
    Card(
        "shift",
        "Shift",
        "The thumb stays behind the neck with room under it and goes along with the hand, loose all the way.",
        lambda plan: _total(plan, "shifts") > 0,
    ),
    Card(
        "gain",
        "Clean, then with gain",
        "Play it clean first and then with gain: each shows other faults.",
        lambda plan: plan.riff.gain is Gain.HIGH,
    ),
    Card(
        "bass",
        "Plucking hand",
        "The thumb floats over the strings below the one that plays; the attack stays in one place.",
        _is_bass,
    ),
    Card(
        "grip",
        "Grip",
        "The pick lies on the side of the first finger, covered by the thumb: covered, not squeezed.",
        lambda plan: not _is_bass(plan),
    ),
    Card("seat", "Sitting", "Sit upright with low shoulders, and breathe.", lambda _plan: True),
)
DAMPER = Card(
    "damper",
    "Damper",
    "A cloth or a tie over the strings near the nut lets the fretting hand be heard alone.",
    lambda _plan: False,
)


def cards_for(plan: Plan, drill: Drill | None = None, most: int = 3) -> tuple[Card, ...]:
    """The cards that a plan or a drill needs, those that say most about it first.

    Parameters
    ----------
    plan : Plan
    drill : Drill or None
    most : int
    """
    found = [DAMPER] if drill is not None and drill.focus is Focus.FRETTING else []
    found += [card for card in CARDS if card.needed(plan)]
    return tuple(found[:most])


def too_fast(plan: Plan, tempo: float) -> str:
    """What to beware of at a tempo well above the ceiling; nothing at others.

    Parameters
    ----------
    plan : Plan
    tempo : float
        Quarter notes a minute.
    """
    if plan.ceiling is None or tempo <= FAST * plan.ceiling:
        return ""
    return f"{tempo:.0f} is above the ceiling of {plan.ceiling:.0f}: short bursts, and no force."


def cautions(plan: Plan, minutes: int = 0, tempo: float | None = None) -> tuple[str, ...]:
    """What to beware of, a sentence each; empty where nothing calls for it.

    Parameters
    ----------
    plan : Plan
    minutes : int
        Of the session.
    tempo : float or None
        What it is to be played at, quarter notes a minute.
    """
    cautions = []
    if _stretched(plan):
        cautions.append(
            f"It reaches {_total(plan, 'max_stretch_mm'):.0f} mm beyond what your hand spans at ease: warm up "
            "first, and stop when it pulls."
        )
    if tempo is not None and (fast := too_fast(plan, tempo)):
        cautions.append(fast)
    if minutes > LONG_MINUTES:
        cautions.append("More than an hour at a stretch tires the hands: two shorter sessions do more.")
    return tuple(cautions)
