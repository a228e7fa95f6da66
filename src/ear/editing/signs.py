"""Chord names, words, slurs, articulations and fermatas that a teacher writes."""

from collections.abc import Iterable
from dataclasses import replace

from ear.editing.bars import tempo_map
from ear.editing.edited import ALL, Edited, Selection, changed, chosen
from ear.errors import ValueOutOfRange
from ear.notes import Articulation, ChordMark, Hand, Note, Part, SignKind, StaffSign, TempoChange
from ear.notes.chord_names import NO_CHORD, NO_CHORDS
from ear.notes.signs import FERMATA_TIMES, STACCATO_TIMES, sign_place
from ear.patterns.chords import Chord


def set_chord(part: Part, *, tick: int, name: str) -> Edited:
    """Write a chord's name at a tick, or remove it if the name is empty. Raises UnknownName, and ValueOutOfRange for a
    drum part.
    """
    if not part.instrument.has_key:
        raise ValueOutOfRange("chord_names_not_for_drums")
    others = [chord for chord in part.chords if chord.tick != tick]
    if name.strip():
        plain = NO_CHORD if name.strip().lower() in NO_CHORDS else Chord.named(name.strip()).name
        others.append(ChordMark(tick=tick, name=plain))
    others.sort(key=lambda chord: chord.tick)
    return Edited(part=replace(part, chords=tuple(others)), selected=ALL)


def set_text(part: Part, *, tick: int, text: str) -> Edited:
    """Write words over a tick, or remove those that stand there if there are none. Raises ValueOutOfRange."""
    others = [s for s in part.signs if s.kind is not SignKind.TEXT or s.tick != tick]
    if text.strip():
        others.append(StaffSign(tick=tick, kind=SignKind.TEXT, end_tick=tick, text=text.strip()))
    return Edited(part=_with_signs(part, others), selected=ALL)


def slur(part: Part, selection: Selection) -> Edited:
    """Write a slur from the first to the last of the picked notes of each hand; one that is there is removed.

    Raises ValueOutOfRange where no hand has two notes, one after the other.
    """
    signs = set(part.signs)
    picked = [part.notes[i] for i in sorted(chosen(part, selection))]
    is_any = False
    for is_left in (False, True):
        ticks = [note.onset_tick for note in picked if (note.hand is Hand.LEFT) is is_left]
        if ticks and max(ticks) > min(ticks):
            is_any = True
            signs ^= {StaffSign(tick=min(ticks), kind=SignKind.SLUR, end_tick=max(ticks), is_left=is_left)}
    if not is_any:
        raise ValueOutOfRange("slur_needs_two_notes")
    return Edited(part=_with_signs(part, signs), selected=selection)


def articulate(part: Part, selection: Selection, *, articulation: Articulation) -> Edited:
    """Write an articulation at the picked notes; if all of them have it, remove it. A staccato note sounds half as long as
    it did. Raises ValueOutOfRange for staccato and tenuto of a drum.
    """
    if not part.instrument.has_length:
        raise ValueOutOfRange("articulations_not_for_drums")
    removes = all(articulation in part.notes[i].articulations for i in chosen(part, selection))

    def marked(note: Note) -> Note:
        if (articulation in note.articulations) is not removes:
            return note
        marks = {*note.articulations} ^ {articulation}
        length = note.length_tick
        if articulation is Articulation.STACCATO:
            length = length * STACCATO_TIMES if removes else max(1, length // STACCATO_TIMES)
        return replace(note, length_tick=length, articulations=tuple(a for a in Articulation if a in marks))

    return changed(part, selection, marked)


def last_of(part: Part, selection: Selection) -> int:
    """Return the number of the picked note that begins last. Raises ValueOutOfRange where there is none."""
    last = max(chosen(part, selection), key=lambda i: part.notes[i].onset_tick, default=None)
    if last is None:
        raise ValueOutOfRange("fermata_needs_a_note")
    return last


def fermata(part: Part, selection: Selection, *, waits_until: int | None) -> Edited:
    """Write a fermata over the last of the picked notes, or remove the one that is there.

    Until the tick `waits_until`, where the note ends on paper, the click takes twice as long; with None it goes on.
    """
    note = part.notes[last_of(part, selection)]
    there = [s for s in part.signs if s.kind is SignKind.FERMATA and s.tick == note.onset_tick]
    others = [s for s in part.signs if s not in there]
    for sign in there:
        part = _without_wait(part, sign)
    if not there:
        end = note.onset_tick if waits_until is None else waits_until
        sign = StaffSign(
            tick=note.onset_tick, kind=SignKind.FERMATA, end_tick=end, is_left=note.hand is Hand.LEFT
        )
        others.append(sign)
        part = _with_wait(part, sign) if sign.waits else part
    return Edited(part=_with_signs(part, others), selected=selection)


def _with_wait(part: Part, sign: StaffSign) -> Part:
    """Tempos that are so much slower under the fermata."""
    inside = [c for c in part.tempos.changes if sign.tick < c.tick < sign.end_tick]
    outside = [c for c in part.tempos.changes if not sign.tick <= c.tick < sign.end_tick]
    slow = [
        TempoChange(tick=tick, bpm=part.tempos.bpm_at(tick) / FERMATA_TIMES)
        for tick in (sign.tick, *(c.tick for c in inside))
    ]
    after = TempoChange(tick=sign.end_tick, bpm=part.tempos.bpm_at(sign.end_tick))
    return replace(part, tempos=tempo_map([after, *outside, *slow]))


def _without_wait(part: Part, sign: StaffSign) -> Part:
    if not sign.waits:
        return part
    changes = [
        replace(c, bpm=c.bpm * FERMATA_TIMES) if sign.tick <= c.tick < sign.end_tick else c
        for c in part.tempos.changes
    ]
    return replace(part, tempos=tempo_map(changes))


def _with_signs(part: Part, signs: Iterable[StaffSign]) -> Part:
    return replace(part, signs=tuple(sorted(set(signs), key=sign_place)))
