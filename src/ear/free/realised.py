"""A free take as a part that is matched: what it would have been, played right.

Each note that was played has its place in this part: on the line of the grid that it stands near, on its own pitch, or
on the nearest that is allowed. So a free take is measured, drawn and marked like any other one, and what is shown of its
notes is where they should have been.
"""

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from ear.free.exercise import FreeExercise
from ear.free.own_time import OwnTime, own_time
from ear.matching.outcome import Match, Outcome, Pair, TimeBase
from ear.matching.pace import Pace, PaceStretch
from ear.notes import Note, Part, Take
from ear.units import TICKS_PER_QUARTER

OFF_BEAT = 1 / 8
"""Of a beat: nearer to a beat than this is on it."""
DIVISIONS = (2, 3, 4)
"""Notes to a beat that are told apart."""
MIN_DIVISION_NOTES, DIVISION_FROM, DIVISION_CLEARLY = 4, 0.8, 0.3
"""So many notes between the beats must gather so closely on another division, and so much more than on the one asked
for."""
PAIRS = 2
SHORTEST_TICKS = 30


@dataclass(frozen=True, slots=True, kw_only=True)
class FreeFacts:
    """What is known of a free take besides what is known of any."""

    notes_a_bar: tuple[int, ...]
    least_a_bar: int
    most_a_bar: int | None
    repeated: float | None
    """Share of what stands in the first bars of pairs that the second bars have again; None where it is not asked, or
    nothing is there."""
    gathered: float
    by_chance: float
    """How closely onsets gather on the grid, and how closely notes at random do."""
    division: int | None = None
    """Notes to a beat that were played between the beats where another number is asked; None where there is none."""
    asked_division: int = 1

    @property
    def wanted(self) -> int:
        """Notes that are asked for at least."""
        return self.least_a_bar * len(self.notes_a_bar)

    @property
    def empty_bars(self) -> tuple[int, ...]:
        """Bars without a note, by number."""
        return self._bars(lambda notes: not notes)

    @property
    def thin_bars(self) -> tuple[int, ...]:
        """Bars with too few notes."""
        return self._bars(lambda notes: 0 < notes < self.least_a_bar)

    @property
    def full_bars(self) -> tuple[int, ...]:
        """Bars with too many."""
        return self._bars(lambda notes: self.most_a_bar is not None and notes > self.most_a_bar)

    def _bars(self, is_such: Callable[[int], bool]) -> tuple[int, ...]:
        return tuple(bar for bar, notes in enumerate(self.notes_a_bar, start=1) if is_such(notes))


@dataclass(frozen=True, slots=True, kw_only=True)
class Realised:
    """`part` and `match` say what each note of `take` should have been. The take is in the click's time, or put into the
    player's own mean tempo where that is what counts."""

    part: Part
    take: Take
    match: Match
    facts: FreeFacts
    in_time: float
    ends: tuple[float, float]
    """Tempo at the beginning and at the end over the one set."""


def realised(exercise: FreeExercise, take: Take, *, page: Part | None = None) -> Realised:
    """Return what a free take made of its exercise, for any take including an empty one.

    `page` has what is written: key and chords.
    """
    time = own_time(exercise, take.onsets_s)
    ticks = np.round(time.lines * TICKS_PER_QUARTER).astype(np.int64)
    lasts = np.round(take.lengths_s * exercise.tempos.first_bpm / 60.0 * time.ratio * TICKS_PER_QUARTER)
    notes: list[tuple[Note, int, Outcome]] = []
    taken: dict[tuple[int, int], int] = {}
    left_over: list[tuple[int, int | None]] = []
    for j, (tick, played) in enumerate(zip(ticks.tolist(), take.notes, strict=True)):
        if not 0 <= tick < exercise.end_tick:
            left_over.append((j, None))
            continue
        pitch = exercise.nearest_allowed(played.pitch, tick=tick)
        if (tick, pitch) in taken:
            left_over.append((j, taken[tick, pitch]))
            continue
        taken[tick, pitch] = j
        outcome = Outcome.MATCHED if pitch == played.pitch else Outcome.WRONG_PITCH
        length = int(np.clip(lasts[j], SHORTEST_TICKS, exercise.end_tick - tick))
        note = Note(onset_tick=tick, length_tick=length, pitch=pitch, velocity=played.velocity)
        notes.append((note, j, outcome))
    notes.sort(key=lambda row: (row[0].onset_tick, row[0].pitch))
    at = {j: k for k, (_, j, _) in enumerate(notes)}
    pairs = [Pair(target=k, take=j, outcome=outcome) for k, (_, j, outcome) in enumerate(notes)]
    pairs += [
        Pair(target=None, take=j, outcome=Outcome.EXTRA)
        if beside is None
        else Pair(target=None, take=j, outcome=Outcome.DOUBLE, near=at[beside])
        for j, beside in left_over
    ]
    base = (
        Part.of((), kind=exercise.kind, meters=exercise.meters, tempos=exercise.tempos)
        if page is None
        else page
    )
    part = replace(base, notes=tuple(note for note, _, _ in notes), least_bars=exercise.bars, pedal=())
    return Realised(
        part=part,
        take=take if exercise.has_click else _in_own_time(exercise, take, time),
        match=Match(
            pairs=tuple(pairs),
            time_base=TimeBase(pace=_pace(exercise, time), slips=()),
            transposition=0,
            is_foreign=False,
        ),
        facts=_facts(exercise, part, time, ticks),
        in_time=time.in_time,
        ends=time.ends,
    )


def _pace(exercise: FreeExercise, time: OwnTime) -> Pace:
    """The player's, over the click's; without a click the bend of it is taken out of the take instead."""
    is_bent = exercise.has_click and time.ends[0] != time.ends[1]
    if not is_bent:
        return Pace.steady(time.ratio)
    first, last = float(time.lines[0]), float(time.lines[-1])
    return Pace(
        stretches=(
            PaceStretch(
                first_quarter=first, last_quarter=last, first_ratio=time.ends[0], last_ratio=time.ends[1]
            ),
        )
    )


def _in_own_time(exercise: FreeExercise, take: Take, time: OwnTime) -> Take:
    """The take as it would be at the player's mean tempo, its first line where the click has it: so milliseconds stay
    what they are, and a bend of the tempo is gone."""
    if not take.notes:
        return take
    second = 60.0 / (exercise.tempos.first_bpm * time.ratio)
    onsets = (time.quarters * second).tolist()
    real = take.onsets_s

    def moved(at: float) -> float:
        return float(np.interp(at, real, onsets)) + (at - float(np.clip(at, real[0], real[-1])))

    return take.at(onsets, move_time=moved)


def _facts(exercise: FreeExercise, part: Part, time: OwnTime, ticks: np.ndarray) -> FreeFacts:
    bars = Counter(
        exercise.meters.bar_at(tick).number for tick in ticks.tolist() if 0 <= tick < exercise.end_tick
    )
    division, asked = _division(exercise, time)
    return FreeFacts(
        notes_a_bar=tuple(bars[number] for number in range(1, exercise.bars + 1)),
        least_a_bar=exercise.least_a_bar,
        most_a_bar=exercise.most_a_bar,
        repeated=_repeated(exercise, part),
        gathered=round(time.gathered, 4),
        by_chance=round(time.by_chance, 4),
        division=division,
        asked_division=asked,
    )


def _repeated(exercise: FreeExercise, part: Part) -> float | None:
    if not exercise.pairs_repeat:
        return None
    held: dict[int, set[tuple[int, int]]] = {}
    for note in part.notes:
        bar = exercise.meters.bar_at(note.onset_tick)
        held.setdefault(bar.number, set()).add((note.onset_tick - bar.start_tick, note.pitch))
    both = total = 0
    for number in range(1, exercise.bars, 2):
        first, second = held.get(number, set()), held.get(number + 1, set())
        both += len(first & second)
        total += max(len(first), len(second))
    return round(both / total, 4) if total else None


def _division(exercise: FreeExercise, time: OwnTime) -> tuple[int | None, int]:
    """Notes to a beat that were clearly played where others are asked, and the number asked."""
    beat = exercise.meters.first.beat_ticks
    asked = max(1, round(beat / exercise.grid_ticks))
    phase = (time.quarters * TICKS_PER_QUARTER / beat) % 1.0
    between = phase[(phase > OFF_BEAT) & (phase < 1.0 - OFF_BEAT)]
    if len(between) < MIN_DIVISION_NOTES or exercise.swing != 1.0:
        return None, asked
    if asked == PAIRS and abs(np.exp(2j * np.pi * between).mean()) >= DIVISION_FROM:
        # One note between two beats, always at the same place: that is swing, whatever the place.
        return None, asked
    heard = {n: _on_lines(between, n) for n in DIVISIONS}
    as_asked = _on_lines(between, asked) if asked > 1 else 0.0
    best = max((n for n in DIVISIONS if asked % n), key=lambda n: (heard[n], -n), default=None)
    if best is None or heard[best] < max(DIVISION_FROM, as_asked + DIVISION_CLEARLY):
        return None, asked
    return best, asked


def _on_lines(phase: np.ndarray, division: int) -> float:
    """How closely places in the beat gather on the lines of a division: 1 all on them, below 0 between them."""
    return float(np.cos(2 * np.pi * phase * division).mean())
