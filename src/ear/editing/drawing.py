"""Single strokes of the pencil: add, move, lengthen, delete, set strength, hand and finger."""

from dataclasses import replace

from ear.editing.edited import Edited, Selection, changed, chosen, rebuilt
from ear.errors import ValueOutOfRange
from ear.notes import Hand, Note, Ornament, Part, ornaments_of
from ear.patterns.lines import VELOCITY
from ear.units import MAX_PITCH, MAX_VELOCITY, MIN_PITCH, MIN_VELOCITY


def add(part: Part, note: Note) -> Edited:
    """Add a note in; it is the one selected."""
    return rebuilt(part, [*((n, False) for n in part.notes), (note, True)])


def strength_near(part: Part, tick: int, hand: Hand | None) -> int:
    """Return the velocity for a new note: that of the note before it in its hand, else of the next one, else
    the one that patterns have.
    """
    own = [n for n in part.notes if n.hand is hand]
    before = [n for n in own if n.onset_tick <= tick]
    near = before[-1] if before else own[0] if own else None
    return near.velocity if near is not None else VELOCITY


def delete(part: Part, selection: Selection) -> Edited:
    """Delete the selected notes. Nothing is selected afterwards; an empty selection deletes nothing."""
    kept = [(n, False) for i, n in enumerate(part.notes) if i not in selection]
    return rebuilt(part, kept)


def move(part: Part, selection: Selection, *, ticks: int = 0, semitones: int = 0) -> Edited:
    """Move notes in time and pitch, as far as all of them can go: none leaves the part or the keys."""
    picked = [part.notes[i] for i in chosen(part, selection)]
    if not picked:
        return Edited(part=part, selected=frozenset())
    ticks = max(ticks, -min(n.onset_tick for n in picked))
    semitones = max(semitones, MIN_PITCH - min(n.pitch for n in picked))
    semitones = min(semitones, MAX_PITCH - max(n.pitch for n in picked))
    return changed(part, selection, lambda n: n.moved(ticks=ticks, semitones=semitones))


def lengthen(part: Part, selection: Selection, *, ticks: int) -> Edited:
    """Lengthen the selected notes by so many ticks, or shorten them if negative, to no less than one tick."""
    return changed(part, selection, lambda n: replace(n, length_tick=max(1, n.length_tick + ticks)))


def set_length(part: Part, selection: Selection, *, ticks: int) -> Edited:
    """Set the length of the selected notes, in ticks, at least one."""
    return changed(part, selection, lambda n: replace(n, length_tick=max(1, ticks)))


def set_note(
    part: Part, selection: Selection, *, onset_tick: int, length_tick: int, pitch: int, velocity: int
) -> Edited:
    """Set the exact figures of the selected notes. Raises ValueOutOfRange for figures that no note can have."""
    return changed(
        part,
        selection,
        lambda n: replace(
            n.at_pitch(pitch), onset_tick=onset_tick, length_tick=length_tick, velocity=velocity
        ),
    )


def set_name(part: Part, selection: Selection, *, name_fifth: int | None) -> Edited:
    """Write notes by a name on the line of fifths, or, with None, as the part spells them. Raises ValueOutOfRange where it is
    no name of a note's pitch."""
    return changed(part, selection, lambda n: replace(n, name_fifth=name_fifth))


def set_velocity(part: Part, selection: Selection, *, velocity: int) -> Edited:
    """Set the velocity of the selected notes, limited to 1 to 127."""
    return changed(part, selection, lambda n: replace(n, velocity=within_velocity(velocity)))


def change_velocity(part: Part, selection: Selection, *, steps: int) -> Edited:
    """Change the velocity of the selected notes by so many steps, limited to 1 to 127."""
    return changed(part, selection, lambda n: replace(n, velocity=within_velocity(n.velocity + steps)))


def set_ornament(
    part: Part, selection: Selection, *, ornament: Ornament | None, grace_semitones: int | None = None
) -> Edited:
    """Set or remove the ornament of the selected notes; a grace note is so far above them, or on the next step of the key.

    Raises ValueOutOfRange for one that the instrument does not have, or a grace note too far away.
    """
    if ornament is not None and ornament not in ornaments_of(part.instrument):
        raise ValueOutOfRange("ornament_not_for_instrument", field="ornament")
    return changed(
        part,
        selection,
        lambda n: replace(n, ornament=ornament, grace_semitones=grace_semitones),
    )


def set_word(part: Part, selection: Selection, *, word: str) -> Edited:
    """Write a word under the selected notes, a syllable or a sticking, or remove it. Raises ValueOutOfRange if it is too long."""
    return changed(part, selection, lambda n: replace(n, label=word or None))


def set_hand(part: Part, selection: Selection, *, hand: Hand | None) -> Edited:
    """Assign the selected notes to a hand, or to none."""
    return changed(part, selection, lambda n: replace(n, hand=hand, voice=None))


def set_finger(part: Part, selection: Selection, *, finger: int | None) -> Edited:
    """Set or remove the finger of the selected notes."""
    return changed(part, selection, lambda n: replace(n, finger=finger, is_proposed=False))


def within_velocity(velocity: float) -> int:
    """Return the nearest valid velocity, 1 to 127."""
    return max(MIN_VELOCITY, min(MAX_VELOCITY, round(velocity)))
