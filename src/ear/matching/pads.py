"""Pads that send numbers which the part does not have: which drum each of them is meant as.

A kit has no key; but a pad that is struck where one drum is written, again and again, is that drum's pad,
whatever it sends. So its strokes find their places, and are told as strokes on another pad.
"""

from collections import Counter

import numpy as np

from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.pairing import ABSENT

MIN_STROKES = 2
AGREE_SHARE = 0.4
"""Of a pad's linked strokes that fall on one drum, for it to be meant as that drum."""


def pads_meant(matcher: Matcher, hypothesis: Hypothesis) -> dict[int, int]:
    """Return, for each pad whose lane the part does not have, the lane of the part that it stands for, if there
    is one.
    """
    if matcher.has_key:
        return {}
    written = set(matcher.target.pitch.tolist())
    votes: dict[int, Counter[int]] = {}
    for target in np.flatnonzero(hypothesis.links.take_of != ABSENT).tolist():
        pad = int(matcher.played.pitch[hypothesis.links.take_of[target]])
        if pad not in written:
            votes.setdefault(pad, Counter())[int(matcher.target.pitch[target])] += 1
    meant: dict[int, int] = {}
    for pad, count in sorted(votes.items(), key=lambda vote: -max(vote[1].values())):
        for lane, strokes in count.most_common():
            free = lane not in meant.values()
            if free and strokes >= MIN_STROKES and strokes >= AGREE_SHARE * sum(count.values()):
                meant[pad] = lane
                break
    return meant
