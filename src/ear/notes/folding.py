"""A part as it is written, where its form says that bars are played again."""

from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ear.notes.meter import Bar, Meter, MeterChange, MeterMap, TempoChange, TempoMap
from ear.notes.note import Note
from ear.notes.part import ChordMark, Part, Section
from ear.notes.pedal import PedalMark
from ear.notes.signs import StaffSign


@dataclass(frozen=True, slots=True, kw_only=True)
class _Held:
    """What begins in a bar, its places counted from the bar's beginning: of two that are equal one is written."""

    meter: Meter
    fifths: int
    bpm: float
    name: str | None
    """Of a section that begins here; one that only brings another key says nothing else."""
    notes: tuple[Note, ...]
    cues: tuple[Note, ...]
    chords: tuple[ChordMark, ...]
    pedal: tuple[PedalMark, ...]
    signs: tuple[StaffSign, ...]
    tempos: tuple[TempoChange, ...]


def folded(part: Part) -> Part | None:
    """Return the part with its written bars only, each once.

    None if it has no form or no longer keeps to it: if a bar differs when it is played again, or a note or the
    pedal lasts over a jump, it is written as it is played.

    Cost: one pass over the part.
    """
    form = part.form
    if form is None or len(form.order) != len(part.bars) or _lasts_over_a_jump(part):
        return None
    held, first = _bars_held(part), form.first_played
    # A bar that is never played is not known.
    if 0 in first or any(held[k] != held[first[n - 1] - 1] for k, n in enumerate(form.order)):
        return None
    return _one_after_the_other(part, [held[played - 1] for played in form.first_played])


def _lasts_over_a_jump(part: Part) -> bool:
    """Does anything sound from one passage into the next, or behind the last bar into nothing?"""
    assert part.form is not None
    jumps = [part.bars[played - 1].start_tick for played, _written, _again in part.form.passages]

    def is_over(start: int, end: int) -> bool:
        k = bisect_right(jumps, start)
        return k < len(jumps) and jumps[k] < end

    return any(is_over(n.onset_tick, n.end_tick) for n in (*part.notes, *part.cues)) or any(
        is_over(start, end)
        for start, end in (
            *((p.start_tick, p.end_tick) for p in part.pedal),
            *((s.tick, s.end_tick) for s in part.signs),
        )
    )


def _bars_held(part: Part) -> list[_Held]:
    notes, cues = [n.onset_tick for n in part.notes], [n.onset_tick for n in part.cues]
    chords, pedal = [c.tick for c in part.chords], [p.start_tick for p in part.pedal]
    tempos, signs = [c.tick for c in part.tempos.changes], [s.tick for s in part.signs]
    sections = {s.bar: s for s in part.sections}

    def inside(ticks: Sequence[int], bar: Bar) -> slice:
        return slice(bisect_left(ticks, bar.start_tick), bisect_left(ticks, bar.end_tick))

    bars = []
    for bar in part.bars:
        start, section = bar.start_tick, sections.get(bar.number)
        bars.append(
            _Held(
                meter=bar.meter,
                fifths=part.fifths_at(start),
                bpm=part.tempos.bpm_at(start),
                name=section.name if section is not None and section.fifths is None else None,
                notes=tuple(replace(n, onset_tick=n.onset_tick - start) for n in part.notes[inside(notes, bar)]),
                cues=tuple(replace(n, onset_tick=n.onset_tick - start) for n in part.cues[inside(cues, bar)]),
                chords=tuple(replace(c, tick=c.tick - start) for c in part.chords[inside(chords, bar)]),
                pedal=tuple(
                    replace(p, start_tick=p.start_tick - start, end_tick=p.end_tick - start)
                    for p in part.pedal[inside(pedal, bar)]
                ),
                signs=tuple(sign.moved(-start) for sign in part.signs[inside(signs, bar)]),
                tempos=tuple(
                    replace(c, tick=c.tick - start) for c in part.tempos.changes[inside(tempos, bar)] if c.tick > start
                ),
            )
        )  # fmt: skip
    return bars


def _one_after_the_other(part: Part, held: Sequence[_Held]) -> Part:
    """A part of these bars."""
    assert part.form is not None
    named = {s.bar: s for s in part.sections}
    notes: list[Note] = []
    cues: list[Note] = []
    chords: list[ChordMark] = []
    pedal: list[PedalMark] = []
    signs: list[StaffSign] = []
    tempos: list[TempoChange] = []
    meters: list[MeterChange] = []
    sections: list[Section] = []
    start = 0
    named = {bar - part.first_bar + 1: section for bar, section in named.items()}
    for number, (bar, played) in enumerate(zip(held, part.form.first_played, strict=True), start=1):
        notes += [replace(n, onset_tick=n.onset_tick + start) for n in bar.notes]
        cues += [replace(n, onset_tick=n.onset_tick + start) for n in bar.cues]
        chords += [replace(c, tick=c.tick + start) for c in bar.chords]
        pedal += [replace(p, start_tick=p.start_tick + start, end_tick=p.end_tick + start) for p in bar.pedal]
        signs += [sign.moved(start) for sign in bar.signs]
        for change in (TempoChange(tick=0, bpm=bar.bpm), *bar.tempos):
            if not tempos or tempos[-1].bpm != change.bpm:
                tempos.append(replace(change, tick=change.tick + start))
        if not meters or meters[-1].meter != bar.meter:
            meters.append(MeterChange(bar=number + part.first_bar - 1, meter=bar.meter))
        if played in named:
            sections.append(replace(named[played], bar=number + part.first_bar - 1))
        start += bar.meter.bar_ticks
    return replace(
        part,
        notes=tuple(notes), cues=tuple(cues), chords=tuple(chords), pedal=tuple(pedal), sections=tuple(sections),
        signs=tuple(signs), tempos=TempoMap(tempos), meters=MeterMap(meters), least_bars=len(held),
    )  # fmt: skip
