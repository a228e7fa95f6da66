"""A take in open formats."""

from ear.formats.smf_writing import write_recording
from oido.takes.models import Take


def recorded_midi(take: Take, *, with_count_in: bool = False) -> bytes:
    """A Standard MIDI File, a track for each pass; with the exercise's count-in before it, if it had a click."""
    count_in = take.exercise.count_in_bars if with_count_in and take.asks_click else 0
    return write_recording(take.standing_events(), part=take.target(), count_in_bars=count_in)
