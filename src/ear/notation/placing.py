"""Where notes are written: where they stand, if that is a place that some note value has, else at the nearest such place.

A part that somebody wrote keeps to such places with every note, and is taken at its word. A recorded one does so by chance
alone: its onsets go to the nearest demisemiquaver or semiquaver of a triplet, whichever a hand's quarter fits better, and a
key that is let go a little early lasts until its value is over.
"""

from bisect import bisect_left
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import cached_property

from ear.notation.values import FINEST
from ear.notes import Part
from ear.units import TICKS_PER_QUARTER

FINE = TICKS_PER_QUARTER // 8
"""A thirty-second, in ticks: as fine as recorded notes are written."""
TRIPLET_FINE = TICKS_PER_QUARTER // 6
"""A sixteenth of a triplet."""
STEPS = (
    Fraction(FINE), Fraction(TRIPLET_FINE), Fraction(FINEST), Fraction(TRIPLET_FINE, 2), Fraction(TICKS_PER_QUARTER, 10),
    Fraction(TICKS_PER_QUARTER, 14),
)  # fmt: skip
"""What a quarter may be divided into, the plainest first: twos, threes, each twice as fine, fives and sevens."""
TWOS_AND_THREES = STEPS[:4]
THIRDS = (TICKS_PER_QUARTER // 3, 2 * TICKS_PER_QUARTER // 3)
THIRD_NEAR = 12
"""Ticks within which a recorded end is plainly that of a triplet's note."""
GATE_STEPS = (TICKS_PER_QUARTER // 4, TRIPLET_FINE)
"""A program that lets every key go a little early leaves a silence up to the next of these places,"""
MIN_TIMES_GATE = 3
"""after a note that is so many times as long at least."""
MAX_GATED_SHARE, MAX_ODD_SHARE, MAX_ASTRAY_SHARE = 0.3, 0.1, 0.1

Place = tuple[int, int]
"""Onset and end, in ticks."""


def places(part: Part, voices: Sequence[int]) -> list[Place]:
    """Return where each note of a part is written. `voices` says, for each, which hand or foot plays it: each has a division
    of its own.
    """
    return _Placing(part, voices).places()


def unison_end(part: Part, i: int, start: int, end: int) -> int:
    """Return where the second head of a note, which is written from `start` to `end`, ends on paper: before the first."""
    note = part.notes[i]
    assert note.unison is not None
    ends = start + note.unison.length_tick
    if _on_any(ends, STEPS) is None:
        ends = start + max(FINE, _nearest(note.unison.length_tick, Fraction(FINE)))
    return min(ends, end)


@dataclass(kw_only=False)
class _Placing:
    part: Part
    voices: Sequence[int]

    @cached_property
    def is_written(self) -> bool:
        """Does nearly every note begin at a place that some value has? Recorded ones do so now and then."""
        astray = sum(_on_any(note.onset_tick, STEPS) is None for note in self.part.notes)
        return astray <= MAX_ASTRAY_SHARE * len(self.part.notes)

    @cached_property
    def gated(self) -> frozenset[int]:
        """Notes, by index, that a program has cut short; none where few notes look so, for these were meant."""
        onsets: dict[int, list[int]] = {}
        for note, voice in zip(self.part.notes, self.voices, strict=True):
            onsets.setdefault(voice, []).append(note.onset_tick)
        cut = set()
        for i, (note, voice) in enumerate(zip(self.part.notes, self.voices, strict=True)):
            end = note.written_end_tick
            gap = min(-end % step for step in GATE_STEPS)
            k = bisect_left(onsets[voice], end)
            is_silent = k == len(onsets[voice]) or onsets[voice][k] >= end + gap
            if 0 < gap <= FINE and is_silent and end - note.onset_tick >= MIN_TIMES_GATE * gap:
                cut.add(i)
        return frozenset(cut) if len(cut) > MAX_GATED_SHARE * len(self.part.notes) else frozenset()

    @cached_property
    def end_steps(self) -> tuple[Fraction, ...]:
        """Where notes may end: on twos and threes everywhere; on fives and sevens if notes begin there too, or few end there.
        If many do and none begins there, a program has cut them to nine tenths.
        """
        odd = [n for n in self.part.notes if _on_any(n.written_end_tick, TWOS_AND_THREES) is None]
        begin_there = any(_on_any(note.onset_tick, TWOS_AND_THREES) is None for note in self.part.notes)
        return STEPS if begin_there or len(odd) <= MAX_ODD_SHARE * len(self.part.notes) else TWOS_AND_THREES

    @cached_property
    def steps(self) -> dict[tuple[int, int], Fraction | None]:
        """By voice and quarter, into what it is divided; None where its notes are of several divisions."""
        edges: dict[tuple[int, int], list[int]] = {}
        thirds: dict[tuple[int, int], list[int]] = {}
        for note, voice in zip(self.part.notes, self.voices, strict=True):
            edges.setdefault((voice, note.onset_tick // TICKS_PER_QUARTER), []).append(note.onset_tick)
            end = note.written_end_tick
            if self.part.instrument.has_length and _is_third(end):
                thirds.setdefault((voice, end // TICKS_PER_QUARTER), []).append(end)
        if self.is_written:
            return {quarter: _common(ticks) for quarter, ticks in edges.items()}
        # An end speaks for triplets only where it is plainly one: most keys are let go anywhere.
        quarters = {
            quarter: edges.get(quarter, []) + thirds.get(quarter, []) for quarter in {*edges, *thirds}
        }
        return {quarter: self._nearer(quarter[1], ticks) for quarter, ticks in quarters.items()}

    def _nearer(self, quarter: int, ticks: Iterable[int]) -> Fraction:
        bar = self.part.meters.bar_at(quarter * TICKS_PER_QUARTER)
        has_quarters = bar.meter.beat_ticks % TICKS_PER_QUARTER == 0 and not bar.meter.is_compound
        if not has_quarters or bar.start_tick % TICKS_PER_QUARTER:
            return Fraction(FINE)
        ticks = list(ticks)
        return Fraction(
            min((FINE, TRIPLET_FINE), key=lambda step: sum(min(t % step, -t % step) for t in ticks))
        )

    def places(self) -> list[Place]:
        last = self.part.bars[-1].end_tick
        made = []
        for i, (note, voice) in enumerate(zip(self.part.notes, self.voices, strict=True)):
            quarter = (voice, note.onset_tick // TICKS_PER_QUARTER)
            step = self.steps[quarter]
            own = _on_any(note.onset_tick, STEPS) if step is None else _nearest(note.onset_tick, step)
            if own is None:
                own = _nearest(note.onset_tick, STEPS[0])
            begins = min(own, last - FINE) if own >= last else own
            made.append(
                (
                    begins,
                    self._end(
                        note.written_end_tick, i in self.gated, begins, voice, step or Fraction(FINEST)
                    ),
                )
            )
        return made

    def _end(self, tick: int, is_gated: bool, begins: int, voice: int, own_step: Fraction) -> int:
        step = self.steps.get((voice, (tick - 1) // TICKS_PER_QUARTER))
        if self.is_written and not is_gated:
            exact = _on_any(tick, self.end_steps)
            if exact is not None and exact > begins:
                return exact
        coarse = Fraction(TRIPLET_FINE if step in (TRIPLET_FINE, STEPS[3]) else FINE)
        ends = max(_nearest(tick, coarse), begins + max(1, round(min(own_step, coarse))))
        # Pianists let go early; written literally, every bar would be full of short rests.
        half = TICKS_PER_QUARTER // (3 if coarse == TRIPLET_FINE else 2)
        full = -(-ends // half) * half
        return full if 0 < full - ends <= FINE else ends


def _nearest(tick: int, step: Fraction) -> int:
    return round(round(tick / step) * step)


def _on_any(tick: int, steps: Iterable[Fraction]) -> int | None:
    """The place within a tick, of the plainest division that has one; None for no place at all."""
    near = (_nearest(tick, step) for step in steps)
    return next((place for place in near if abs(place - tick) <= 1), None)


def _common(ticks: Sequence[int]) -> Fraction | None:
    """The plainest division that has all of some ticks."""
    return next(
        (step for step in STEPS if all(abs(_nearest(tick, step) - tick) <= 1 for tick in ticks)), None
    )


def _is_third(tick: int) -> bool:
    into = tick % TICKS_PER_QUARTER
    return min(abs(into - third) for third in THIRDS) <= THIRD_NEAR
