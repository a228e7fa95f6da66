"""What the default rubrics give for takes whose troubles are known: a table with ranges, and sweeps.

A sweep makes one trouble worse step by step. An inversion is a step at which the mean mark of all seeds
rises by more than two standard errors of the difference; the greatest step is the largest fall of the mean
from one value to the next.
"""

import math
import os
import statistics
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from itertools import pairwise
from random import Random
from typing import Any

from ear.assess import assess
from ear.criteria.levels import DEFAULT_LEVEL, LEVELS
from ear.notes import Hand, Kind, Part, Take, TakeNote, place_of
from ear.players.pieces import SNARE, drum_part, keyboard_part
from ear.players.robot import Habits, Jump, play

SEEDS = range(15)
BARS = (12, 16, 24, 32)
RATIO_BARS = 16
CLEAN = Habits(spread_ms=8, velocity_spread=3)
INVERSION_ERRORS = 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkRange:
    """A row of the table: what is played, and the range in which its mean mark lies."""

    name: str
    least: float
    most: float
    habits: Habits = CLEAN
    change: str = ""
    """What is done to the take besides, by its name in `CHANGES`."""
    kinds: tuple[Kind, ...] = tuple(Kind)
    bars: int | None = None
    level: str = DEFAULT_LEVEL.key


def _line(name: str, least: float, most: float, **habits: Any) -> MarkRange:
    return MarkRange(name=name, least=least, most=most, habits=replace(CLEAN, **habits))


KEYS, DRUMS = (Kind.KEYBOARD,), (Kind.DRUMS,)
TABLE = (
    _line("sd 10 ms", 97, 100, spread_ms=10),
    MarkRange(name="four notes, right", least=97, most=100, change="four notes", kinds=KEYS),
    _line("sd 25 ms", 94, 100, spread_ms=25),
    _line("sd 45 ms", 82, 94, spread_ms=45),
    _line("sd 80 ms", 60, 79, spread_ms=80),
    _line("sd 120 ms", 42, 67, spread_ms=120),
    _line("5% wrong", 92, 96, wrong_keys=0.05),
    _line("10% wrong", 85, 92, wrong_keys=0.10),
    _line("25% wrong", 64, 76, wrong_keys=0.25),
    _line("50% wrong", 0, 47, wrong_keys=0.50),
    MarkRange(name="one bar of twelve silent", least=85, most=93, change="a bar silent", bars=12),
    MarkRange(name="the left hand left out", least=0, most=45, change="right hand", kinds=KEYS),
    MarkRange(name="the right hand left out", least=0, most=45, change="left hand", kinds=KEYS),
    _line("lag 60 ms", 94, 100, lead_ms=60),
    _line("lag 140 ms", 55, 78, lead_ms=140),
    *(
        replace(_line(f"ratio {ratio:g}", least, most, tempo_ratio=ratio), bars=RATIO_BARS)
        for ratio, least, most in (
            (1.005, 70, 94), (1.01, 58, 88), (0.97, 52, 75), (0.9, 52, 75), (0.7, 52, 75),
        )
    ),
    MarkRange(name="all strokes on one pad", least=0, most=75, change="one pad", kinds=DRUMS),
    _line("flat velocities", 88, 94, accents=0.0),
    MarkRange(name="nothing", least=0, most=0, change="nothing"),
    MarkRange(name="another piece", least=0, most=0, change="another piece"),
    MarkRange(name="Exacting: sd 5 ms", least=97, most=100, habits=replace(CLEAN, spread_ms=5), level="exacting"),
    MarkRange(name="Exacting: sd 20 ms", least=60, most=93, habits=replace(CLEAN, spread_ms=20), level="exacting"),
)  # fmt: skip


def part_for(kind: Kind, seed: int, *, bars: int | None = None) -> Part:
    """Return a made-up part of a kind. The same seed gives the same part."""
    make = keyboard_part if kind.instrument.has_key else drum_part
    return make(seed, bars=bars or BARS[seed % len(BARS)])


def _four_notes(part: Part, habits: Habits, seed: int) -> tuple[Part, Take]:
    right = [n for n in part.notes if n.hand is Hand.RIGHT and n.onset_tick % 480 == 0][:4]
    short = part.with_notes(right)
    return short, play(short, habits, seed=seed)


def _silent_bar(part: Part, habits: Habits, seed: int) -> tuple[Part, Take]:
    bar = part.meters.bar(2 + seed % (len(part.bars) - 3))
    kept = part.with_notes(n for n in part.notes if not bar.start_tick <= n.onset_tick < bar.end_tick)
    return part, play(kept, habits, seed=seed)


def _one_hand(hand: Hand) -> Callable[[Part, Habits, int], tuple[Part, Take]]:
    def change(part: Part, habits: Habits, seed: int) -> tuple[Part, Take]:
        return part, play(part.with_notes(n for n in part.notes if n.hand is hand), habits, seed=seed)

    return change


def _one_pad(part: Part, habits: Habits, seed: int) -> tuple[Part, Take]:
    onsets: dict[float, TakeNote] = {}
    for note in play(part, habits, seed=seed).notes:
        near = next((s for s in onsets if abs(s - note.onset_s) < 0.03), None)
        onsets[note.onset_s if near is None else near] = replace(note, pitch=SNARE)
    return part, Take.of(onsets.values())


def _nothing(part: Part, _habits: Habits, _seed: int) -> tuple[Part, Take]:
    return part, Take.of(())


def _another_piece(part: Part, habits: Habits, seed: int) -> tuple[Part, Take]:
    other = part_for(part.kind, seed + 1000, bars=len(part.bars))
    if part.instrument.has_lanes:
        # Another groove for the same kit: in three, on other drums.
        random = Random(seed)
        notes = [replace(n, onset_tick=320 * k + 160 * random.randrange(2), pitch=random.choice((45, 50, 49, 51, SNARE))) for k, n in enumerate(other.notes[: 6 * len(part.bars)])]  # fmt: skip
        other = other.with_notes({place_of(n): n for n in notes}.values())
    return part, play(other, habits, seed=seed)


CHANGES: dict[str, Callable[[Part, Habits, int], tuple[Part, Take]]] = {
    "four notes": _four_notes,
    "a bar silent": _silent_bar,
    "right hand": _one_hand(Hand.RIGHT),
    "left hand": _one_hand(Hand.LEFT),
    "one pad": _one_pad,
    "nothing": _nothing,
    "another piece": _another_piece,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkingJob:
    """One take to be marked."""

    kind: Kind
    seed: int
    habits: Habits
    bars: int | None = None
    change: str = ""
    level: str = DEFAULT_LEVEL.key
    extra: float = 0.0
    """Notes too many, as a share of the written ones."""


def mark_of(job: MarkingJob) -> float:
    """Return the total, 0 to 100, that the default rubric gives to the take that a job describes."""
    part = part_for(job.kind, job.seed, bars=job.bars)
    if job.change:
        part, take = CHANGES[job.change](part, job.habits, job.seed)
    else:
        take = play(part, job.habits, seed=job.seed)
    if job.extra:
        take = _with_extra(part, take, job)
    return assess(part, take, level=LEVELS[job.level]).judgement.total


def _with_extra(part: Part, take: Take, job: MarkingJob) -> Take:
    random = Random(job.seed)
    end_s = part.tempos.second_at(part.bars[-1].end_tick)
    count = round(job.extra * len(part.notes))
    pitches = [n.pitch for n in part.notes] if job.kind.instrument.has_lanes else range(45, 80)
    stray = [
        TakeNote(onset_s=random.uniform(0, end_s), length_s=0.1, pitch=random.choice(pitches), velocity=70)
        for _ in range(200)
    ][:count]
    return Take.of((*take.notes, *stray))


@dataclass(frozen=True, slots=True, kw_only=True)
class Sweep:
    """One trouble, or two at once, from nothing to much. `jobs` makes the take of a value and a seed."""

    name: str
    values: tuple[float, ...]
    habits: Callable[[float], Habits]
    bars: int | None = None
    extra: bool = False
    kinds: tuple[Kind, ...] = tuple(Kind)

    def job(self, kind: Kind, value: float, seed: int) -> MarkingJob:
        """Return the job for one value of the habit that is swept."""
        return MarkingJob(
            kind=kind, seed=seed, habits=self.habits(value), bars=self.bars, extra=value if self.extra else 0.0
        )  # fmt: skip


def _habit(**names: Any) -> Callable[[float], Habits]:
    """Habits that grow with the value, each by its rate."""
    return lambda value: replace(CLEAN, **{name: rate * value for name, rate in names.items()})


def _steps(last: float, count: int) -> tuple[float, ...]:
    return tuple(last * k / count for k in range(count + 1))


NEAR_TENTHS = 30
"""Steps of 0.1% of the tempo to either side of the click's."""
FASTER = (
    *(1 + k / 1000 for k in range(NEAR_TENTHS + 1)),
    1.05,
    1.08,
    1.12,
    1.2,
    1.3,
    1.4,
    1.5,
    1.6,
    1.7,
    1.8,
    1.9,
    2.0,
)
SLOWER = (
    *(1 - k / 1000 for k in range(NEAR_TENTHS + 1)),
    0.95,
    0.92,
    0.88,
    0.84,
    0.8,
    0.75,
    0.7,
    0.65,
    0.6,
    0.55,
    0.5,
)
SWEEPS = (
    Sweep(name="tempo faster", values=FASTER, habits=lambda v: replace(CLEAN, tempo_ratio=v), bars=RATIO_BARS),
    Sweep(name="tempo slower", values=SLOWER, habits=lambda v: replace(CLEAN, tempo_ratio=v), bars=RATIO_BARS),
    Sweep(name="jitter, ms", values=(8, *range(12, 125, 8)), habits=lambda v: replace(CLEAN, spread_ms=v)),
    Sweep(name="wrong notes", values=_steps(0.6, 20), habits=_habit(wrong_keys=1)),
    Sweep(name="missed notes", values=_steps(0.6, 20), habits=_habit(misses=1)),
    Sweep(name="extra notes", values=_steps(0.6, 12), habits=lambda _v: CLEAN, extra=True),
    Sweep(name="accents flat to inverted", values=_steps(2, 20), habits=lambda v: replace(CLEAN, accents=1 - v)),
    Sweep(name="velocity noise", values=(3, *range(6, 46, 4)), habits=lambda v: replace(CLEAN, velocity_spread=v)),
    Sweep(name="cut short", values=_steps(0.9, 18), habits=lambda v: replace(CLEAN, length=1 - v), kinds=KEYS),
    Sweep(name="lag, ms", values=_steps(280, 28), habits=_habit(lead_ms=1)),
    Sweep(name="lead, ms", values=_steps(280, 28), habits=_habit(lead_ms=-1)),
    Sweep(name="drift, ms a bar", values=_steps(24, 24), habits=_habit(drift_ms_per_bar=1)),
    Sweep(name="jitter and wrong", values=_steps(1, 10), habits=lambda v: replace(CLEAN, spread_ms=8 + 60 * v, wrong_keys=0.3 * v)),
    Sweep(name="missed and lag", values=_steps(1, 10), habits=lambda v: replace(CLEAN, misses=0.4 * v, lead_ms=160 * v)),
    Sweep(name="drift and flat", values=_steps(1, 10), habits=lambda v: replace(CLEAN, drift_ms_per_bar=15 * v, accents=1 - v)),
    # Cubed, for small steps near the click's own tempo, where a mark falls fastest.
    Sweep(name="tempo and wrong", values=_steps(1, 20), habits=lambda v: replace(CLEAN, tempo_ratio=1 - 0.2 * v**3, wrong_keys=0.3 * v), bars=RATIO_BARS),
)  # fmt: skip


PAUSES = tuple(round(0.2 + 0.05 * k, 2) for k in range(43))
"""Beats by which the music stands still once, before bar 5 of 8."""
MAX_PAUSE_STEP, MAX_PAUSE_RANGE = 4.0, 15.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Swept:
    """Mean marks along a sweep, where the mean rose against the sense, and its greatest fall."""

    means: tuple[float, ...]
    inversions: tuple[tuple[float, float, float], ...]
    """(from, to, rise)"""
    step: tuple[float, float, float]
    """(from, to, fall)"""


def swept(values: Sequence[float], marks: Sequence[Sequence[float]]) -> Swept:
    """Return the marks, 0 to 100, of every seed for each value, in order of the values."""
    means = [statistics.fmean(row) for row in marks]
    inversions, falls = [], []
    for (a, before), (b, after) in pairwise(zip(values, marks, strict=True)):
        rises = [y - x for x, y in zip(before, after, strict=True)]
        rise = statistics.fmean(rises)
        error = statistics.stdev(rises) / math.sqrt(len(rises)) if len(rises) > 1 else 0.0
        if rise > INVERSION_ERRORS * error + 1e-9 and rise > 0.05:
            inversions.append((a, b, rise))
        falls.append((-rise, a, b))
    fall, a, b = max(falls)
    return Swept(means=tuple(means), inversions=tuple(inversions), step=(a, b, fall))


def report(*, with_sweeps: bool = True) -> Iterator[str]:
    """Yield the lines of the benchmark's report."""
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        yield from _table(pool)
        if with_sweeps:
            yield from _sweeps(pool)
            yield from _pauses(pool)


def _table(pool: ProcessPoolExecutor) -> Iterator[str]:
    yield f"mean marks of {len(SEEDS)} seeds, default rubrics"
    outside = 0
    for line in TABLE:
        first_words = []
        for kind in line.kinds:
            jobs = [
                MarkingJob(
                    kind=kind,
                    seed=s,
                    habits=line.habits,
                    bars=line.bars,
                    change=line.change,
                    level=line.level,
                )
                for s in SEEDS
            ]
            marks = statistics.fmean(pool.map(mark_of, jobs, chunksize=4))
            is_inside = line.least <= round(marks, 1) <= line.most
            outside += not is_inside
            first_words.append(f"{kind.value} {marks:5.1f}{' ' if is_inside else '!'}")
        yield f"  {line.name:26} {line.least:3g} to {line.most:3g}   {'  '.join(first_words)}"
    yield f"outside their range: {outside}"


def _sweeps(pool: ProcessPoolExecutor) -> Iterator[str]:
    yield ""
    yield "sweeps: mean marks, inversions beyond two standard errors, greatest step"
    inversions, worst = 0, (0.0, "")
    for sweep in SWEEPS:
        for kind in sweep.kinds:
            jobs = [sweep.job(kind, value, seed) for value in sweep.values for seed in SEEDS]
            marks = list(pool.map(mark_of, jobs, chunksize=8))
            rows = [marks[k : k + len(SEEDS)] for k in range(0, len(marks), len(SEEDS))]
            swept_row = swept(sweep.values, rows)
            inversions += len(swept_row.inversions)
            a, b, fall = swept_row.step
            worst = max(worst, (fall, f"{sweep.name}, {kind.value}, {a:g} to {b:g}"))
            shown = " ".join(f"{mean:.0f}" for mean in swept_row.means[:: max(1, len(swept_row.means) // 12)])
            yield (
                f"  {sweep.name:25} {kind.value:8} {len(swept_row.inversions)} inversions, "
                f"step {fall:4.1f} at {a:g} to {b:g};  {shown}"
            )
            for a, b, rise in swept_row.inversions:
                yield f"      rises by {rise:.2f} from {a:g} to {b:g}"
    yield f"inversions: {inversions}; greatest step {worst[0]:.1f} ({worst[1]})"


def _pauses(pool: ProcessPoolExecutor) -> Iterator[str]:
    """One pause in an otherwise clean take, by its length: no length may cost much more than its neighbour, nor any than
    any other. Unlike the sweeps, longer is not worse: after whole beats the player is with the click again."""
    yield ""
    yield f"one pause of {PAUSES[0]:g} to {PAUSES[-1]:g} beats before bar 5 of 8: mean marks, greatest step, range; of any seed"
    for kind in Kind:
        jobs = [
            MarkingJob(
                kind=kind, seed=seed, bars=8, habits=replace(CLEAN, jumps=(Jump(bar=5, quarters=beats),))
            )
            for beats in PAUSES
            for seed in SEEDS
        ]  # fmt: skip
        marks = list(pool.map(mark_of, jobs, chunksize=8))
        rows = [marks[k : k + len(SEEDS)] for k in range(0, len(marks), len(SEEDS))]
        means = [statistics.fmean(row) for row in rows]
        by_seed = [list(of_seed) for of_seed in zip(*rows, strict=True)]
        steps, ranges = zip(*(_step_and_range(of_seed) for of_seed in by_seed), strict=True)
        step, whole = _step_and_range(means)
        is_held = step <= MAX_PAUSE_STEP and whole <= MAX_PAUSE_RANGE
        yield (
            f"  {kind.value:9} step {step:4.1f}, range {whole:4.1f}{'' if is_held else ' !'}; of any seed "
            f"{max(steps):4.1f}, {max(ranges):4.1f};  {' '.join(f'{mean:.0f}' for mean in means[::3])}"
        )


def _step_and_range(marks: Sequence[float]) -> tuple[float, float]:
    return max(abs(b - a) for a, b in pairwise(marks)), max(marks) - min(marks)
