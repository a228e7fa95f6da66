"""A part as a musician writes it down: bars, staves, voices, note values, ties, tuplets, beams.

What is exact stays exact in the part; each written note says which of the part's notes it is. `ear.notation.placing` says
where notes are written, `voices` which belong together, `rhythm` with what values.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ear.measuring.dynamics import accented
from ear.notation.accidentals import Accidentals
from ear.notation.beams import beamed
from ear.notation.graces import grace_before
from ear.notation.octave_lines import OctaveLine, octave_lines, under_lines
from ear.notation.placing import places, unison_end
from ear.notation.rhythm import Ruler, Span
from ear.notation.strokes import ghosts
from ear.notation.values import Value
from ear.notation.voices import Event, strokes, voices
from ear.notation.written_notes import Tuplet, Written, WrittenNote
from ear.notes import STANDARD_KIT, Bar, KitMap, Part, spell
from ear.staves import Staves, staves_of


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
    first_tick: int
    """Where it begins on paper: of a pick-up, at its first note."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenScore:
    """The whole part: clefs by staff from the top, and its bars."""

    part: Part
    clefs: tuple[str, ...]
    bars: tuple[WrittenBar, ...]
    octave_lines: tuple[OctaveLine, ...]
    accents: frozenset[int]
    """Strokes with an accent over them: those that are measured as accents. A keyboard's velocities are
    shaped note by note, and an accent over each stronger one would say nothing."""
    ghosts: frozenset[int]
    """Strokes in brackets."""

    def heads_at(self, staff: int, tick: int) -> list[WrittenNote]:
        """Return the heads that begin at a tick on a staff, the upper voice first."""
        bar = self.bars[self.part.meters.bar_at(tick).number - self.part.first_bar]
        return [
            head
            for voice in bar.staves[min(staff, len(bar.staves) - 1)].voices for written in voice if written.tick == tick
            for head in written.heads if not head.is_tied_from
        ]  # fmt: skip


def write_out(part: Part, *, kit: KitMap = STANDARD_KIT) -> WrittenScore:
    """Return a part spelled out in note values."""
    staves = staves_of(part, kit=kit)
    # Voices are made for the whole staff first: a note held over a bar line must stay in its voice.
    by_staff = [[_by_bar(part, voice) for voice in staff] for staff in _voices(part, staves)]
    accidentals = [Accidentals() for _ in by_staff]
    bars = []
    for bar in part.bars:
        first_tick = _first_tick(part, bar, by_staff)
        fifths = part.fifths_at(bar.start_tick)
        bars.append(
            WrittenBar(
                bar=bar,
                fifths=fifths,
                staves=tuple(
                    _staff_bar(part, bar, first_tick, lines, signs, fifths, kit)
                    for lines, signs in zip(by_staff, accidentals, strict=True)
                ),
                first_tick=first_tick,
            )
        )
    is_drums = part.instrument.has_lanes
    lines = [] if is_drums else _octave_lines(bars, staves)
    return WrittenScore(
        part=part,
        clefs=tuple(clef.name for clef in staves.clefs),
        bars=tuple(_under(bar, lines) for bar in bars) if lines else tuple(bars),
        octave_lines=tuple(lines),
        accents=frozenset(accented(part, kit=kit).nonzero()[0].tolist() if is_drums else ()),
        ghosts=ghosts(part, kit=kit) if is_drums else frozenset(),
    )


def _first_tick(part: Part, bar: Bar, by_staff: Sequence[Sequence[dict[int, list[Event]]]]) -> int:
    """Where a bar begins on paper. Nobody writes the rests before a pick-up."""
    if bar.number != 0 or part.first_bar != 0:
        return bar.start_tick
    starts = (e.start for lines in by_staff for voice in lines for e in voice.get(bar.number, ()))
    return min(starts, default=bar.start_tick)


def _octave_lines(bars: Sequence[WrittenBar], staves: Staves) -> list[OctaveLine]:
    return [
        line
        for k, clef in enumerate(staves.clefs)
        for line in octave_lines(
            [voice for bar in bars for voice in bar.staves[k].voices], staff=k, bottom_step=clef.bottom_step
        )
    ]


def _under(bar: WrittenBar, lines: Sequence[OctaveLine]) -> WrittenBar:
    """The bar with its heads where octave lines have them."""
    here = [
        line for line in lines if line.first_tick < bar.bar.end_tick and line.end_tick > bar.bar.start_tick
    ]
    if not here:
        return bar
    staves = [
        replace(
            staff,
            voices=tuple(under_lines(v, [line for line in here if line.staff == k]) for v in staff.voices),
        )
        for k, staff in enumerate(bar.staves)
    ]
    return replace(bar, staves=tuple(staves))


def _by_bar(part: Part, voice: Sequence[Event]) -> dict[int, list[Event]]:
    """A voice's chords by the number of each bar in which they sound."""
    by_bar: dict[int, list[Event]] = {}
    for event in voice:
        first, last = part.meters.bar_at(event.start).number, part.meters.bar_at(event.end - 1).number
        for number in range(first, last + 1):
            by_bar.setdefault(number, []).append(event)
    return by_bar


def _voices(part: Part, staves: Staves) -> list[list[list[Event]]]:
    """The voices of each staff."""
    if part.instrument.has_lanes:
        # Drum staves have two voices by custom: hands with stems up, feet with stems down.
        is_foot = [staves.kit.written_lane(note.pitch).is_foot for note in part.notes]
        onsets = [start for start, _ in places(part, [int(foot) for foot in is_foot])]
        return [
            [
                strokes(part, [i for i, foot in enumerate(is_foot) if foot is wanted], onsets)
                for wanted in (False, True)
            ]
        ]
    staff_of = [staves.staff_of(note.pitch, note.hand) for note in part.notes]
    chords: list[dict[tuple[int, int, int | None], list[int]]] = [{} for _ in staves.clefs]
    second: list[set[tuple[int, int]]] = [set() for _ in staves.clefs]
    for i, (start, end) in enumerate(places(part, staff_of)):
        chords[staff_of[i]].setdefault((start, end, part.notes[i].voice), []).append(i)
        unison = part.notes[i].unison
        if unison is not None:
            staff, ends = staves.staff_of(part.notes[i].pitch, unison.hand), unison_end(part, i, start, end)
            chords[staff].setdefault((start, ends, unison.voice), []).append(i)
            second[staff].add((i, ends))
    return [
        voices(
            part,
            (
                Event(
                    start=start, end=end, notes=tuple(notes), voice=voice,
                    pitch=sum(part.notes[i].pitch for i in notes) / len(notes),
                    unisons=frozenset(i for i in notes if (i, end) in seconds),
                )
                for (start, end, voice), notes in staff.items()
            ),
        )
        for staff, seconds in zip(chords, second, strict=True)
    ]  # fmt: skip


def _staff_bar(
    part: Part,
    bar: Bar,
    first_tick: int,
    lines: Sequence[dict[int, list[Event]]],
    signs: Accidentals,
    fifths: int,
    kit: KitMap,
) -> WrittenStaffBar:
    written: dict[int, list[Written]] = {}
    for number, voice in enumerate(lines, start=1):
        inside = voice.get(bar.number)
        if inside:
            hides_rests = bool(written) and not part.instrument.has_lanes
            written[number] = _voice_bar(part, bar, first_tick, inside, kit, hides_rests=hides_rests)
    # A bar of rest beside a voice that plays says nothing.
    if not written and first_tick > bar.start_tick:
        written[1] = _line(Ruler(bar.meter, []), bar, first_tick - bar.start_tick, bar.meter.bar_ticks)
    elif not written:
        written[1] = [
            Written(tick=bar.start_tick, end_tick=bar.end_tick, value=Value(base=1), is_whole_bar=True)
        ]
    return WrittenStaffBar(voices=tuple(signs.bar(list(written.values()), fifths)), numbers=tuple(written))


def _voice_bar(
    part: Part, bar: Bar, first_tick: int, events: Sequence[Event], kit: KitMap, *, hides_rests: bool
) -> list[Written]:
    spans: list[Span] = [
        (max(e.start, bar.start_tick) - bar.start_tick, min(e.end, bar.end_tick) - bar.start_tick)
        for e in events
    ]
    ruler = Ruler(bar.meter, spans)
    line: list[Written] = []
    at = first_tick - bar.start_tick
    for event, (start, end) in zip(events, spans, strict=True):
        line += _line(ruler, bar, at, start)
        heads = [
            _head(
                part,
                i,
                kit=kit,
                comes=event.start < bar.start_tick,
                goes=event.end > bar.end_tick,
                is_unison=i in event.unisons,
            )
            for i in sorted(event.notes, key=lambda i: part.notes[i].pitch)
        ]
        # A length that no single value has is written as several, tied.
        line += _line(ruler, bar, start, end, heads)
        at = end
    line += _line(ruler, bar, at, bar.meter.bar_ticks)
    return beamed([_hidden(w, bar, spans) for w in line] if hides_rests else line, bar)


def _line(ruler: Ruler, bar: Bar, start: int, end: int, heads: Sequence[WrittenNote] = ()) -> list[Written]:
    if start == end:
        return []
    pieces = ruler.pieces(start, end, is_rest=not heads)
    made = []
    for k, piece in enumerate(pieces):
        tuplet = None
        if piece.tuplet is not None and piece.value.ratio is not None:
            first, last = piece.tuplet
            tuplet = Tuplet(start=bar.start_tick + first, ticks=last - first, ratio=piece.value.ratio)
        tied = tuple(_tied(head, k, len(pieces)) for head in heads)
        first, last = bar.start_tick + piece.start, bar.start_tick + piece.end
        made.append(Written(tick=first, end_tick=last, value=piece.value, heads=tied, tuplet=tuplet))
    return made


def _tied(head: WrittenNote, k: int, pieces: int) -> WrittenNote:
    """The head of one piece of a note."""
    return replace(
        head, is_tied_from=head.is_tied_from or k > 0, is_tied_on=head.is_tied_on or k < pieces - 1,
        grace=None if k else head.grace,
    )  # fmt: skip


def _hidden(written: Written, bar: Bar, spans: Sequence[Span]) -> Written:
    """A rest over beats in which its voice does not play at all is not shown beside another voice."""
    if not written.is_rest:
        return written
    starts = (*bar.meter.beat_starts, bar.meter.bar_ticks)
    first = max(start for start in starts if start <= written.tick - bar.start_tick)
    last = min(start for start in starts if start >= written.end_tick - bar.start_tick)
    is_silent = all(end <= first or start >= last for start, end in spans)
    return replace(written, is_hidden=is_silent)


def _head(part: Part, i: int, *, kit: KitMap, comes: bool, goes: bool, is_unison: bool) -> WrittenNote:
    """Without an accidental: the whole bar of the staff decides on those."""
    pitch = part.notes[i].pitch
    if part.instrument.has_lanes:
        return WrittenNote(
            note=i, pitch=pitch, step=0, alteration=0, is_tied_from=False, is_tied_on=False,
            lane=kit.written_lane(pitch),
        )  # fmt: skip
    spelling = spell(pitch, name_fifth=part.names[i])
    return WrittenNote(
        note=i, pitch=pitch, step=spelling.step, alteration=spelling.alteration, is_tied_from=comes, is_tied_on=goes,
        grace=None if comes or is_unison else grace_before(part, i, step=spelling.step), is_unison=is_unison,
    )  # fmt: skip


def voices_of(score: WrittenScore) -> tuple[int, ...]:
    """Return, for each note of the part, the number of the voice that it begins in, within its staff."""
    numbers: dict[int, int] = {}
    for bar in score.bars:
        for staff in bar.staves:
            for number, line in zip(staff.numbers, staff.voices, strict=True):
                for written in line:
                    for head in written.heads:
                        numbers.setdefault(head.note, number)
    return tuple(numbers.get(i, 1) for i in range(len(score.part.notes)))


def spans_of(score: WrittenScore) -> tuple[tuple[int, int], ...]:
    """Return, for each note of the part, where its heads say that it begins and ends, in ticks: tied ones added up."""
    begins: dict[int, int] = {}
    ends: dict[int, int] = {}
    for bar in score.bars:
        for written in (w for staff in bar.staves for voice in staff.voices for w in voice):
            for head in written.heads:
                begins.setdefault(head.note, written.tick)
                ends[head.note] = written.end_tick
    return tuple((begins[i], ends[i]) for i in range(len(score.part.notes)))
