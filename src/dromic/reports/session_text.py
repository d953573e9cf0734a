"""A practice session for people and for programs."""

from __future__ import annotations

import json

from dromic.formats.rifftext.writer import write_riff_text
from dromic.practice.session.session import Block, Session

SCHEMA = 1


def write_session_text(session: Session) -> str:
    """A session in lines, a block each with its reason."""
    lines = [f"{session.minutes} minutes"]
    lines += [
        f"{riff.title or 'The riff'} as a whole: thought clean at {riff.now:.0f} now, at {riff.after:.0f} "
        "afterwards"
        for riff in session.prospects
    ]
    lines += [session.rates.words, *session.remarks, ""]
    at = 0
    for block in session.blocks:
        where = (
            f"  {block.begins} to {block.ends}" if block.begins and block.kind not in ("whole", "warm-up") else ""
        )
        dense = f", each string {block.density} times" if block.density > 1 else ""
        tempo = f"  {block.tempo_from:.0f} to {block.tempo_to:.0f}" if block.riff is not None else ""
        lines.append(f"{at:3d} to {at + block.minutes:3d}  {block.kind:<8}{tempo}{where}{dense}")
        lines.append(f"            {block.reason}")
        at += block.minutes
    return "\n".join(lines) + "\n"


def write_session_json(session: Session) -> str:
    """A session as JSON."""
    data = {"schema": SCHEMA, "minutes": session.minutes, "blocks": [_data(block) for block in session.blocks]}
    return json.dumps(data, indent=1, ensure_ascii=False) + "\n"


def _data(block: Block) -> dict[str, object]:
    return {
        "minutes": block.minutes,
        "kind": block.kind,
        "reason": block.reason,
        "tempo_from": block.tempo_from,
        "tempo_to": block.tempo_to,
        "density": block.density,
        "riff": write_riff_text(block.riff) if block.riff is not None else "",
        "title": block.drill.riff.title if block.drill is not None else "",
        "remarks": list(block.drill.remarks) if block.drill is not None else [],
        "from": block.begins,
        "to": block.ends,
    }
