"""Notes that come in the same order in part and take, whenever they come.

The longest common subsequence of pitches (Hunt and Szymanski, "A fast algorithm for computing longest common
subsequences", Comm. ACM 20, 1977; here by rows of the table).
"""

import numpy as np

from ear.matching.fit import robust_spread
from ear.matching.grid import Ints
from ear.notes import Part, Take
from ear.units import TICKS_PER_QUARTER

MIN_PAIRS = 8
MIN_GAPS, SHORTEST_S = 4, 0.01
ONE_PLACE = 0.08
"""Of a beat: notes that spread less stand at one place in it."""


def scatter(part: Part, take: Take) -> float | None:
    """Return how much the gaps between notes played in order scatter about the written gaps: the robust spread
    of the logarithms of their ratios.

    None if too few notes come in order.
    """
    pairs = in_order(part.pitches, take.pitches)
    if len(pairs) < MIN_PAIRS:
        return None
    ticks = part.onset_ticks[[i for i, _ in pairs]]
    _, first = np.unique(ticks, return_index=True)
    written = np.diff(part.tempos.even(ticks[first] / TICKS_PER_QUARTER))
    played = np.maximum(np.diff(take.onsets_s[[j for _, j in pairs]][first]), SHORTEST_S)
    if len(written) < MIN_GAPS:
        return None
    return robust_spread(np.log(played / written))


def scatter_of_beats(part: Part, take: Take) -> float | None:
    """Return the same of the gaps between beats alone, for a take whose notes between the beats stand all at about one place:
    it is swung otherwise than written, and no less in time for that. None for any other take."""
    pairs = in_order(part.pitches, take.pitches)
    targets, played = (np.array([pair[side] for pair in pairs], dtype=np.int64) for side in (0, 1))
    if len(pairs) < MIN_PAIRS:
        return None
    beat = part.meters.first.beat_ticks
    into = part.ticks_into_bar[targets] % beat
    written = part.tempos.even(part.onset_ticks[targets] / TICKS_PER_QUARTER)
    on = into == 0
    if on.sum() < MIN_PAIRS or (~on).sum() < MIN_GAPS:
        return None
    beats, first = np.unique(written[on], return_index=True)
    at_s = take.onsets_s[played[on]][first]
    # Where in the time from its beat to the next each other note was played.
    before = np.clip(np.searchsorted(beats, written[~on], side="right") - 1, 0, len(beats) - 2)
    inside = (beats[before + 1] - beats[before]) <= beat / TICKS_PER_QUARTER + 1e-6
    share = (take.onsets_s[played[~on]] - at_s[before]) / np.maximum(np.diff(at_s)[before], SHORTEST_S)
    if inside.sum() < MIN_GAPS or robust_spread(share[inside]) > ONE_PLACE:
        return None
    return robust_spread(np.log(np.maximum(np.diff(at_s), SHORTEST_S) / np.diff(beats)))


def in_order(a: Ints, b: Ints) -> list[tuple[int, int]]:
    """Return the longest common subsequence as pairs of indices; of several, the one that ends last."""
    table = np.zeros((len(a) + 1, len(b) + 1), dtype=np.int32)
    for i, pitch in enumerate(a.tolist(), start=1):
        # Equal pitches lengthen what stands before both; the best of a row never falls along it.
        grown = np.maximum(table[i - 1, 1:], table[i - 1, :-1] + (b == pitch))
        table[i, 1:] = np.maximum.accumulate(grown)
    pairs, i, j = [], len(a), len(b)
    while i and j:
        if table[i, j] == table[i - 1, j]:
            i -= 1
        elif table[i, j] == table[i, j - 1]:
            j -= 1
        else:
            i, j = i - 1, j - 1
            pairs.append((i, j))
    return pairs[::-1]
