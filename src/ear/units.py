"""Units that the whole core shares.

Target time is whole ticks, 480 to a quarter note; take time is seconds from bar 1.
"""

TICKS_PER_QUARTER = 480
TICKS_PER_DIVISION = TICKS_PER_QUARTER // 4
"""A division is a sixteenth."""

OCTAVE = 12
"""Semitones."""
MIN_VELOCITY, MAX_VELOCITY = 1, 127
MIN_PITCH, MAX_PITCH = 0, 127
MIN_BPM, MAX_BPM = 10.0, 400.0
"""Quarter notes a minute; what a person could call a tempo, with room to spare."""


def ms(seconds: float) -> float:
    """Return seconds as milliseconds."""
    return seconds * 1000.0
