"""What notes of parts and of takes share: their range, and rows of figures that nobody changes."""

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from ear.errors import ValueOutOfRange
from ear.units import PITCH_MAX, PITCH_MIN, VELOCITY_MAX, VELOCITY_MIN

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


def ints(values: Iterable[int]) -> Ints:
    """(n,) whole numbers, read only."""
    array = np.array(list(values), dtype=np.int64)
    array.flags.writeable = False
    return array


def floats(values: Iterable[float]) -> Floats:
    """(n,) numbers, read only."""
    array = np.array(list(values), dtype=np.float64)
    array.flags.writeable = False
    return array


def check_pitch_and_velocity(pitch: int, velocity: int) -> None:
    """Raises ValueOutOfRange for what no MIDI message says."""
    if not PITCH_MIN <= pitch <= PITCH_MAX:
        raise ValueOutOfRange("pitch_out_of_range", pitch_min=PITCH_MIN, pitch_max=PITCH_MAX, pitch=pitch)
    if not VELOCITY_MIN <= velocity <= VELOCITY_MAX:
        raise ValueOutOfRange(
            "velocity_out_of_range", velocity_min=VELOCITY_MIN, velocity_max=VELOCITY_MAX, velocity=velocity
        )
