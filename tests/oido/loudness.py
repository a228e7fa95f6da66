"""How loud velocities 1 to 127 sound, and what may be wrong with it: for both synthesisers."""

import numpy as np

SOFTER_MOST_DB = 1.0
CURVE_DB = 40.0
"""Decibels a decade of velocity: how much softer a soft note is by SoundFont 2.04, section 8.4.1."""
MISSING_DB = 6.0
"""So far below that curve nothing sounds but what is left of the note before."""
KEYS = (40, 60, 84)


def troubles(name: str, loudness: np.ndarray) -> list[str]:
    """What is wrong with the loudness of velocities 1 to 127, in dB of full scale."""
    velocities = np.arange(1, 128)
    loudest = int(np.argmax(loudness))
    expected = loudness[loudest] + CURVE_DB * np.log10(velocities / velocities[loudest])
    silent = velocities[loudness < expected - MISSING_DB]
    softer = velocities[1:][np.diff(loudness) < -SOFTER_MOST_DB]
    actual = []
    if silent.size:
        actual.append(f"{name} is missing at velocities {silent.tolist()}")
    if softer.size:
        actual.append(f"{name} becomes softer at velocities {softer.tolist()}")
    return actual
