"""How the notes of a part are written: F sharp or G flat.

A name is a place on the line of fifths: C 0, G 1, F -1, F sharp 6, B flat -2. What a note is called by itself is kept; the
others are spelled by what stands around them, in steps:

1. Each note about a note is taken for a tonic once for each time that it sounds, and says how the note would be written
   in a harmonic chromatic scale on it (Meredith, "The ps13 pitch spelling algorithm", Journal of New Music Research
   35(2), 2006, stage 1); here tonics themselves are written near the key signature, on twelve places of the line.
2. Notes a semitone apart that follow each other are rather a minor second than a note and its alteration, and
   what stands together or follows closely rather no more than six fifths apart (his stage 2, and Temperley, "The Cognition of
   Basic Musical Structures", 2001, ch. 5, as weights).
3. What is struck together is stacked in thirds and fifths where it can be: E and G sharp, not A flat.
4. Notes with a name, and tones of a chord whose name stands over them, count as they are named.
5. A line that climbs by semitones raises the notes of the key, one that falls lowers them.

Without a key signature, the course of signatures is that under which the notes are likeliest, each change of it at a
price (Viterbi, 1967).
"""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ear.notes.pitch import NAMES_FROM, NAMES_TO

Ints = NDArray[np.int64]
Floats = NDArray[np.float64]

BEFORE, AFTER = 16, 32
"""Notes about a note that say how it is written."""
HARMONIC_CHROMATIC = np.array([0, -5, 2, -3, 4, -1, 6, 1, -4, 3, -2, 5])
"""Fifths from a tonic to the note so many semitones above it."""
TONIC_FROM = -4
"""Tonics are written from so many fifths before the key's own place, eleven further."""
_CLASSES = np.arange(12)
TONICS_BEHIND = (7 * _CLASSES[None, :] - _CLASSES[:, None]) % 12
"""(12, 12): how many fifths a tonic, by its pitch class, is behind the place from which tonics are written."""
HARMONIC_AT = HARMONIC_CHROMATIC[(_CLASSES[:, None] - _CLASSES[None, :]) % 12]
"""(12, 12): fifths to a pitch class from a tonic."""
NEAR = 8
"""Notes before and after that are looked at for seconds, each further one for less by `FADING`."""
FADING = 0.8
SECOND, SECOND_BEFORE = 1.5, 0.9
"""What a minor second to a note after, or before, speaks for a name, where all that step 1 says is 4."""
FAR = 0.1 / 6
"""What each fifth beyond six speaks against it."""
FIFTHS_APART = np.arange(3 * (NAMES_TO - NAMES_FROM))
"""How far apart two names can be."""


CHORD = 6
"""Notes of a chord beside one that speak for its name."""
STACKED = 0.65
"""What a third, a fifth or their inversions speak for a name."""
PURE = np.array([99, 99, 99, -3, 4, -1, 99, 1, -4, 3, 99, 99])
"""Fifths of thirds, fourths, fifths and sixths, by semitones upwards; 99 for other intervals."""
RUN_STEPS = 4
"""Semitones one way, one after the other, that make a chromatic line."""
PLAIN_FROM, PLAIN_TO = -8, 12
"""From F flat to B sharp: names with one sign at most."""
LAST_OF_KEY = 5
"""Fifths from a key's place to the last of its seven notes, the first being one before it."""
OWN_TONIC = 0.9
"""As how many notes the key signature's own tonic speaks besides those that are heard."""


def _spoken(second: float) -> Floats:
    """What a note speaks for a name, by how many fifths they are apart; then the same for notes a semitone apart."""
    far = -FAR * np.maximum(0, FIFTHS_APART - 6)
    return np.concatenate([far, far + second * (FIFTHS_APART == 5)])


TO_AFTER, TO_BEFORE = _spoken(SECOND), _spoken(SECOND_BEFORE)
FIRST_STEP = 4.0
ROUNDS = 2
KEYS = np.arange(-7, 8)
LIKELY = {
    -1: 1.0,
    0: 1.15,
    1: 1.1,
    2: 1.0,
    3: 1.05,
    4: 1.0,
    5: 0.9,
    8: 0.35,
    6: 0.3,
    -2: 0.25,
    7: 0.2,
    9: 0.1,
    -3: 0.1,
    -4: 0.05,
}
"""How often notes so many fifths from a key's place occur under its signature, in proportion: counted once in scores
of several centuries, and rounded."""
UNLIKELY = 0.02
CHANGE_COST = 40.0
SIGN_COST = 0.003
"""What a signature costs for each sign and note: of two that sound alike, the simpler."""
UNKNOWN = -99
"""No name."""


def spelled(pitches: Ints, fifths: Ints, named: Ints, *, onsets: Ints | None = None) -> Ints:
    """Return a name on the line of fifths for each note, in order of (onset, pitch).

    All arrays have shape (n,): `fifths` are the key signatures in force, `named` the names that are known, with
    `UNKNOWN` elsewhere. `onsets`, in ticks, say what is struck together; without them nothing is.
    """
    n = len(pitches)
    if not n or (named != UNKNOWN).all():
        return named
    lowest, votes = _by_tonics(pitches % 12, fifths)
    reach = lowest + np.array([[0], [12], [24]])
    votes[(reach < NAMES_FROM) | (reach > NAMES_TO)] = -np.inf
    known = named != UNKNOWN
    choice = votes.argmax(axis=0)
    names = np.where(known, named, lowest + 12 * choice)
    for _ in range(ROUNDS):
        spoken = _by_neighbours(pitches, names, lowest)
        if onsets is not None:
            spoken += _by_chords(pitches, names, lowest, onsets)
        choice = (FIRST_STEP * votes + spoken).argmax(axis=0)
        names = np.where(known, named, lowest + 12 * choice)
    # No note of the key is written with a double sign.
    of_key = fifths - 1 + (7 * pitches - (fifths - 1)) % 12
    is_double = (names < PLAIN_FROM) | (names > PLAIN_TO)
    names = np.where(is_double & (of_key - fifths <= LAST_OF_KEY), of_key, names)
    return np.where(known, named, _by_direction(pitches, fifths, names, onsets))


def _by_tonics(classes: Ints, fifths: Ints) -> tuple[Ints, Floats]:
    """The lowest of three names for each note, an octave of fifths apart, and the share of votes of each: (3, n)."""
    n = len(classes)
    so_far = np.zeros((n + 1, 12))
    so_far[1:] = np.cumsum(np.eye(12)[classes], axis=0)
    at = np.arange(n)
    around = so_far[np.minimum(n, at + AFTER)] - so_far[np.maximum(0, at - BEFORE)]
    start = fifths + TONIC_FROM
    names = (start[:, None] + TONICS_BEHIND[start % 12]) + HARMONIC_AT[classes]
    lowest = start - 6 + (7 * classes - (start - 6)) % 12
    around[at, 7 * fifths % 12] += OWN_TONIC
    # Of the three names, these are the first or the second: a tonic is at most eleven fifths behind the start.
    which = 3 * at[:, None] + (names > lowest[:, None])
    votes = np.bincount(which.ravel(), weights=around.ravel(), minlength=3 * n).reshape(n, 3).T
    return lowest, votes / votes.sum(axis=0)


def _by_neighbours(pitches: Ints, names: Ints, lowest: Ints) -> Floats:
    """What the notes about each note speak for its three names: (3, n)."""
    weights = np.zeros((3, len(pitches)))
    own = lowest + np.array([[0], [12], [24]])
    for off in range(1, min(NEAR, len(pitches) - 1) + 1):
        weight = FADING ** (off - 1)
        of_semitones = len(FIFTHS_APART) * (np.abs(pitches[off:] - pitches[:-off]) == 1)
        weights[:, :-off] += weight * TO_AFTER.take(of_semitones + np.abs(own[:, :-off] - names[off:]))
        weights[:, off:] += weight * TO_BEFORE.take(of_semitones + np.abs(own[:, off:] - names[:-off]))
    return weights


def _by_chords(pitches: Ints, names: Ints, lowest: Ints, onsets: Ints) -> Floats:
    """What notes struck together speak for each other's three names: (3, n)."""
    weights = np.zeros((3, len(pitches)))
    own = lowest + np.array([[0], [12], [24]])
    for off in range(1, min(CHORD, len(pitches) - 1) + 1):
        together = onsets[off:] == onsets[:-off]
        if not together.any():
            break
        pure = PURE[(pitches[off:] - pitches[:-off]) % 12]
        weights[:, :-off] += STACKED * (together & (names[off:] - own[:, :-off] == pure))
        weights[:, off:] += STACKED * (together & (own[:, off:] - names[:-off] == pure))
    return weights


def _by_direction(pitches: Ints, fifths: Ints, names: Ints, onsets: Ints | None) -> Ints:
    """Names with those of chromatic lines by where they go: (n,)."""
    steps = np.diff(pitches)
    if onsets is not None:
        steps[np.diff(onsets) == 0] = 0
    turned = names.copy()
    for direction in (1, -1):
        runs = np.flatnonzero(np.diff(np.concatenate(([0], (steps == direction).astype(np.int8), [0]))))
        for first, last in runs.reshape(-1, 2).tolist():
            if last - first < RUN_STEPS:
                continue
            for i in range(first, last + 1):
                of_key = fifths[i] - 1 + (7 * pitches[i] - (fifths[i] - 1)) % 12
                if of_key - fifths[i] <= LAST_OF_KEY:
                    turned[i] = of_key
                else:
                    # The note of the key that it comes from, raised or lowered.
                    before = pitches[i] - direction
                    turned[i] = fifths[i] - 1 + (7 * before - (fifths[i] - 1)) % 12 + 7 * direction
    return turned


def keys_of(pitches: Ints, *, change_cost: float = CHANGE_COST) -> Ints:
    """Return the likeliest key signature at each note, shape (n,); one for all if a change costs infinitely
    much.
    """
    n = len(pitches)
    if not n:
        return np.zeros(0, dtype=np.int64)
    share = np.full(12, UNLIKELY)
    for place, often in LIKELY.items():
        share[7 * place % 12] = max(share[7 * place % 12], often)
    log = np.log(share / share.sum())
    likely = log[(pitches[:, None] - 7 * KEYS[None, :]) % 12] - SIGN_COST * np.abs(KEYS)[None, :]
    best = likely[0] - 0.3 * np.abs(KEYS)
    came = np.zeros((n, len(KEYS)), dtype=np.int64)
    for i in range(1, n):
        other = int(best.argmax())
        changed = best[other] - change_cost
        stays = best >= changed
        came[i] = np.where(stays, np.arange(len(KEYS)), other)
        best = np.where(stays, best, changed) + likely[i]
    at = int(best.argmax())
    keys = np.zeros(n, dtype=np.int64)
    for i in range(n - 1, -1, -1):
        keys[i] = KEYS[at]
        at = int(came[i][at])
    return keys


def key_of(pitches: Sequence[int]) -> int:
    """Return one key signature for all notes, as a number of fifths; 0 without notes."""
    return int(keys_of(np.array(pitches, dtype=np.int64), change_cost=np.inf)[0]) if len(pitches) else 0
