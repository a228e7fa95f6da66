"""How a bar is counted aloud, and which move of the bar a moment is."""

from ear.notes import Meter, Part

SYLLABLES = {(0, 1): "", (1, 2): "&", (1, 4): "e", (3, 4): "a", (1, 3): "trip", (2, 3): "let"}
"""What is said at a share of a beat, after the beat's number: “1 e & a”, “1 trip let”."""
TOLERANCE_SHARE = 1 / 24
"""A recorded note this near to a share of the beat is counted with it."""


def syllable(meter: Meter, into_bar: int) -> str:
    """Return the syllable counted at a place in a bar, given in ticks; empty if nothing is counted there.

    Beats are counted by their number. In compound meters the pulses are counted, as learners do:
    six-eight is “1 2 3 4 5 6”, with “&” between them.
    """
    pulse = meter.bar_ticks // meter.numerator if meter.is_compound else meter.beat_ticks
    beat, rest = divmod(into_bar, pulse)
    if rest / pulse > 1 - TOLERANCE_SHARE:
        beat, rest = beat + 1, 0
    for (over, under), word in SYLLABLES.items():
        if abs(rest / pulse - over / under) <= TOLERANCE_SHARE:
            # A hair before the bar line is the next bar's first beat.
            return word or str(beat % (meter.bar_ticks // pulse) + 1)
    return ""


def counts(part: Part) -> dict[int, str]:
    """Return what is counted aloud at each moment where a note begins, by tick.

    In a drum part every beat is counted, struck or not, whichever voice has it.
    """
    beats: dict[int, str] = {}
    if part.instrument.has_lanes and part.notes:
        for bar in part.bars:
            count = bar.meter.numerator if bar.meter.is_compound else bar.meter.beats
            width = bar.meter.bar_ticks // count
            beats |= {bar.start_tick + k * width: str(k + 1) for k in range(count)}
    counts = {
        onset: syllable(part.bars[bar].meter, into)
        for onset, bar, into in zip(
            part.onset_ticks.tolist(),
            part.bar_index_of_note.tolist(),
            part.ticks_into_bar.tolist(),
            strict=True,
        )
    }
    return dict(sorted((beats | counts).items()))


def move_numbers(part: Part) -> dict[int, int]:
    """Return the number of the move at each onset tick, counted from 1 in each bar.

    Notes struck together are one move.
    """
    move_numbers: dict[int, int] = {}
    number, bar_before = 0, -1
    for onset, bar in zip(part.onset_ticks.tolist(), part.bar_index_of_note.tolist(), strict=True):
        if onset in move_numbers:
            continue
        number = number + 1 if bar == bar_before else 1
        move_numbers[onset], bar_before = number, bar
    return move_numbers
