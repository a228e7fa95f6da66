"""Which strokes of a drum part are written as ghost notes."""

import numpy as np

from ear.measuring.dynamics import voices
from ear.notes import KitMap, Part

MAX_GHOST_RATIO = 2 / 3
MIN_GHOST_GAP = 16
"""A lane has ghost notes if its velocities leave a gap: from one to half as much again, and these steps at least."""
DRUM_HEAD = "round"


def ghosts(part: Part, *, kit: KitMap) -> frozenset[int]:
    """Return the numbers of the ghost notes: strokes of a drum below the widest gap between its velocities.

    A gap is taken as a ratio, so that a softer player's part reads the same. A crescendo leaves none, and
    accents over even strokes (104 over 78) leave too small a one. Cymbals and feet have no ghost notes:
    there a softer stroke is only softer.
    """
    ghosts: set[int] = set()
    lanes = voices(part, kit=kit)
    for pitch in set(lanes.tolist()):
        lane = kit.lane(pitch)
        if lane.head != DRUM_HEAD or lane.is_foot:
            continue
        here = np.flatnonzero(lanes == pitch)
        velocity = part.velocities[here]
        steps = np.unique(velocity)
        soft, strong = steps[:-1], steps[1:]
        is_gap = (soft <= MAX_GHOST_RATIO * strong) & (strong - soft >= MIN_GHOST_GAP)
        if is_gap.any():
            widest = np.where(is_gap, soft / strong, 1).argmin()
            ghosts |= set(here[velocity <= soft[widest]].tolist())
    return frozenset(ghosts)
