"""Whole bars: take out, put in, copy, repeat, join parts, lead in, trim.

A part's meters are handled as one meter a bar, so that bars can be moved with theirs; its tempos
move with the music behind them.
"""

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import replace

from ear.editing.bar_numbers import by_position, check_bars
from ear.editing.edited import Edited, rebuilt
from ear.errors import ValueOutOfRange
from ear.notes import (  # fmt: skip
    Meter,
    MeterChange,
    MeterMap,
    Note,
    Part,
    PedalMark,
    Section,
    SignKind,
    StaffSign,
    TempoChange,
    TempoMap,
    WrittenForm,
    place_of,
)
from ear.notes.form import MAX_TIMES
from ear.notes.signs import sign_place
from ear.units import TICKS_PER_DIVISION

MAX_BARS = 400
CUE_LANE = 37
"""Side stick: a cue that no exercise of the kit is about."""
CUE_VELOCITY, CUE_LENGTH = 60, 60


def meters_of(part: Part) -> list[Meter]:
    """Return the metre of each bar."""
    return [bar.meter for bar in part.bars]


def _meter_map(meters: Sequence[Meter], *, after: Meter) -> MeterMap:
    """One meter a bar as a map; `after` goes on behind the last."""
    changes: list[MeterChange] = []
    for number, meter in enumerate([*meters, after], start=1):
        if not changes or changes[-1].meter != meter:
            changes.append(MeterChange(bar=number, meter=meter))
    return MeterMap(changes)


def check_room(bars: int) -> None:
    """Check that a part may have so many bars. Raises ValueOutOfRange."""
    if bars > MAX_BARS:
        raise ValueOutOfRange("too_many_bars", bars_most=MAX_BARS, bars=bars)


def tempo_map(changes: Iterable[TempoChange]) -> TempoMap:
    """Return the map of these changes in order.

    Of two at one tick the later one holds, and the first is moved to tick 0.
    """
    by_tick = {max(0, c.tick): c.bpm for c in changes}
    kept: list[TempoChange] = []
    for tick, bpm in sorted(by_tick.items()):
        if not kept or kept[-1].bpm != bpm:
            kept.append(TempoChange(tick=tick, bpm=bpm))
    kept[0] = TempoChange(tick=0, bpm=kept[0].bpm)
    return TempoMap(kept)


@by_position(lambda first, last: first > 1)
def delete_bars(part: Part, *, first: int, last: int) -> Edited:
    """Delete bars and close the gap. A note that reached into them ends where they began."""
    check_bars(part, first, last)
    start, end = part.bars[first - 1].start_tick, part.bars[last - 1].end_tick
    gone = end - start

    def kept_note(note: Note) -> Note | None:
        if note.onset_tick < start:
            return replace(note, length_tick=min(note.length_tick, start - note.onset_tick))
        return replace(note, onset_tick=note.onset_tick - gone) if note.onset_tick >= end else None

    def kept_tick(tick: int) -> int | None:
        return tick if tick < start else (tick - gone if tick >= end else None)

    meters = meters_of(part)
    kept = [*meters[: first - 1], *meters[last:]]
    tempos = [c for c in part.tempos.changes if c.tick < start or c.tick >= end]
    moved = [replace(c, tick=c.tick - gone) if c.tick >= end else c for c in tempos]
    moved.append(TempoChange(tick=start, bpm=part.tempos.bpm_at(end)))
    sections = [
        s if s.bar < first else replace(s, bar=max(first, s.bar - (last - first + 1))) for s in part.sections
    ]
    return made_of_bars(
        moved_music(part, kept_note, kept_tick),
        meters=kept,
        after=meters[-1],
        tempos=tempo_map(sorted(moved, key=lambda c: c.tick)),
        sections=one_a_bar(sections),
    )


def keep_bars(part: Part, wanted_bars: Collection[int]) -> Part:
    """Return only these bars of a part, one after the other.

    Raises ValueOutOfRange for no bars, or for a bar that does not exist.
    """
    wanted = set(wanted_bars)
    numbers = range(part.first_bar, part.last_bar + 1)
    if not wanted or not wanted <= set(numbers):
        raise ValueOutOfRange("bar_outside_part", count=part.last_bar)
    kept = part.lasting(len(part.bars))
    for number in reversed(numbers):
        if number not in wanted:
            kept = delete_bars(kept, first=number, last=number).part
    return kept


@by_position(lambda before, count, meter=None: before > 1)
def insert_bars(part: Part, *, before: int, count: int, meter: Meter | None = None) -> Edited:
    """Insert empty bars before a bar (or after the last), in its metre unless another is given.

    A note that reached into that bar ends where the new ones begin. Raises ValueOutOfRange.
    """
    bars = len(part.bars)
    if not 1 <= before <= bars + 1 or count < 1:
        raise ValueOutOfRange("empty_bars_place_outside_part", value=bars + 1)
    check_room(bars + count)
    meters = meters_of(part)
    new = meter or meters[min(before, bars) - 1]
    start = part.meters.bar(before).start_tick
    room = count * new.bar_ticks

    def moved_note(note: Note) -> Note:
        if note.onset_tick >= start:
            return replace(note, onset_tick=note.onset_tick + room)
        return replace(note, length_tick=min(note.length_tick, start - note.onset_tick))

    tempos = [replace(c, tick=c.tick + room) if c.tick >= start else c for c in part.tempos.changes]
    tempos.append(TempoChange(tick=start, bpm=part.tempos.bpm_at(start)))
    return made_of_bars(
        moved_music(part, moved_note, lambda tick: tick + room if tick >= start else tick),
        meters=[*meters[: before - 1], *[new] * count, *meters[before - 1 :]],
        after=meters[-1],
        tempos=tempo_map(sorted(tempos, key=lambda c: c.tick)),
        sections=[replace(s, bar=s.bar + count) if s.bar >= before else s for s in part.sections],
    )


@by_position(lambda first, last, before, times=1: before > 1)
def copy_bars(part: Part, *, first: int, last: int, before: int, times: int = 1) -> Edited:
    """Insert copies of bars before a bar (or after the last), and select the copies. Raises ValueOutOfRange."""
    check_bars(part, first, last)
    bars = part.bars[first - 1 : last]
    check_room(len(part.bars) + len(bars) * times)
    if times < 1:
        raise ValueOutOfRange("copies_too_few")
    start, length = bars[0].start_tick, bars[-1].end_tick - bars[0].start_tick
    copied = [
        replace(n, length_tick=min(n.length_tick, start + length - n.onset_tick))
        for n in part.notes
        if start <= n.onset_tick < start + length
    ]
    made = part
    # From the back, so that each copy's bars are put in before the ones already there.
    for _ in range(times):
        for bar in reversed(bars):
            made = insert_bars(made, before=before, count=1, meter=bar.meter).part
    to = made.meters.bar(before).start_tick
    new = {
        (n.onset_tick - start + to + k * length, n.pitch): replace(
            n, onset_tick=n.onset_tick - start + to + k * length
        )
        for k in range(times)
        for n in copied
    }
    chords = [c for c in part.chords if start <= c.tick < start + length]
    copies = [replace(c, tick=c.tick - start + to + k * length) for k in range(times) for c in chords]
    end = start + length
    signs = [
        sign.moved(to - start + k * length)
        for k in range(times)
        for sign in part.signs
        if start <= sign.tick and sign.tick < end and sign.end_tick <= end
    ]
    held = [
        replace(m, start_tick=max(m.start_tick, start), end_tick=min(m.end_tick, start + length))
        for m in part.pedal
        if m.start_tick < start + length and m.end_tick > start
    ]
    pedal = [
        replace(
            m,
            start_tick=m.start_tick - start + to + k * length,
            end_tick=m.end_tick - start + to + k * length,
        )
        for k in range(times)
        for m in held
    ]
    part = replace(
        made.with_notes([*made.notes, *new.values()]),
        pedal=tuple(sorted([*made.pedal, *pedal], key=lambda m: m.start_tick)),
        chords=tuple(sorted([*made.chords, *copies], key=lambda c: c.tick)),
        signs=tuple(sorted({*made.signs, *signs}, key=sign_place)),
    )
    selected = frozenset(i for i, n in enumerate(part.notes) if place_of(n) in new)
    return Edited(part=part, selected=selected)


@by_position(lambda **_: True)
def repeat_bars(part: Part, *, first: int, last: int, times: int = 1, ending_bars: int = 0) -> Edited:
    """Play bars so many times more, right behind themselves; written once, with signs.

    With `ending_bars` so many bars at their end get an ending of their own for the last time, a copy to be changed. What is
    repeated within bars that are repeated already is written as it is played. Raises ValueOutOfRange for endings there, and
    for endings that leave nothing in common.
    """
    made = copy_bars(part, first=first, last=last, before=last + 1, times=times)
    if not 0 <= ending_bars <= last - first:
        raise ValueOutOfRange("ending_too_long", field="ending_bars", most=last - first)
    form = part.form
    if form is None or len(form.order) != len(part.bars):
        form = WrittenForm(bars=len(part.bars), signs=())
    repeated = None
    if times < MAX_TIMES:
        repeated = form.with_repeat(first=first, last=last, times=times + 1, ending_bars=ending_bars)
    if repeated is None and ending_bars:
        raise ValueOutOfRange("ending_inside_repeat", field="ending_bars")
    return made if repeated is None else replace(made, part=replace(made.part, form=repeated))


def join(first: Part, second: Part) -> Part:
    """Return the parts one after the other, each with its metres and tempos, in the key of the first.

    Raises ValueOutOfRange where they are of different kinds.
    """
    if first.kind is not second.kind:
        raise ValueOutOfRange("keyboard_and_drums_mixed")
    if first.first_bar != 1 or second.first_bar != 1:
        return join(first.numbered_from(1), second.numbered_from(1)).numbered_from(first.first_bar)
    bars = len(first.bars)
    check_room(bars + len(second.bars))
    start = first.bars[-1].end_tick
    tempos = [c for c in first.tempos.changes if c.tick < start]
    tempos += [replace(c, tick=c.tick + start) for c in second.tempos.changes]
    moved = moved_music(
        second, lambda n: replace(n, onset_tick=n.onset_tick + start), lambda tick: tick + start
    )
    return made_of_bars(
        replace(
            first,
            notes=first.notes + moved.notes,
            cues=first.cues + moved.cues,
            chords=tuple(c for c in first.chords if c.tick < start) + moved.chords,
            signs=tuple(s for s in first.signs if s.end_tick <= start and s.tick < start) + moved.signs,
            pedal=tuple(
                replace(m, end_tick=min(m.end_tick, start)) for m in first.pedal if m.start_tick < start
            )
            + moved.pedal,
        ),
        meters=[*meters_of(first), *meters_of(second)],
        after=meters_of(second)[-1],
        tempos=tempo_map(tempos),
        sections=[*first.sections, *(replace(s, bar=s.bar + bars) for s in second.sections)],
    ).part


@by_position(lambda first, last: first == 1)
def only_bars(part: Part, *, first: int, last: int) -> Edited:
    """Return these bars alone. Raises ValueOutOfRange for bars outside the part."""
    check_bars(part, first, last)
    bars = len(part.bars)
    made = delete_bars(part, first=last + 1, last=bars).part if last < bars else part
    made = delete_bars(made, first=1, last=first - 1).part if first > 1 else made
    return Edited(part=made, selected=frozenset())


def lead_in(part: Part, *, bars: int, with_cue: bool = False) -> Edited:
    """Return the part with bars of rest in front of it.

    A cue is a soft stroke or key on each of their beats, which is heard but not measured.
    """
    made = insert_bars(part, before=part.first_bar, count=bars).part
    if not with_cue or not part.notes:
        return Edited(part=made, selected=frozenset())
    has_lanes = part.instrument.has_lanes
    meter = part.meters.first
    cues = [
        Note(
            onset_tick=tick,
            length_tick=CUE_LENGTH,
            pitch=CUE_LANE if has_lanes else part.notes[0].pitch,
            velocity=CUE_VELOCITY,
            hand=part.notes[0].hand,
        )
        for tick in range(0, bars * meter.bar_ticks, meter.beat_ticks)
    ]
    return Edited(part=replace(made, cues=(*cues, *made.cues)), selected=frozenset())


def trim_to_bars(part: Part) -> Edited:
    """Return a recorded part cut to whole bars.

    Empty bars before the first note and after the last are removed, and a note that crosses the last bar line
    by a division or less is cut there.
    """
    if not part.notes:
        return Edited(part=part, selected=frozenset())
    first = part.meters.bar_at(part.notes[0].onset_tick)
    if first.number > part.first_bar:
        part = delete_bars(part, first=part.first_bar, last=first.number - 1).part
    part = replace(part, least_bars=1)
    last = part.meters.bar_at(part.notes[-1].onset_tick)
    notes = []
    for note in part.notes:
        over = note.end_tick - last.end_tick
        is_cut = 0 < over <= TICKS_PER_DIVISION
        kept = replace(note, length_tick=last.end_tick - note.onset_tick) if is_cut else note
        notes.append((kept, is_cut))
    return rebuilt(part, notes)


def one_a_bar(sections: Iterable[Section]) -> list[Section]:
    """Return of sections that begin at one bar the last."""
    return [section for _, section in sorted({s.bar: s for s in sections}.items())]


def moved_music(part: Part, note: Callable[[Note], Note | None], tick: Callable[[int], int | None]) -> Part:
    """Return notes, cues, chord names and the pedal at other places; None takes one out. Their order must stay."""
    chords = []
    for mark in part.chords:
        at = tick(mark.tick)
        if at is not None:
            chords.append(replace(mark, tick=at))
    return replace(
        part,
        notes=tuple(n for n in map(note, part.notes) if n is not None),
        cues=tuple(n for n in map(note, part.cues) if n is not None),
        chords=tuple(chords),
        signs=tuple(sign for sign in (_moved_sign(sign, tick) for sign in part.signs) if sign is not None),
        pedal=tuple(p for p in (_moved_mark(mark, note) for mark in part.pedal) if p is not None),
        sections=(),
    )


def _moved_sign(sign: StaffSign, tick: Callable[[int], int | None]) -> StaffSign | None:
    """A sign goes with the place that it begins at; one whose end is gone is gone."""
    start, end = tick(sign.tick), tick(max(sign.tick, sign.end_tick - (sign.kind is not SignKind.SLUR)))
    if start is None or end is None or end < start:
        return None
    if sign.kind is SignKind.SLUR:
        return replace(sign, tick=start, end_tick=end) if end > start else None
    return replace(sign, tick=start, end_tick=end + (1 if sign.waits else 0))


def _moved_mark(mark: PedalMark, note: Callable[[Note], Note | None]) -> PedalMark | None:
    """The pedal goes where a note would that is held as long."""
    held = Note(onset_tick=mark.start_tick, length_tick=mark.end_tick - mark.start_tick, pitch=0, velocity=1)
    moved = note(held)
    return None if moved is None else PedalMark(start_tick=moved.onset_tick, end_tick=moved.end_tick)


def made_of_bars(
    part: Part,
    *,
    meters: Sequence[Meter],
    after: Meter,
    tempos: TempoMap,
    sections: Iterable[Section],
) -> Edited:
    """Return a part of these bars, nothing selected."""
    made = replace(
        part,
        meters=_meter_map(meters, after=after),
        tempos=tempos,
        sections=tuple(sections),
        least_bars=max(1, len(meters)),
        form=None,
    )
    return Edited(part=made, selected=frozenset())
