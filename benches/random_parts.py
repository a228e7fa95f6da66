"""Random parts, each of which has a plain way of being written.

They have two hands, each with a rhythm of its own in every beat: plain values, syncopation, demisemiquavers,
tuplets of three, five, six and seven notes over half a beat, a beat or several, ties and rests. A part comes back when each
note begins and ends in writing where it does in the part, to the tick.
"""

from collections.abc import Iterator, Sequence
from fractions import Fraction
from random import Random

from ear.notation.written import spans_of, write_out
from ear.notes import Hand, Kind, Meter, MeterChange, MeterMap, Note, Part, TempoMap
from ear.units import TICKS_PER_QUARTER

METERS = ((4, 4), (3, 4), (2, 4), (6, 8), (9, 8), (12, 8), (2, 2), (3, 8), (5, 4), (5, 8), (7, 8), (6, 4))
PLAIN = (
    (1,),
    (1, 1),
    (3, 1),
    (1, 3),
    (1, 1, 1, 1),
    (2, 1, 1),
    (1, 1, 2),
    (1, 2, 1),
    (1,) * 8,
    (3, 1, 4),
    (7, 1),
)
"""How a beat or half a bar is divided into plain values, in equal parts of it."""
DOTTED = ((1,), (1, 1, 1), (2, 1), (1, 2), (1,) * 6, (3, 1, 2), (2, 1, 1, 2), (1, 1, 2, 2))
TUPLETS = (
    (1, 1, 1), (2, 1), (1, 2), (1,) * 6, (2, 2, 1, 1), (1, 1, 4), (3, 1, 2), (1,) * 5, (2, 1, 2), (1, 3, 1), (1,) * 7, (3, 4),
)  # fmt: skip
REST_SHARE, TIE_SHARE = 0.12, 0.12


def random_part(seed: int, *, bars: int = 4) -> Part:
    """Return a part for two hands whose every rhythm has a plain way of being written."""
    random = Random(seed)
    over, under = random.choice(METERS)
    meter = Meter(numerator=over, denominator=under)
    notes: list[Note] = []
    tuplets_in = random.choice(((), (Hand.RIGHT,), (Hand.LEFT,), (Hand.RIGHT, Hand.LEFT)))
    for hand, middle in ((Hand.RIGHT, 72), (Hand.LEFT, 48)):
        edges = [0]
        for bar in range(bars):
            edges += _edges(random, meter, bar * meter.bar_ticks, has_tuplets=hand in tuplets_in)
        at = 0
        while at < len(edges) - 1:
            last = at + 1
            # A tie over one edge or two, as long as values exist for what is tied.
            while last < len(edges) - 1 and random.random() < TIE_SHARE:
                last += 1
            if random.random() >= REST_SHARE:
                pitches = random.sample(range(middle - 7, middle + 12), random.choice((1, 1, 1, 2, 3)))
                notes += (
                    Note(
                        onset_tick=edges[at],
                        length_tick=edges[last] - edges[at],
                        pitch=pitch,
                        velocity=80,
                        hand=hand,
                    )
                    for pitch in pitches
                )
            at = last
    if not notes:
        return random_part(seed + 1_000_003, bars=bars)
    return Part.of(
        notes,
        kind=Kind.KEYBOARD,
        meters=MeterMap([MeterChange(bar=1, meter=meter)]),
        tempos=TempoMap.of(90),
        fifths=random.randint(-4, 4),
    ).lasting(bars)


def _edges(random: Random, meter: Meter, start: int, *, has_tuplets: bool) -> Iterator[int]:
    """Where the notes of one hand in one bar end, in ticks."""
    starts = (*meter.beat_starts, meter.bar_ticks)
    k = 0
    while k < len(starts) - 1:
        count = 1
        is_even = meter.is_regular and not meter.is_compound
        if is_even and meter.beats % 2 == 0 and k % 2 == 0 and random.random() < 0.3:
            count = 2
        first, length = starts[k], starts[k + count] - starts[k]
        is_dotted = length % 9 == 0
        if has_tuplets and random.random() < 0.5 and (not is_dotted or length // 3 >= TICKS_PER_QUARTER // 2):
            division: Sequence[int] = random.choice([t for t in TUPLETS if sum(t) in (5, 7) or not is_dotted])
        else:
            division = random.choice(DOTTED if is_dotted else PLAIN)
        done = 0
        for share in division:
            done += share
            yield start + first + round(Fraction(length * done, sum(division)))
        k += count


def comes_back(part: Part) -> bool:
    """Return whether each note is written where it begins and ends."""
    return spans_of(write_out(part)) == tuple((n.onset_tick, n.end_tick) for n in part.notes)
