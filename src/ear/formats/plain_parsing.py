"""The lines of a part as text, word by word (`ear.formats.plain_text` says how they are written)."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

from ear.conventions import Conventions
from ear.editing.bars import MAX_BARS
from ear.errors import ValueOutOfRange
from ear.formats.plain_words import (
    AGAIN,
    GOES_ON,
    HANDS,
    HOLD,
    NEXT_BAR,
    REST,
    TOGETHER,
    Marks,
    beat_place,
    length_of,
    next_beat,
    parted,
    read_marks,
    read_value,
)
from ear.labels.typed_names import FIRST_NEAR, read_lane, read_note
from ear.notation.values import Value
from ear.notes import Bar, Hand, Part, SignKind, StaffSign, ornaments_of
from ear.notes.chord_names import NO_CHORD, NO_CHORDS
from ear.notes.note import MAX_GRACE
from ear.patterns.chords import Chord

CHORD_BEGINS = "["
SIGNS_OVER = (CHORD_BEGINS, '"')
NUMBER = re.compile(r"\d{1,4}(?::|\.\.)?")
AT = re.compile(r"(\d{1,2}(?:\.\d{1,3})?)=(.+)")
TOKEN = re.compile(r'"[^"]*"|\[[^\]]*\]|(?:[^\s"]+(?:"[^"]*")?)+|\S+')
FIRST_VALUE = (Value(base=4),)
MARKS_BEGIN = re.compile(r"[(){}'>@~!_\"]")
MAX_WORDS = 20_000


SoundWord = tuple[int, int | None, Marks]
"""Pitch, name on the line of fifths, and what stands behind the name."""


@dataclass(slots=True, kw_only=True)
class TextEntry:
    """One word: where it stands and what it says. `values` is None for strokes that say none."""

    place: Fraction
    """In ticks, exactly: a tuplet's notes may stand between them."""
    hand: Hand | None
    sounds: list[SoundWord]
    ticks: Fraction

    @property
    def tick(self) -> int:
        """Where it begins, on a whole tick."""
        return round(self.place)

    @property
    def length_tick(self) -> int:
        """How long it lasts, in whole ticks."""
        return round(self.place + self.ticks) - self.tick


@dataclass(slots=True, kw_only=True)
class TextVoice:
    """Where the writing of one hand is."""

    tick: Fraction = Fraction(0)
    near: int = FIRST_NEAR
    values: tuple[Value, ...] | None = None
    held: TextEntry | None = None


@dataclass(slots=True, kw_only=True)
class ParsedText:
    """What has been read so far."""

    part: Part
    conventions: Conventions
    entries: list[TextEntry] = field(default_factory=list)
    voices: dict[Hand | None, TextVoice] = field(default_factory=dict)
    whole: set[int] = field(default_factory=set)
    """Numbers of bars that are said whole."""
    again: dict[int, int] = field(default_factory=dict)
    """Bars that are earlier ones again, by number; and which."""
    spans: list[tuple[Hand | None, int, int]] = field(default_factory=list)
    """What lines without a number say: of which hand, from where to where."""
    chords: dict[int, str] = field(default_factory=dict)
    texts: list[StaffSign] = field(default_factory=list)
    hand: Hand | None = None
    """Of the last word."""
    velocity: int | None = None
    """Of new notes that say nothing of it; None where their neighbours do."""
    count: int = 0

    def line(self, text: str) -> None:
        """Read one line. Raises EarError for what cannot be read."""
        words = TOKEN.findall(text)
        number = words.pop(0) if words and NUMBER.fullmatch(words[0]) else None
        hand = self._first_hand()
        if number is not None and number.endswith(GOES_ON):
            bar: Bar | None = self._open_already(int(number.removesuffix(GOES_ON)))
            hand = self.hand
        else:
            bar = self._open(int(number.rstrip(":"))) if number is not None else None
        if bar is not None and words[:1] == [AGAIN]:
            self._again(bar, words)
            return
        begun: dict[Hand | None, Fraction] = {}
        first = len(self.entries)
        for word in words:
            self.count += 1
            if self.count > MAX_WORDS:
                raise ValueOutOfRange("part_text_too_long", words_most=MAX_WORDS)
            if word.upper() in HANDS and not self.part.instrument.has_lanes:
                hand = self.hand = HANDS[word.upper()]
                continue
            self.hand = hand
            voice = self.voices.setdefault(hand, TextVoice())
            begun.setdefault(hand, voice.tick)
            if word == NEXT_BAR:
                if bar is not None:
                    bar = self._open(bar.number + 1)
                else:
                    voice.tick = self._bar_behind(voice.tick)
                continue
            if word[0] in SIGNS_OVER:
                self._over(word, hand, voice)
                continue
            if bar is not None and not bar.start_tick <= voice.tick < bar.end_tick and not AT.fullmatch(word):
                raise ValueOutOfRange("bar_full", bar=bar.number, word=word)
            self._word(word, hand, voice, bar)
        if bar is not None and bar.number == 0 and number is not None and not any(map(AT.fullmatch, words)):
            self._to_the_end(bar, self.entries[first:])
        if bar is None:
            for each, tick in begun.items():
                onsets = [round(tick), *(entry.tick for entry in self.entries[first:] if entry.hand is each)]
                self.spans.append((each, min(onsets), round(self.voices[each].tick)))

    def _open(self, number: int) -> Bar:
        """A bar that is said whole: all hands begin in it."""
        if not self.part.first_bar <= number <= MAX_BARS:
            raise ValueOutOfRange("part_text_bar_outside_part", bars_most=MAX_BARS, bar=number)
        bar = self.part.meters.bar(number)
        if number in self.whole:
            raise ValueOutOfRange("bar_written_twice", bar=number)
        self.whole.add(number)
        for hand in {None, *Hand, *self.voices}:
            self.voices.setdefault(hand, TextVoice()).tick = Fraction(bar.start_tick)
        return bar

    def _again(self, bar: Bar, words: Sequence[str]) -> None:
        """A bar that is an earlier one again: `5 = 1`."""
        source = int(words[1]) if len(words) == 2 and words[1].isdecimal() else bar.number
        source = self.again.get(source, source)
        if not self.part.first_bar <= source < bar.number:
            raise ValueOutOfRange("bar_again_not_earlier", bar=bar.number)
        if self.part.meters.bar(source).meter != bar.meter:
            raise ValueOutOfRange("bar_again_other_meter", bar=bar.number)
        self.again[bar.number] = source
        for voice in self.voices.values():
            voice.tick = Fraction(bar.end_tick)

    def _open_already(self, number: int) -> Bar:
        """A bar that a line before has begun."""
        if number not in self.whole:
            raise ValueOutOfRange("bar_not_begun", bar=number)
        return self.part.meters.bar(number)

    def _to_the_end(self, bar: Bar, entries: list[TextEntry]) -> None:
        """Of a pick-up that says no beats the last word ends with the bar."""
        room = {hand: bar.end_tick - voice.tick for hand, voice in self.voices.items()}
        for entry in entries:
            entry.place += room[entry.hand]
        by = round(min((room[entry.hand] for entry in entries), default=Fraction(0)))
        inside = range(bar.start_tick, bar.end_tick)
        self.chords = {tick + by if tick in inside else tick: name for tick, name in self.chords.items()}
        self.texts = [text.moved(by) if text.tick in inside else text for text in self.texts]

    def _over(self, word: str, hand: Hand | None, voice: TextVoice) -> None:
        """A chord name, or words, at the place where the next word begins."""
        tick, text = round(voice.tick), word[1:-1].strip()
        if word[0] == CHORD_BEGINS:
            if self.part.instrument.has_key:
                self.chords[tick] = NO_CHORD if text.lower() in NO_CHORDS else Chord.named(text).name
        elif text:
            is_left = hand is Hand.LEFT
            self.texts.append(
                StaffSign(tick=tick, kind=SignKind.TEXT, end_tick=tick, text=text, is_left=is_left)
            )

    def _bar_behind(self, tick: Fraction) -> Fraction:
        """Where a bar begins: here, or behind the one that is being written."""
        bar = self.part.meters.bar_at(float(tick))
        return tick if tick == bar.start_tick and tick else Fraction(bar.end_tick)

    def _first_hand(self) -> Hand | None:
        """Of words before any hand is named."""
        has_none = self.part.instrument.has_lanes or any(note.hand is None for note in self.part.notes)
        return None if has_none else Hand.RIGHT

    def _word(self, word: str, hand: Hand | None, voice: TextVoice, bar: Bar | None) -> None:
        placed = AT.fullmatch(word)
        here = bar or self.part.meters.bar_at(float(voice.tick))
        if placed is not None:
            voice.tick = here.start_tick + beat_place(placed[1], here.meter.beat_ticks)
            word = placed[2]
            if not here.start_tick <= voice.tick < here.end_tick:
                raise ValueOutOfRange("beat_outside_bar", bar=here.number, beat=placed[1])
        names, *behind_stroke = parted(word, "/")
        stroke, lengths = bool(behind_stroke), "/".join(behind_stroke)
        # Marks may stand behind the value, too.
        behind = MARKS_BEGIN.search(lengths)
        if behind is not None:
            names, lengths = f"{names}{lengths[behind.start() :]}", lengths[: behind.start()]
        if stroke:
            voice.values = tuple(read_value(each, word) for each in lengths.split(TOGETHER))
        ticks = self._ticks(voice, here)
        if names == HOLD:
            if voice.held is None:
                raise ValueOutOfRange("nothing_to_hold")
            voice.held.ticks += ticks
        elif names == REST:
            voice.held = None
        else:
            sounds = [self._sound(name, voice) for name in parted(names, TOGETHER)]
            voice.held = TextEntry(place=voice.tick, hand=hand, sounds=sounds, ticks=ticks)
            self.entries.append(voice.held)
        voice.tick += ticks
        if self.part.meters.bar_at(max(0.0, float(voice.tick) - 1)).number > MAX_BARS:
            raise ValueOutOfRange("part_text_bar_outside_part", bars_most=MAX_BARS, bar=MAX_BARS + 1)

    def _ticks(self, voice: TextVoice, bar: Bar) -> Fraction:
        if voice.values is None and self.part.instrument.has_lanes:
            return next_beat(round(voice.tick), bar) - voice.tick
        return length_of(voice.values or FIRST_VALUE)

    def _sound(self, word: str, voice: TextVoice) -> SoundWord:
        name, marks = read_marks(word)
        if marks.ornament is not None and marks.ornament not in ornaments_of(self.part.instrument):
            raise ValueOutOfRange("text_mark_unreadable", word=word)
        if self.part.instrument.has_lanes:
            return read_lane(name, self.part), None, marks
        voice.near, name_fifth = read_note(name, voice.near, self.conventions)
        if marks.grace:
            small, _ = read_note(marks.grace, voice.near, self.conventions)
            if abs(small - voice.near) > MAX_GRACE:
                raise ValueOutOfRange("grace_note_too_far", most=MAX_GRACE)
            marks = replace(marks, grace_semitones=small - voice.near)
        return voice.near, name_fifth, marks
