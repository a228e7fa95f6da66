"""Notes dragged over the page: in time by ticks, up and down by staff steps; strengths drawn by hand."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

from ear.editing.drawing import within_velocity
from ear.editing.edited import Edited, Selection, changed, chosen, rebuilt
from ear.notes import STANDARD_KIT, KitMap, Note, Part, key_alteration, names_of, spell
from ear.staves import STEP_PITCHES
from ear.units import MAX_PITCH, MIN_PITCH


def drag(
    part: Part, selection: Selection, *, ticks: int = 0, steps: int = 0, kit: KitMap = STANDARD_KIT
) -> Edited:
    """Move notes in time, and by staff steps as the key writes them; of a kit to the lane that stands
    there. As far as all of them can go."""
    if not selection:
        return Edited(part=part, selected=selection)
    picked = [part.notes[i] for i in chosen(part, selection)]
    if not picked:
        return Edited(part=part, selected=frozenset())
    ticks = max(ticks, -min(n.onset_tick for n in picked))
    steps = _steps_possible(part, picked, steps)

    def dragged(note: Note) -> Note:
        """Written by its name at the time that it comes from, which is known already."""
        if steps and part.instrument.has_lanes:
            note = note.at_pitch(_lane(note.pitch, steps, kit))
        elif steps:
            note = _stepped(part, note, steps)
        return replace(note, onset_tick=note.onset_tick + ticks) if ticks else note

    return changed(part, selection, dragged)


def _steps_possible(part: Part, picked: Sequence[Note], steps: int) -> int:
    """So many of the steps as all notes can go; of a kit all, for the last lane ends them."""
    if part.instrument.has_lanes:
        return steps
    while steps and any(not MIN_PITCH <= _stepped_pitch(part, n, steps) <= MAX_PITCH for n in picked):
        steps -= 1 if steps > 0 else -1
    return steps


def _stepped(part: Part, note: Note, steps: int) -> Note:
    """The note so many staff steps away, written there."""
    pitch = _stepped_pitch(part, note, steps)
    was = spell(note.pitch, name_fifth=part.name_of(note.pitch, note.onset_tick))
    name_fifth = next(
        (f for f in names_of(pitch) if spell(pitch, name_fifth=f).step == was.step + steps), None
    )
    return note.at_pitch(pitch, name_fifth)


def _stepped_pitch(part: Part, note: Note, steps: int) -> int:
    """A pitch so many staff steps away; what it was altered against the key, it stays."""
    fifths = part.fifths_at(note.onset_tick)
    spelling = spell(note.pitch, name_fifth=part.name_of(note.pitch, note.onset_tick))
    by_key = spelling.alteration - key_alteration(spelling.step, fifths=fifths)
    octave, letter = divmod(spelling.step + steps, len(STEP_PITCHES))
    return 12 * octave + STEP_PITCHES[letter] + key_alteration(spelling.step + steps, fifths=fifths) + by_key


def _lane(pitch: int, steps: int, kit: KitMap) -> int:
    """The lane so many places of the kit's staff away; of two at one place the first. Beyond, the last."""
    lane = kit.lane(pitch)
    places = sorted({other.staff_step for other in kit.lanes})
    wanted = lane.staff_step + steps
    place = min(places, key=lambda p: (abs(p - wanted), p))
    if place == lane.staff_step:
        return pitch
    return next(other.pitches[0] for other in kit.lanes if other.staff_step == place)


def weigh(part: Part, velocities: Mapping[int, int]) -> Edited:
    """Set the velocities of notes, by index, each limited to 1 to 127."""
    return rebuilt(
        part,
        [
            (replace(n, velocity=within_velocity(velocities[i])), True) if i in velocities else (n, False)
            for i, n in enumerate(part.notes)
        ],
    )
