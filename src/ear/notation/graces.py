"""The small note before a note, spelled."""

from dataclasses import dataclass

from ear.notes import Ornament, Part, spell
from ear.notes.pitch import key_alteration


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenGrace:
    """A small note before another one, as it is spelled."""

    step: int
    alteration: int
    shows_accidental: bool = False


def grace_before(part: Part, note: int, *, step: int) -> WrittenGrace | None:
    """Return the grace note of a note, by its number, that is written on this diatonic step; None where it has none."""
    main = part.notes[note]
    if main.ornament is not Ornament.GRACE:
        return None
    fifths = part.fifths_at(main.onset_tick)
    if main.grace_semitones is None:
        return WrittenGrace(step=step + 1, alteration=key_alteration(step + 1, fifths=fifths))
    spelling = spell(main.pitch + main.grace_semitones, fifths=fifths)
    return WrittenGrace(step=spelling.step, alteration=spelling.alteration)
