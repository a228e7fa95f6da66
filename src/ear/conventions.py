"""How a school names things: note values, octaves, note names, which hand leads on the drums."""

from dataclasses import dataclass
from enum import StrEnum

from ear.notes import Part, sound_name
from ear.notes.pitch import ALTERATION_SIGNS, LETTERS, spell
from ear.text import gettext_noop, term

SOLFEGE = ("do", "re", "mi", "fa", "sol", "la", "si")
"""Fixed do: a name for each letter from C, whatever the key."""
AMERICAN = {
    term("semibreve"): gettext_noop("whole note"),
    term("dotted minim"): gettext_noop("dotted half note"),
    term("minim"): gettext_noop("half note"),
    term("dotted crotchet"): gettext_noop("dotted quarter note"),
    term("crotchet"): gettext_noop("quarter note"),
    term("dotted quaver"): gettext_noop("dotted eighth note"),
    term("quaver"): gettext_noop("eighth note"),
    term("quaver triplet"): gettext_noop("eighth-note triplet"),
    term("semiquaver"): gettext_noop("sixteenth note"),
    term("semiquaver triplet"): gettext_noop("sixteenth-note triplet"),
    term("demisemiquaver"): gettext_noop("thirty-second note"),
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

    @property
    def is_american(self) -> bool:
        """Whether note values have their American names."""
        return self.values is Values.AMERICAN

    def value_name(self, british: str) -> str:
        """Return a note value’s name, to be translated, by its British one: “dotted crotchet”, “quaver triplet”.

        Raises KeyError for a value that is not in `AMERICAN`.
        """
        return AMERICAN[british].singular if self.is_american else british

    def letter(self, pitch: int, *, fifths: int = 0, name_fifth: int | None = None) -> str:
        """Return a pitch's name without its octave: F♯, or fa♯.

        `name_fifth` is its name on the line of fifths, if that is known.
        """
        spelling = spell(pitch, fifths=fifths, name_fifth=name_fifth)
        name = SOLFEGE[spelling.step % 7] if self.solfege else spelling.letter
        return name + ALTERATION_SIGNS[spelling.alteration]

    def as_letter(self, name: str) -> str:
        """Return a note name as a letter with its sign, such as F♯ for fa♯.

        A name that is not solfège stays.
        """
        if self.solfege:
            for step, syllable in sorted(enumerate(SOLFEGE), key=lambda s: -len(s[1])):
                if name.lower().startswith(syllable):
                    return LETTERS[step] + name[len(syllable) :]
        return name

    def pitch(self, pitch: int, *, fifths: int = 0, name_fifth: int | None = None) -> str:
        """Return a pitch's name with its octave: F♯4, fa♯4 or F♯3."""
        octave = spell(pitch, fifths=fifths, name_fifth=name_fifth).step // 7 - 1 + self.middle_c_octave - 4
        return f"{self.letter(pitch, fifths=fifths, name_fifth=name_fifth)}{octave}"

    def sound(self, part: Part, pitch: int, *, tick: int = 0) -> str:
        """Return the name of a pitch of a part; in a drum part, of its lane."""
        if part.instrument.has_lanes:
            return sound_name(part, pitch)
        return self.pitch(pitch, name_fifth=part.name_of(pitch, tick))


PLAIN = Conventions()
