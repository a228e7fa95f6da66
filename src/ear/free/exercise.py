"""Exercises without a target part: four bars in time, notes of A minor, a bass line over chords."""

from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

from ear.errors import FormatError, ValueOutOfRange
from ear.notes import ChordMark, Kind, MeterMap, Part, TempoMap
from ear.numerals import decimal
from ear.patterns.chords import Chord, read_sequence
from ear.patterns.modes import DOWN_STEPS, STEPS, Mode, Tonic
from ear.plain import from_plain, to_plain
from ear.text import term
from ear.units import TICKS_PER_QUARTER

MAX_SWING = 4.0
MAX_BARS = 200
MAX_NOTES_IN_BAR = 64
GRIDS = (480, 240, 160, 120)
"""Ticks that a grid may have: crotchets, quavers, their triplets, semiquavers."""


class Pitches(StrEnum):
    """Which notes may be played."""

    ANY = "any"
    SCALE = "scale"
    CHORDS = "chords"
    """Of the chord of each bar, or half of a bar where two stand in it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FreeExercise:
    """What is asked for, where no notes are written.

    `allowed` has a set of pitch classes (0 is C; for drums, percussion numbers) for each bar and
    begins anew when it ends; empty: anything goes. A bar may have several sets, each for its equal share.
    """

    kind: Kind
    meters: MeterMap
    tempos: TempoMap
    bars: int
    grid_ticks: int = TICKS_PER_QUARTER
    swing: float = 1.0
    """First part of a pair of grid steps over its second: 1 straight, 2 a shuffle."""
    allowed: tuple[tuple[frozenset[int], ...], ...] = ()
    least_a_bar: int = 0
    most_a_bar: int | None = None
    """None for as many as wanted."""
    pairs_repeat: bool = False
    """Every second bar should repeat the one before it."""
    has_click: bool = True

    def __post_init__(self) -> None:
        if not 1 <= self.bars <= MAX_BARS or self.grid_ticks < 1:
            raise ValueOutOfRange("exercise_size_out_of_range")
        if not 1.0 / MAX_SWING <= self.swing <= MAX_SWING:
            raise ValueOutOfRange(
                "swing_out_of_range", swing_most=decimal(MAX_SWING), swing=decimal(self.swing)
            )
        most = MAX_NOTES_IN_BAR if self.most_a_bar is None else self.most_a_bar
        if not 0 <= self.least_a_bar <= most <= MAX_NOTES_IN_BAR or most < 1:
            raise ValueOutOfRange("density_out_of_range")

    @property
    def end_tick(self) -> int:
        """Where the last bar ends."""
        return self.meters.bar(self.bars).end_tick

    def of_bars(self, first: int, last: int, *, page: Part) -> "FreeExercise":
        """Return what is asked for in some of its bars alone. `page` has just these, at the tempo that they are played at."""
        sets = tuple(
            self.allowed[(number - 1) % len(self.allowed)]
            for number in range(first, last + 1)
            if self.allowed
        )
        return replace(
            self, meters=page.meters, tempos=page.tempos, bars=last - first + 1, allowed=sets,
            # A second bar alone has nothing to repeat.
            pairs_repeat=self.pairs_repeat and first % 2 == 1 and last > first,
        )  # fmt: skip

    def allowed_at(self, tick: int) -> frozenset[int]:
        """Return the pitches allowed at a tick; empty means that all are."""
        if not self.allowed:
            return frozenset()
        bar = self.meters.bar_at(tick)
        sets = self.allowed[(bar.number - 1) % len(self.allowed)]
        return sets[(tick - bar.start_tick) * len(sets) // bar.meter.bar_ticks]

    def is_allowed(self, pitch: int, *, tick: int) -> bool:
        """Return whether a pitch may be played at a tick. Octaves matter only for drums."""
        wanted = self.allowed_at(tick)
        return not wanted or (pitch if self.kind.instrument.has_lanes else pitch % 12) in wanted

    def allowed_changes(self) -> list[tuple[int, frozenset[int]]]:
        """Return where other pitches are allowed than before, as (tick, pitches), from the first bar on; empty pitches: all."""
        changes: list[tuple[int, frozenset[int]]] = []
        for number in range(1, self.bars + 1):
            bar = self.meters.bar(number)
            shares = len(self.allowed[(number - 1) % len(self.allowed)]) if self.allowed else 1
            for share in range(shares):
                # The first tick of the share: as `allowed_at` divides the bar.
                tick = bar.start_tick - (-share * bar.meter.bar_ticks // shares)
                pitches = self.allowed_at(tick)
                if not changes or changes[-1][1] != pitches:
                    changes.append((tick, pitches))
        return changes

    def nearest_allowed(self, pitch: int, *, tick: int) -> int:
        """Return the nearest allowed pitch; of two, the lower one."""
        wanted = self.allowed_at(tick)
        if not wanted or self.is_allowed(pitch, tick=tick):
            return pitch
        if self.kind.instrument.has_lanes:
            return min(wanted, key=lambda allowed: (abs(allowed - pitch), allowed))
        return next(p for step in range(1, 12) for p in (pitch - step, pitch + step) if p % 12 in wanted)

    def lines(self) -> list[int]:
        """Return the ticks of all grid lines to the end of the last bar. Swing moves every second line."""
        pair = 2 * self.grid_ticks
        into = (0, round(pair * self.swing / (1.0 + self.swing)))
        return [
            start + i for start in range(0, self.end_tick, pair) for i in into if start + i < self.end_tick
        ]


@dataclass(frozen=True, slots=True, kw_only=True)
class FreeSpec:
    """A free exercise as a teacher sets it, to be stored. Meters, tempo and key are those of its page, a part without
    notes that shows the chords."""

    bars: int
    grid_ticks: int = TICKS_PER_QUARTER
    swing: float = 1.0
    pitches: Pitches = Pitches.ANY
    scale: str = ""
    """Of the scale its first note and mode: “A natural minor”."""
    chords: str = ""
    """Bars between “|”, chords between spaces; they begin anew when they end."""
    lanes: tuple[int, ...] = ()
    """Of drums the percussion numbers that may be played; none named: all."""
    least_a_bar: int = 0
    most_a_bar: int | None = None
    pairs_repeat: bool = False

    def exercise(self, page: Part, *, has_click: bool = True) -> FreeExercise:
        """Return the exercise that these rules ask for on its page, at the page's tempo.

        Raises UnknownName, ValueOutOfRange.
        """
        return FreeExercise(
            kind=page.kind, meters=page.meters, tempos=page.tempos, bars=self.bars, grid_ticks=self.grid_ticks,
            swing=self.swing, allowed=self._allowed(page), least_a_bar=self.least_a_bar,
            most_a_bar=self.most_a_bar, pairs_repeat=self.pairs_repeat, has_click=has_click,
        )  # fmt: skip

    def _allowed(self, page: Part) -> tuple[tuple[frozenset[int], ...], ...]:
        if page.instrument.has_lanes:
            return ((frozenset(self.lanes),),) if self.lanes else ()
        if self.pitches is Pitches.SCALE:
            return ((scale_classes(self.scale),),)
        if self.pitches is Pitches.CHORDS:
            return tuple(tuple(_sounding(chord) for chord in bar) for bar in self._sequence())
        return ()

    def _sequence(self) -> list[list[Chord]]:
        if not self.chords.strip():
            return []
        bars = read_sequence(self.chords, is_shared=True)
        if any(chord is None for bar in bars for chord in bar):
            raise ValueOutOfRange("bar_without_chord", field="chords")
        return [[chord for chord in bar if chord is not None] for bar in bars]

    def page(self, *, kind: Kind, meters: MeterMap, tempos: TempoMap, fifths: int = 0) -> Part:
        """Return its page: so many empty bars with the chords above them.

        Raises UnknownName, ValueOutOfRange.
        """
        marks = []
        sequence = self._sequence()
        for number in range(1, self.bars + 1) if sequence else ():
            bar, named = meters.bar(number), sequence[(number - 1) % len(sequence)]
            for k, chord in enumerate(named):
                tick = bar.start_tick + k * bar.meter.bar_ticks // len(named)
                marks.append(ChordMark(tick=tick, name=chord.name))
        made = Part.of(
            (), kind=kind, meters=meters, tempos=tempos, fifths=fifths, least_bars=self.bars, chords=marks
        )
        # Wrong values are told here, not when somebody has played.
        self.exercise(made)
        return made

    def to_json(self) -> dict[str, object]:
        """Return this as plain values for JSON."""
        plain: dict[str, object] = to_plain(self)
        return plain

    @classmethod
    def from_json(cls, data: Any) -> "FreeSpec":
        """Return the value that `to_json` wrote. Raises FormatError."""
        try:
            return from_plain(data, cls, expected="a free exercise")
        except ValueOutOfRange as problem:
            raise FormatError(expected=term("a free exercise"), actual=f"{problem}") from problem


def scale_classes(name: str) -> frozenset[int]:
    """Return the pitch classes of a scale by its name, such as “A natural minor”.

    Raises UnknownName, ValueOutOfRange.
    """
    tonic, _, mode = name.strip().partition(" ")
    if mode not in list(Mode):
        raise ValueOutOfRange("scale_unknown", name=name)
    root = Tonic.named(tonic).pitch_class
    up = STEPS[Mode(mode)]
    # A scale that comes down another way has the notes of both.
    return frozenset((root + step) % 12 for step in (*up, *DOWN_STEPS.get(Mode(mode), up)))


def _sounding(chord: Chord) -> frozenset[int]:
    bass = {chord.bass.pitch_class} if chord.bass else set()
    return frozenset(chord.pitch_classes) | bass
