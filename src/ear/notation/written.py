"""A part as a musician writes it down: bars, staves, voices, note values, ties, triplets, beams.

Onsets and ends are brought to the nearest thirty-second, or, in beats that fit it better, to the
nearest sixteenth of a triplet: recorded notes are written as they were meant. What is exact stays exact
in the part; each written note says which of the part's notes it is.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import chain, groupby, zip_longest
from typing import NamedTuple

from ear.measuring.dynamics import accented
from ear.notation.graces import WrittenGrace, grace_before
from ear.notation.strokes import ghosts
from ear.notation.values import FINE, TRIPLET_FINE, Value, ValueGrid
from ear.notes import STANDARD_KIT, Bar, KitMap, Lane, Part, spell
from ear.notes.note import MAX_VOICES
from ear.notes.pitch import key_alteration
from ear.staves import Staves, staves_of
from ear.units import TICKS_PER_QUARTER

MIN_BEAM = 8
"""Eighths and shorter have beams."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenNote:
    """One head: which note of the part it is, how it is spelled, whether ties come and go."""

    note: int
    pitch: int
    step: int
    """Diatonic step from C of MIDI octave -1."""
    alteration: int
    shows_accidental: bool
    is_tied_from: bool
    is_tied_on: bool
    lane: Lane | None = None
    grace: WrittenGrace | None = None
    """The small note before it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Written:
    """A chord, a note or a rest (no heads) of one value."""

    tick: int
    value: Value
    heads: tuple[WrittenNote, ...] = ()
    is_whole_bar: bool = False
    """A rest that fills its bar, whatever the meter."""
    group: int = 0
    """What is beamed together has one number; 0 for what has no beam."""
    triplet: int = 0
    """What is one triplet has one number; 0 outside."""

    @property
    def is_rest(self) -> bool:
        """Is nothing sounded?"""
        return not self.heads


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenStaffBar:
    """One bar of one staff: a voice or more, each filling the bar."""

    voices: tuple[tuple[Written, ...], ...]
    numbers: tuple[int, ...]
    """Of each voice its number in the staff, from 1: a voice that rests for a while keeps it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenBar:
    """One bar through all staves."""

    bar: Bar
    fifths: int
    staves: tuple[WrittenStaffBar, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenScore:
    """The whole part: clefs by staff from the top, and its bars."""

    part: Part
    clefs: tuple[str, ...]
    bars: tuple[WrittenBar, ...]
    accents: frozenset[int]
    """Strokes with an accent over them: those that are measured as accents. A keyboard's velocities are
    shaped note by note, and an accent over each stronger one would say nothing."""
    ghosts: frozenset[int]
    """Strokes in brackets."""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Event:
    """Notes of one voice that begin and end together, in ticks that can be written."""

    start: int
    end: int
    notes: tuple[int, ...]
    voice: int | None = None
    """Which it is said to be in."""


def write_out(part: Part, *, kit: KitMap = STANDARD_KIT) -> WrittenScore:
    """Return a part spelled out in note values."""
    staves = staves_of(part, kit=kit)
    grid = ValueGrid.of(part)
    # Voices are made for the whole staff first: a note held over a bar line must stay in its voice.
    by_staff = [
        [_by_bar(part, voice) for voice in _voices(part, staff, staves, grid)]
        for staff in range(len(staves.clefs))
    ]
    bars = []
    for bar in part.bars:
        fifths = part.fifths_at(bar.start_tick)
        bars.append(
            WrittenBar(
                bar=bar,
                fifths=fifths,
                staves=tuple(_staff_bar(part, bar, voices, grid, fifths, kit) for voices in by_staff),
            )
        )
    is_drums = part.instrument.has_lanes
    return WrittenScore(
        part=part,
        clefs=tuple(clef.name for clef in staves.clefs),
        bars=tuple(bars),
        accents=frozenset(accented(part, kit=kit).nonzero()[0].tolist() if is_drums else ()),
        ghosts=ghosts(part, kit=kit) if is_drums else frozenset(),
    )


def _by_bar(part: Part, voice: Sequence[_Event]) -> dict[int, list[_Event]]:
    """A voice's events by the number of each bar in which they sound."""
    events: dict[int, list[_Event]] = {}
    for event in voice:
        first, last = part.meters.bar_at(event.start).number, part.meters.bar_at(event.end - 1).number
        for number in range(first, last + 1):
            events.setdefault(number, []).append(event)
    return events


def _voices(part: Part, staff: int, staves: Staves, grid: ValueGrid) -> list[list[_Event]]:
    inside = [i for i, n in enumerate(part.notes) if staves.staff_of(n.pitch, n.hand) == staff]
    if part.instrument.has_lanes:
        # Drum staves have two voices by custom: hands with stems up, feet with stems down.
        feet = [i for i in inside if staves.kit.written_lane(part.notes[i].pitch).is_foot]
        hands = [i for i in inside if not staves.kit.written_lane(part.notes[i].pitch).is_foot]
        return [_strokes(part, notes, grid) for notes in (hands, feet)]
    # Notes that begin and end together in one voice are one chord with one stem.
    by_span: dict[tuple[int, int, int | None], list[int]] = {}
    for i in inside:
        note = part.notes[i]
        start = grid.onset(note.onset_tick)
        end = max(grid.snap(note.end_tick), start + (TRIPLET_FINE if grid.is_triplet(start) else FINE))
        by_span.setdefault((start, _to_full(part, start, end, grid), note.voice), []).append(i)
    events = [_Event(start=s, end=e, notes=tuple(ns), voice=v) for (s, e, v), ns in by_span.items()]
    # Higher notes first, so that voice 1 is the upper one, as readers expect.
    events.sort(key=lambda e: (e.start, -max(part.notes[i].pitch for i in e.notes)))
    voices: list[list[_Event]] = [[] for _ in range(max((e.voice or 0 for e in events), default=0))]
    for _, together in groupby(events, key=lambda e: e.start):
        waiting = []
        # What is said to be in a voice takes its place there before the others look for one.
        for event in together:
            shown = voices[event.voice - 1] if event.voice else None
            if shown is not None and (_is_free(shown, event) or shown[-1].start == event.start):
                _put(shown, event)
            else:
                waiting.append(event)
        for event in waiting:
            voice = next((v for v in voices if _is_free(v, event)), None)
            if voice is None and len(voices) < MAX_VOICES:
                voice = []
                voices.append(voice)
            if voice is None:
                # More lines than can be read: its own, or the one that ends first, is cut short or takes the note in.
                voice = voices[event.voice - 1] if event.voice else min(voices, key=lambda v: v[-1].end)
            _put(voice, event)
    return voices


def _is_free(voice: Sequence[_Event], event: _Event) -> bool:
    return not voice or voice[-1].end <= event.start


def _put(voice: list[_Event], event: _Event) -> None:
    """Behind what is there, which is cut short where it would sound on; what begins at once is one chord."""
    if voice and voice[-1].start == event.start:
        last = voice[-1]
        voice[-1] = replace(last, end=max(last.end, event.end), notes=last.notes + event.notes)
        return
    if voice and voice[-1].end > event.start:
        voice[-1] = replace(voice[-1], end=event.start)
    voice.append(event)


def _to_full(part: Part, start: int, end: int, grid: ValueGrid) -> int:
    """A key let go a little before its value is over is written with the whole value: lengths within a
    sixteenth of the next half beat are meant to reach it."""
    # Pianists let go early; written literally, every bar would be full of short rests.
    half = TICKS_PER_QUARTER // (3 if grid.is_triplet(end - 1) else 2)
    wanted = -(-end // half) * half
    return wanted if 0 < wanted - end <= FINE and end > start else end


def _strokes(part: Part, notes: Sequence[int], grid: ValueGrid) -> list[_Event]:
    """Drum strokes last until the next one, within their beat."""
    by_tick: dict[int, list[int]] = {}
    for i in notes:
        by_tick.setdefault(grid.onset(part.notes[i].onset_tick), []).append(i)
    ticks = sorted(by_tick)
    events = []
    for tick, after in zip_longest(ticks, ticks[1:]):
        bar = part.meters.bar_at(tick)
        # A stroke has no length of its own: its value only fills the time up to the next stroke or the end
        # of the beat.
        beat_end = tick + bar.meter.beat_ticks - (tick - bar.start_tick) % bar.meter.beat_ticks
        end = beat_end if after is None else min(beat_end, after)
        events.append(_Event(start=tick, end=end, notes=tuple(by_tick[tick])))
    return events


def _staff_bar(
    part: Part, bar: Bar, voices: Sequence[dict[int, list[_Event]]], grid: ValueGrid, fifths: int, kit: KitMap
) -> WrittenStaffBar:
    written: dict[int, list[Written]] = {}
    for number, voice in enumerate(voices, start=1):
        inside = voice.get(bar.number)
        if inside:
            written[number] = _voice_bar(part, bar, inside, grid, kit)
    # A bar of rest beside a voice that plays says nothing.
    if not written:
        written[1] = _voice_bar(part, bar, (), grid, kit)
    showing = _showing_accidentals(written.values(), fifths)
    lines = tuple(tuple(_with_accidentals(w, showing) for w in line) for line in written.values())
    return WrittenStaffBar(voices=lines, numbers=tuple(written))


class _Signed(NamedTuple):
    """What may have an accidental: the head of a note at a tick, or the grace note before it."""

    tick: int
    is_head: bool
    note: int


def _showing_accidentals(lines: Iterable[Sequence[Written]], fifths: int) -> set[_Signed]:
    """Return all that needs an accidental. One holds for its step to the end of the bar, in all voices of
    the staff, from where it stands; a head that a tie comes to has none, and makes none hold."""
    shown: dict[int, int | None] = {}
    showing: set[_Signed] = set()
    struck: list[tuple[_Signed, WrittenNote | WrittenGrace]] = []
    for written in chain.from_iterable(lines):
        for head in written.heads:
            if head.lane is None and not head.is_tied_from:
                struck.append((_Signed(written.tick, True, head.note), head))
                if head.grace is not None:
                    struck.append((_Signed(written.tick, False, head.note), head.grace))
    # A grace note sorts before its head, because it is read first and its accidental holds for the head.
    struck.sort(key=_moment)
    for _, together in groupby(struck, key=_moment):
        by_step: dict[int, list[tuple[_Signed, int]]] = {}
        for signed, sign in together:
            by_step.setdefault(sign.step, []).append((signed, sign.alteration))
        for step, signs in by_step.items():
            # None in `shown` stands for a step whose accidental is ambiguous: the next note must state its
            # own.
            in_force = shown.get(step, key_alteration(step, fifths=fifths))
            names = {alteration for _, alteration in signs}
            # F and F sharp struck together: both say which they are, and so does what follows.
            if names != {in_force}:
                showing.update(signed for signed, _ in signs)
                shown[step] = names.pop() if len(names) == 1 else None
    return showing


def _moment(struck: tuple[_Signed, object]) -> tuple[int, bool]:
    signed, _ = struck
    return signed.tick, signed.is_head


def _with_accidentals(written: Written, showing: set[_Signed]) -> Written:
    def shown(head: WrittenNote) -> WrittenNote:
        grace = head.grace
        if grace is not None:
            grace = replace(grace, shows_accidental=_Signed(written.tick, False, head.note) in showing)
        shows = _Signed(written.tick, True, head.note) in showing
        return replace(head, shows_accidental=shows, grace=grace)

    return replace(written, heads=tuple(map(shown, written.heads)))


def _voice_bar(part: Part, bar: Bar, events: Sequence[_Event], grid: ValueGrid, kit: KitMap) -> list[Written]:
    if not events:
        return [Written(tick=bar.start_tick, value=Value(base=1), is_whole_bar=True)]
    line: list[Written] = []
    at = bar.start_tick
    for event in events:
        start, end = max(event.start, bar.start_tick), min(event.end, bar.end_tick)
        line += [Written(tick=t, value=v) for t, v in grid.rests(at, start, bar)]
        # A length that no single value has is written as several, tied.
        pieces = grid.pieces(start, end, bar)
        for k, (tick, value) in enumerate(pieces):
            heads = tuple(
                _head(
                    part, i, kit=kit,
                    comes=event.start < bar.start_tick or k > 0,
                    goes=event.end > bar.end_tick or k < len(pieces) - 1,
                )
                for i in sorted(event.notes, key=lambda i: part.notes[i].pitch)
            )  # fmt: skip
            line.append(Written(tick=tick, value=value, heads=heads))
        at = end
    line += [Written(tick=t, value=v) for t, v in grid.rests(at, bar.end_tick, bar)]
    return _beamed(_in_triplets(line, grid), bar)


def _head(part: Part, i: int, *, kit: KitMap, comes: bool, goes: bool) -> WrittenNote:
    """Without an accidental: the whole bar of the staff decides on those."""
    pitch = part.notes[i].pitch
    if part.instrument.has_lanes:
        return WrittenNote(
            note=i, pitch=pitch, step=0, alteration=0, shows_accidental=False, is_tied_from=False, is_tied_on=False,
            lane=kit.written_lane(pitch),
        )  # fmt: skip
    spelling = spell(pitch, name_fifth=part.names[i])
    return WrittenNote(
        note=i, pitch=pitch, step=spelling.step, alteration=spelling.alteration, shows_accidental=False,
        is_tied_from=comes, is_tied_on=goes, grace=None if comes else grace_before(part, i, step=spelling.step),
    )  # fmt: skip


def _in_triplets(line: Sequence[Written], grid: ValueGrid) -> list[Written]:
    """Number what stands in one beat's triplet."""
    return [replace(w, triplet=w.tick // TICKS_PER_QUARTER + 1) if w.value.is_triplet else w for w in line]


def _beamed(line: Sequence[Written], bar: Bar) -> list[Written]:
    """Beam short values of one beat; in four-four and its kin eighths of half a bar together."""
    beat = bar.meter.beat_ticks

    def beat_of(w: Written) -> int:
        return (w.tick - bar.start_tick) // beat

    groups: dict[int, int] = {}
    is_long = not bar.meter.is_compound and bar.meter.beats % 2 == 0
    for half, inside in groupby(range(len(line)), key=lambda k: beat_of(line[k]) // 2 if is_long else -1):
        members = list(inside)
        only_eighths = half >= 0 and all(
            line[k].value == Value(base=MIN_BEAM) and not line[k].is_rest for k in members
        )
        for k in members:
            groups[k] = half * 2 if only_eighths else beat_of(line[k])
    numbers = [0] * len(line)
    for k, w in enumerate(line):
        if not w.is_rest and w.value.base >= MIN_BEAM:
            numbers[k] = groups[k] + 1
    for k, number in enumerate(numbers):
        alone = number and number not in (
            numbers[k - 1] if k else 0,
            numbers[k + 1] if k + 1 < len(line) else 0,
        )
        if alone:
            numbers[k] = 0
    return [replace(w, group=number) for w, number in zip(line, numbers, strict=True)]


def voices_of(score: WrittenScore) -> tuple[int, ...]:
    """Return, for each note of the part, the number of the voice that it begins in, within its staff."""
    voices: dict[int, int] = {}
    for bar in score.bars:
        for staff in bar.staves:
            for number, line in zip(staff.numbers, staff.voices, strict=True):
                for written in line:
                    for head in written.heads:
                        voices.setdefault(head.note, number)
    return tuple(voices.get(i, 1) for i in range(len(score.part.notes)))
