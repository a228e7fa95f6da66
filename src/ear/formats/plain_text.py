"""The part as text: a line for each bar in plain letters and figures, read and written.

A line is `2 R: C4/4 D/8 E/8 F+A/2 L: -/1`: the bar, then for each hand its words in order. After the stroke stands the
value: 4 a quarter, `.` a dot, `t` of a triplet, `+` tied to; `-` is a rest, `_` holds the last notes on, notes that sound
together stand between `+` signs. What is left out stays as it was: a name without octave is the nearest to the one before,
a word without a value has the last one. A word begins where the one before ends; what begins elsewhere has its beat ahead,
`2.5=D4/8`. A kit's lanes need no values: `1: kick+hat hat snare+hat`, from beat to beat.

A line that begins with a bar's number says all of that bar, `|` goes on to the next. A line without a number goes on where its
hand's last line ended, and says nothing of the other hand. Bars that are not named stay.
"""

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from itertools import groupby

from ear.editing.bars import MAX_BARS
from ear.editing.drawing import strength_near
from ear.editing.edited import ALL, Edited, rebuilt
from ear.errors import EarError, LineError, ValueOutOfRange
from ear.labels import PLAIN, Conventions
from ear.labels.typed_names import FIRST_NEAR, lane_word, read_lane, read_note
from ear.notation.moments import Moment, moments
from ear.notation.values import VALUES, Value
from ear.notes import Bar, Hand, Note, Part

PLAIN_SIGNS = {"♯": "#", "♭": "b", "♮": "", "𝄪": "##", "𝄫": "bb"}
"""Braille displays have no signs of accidentals."""
REST, HOLD, TOGETHER, NEXT_BAR = "-", "_", "+", "|"
HANDS = {"R:": Hand.RIGHT, "L:": Hand.LEFT}
NUMBER = re.compile(r"\d{1,4}:?")
AT = re.compile(r"(\d{1,2}(?:\.\d{1,3})?)=(.+)")
VALUE = re.compile(r"(\d{1,2})(\.{0,2})(t?)")
FIRST_VALUE = (Value(base=4),)
MAX_WORDS = 20_000


def plain_lines(part: Part, conventions: Conventions = PLAIN) -> str:
    """Return the part as plain text, one line a bar; empty for a part without notes."""
    lines = []
    for number, inside in groupby(moments(part) if part.notes else (), key=lambda m: m.bar):
        by_hand: dict[Hand | None, list[str]] = {}
        bar = part.meters.bar(number)
        place: dict[Hand | None, int] = {}
        for moment in inside:
            at = place.get(moment.hand, bar.start_tick)
            ahead = "" if moment.tick == at else f"{moment.beat:g}="
            by_hand.setdefault(moment.hand, []).append(ahead + _word(part, moment, conventions))
            place[moment.hand] = _next_place(part, moment.tick, moment.values, bar)
        voices = " ".join(f"{_hand_word(hand)}{' '.join(words)}" for hand, words in by_hand.items())
        lines.append(f"{number} {voices}" if None not in by_hand else f"{number}: {voices}")
    return "".join(f"{line}\n" for line in lines)


def _hand_word(hand: Hand | None) -> str:
    return next((f"{word} " for word, each in HANDS.items() if each is hand), "")


def _word(part: Part, moment: Moment, conventions: Conventions) -> str:
    names = TOGETHER.join(_names(part, moment, conventions)) or REST
    if part.instrument.has_lanes:
        return names
    return f"{names}/{TOGETHER.join(_value_word(value) for value in moment.values)}"


def _names(part: Part, moment: Moment, conventions: Conventions) -> list[str]:
    return [_name(part, part.notes[n].pitch, part.names[n], conventions) for n in moment.notes]


def _name(part: Part, pitch: int, name_fifth: int, conventions: Conventions) -> str:
    if part.instrument.has_lanes:
        return lane_word(part.lane_name(pitch))
    name = conventions.pitch(pitch, name_fifth=name_fifth)
    for sign, plain in PLAIN_SIGNS.items():
        name = name.replace(sign, plain)
    return name


def _value_word(value: Value) -> str:
    return f"{value.base}{'.' * value.dots}{'t' if value.is_triplet else ''}"


def _next_place(part: Part, tick: int, values: Iterable[Value], bar: Bar) -> int:
    """Where the word behind one stands; of a kit without values on the next beat."""
    if part.instrument.has_lanes:
        beat = bar.meter.beat_ticks
        return tick + beat - (tick - bar.start_tick) % beat
    return tick + sum(value.ticks for value in values)


@dataclass(slots=True, kw_only=True)
class _Entry:
    """One word: where it stands and what it says. `values` is None for strokes that say none."""

    tick: int
    hand: Hand | None
    sounds: list[tuple[int, int | None]]
    """Pitch, and name on the line of fifths."""
    ticks: int


@dataclass(slots=True, kw_only=True)
class _Voice:
    """Where the writing of one hand is."""

    tick: int
    near: int = FIRST_NEAR
    values: tuple[Value, ...] | None = None
    held: _Entry | None = None


@dataclass(slots=True, kw_only=True)
class _ParsedText:
    """What has been read so far."""

    part: Part
    conventions: Conventions
    entries: list[_Entry] = field(default_factory=list)
    voices: dict[Hand | None, _Voice] = field(default_factory=dict)
    whole: set[int] = field(default_factory=set)
    """Numbers of bars that are said whole."""
    spans: list[tuple[Hand | None, int, int]] = field(default_factory=list)
    """What lines without a number say: of which hand, from where to where."""
    count: int = 0

    def line(self, text: str) -> None:
        words = text.split()
        number = words.pop(0).rstrip(":") if words and NUMBER.fullmatch(words[0]) else None
        bar = self._open(int(number)) if number is not None else None
        hand = self._first_hand()
        begun: dict[Hand | None, int] = {}
        first = len(self.entries)
        for word in words:
            self.count += 1
            if self.count > MAX_WORDS:
                raise ValueOutOfRange("part_text_too_long", words_most=MAX_WORDS)
            if word.upper() in HANDS and not self.part.instrument.has_lanes:
                hand = HANDS[word.upper()]
                continue
            voice = self.voices.setdefault(hand, _Voice(tick=0))
            begun.setdefault(hand, voice.tick)
            if word == NEXT_BAR:
                if bar is not None:
                    bar = self._open(bar.number + 1)
                else:
                    voice.tick = self._bar_behind(voice.tick)
                continue
            if bar is not None and not bar.start_tick <= voice.tick < bar.end_tick and not AT.fullmatch(word):
                raise ValueOutOfRange("bar_full", bar=bar.number, word=word)
            self._word(word, hand, voice, bar)
        if bar is None:
            for each, tick in begun.items():
                onsets = [tick, *(entry.tick for entry in self.entries[first:] if entry.hand is each)]
                self.spans.append((each, min(onsets), self.voices[each].tick))

    def _open(self, number: int) -> Bar:
        """A bar that is said whole: all hands begin in it."""
        if not 1 <= number <= MAX_BARS:
            raise ValueOutOfRange("part_text_bar_outside_part", bars_most=MAX_BARS, bar=number)
        bar = self.part.meters.bar(number)
        if number in self.whole:
            raise ValueOutOfRange("bar_written_twice", bar=number)
        self.whole.add(number)
        for hand in {None, *Hand, *self.voices}:
            self.voices.setdefault(hand, _Voice(tick=0)).tick = bar.start_tick
        return bar

    def _bar_behind(self, tick: int) -> int:
        """Where a bar begins: here, or behind the one that is being written."""
        bar = self.part.meters.bar_at(tick)
        return tick if tick == bar.start_tick and tick else bar.end_tick

    def _first_hand(self) -> Hand | None:
        """Of words before any hand is named."""
        has_none = self.part.instrument.has_lanes or any(note.hand is None for note in self.part.notes)
        return None if has_none else Hand.RIGHT

    def _word(self, word: str, hand: Hand | None, voice: _Voice, bar: Bar | None) -> None:
        placed = AT.fullmatch(word)
        here = bar or self.part.meters.bar_at(voice.tick)
        if placed is not None:
            voice.tick = here.start_tick + round((float(placed[1]) - 1) * here.meter.beat_ticks)
            word = placed[2]
            if not here.start_tick <= voice.tick < here.end_tick:
                raise ValueOutOfRange("beat_outside_bar", bar=here.number, beat=placed[1])
        names, stroke, lengths = word.partition("/")
        if stroke:
            voice.values = tuple(_read_value(each, word) for each in lengths.split(TOGETHER))
        ticks = self._ticks(voice, here)
        if names == HOLD:
            if voice.held is None:
                raise ValueOutOfRange("nothing_to_hold")
            voice.held.ticks += ticks
        elif names == REST:
            voice.held = None
        else:
            sounds = [self._sound(name, voice) for name in names.split(TOGETHER)]
            voice.held = _Entry(tick=voice.tick, hand=hand, sounds=sounds, ticks=ticks)
            self.entries.append(voice.held)
        voice.tick += ticks
        if self.part.meters.bar_at(max(0, voice.tick - 1)).number > MAX_BARS:
            raise ValueOutOfRange("part_text_bar_outside_part", bars_most=MAX_BARS, bar=MAX_BARS + 1)

    def _ticks(self, voice: _Voice, bar: Bar) -> int:
        if voice.values is None and self.part.instrument.has_lanes:
            return _next_place(self.part, voice.tick, (), bar) - voice.tick
        return sum(value.ticks for value in voice.values or FIRST_VALUE)

    def _sound(self, name: str, voice: _Voice) -> tuple[int, int | None]:
        if self.part.instrument.has_lanes:
            return read_lane(name, self.part), None
        voice.near, name_fifth = read_note(name, voice.near, self.conventions)
        return voice.near, name_fifth


def _read_value(text: str, word: str) -> Value:
    match = VALUE.fullmatch(text)
    if match is None or int(match[1]) not in VALUES:
        raise ValueOutOfRange("note_value_unreadable", word=word)
    value = Value(base=int(match[1]), dots=len(match[2]), is_triplet=bool(match[3]))
    if value.ticks < 1:
        raise ValueOutOfRange("note_value_unreadable", word=word)
    return value


def read_lines(part: Part, text: str, *, conventions: Conventions = PLAIN) -> Edited:
    """Return the part as a text states it, with the notes that are new or changed selected.

    Words that say what is there leave it exactly as it is: strength, finger, a moment off the grid. A note that only changes
    its name or its value keeps the rest of what it was. Raises LineError, which holds what is wrong and in which line.
    """
    parsed = _ParsedText(part=part, conventions=conventions)
    for number, line in enumerate(text.splitlines(), start=1):
        try:
            parsed.line(line)
        except EarError as problem:
            raise LineError(line=number, problem=problem) from problem
    return _Changing(parsed).edited()


class _Changing:
    """Lay what was read over what is there."""

    def __init__(self, parsed: _ParsedText) -> None:
        self.part, self.reading = parsed.part, parsed
        self.taken: set[int] = set()
        self.there = [m for m in moments(self.part) if m.notes and self._is_written(m)]

    def _is_written(self, moment: Moment) -> bool:
        return moment.bar in self.reading.whole or any(
            hand is moment.hand and start <= moment.tick < end for hand, start, end in self.reading.spans
        )

    def edited(self) -> Edited:
        written = {n for moment in self.there for n in moment.notes}
        kept = [(note, False) for i, note in enumerate(self.part.notes) if i not in written]
        rest: list[_Entry] = []
        known: dict[object, list[Moment]] = {}
        for moment in self.there:
            known.setdefault(self._key_of(moment), []).append(moment)
        for entry in self.reading.entries:
            same = known.get(self._key(entry))
            if same:
                notes = same.pop(0).notes
                self.taken.update(notes)
                kept += [(self.part.notes[n], False) for n in notes]
            else:
                rest.append(entry)
        if not rest and self.taken == written:
            return Edited(part=self.part, selected=ALL)
        for entry in rest:
            kept += [(note, True) for note in self._written(entry)]
        return rebuilt(self.part, kept)

    def _sounding(self, pitch: int, name_fifth: int | None) -> object:
        """By what two notes are the same to a reader of the text."""
        return (
            lane_word(self.part.lane_name(pitch)) if self.part.instrument.has_lanes else (pitch, name_fifth)
        )

    def _key_of(self, moment: Moment) -> object:
        sounds = [self._sounding(self.part.notes[n].pitch, self.part.names[n]) for n in moment.notes]
        ticks = 0 if self.part.instrument.has_lanes else sum(value.ticks for value in moment.values)
        return moment.tick, moment.hand, tuple(sorted(map(repr, sounds))), ticks

    def _key(self, entry: _Entry) -> object:
        sounds = [self._sounding(*sound) for sound in entry.sounds]
        ticks = 0 if self.part.instrument.has_lanes else entry.ticks
        return entry.tick, entry.hand, tuple(sorted(map(repr, sounds))), ticks

    def _written(self, entry: _Entry) -> Iterator[Note]:
        here = [m for m in self.there if m.tick == entry.tick and m.hand is entry.hand]
        free = [(n, m) for m in here for n in m.notes if n not in self.taken]
        length = self.part.instrument.written_ticks(entry.ticks)
        strength = strength_near(self.part, entry.tick, entry.hand)
        waiting = []
        for pitch, name_fifth in entry.sounds:
            same = next((pair for pair in free if self.part.notes[pair[0]].pitch == pitch), None)
            if same is None:
                waiting.append((pitch, name_fifth))
            else:
                free.remove(same)
                yield self._kept(same, pitch, name_fifth, entry, length)
        for pitch, name_fifth in waiting:
            if free:
                yield self._kept(free.pop(0), pitch, name_fifth, entry, length)
            else:
                yield Note(
                    onset_tick=entry.tick, length_tick=length, pitch=pitch, velocity=strength, hand=entry.hand, name_fifth=name_fifth,
                )  # fmt: skip

    def _kept(
        self, was: tuple[int, Moment], pitch: int, name_fifth: int | None, entry: _Entry, length: int
    ) -> Note:
        """A note that is called otherwise, or lasts otherwise."""
        number, moment = was
        self.taken.add(number)
        note = self.part.notes[number]
        lasts = self.part.instrument.has_length and sum(v.ticks for v in moment.values) != entry.ticks
        note = replace(note, length_tick=length) if lasts else note
        is_same = name_fifth is None or (note.pitch == pitch and self.part.names[number] == name_fifth)
        return note.at_pitch(pitch, None if is_same else name_fifth)
