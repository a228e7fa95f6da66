"""Fingers proposed for any line.

Source: Parncutt, Sloboda, Clarke, Raekallio and Desain, "An Ergonomic Model of Keyboard Fingering for Melodic Fragments",
Music Perception 14(4), 1997: twelve rules, each with its cost, over two or three notes at a time. The cheapest fingers of
a whole line are found by dynamic programming over the last two. The left hand is the right one in a mirror.
"""

from collections.abc import Sequence
from itertools import groupby

from ear.notes import Hand
from ear.notes.pitch import BLACK_KEYS

FINGERS = (1, 2, 3, 4, 5)
THUMB = 1
SPANS = {
    (1, 2): (-5, -3, 1, 5, 8, 10), (1, 3): (-4, -2, 3, 7, 10, 12), (1, 4): (-3, -1, 5, 9, 12, 14),
    (1, 5): (-1, 1, 7, 10, 13, 15), (2, 3): (1, 1, 1, 2, 3, 5), (2, 4): (1, 1, 3, 4, 5, 7), (2, 5): (2, 2, 5, 6, 8, 10),
    (3, 4): (1, 1, 1, 2, 2, 4), (3, 5): (1, 1, 3, 4, 5, 7), (4, 5): (1, 1, 1, 2, 3, 5),
}  # fmt: skip
"""Table 1 of the source, of the right hand: semitones from the first to the second finger, least practical, least
comfortable, least relaxed, most relaxed, most comfortable, most practical."""
NEVER = 1000.0


def proposed_fingers(pitches: Sequence[int], *, hand: Hand) -> tuple[int, ...]:
    """Return the cheapest fingers for notes one after the other; a key struck again keeps its finger."""
    if not pitches:
        return ()
    keys = [(p if hand is Hand.RIGHT else -p, p % 12 in BLACK_KEYS) for p in pitches]
    runs = [(key, len(list(again))) for key, again in groupby(keys)]
    fingers = _cheapest([key for key, _ in runs])
    return tuple(finger for finger, (_, times) in zip(fingers, runs, strict=True) for _ in range(times))


Key = tuple[int, bool]
"""A pitch, as the right hand sees it, and whether it is black."""


def _cheapest(keys: Sequence[Key]) -> list[int]:
    first = {(0, f): _alone(f) + _at_ends(f, keys, 0) for f in FINGERS}
    best, came = first, []
    for k in range(1, len(keys)):
        costs: dict[tuple[int, int], float] = {}
        back: dict[tuple[int, int], tuple[int, int]] = {}
        for (before, here), cost in best.items():
            for after in FINGERS:
                more = (
                    cost + _pair(keys[k - 1], here, keys[k], after) + _alone(after) + _at_ends(after, keys, k)
                )
                if before:
                    more += _three(keys[k - 2], before, keys[k - 1], here, keys[k], after)
                if more < costs.get((here, after), float("inf")):
                    costs[here, after], back[here, after] = more, (before, here)
        best = costs
        came.append(back)
    state = min(best, key=lambda s: (best[s], s))
    fingers = [state[1]]
    for back in reversed(came):
        state = back[state]
        fingers.append(state[1])
    return fingers[::-1]


def _alone(finger: int) -> float:
    """Rule 6: the fourth and fifth are weak."""
    return 1.0 if finger in (4, 5) else 0.0


def _at_ends(finger: int, keys: Sequence[Key], k: int) -> float:
    """Rules 10 and 11: thumb and fifth on a black key, the more so beside white ones."""
    if finger not in (THUMB, 5) or not keys[k][1]:
        return 0.0
    beside = [keys[j][1] for j in (k - 1, k + 1) if 0 <= j < len(keys)]
    return (1.0 if finger == THUMB else 0.0) + 2.0 * sum(not is_black for is_black in beside)


def _span(a: int, b: int, interval: int) -> tuple[tuple[int, ...], int]:
    """The row of the table, and the interval as it counts there."""
    return (SPANS[a, b], interval) if a < b else (SPANS[b, a], -interval)


def _pair(key: Key, a: int, two: Key, b: int) -> float:
    """Rules 1, 2, 3, 8, 9 and 12."""
    if a == b:
        return NEVER
    (least_practical, least, least_relaxed, most_relaxed, most, most_practical), interval = _span(
        a, b, two[0] - key[0]
    )
    if not least_practical <= interval <= most_practical:
        return NEVER
    weight = 1.0 if THUMB in (a, b) else 2.0
    cost = 2.0 * (max(0, least - interval) + max(0, interval - most))
    cost += weight * (max(0, least_relaxed - interval) + max(0, interval - most_relaxed))
    cost += 1.0 if (a, b) == (3, 4) else 0.0
    if {a, b} == {3, 4}:
        third, fourth = (key, two) if a == 3 else (two, key)
        cost += 1.0 if fourth[1] and not third[1] else 0.0
    return cost + _passing(key, a, two, b)


def _passing(key: Key, a: int, two: Key, b: int) -> float:
    """Rule 12: the thumb passes under another finger, or that over the thumb."""
    lower, upper = ((key, a), (two, b)) if key[0] < two[0] else ((two, b), (key, a))
    if upper[1] != THUMB or lower[1] == THUMB:
        return 0.0
    if lower[0][1] == upper[0][1]:
        return 1.0
    return 3.0 if upper[0][1] else 0.0


def _three(key: Key, a: int, two: Key, b: int, three: Key, c: int) -> float:
    """Rules 4, 5 and 7."""
    cost = 1.0 if {a, b, c} == {3, 4, 5} else 0.0
    if a == c:
        # One finger on two keys with one between: a change of position as far as they lie apart.
        apart = abs(three[0] - key[0])
        return cost + (1.0 + apart if apart else 0.0)
    (least_practical, least, _, _, most, most_practical), interval = _span(a, c, three[0] - key[0])
    beyond = max(0, least - interval) + max(0, interval - most)
    if not beyond:
        return cost
    is_between = min(key[0], three[0]) < two[0] < max(key[0], three[0])
    is_full = b == THUMB and is_between and not least_practical <= interval <= most_practical
    return cost + (2.0 if is_full else 1.0) + beyond


def cost_of(pitches: Sequence[int], fingers: Sequence[int], *, hand: Hand) -> float:
    """Return the cost that the model gives to these fingers."""
    keys = [(p if hand is Hand.RIGHT else -p, p % 12 in BLACK_KEYS) for p in pitches]
    cost = sum(_alone(f) + _at_ends(f, keys, k) for k, f in enumerate(fingers))
    cost += sum(_pair(keys[k], fingers[k], keys[k + 1], fingers[k + 1]) for k in range(len(keys) - 1))
    return cost + sum(
        _three(keys[k], fingers[k], keys[k + 1], fingers[k + 1], keys[k + 2], fingers[k + 2])
        for k in range(len(keys) - 2)
    )
