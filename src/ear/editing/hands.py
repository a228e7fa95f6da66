"""Which hand plays what."""

from collections.abc import Collection, Sequence
from dataclasses import replace
from itertools import groupby

from ear.editing.edited import Edited, Selection, changed, chosen
from ear.errors import ValueOutOfRange
from ear.notes import Hand, Part
from ear.notes.pitch import BLACK_KEYS
from ear.patterns.fingering import chord_fingers, figures
from ear.patterns.proposing import proposed_fingers

OUT_OF_POSITION = 9
"""Semitones that five fingers do not cover without moving."""
THUMB = 1


def split_hands(part: Part, selection: Selection, *, at_pitch: int) -> Edited:
    """Assign the right hand from a pitch up and the left hand below it, and return the part.

    Raises ValueOutOfRange for drums.
    """
    if not part.instrument.has_hands:
        raise ValueOutOfRange("drums_without_hands")
    return changed(
        part,
        selection,
        lambda n: replace(n, hand=Hand.RIGHT if n.pitch >= at_pitch else Hand.LEFT, voice=None),
    )


def refingered(part: Part) -> Part:
    """Return a part that was moved to another key, with its fingers by the tables there.

    Each scale or arpeggio in a hand's line is fingered by itself. What lies in one position, and chords, keep their
    fingers; for any other stretch new ones are proposed where a thumb would be on a black key.
    """
    fingers = [n.finger for n in part.notes]
    proposals = {i for i, n in enumerate(part.notes) if n.is_proposed}
    for hand in Hand:
        own = [i for i, n in enumerate(part.notes) if n.hand is hand and n.finger is not None]
        pitches = [part.notes[i].pitch for i in own]
        if not own or max(pitches) - min(pitches) < OUT_OF_POSITION:
            continue
        is_line = len({part.notes[i].onset_tick for i in own}) == len(own)
        if not is_line:
            continue
        for stretch, known in figures(pitches, hand=hand):
            inside = own[stretch.start : stretch.stop]
            has_thumb_on_black = any(
                part.notes[i].finger == THUMB and part.notes[i].pitch % 12 in BLACK_KEYS for i in inside
            )
            if known is not None:
                chosen_fingers = known
            elif has_thumb_on_black:
                chosen_fingers = proposed_fingers([part.notes[i].pitch for i in inside], hand=hand)
                proposals |= set(inside)
            else:
                continue
            for i, finger in zip(inside, chosen_fingers, strict=True):
                fingers[i] = finger
    return _fingered(part, fingers, proposals)


def propose_fingers(part: Part, selection: Selection) -> Edited:
    """Propose fingers for the notes that have none, or only a proposed one, hand by hand: scales, arpeggios and
    chords by the tables, other lines by the model.

    Notes without a hand count as right-hand notes. Raises ValueOutOfRange for drums.
    """
    if not part.instrument.has_hands:
        raise ValueOutOfRange("drums_without_hands")
    fingers = [n.finger for n in part.notes]
    proposals = {i for i, n in enumerate(part.notes) if n.is_proposed}
    picked = chosen(part, selection)
    for hand in Hand:
        own = [i for i in sorted(picked) if (part.notes[i].hand or Hand.RIGHT) is hand]
        for stretch in _lines_and_chords(part, own):
            for i, finger in zip(stretch, _fingers_for(part, stretch, hand), strict=True):
                if finger is not None and (fingers[i] is None or i in proposals):
                    fingers[i] = finger
                    proposals.add(i)
    return Edited(part=_fingered(part, fingers, proposals), selected=selection)


def agree_to_fingers(part: Part, selection: Selection) -> Edited:
    """Return the part with proposed fingers confirmed as the exercise's own."""
    return changed(part, selection, lambda n: replace(n, is_proposed=False))


def _fingered(part: Part, fingers: Sequence[int | None], proposals: Collection[int]) -> Part:
    notes = (replace(n, finger=fingers[i], is_proposed=i in proposals) for i, n in enumerate(part.notes))
    return replace(part, notes=tuple(notes))


def _lines_and_chords(part: Part, own: Sequence[int]) -> list[list[int]]:
    """Notes of a hand as stretches: a line of single notes, or what is struck together."""
    moments = [list(together) for _, together in groupby(own, key=lambda i: part.notes[i].onset_tick)]
    lines_and_chords: list[list[int]] = []
    is_line = False
    for moment in moments:
        if len(moment) == 1 and is_line:
            lines_and_chords[-1] += moment
        else:
            lines_and_chords.append(moment)
        is_line = len(moment) == 1
    return lines_and_chords


def _fingers_for(part: Part, stretch: Sequence[int], hand: Hand) -> Sequence[int | None]:
    pitches = [part.notes[i].pitch for i in stretch]
    if len(stretch) > 1 and part.notes[stretch[0]].onset_tick == part.notes[stretch[1]].onset_tick:
        return chord_fingers(pitches, hand=hand) or [None] * len(stretch)
    return [
        finger
        for stretch, known in figures(pitches, hand=hand)
        for finger in known or proposed_fingers(pitches[stretch.start : stretch.stop], hand=hand)
    ]
