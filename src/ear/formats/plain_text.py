"""The part as text: a line for each bar in plain letters and figures, read and written.

A line is `2 R: C4/4 D/8 E F+A/2 L: -/1`: the bar, then for each hand its words in order. After the stroke stands the value
(`ear.formats.plain_words`), several tied by `+`; `-` is a rest, `_` holds the last notes on, notes that sound together stand
between `+` signs. What is left out goes on: a name without octave is the nearest to the one before, a word without a value
has the last one. A word begins where the one before ends; what begins elsewhere has its beat ahead, `2.5=D4/8`. A kit's
lanes need no values: `1: kick+hat hat snare+hat`, from beat to beat. `[Am7]` is a chord name, `"with brushes"` words over the
place that comes next.

A line that begins with a bar's number says all of that bar, `|` goes on to the next; `2..` goes on with bar 2. A line
without a number goes on where its hand's last line ended, and says nothing of the other hand. Bars that are not named stay.
`5 = 1` plays bar 1 again; where the bars of a stretch do so in order they are written once, with repeats and endings.
Bar 0 is a pick-up: what it says ends with the bar, `0 R: D4/8 D`.
"""

import re
from collections.abc import Iterator, Mapping
from dataclasses import replace

from ear.conventions import PLAIN, Conventions
from ear.editing.drawing import strength_near
from ear.editing.edited import ALL, Edited, rebuilt
from ear.editing.pickup import with_bar_0
from ear.errors import EarError, LineError
from ear.formats.plain_parsing import ParsedText, SoundWord, TextEntry
from ear.formats.plain_words import Marks, length_of
from ear.formats.plain_writing import bars_again
from ear.labels.typed_names import lane_word
from ear.notation.moments import Moment, moments
from ear.notes import Articulation, ChordMark, Hand, Note, Part, SignKind, StaffSign, WrittenForm, place_of
from ear.notes.signs import STACCATO_TIMES, sign_place

PICKUP = re.compile(r"\s*0(?::|\s)")
"""How a line for bar 0 begins."""


def read_lines(
    part: Part, text: str, *, conventions: Conventions = PLAIN, velocity: int | None = None
) -> Edited:
    """Return the part as a text states it, with the notes that are new or changed selected.

    Words that say what is there leave it exactly as it is: strength, finger, a moment off the grid. A note that only changes
    its name or its value keeps the rest of what it was. New notes that say no strength are as loud as their neighbours, or have `velocity`.
    Raises LineError, which holds what is wrong and in which line.
    """
    if part.first_bar and any(PICKUP.match(line) for line in text.splitlines()):
        part = with_bar_0(part)
    parsed = ParsedText(part=part, conventions=conventions, velocity=velocity)
    for number, line in enumerate(text.splitlines(), start=1):
        try:
            parsed.line(line)
        except EarError as problem:
            raise LineError(line=number, problem=problem) from problem
    return _Changing(parsed).edited()


def _played_again(part: Part, again: Mapping[int, int]) -> Part:
    """The part with these bars, which are empty, as the earlier ones that they are again."""
    notes, chords, signs = [*part.notes], [*part.chords], {*part.signs}
    for number, source in again.items():
        first, bar = part.meters.bar(source), part.meters.bar(number)
        by, inside = bar.start_tick - first.start_tick, range(first.start_tick, first.end_tick)
        notes += [replace(n, onset_tick=n.onset_tick + by) for n in part.notes if n.onset_tick in inside]
        chords += [replace(c, tick=c.tick + by) for c in part.chords if c.tick in inside]
        signs |= {sign.moved(by) for sign in part.signs if sign.tick in inside}
    if not again:
        return part
    return replace(
        part.with_notes(notes),
        chords=tuple(sorted(chords, key=lambda c: c.tick)),
        signs=tuple(sorted(signs, key=sign_place)),
    )


class _Changing:
    """Lay what was read over what is there."""

    def __init__(self, parsed: ParsedText) -> None:
        self.part, self.parsed = parsed.part, parsed
        self.taken: set[int] = set()
        self.there = [m for m in moments(self.part) if m.notes and self._is_written(m)]

    def _is_written(self, moment: Moment) -> bool:
        return moment.bar in self.parsed.whole or any(
            hand is moment.hand and start <= moment.tick < end for hand, start, end in self.parsed.spans
        )

    def edited(self) -> Edited:
        written = {n for moment in self.there for n in moment.notes}
        kept = [(note, False) for i, note in enumerate(self.part.notes) if i not in written]
        rest: list[TextEntry] = []
        marked: set[int] = set()
        known: dict[object, list[Moment]] = {}
        for moment in self.there:
            known.setdefault(self._key_of(moment), []).append(moment)
        for entry in self.parsed.entries:
            same = known.get(self._key(entry))
            if same:
                notes = same.pop(0).notes
                self.taken.update(notes)
                waiting = list(entry.sounds)
                for n in notes:
                    note = self.part.notes[n]
                    new = self._marks_for(note, self.part.names[n], waiting).on(note)
                    kept.append((new, new != note))
                    marked |= {n} if new != note else set()
            else:
                rest.append(entry)
        edited = Edited(part=self.part, selected=ALL)
        if rest or marked or self.taken != written:
            for entry in rest:
                kept += [(note, True) for note in self._written(entry)]
            edited = rebuilt(self.part, kept)
        part = _played_again(self._with_signs(edited.part), self.parsed.again)
        is_all = self.parsed.whole >= set(range(part.first_bar, part.last_bar + 1))
        if is_all and self.parsed.again != bars_again(self.part):
            # All bars are said, and other ones are played again than before: that is the form now.
            by = 1 - part.first_bar
            again = {bar + by: source + by for bar, source in self.parsed.again.items()}
            part = replace(part, form=WrittenForm.of_bars(again, bars=len(part.bars)))
        selected = edited.selected
        if part.notes != edited.part.notes and selected is not ALL:
            places = {place_of(edited.part.notes[i]) for i in selected}
            selected = frozenset(i for i, note in enumerate(part.notes) if place_of(note) in places)
        return replace(edited, part=part, selected=selected)

    def _marks_for(self, note: Note, name_fifth: int, waiting: list[SoundWord]) -> Marks:
        """What was written behind a note's name; its word is taken from those that wait: two pads may be one lane."""
        key = self._sounding(note.pitch, name_fifth)
        word = next(sound for sound in waiting if self._sounding(sound[0], sound[1]) == key)
        waiting.remove(word)
        return word[2]

    def _with_signs(self, part: Part) -> Part:
        """The part with the chord names, words, slurs and fermatas that were written; in bars that were said whole, with these
        alone."""
        parsed = self.parsed

        def stays(tick: int) -> bool:
            return self.part.meters.bar_at(tick).number not in parsed.whole

        chords = {chord.tick: chord.name for chord in self.part.chords if stays(chord.tick)} | parsed.chords
        waits = {sign.tick: sign for sign in self.part.signs if sign.waits}
        signs = {sign for sign in self.part.signs if stays(sign.tick)} | {*parsed.texts}
        open_slurs: dict[bool, int] = {}
        for entry in sorted(parsed.entries, key=lambda each: each.tick):
            is_left = entry.hand is Hand.LEFT
            marks = [each for _, _, each in entry.sounds]
            if any(each.ends_slur for each in marks) and open_slurs.get(is_left, entry.tick) < entry.tick:
                start = open_slurs.pop(is_left)
                signs.add(StaffSign(tick=start, kind=SignKind.SLUR, end_tick=entry.tick, is_left=is_left))
            if any(each.begins_slur for each in marks):
                open_slurs[is_left] = entry.tick
            if any(each.has_fermata for each in marks):
                plain = StaffSign(
                    tick=entry.tick, kind=SignKind.FERMATA, end_tick=entry.tick, is_left=is_left
                )
                signs.add(waits.get(entry.tick, plain))
        return replace(
            part, signs=tuple(sorted(signs, key=sign_place)),
            chords=tuple(ChordMark(tick=tick, name=name) for tick, name in sorted(chords.items())),
        )  # fmt: skip

    def _sounding(self, pitch: int, name_fifth: int | None) -> object:
        """By what two notes are the same to a reader of the text."""
        return (
            lane_word(self.part.lane_name(pitch)) if self.part.instrument.has_lanes else (pitch, name_fifth)
        )

    def _key_of(self, moment: Moment) -> object:
        sounds = [self._sounding(self.part.notes[n].pitch, self.part.names[n]) for n in moment.notes]
        ticks = 0 if self.part.instrument.has_lanes else length_of(moment.values)
        return moment.tick, moment.hand, tuple(sorted(map(repr, sounds))), ticks

    def _key(self, entry: TextEntry) -> object:
        sounds = [self._sounding(pitch, name) for pitch, name, _ in entry.sounds]
        ticks = 0 if self.part.instrument.has_lanes else entry.ticks
        return entry.tick, entry.hand, tuple(sorted(map(repr, sounds))), ticks

    def _written(self, entry: TextEntry) -> Iterator[Note]:
        here = [m for m in self.there if m.tick == entry.tick and m.hand is entry.hand]
        free = [(n, m) for m in here for n in m.notes if n not in self.taken]
        length = self.part.instrument.written_ticks(entry.length_tick)
        strength = self.parsed.velocity or strength_near(self.part, entry.tick, entry.hand)
        waiting = []
        for pitch, name_fifth, marks in entry.sounds:
            same = next((pair for pair in free if self.part.notes[pair[0]].pitch == pitch), None)
            if same is None:
                waiting.append((pitch, name_fifth, marks))
            else:
                free.remove(same)
                yield marks.on(self._kept(same, pitch, name_fifth, entry, length))
        for pitch, name_fifth, marks in waiting:
            if free:
                yield marks.on(self._kept(free.pop(0), pitch, name_fifth, entry, length))
            else:
                note = Note(
                    onset_tick=entry.tick, length_tick=length, pitch=pitch, velocity=strength, hand=entry.hand, name_fifth=name_fifth,
                )  # fmt: skip
                yield marks.on(note)

    def _kept(
        self, was: tuple[int, Moment], pitch: int, name_fifth: int | None, entry: TextEntry, length: int
    ) -> Note:
        """A note that is called otherwise, or lasts otherwise."""
        number, moment = was
        self.taken.add(number)
        note = self.part.notes[number]
        lasts = self.part.instrument.has_length and length_of(moment.values) != entry.ticks
        if lasts:
            is_short = Articulation.STACCATO in note.articulations
            note = replace(note, length_tick=max(1, length // STACCATO_TIMES) if is_short else length)
        is_same = name_fifth is None or (note.pitch == pitch and self.part.names[number] == name_fifth)
        return note.at_pitch(pitch, None if is_same else name_fifth)
