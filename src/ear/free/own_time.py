"""The time in which a take of a free exercise stands: the click's, or the player's own; and whether it stands in any.

Onsets are taken as phases between the lines of the grid. How closely they gather is the length of their mean vector
(Mardia and Jupp, "Directional Statistics", 2000, §2.3). Notes at random gather, too, by chance: by Rayleigh's test
(ibid., §6.3) no closer than √(ln(1/α) / n) but with the probability α, and √(ln(m/α) / n) where m tempos that do not depend
on each other were tried (Scargle, "Studies in astronomical time series analysis II", Astrophys. J. 263, 1982).
"""

from dataclasses import dataclass, replace

import numpy as np

from ear.free.bend import MIN_BEND, bent
from ear.free.exercise import FreeExercise
from ear.notes.values import Floats
from ear.units import TICKS_PER_QUARTER

RATIOS = np.geomspace(0.4, 2.2, 700)
"""Tempos tried against the one set: a quarter of a per cent apart."""
BENDS = np.linspace(-0.4, 0.4, 9)
"""Changes of the tempo from the first note to the last, as shares of it, tried where there is no click."""
BY_CHANCE = 0.005
"""How seldom notes at random gather more closely than is called chance."""
SURE_FROM = 0.5
"""Half-way between chance and perfect time there is no doubt any more."""
CLEARLY = 0.15
"""So much more closely notes must gather at a tempo of their own than at the click's."""
AS_GOOD = 0.02
MIN_NOTES = 4
FITS = 3
DIVISIONS = (2, 3, 4)
"""Notes to a beat of the click."""
APART_S = 1e-9
SWUNG = 1.2


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnTime:
    """The line of each note, and the time in which they were found.

    `quarters` are the notes' places in the player's own time, in quarters from the downbeat of bar 1; without a click
    the first note stands near a line of bar 1.
    """

    quarters: Floats
    lines: Floats
    """Of each note the place of its grid line, in quarters."""
    ratio: float
    """The player's mean tempo over the one set."""
    ends: tuple[float, float]
    """His tempo at the first and at the last note over the one set."""
    gathered: float
    """0 scattered, 1 all on lines."""
    by_chance: float
    """So closely notes at random gather at most."""
    divided: float = 0.0
    """How closely they gather on another division of the beat, and above what is chance for so many divisions: in time,
    though not as asked."""

    @property
    def in_time(self) -> float:
        """How surely the notes are in time at all: 0 as by chance, 1 without doubt."""
        return max(_sureness(self.gathered, self.by_chance), self.divided)


def _sureness(gathered: float, by_chance: float) -> float:
    span = SURE_FROM * (1.0 - by_chance)
    return float(np.clip((gathered - by_chance) / span, 0.0, 1.0)) if span > 0 else 0.0


def own_time(exercise: FreeExercise, onsets_s: Floats) -> OwnTime:
    """Return the tempo and grid that a free take was played on.

    `onsets_s` has shape (n,), ascending, in seconds from the downbeat by the click; n may be 0.
    """
    at_click = exercise.tempos.quarters(onsets_s)
    if len(at_click) < MIN_NOTES:
        start = 0.0 if exercise.has_click or not len(at_click) else float(at_click[0])
        return _own_time(exercise, at_click - start, ratio=1.0, ends=(1.0, 1.0), chance=1.0)
    if not exercise.has_click:
        swung = _freely(exercise, at_click)
        return (
            swung if exercise.swing == 1.0 or swung.in_time >= 1.0 else _straight(exercise, at_click, swung)
        )
    with_click = _own_time(exercise, at_click, ratio=1.0, ends=(1.0, 1.0), chance=_chance(len(at_click), 1.0))
    ratio, phase, gathered = _best(exercise, at_click, np.zeros(1))[:3]
    chance = _chance(len(at_click), _tempos_tried(exercise, at_click, bends=1))
    divided = max(_on_division(exercise, at_click, n) for n in DIVISIONS)
    divided_sureness = _sureness(divided, _chance(len(at_click), len(DIVISIONS)))
    if gathered < max(with_click.gathered + CLEARLY, chance) or divided >= gathered - AS_GOOD:
        # Not at another tempo all through; perhaps in one that changes evenly.
        bending = _freely(exercise, at_click)
        is_bent = abs(bending.ends[1] / bending.ends[0] - 1.0) >= MIN_BEND
        best = max(with_click.gathered + CLEARLY, divided + AS_GOOD, bending.by_chance)
        if is_bent and bending.gathered >= best:
            # From the line at which the click had the first note.
            start = round(float(at_click[0]) / _cell(exercise)) * _cell(exercise)
            return replace(bending, quarters=bending.quarters + start, lines=bending.lines + start)
        return replace(with_click, divided=divided_sureness)
    own = at_click * ratio - phase
    # From the line that is nearest to where the click had the first note.
    grid = exercise.grid_ticks / TICKS_PER_QUARTER
    own += round((float(at_click[0]) - float(own[0])) / grid) * grid
    return _own_time(exercise, own, ratio=ratio, ends=(ratio, ratio), chance=chance)


def _on_division(exercise: FreeExercise, quarters: Floats, division: int) -> float:
    """How closely onsets gather on another division of the click's beats: triplets are not quavers of a faster tempo."""
    beat = exercise.meters.first.beat_ticks / TICKS_PER_QUARTER
    return float(np.abs(np.exp(2j * np.pi * quarters * division / beat).mean()))


def _freely(exercise: FreeExercise, at_click: Floats) -> OwnTime:
    """In a pulse of the player's own, which may bend evenly."""
    from_first = at_click - at_click[0]
    ratio, phase, _, bend = _best(exercise, from_first, BENDS)
    span = max(float(from_first[-1]), 1e-6)
    own = _bent(from_first, ratio, bend, span) - phase
    own -= np.floor(own[0] / _cell(exercise) + 0.5) * _cell(exercise)
    chance = _chance(len(own), _tempos_tried(exercise, from_first, bends=len(BENDS)))
    lines = _nearest(exercise, own)
    ends = (ratio * (1.0 - bend / 2.0), ratio * (1.0 + bend / 2.0))
    # The search stands on a lattice: the curve through the lines that it found is nearer to the truth.
    for _ in range(FITS):
        if len(set(lines.tolist())) < MIN_NOTES:
            break
        curve = np.polyfit(lines, from_first, 2)
        fitted = bent((float(curve[0]), float(curve[1]), float(curve[2])), float(lines[0]), float(lines[-1]))
        if fitted is None:
            break
        own, ends = fitted.places(from_first), fitted.ends
        lines = _nearest(exercise, own)
    # In order as they were played, however far the curve bends.
    own = np.maximum.accumulate(own) + APART_S * np.searchsorted(np.unique(at_click), at_click)
    ratio = span / max(1e-6, float(own[-1] - own[0]))
    return _own_time(exercise, own, ratio=1.0 / ratio, ends=ends, chance=chance)


def _straight(exercise: FreeExercise, at_click: Floats, swung: OwnTime) -> OwnTime:
    """In straight time, where that is what a take of a swung exercise stands in."""
    straight = _freely(replace(exercise, swing=1.0), at_click)
    if straight.in_time <= swung.in_time:
        return swung
    return replace(straight, lines=_nearest(exercise, straight.quarters), divided=straight.in_time)


def _bent(from_first: Floats, ratio: float, bend: float, span: float) -> Floats:
    """Quarters of a pulse whose tempo goes evenly from (1 - bend / 2) to (1 + bend / 2) of the mean."""
    own: Floats = ratio * from_first * (1.0 - bend / 2.0 + bend * from_first / (2.0 * span))
    return own


def _cell(exercise: FreeExercise) -> float:
    """Quarters after which the lines come again: a step of the grid, or a pair of them where it is swung."""
    grid = exercise.grid_ticks / TICKS_PER_QUARTER
    return grid if exercise.swing == 1.0 else 2 * grid


def _best(exercise: FreeExercise, quarters: Floats, bends: Floats) -> tuple[float, float, float, float]:
    """Of all tempos and bends that for which onsets gather most closely, with its phase in quarters, how closely, and
    the bend; of those that are as good the one nearest to the tempo set."""
    # Swung lines stand on thirds of their pair, or near them.
    step = exercise.grid_ticks / TICKS_PER_QUARTER
    if exercise.swing >= SWUNG or exercise.swing <= 1 / SWUNG:
        step = 2 * step / 3
    span = max(float(quarters[-1] - quarters[0]), 1e-6)
    best = (1.0, 0.0, -1.0, 0.0)
    ways = []
    for bend in bends.tolist():
        bent = _bent(quarters, 1.0, bend, span) if bend else quarters
        vector = np.exp(2j * np.pi * np.outer(RATIOS, bent) / step).mean(axis=1)
        ways.append((bend, vector, np.abs(vector)))
    most = max(float(gathered.max()) for _, _, gathered in ways)
    nearest = np.inf
    for bend, vector, gathered in ways:
        good = gathered >= most - AS_GOOD
        away = np.abs(np.log(RATIOS)) + abs(bend)
        k = int(np.argmin(np.where(good, away, np.inf)))
        if good[k] and away[k] < nearest:
            nearest = float(away[k])
            best = (
                float(RATIOS[k]),
                float(np.angle(vector[k])) * step / (2 * np.pi),
                float(gathered[k]),
                bend,
            )
    return best


def _tempos_tried(exercise: FreeExercise, quarters: Floats, *, bends: int) -> float:
    """Tempos that do not depend on each other: each makes a line more, or less, over the length of the take."""
    steps = (float(quarters[-1]) - float(quarters[0])) * TICKS_PER_QUARTER / exercise.grid_ticks
    return max(1.0, steps * float(RATIOS[-1] - RATIOS[0])) * bends


def _chance(notes: int, tries: float) -> float:
    return float(min(1.0, np.sqrt(np.log(tries / BY_CHANCE) / notes)))


def _nearest(exercise: FreeExercise, quarters: Floats) -> Floats:
    """The grid line nearest to each time, in quarters; swing moves every second line."""
    grid = exercise.grid_ticks / TICKS_PER_QUARTER
    pair = 2 * grid
    middle = pair * exercise.swing / (1.0 + exercise.swing)
    start = np.floor(quarters / pair) * pair
    lines = np.stack([start, start + middle, start + pair])
    nearest = np.abs(lines - quarters).argmin(axis=0)
    lines_nearest: Floats = np.take_along_axis(lines, nearest[None, :], axis=0)[0]
    return lines_nearest


def _own_time(
    exercise: FreeExercise, quarters: Floats, *, ratio: float, ends: tuple[float, float], chance: float
) -> OwnTime:
    lines = _nearest(exercise, quarters)
    gathered = 0.0
    if len(quarters):
        # Between lines that are not equally far apart each has its own measure.
        closest = (
            2 * exercise.grid_ticks * min(1.0, exercise.swing) / (1.0 + exercise.swing) / TICKS_PER_QUARTER
        )
        phase = np.clip((quarters - lines) / closest, -0.5, 0.5)
        gathered = float(np.abs(np.exp(2j * np.pi * phase).mean()))
    return OwnTime(
        quarters=quarters, lines=lines, ratio=ratio, ends=ends, gathered=gathered, by_chance=chance
    )  # fmt: skip
