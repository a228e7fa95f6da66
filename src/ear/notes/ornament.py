"""Ornaments that a note may carry: small notes about it that are not written out."""

from enum import StrEnum

from ear.notes.instrument import Instrument


class Ornament(StrEnum):
    """Strokes that drummers add to a stroke, and signs that stand over a keyboard's note."""

    FLAM = "flam"
    """One soft stroke of the other hand just before."""
    DRAG = "drag"
    """Two of them."""
    ROLL = "roll"
    """Strokes as dense as can be for as long as the note lasts; of a keyboard's note a tremolo."""
    TRILL = "trill"
    MORDENT = "mordent"
    """Main note, the one below, main note."""
    UPPER_MORDENT = "upper_mordent"
    TURN = "turn"
    GRACE = "grace"
    """One short note, or a few, just before; of a mark the one above."""


STROKES = (Ornament.FLAM, Ornament.DRAG, Ornament.ROLL)
SIGNS = (
    Ornament.TRILL,
    Ornament.MORDENT,
    Ornament.UPPER_MORDENT,
    Ornament.TURN,
    Ornament.GRACE,
    Ornament.ROLL,
)
GRACES = {Ornament.FLAM: 1, Ornament.DRAG: 2, Ornament.GRACE: 1}
"""Small notes before the note."""


BEFORE = frozenset({Ornament.FLAM, Ornament.DRAG, Ornament.GRACE})
ABOUT = frozenset({Ornament.TRILL, Ornament.MORDENT, Ornament.UPPER_MORDENT, Ornament.TURN, Ornament.GRACE})


def allows(mark: Ornament | None, played: Ornament) -> bool:
    """Return whether an ornament may be played where a mark is written.

    Players choose among ornaments of a sort: a trill for a mordent, two grace notes for one.
    """
    if mark is None:
        return False
    return mark is played or any(mark in sort and played in sort for sort in (BEFORE, ABOUT))


def ornaments_of(instrument: Instrument) -> tuple[Ornament, ...]:
    """Return the ornaments that are written for an instrument."""
    return STROKES if instrument.has_lanes else SIGNS
