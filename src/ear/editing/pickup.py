"""A pick-up, which is bar 0: made, unmade, put before the bars that are there."""

from dataclasses import replace

from ear.editing.bars import moved_music, tempo_map
from ear.editing.edited import Edited
from ear.errors import ValueOutOfRange
from ear.notes import MeterMap, Part


def with_bar_0(part: Part) -> Part:
    """Return the part with an empty bar 0 before bar 1, in its metre. All other bars keep their numbers."""
    first, *later = part.meters.changes
    by = first.meter.bar_ticks
    moved = moved_music(part, lambda n: replace(n, onset_tick=n.onset_tick + by), lambda tick: tick + by)
    return replace(
        moved,
        meters=MeterMap([replace(first, bar=0), *later]),
        tempos=tempo_map(replace(c, tick=c.tick + by if c.tick else 0) for c in part.tempos.changes),
        sections=part.sections,
        least_bars=part.least_bars + (part.least_bars > 1),
    )


def turn_pickup(part: Part) -> Edited:
    """Make the first bar a pick-up, which is bar 0, or a pick-up bar 1 again; nothing moves.

    Raises ValueOutOfRange for a part of one bar, and for a first bar that does not begin with a rest.
    """
    if part.first_bar == 0:
        return Edited(part=part.numbered_from(1), selected=frozenset())
    first = part.bars[0]
    onset = min((n.onset_tick for n in part.notes), default=first.end_tick)
    if len(part.bars) < 2 or not first.start_tick < onset < first.end_tick:
        raise ValueOutOfRange("pickup_without_rest")
    return Edited(part=part.numbered_from(0), selected=frozenset())
