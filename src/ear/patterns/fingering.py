"""Fingers for scales, arpeggios, five-finger positions, chords and broken chords, as piano methods have them in common."""

from collections.abc import Callable, Sequence
from itertools import pairwise

from ear.notes import Hand
from ear.patterns.grouped_fingers import chromatic_fingers, grouped_fingers, triad_fingers
from ear.patterns.modes import STEPS, Mode

MELODIC_UP = {(Hand.RIGHT, 6): (3, 4, 1, 2, 3, 4, 1), (Hand.RIGHT, 1): (3, 4, 1, 2, 3, 4, 1)}
"""Where the melodic minor goes up with other fingers than the rule's, in its first octave."""
AS_IT_COMES_DOWN = {(Hand.LEFT, 10)}
"""Where it goes up as it comes down."""
TRIADS = {(0, 4, 7), (0, 3, 7), (0, 3, 6), (0, 4, 8), (0, 5, 7), (0, 2, 7)}
SEVENTHS = {
    (0, 4, 7, 10), (0, 4, 7, 11), (0, 3, 7, 10), (0, 3, 7, 11), (0, 3, 6, 10), (0, 3, 6, 9), (0, 4, 8, 10), (0, 4, 8, 11),
    (0, 4, 7, 9), (0, 3, 7, 9), (0, 5, 7, 10),
}  # fmt: skip
"""Chords in semitones over the root that are played over one or more octaves."""
CHORDS = {
    Hand.RIGHT: {3: (1, 3, 5), 4: (1, 2, 3, 5)},
    Hand.LEFT: {3: (5, 3, 1), 4: (5, 3, 2, 1)},
}
"""By the number of notes struck together, from the bottom up."""
OUTER_OF_TWO = {0: 2, 1: 2, 2: 2, 3: 3, 4: 3, 5: 4, 6: 4}
"""Beside the thumb, by semitones; the fifth from a fifth on."""
OCTAVE = 12
TONE, FIFTH, FINGERS, MAX_CLUSTER = 2, 7, 5, 7
KEY_OF_POSITION = {0: 1, 1: 2, 2: 2, 3: 3, 4: 3, 5: 4, 6: 4, 7: 5, 8: 5}
"""By semitones over the lowest key, which of the five keys of a position it is."""


def scale_fingers(
    mode: Mode, pitch_class: int, *, octaves: int, hand: Hand, is_down: bool = False
) -> tuple[int, ...]:
    """Return fingers from the bottom up, one for each note of the scale over so many octaves and the last tonic.

    `is_down` is for the descending melodic minor.
    """
    if mode is Mode.CHROMATIC:
        return chromatic_fingers(pitch_class, octaves=octaves, hand=hand)
    as_down = mode is Mode.MELODIC_MINOR and (is_down or (hand, pitch_class) in AS_IT_COMES_DOWN)
    steps = STEPS[Mode.NATURAL_MINOR if as_down else mode]
    fingers = grouped_fingers(steps, pitch_class, octaves=octaves, hand=hand)
    if mode is Mode.MELODIC_MINOR and not is_down:
        first = MELODIC_UP.get((hand, pitch_class), ())
        return (*first, *fingers[len(first) :])
    return fingers


def arpeggio_fingers(
    intervals: Sequence[int], pitch_class: int, *, octaves: int, hand: Hand
) -> tuple[int, ...] | None:
    """Return fingers from the bottom up for each note of a chord over so many octaves and the last root; None for what is
    neither a triad nor a chord of the seventh.
    """
    inside = tuple(sorted({i % 12 for i in intervals}))
    if inside in SEVENTHS:
        return grouped_fingers(inside, pitch_class, octaves=octaves, hand=hand)
    return _triads(inside, pitch_class, octaves=octaves, hand=hand) if inside in TRIADS else None


def _triads(inside: tuple[int, ...], pitch_class: int, *, octaves: int, hand: Hand) -> tuple[int, ...]:
    """One octave over several: a root in the middle has the finger that goes on."""
    first, *between, last = triad_fingers(inside, pitch_class, hand=hand)
    goes_on = min(first, last)
    if hand is Hand.RIGHT and first == 2:
        goes_on = last
    return (first, *between, *((goes_on, *between) * (octaves - 1)), last)


def five_finger(degree: int, *, hand: Hand) -> int:
    """Return the number of the finger, 1 to 5, on a note of a five-finger position. `degree` is 1 at the bottom."""
    return degree if hand is Hand.RIGHT else 6 - degree


def position_fingers(pitches: Sequence[int], *, hand: Hand) -> tuple[int, ...] | None:
    """Return the fingers of a line that lies under five fingers, from the thumb to the fifth; None for a line that is
    wider, or so narrow that it leaves the position open."""
    bottom, top = min(pitches, default=0), max(pitches, default=0)
    keys = {
        finger: {p for p in pitches if KEY_OF_POSITION.get(p - bottom) == finger}
        for finger in range(1, FINGERS + 1)
    }
    if top - bottom not in (FIFTH, FIFTH + 1) or any(len(under) > 1 for under in keys.values()):
        return None
    return tuple(five_finger(KEY_OF_POSITION[p - bottom], hand=hand) for p in pitches)


def chord_fingers(pitches: Sequence[int], *, hand: Hand) -> tuple[int, ...] | None:
    """Return the fingers of two to seven notes struck together, from the bottom up; None for more, or for one.

    An inversion whose fourth lies under the strong fingers takes the second instead of the third; a second at the end two
    that lie side by side. In a cluster each key has the finger beside the one before; of six or seven keys the thumb, then
    the little finger, strikes two that are neighbours.
    """
    cluster = _cluster_fingers(pitches, hand=hand)
    if cluster is not None:
        return cluster
    if len(pitches) == 2:
        outer = OUTER_OF_TWO.get(pitches[1] - pitches[0], FINGERS)
        return (1, outer) if hand is Hand.RIGHT else (outer, 1)
    by_shape = CHORDS[hand].get(len(pitches))
    if by_shape is None:
        return None
    lower, upper = pitches[1] - pitches[0], pitches[-1] - pitches[-2]
    if len(pitches) == 4 and pitches[-1] - pitches[0] == OCTAVE:
        return _octave_chord_fingers(pitches, hand=hand)
    if len(pitches) == 3 and hand is Hand.RIGHT and upper >= 5 > lower:
        return (1, 2, 5)
    if len(pitches) == 3 and hand is Hand.LEFT and lower >= 5 > upper:
        return (5, 2, 1)
    if len(pitches) == 4 and hand is Hand.RIGHT and upper <= 2:
        return (1, 2, 4, 5)
    if len(pitches) == 4 and hand is Hand.LEFT and lower <= 2:
        return (5, 4, 2, 1)
    return by_shape


def _octave_chord_fingers(pitches: Sequence[int], *, hand: Hand) -> tuple[int, ...]:
    """A triad with its lowest note doubled."""
    lower, upper = pitches[1] - pitches[0], pitches[-1] - pitches[-2]
    is_root = lower <= 4 and upper >= 5
    if hand is Hand.RIGHT:
        return (1, 2, 3, 5) if is_root else (1, 2, 4, 5)
    if is_root:
        first, second, third, _ = triad_fingers(
            [p - pitches[0] for p in pitches[:3]], pitches[0] % 12, hand=hand
        )
        return (first, second, third, 1) if first == FINGERS else (5, 4, 2, 1)
    return (5, 3, 2, 1) if lower >= 5 else (5, 4, 2, 1)


def _cluster_fingers(pitches: Sequence[int], *, hand: Hand) -> tuple[int, ...] | None:
    """Return the fingers of keys that are all neighbours, at most a tone apart, or of five notes; None for others."""
    count = len(pitches)
    is_cluster = all(high - low <= TONE for low, high in pairwise(pitches))
    if not 2 <= count <= MAX_CLUSTER or not (is_cluster or count == FINGERS):
        return None
    thumb_keys, little_keys = 1 + (count > FINGERS), 1 + (count > FINGERS + 1)
    inner = range(2, 2 + count - thumb_keys - (little_keys if count >= FINGERS else 0))
    outward = [1] * thumb_keys + list(inner) + ([FINGERS] * little_keys if count >= FINGERS else [])
    return tuple(outward if hand is Hand.RIGHT else outward[::-1])


def known_fingers(pitches: Sequence[int], *, hand: Hand) -> tuple[int, ...] | None:
    """Return the fingers of a line that is a scale or an arpeggio, up, down or both, by the tables; None for
    any other.
    """
    bottom, top = min(pitches, default=0), max(pitches, default=0)
    octaves, rest = divmod(top - bottom, 12)
    if rest or not octaves:
        return None
    turn = pitches.index(top)
    rising, falling = list(pitches[: turn + 1]), list(pitches[turn:])
    if (rising[0] != bottom and len(rising) > 1) or (falling[-1] != bottom and len(falling) > 1):
        return None
    up = _fingers_of(rising, bottom, octaves, hand=hand, is_down=False) if len(rising) > 1 else ()
    down = _fingers_of(falling[::-1], bottom, octaves, hand=hand, is_down=True) if len(falling) > 1 else ()
    if up is None or down is None:
        return None
    # At the top the finger is that which comes down.
    return (*(up[:-1] if down else up), *down[::-1])


MIN_FIGURE = 4
"""Notes of the shortest figure: an arpeggio over one octave."""


def figures(pitches: Sequence[int], *, hand: Hand) -> list[tuple[range, tuple[int, ...] | None]]:
    """Divide a line into scales, arpeggios and broken chords, each with its fingers, and into what lies between them
    (None).

    Every note is in one stretch. From the left the longest figure is taken; one that begins on the last note of the
    figure before it shares that note, which keeps its finger there.
    """
    figures: list[tuple[range, tuple[int, ...] | None]] = []
    start = unknown = 0
    while start < len(pitches):
        longest = _longest_figure(pitches, start, hand)
        is_behind_figure = bool(figures) and unknown == start
        shared = _longest_figure(pitches, start - 1, hand) if is_behind_figure else ()
        if len(shared) - 1 > len(longest):
            longest = shared[1:]
        if not longest:
            start += 1
            continue
        if unknown < start:
            figures.append((range(unknown, start), None))
        figures.append((range(start, start + len(longest)), longest))
        start = unknown = start + len(longest)
    if unknown < len(pitches):
        figures.append((range(unknown, len(pitches)), None))
    return figures


def _longest_figure(pitches: Sequence[int], start: int, hand: Hand) -> tuple[int, ...]:
    """Return the fingers of the longest figure that begins at a note; none where there is none."""
    known: tuple[int, ...] | None = None
    for stop in range(_turns(pitches, start), start + MIN_FIGURE - 1, -1):
        known = known_fingers(pitches[start:stop], hand=hand)
        if known is not None:
            break
    return max(known or (), _broken_chords(pitches, start, hand), key=len)


Cell = Callable[[Sequence[int]], bool]


def _is_alberti(cell: Sequence[int]) -> bool:
    low, high, middle, again = cell
    return low < middle < high == again


def _is_up_and_down(cell: Sequence[int]) -> bool:
    low, middle, high, again = cell
    return low + TONE < middle == again and middle + TONE < high


def _is_rising(cell: Sequence[int]) -> bool:
    low, middle, high = cell
    return low + TONE < middle and middle + TONE < high


def _is_octave(cell: Sequence[int]) -> bool:
    return all(low + TONE < high for low, high in pairwise(cell)) and cell[-1] - cell[0] == OCTAVE


BROKEN: tuple[tuple[int, Cell], ...] = (
    (4, _is_octave),
    (4, _is_alberti),
    (4, _is_up_and_down),
    (3, _is_rising),
)
"""How broken chords go, each with its number of notes."""


def _broken_chords(pitches: Sequence[int], start: int, hand: Hand) -> tuple[int, ...]:
    """Return the fingers of chords broken in one way from a note on, two of them at least, each in its own position."""
    for size, is_cell in BROKEN:
        fingers: list[int] = []
        for at in range(start, len(pitches) - size + 1, size):
            cell = pitches[at : at + size]
            keys = sorted(set(cell))
            if not is_cell(cell) or keys[-1] - keys[0] > OCTAVE:
                break
            held = dict(zip(keys, chord_fingers(keys, hand=hand) or (), strict=True))
            fingers += (held[key] for key in cell)
        if len(fingers) >= 2 * size:
            return tuple(fingers)
    return ()


def _turns(pitches: Sequence[int], start: int) -> int:
    """Return the end of the stretch from a note that turns once at most, as a figure does."""
    turns, direction = 0, 0
    for k in range(start + 1, len(pitches)):
        step = (pitches[k] > pitches[k - 1]) - (pitches[k] < pitches[k - 1])
        if step == 0:
            return k
        if direction and step != direction:
            turns += 1
        if turns > 1 or (turns == 1 and step > 0):
            return k
        direction = step
    return len(pitches)


def _fingers_of(
    rising: Sequence[int], bottom: int, octaves: int, *, hand: Hand, is_down: bool
) -> tuple[int, ...] | None:
    inside = tuple(p - bottom for p in rising if p < bottom + 12)
    if [bottom + 12 * o + i for o in range(octaves) for i in inside] + [bottom + 12 * octaves] != list(
        rising
    ):
        return None
    pitch_class = bottom % 12
    chord = arpeggio_fingers(inside, pitch_class, octaves=octaves, hand=hand)
    if chord is not None:
        return chord
    for mode in Mode:
        # The melodic minor comes down as the natural one, which stands before it among the modes.
        if STEPS[mode] == inside:
            return scale_fingers(mode, pitch_class, octaves=octaves, hand=hand, is_down=is_down)
    return None
