"""Which hand plays what."""

from collections.abc import Collection, Iterator, Sequence
from dataclasses import replace
from itertools import groupby

from ear.editing.edited import Edited, Selection, changed, chosen
from ear.errors import ValueOutOfRange
from ear.notes import Hand, Part
from ear.notes.pitch import BLACK_KEYS
from ear.patterns.fingering import figures, position_fingers
from ear.patterns.proposing import StruckKeys, fingers_of_moments, proposed_fingers
from ear.units import TICKS_PER_QUARTER

QUAVER = TICKS_PER_QUARTER // 2
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
    for i, finger in proposed_for(part, chosen(part, selection)).items():
        if finger is not None and (fingers[i] is None or i in proposals):
            fingers[i] = finger
            proposals.add(i)
    return Edited(part=_fingered(part, fingers, proposals), selected=selection)


def proposed_for(part: Part, notes: Collection[int]) -> dict[int, int | None]:
    """Return the fingers that are proposed for notes, by index; None where no hand can hold what is struck.

    Notes without a hand count as right-hand notes.
    """
    fingers: dict[int, int | None] = {}
    for hand in Hand:
        own = [i for i in sorted(notes) if (part.notes[i].hand or Hand.RIGHT) is hand]
        fingers |= dict(_proposed(part, own, hand))
    return fingers


def agree_to_fingers(part: Part, selection: Selection) -> Edited:
    """Return the part with proposed fingers confirmed as the exercise's own."""
    return changed(part, selection, lambda n: replace(n, is_proposed=False))


def _release_before(part: Part, known: dict[int, int], line: Sequence[int], first: int, finger: int) -> None:
    """Where a figure begins, at a place in its line, with the finger that is on another key just before, forget the fingers
    there, back to the last thumb: the model finds some that lead on."""
    before, note = part.notes[line[first - 1]], part.notes[line[first]]
    is_quick = note.onset_tick - before.onset_tick <= QUAVER
    if known.get(line[first - 1]) != finger or before.pitch == note.pitch or not is_quick:
        return
    del known[line[first - 1]]
    for place in range(first - 2, -1, -1):
        if known.get(line[place], THUMB) == THUMB:
            break
        del known[line[place]]


def _fingered(part: Part, fingers: Sequence[int | None], proposals: Collection[int]) -> Part:
    notes = (replace(n, finger=fingers[i], is_proposed=i in proposals) for i, n in enumerate(part.notes))
    return replace(part, notes=tuple(notes))


def _proposed(part: Part, own: Sequence[int], hand: Hand) -> Iterator[tuple[int, int | None]]:
    """Notes of a hand by index with the fingers that are proposed: lines and chords are decided together, around what the
    tables know of a line and what the teacher has set.
    """
    struck = [
        sorted(together, key=lambda i: part.notes[i].pitch)
        for _, together in groupby(own, key=lambda i: part.notes[i].onset_tick)
    ]
    known: dict[int, int] = {}
    for _, line in groupby(struck, key=len):
        single = [moment[0] for moment in line if len(moment) == 1]
        pitches = [part.notes[i].pitch for i in single]
        for stretch, by_table in figures(pitches, hand=hand) if single else ():
            fingers = by_table or position_fingers(pitches[stretch.start : stretch.stop], hand=hand)
            if fingers is not None:
                if stretch.start:
                    _release_before(part, known, single, stretch.start, fingers[0])
                known |= dict(zip(single[stretch.start : stretch.stop], fingers, strict=True))
    for i in own:
        finger = part.notes[i].finger
        if finger is not None and not part.notes[i].is_proposed:
            known[i] = finger
    before, moments = 0, []
    for moment in struck:
        onset = part.notes[moment[0]].onset_tick
        moments.append(
            StruckKeys(
                pitches=tuple(part.notes[i].pitch for i in moment), after_ticks=onset - before,
                fingers=tuple(known.get(i) for i in moment),
            )
        )  # fmt: skip
        before = onset
    for moment, held in zip(struck, fingers_of_moments(moments, hand=hand), strict=True):
        yield from zip(moment, held, strict=True)
