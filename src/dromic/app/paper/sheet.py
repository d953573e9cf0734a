"""The practice sheet: what stands on which page. Pure arithmetic, without Qt.

Lengths are units of 0.3 mm, so that what the chart draws at 14 pixels is 12 points high on paper. Pages break
between systems, and systems at bar lines; a bar that is too long for a line is cut at beats.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise

from dromic.app.chart.frame import MARGIN, View
from dromic.app.chart.lanes import chart_layout
from dromic.app.chart.layout import ChartLayout, default_zoom
from dromic.errors import RiffError
from dromic.formats.tab.writer import write_tab
from dromic.planner.locking import decided_riff
from dromic.planner.plan import Plan
from dromic.practice.session.advice import WARNING, Spot, ladder_words, spots_to_practise

UNIT_MM = 0.3
LABELS = 46.0
# A system may be a little lower than usual, where that saves a page.
SYSTEM_HEIGHTS, SYSTEM_GAP = (272.0, 262.0, 252.0, 242.0), 22.0
LINE, TITLE_LINE = 17.0, 34.0
TAB_LINE = 14.5
SIGN_WIDTH, MONO_WIDTH = 6.1, 6.55
MOST_ZOOM = 200.0
# How far the spacing may give way so that whole bars fill a line.
TIGHTER, WIDER = 0.72, 1.6


@dataclass(frozen=True)
class ChartLine:
    """A line of the chart: from one place of it to another, and its height."""

    left: float
    right: float
    height: float


@dataclass(frozen=True)
class Text:
    """Words; `style` is title, heading, plain, strong, quiet, or mono for several lines that stay together."""

    words: str
    style: str = "plain"


Block = ChartLine | Text


@dataclass(frozen=True)
class SheetPage:
    """Blocks with their places from the top."""

    blocks: tuple[tuple[float, Block], ...]


@dataclass(frozen=True)
class PracticeSheet:
    """A practice sheet.

    Parameters
    ----------
    plan : Plan
    layout : ChartLayout
        The whole riff in one line, of which systems are cut.
    spots : tuple of Spot
    pages : tuple of SheetPage
    width, height : float
        Of a page without its margins.
    scale : float
        How large everything is printed, 1 for plain.
    """

    plan: Plan
    layout: ChartLayout
    spots: tuple[Spot, ...]
    pages: tuple[SheetPage, ...]
    width: float
    height: float
    scale: float = 1.0


# The width of words in a style.
Measure = Callable[[str, str], float]


def estimated(words: str, style: str) -> float:
    """Width of words where nobody knows the font."""
    return len(words) * (MONO_WIDTH if style == "mono" else SIGN_WIDTH)


@dataclass(frozen=True)
class _Lines:
    """Breaks words into lines of a width."""

    width: float
    measure: Measure

    def of(self, words: str, style: str) -> list[Block]:
        lines: list[str] = []
        for word in words.split():
            if lines and self.measure(f"{lines[-1]} {word}", style) <= self.width:
                lines[-1] += f" {word}"
            else:
                lines.append(word)
        return [Text(line, style) for line in lines]


def lay_out_sheet(
    plan: Plan, width: float, height: float, *, thick_on_top: bool = True, measure: Measure = estimated
) -> PracticeSheet:
    """Lay a plan out on pages.

    Parameters
    ----------
    plan : Plan
    width, height : float
        Of a page without its margins, in units of `UNIT_MM`.
    thick_on_top : bool
    measure : callable
        Says how wide words are in a style.
    """
    view = View(thick_on_top=thick_on_top, compact=True)
    zoom = _zoom(plan, width - LABELS)
    layout = chart_layout(plan, zoom, SYSTEM_HEIGHTS[0], view)
    spots = spots_to_practise(plan)
    lines = _Lines(width, measure)
    blocks: list[Block] = [*_head(plan, lines), *_spots(spots, lines)]
    parts, alike = _played_once(plan)
    blocks.append(Text("Chart", "heading"))
    blocks += [block for words in alike for block in lines.of(words, "quiet")]
    blocks += _systems(layout, width - LABELS, parts)
    blocks += _tablature(plan, int(100 * width / measure(100 * "-", "mono")))
    blocks += [Text("", "plain"), *lines.of(WARNING, "quiet")]
    pages = _pages(blocks, height)
    for lower in SYSTEM_HEIGHTS[1:]:
        other = chart_layout(plan, zoom, lower, view)
        fewer = _pages([_of_height(block, other) for block in blocks], height)
        if len(fewer) < len(pages):
            layout, pages = other, fewer
    return PracticeSheet(plan, layout, spots, pages, width, height)


def _of_height(block: Block, layout: ChartLayout) -> Block:
    return replace(block, height=layout.load.bottom) if isinstance(block, ChartLine) else block


def _zoom(plan: Plan, width: float) -> float:
    """Spacing at which whole bars fill a line, near the one that the notes need."""
    usual = min(default_zoom(plan), MOST_ZOOM)
    for length in (float(plan.riff.meter.bar), float(plan.riff.meter.beat)):
        count = max(round(width / (length * usual)), 1)
        fitting = (width - 4.0) / (length * count)
        if TIGHTER * usual <= fitting <= WIDER * usual:
            return fitting
    return usual


def block_height(block: Block) -> float:
    """Room that a block takes."""
    if isinstance(block, ChartLine):
        return block.height + SYSTEM_GAP
    if block.style == "mono":
        return TAB_LINE * (block.words.count("\n") + 2)
    return {"title": TITLE_LINE, "heading": 1.7 * LINE}.get(block.style, LINE)


def _pages(blocks: list[Block], height: float) -> tuple[SheetPage, ...]:
    pages: list[SheetPage] = []
    own: list[tuple[float, Block]] = []
    at = 0.0
    for number, block in enumerate(blocks):
        room = block_height(block)
        # A heading stays with what it stands over.
        following = blocks[number + 1] if number + 1 < len(blocks) else None
        kept = block_height(following) if following is not None and _keeps(block) else 0.0
        # The gap below a system may hang over the edge.
        spare = SYSTEM_GAP if isinstance(following if kept else block, ChartLine) else 0.0
        if at + room + kept - spare > height and own:
            pages.append(SheetPage(tuple(own)))
            own, at = [], 0.0
            if isinstance(block, Text) and not block.words:
                continue
        own.append((at, block))
        at += room
    if own:
        pages.append(SheetPage(tuple(own)))
    return tuple(pages)


def _keeps(block: Block) -> bool:
    return isinstance(block, Text) and block.style == "heading"


def _head(plan: Plan, lines: _Lines) -> list[Block]:
    instrument = plan.instrument
    capo = f", capo {instrument.capo}" if instrument.capo else ""
    ceiling = "no limit" if plan.ceiling is None else f"{plan.ceiling:.0f}"
    head: list[Block] = [Text(plan.riff.title or "Untitled", "title")]
    tuning = plan.riff.tuning or "standard tuning"
    head += lines.of(f"{instrument.name}, {tuning}{capo}; {plan.school.title}; hands: {plan.hands.name}", "quiet")
    head.append(Text(f"Target {plan.tempo:.0f} a minute, ceiling of this plan {ceiling}", "plain"))
    return head


def _spots(spots: tuple[Spot, ...], lines: _Lines) -> list[Block]:
    """Hot spots by movement, the hardest first, each movement once with the drill that corrects it."""
    if not spots:
        return []
    found: list[Block] = [Text("Hot spots, and how to practise them", "heading")]
    groups: dict[str, list[Spot]] = {}
    for spot in sorted(spots, key=lambda one: -one.load):
        groups.setdefault(spot.what, []).append(spot)
    shared = Counter(words for own in groups.values() for words in dict.fromkeys(w for one in own for w in one.how))
    for what, own in groups.items():
        hardest, in_order = own[0], sorted(own, key=lambda one: one.number)
        numbers = ", ".join(str(one.number) for one in in_order)
        places = "; ".join(one.where for one in in_order)
        over = ", more than there is" if hardest.load > 1 else ""
        head = f"{numbers}. {what[:1].upper()}{what[1:]} ({places}): up to {100 * hardest.load:.0f} % of the time"
        found += lines.of(f"{head}{over}.", "strong")
        how = dict.fromkeys(words for one in own for words in one.how)
        drill = [ladder_words(hardest.ladder) + ".", *(words for words in how if shared[words] < len(groups))]
        found += lines.of(f"Drill: {drill[0]} {' '.join(drill[1:])}", "plain")
    everywhere = [words for words, count in shared.items() if count == len(groups)]
    if everywhere:
        found += lines.of(f"For all of them: {' '.join(everywhere)}", "plain")
    return found


def _played_once(plan: Plan) -> tuple[list[tuple[float, float]], list[str]]:
    """Parts of the riff in quarter notes without rounds that are played like the first, and words about those."""
    rounds: dict[tuple[int, int], list[int]] = {}
    for number, event in enumerate(plan.events):
        rounds.setdefault((event.moment.phrase, event.moment.pass_number), []).append(number)

    def hands(numbers: list[int]) -> list[object]:
        steps = [plan.events[number].step for number in numbers]
        return [None if step is None else (plan.states[step].notes, plan.states[step].stroke) for step in steps]

    parts: list[tuple[float, float]] = []
    alike: dict[int, list[int]] = {}
    for (phrase, take), numbers in rounds.items():
        first, last = plan.events[numbers[0]].moment, plan.events[numbers[-1]].moment
        if take and hands(numbers) == hands(rounds[phrase, 0]):
            alike.setdefault(phrase, []).append(take + 1)
            continue
        start, end = float(first.played), float(last.ends)
        if parts and abs(parts[-1][1] - start) < 1e-9:
            start = parts.pop()[0]
        parts.append((start, end))
    words = []
    for phrase, takes in alike.items():
        name = plan.riff.phrases[phrase].name or f"part {phrase + 1}"
        rounds_words = "round" if len(takes) == 1 else "rounds"
        words.append(f"{name}: {rounds_words} {', '.join(map(str, takes))} like the first.")
    return parts, words


def _systems(layout: ChartLayout, width: float, parts: list[tuple[float, float]]) -> list[Block]:
    """Cut parts of the chart at bar lines into lines of the page."""
    systems: list[Block] = []
    for begin, finish in parts:
        low, high = layout.x(begin), layout.x(finish)
        edges = [low, *(edge for edge in _edges(layout, width) if low + 1 < edge < high - 1), high]
        start = edges[0]
        for before, edge in pairwise(edges):
            if edge - start > width and before > start:
                systems.append(ChartLine(start, before, layout.load.bottom))
                start = before
        systems.append(ChartLine(start, edges[-1], layout.load.bottom))
    return systems


def _edges(layout: ChartLayout, width: float) -> list[float]:
    """Bar lines; where a bar is longer than a line, its beats too."""
    ticks = layout.ticks(0.0, layout.width)
    bars = sorted({round(tick.x, 3) for tick in ticks if tick.bar})
    end = layout.seam_x
    bars = [MARGIN, *(x for x in bars if MARGIN + 1 < x < end - 1), end]
    edges = [bars[0]]
    for start, stop in pairwise(bars):
        if stop - start > width:
            edges += [tick.x for tick in ticks if not tick.bar and start + 1 < tick.x < stop - 1]
        edges.append(stop)
    return edges


def _tablature(plan: Plan, columns: int) -> list[Block]:
    try:
        text, _ = write_tab(replace(decided_riff(plan), title="", comments=(), tail=()), width=columns - 4)
    except RiffError:
        return []
    # The first lines say tuning and tempo, which stand at the top of the sheet.
    systems = text.rstrip().split("\n\n")[1:]
    return [
        Text("Tablature with strokes and fingers", "heading"),
        *(Text(system.rstrip("\n"), "mono") for system in systems),
    ]
