"""How a school names things: note values, octaves, note names, which hand leads on the drums."""

from dataclasses import dataclass
from enum import StrEnum

from ear.notes import Part, sound_name
from ear.notes.pitch import ALTERATION_SIGNS, LETTERS, spell

SOLFEGE = ("do", "re", "mi", "fa", "sol", "la", "si")
"""Fixed do: a name for each letter from C, whatever the key."""
AMERICAN = {
    "semibreve": "whole note",
    "minim": "half note",
    "crotchet": "quarter note",
    "quaver": "eighth note",
    "semiquaver": "sixteenth note",
    "demisemiquaver": "thirty-second note",
}


class Values(StrEnum):
    """Names of note values."""

    BRITISH = "british"
    AMERICAN = "american"


@dataclass(frozen=True, slots=True, kw_only=True)
class Conventions:
    """A school's settings, which a person can override."""

    values: Values = Values.BRITISH
    middle_c_octave: int = 4
    """4 where middle C is C4, 3 where it is C3."""
    solfege: bool = False
    left_handed: bool = False
    """The kit set up for a left-handed drummer."""

    def value_name(self, british: str) -> str:
        """A note value, given by its British name (“dotted crotchet”, “quaver triplet”)."""
        if self.values is Values.BRITISH:
            return british
        # The longest name first: “semiquaver” holds “quaver”.
        for name in sorted(AMERICAN, key=len, reverse=True):
            if name in british:
                return british.replace(name, AMERICAN[name])
        return british

    def letter(self, pitch: int, *, fifths: int = 0, name_fifth: int | None = None) -> str:
        """A pitch's name without its octave: F♯, or fa♯. `fifth` is its name on the line of fifths, if that is known."""
        spelling = spell(pitch, fifths=fifths, name_fifth=name_fifth)
        name = SOLFEGE[spelling.step % 7] if self.solfege else spelling.letter
        return name + ALTERATION_SIGNS[spelling.alteration]

    def as_letter(self, name: str) -> str:
        """A note name as a letter with its sign: fa♯ as F♯; what is no solfège name stays."""
        if self.solfege:
            for step, syllable in sorted(enumerate(SOLFEGE), key=lambda s: -len(s[1])):
                if name.lower().startswith(syllable):
                    return LETTERS[step] + name[len(syllable) :]
        return name

    def pitch(self, pitch: int, *, fifths: int = 0, name_fifth: int | None = None) -> str:
        """A pitch's name with its octave: F♯4, fa♯4 or F♯3."""
        octave = spell(pitch, fifths=fifths, name_fifth=name_fifth).step // 7 - 1 + self.middle_c_octave - 4
        return f"{self.letter(pitch, fifths=fifths, name_fifth=name_fifth)}{octave}"

    def sound(self, part: Part, pitch: int, *, tick: int = 0) -> str:
        """A pitch of a part by name; of a drum part its lane."""
        if part.instrument.has_lanes:
            return sound_name(part, pitch)
        return self.pitch(pitch, name_fifth=part.name_of(pitch, tick))


PLAIN = Conventions()
