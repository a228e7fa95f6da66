"""What an edit gives back: the part as it is then, and the notes that the edit was about."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from ear.notes import Note, Part, place_of

Selection = frozenset[int]
"""Notes by index. Every tool takes one; where it says so, an empty one means all notes."""

ALL: Selection = frozenset()


@dataclass(frozen=True, slots=True, kw_only=True)
class Edited:
    """A part after an edit, with the indices, in it, of the notes that were edited."""

    part: Part
    selected: Selection


def chosen(part: Part, selection: Selection) -> Selection:
    """Return the selected indices, or all notes if none is selected. Indices beyond the part are left out."""
    everything = range(len(part.notes))
    return frozenset(selection & set(everything)) or frozenset(everything)


def rebuilt(part: Part, notes: Iterable[tuple[Note, bool]]) -> Edited:
    """Return a part of these notes, each given with whether it was edited.

    A key can sound once at a time: of two notes of one pitch at one place the edited one stays, and
    a note ends where the next of its pitch begins.
    """
    by_place: dict[tuple[int, int], tuple[Note, bool]] = {}
    for note, is_edited in notes:
        place = place_of(note)
        if is_edited or place not in by_place:
            by_place[place] = (note, is_edited)
    kept: list[tuple[Note, bool]] = []
    next_onset: dict[int, int] = {}
    for place in sorted(by_place, reverse=True):
        note, is_edited = by_place[place]
        onset, pitch = place
        following = next_onset.get(pitch)
        if following is not None and onset + note.length_tick > following:
            note = replace(note, length_tick=following - onset)
        kept.append((note, is_edited))
        next_onset[pitch] = onset
    kept.reverse()
    selected = frozenset(i for i, (_, is_edited) in enumerate(kept) if is_edited)
    return Edited(part=part.with_notes(note for note, _ in kept), selected=selected)


def changed(part: Part, selection: Selection, change: Callable[[Note], Note | None]) -> Edited:
    """Return the part with `change` applied to the selected notes, or to all if none is selected.

    A change to None deletes the note.
    """
    picked = chosen(part, selection)
    notes: list[tuple[Note, bool]] = []
    for i, note in enumerate(part.notes):
        made = change(note) if i in picked else note
        if made is not None:
            notes.append((made, i in picked))
    return rebuilt(part, notes)
