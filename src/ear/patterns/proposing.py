"""Fingers proposed for any line.

Source: Parncutt, Sloboda, Clarke, Raekallio and Desain, "An Ergonomic Model of Keyboard Fingering for Melodic Fragments",
Music Perception 14(4), 1997: twelve rules, each with its cost, over two or three notes at a time. The cheapest fingers of
a whole line are found by dynamic programming over the last two. The left hand is the right one in a mirror.

Chords stand in the same line: within a chord fingers keep to the spans of the source, from chord to chord the hand moves as
little as it can, and no finger plays two keys that follow each other within a quaver.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations, pairwise

from ear.notes import Hand
from ear.notes.pitch import BLACK_KEYS
from ear.patterns.fingering import chord_fingers
from ear.units import TICKS_PER_QUARTER

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
STRAINED, UNUSUAL = 50.0, 3.0
"""Of a chord, what each semitone beyond the practical costs, and fingers other than the tables'."""
SAME_FINGER, OTHER_FINGER = 3.0, 2.0
"""One finger on two keys one after the other, more than a quaver apart; one key that changes its finger."""
AT_REST = (0, 2, 4, 5, 7)
"""Semitones from the thumb to each finger of a hand at rest."""
QUAVER = TICKS_PER_QUARTER // 2
PARTS_REMEMBERED = 64


@dataclass(frozen=True, slots=True, kw_only=True)
class StruckKeys:
    """What one hand strikes together, from the lowest up, and how long after what came before, in ticks.

    `fingers` are those that are known already, from the tables or from the teacher.
    """

    pitches: tuple[int, ...]
    after_ticks: int = TICKS_PER_QUARTER
    fingers: tuple[int | None, ...] = ()


def proposed_fingers(pitches: Sequence[int], *, hand: Hand) -> tuple[int, ...]:
    """Return the cheapest fingers for notes one after the other; a key struck again keeps its finger."""
    fingers = fingers_of_moments([StruckKeys(pitches=(pitch,)) for pitch in pitches], hand=hand)
    return tuple(finger for moment in fingers for finger in moment if finger is not None)


def fingers_of_moments(moments: Sequence[StruckKeys], *, hand: Hand) -> tuple[tuple[int | None, ...], ...]:
    """Return the cheapest fingers for notes and chords one after the other; None for all of what no hand can hold.

    What is struck again keeps its fingers. A part is asked for with each of its takes, and remembered.
    """
    return _fingers_of(tuple(moments), hand)


@lru_cache(maxsize=PARTS_REMEMBERED)
def _fingers_of(moments: tuple[StruckKeys, ...], hand: Hand) -> tuple[tuple[int | None, ...], ...]:
    fingers: list[tuple[int | None, ...]] = [(None,) * len(moment.pitches) for moment in moments]
    runs: list[list[int]] = []
    for k, moment in enumerate(moments):
        if not _holds(moment, hand):
            continue
        before = moments[runs[-1][-1]] if runs else None
        is_again = (
            before is not None and before.pitches == moment.pitches and before.fingers == moment.fingers
        )
        if is_again:
            runs[-1].append(k)
        else:
            runs.append([k])
    grips = [_Grip.of(moments[run[0]], hand) for run in runs]
    for run, held in zip(runs, _cheapest(grips), strict=True):
        # Mirrored keys of the left hand are in the other order.
        fingers_up = held if hand is Hand.RIGHT else held[::-1]
        for k in run:
            fingers[k] = fingers_up
    return tuple(fingers)


Key = tuple[int, bool]
"""A pitch, as the right hand sees it, and whether it is black."""
Held = tuple[int, ...]
"""Fingers of what is struck together, from the lowest key up as the right hand sees it."""


@dataclass(frozen=True, slots=True)
class _Grip:
    """A moment as the right hand sees it, and the ways in which it can be held."""

    keys: tuple[Key, ...]
    after_ticks: int
    ways: tuple[tuple[Held, float], ...]

    @classmethod
    def of(cls, moment: StruckKeys, hand: Hand) -> "_Grip":
        keys = _keys(moment.pitches, hand)
        known = moment.fingers or (None,) * len(keys)
        known = known if hand is Hand.RIGHT else known[::-1]
        usual = chord_fingers(moment.pitches, hand=hand) if len(keys) > 1 else None
        usual = usual if usual is None or hand is Hand.RIGHT else usual[::-1]
        ways = []
        for held in combinations(FINGERS, len(keys)):
            if any(finger not in (None, given) for given, finger in zip(held, known, strict=True)):
                continue
            cost = sum(_held_apart(a, f, b, g) for (a, f), (b, g) in pairwise(zip(keys, held, strict=True)))
            if len(keys) > 1 and usual is not None and not _is_like(held, usual):
                cost += UNUSUAL
            if len(keys) > 1:
                cost += sum(_alone(finger) for finger in held) / 2
            ways.append((held, cost))
        # Fingers that somebody has chosen may cross.
        given = tuple(finger for finger in known if finger is not None)
        return cls(keys, moment.after_ticks, tuple(ways) or ((given, 0.0),))


def _is_like(held: Held, usual: Sequence[int]) -> bool:
    """Are these the tables' fingers? Of two keys any two fingers as far from each other are."""
    return (held[1] - held[0] == usual[1] - usual[0]) if len(held) == 2 else held == tuple(usual)


def _keys(pitches: Sequence[int], hand: Hand) -> tuple[Key, ...]:
    keys = [(p if hand is Hand.RIGHT else -p, p % 12 in BLACK_KEYS) for p in pitches]
    return tuple(sorted(keys))


def _holds(moment: StruckKeys, hand: Hand) -> bool:
    """Can five fingers hold it?"""
    if len(moment.pitches) > len(FINGERS):
        return False
    keys = _keys(moment.pitches, hand)
    return keys[-1][0] - keys[0][0] <= SPANS[1, 5][-1]


def _held_apart(key: Key, a: int, two: Key, b: int) -> float:
    """What it costs to hold two neighbours of a chord."""
    least_practical, least, _, _, most, most_practical = SPANS[a, b]
    interval = two[0] - key[0]
    beyond = max(0, least_practical - interval) + max(0, interval - most_practical)
    return 2.0 * (max(0, least - interval) + max(0, interval - most)) + STRAINED * beyond


def _cheapest(grips: Sequence[_Grip]) -> list[Held]:
    if not grips:
        return []
    best: dict[tuple[Held, Held], float] = {
        ((), held): cost + _single(held, grips, 0) for held, cost in grips[0].ways
    }
    came: list[dict[tuple[Held, Held], tuple[Held, Held]]] = []
    for k in range(1, len(grips)):
        costs: dict[tuple[Held, Held], float] = {}
        back: dict[tuple[Held, Held], tuple[Held, Held]] = {}
        steps = {
            (here, after): own + _single(after, grips, k) + _step(grips[k - 1], here, grips[k], after)
            for here, _ in grips[k - 1].ways
            for after, own in grips[k].ways
        }
        lines = [grip.keys[0][0] for grip in grips[max(0, k - 2) : k + 1] if len(grip.keys) == 1]
        has_three = len(lines) == 3
        to_two, to_three = (lines[1] - lines[0], lines[2] - lines[0]) if has_three else (0, 0)
        for (before, here), cost in best.items():
            for after, _ in grips[k].ways:
                more = cost + steps[here, after]
                if has_three and before:
                    more += _three_cost(to_two, to_three, before[0], here[0], after[0])
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


def _single(held: Held, grips: Sequence[_Grip], k: int) -> float:
    """Rules about one finger, for a note that is struck alone."""
    if len(held) != 1:
        return 0.0
    keys = [grip.keys[0] if len(grip.keys) == 1 else (0, False) for grip in grips[max(0, k - 1) : k + 2]]
    return _alone(held[0]) + _at_ends(held[0], keys, min(k, 1))


def _step(before: _Grip, here: Held, grip: _Grip, after: Held) -> float:
    """What it costs to go from one moment to the next."""
    if len(here) == len(after) == 1:
        return _pair(before.keys[0], here[0], grip.keys[0], after[0])
    placed = dict(zip(here, before.keys, strict=True))
    cost = 0.0
    for finger, key in zip(after, grip.keys, strict=True):
        if finger in placed and placed[finger] != key:
            cost += NEVER if grip.after_ticks <= QUAVER else SAME_FINGER
    # A common key keeps its finger.
    was = {key: finger for finger, key in placed.items()}
    cost += OTHER_FINGER * sum(
        was.get(key, finger) != finger for finger, key in zip(after, grip.keys, strict=True)
    )
    return cost + abs(_position(grip.keys, after) - _position(before.keys, here)) / 2


def _position(keys: Sequence[Key], held: Held) -> float:
    """Where the thumb would lie, in semitones, if the hand stayed as it is."""
    return sum(key[0] - AT_REST[finger - 1] for key, finger in zip(keys, held, strict=True)) / len(held)


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
    return _pair_cost(two[0] - key[0], key[1], two[1], a, b)


@lru_cache(maxsize=100_000)
def _pair_cost(to_two: int, is_black: bool, is_two_black: bool, a: int, b: int) -> float:
    """Rules 1, 2, 3, 8, 9 and 12, by how many semitones the second key is above the first."""
    if a == b:
        return 2 * NEVER
    key, two = (0, is_black), (to_two, is_two_black)
    (least_practical, least, least_relaxed, most_relaxed, most, most_practical), interval = _span(
        a, b, to_two
    )
    beyond = max(0, least_practical - interval) + max(0, interval - most_practical)
    if beyond:
        # A leap: the hand moves anyway, to other fingers, and as little as it has to.
        return NEVER + beyond
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
    return _three_cost(two[0] - key[0], three[0] - key[0], a, b, c)


@lru_cache(maxsize=100_000)
def _three_cost(to_two: int, to_three: int, a: int, b: int, c: int) -> float:
    """Rules 4, 5 and 7, by how many semitones the other keys are above the first."""
    cost = 1.0 if {a, b, c} == {3, 4, 5} else 0.0
    if a == c:
        # One finger on two keys with one between: a change of position as far as they lie apart.
        apart = abs(to_three)
        return cost + (1.0 + apart if apart else 0.0)
    (least_practical, least, _, _, most, most_practical), interval = _span(a, c, to_three)
    beyond = max(0, least - interval) + max(0, interval - most)
    if not beyond:
        return cost
    is_between = min(0, to_three) < to_two < max(0, to_three)
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
