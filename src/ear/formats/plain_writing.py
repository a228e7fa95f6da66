"""A part written as text (`ear.formats.plain_text` says how and reads it)."""

from collections import Counter
from collections.abc import Iterator
from fractions import Fraction
from itertools import groupby, zip_longest

from ear.conventions import PLAIN, Conventions
from ear.formats.plain_words import (
    AGAIN,
    FERMATA,
    GOES_ON,
    HANDS,
    REST,
    SLUR,
    SLUR_END,
    TOGETHER,
    beat_place,
    length_of,
    marks_word,
    next_beat,
    value_word,
)
from ear.labels.typed_names import lane_word
from ear.notation.moments import Moment, moments
from ear.notation.values import PLAIN_VALUES, TRIPLET_VALUES, Value
from ear.notes import Bar, Hand, Note, Part, SignKind, folded, name_in_key

PLAIN_SIGNS = {"♯": "#", "♭": "b", "♮": "", "𝄪": "##", "𝄫": "bb"}
"""Braille displays have no signs of accidentals."""
MAX_WIDTH = 78
"""Characters of a line before it goes on in the next, with its bar's number."""
MAX_STRENGTHS = 6
"""Velocities that are written at the notes; a part with more was played."""


def plain_lines(part: Part, conventions: Conventions = PLAIN, *, width: int = MAX_WIDTH) -> str:
    """Return the part as plain text, one line a bar; empty for a part without notes.

    What is longer than `width` characters goes on in a line that has the bar's number, too.
    """
    return _Writing(part, conventions, width).lines() if part.notes else ""


class _Writing:
    """Write bar by bar. A keyboard's words say all of themselves, so that one can be changed alone; a kit's leave out
    what the one before has said.
    """

    def __init__(self, part: Part, conventions: Conventions, width: int) -> None:
        self.part, self.conventions, self.width = part, conventions, width
        self.values: dict[Hand | None, tuple[Value, ...]] = {}
        self.over = _signs_over(part)
        strengths = Counter(note.velocity for note in part.notes)
        self.usual = usual_velocity(part) if len(strengths) <= MAX_STRENGTHS else None

    def lines(self) -> str:
        lines: list[str] = []
        again = bars_again(self.part)
        for number, inside in groupby(moments(self.part), key=lambda m: m.bar):
            if number in again:
                lines.append(f"{number} {AGAIN} {again[number]}")
                continue
            by_hand: dict[Hand | None, list[Moment]] = {}
            for moment in inside:
                by_hand.setdefault(moment.hand, []).append(moment)
            words = [str(number) if None not in by_hand else f"{number}:"]
            for hand, own in by_hand.items():
                first, *others = self._words(own, self.part.meters.bar(number))
                # A hand's sign stays with its first word.
                words += [f"{_hand_word(hand)} {first}".strip(), *others]
            lines += _wrapped(words, number, self.width)
        return "".join(f"{line}\n" for line in lines)

    def _words(self, inside: list[Moment], bar: Bar) -> Iterator[str]:
        """The words of one hand in a bar."""
        at = Fraction(bar.start_tick)
        for moment, after in zip_longest(inside, inside[1:]):
            yield from self.over.pop((moment.tick, moment.hand is Hand.LEFT), ())
            is_there = round(at) == moment.tick and at < bar.end_tick
            beat = f"{moment.beat:g}"
            if not is_there:
                at = bar.start_tick + beat_place(beat, bar.meter.beat_ticks)
            ahead = "" if is_there else f"{beat}="
            names = TOGETHER.join(self._names(moment)) or REST
            values = self._new_values(moment, after, bar)
            length = "" if values is None else f"/{TOGETHER.join(map(value_word, values))}"
            yield f"{ahead}{names}{length}"
            at = self._next_place(moment, at, bar)

    def _new_values(self, moment: Moment, after: Moment | None, bar: Bar) -> tuple[Value, ...] | None:
        """What is written behind the stroke, if anything is."""
        values: tuple[Value, ...] = moment.values
        if self.part.instrument.has_lanes:
            # A stroke lasts until the next one; behind the last of a bar nothing has to be said.
            ticks = (after.tick if after else bar.end_tick) - moment.tick
            single = PLAIN_VALUES.get(Fraction(ticks)) or TRIPLET_VALUES.get(Fraction(ticks))
            is_to_beat = next_beat(moment.tick, bar) - moment.tick == ticks
            if single is None or after is None or (moment.hand not in self.values and is_to_beat):
                return None
            if self.values.get(moment.hand) == (single,):
                return None
            values = (single,)
        self.values[moment.hand] = values
        return values

    def _next_place(self, moment: Moment, at: Fraction, bar: Bar) -> Fraction:
        """Where a reader goes on, exactly: a tuplet's notes may stand between ticks."""
        if self.part.instrument.has_lanes and moment.hand not in self.values:
            return Fraction(next_beat(moment.tick, bar))
        return at + length_of(self.values[moment.hand])

    def _names(self, moment: Moment) -> Iterator[str]:
        for k, n in enumerate(moment.notes):
            note = self.part.notes[n]
            shows = self.usual is not None and self.usual != note.velocity
            own = _name(self.part, note.pitch, self.part.names[n], self.conventions)
            signs = "" if k else _note_signs(self.part, moment)
            grace = "" if note.grace_semitones is None else self._small_name(note)
            has_words = not self.part.instrument.has_lanes
            marks = marks_word(note, with_velocity=shows, with_label=has_words, grace=grace)
            yield f"{own}{marks}{signs}"

    def _small_name(self, note: Note) -> str:
        """The name of the small note before a note."""
        pitch = note.pitch + (note.grace_semitones or 0)
        return _name(
            self.part, pitch, name_in_key(pitch, self.part.fifths_at(note.onset_tick)), self.conventions
        )


def _name(part: Part, pitch: int, name_fifth: int, conventions: Conventions) -> str:
    if part.instrument.has_lanes:
        return lane_word(part.lane_name(pitch))
    name = conventions.pitch(pitch, name_fifth=name_fifth)
    for sign, plain in PLAIN_SIGNS.items():
        name = name.replace(sign, plain)
    return name


def bars_again(part: Part) -> dict[int, int]:
    """Return, by their numbers, the bars that are written once and played again, and which they are."""
    if part.form is None or folded(part) is None:
        return {}
    by, first = part.first_bar - 1, part.form.first_played
    played = ((k + by, first[written - 1] + by) for k, written in enumerate(part.form.order, start=1))
    return {number: source for number, source in played if number != source}


def usual_velocity(part: Part) -> int:
    """Return the velocity that most notes have, which is not written at each."""
    return max(Counter(note.velocity for note in part.notes).items(), key=lambda each: (each[1], -each[0]))[0]


def _hand_word(hand: Hand | None) -> str:
    return next((word for word, each in HANDS.items() if each is hand), "")


def _wrapped(words: list[str], number: int, width: int) -> Iterator[str]:
    """A bar's words in lines that are not too long; each begins with the bar's number."""
    line = words[0]
    for word in words[1:]:
        if len(line) + 1 + len(word) > width:
            yield line
            line = f"{number}{GOES_ON}"
        line = f"{line} {word}"
    yield line


def _signs_over(part: Part) -> dict[tuple[int, bool], list[str]]:
    """Chord names and words by the place of the next moment, and whether it is the left hand's."""
    over: dict[tuple[int, bool], list[str]] = {}
    places = {(m.tick, m.hand is Hand.LEFT) for m in moments(part)}
    for tick, word, is_left in (
        *((chord.tick, f"[{chord.name}]", False) for chord in part.chords),
        *((s.tick, f'"{s.text}"', s.is_left) for s in part.signs if s.kind is SignKind.TEXT),
    ):
        place = next(((tick, left) for left in (is_left, not is_left) if (tick, left) in places), None)
        if place is not None:
            over.setdefault(place, []).append(word)
    return over


def _note_signs(part: Part, moment: Moment) -> str:
    """Ends and beginnings of slurs, and a fermata, behind the first name of a moment."""
    is_left = moment.hand is Hand.LEFT
    here = [sign for sign in part.signs if sign.is_left is is_left and sign.kind is not SignKind.TEXT]
    slurs = [sign for sign in here if sign.kind is SignKind.SLUR]
    ends = SLUR_END if any(sign.end_tick == moment.tick for sign in slurs) else ""
    begins = SLUR if any(sign.tick == moment.tick for sign in slurs) else ""
    has_fermata = any(sign.kind is SignKind.FERMATA and sign.tick == moment.tick for sign in here)
    return f"{ends}{begins}{FERMATA if has_fermata else ''}"
