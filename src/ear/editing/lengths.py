"""How long notes last: joined or apart."""

from dataclasses import replace
from itertools import pairwise

from ear.editing.edited import Edited, Selection, changed, chosen, rebuilt
from ear.errors import ValueOutOfRange
from ear.notes import Part
from ear.numerals import decimal


def legato(part: Part, selection: Selection, *, gap_ticks: int = 0) -> Edited:
    """Extend each note to the next onset of its hand, less a gap. The last notes keep their lengths."""
    onsets = {
        hand: sorted({n.onset_tick for n in part.notes if n.hand is hand})
        for hand in {n.hand for n in part.notes}
    }
    following = {(hand, here): after for hand, ticks in onsets.items() for here, after in pairwise(ticks)}

    picked = chosen(part, selection)
    notes = []
    for i, note in enumerate(part.notes):
        after = following.get((note.hand, note.onset_tick))
        if i in picked and after is not None:
            note = replace(note, length_tick=max(1, after - note.onset_tick - gap_ticks))
        notes.append((note, i in picked))
    return rebuilt(part, notes)


def scale_lengths(part: Part, selection: Selection, *, share: float) -> Edited:
    """Multiply note lengths by a share, such as 0.5 for staccato.

    Raises ValueOutOfRange unless the share is above 0.
    """
    if share <= 0:
        raise ValueOutOfRange("length_factor_not_positive", share=decimal(share))
    return changed(part, selection, lambda n: replace(n, length_tick=max(1, round(n.length_tick * share))))
