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
