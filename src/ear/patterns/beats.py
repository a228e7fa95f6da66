"""Beats from rows of strokes, one row a lane."""

from collections.abc import Mapping

from ear.errors import UnknownName, ValueOutOfRange
from ear.notes import FOOT_HAT, STANDARD_KIT, Kind, KitMap, Meter, MeterMap, Note, Part, TempoMap
from ear.notes.meter import MeterChange
from ear.patterns.lines import COMMON

STRENGTHS = {"X": 112, "x": 88, "o": 48}
"""Accent, stroke, soft stroke; “.” rests."""
REST = "."
HIT_TICKS = 60
BEAT_BPM = 100.0
"""What teachers set a first beat to."""


def beat(
    rows: Mapping[str, str],
    *,
    step_ticks: int,
    meter: Meter = COMMON,
    bpm: float = BEAT_BPM,
    kit: KitMap = STANDARD_KIT,
) -> Part:
    """Return a beat from rows such as {"hat": "x.x.x.x.", "snare": "..X...X."}, all of the same length.

    Raises UnknownName, ValueOutOfRange.

    Raises UnknownName for a lane that the kit has not, ValueOutOfRange for rows of unequal length,
    with other signs, or that do not fill whole bars.
    """
    pitch_of = {lane.name: lane.pitches[0] for lane in (*kit.lanes, FOOT_HAT)}
    lengths = {len(row) for row in rows.values()}
    if len(lengths) != 1 or not (steps := lengths.pop()):
        raise ValueOutOfRange("drum_rows_not_equally_long")
    if (steps * step_ticks) % meter.bar_ticks:
        raise ValueOutOfRange("steps_do_not_fill_bars", steps=steps)
    notes = []
    for name, row in rows.items():
        if name not in pitch_of:
            raise UnknownName(kind="lane", name=name, known=tuple(pitch_of))
        for k, sign in enumerate(row):
            if sign in STRENGTHS:
                notes.append(
                    Note(
                        onset_tick=k * step_ticks,
                        length_tick=HIT_TICKS,
                        pitch=pitch_of[name],
                        velocity=STRENGTHS[sign],
                    )
                )
            elif sign != REST:
                raise ValueOutOfRange("drum_row_unreadable", rest=REST, sign=sign)
    return Part.of(
        notes, kind=Kind.DRUMS, meters=MeterMap([MeterChange(bar=1, meter=meter)]), tempos=TempoMap.of(bpm)
    )
