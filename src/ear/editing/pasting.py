"""Notes put in another place, in another part too: as they were, by how far they lie behind the first of them."""

from collections.abc import Collection
from dataclasses import replace

from ear.editing.bars import MAX_BARS
from ear.editing.edited import Edited, rebuilt
from ear.errors import ValueOutOfRange
from ear.notes import Note, Part


def paste(part: Part, notes: Collection[Note], *, at_tick: int) -> Edited:
    """Paste notes over the music, the first of them at a tick, and select them.

    A pasted note replaces one of the same pitch at the same place. Raises ValueOutOfRange if there are no
    notes, or if they would reach beyond the last bar that a part can have.
    """
    if not notes or at_tick < 0:
        raise ValueOutOfRange("nothing_to_paste")
    later = at_tick - min(note.onset_tick for note in notes)
    put = [replace(note, onset_tick=note.onset_tick + later) for note in notes]
    if part.meters.bar_at(max(note.onset_tick for note in put)).number > MAX_BARS:
        raise ValueOutOfRange("part_text_bar_outside_part", bars_most=MAX_BARS, bar=MAX_BARS + 1)
    return rebuilt(part, [*((note, False) for note in part.notes), *((note, True) for note in put)])
