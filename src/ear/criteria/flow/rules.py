"""What is heard of whether the music kept going."""

from collections.abc import Iterator

from ear.criteria.flow.ear_notes import TIME_SLIPS, BarsEmpty, BarsFull, BarsNotAsAsked, BarsThin, NotRepeated
from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.place_in_bar import PlaceInBar
from ear.matching.outcome import SlipKind

REPEATED_FROM = 0.9
"""Share of second bars that repeat the first, from which they do."""


def slips(c: Context) -> Iterator[Finding]:
    """Find places where time was lost, gained or jumped over."""
    for slip in c.match.time_base.slips:
        bar = c.part.bar_holding(slip.target)
        tick = c.part.notes[slip.target].onset_tick - bar.start_tick
        beats = abs(slip.quarters) * 480 / bar.meter.beat_ticks
        rows = [slip.target]
        if slip.kind in (SlipKind.RESTART, SlipKind.REPEAT_ADDED):
            rows += [n for n, p in c.left_over if p.is_abandoned]
        yield TIME_SLIPS[slip.kind](
            rows=c.in_order(rows), bars=(bar.number, bar.number), quarters=float(slip.quarters),
            beats=round(beats, 2), bar=bar.number, quarter_in_part=float(slip.quarter), at=PlaceInBar.at(tick, bar),
            is_guess=slip.is_guess,
        )  # fmt: skip


def density(c: Context) -> Iterator[Finding]:
    """Find bars with fewer notes than asked for, with more, or with none."""
    assert c.free is not None
    most = c.free.most_a_bar
    counts = list(enumerate(c.free.notes_a_bar, start=1))
    kinds: tuple[tuple[type[BarsNotAsAsked], list[int], int], ...] = (
        (BarsEmpty, [b for b, n in counts if not n], 1),
        (BarsThin, [b for b, n in counts if 0 < n < c.free.least_a_bar], c.free.least_a_bar),
        (BarsFull, [b for b, n in counts if most is not None and n > most], most or 0),
    )
    for kind, bars, asked in kinds:
        if bars and c.take.notes:
            rows = c.in_order(i for i in c.linked.tolist() if c.bar_of(i) in set(bars))
            yield kind(rows=rows, bars=(bars[0], bars[-1]), count=len(bars), where=bars[0], asked=asked)


def repeats(c: Context) -> Iterator[Finding]:
    """Find second bars of pairs that do not repeat the first."""
    assert c.free is not None
    if c.free.repeated is not None and c.free.repeated < REPEATED_FROM:
        rows = c.in_order(i for i in c.linked.tolist() if c.bar_of(i) % 2 == 0)
        yield NotRepeated(rows=rows, bars=c.whole(), share=c.free.repeated)


RULES = (slips,)
FREE_RULES = (density, repeats)
