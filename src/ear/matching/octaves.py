"""Hands that play in an octave of their own: which, and by how much.

A key that the whole take is in is searched with it (`search.py`). One hand an octave off is found by the places that the
other has: where its notes are looked for an octave up or down, most of them are there. Where neither hand is in its own
octave, each pair of octaves is tried against the click before the likeliest is searched.
"""

from collections.abc import Mapping
from itertools import product

import numpy as np

from ear.matching.clock import CLICK
from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.pairing import ABSENT, WRONG_REACH_S
from ear.matching.path import ShiftRange
from ear.notes import HANDS, Hand

OCTAVES = (-24, -12, 12, 24)
MIN_HAND, HAND_SHARE = 4, 0.5
"""Notes of a hand, and share of them, that are found in another octave for it to be played there;"""
HAND_GAIN = 2.0
"""so many times as many as in its own."""
POOR_SHARE = 0.6
"""Of the notes right in a take, below which both hands may be off."""
FEW_SHARE = 0.5
"""Of a hand's notes right, below which it may be off."""


def octaves_meant(matcher: Matcher, hypothesis: Hypothesis) -> dict[Hand, int]:
    """Return, for hands that play in another octave than the take as a whole, the semitones above their part;
    empty if both are in one key.
    """
    if not matcher.has_key or {Hand.LEFT, Hand.RIGHT} - set(matcher.hands):
        return {}
    right = hypothesis.links.target_is_right
    if right.sum() >= POOR_SHARE * min(len(right), len(matcher.played)):
        return _beside(matcher, hypothesis)
    shares = [right[_of(matcher, hand)].mean() for hand in (Hand.LEFT, Hand.RIGHT)]
    if min(shares) >= FEW_SHARE:
        return {}
    meant = _beside(matcher, hypothesis)
    return meant or (_each_its_own(matcher) if max(shares) < FEW_SHARE else {})


def _of(matcher: Matcher, hand: Hand) -> np.ndarray:
    rows: np.ndarray = np.flatnonzero(matcher.part.hand_numbers == HANDS.index(hand))
    return rows


def _beside(matcher: Matcher, hypothesis: Hypothesis) -> dict[Hand, int]:
    """One hand in another octave, at the places that the other has shown."""
    places = matcher.places(hypothesis.path, hypothesis.clock)
    take = matcher.transposed(hypothesis.transposition)
    right = hypothesis.links.target_is_right
    for hand in (Hand.LEFT, Hand.RIGHT):
        notes = _of(matcher, hand)
        if right[notes].mean() >= FEW_SHARE:
            continue
        expected, pitch = places.expected_s[notes], matcher.target.pitch[notes]
        counts = {octave: _there(matcher, take.pitch, pitch + octave, expected) for octave in OCTAVES}
        octave = max(counts, key=lambda row: counts[row])
        least = max(MIN_HAND, HAND_SHARE * len(notes), HAND_GAIN * float(right[notes].sum()))
        if counts[octave] >= least:
            other = Hand.RIGHT if hand is Hand.LEFT else Hand.LEFT
            whole = hypothesis.transposition
            # Of two hands in two octaves each is told, and no key for the whole.
            return {k: v for k, v in ((hand, whole + octave), (other, whole)) if v}
    return {}


def _there(matcher: Matcher, played: np.ndarray, pitch: np.ndarray, expected_s: np.ndarray) -> int:
    """How many notes are found within reach of their places."""
    near = np.abs(matcher.take_s[None, :] - expected_s[:, None]) <= WRONG_REACH_S
    return int((near & (played[None, :] == pitch[:, None])).any(axis=1).sum())


def _each_its_own(matcher: Matcher) -> dict[Hand, int]:
    """Both hands in octaves of their own, by what keeps to the click best."""
    best, worth = {}, POOR_SHARE * min(len(matcher.target), len(matcher.played))
    for left, right in product((0, *OCTAVES), repeat=2):
        if left == right:
            continue
        shifts: Mapping[Hand, int] = {Hand.LEFT: left, Hand.RIGHT: right}
        tried = matcher.with_hands(shifts).hypothesis(transposition=0, clock=CLICK, reach=ShiftRange.STRAIGHT)
        if (tried.links.take_of != ABSENT).any() and tried.worth > worth:
            best, worth = {hand: shift for hand, shift in shifts.items() if shift}, tried.worth
    return best
