"""The sustain pedal of a part: put down, lifted, changed with the harmony."""

from collections.abc import Iterable
from dataclasses import replace
from enum import StrEnum
from itertools import pairwise

from ear.editing.edited import ALL, Edited, Selection, chosen
from ear.errors import ValueOutOfRange
from ear.notes import Part, PedalMark


class ChangeAt(StrEnum):
    """Where the pedal is changed."""

    NOWHERE = "nowhere"
    BARS = "bars"
    BEATS = "beats"
    CHORDS = "chords"
    """Wherever a chord name stands."""
    NOTES = "notes"
    """Wherever a selected note begins."""


def hold_pedal(
    part: Part, *, first_bar: int, last_bar: int, change_at: ChangeAt, selection: Selection = ALL
) -> Edited:
    """Write a pedal through these bars, changed where asked, in place of what was written there.

    The selection stays. Raises ValueOutOfRange for bars that do not exist.

    Raises ValueOutOfRange for bars that there are not, for instruments without a pedal, and where chord
    names or selected notes are asked for and these bars have none.
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
    elif change_at is ChangeAt.NOTES:
        onsets = (part.notes[i].onset_tick for i in chosen(part, selection))
        inside = [tick for tick in onsets if start <= tick < end]
        if not inside:
            raise ValueOutOfRange("no_selected_notes_in_bars", first=first_bar, last=last_bar)
    places = sorted({start, *inside, end})
    held = [PedalMark(start_tick=a, end_tick=b) for a, b in pairwise(places)]
    return Edited(part=_with_pedal(part, [*_outside(part.pedal, start, end), *held]), selected=selection)


def lift_pedal(part: Part, *, first_bar: int, last_bar: int, selection: Selection = ALL) -> Edited:
    """Remove the pedal from these bars. Raises ValueOutOfRange for bars that do not exist."""
    start, end = _span(part, first_bar, last_bar)
    return Edited(part=_with_pedal(part, _outside(part.pedal, start, end)), selected=selection)


def laid_in(part: Part, played: Iterable[PedalMark], *, start: int, end: int) -> Part:
    """Return the part with a played pedal in place of what was written from one tick to another."""
    cut = _inside(played, start, end)
    return _with_pedal(part, [*_outside(part.pedal, start, end), *cut]) if cut else part


def _span(part: Part, first: int, last: int) -> tuple[int, int]:
    if not part.instrument.has_pedal:
        raise ValueOutOfRange("instrument_without_pedal")
    if not part.first_bar <= first <= last <= part.last_bar:
        raise ValueOutOfRange("bar_range_outside_part", count=part.last_bar, first=first, last=last)
    return part.meters.bar(first).start_tick, part.meters.bar(last).end_tick


def _outside(marks: Iterable[PedalMark], start: int, end: int) -> list[PedalMark]:
    outside: list[PedalMark] = []
    for mark in marks:
        if mark.start_tick < start:
            outside.append(replace(mark, end_tick=min(mark.end_tick, start)))
        if mark.end_tick > end:
            outside.append(replace(mark, start_tick=max(mark.start_tick, end)))
    return outside


def _inside(marks: Iterable[PedalMark], start: int, end: int) -> list[PedalMark]:
    return [
        PedalMark(start_tick=max(mark.start_tick, start), end_tick=min(mark.end_tick, end))
        for mark in marks
        if max(mark.start_tick, start) < min(mark.end_tick, end)
    ]


def _with_pedal(part: Part, marks: Iterable[PedalMark]) -> Part:
    return replace(part, pedal=tuple(sorted(marks, key=lambda mark: mark.start_tick)))
