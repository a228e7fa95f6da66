"""Move pitches: by semitones, by octaves, to another key."""

from collections.abc import Iterable, Sequence
from dataclasses import replace

from ear.editing.drawing import move
from ear.editing.edited import Edited, Selection
from ear.errors import UnknownName, ValueOutOfRange
from ear.notes import ChordMark, Note, Part, Section, names_of
from ear.notes.part import MAX_FIFTHS
from ear.patterns.chords import Chord
from ear.patterns.modes import key_name
from ear.units import MAX_PITCH, MIN_PITCH

SEMITONES_OF_FIFTH = 7


def transpose(part: Part, selection: Selection, *, semitones: int) -> Edited:
    """Move notes; the whole part takes its key signature along.

    Raises ValueOutOfRange where a note would leave the keys, and for drums.
    """
    if not part.instrument.has_key:
        raise ValueOutOfRange("drums_without_key")
    picked = [n for i, n in enumerate(part.notes) if not selection or i in selection]
    if any(not MIN_PITCH <= n.pitch + semitones <= MAX_PITCH for n in picked):
        raise ValueOutOfRange("transposed_off_keyboard", semitones=semitones)
    moved = move(part, selection, semitones=semitones)
    if selection and len(selection) < len(part.notes):
        return moved
    fifths = moved_fifths(part.fifths, semitones)
    return replace(
        moved,
        part=replace(
            moved.part,
            fifths=fifths,
            notes=_renamed(part, moved.part.notes, by=fifths - part.fifths),
            sections=_moved_sections(part.sections, by=fifths - part.fifths),
            cues=tuple(n.at_pitch(_on_keys(n.pitch + semitones)) for n in part.cues),
            chords=_moved_chords(part.chords, semitones, fifths=fifths),
        ),
    )


def _renamed(part: Part, notes: Sequence[Note], *, by: int) -> tuple[Note, ...]:
    """Notes of a part that stand in another key, so many fifths on: what had a name of its own has the name there."""
    return tuple(
        replace(new, name_fifth=old.name_fifth + by)
        if old.name_fifth is not None and old.name_fifth + by in names_of(new.pitch)
        else new
        for old, new in zip(part.notes, notes, strict=True)
    )


def _moved_sections(sections: Sequence[Section], *, by: int) -> tuple[Section, ...]:
    """Keys inside a part go along; what was called by its key is called by the new one."""
    moved_sections = []
    for section in sections:
        if section.fifths is None:
            moved_sections.append(section)
            continue
        fifths = section.fifths + by
        if abs(fifths) > MAX_FIFTHS:
            fifths -= 12 if fifths > 0 else -12
        name = section.name
        for is_minor in (False, True):
            if name == key_name(section.fifths, is_minor=is_minor):
                name = key_name(fifths, is_minor=is_minor)
        moved_sections.append(replace(section, fifths=fifths, name=name))
    return tuple(moved_sections)


def _on_keys(pitch: int) -> int:
    return max(MIN_PITCH, min(MAX_PITCH, pitch))


def _moved_chords(chords: Iterable[ChordMark], semitones: int, *, fifths: int) -> tuple[ChordMark, ...]:
    """Chord names in another key; a name that nobody can read stays."""
    moved_chords = []
    for mark in chords:
        try:
            name = Chord.named(mark.name).moved(semitones, fifths=fifths).name
        except UnknownName:
            name = mark.name
        moved_chords.append(replace(mark, name=name))
    return tuple(moved_chords)


def to_key(part: Part, *, fifths: int) -> Edited:
    """Return the whole part in another key, moved the shorter way, with the key signature asked for.

    Raises ValueOutOfRange for a key that there is not, and for drums.
    """
    if abs(fifths) > MAX_FIFTHS:
        raise ValueOutOfRange("key_signature_out_of_range", fifths_max=MAX_FIFTHS, fifths=fifths)
    semitones = (SEMITONES_OF_FIFTH * (fifths - part.fifths) + 6) % 12 - 6
    moved = transpose(part, frozenset(), semitones=semitones)
    chords = _moved_chords(part.chords, semitones, fifths=fifths)
    notes = _renamed(part, moved.part.notes, by=fifths - part.fifths)
    sections = _moved_sections(part.sections, by=fifths - part.fifths)
    return replace(
        moved, part=replace(moved.part, notes=notes, fifths=fifths, chords=chords, sections=sections)
    )


def moved_fifths(fifths: int, semitones: int) -> int:
    """Return the key signature so many semitones away; five flats are preferred to seven sharps.

    Six sharps and six flats are one; the side that the key comes from stays.
    """
    moved = (fifths + SEMITONES_OF_FIFTH * semitones + 5) % 12 - 5
    return -6 if moved == 6 and fifths < 0 else moved
