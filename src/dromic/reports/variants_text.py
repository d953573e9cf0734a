"""Variations of a lick, for people and for programs."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict

from dromic.formats.rifftext.writer import write_riff_text
from dromic.practice.vary.lick import WAY_WORDS
from dromic.practice.vary.variants import Variant, Varied

SCHEMA = 1


def write_variants_text(varied: Varied, chosen: Sequence[Variant]) -> str:
    """Variations in lines, each compared with the lick, and what cannot be done."""
    lick = varied.lick
    lines = [f"The lick: {len(lick.states)} notes, effort {lick.cost:.2f}, ceiling {_tempo(lick.ceiling)}", ""]
    for number, one in enumerate(chosen, start=1):
        lines.append(f"{number:2d}  {one.words}")
        lines.append(f"    {compared_words(varied, one)}")
    if len(chosen) < len(varied.every):
        lines += ["", f"{len(varied.every)} were made in all; --all shows the rest"]
    for refusal in varied.refusals:
        lines.append(f"note: {WAY_WORDS[refusal.by].lower()}: {refusal.words}")
    return "\n".join(lines) + "\n"


def compared_words(varied: Varied, one: Variant) -> str:
    """What a variation asks that the lick does not, in one line."""
    lick = varied.lick
    changes = [
        f"effort {one.effort:.2f} ({one.effort - lick.cost:+.2f})",
        f"ceiling {_tempo(one.ceilings.both)} (the lick {_tempo(lick.ceiling)})",
    ]
    new = len(one.new_movements)
    changes.append(f"{new} new {'movement' if new == 1 else 'movements'}")
    for count, noun in ((one.changed_fingers, "fingers"), (one.changed_strokes, "strokes")):
        if count:
            changes.append(f"{count} {noun} changed")
    return ", ".join(changes)


def _tempo(ceiling: float | None) -> str:
    return "none" if ceiling is None else f"{ceiling:.0f}"


def write_variants_json(varied: Varied, chosen: Sequence[Variant]) -> str:
    """Variations as JSON; `lick` is what they are compared with, `refusals` what cannot be done."""
    data = {
        "schema": SCHEMA,
        "lick": {"effort": varied.lick.cost, "ceilings": asdict(varied.lick.ceilings)},
        "variants": [
            {
                "words": one.words,
                "by": one.by,
                "riff": write_riff_text(one.riff),
                "effort": one.effort,
                "ceilings": asdict(one.ceilings),
                "changed_fingers": one.changed_fingers,
                "changed_strokes": one.changed_strokes,
                "new_movements": len(one.new_movements),
                "new_movement_keys": list(one.new_movements),
            }
            for one in chosen
        ],
        "refusals": [asdict(refusal) for refusal in varied.refusals],
    }
    return json.dumps(data, indent=1, ensure_ascii=False) + "\n"
