"""Instruments: what can be asked of their notes. Nothing else asks which instrument a part is for."""

from dataclasses import dataclass
from enum import StrEnum

STROKE_TICKS = 60
"""How long a stroke is written: a stroke ends by itself, so this says nothing to anybody."""
DRUM_CHANNEL = 9
"""Of percussion, counted from 0 (General MIDI)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Instrument:
    """What the notes of an instrument have. Each property is a question of its own."""

    has_lanes: bool
    """Notes are strokes in the named lanes of a kit; pitches are percussion numbers."""
    has_key: bool
    """Pitches are high and low and make keys: a part can be moved, a take be an octave off, chords have names."""
    has_hands: bool
    """A note belongs to a hand, and a finger plays it."""
    has_length: bool
    """A note sounds until it is let go."""
    has_pedal: bool
    """Notes can be held by the foot."""
    channel: int
    """MIDI channel, counted from 0."""
    grid_ticks: int
    """The step of an empty part."""
    bpm: float
    """The tempo of an empty part, in quarters a minute."""

    def written_ticks(self, length_ticks: int) -> int:
        """Return the written length of a new note if `length_ticks` was asked for, in ticks."""
        return length_ticks if self.has_length else STROKE_TICKS


class Kind(StrEnum):
    """Instruments by name, as they are stored."""

    KEYBOARD = "keyboard"
    DRUMS = "drums"

    @property
    def instrument(self) -> Instrument:
        """The profile of the kind."""
        return INSTRUMENTS[self]


INSTRUMENTS = {
    Kind.KEYBOARD: Instrument(
        has_lanes=False, has_key=True, has_hands=True, has_length=True, has_pedal=True, channel=0,
        grid_ticks=480, bpm=90.0,
    ),
    Kind.DRUMS: Instrument(
        has_lanes=True, has_key=False, has_hands=False, has_length=False, has_pedal=False, channel=DRUM_CHANNEL,
        grid_ticks=240, bpm=100.0,
    ),
}  # fmt: skip


def kind_on_channel(channel: int) -> Kind:
    """Return the kind of instrument for a MIDI channel, counted from 0; keyboards take every channel that
    others leave.
    """
    own = {kind.instrument.channel: kind for kind in Kind}
    return own.get(channel, Kind.KEYBOARD)
