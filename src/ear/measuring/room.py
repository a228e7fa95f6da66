"""How much room there is about each written note: how far apart the notes are among which it stands.

A window of tolerance belongs to a place in the music: a few triplets beside quavers ask for no more care of the quavers.
"""

import numpy as np

from ear.measuring.figures import Floats, Ints
from ear.notes import Part
from ear.units import TICKS_PER_QUARTER

SAME_MOMENT_TICKS = 30
"""Notes nearer to each other than a hundred-and-twenty-eighth triplet are written as one moment: an ornament, a chord that
was played in."""


def room_ms(part: Part) -> Floats:
    """Return the least distance between two moments of its hand within a beat of each note, in ms at the click's tempo.

    Shape (notes,); infinite where a hand plays one moment. A kit is one hand: its strokes share the beat.
    """
    room = np.full(len(part.notes), np.inf)
    hand = np.zeros_like(part.onset_ticks) if part.instrument.has_lanes else part.hand_numbers
    for each in np.unique(hand):
        at = np.flatnonzero(hand == each)
        room[at] = _room_ticks(part, part.onset_ticks[at])
    bpm = part.tempos.bpms(part.onset_ticks / TICKS_PER_QUARTER)
    return room * (60_000.0 / bpm) / TICKS_PER_QUARTER


def _room_ticks(part: Part, onsets: Ints) -> Floats:
    moments = np.unique(onsets)
    moments = moments[np.concatenate(([True], np.diff(moments) >= SAME_MOMENT_TICKS))]
    if len(moments) < 2:
        return np.full(len(onsets), np.inf)
    gaps = np.diff(moments)
    beats = np.array([bar.meter.beat_ticks for bar in part.bars])
    beat = beats[np.clip(np.searchsorted(part.bar_starts, onsets, side="right") - 1, 0, None)]
    # Gaps that lie within a beat to either side; of none, the nearer one.
    first = np.searchsorted(moments[:-1], onsets - beat)
    after = np.searchsorted(moments[1:], onsets + beat, side="right")
    at = np.clip(np.searchsorted(moments, onsets, side="right") - 1, 0, len(gaps) - 1)
    nearer = np.minimum(gaps[at], gaps[np.maximum(at - 1, 0)])
    least = np.minimum.reduceat(np.append(gaps, np.inf), np.stack((first, after), axis=1).ravel())[::2]
    room: Floats = np.where(after > first, least, nearer).astype(np.float64)
    return room
