"""Which notes a tool is for: by bars, hand, lane, height, length, strength, distance from the grid."""

from ear.editing.cleaning import NoteTrouble, off_grid, troubles
from ear.editing.edited import Selection
from ear.notes import STANDARD_KIT, Hand, KitMap, Note, Part
from ear.units import MAX_PITCH, MIN_PITCH


def pick(
    part: Part,
    *,
    first_bar: int | None = None,
    last_bar: int | None = None,
    hand: Hand | None = None,
    lane: str | None = None,
    from_pitch: int = MIN_PITCH,
    to_pitch: int = MAX_PITCH,
    shorter_than: int | None = None,
    softer_than: int | None = None,
    off_by_more_than: int | None = None,
    trouble: NoteTrouble | None = None,
    kit: KitMap = STANDARD_KIT,
) -> Selection:
    """Return the notes that meet every condition given: begin in these bars, belong to a hand or a lane, lie in
    a range of pitches, are shorter than so many ticks, softer than a velocity, further than so many ticks
    from the lines of semiquavers and triplets, or look wrong in some way.
    """
    first = first_bar if first_bar is not None else part.first_bar
    last = last_bar if last_bar is not None else part.last_bar
    off = None if off_by_more_than is None else off_grid(part, ticks=off_by_more_than)
    wrong = None if trouble is None else troubles(part)[trouble]
    return frozenset(
        i
        for i, note in enumerate(part.notes)
        if first <= part.bar_of_note[i] <= last
        and (hand is None or note.hand is hand)
        and (lane is None or kit.lane(note.pitch).name == lane)
        and from_pitch <= note.pitch <= to_pitch
        and (shorter_than is None or note.length_tick < shorter_than)
        and (softer_than is None or note.velocity < softer_than)
        and (off is None or i in off)
        and (wrong is None or i in wrong)
    )


def whole_bars(part: Part, selection: Selection) -> Selection:
    """Return all notes of the bars in which the picked ones begin."""
    bars = {int(part.bar_of_note[i]) for i in selection if i < len(part.notes)}
    return frozenset(i for i in range(len(part.notes)) if int(part.bar_of_note[i]) in bars)


def alike(part: Part, selection: Selection, *, kit: KitMap = STANDARD_KIT) -> Selection:
    """Return all notes of the hands (for a kit, the lanes) that the picked notes belong to."""

    def own(note: Note) -> object:
        return kit.lane(note.pitch).name if part.instrument.has_lanes else note.hand

    wanted = {own(part.notes[i]) for i in selection if i < len(part.notes)}
    return frozenset(i for i, note in enumerate(part.notes) if own(note) in wanted)


def next_note(part: Part, selection: Selection, *, forward: bool = True) -> Selection:
    """Return the note after (or before) the selected ones; the first (or last) if none is selected."""
    count = len(part.notes)
    if not count:
        return frozenset()
    if not selection:
        return frozenset({0 if forward else count - 1})
    at = max(selection) + 1 if forward else min(selection) - 1
    return frozenset({max(0, min(count - 1, at))})
