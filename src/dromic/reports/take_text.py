"""What was heard of a take, in lines for people."""

from __future__ import annotations

from dromic.listening.hearing.review import Review


def write_review_text(review: Review) -> str:
    """A review in lines: the finding on top, then figures, then spots."""
    title = review.plan.riff.title or "The riff"
    lines = [f"{title}: {review.top}", ""]
    lines += [f"  {line}" for line in review.lines]
    others = [finding.text for finding in review.report.findings if finding.text != review.top]
    lines += [f"  also: {text}" for text in others]
    if review.spots:
        lines += ["", "Where to work:"]
        lines += [f"  {number}. {spot.text}" for number, spot in enumerate(review.spots, start=1)]
    if review.heard.remarks:
        lines.append("")
        lines += [f"note: {remark}" for remark in review.heard.remarks]
    return "\n".join(lines) + "\n"
