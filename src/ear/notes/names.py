"""What a note of a part is called."""

from ear.notes.kit import STANDARD_KIT, KitMap
from ear.notes.part import Part
from ear.notes.pitch import pitch_name


def sound_name(part: Part, pitch: int, *, tick: int = 0, kit: KitMap = STANDARD_KIT) -> str:
    """Return a pitch by name and octave, as the part writes it at a tick, or by itself in the key there; in a
    drum part, its lane.
    """
    if part.instrument.has_lanes:
        return part.lane_name(pitch, kit)
    return pitch_name(pitch, name_fifth=part.name_of(pitch, tick))
