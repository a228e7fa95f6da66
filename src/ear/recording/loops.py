"""Loops that are played again and again while practising, each judged as a take is."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ear.assess import assess
from ear.criteria.levels import Level
from ear.editing.transpose import to_key
from ear.errors import ValueOutOfRange
from ear.facts.facts import Facts
from ear.findings.finding import Finding
from ear.formats.events import STATUS_NOTE_OFF, STATUS_NOTE_ON, RawEvent, take_from_events
from ear.free.exercise import FreeExercise
from ear.free.realised import realised
from ear.judging.judgement import Judgement
from ear.notes import Part
from ear.practice.ladder import WHOLE, Rung

EARLY_S = 0.15
"""A note so little before a loop begins belongs to it, not to the one before."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LoopJudged:
    """One loop of a rung: its points of 100, whether they are enough, and the costliest fault."""

    points: float
    is_clean: bool
    fault: Finding | None
    part: Part
    """What should have been played: of a free exercise, what was played as it should have been."""
    facts: Facts
    judgement: Judgement


def part_of_loop(whole: Part, rung: Rung, *, bpm: float, fifths: int) -> Part:
    """Return what is played in a loop: a rung's notes in a key.

    `bpm`, in quarter notes a minute, is the tempo of the whole as it begins; a faster section is faster in
    proportion.
    """
    moved = whole if fifths == whole.fifths else to_key(whole, fifths=fifths).part
    return replace(rung, tempo_percent=WHOLE).part(moved.at_tempo(bpm))


def events_of_loop(events: Sequence[RawEvent], *, loop_s: float) -> list[RawEvent]:
    """Return the events that belong to a loop, among those played around it, in ms from its downbeat.

    A note belongs where it begins.
    """
    start, end = -1000.0 * EARLY_S, 1000.0 * (loop_s - EARLY_S)
    sounding: set[tuple[int, int]] = set()
    kept_events: list[RawEvent] = []
    for event in sorted(events, key=lambda event: event[0]):
        time, status, data1, data2 = event
        key, kind = (status & 0x0F, data1), status & 0xF0
        if kind == STATUS_NOTE_ON and data2 > 0:
            if not start <= time < end:
                continue
            sounding.add(key)
        elif kind in (STATUS_NOTE_OFF, STATUS_NOTE_ON):
            if key not in sounding:
                continue
            sounding.discard(key)
        elif not start <= time < end:
            continue
        kept_events.append(event)
    return kept_events


def judge(
    part: Part,
    events: Sequence[RawEvent],
    *,
    level: Level,
    needed: int,
    latency_ms: float,
    has_touch: bool,
    free: FreeExercise | None = None,
) -> LoopJudged:
    """Return the points of 100 that a loop is worth: the mark that a take of these notes would get.

    Where the exercise is `free`, `part` is the page of the loop's bars. Raises ValueOutOfRange for a rung without notes.
    """
    if not part.notes and free is None:
        raise ValueOutOfRange("nothing_to_play_in_bars")
    take = take_from_events(events, latency_ms=latency_ms, has_touch=has_touch)
    assessed = assess(part, take, level=level, free=free)
    if free is not None:
        part = realised(free, take, page=part).part
    points = assessed.judgement.total
    faults = assessed.judgement.faults
    return LoopJudged(
        points=points, is_clean=points >= needed, fault=faults[0].finding if faults else None, part=part,
        facts=assessed.facts, judgement=assessed.judgement,
    )  # fmt: skip


def is_passed(points: Sequence[float], rung: Rung) -> bool:
    """Return whether, at any time, as many loops in a row were clean as the rung needs."""
    row = 0
    for each in points:
        row = row + 1 if each >= rung.needed else 0
        if row >= rung.needed_loops:
            return True
    return False


def clean_in_a_row(points: Sequence[float], rung: Rung) -> int:
    """Return how many loops at the end were clean, one after the other."""
    row = 0
    for each in reversed(points):
        if each < rung.needed:
            break
        row += 1
    return row
