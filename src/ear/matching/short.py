"""Exercises of a few notes: matched by the order of their notes, at whatever tempo and octave they were played.

A search over shifts and tempos counts notes gained; of two to eight notes there are too few to gain. What
a listener knows a short exercise by is which notes came one after the other (`in_order.py`); a straight line
through their onsets is the player's tempo and start.
"""

from dataclasses import replace

import numpy as np

from ear.matching.clock import CLICK, PlayerClock
from ear.matching.grid import Floats
from ear.matching.in_order import in_order
from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.pairing import ABSENT
from ear.matching.runs import Path

MAX_NOTES = 8
OCTAVES = (0, -12, 12, -24, 24)
KNOWN_SHARE = 0.75
"""Of the notes of the shorter side that must come in order, for the take to be told by it."""
MIN_RATIO, MAX_RATIO = 0.3, 3.0
KEEPS_CLICK = 0.03
"""So near to the click's tempo a line through a few notes is the click's."""


def is_short(matcher: Matcher) -> bool:
    """Return whether there are so few notes that all pairings can be tried."""
    return min(len(matcher.target), len(matcher.played)) <= MAX_NOTES


def by_order(matcher: Matcher, hypothesis: Hypothesis) -> Hypothesis:
    """Return the better of the hypothesis and of a pairing in order of notes: the one with more right notes."""
    best, right = hypothesis, _right(hypothesis)
    least = min(len(matcher.target), len(matcher.played))
    for octave in OCTAVES if matcher.has_key else (0,):
        pairs = in_order(matcher.target.pitch, matcher.played.pitch - octave)
        if len(pairs) < max(2, KNOWN_SHARE * least) or len(pairs) <= right:
            continue
        line = _line(matcher, pairs)
        if line is None:
            continue
        path, clock = line
        other = matcher.along_path(path, matcher.transposed(octave), clock=clock, transposition=octave)
        if _right(other) > right:
            # Few notes cannot pay for a tempo or an octave: that they are right is what speaks for it.
            best, right = replace(other, worth=max(other.worth, float(_right(other)))), _right(other)
    return best


def _right(hypothesis: Hypothesis) -> int:
    return int(((hypothesis.links.take_of != ABSENT) & ~hypothesis.links.is_wrong).sum())


def _line(matcher: Matcher, pairs: list[tuple[int, int]]) -> tuple[Path, PlayerClock] | None:
    """One run at the tempo and from the start that the pairs show; None for a tempo that nobody would call one."""
    x: Floats = matcher.target.time[[i for i, _ in pairs]]
    y: Floats = matcher.played.time[[j for _, j in pairs]]
    spread = float(((x - x.mean()) ** 2).sum())
    slope = float(((x - x.mean()) * (y - y.mean())).sum()) / spread if spread > 1e-9 else 1.0
    if not MIN_RATIO <= slope <= MAX_RATIO:
        return None
    ratio = 1.0 / slope
    if abs(ratio - 1.0) < KEEPS_CLICK or len(pairs) < 3:
        ratio = 1.0
    level = float(np.median(y - x / ratio))
    moments = len(matcher.moments)
    path = Path(
        score=float(len(pairs)),
        shift=np.full(moments, level * ratio),
        run=np.zeros(moments, dtype=np.int64),
    )
    return path, CLICK if ratio == 1.0 else PlayerClock.steady(ratio)
