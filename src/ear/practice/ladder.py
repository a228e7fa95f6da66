"""The ladder: practice steps of an exercise, made by hand or proposed from its part."""

from dataclasses import dataclass, replace
from typing import Any

import msgspec

from ear.editing.bars import delete_bars
from ear.editing.picking import pick
from ear.errors import EarError, FormatError, ValueOutOfRange
from ear.labels.counting import move_numbers
from ear.notes import STANDARD_KIT, Hand, KitMap, Note, Part
from ear.plain import from_plain, to_plain
from ear.text import term

MAX_RUNGS = 40
MAX_NAME_LENGTH = 80
MAX_LOOPS = 16
MIN_TEMPO, MAX_TEMPO = 30, 150
WHOLE = 100
NEEDED = 80
"""Points of 100 that the core gives a clean loop."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Rung:
    """One step: which bars, which hand or lanes, how fast, how often, and what is needed to go on."""

    name: str
    first_bar: int
    last_bar: int
    hand: Hand | None = None
    lanes: tuple[str, ...] = ()
    """Lanes of a kit; empty for all."""
    moves: tuple[int, int] | None = None
    """Only these moves of the bar, first to last."""
    tempo_percent: int = WHOLE
    loops: int = 4
    needed: int = NEEDED
    """Points of 100 that a loop must reach."""
    needed_loops: int = 2
    """Loops in a row that must reach them."""
    own_pace: bool = False
    """At the player's own pace, without a wrong key: then no tempo counts, and all points are needed."""

    def __post_init__(self) -> None:
        if self.own_pace:
            object.__setattr__(self, "needed", WHOLE)
        if not self.name or len(self.name) > MAX_NAME_LENGTH:
            raise ValueOutOfRange("rung_name_length", name_most=MAX_NAME_LENGTH)
        if not 0 <= self.first_bar <= self.last_bar:
            raise ValueOutOfRange("rung_ends_before_start")
        if not MIN_TEMPO <= self.tempo_percent <= MAX_TEMPO:
            raise ValueOutOfRange("rung_tempo_out_of_range", tempo_least=MIN_TEMPO, tempo_most=MAX_TEMPO)
        if not 1 <= self.needed_loops <= self.loops <= MAX_LOOPS or not 0 <= self.needed <= 100:
            raise ValueOutOfRange("rung_loops_out_of_range", loops_most=MAX_LOOPS)

    def notes_of(self, whole: Part, *, kit: KitMap = STANDARD_KIT) -> tuple[int, ...]:
        """Return the numbers of the notes played on this rung: those of its bars and of its hand, lanes or
        moves.
        """
        chosen = pick(whole, first_bar=self.first_bar, last_bar=self.last_bar, hand=self.hand)
        number_of = move_numbers(whole) if self.moves else {}

        def is_played(note: Note) -> bool:
            if self.lanes and kit.lane(note.pitch).name not in self.lanes:
                return False
            span = self.moves
            return span is None or span[0] <= number_of[note.onset_tick] <= span[1]

        return tuple(i for i in sorted(chosen) if is_played(whole.notes[i]))

    def part(self, whole: Part, *, kit: KitMap = STANDARD_KIT) -> Part:
        """Return what is played on this rung: its bars alone, of its hand, lanes or moves, at its tempo.

        Raises ValueOutOfRange for bars that the part has not.
        """
        notes = [whole.notes[i] for i in self.notes_of(whole, kit=kit)]
        bars = whole.last_bar
        if self.last_bar > bars:
            raise ValueOutOfRange("bar_outside_part", count=bars)
        part = replace(whole.with_notes(notes), cues=(), least_bars=len(whole.bars))
        if self.last_bar < bars:
            part = delete_bars(part, first=self.last_bar + 1, last=bars).part
        if self.first_bar > whole.first_bar:
            part = delete_bars(part, first=whole.first_bar, last=self.first_bar - 1).part
        return part.at_tempo(part.tempos.first_bpm * self.tempo_percent / 100)

    def to_json(self) -> dict[str, object]:
        """Return this as plain values for JSON."""
        stored = _StoredRung(
            name=self.name, bars=(self.first_bar, self.last_bar), hand=self.hand, lanes=self.lanes,
            movements=self.moves, tempo_percent=self.tempo_percent, loops=self.loops, needed=self.needed,
            needed_loops=self.needed_loops, own_pace=True if self.own_pace else msgspec.UNSET,
        )  # fmt: skip
        plain: dict[str, object] = to_plain(stored)
        return plain

    @classmethod
    def from_json(cls, data: Any) -> "Rung":
        """Return the value that `to_json` wrote. Raises FormatError."""
        stored = from_plain(data, _StoredRung, expected="a rung of a ladder")
        try:
            return cls(
                name=stored.name, first_bar=stored.bars[0], last_bar=stored.bars[1], hand=stored.hand,
                lanes=stored.lanes, moves=stored.movements, tempo_percent=stored.tempo_percent,
                loops=stored.loops, needed=stored.needed, needed_loops=stored.needed_loops, own_pace=stored.own_pace is True,
            )  # fmt: skip
        except ValueOutOfRange as problem:
            raise FormatError(expected=term("a rung of a ladder"), actual=f"{problem}") from problem


class _StoredRung(msgspec.Struct, kw_only=True):
    name: str
    bars: tuple[int, int]
    hand: Hand | None = None
    lanes: tuple[str, ...] = ()
    movements: tuple[int, int] | None = None
    tempo_percent: int
    loops: int
    needed: int
    needed_loops: int
    own_pace: bool | msgspec.UnsetType = msgspec.UNSET
    """Unset where it is false: a rung is known by what it says, and rungs that were stored before do not say it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Ladder:
    """Rungs from the easiest up."""

    rungs: tuple[Rung, ...] = ()

    def __post_init__(self) -> None:
        if len(self.rungs) > MAX_RUNGS:
            raise ValueOutOfRange("too_many_rungs", rungs_most=MAX_RUNGS)

    def to_json(self) -> list[dict[str, object]]:
        """Return this as plain values for JSON."""
        return [rung.to_json() for rung in self.rungs]

    @classmethod
    def from_json(cls, data: Any, part: Part | None = None) -> "Ladder":
        """Return the value that `to_json` wrote.

        With a part, rungs over bars that it does not have are left out. Raises FormatError.
        """
        if not isinstance(data, list):
            raise FormatError(expected=term("a ladder"), actual=f"{data!r:.40}")
        try:
            rungs = [Rung.from_json(row) for row in data]
            bars = part.last_bar if part is not None else None
            return cls(rungs=tuple(r for r in rungs if bars is None or r.last_bar <= bars))
        except EarError as problem:
            raise FormatError(expected=term("a ladder"), actual=f"{problem}") from problem
