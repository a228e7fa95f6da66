"""The sustain pedal of a part: put down, lifted, changed with the harmony."""

from collections.abc import Iterable
from dataclasses import replace
from enum import StrEnum
from itertools import pairwise

from ear.editing.edited import Edited
from ear.errors import ValueOutOfRange
from ear.notes import Part, PedalMark


class ChangeAt(StrEnum):
    """Where the pedal is changed."""

    NOWHERE = "nowhere"
    BARS = "bars"
    BEATS = "beats"
    CHORDS = "chords"
    """Wherever a chord name stands."""


def hold_pedal(part: Part, *, first_bar: int, last_bar: int, change_at: ChangeAt) -> Edited:
    """Hold the pedal through these bars, changed as said; what was written in them before is replaced.

    Raises ValueOutOfRange for bars that there are not, for instruments without a pedal, and where chord
    names are asked for and none stands in these bars.
    """
    start, end = _span(part, first_bar, last_bar)
    bars = part.bars[first_bar - 1 : last_bar]
    inside: list[int] = []
    if change_at is ChangeAt.BARS:
        inside = [bar.start_tick for bar in bars]
    elif change_at is ChangeAt.BEATS:
        inside = [tick for bar in bars for tick in range(bar.start_tick, bar.end_tick, bar.meter.beat_ticks)]
    elif change_at is ChangeAt.CHORDS:
        inside = [mark.tick for mark in part.chords if start <= mark.tick < end]
        if not inside:
            raise ValueOutOfRange("no_chord_names_in_bars", first=first_bar, last=last_bar)
    places = sorted({start, *inside, end})
    held = [PedalMark(start_tick=a, end_tick=b) for a, b in pairwise(places)]
    return _with_pedal(part, [*_outside(part.pedal, start, end), *held])


def lift_pedal(part: Part, *, first_bar: int, last_bar: int) -> Edited:
    """No pedal in these bars. Raises ValueOutOfRange for bars that there are not."""
    start, end = _span(part, first_bar, last_bar)
    return _with_pedal(part, _outside(part.pedal, start, end))


def change_pedal(part: Part, *, tick: int) -> Edited:
    """Change the pedal at a tick inside a stretch in which it is held; a change that stands there is taken
    out. Raises ValueOutOfRange where the pedal is not held."""
    before = next((m for m in part.pedal if m.end_tick == tick), None)
    after = next((m for m in part.pedal if m.start_tick == tick), None)
    kept = [m for m in part.pedal if m not in (before, after)]
    if before and after:
        return _with_pedal(part, [*kept, PedalMark(start_tick=before.start_tick, end_tick=after.end_tick)])
    inside = next((m for m in part.pedal if m.start_tick < tick < m.end_tick), None)
    if inside is None:
        raise ValueOutOfRange("pedal_is_not_held_here")
    cut = [
        PedalMark(start_tick=inside.start_tick, end_tick=tick),
        PedalMark(start_tick=tick, end_tick=inside.end_tick),
    ]
    return _with_pedal(part, [*(m for m in part.pedal if m is not inside), *cut])


def laid_in(part: Part, played: Iterable[PedalMark], *, start: int, end: int) -> Part:
    """The part with a played pedal in place of what was written from one tick to another."""
    cut = _inside(played, start, end)
    return _with_pedal(part, [*_outside(part.pedal, start, end), *cut]).part if cut else part


def _span(part: Part, first: int, last: int) -> tuple[int, int]:
    if not part.instrument.has_pedal:
        raise ValueOutOfRange("instrument_has_no_pedal")
    if not 1 <= first <= last <= len(part.bars):
        raise ValueOutOfRange("this_part_has_bars_1", count=len(part.bars), first=first, last=last)
    return part.bars[first - 1].start_tick, part.bars[last - 1].end_tick


def _outside(marks: Iterable[PedalMark], start: int, end: int) -> list[PedalMark]:
    found: list[PedalMark] = []
    for mark in marks:
        if mark.start_tick < start:
            found.append(replace(mark, end_tick=min(mark.end_tick, start)))
        if mark.end_tick > end:
            found.append(replace(mark, start_tick=max(mark.start_tick, end)))
    return found


def _inside(marks: Iterable[PedalMark], start: int, end: int) -> list[PedalMark]:
    return [
        PedalMark(start_tick=max(mark.start_tick, start), end_tick=min(mark.end_tick, end))
        for mark in marks
        if max(mark.start_tick, start) < min(mark.end_tick, end)
    ]


def _with_pedal(part: Part, marks: Iterable[PedalMark]) -> Edited:
    ordered = tuple(sorted(marks, key=lambda mark: mark.start_tick))
    return Edited(part=replace(part, pedal=ordered), selected=frozenset())
