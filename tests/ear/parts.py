"""Small parts to test with."""

from dataclasses import replace
from itertools import pairwise

from ear.notation.written import WrittenScore
from ear.notes import Hand, Kind, MeterMap, Note, Part, TempoMap
from ear.patterns.grooves import GrooveFeel, groove

QUARTER = 480
KICKS = (
    (0,),
    (0, 4),
    (0, 3),
    (0, 3, 6),
    (0, 5),
    (0, 1, 4),
    (0, 6, 7),
    (0, 3, 5),
    (0, 7),
    (0, 2, 5),
    (0, 4, 7),
    (0, 1),
)
GROOVES = tuple(groove(feel, variation=2) for feel in GrooveFeel)
SCALE = (60, 62, 64, 65, 67, 69, 71, 72)


def melody(*, bars: int = 8, bpm: float = 96.0) -> Part:
    """Quarters walking the scale of C, no two bars in a row alike; the first beat stronger."""
    notes = [
        Note(
            onset_tick=k * QUARTER,
            length_tick=460,
            pitch=SCALE[(k * k // 3 + 5 * (k // 4) + k % 3) % len(SCALE)],
            velocity=92 if k % 4 == 0 else 72,
        )
        for k in range(4 * bars)
    ]
    return Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(bpm))


def two_hands(*, bars: int = 8) -> Part:
    """A tune in quarters over half-note fifths, in three."""
    notes = []
    for bar in range(bars):
        start = bar * 3 * QUARTER
        for beat in range(3):
            notes.append(
                Note(
                    onset_tick=start + beat * QUARTER, length_tick=450, velocity=84 if beat else 100,
                    pitch=67 + SCALE[(5 * bar + 2 * beat) % 8] - 60, hand=Hand.RIGHT,
                )
            )  # fmt: skip
        for pitch in (43 + bar % 5, 50 + bar % 5):
            notes.append(Note(onset_tick=start, length_tick=1400, pitch=pitch, velocity=70, hand=Hand.LEFT))
    return Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(3, 4), tempos=TempoMap.of(100.0), fifths=1)


def beat(*, bars: int = 8, bpm: float = 100.0) -> Part:
    """Hat in eighths, snare on 2 and 4, a kick that is different in every bar."""
    notes = []
    for bar in range(bars):
        start = bar * 4 * QUARTER
        for k in range(8):
            notes.append(Note(onset_tick=start + k * 240, length_tick=60, pitch=42, velocity=70))
        for k in (1, 3):
            notes.append(Note(onset_tick=start + k * QUARTER, length_tick=60, pitch=38, velocity=100))
        for k in KICKS[bar % len(KICKS)]:
            notes.append(Note(onset_tick=start + k * 240, length_tick=60, pitch=36, velocity=96))
    return Part.of(notes, kind=Kind.DRUMS, meters=MeterMap.of(4, 4), tempos=TempoMap.of(bpm))


def alike(part: Part) -> Part:
    """With bars 3 to 6 as bar 3."""
    first, behind = part.bars[2].start_tick, part.bars[5].end_tick
    pattern = [n for n in part.notes if first <= n.onset_tick < part.bars[2].end_tick]
    others = [n for n in part.notes if not first <= n.onset_tick < behind]
    bar = part.bars[2].end_tick - first
    moved = [replace(n, onset_tick=n.onset_tick + k * bar) for n in pattern for k in range(4)]
    return part.with_notes([*others, *moved])


def _line(ticks: list[int], *, length: int, velocities: list[int]) -> Part:
    notes = [
        Note(onset_tick=t, length_tick=length, pitch=SCALE[(5 * k + k * k // 3) % 8], velocity=v)
        for k, (t, v) in enumerate(zip(ticks, velocities, strict=True))
    ]
    return Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(96))


def melody_in_eighths(*, bars: int = 6) -> Part:
    ticks = [240 * k for k in range(8 * bars)]
    return _line(ticks, length=220, velocities=[90 if t % 480 == 0 else 72 for t in ticks])


def shuffle(*, bars: int = 6) -> Part:
    """Beats and the last triplet of each: two to one."""
    ticks = [480 * k + into for k in range(4 * bars) for into in (0, 320)]
    return _line(ticks, length=150, velocities=[90 if t % 480 == 0 else 72 for t in ticks])


def crescendo(*, bars: int = 4) -> Part:
    ticks = [480 * k for k in range(4 * bars)]
    return _line(ticks, length=450, velocities=[40 + 5 * k for k in range(4 * bars)])


def chords(*, bars: int = 8) -> Part:
    """Two triads a bar: where each moment has three notes, a jump to each would pay."""
    roots = (0, 3, 4, 0, 5, 3, 1, 4)
    notes = [
        Note(
            onset_tick=bar * 1920 + half * 960,
            length_tick=900,
            pitch=SCALE[(roots[bar % 8] + 2 * half + third) % 7] + (12 if third > 2 else 0),
            velocity=80,
        )
        for bar in range(bars)
        for half in range(2)
        for third in (0, 2, 4)
    ]
    return Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(76))


def fills_its_bars(score: WrittenScore) -> bool:
    """Return whether each voice of each bar lasts exactly as long as the bar, which an engraver needs."""
    for bar in score.bars:
        for staff in bar.staves:
            for voice in staff.voices:
                if voice[0].is_whole_bar:
                    continue
                edges = [(bar.bar.start_tick, bar.bar.start_tick), *((w.tick, w.end_tick) for w in voice)]
                edges.append((bar.bar.end_tick, bar.bar.end_tick))
                if any(before[1] != after[0] for before, after in pairwise(edges)):
                    return False
                if any(abs(w.end_tick - w.tick - w.value.ticks) >= 1 for w in voice):
                    return False
    return True
