"""How far a player stands from the click at each note, and for how long he has: what a listener beside the click hears.

A player who was thrown out of time, or who never found the click, may go on as steadily as before and stand beside it.
What that is worth depends on three things, given here for each note: how far beside it is, for how long it has been so,
and how surely he was with the click before.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ear.measuring.figures import Floats

BESIDE_BEATS = 0.2
"""Fully beside the click from a fifth of a beat on: nearer, it is a matter of degree."""
KEPT_BEATS, LEFT_BEATS = 0.04, 0.12
"""Beats per bar by which his pulse moves against the click: he keeps its tempo up to the first (1 % in four-four), and plays
at another from the second on. Who plays at another tempo crosses the click's beats by chance, and is not with it there."""
SURE_BARS = 2.0
"""Bars with the click from which there is no doubt that he was with it."""
LOST_BARS = 16.0
"""Bars beside the click from which it makes no difference how he came there."""
BACK_BARS = 1.0
"""Bars with the click by which the longest time beside it is made good."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ClickDistance:
    """One entry for each note; (n,) each, 0 to 1 but for the first."""

    off_beats: Floats
    """From the nearest beat of the click, -0.5 to 0.5, negative early."""
    beside: Floats
    """0 with the click, 1 from a fifth of a beat on, or at another tempo."""
    lost: Floats
    """How long he has not been with the click: 1 from sixteen bars on, and at another tempo."""
    was_with: Floats
    """How surely he has been with it before: 1 from two bars on."""


def click_distance(
    bar: Floats, late_ms: Floats, beat_ms: Floats, breaks: Sequence[int] = ()
) -> ClickDistance:
    """Return how far a pulse stands from the click.

    `bar` says where notes are, in bars and fractions, ascending; `late_ms` how late the player's pulse is there, in ms,
    beside the click as it goes on (slips and his own tempo included); `beat_ms` how long the click's beat is; (n,) each.
    `breaks` are the first notes after a jump of the pulse.
    """
    beats = late_ms / beat_ms
    off = beats - np.round(beats)
    near = 1.0 - np.clip(np.abs(off) / BESIDE_BEATS, 0.0, 1.0)
    speed = np.abs(_beats_per_bar(bar, beats, breaks))
    kept = np.clip((LEFT_BEATS - speed) / (LEFT_BEATS - KEPT_BEATS), 0.0, 1.0)
    beside = 1.0 - near * kept
    moment, first, number = np.unique(bar, return_index=True, return_inverse=True)
    lost_bars = with_bars = 0.0
    state: list[tuple[float, float]] = []
    for step, away in zip(np.diff(moment, prepend=moment[:1]).tolist(), beside[first].tolist(), strict=True):
        with_bars = min(SURE_BARS, with_bars + step * (1.0 - away))
        lost_bars += step * away - step * (1.0 - away) * LOST_BARS / BACK_BARS
        lost_bars = min(LOST_BARS, max(0.0, lost_bars))
        state.append((lost_bars / LOST_BARS, with_bars / SURE_BARS))
    lost, was_with = np.array(state).reshape(-1, 2)[number.ravel()].T
    # Who plays at another tempo has left the click for good, however lately.
    lost = 1.0 - (1.0 - lost) * kept
    return ClickDistance(off_beats=off, beside=beside, lost=lost, was_with=was_with)


def _beats_per_bar(bar: Floats, beats: Floats, breaks: Sequence[int]) -> Floats:
    """How fast the pulse moves against the click: its slope over two bars about each note, jumps taken out."""
    if len(bar) < 2 or bar[-1] - bar[0] < 1.0:
        return np.zeros(len(bar))
    flat = beats.copy()
    for at in breaks:
        if 0 < at < len(flat):
            flat[at:] -= flat[at] - flat[at - 1]
    first = np.clip(bar - 1.0, bar[0], bar[-1])
    last = np.clip(bar + 1.0, bar[0], bar[-1])
    moved: Floats = np.interp(last, bar, flat) - np.interp(first, bar, flat)
    return moved / np.maximum(1.0, last - first)
