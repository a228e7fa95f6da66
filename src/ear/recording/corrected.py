"""A corrected copy of a take: its notes as a part that can be edited, and what was changed in it."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from ear.editing.edited import rebuilt
from ear.notes import Kind, Note, Part, Take, TakeNote
from ear.units import TICKS_PER_QUARTER


class Corrected(StrEnum):
    """What was changed in a note."""

    MOVED = "moved"
    PITCH = "pitch"
    LENGTH = "length"
    VELOCITY = "velocity"
    DELETED = "deleted"
    ADDED = "added"


@dataclass(frozen=True, slots=True, kw_only=True)
class Correction:
    """One thing done to one note: from and to in ticks, pitches, ticks or velocities, by what it is."""

    kind: Corrected
    note: Note
    """As it was played; of an added one as it is."""
    before: int
    after: int


def copy_of(take: Take, part: Part) -> Part:
    """Return a take's notes in ticks of its part's tempo, on the part's page.

    Notes played before bar 1 begin with it; a key that sounded twice at one tick sounds once.
    """
    seconds = np.array([[n.onset_s, n.onset_s + n.length_s] for n in take.notes]).reshape(-1, 2)
    ticks = _ticks(seconds, part)
    notes = [
        Note(onset_tick=int(on), length_tick=max(1, int(off - on)), pitch=n.pitch, velocity=n.velocity)
        for n, (on, off) in zip(take.notes, ticks, strict=True)
    ]
    made = rebuilt(part, ((note, True) for note in notes)).part
    return replace(made, cues=(), least_bars=len(part.bars))


def place_in_copy(note: TakeNote, part: Part) -> tuple[int, int]:
    """Return where a take's note is in a copy, in ticks, and its pitch."""
    return int(_ticks(np.array([note.onset_s]), part)[0]), note.pitch


def _ticks(seconds: NDArray[np.float64], part: Part) -> NDArray[np.int64]:
    quarters = part.tempos.quarters(np.maximum(0.0, seconds))
    ticks: NDArray[np.int64] = np.rint(quarters * TICKS_PER_QUARTER).astype(np.int64)
    return ticks


def take_of(copy: Part, take: Take) -> Take:
    """Return the copy as a take of its own, to be heard."""
    return Take.of(
        (
            TakeNote(
                onset_s=copy.tempos.second_at(n.onset_tick),
                length_s=copy.tempos.second_at(n.end_tick) - copy.tempos.second_at(n.onset_tick),
                pitch=n.pitch,
                velocity=n.velocity,
            )
            for n in copy.notes
        ),
        pedal=take.pedal,
        bend=take.bend,
        modulation=take.modulation,
        has_touch=take.has_touch,
    )


SAME_SHARE = 0.5
"""Of a bar's notes that are another bar's to the tick, length and velocity: of what hands play, none are."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared:
    """A copy beside its take: bars of it, by number, that repeat an earlier one, and what was done to the other notes."""

    repeated: tuple[int, ...]
    corrections: tuple[Correction, ...]


def compared(raw: Part, copy: Part, *, may_repeat: bool) -> Compared:
    """Return what was changed in a copy.

    `may_repeat` says that its bars were edited as bars: otherwise no bar is taken for the repeat of another,
    since two bars that are quantised, levelled and trimmed may become alike by themselves.
    """
    if not may_repeat:
        return Compared(repeated=(), corrections=corrections(raw, copy))
    repeated = _repeated(raw, copy)
    changes = corrections(*_without(raw, copy, repeated))
    moved = {c.note: c.after for c in changes if c.kind is Corrected.MOVED}
    kept = (c for c in changes if not _is_cut(c, moved.get(c.note, c.note.onset_tick), raw))
    return Compared(repeated=repeated, corrections=tuple(kept))


def _is_cut(c: Correction, onset_tick: int, raw: Part) -> bool:
    """A note that hung over a bar line at which bars were parted ends there; `onset_tick` is where it is now."""
    bar_end = raw.meters.bar_at(onset_tick).end_tick
    return c.kind is Corrected.LENGTH and onset_tick + c.before > bar_end == onset_tick + c.after


def corrections(raw: Part, copy: Part) -> tuple[Correction, ...]:
    """Return the changes in order of time, note by note.

    Notes that are where they were are themselves; of the others, of each pitch, those that make the
    whole of all ways least are the same; of what is left then, notes of two pitches that lie near to
    one another are one that was corrected, whether it was moved in time as well or not.
    """
    left = {(n.onset_tick, n.pitch): n for n in raw.notes}
    new = {(n.onset_tick, n.pitch): n for n in copy.notes}
    pairs = [(left.pop(place), new.pop(place)) for place in sorted(left.keys() & new.keys())]

    def pair(changes: Iterable[tuple[Note, Note]]) -> None:
        for was, now in changes:
            pairs.append((was, now))
            del left[was.onset_tick, was.pitch], new[now.onset_tick, now.pitch]

    for pitch in sorted({p for _, p in left} & {p for _, p in new}):
        olds, news = ([n for n in notes.values() if n.pitch == pitch] for notes in (left, new))
        pair(_nearest(olds, news))
    pair(_of_other_pitches(left.values(), new.values()))
    changes = [change for was, now in pairs for change in _changes(was, now, raw.kind)]
    changes += [
        Correction(kind=Corrected.DELETED, note=n, before=n.onset_tick, after=0) for n in left.values()
    ]
    changes += [Correction(kind=Corrected.ADDED, note=n, before=0, after=n.onset_tick) for n in new.values()]
    return tuple(sorted(changes, key=lambda c: (c.note.onset_tick, c.note.pitch, c.kind.value)))


NEAR_TICKS = TICKS_PER_QUARTER // 2
"""A corrected note is looked for so near to where the wrong one was: quantising moves notes no further."""


def _of_other_pitches(before: Iterable[Note], after: Iterable[Note]) -> list[tuple[Note, Note]]:
    """Pair notes of different pitches that lie near to one another, the nearest in time first, then in pitch."""
    olds, news = list(before), list(after)
    apart = sorted(
        (abs(was.onset_tick - now.onset_tick), abs(was.pitch - now.pitch), i, j)
        for i, was in enumerate(olds)
        for j, now in enumerate(news)
        if abs(was.onset_tick - now.onset_tick) <= NEAR_TICKS
    )
    used_olds: set[int] = set()
    used_news: set[int] = set()
    pairs = []
    for _ticks_apart, _semitones, i, j in apart:
        if i not in used_olds and j not in used_news:
            used_olds.add(i)
            used_news.add(j)
            pairs.append((olds[i], news[j]))
    return pairs


def _nearest(before: list[Note], after: list[Note]) -> list[tuple[Note, Note]]:
    """Pairs in order of time whose moves are least in sum; of the longer list some stay alone."""
    swapped = len(before) > len(after)
    few, many = (after, before) if swapped else (before, after)
    few, many = (sorted(notes, key=lambda n: n.onset_tick) for notes in (few, many))
    # cost[i][j]: least sum for the first i of the few among the first j of the many.
    cost = np.full((len(few) + 1, len(many) + 1), np.inf)
    cost[0, :] = 0.0
    for i, few_note in enumerate(few, start=1):
        for j, other in enumerate(many, start=1):
            paired = cost[i - 1, j - 1] + abs(few_note.onset_tick - other.onset_tick)
            cost[i, j] = min(cost[i, j - 1], paired)
    pairs: list[tuple[Note, Note]] = []
    i, j = len(few), len(many)
    while i:
        if cost[i, j] == cost[i, j - 1]:
            j -= 1
            continue
        i, j = i - 1, j - 1
        pairs.append((many[j], few[i]) if swapped else (few[i], many[j]))
    return pairs


def _changes(was: Note, now: Note, kind: Kind) -> Iterator[Correction]:
    figures: Iterable[tuple[Corrected, int, int]] = (
        (Corrected.MOVED, was.onset_tick, now.onset_tick),
        (Corrected.PITCH, was.pitch, now.pitch),
        # A hit's length says nothing.
        (
            Corrected.LENGTH,
            was.length_tick,
            now.length_tick if kind.instrument.has_length else was.length_tick,
        ),
        (Corrected.VELOCITY, was.velocity, now.velocity),
    )
    for changed, before, after in figures:
        if before != after:
            yield Correction(kind=changed, note=was, before=before, after=after)


def _repeated(raw: Part, copy: Part) -> tuple[int, ...]:
    """Bars of the copy, by number, whose notes are those of an earlier one and were not there when it was played."""
    as_played = [_bar_notes(raw, bar.number) for bar in raw.bars]
    inserted = len(copy.bars) > len(raw.bars)
    bars: list[frozenset[tuple[int, ...]]] = []
    numbers = []
    for bar in copy.bars:
        notes = _bar_notes(copy, bar.number)
        before = as_played[bar.number - raw.first_bar] if bar.number <= raw.last_bar else frozenset()
        like = max((len(notes & earlier) for earlier in bars if earlier), default=0)
        if notes and (inserted or notes != before) and like >= max(1.0, SAME_SHARE * len(notes)):
            numbers.append(bar.number)
        bars.append(notes)
    return tuple(numbers)


def _bar_notes(part: Part, number: int) -> frozenset[tuple[int, ...]]:
    bar = part.meters.bar(number)
    return frozenset(
        (n.onset_tick - bar.start_tick, n.pitch, n.length_tick, n.velocity)
        for n in part.notes
        if bar.start_tick <= n.onset_tick < bar.end_tick
    )


def _without(raw: Part, copy: Part, repeats: tuple[int, ...]) -> tuple[Part, Part]:
    """Take and copy without the bars that repeat others: those that were added close up, of others both lose their
    notes."""
    more = len(copy.bars) - len(raw.bars)
    closed = 0
    for number in reversed(repeats):
        bar = copy.meters.bar(number)
        if closed < more:
            closed += 1
            width = bar.end_tick - bar.start_tick
            kept = [n for n in copy.notes if not bar.start_tick <= n.onset_tick < bar.end_tick]
            moved = tuple(
                replace(n, onset_tick=n.onset_tick - width) if n.onset_tick >= bar.end_tick else n
                for n in kept
            )
            copy = replace(copy, notes=moved)
            continue
        raw, copy = (
            replace(p, notes=tuple(n for n in p.notes if not bar.start_tick <= n.onset_tick < bar.end_tick))
            for p in (raw, copy)
        )
    return raw, copy
