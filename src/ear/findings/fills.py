"""Figures that stand out of a part: fills of a groove, quick notes among slower ones. What is early or late there alone is
told of them, not of the lanes and places that they happen to hold."""

from collections import Counter
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ear.notes import KitMap, Part

MAX_BARS_SHARE = 0.5
"""What is in more of the bars is no figure that stands out."""
MIN_STROKES = 2
QUICKER = 0.6
"""Notes of a beat stand out as quick if they are so much closer than usual."""


@dataclass(frozen=True, kw_only=True)
class Fills:
    """`number` is, of each target note, that of its fill in order from 0, or -1; (notes,). `is_quick` where they are
    quick notes of a tune, not fills of a groove."""

    number: NDArray[np.int64]
    is_quick: bool

    @property
    def inside(self) -> NDArray[np.bool_]:
        """Which notes belong to one."""
        flags: NDArray[np.bool_] = self.number >= 0
        return flags


def fills_of(part: Part, *, kit: KitMap) -> Fills:
    """Return the fills of a groove, or the quick figures of a tune."""
    has_lanes = part.instrument.has_lanes
    beat_ticks = np.array([bar.meter.beat_ticks for bar in part.bars])[part.bar_index_of_note]
    beat = part.ticks_into_bar // beat_ticks
    chosen = _without_timekeeper(part, beat, kit) if has_lanes else _quick(part, beat)
    bars = {bar for bar, _ in chosen}
    number = np.full(len(part.notes), -1, dtype=np.int64)
    if len(bars) > MAX_BARS_SHARE * len(set(part.bar_of_note.tolist())):
        return Fills(number=number, is_quick=not has_lanes)
    count = -1
    in_order = sorted(chosen)
    for k, place in enumerate(in_order):
        begins = k == 0 or (place[0] != in_order[k - 1][0] or place[1] != in_order[k - 1][1] + 1)
        count += begins
        number[(part.bar_of_note == place[0]) & (beat == place[1])] = count
    return Fills(number=number, is_quick=not has_lanes)


def _without_timekeeper(part: Part, beat: NDArray[np.int64], kit: KitMap) -> set[tuple[int, int]]:
    """Bars and beats of a kit in which the lane that keeps time is silent, as it is not there in most bars."""
    lane = kit.folds[part.pitches]
    if not len(lane):
        return set()
    keeper = Counter(lane.tolist()).most_common(1)[0][0]
    strokes: Counter[tuple[int, int]] = Counter()
    kept: set[tuple[int, int]] = set()
    for bar, at, struck in zip(part.bar_of_note.tolist(), beat.tolist(), lane.tolist(), strict=True):
        strokes[bar, at] += 1
        if struck == keeper:
            kept.add((bar, at))
    usual = Counter(at for _, at in kept)
    bars = len(set(part.bar_of_note.tolist()))
    return {
        (bar, at)
        for (bar, at), count in strokes.items()
        if (bar, at) not in kept and count >= MIN_STROKES and usual[at] >= MAX_BARS_SHARE * bars
    }


def _quick(part: Part, beat: NDArray[np.int64]) -> set[tuple[int, int]]:
    """Bars and beats with notes that follow one another much closer than is usual in the part."""
    ticks, first = np.unique(part.onset_ticks, return_index=True)
    bars, beats = part.bar_of_note[first], beat[first]
    gaps = np.diff(ticks)
    inside = (np.diff(bars) == 0) & (np.diff(beats) == 0)
    if not inside.any():
        return set()
    place, number = np.unique(np.stack((bars[1:], beats[1:]), axis=1)[inside], axis=0, return_inverse=True)
    closest = np.full(len(place), np.inf)
    np.minimum.at(closest, number.ravel(), gaps[inside])
    many = np.bincount(number.ravel()) >= MIN_STROKES
    usual = float(np.median(closest))
    return {(bar, at) for bar, at in place[many & (closest <= QUICKER * usual)].tolist()}
