"""Tell an offset that a computer makes from one that a player makes.

Where the sound of a computer has not settled, every note of a recording is late or early by one and the
same amount. A player who is far from the click is never as even about it: even trained musicians vary by
about 2% of the time between taps (B. H. Repp, “Sensorimotor synchronization: a review of the tapping
literature”, Psychonomic Bulletin & Review 12, 2005), which is 10 ms at 120 beats a minute.
"""

OFFSET_FROM_MS = 100.0
EVEN_WITHIN_MS = 5.0
MIN_NOTES = 6


def is_computer_offset(bias_ms: float | None, spread_ms: float | None, *, notes: int) -> bool:
    """Return whether so many notes are so far from the click, and so evenly, that only a computer can have moved them."""
    if bias_ms is None or spread_ms is None or notes < MIN_NOTES:
        return False
    return abs(bias_ms) >= OFFSET_FROM_MS and spread_ms <= EVEN_WITHIN_MS
