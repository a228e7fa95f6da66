"""Notes that arrive twice: sent by a second device an octave away, or by one device on two ways.

No pianist doubles nearly every key to the millisecond: this is trouble of a set-up, and is told as that.
"""

from collections import Counter
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ear.measuring.figures import Floats, Ints
from ear.notes import Part, Take

TOGETHER_S = 0.03
"""A copy comes with its note, or as much later as a second device takes."""
COPIED_SHARE, MIN_COPIES = 0.8, 6
"""So many of the notes have a copy, and so many at least."""
DISTANCES = (0, 12, -12, 24, -24)
"""Semitones from a note to its copy."""
IN_PART_SHARE = 0.8
"""Without the copies so many notes are ones that the part has."""


def copies_at(onsets_s: Floats, pitches: Ints, semitones: int) -> NDArray[np.bool_]:
    """Return which notes are copies of another one so many semitones away; all have shape (n,), onsets ascending.

    Each note has one copy at most, the latest of those that are near enough, and a copy has none: music with octaves of its
    own keeps them.
    """
    flags = np.zeros(len(pitches), dtype=bool)
    at: dict[int, list[int]] = {}
    for k, pitch in enumerate(pitches.tolist()):
        at.setdefault(pitch, []).append(k)
    for pitch in sorted(at, reverse=semitones < 0):
        candidates = at.get(pitch + semitones, [])
        when = onsets_s[candidates]
        for own in at[pitch]:
            if flags[own] or not len(candidates):
                continue
            near = np.flatnonzero(np.abs(when - onsets_s[own]) <= TOGETHER_S).tolist()
            free = [candidates[n] for n in near if not flags[candidates[n]] and candidates[n] != own]
            if free:
                flags[free[-1]] = True
    return flags


def copied_by(part: Part, take: Take) -> int | None:
    """Return how many semitones above its note the copy of nearly every note is, 0 for the same key; None where a take has
    no copies, and where the part is written so.
    """
    if len(take.notes) < 2 * MIN_COPIES:
        return None
    onsets_s, pitches = take.onsets_s, take.pitches
    written_s = part.tempos.seconds(part.onset_ticks / 480)
    fitting: list[tuple[float, int]] = []
    for semitones in DISTANCES:
        if part.instrument.has_lanes and semitones:
            continue
        copies = copies_at(onsets_s, pitches, semitones)
        if not _are_nearly_all(copies) or _are_nearly_all(copies_at(written_s, part.pitches, semitones)):
            continue
        share = _in_part(part.pitches.tolist(), pitches[~copies].tolist())
        if share >= IN_PART_SHARE:
            fitting.append((share, -DISTANCES.index(semitones)))
    return DISTANCES[-max(fitting)[1]] if fitting else None


def _are_nearly_all(copies: NDArray[np.bool_]) -> bool:
    count = int(copies.sum())
    return count >= MIN_COPIES and count >= COPIED_SHARE * (len(copies) - count)


def _in_part(written: Sequence[int], played: Sequence[int]) -> float:
    common = Counter(written) & Counter(played)
    return sum(common.values()) / max(1, len(played))


def without_copies(take: Take, semitones: int) -> Take:
    """Return the take without the copies that are so many semitones from their notes."""
    copies = copies_at(take.onsets_s, take.pitches, semitones)
    return Take.of(
        (note for note, is_copy in zip(take.notes, copies.tolist(), strict=True) if not is_copy),
        pedal=take.pedal, bend=take.bend, modulation=take.modulation, has_touch=take.has_touch,
        latency_ms=take.latency_ms,
    )  # fmt: skip
