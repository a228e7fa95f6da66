"""What notes of parts and of takes share: their range, and rows of figures that nobody changes."""

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from ear.errors import ValueOutOfRange
from ear.units import MAX_PITCH, MAX_VELOCITY, MIN_PITCH, MIN_VELOCITY

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


def ints(values: Iterable[int]) -> Ints:
    """Return whole numbers as a read-only array of shape (n,)."""
    array = np.array(list(values), dtype=np.int64)
    array.flags.writeable = False
    return array


def floats(values: Iterable[float]) -> Floats:
    """Return numbers as a read-only array of shape (n,)."""
    array = np.array(list(values), dtype=np.float64)
    array.flags.writeable = False
    return array


def check_pitch_and_velocity(pitch: int, velocity: int) -> None:
    """Check a pitch and a velocity. Raises ValueOutOfRange for values that no MIDI message has."""
    if not MIN_PITCH <= pitch <= MAX_PITCH:
        raise ValueOutOfRange("pitch_out_of_range", pitch_min=MIN_PITCH, pitch_max=MAX_PITCH, pitch=pitch)
    if not MIN_VELOCITY <= velocity <= MAX_VELOCITY:
        raise ValueOutOfRange(
            "velocity_out_of_range", velocity_min=MIN_VELOCITY, velocity_max=MAX_VELOCITY, velocity=velocity
        )
