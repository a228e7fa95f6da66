"""Tempos as they stand over a bar: in the beat of its metre, a dotted crotchet in six-eight."""

from dataclasses import dataclass
from fractions import Fraction

from ear.notation.values import PLAIN_VALUES, Value
from ear.notes import Meter, Part
from ear.units import TICKS_PER_QUARTER


@dataclass(frozen=True, slots=True, kw_only=True)
class TempoMark:
    """From a tick on so many beats a minute, of a value."""

    tick: int
    beat: Value
    per_minute: float


def beat_of(meter: Meter) -> Value:
    """Return the value in which a metre's tempo is given: its beat; of uneven quavers, and of three, the quaver."""
    return PLAIN_VALUES[Fraction(meter.beat_ticks)]


def tempo_marks(part: Part) -> list[TempoMark]:
    """Return the tempos that are said of a part, in order. Where the metre's beat changes, the tempo is said again in the new
    one.
    """
    changes = {change.tick: change.bpm for change in part.stated_tempos}
    beat = beat_of(part.meters.first)
    for meter_change in part.meters.changes:
        tick = part.meters.bar(meter_change.bar).start_tick
        if beat_of(meter_change.meter) != beat and tick < part.bars[-1].end_tick:
            changes.setdefault(tick, part.tempos.bpm_at(tick))
        beat = beat_of(meter_change.meter)
    marks = []
    for tick, bpm in sorted(changes.items()):
        beat = beat_of(part.meters.bar_at(tick).meter)
        marks.append(TempoMark(tick=tick, beat=beat, per_minute=float(bpm * TICKS_PER_QUARTER / beat.ticks)))
    return marks
