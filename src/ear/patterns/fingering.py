"""Fingers for scales, arpeggios, five-finger positions and chords, as piano methods have them in common.

Tables go by the pitch class of the tonic or root, up over one octave; for longer ones the pattern begins anew, and
only the last note ends. No thumb stands on a black key but where all keys are black, or a hand lies still.
"""

from collections.abc import Sequence
from itertools import pairwise

from ear.notes import Hand
from ear.patterns.modes import STEPS, Mode

_WHITE_RIGHT, _WHITE_LEFT = "12312345", "54321321"
MAJOR = {
    Hand.RIGHT: {
        **dict.fromkeys((0, 2, 4, 7, 9, 11), _WHITE_RIGHT),
        5: "12341234", 10: "41231234", 3: "31234123", 8: "34123123", 1: "23123412", 6: "23412312",
    },
    Hand.LEFT: {
        **dict.fromkeys((0, 2, 4, 5, 7, 9), _WHITE_LEFT), **dict.fromkeys((10, 3, 8, 1), "32143213"),
        11: "43214321", 6: "43213214",
    },
}  # fmt: skip
MINOR = {
    Hand.RIGHT: {
        **dict.fromkeys((0, 2, 4, 7, 9, 11), _WHITE_RIGHT), **dict.fromkeys((6, 1, 8), "34123123"),
        5: "12341234", 3: "31234123", 10: "41231234",
    },
    Hand.LEFT: {
        **dict.fromkeys((0, 2, 4, 5, 7, 9), _WHITE_LEFT),
        11: "43214321", 6: "43213214", 1: "32143213", 8: "32132143", 3: "21432132", 10: "21321432",
    },
}  # fmt: skip
"""Of all minors, up and down, but for those below."""
_RAISED = "34123412"
MELODIC_UP = {Hand.RIGHT: {6: _RAISED, 1: _RAISED}, Hand.LEFT: {8: "32143213"}}
"""Where the melodic minor goes up with other fingers."""
HARMONIC = {Hand.RIGHT: {}, Hand.LEFT: {8: "32143213"}}
SCALES = {
    Mode.MAJOR: MAJOR, Mode.NATURAL_MINOR: MINOR, Mode.HARMONIC_MINOR: MINOR, Mode.MELODIC_MINOR: MINOR,
}  # fmt: skip

_THREE_RIGHT, _TURNED_RIGHT = "1235", "2124"
MAJOR_ARPEGGIO = {
    Hand.RIGHT: {
        **dict.fromkeys((0, 2, 4, 5, 6, 7, 9, 11), _THREE_RIGHT), **dict.fromkeys((10, 3, 8, 1), _TURNED_RIGHT),
    },
    Hand.LEFT: {
        **dict.fromkeys((0, 5, 7), "5421"), **dict.fromkeys((2, 4, 6, 9, 11), "5321"),
        10: "3213", **dict.fromkeys((3, 8, 1), "2142"),
    },
}  # fmt: skip
MINOR_ARPEGGIO = {
    Hand.RIGHT: {
        **dict.fromkeys((0, 2, 3, 4, 5, 7, 9, 11), _THREE_RIGHT), **dict.fromkeys((6, 1, 8), _TURNED_RIGHT),
        10: "2312",
    },
    Hand.LEFT: {
        **dict.fromkeys((0, 2, 3, 4, 5, 7, 9, 11), "5421"), **dict.fromkeys((6, 1, 8), "2142"), 10: "3213",
    },
}  # fmt: skip
ARPEGGIOS: dict[tuple[int, ...], dict[Hand, dict[int, str]]] = {
    (0, 4, 7): MAJOR_ARPEGGIO,
    (0, 3, 7): MINOR_ARPEGGIO,
}
CHORDS = {
    Hand.RIGHT: {2: "15", 3: "135", 4: "1235"},
    Hand.LEFT: {2: "51", 3: "531", 4: "5321"},
}
"""By the number of notes struck together, from the bottom up."""
TONE, FINGERS, MAX_CLUSTER = 2, 5, 7


def scale_fingers(
    mode: Mode, pitch_class: int, *, octaves: int, hand: Hand, is_down: bool = False
) -> tuple[int, ...] | None:
    """Return fingers from the bottom up, 7 x octaves + 1 of them; None for a scale without a table.

    `is_down` is for the descending melodic minor.
    """
    table = SCALES.get(mode)
    if table is None:
        return None
    eight = table[hand][pitch_class]
    if mode is Mode.MELODIC_MINOR and not is_down:
        eight = MELODIC_UP[hand].get(pitch_class, eight)
    elif mode is Mode.HARMONIC_MINOR:
        eight = HARMONIC[hand].get(pitch_class, eight)
    return _over(eight, octaves=octaves, hand=hand)


def arpeggio_fingers(
    intervals: Sequence[int], pitch_class: int, *, octaves: int, hand: Hand
) -> tuple[int, ...] | None:
    """Return fingers from the bottom up, 3 x octaves + 1 of them; None for a chord without a table."""
    table = ARPEGGIOS.get(tuple(sorted({i % 12 for i in intervals})))
    return None if table is None else _over(table[hand][pitch_class], octaves=octaves, hand=hand)


def _over(pattern: str, *, octaves: int, hand: Hand) -> tuple[int, ...]:
    """A pattern of one octave over several. A root in the middle has the finger that goes on: where the pattern begins
    and ends otherwise, that is the right hand's first or the left hand's last."""
    inner = pattern[0] if hand is Hand.RIGHT else pattern[-1]
    if pattern == _TURNED_RIGHT:
        inner = pattern[-1]
    middle = inner + pattern[1:-1]
    if pattern == _RAISED:
        # Its thumb comes before the tonic: the second octave goes on with the second and third finger.
        middle = "2312341"
    written = pattern[:-1] + middle * (octaves - 1) + pattern[-1]
    return tuple(int(finger) for finger in written)


def five_finger(degree: int, *, hand: Hand) -> int:
    """Return the number of the finger, 1 to 5, on a note of a five-finger position. `degree` is 1 at the bottom."""
    return degree if hand is Hand.RIGHT else 6 - degree


def chord_fingers(pitches: Sequence[int], *, hand: Hand) -> tuple[int, ...] | None:
    """Return the fingers of two to seven notes struck together, from the bottom up; None for more, or for one.

    An inversion whose fourth lies under the strong fingers takes the second instead of the third; a second at the end two
    that lie side by side. In a cluster each key has the finger beside the one before; of six or seven keys the thumb, then
    the little finger, strikes two that are neighbours.
    """
    cluster = _cluster_fingers(pitches, hand=hand)
    if cluster is not None:
        return cluster
    by_shape = CHORDS[hand].get(len(pitches))
    if by_shape is None:
        return None
    lower, upper = pitches[1] - pitches[0], pitches[-1] - pitches[-2]
    if len(pitches) == 3 and hand is Hand.RIGHT and upper >= 5 > lower:
        by_shape = "125"
    elif len(pitches) == 3 and hand is Hand.LEFT and lower >= 5 > upper:
        by_shape = "521"
    elif len(pitches) == 4 and hand is Hand.RIGHT and upper <= 2:
        by_shape = "1245"
    elif len(pitches) == 4 and hand is Hand.LEFT and lower <= 2:
        by_shape = "5421"
    return tuple(int(finger) for finger in by_shape)


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
    """Divide a line into scales and arpeggios, each with its fingers by the tables, and into what lies between
    them (None).

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
    """Return the fingers of the longest scale or arpeggio that begins at a note; none where there is no figure."""
    for stop in range(_turns(pitches, start), start + MIN_FIGURE - 1, -1):
        known = known_fingers(pitches[start:stop], hand=hand)
        if known is not None:
            return known
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
    if inside in ARPEGGIOS:
        return arpeggio_fingers(inside, pitch_class, octaves=octaves, hand=hand)
    for mode in SCALES:
        # The melodic minor comes down as the natural one, which stands before it in the table.
        if STEPS[mode] == inside:
            return scale_fingers(mode, pitch_class, octaves=octaves, hand=hand, is_down=is_down)
    return None
