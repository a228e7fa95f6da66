"""What a note of a part is called."""

from ear.notes.kit import STANDARD_KIT, KitMap
from ear.notes.note import Kind, Part
from ear.notes.pitch import pitch_name


def sound_name(part: Part, pitch: int, *, kit: KitMap = STANDARD_KIT) -> str:
    """A pitch by name and octave, spelled in the part's key; of a drum part its lane."""
    return kit.lane(pitch).name if part.kind is Kind.DRUMS else pitch_name(pitch, fifths=part.fifths)
