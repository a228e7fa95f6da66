"""What a recorded part holds by accident: second triggers and grazes."""

from ear.editing.drawing import delete
from ear.editing.edited import Edited, Selection, chosen
from ear.notes import Part

DOUBLE_TICKS = 60
"""A thirty-second: two strokes of one key so near were one."""
TINY_TICKS = 40
TINY_VELOCITY = 30


def doubles(part: Part, selection: Selection) -> Selection:
    """Notes that follow one of their pitch at once, each double the weaker of the two."""
    picked = chosen(part, selection)
    last: dict[int, int] = {}
    found: set[int] = set()
    for i, note in enumerate(part.notes):
        before = last.get(note.pitch)
        if before is not None and note.onset_tick - part.notes[before].onset_tick <= DOUBLE_TICKS:
            weaker = before if part.notes[before].velocity < note.velocity else i
            if weaker in picked:
                found.add(weaker)
            last[note.pitch] = before if weaker == i else i
        else:
            last[note.pitch] = i
    return frozenset(found)


def tiny(part: Part, selection: Selection) -> Selection:
    """Notes so light that nobody meant them; on keyboards, so short, too."""
    return frozenset(
        i
        for i in chosen(part, selection)
        if part.notes[i].velocity <= TINY_VELOCITY
        and (not part.instrument.has_length or part.notes[i].length_tick <= TINY_TICKS)
    )


def clean(part: Part, selection: Selection) -> Edited:
    """Delete doubles and tiny notes."""
    return delete(part, doubles(part, selection) | tiny(part, selection))
