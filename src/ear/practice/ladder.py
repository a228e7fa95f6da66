"""The ladder: practice steps of an exercise, made by hand or proposed from its part."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import groupby, pairwise
from typing import Any

import msgspec

from ear.editing.bars import delete_bars
from ear.editing.picking import pick
from ear.editing.sections import stretches
from ear.errors import EarError, FormatError, ValueOutOfRange
from ear.labels.chord_cards import chord_names
from ear.labels.counting import move_numbers
from ear.notes import STANDARD_KIT, Hand, KitMap, Note, Part
from ear.plain import from_plain, to_plain

MAX_RUNGS = 40
MAX_MOVES = 16
"""Moves of a bar that get rungs of their own."""
MAX_NAME_LENGTH = 80
MAX_LOOPS = 16
MIN_TEMPO, MAX_TEMPO = 30, 150
SLOW, MIDDLE, WHOLE, FASTER = 60, 80, 100, 110
PHRASE_BARS = 4
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

    def __post_init__(self) -> None:
        if not self.name or len(self.name) > MAX_NAME_LENGTH:
            raise ValueOutOfRange("rung_name_length", name_most=MAX_NAME_LENGTH)
        if not 1 <= self.first_bar <= self.last_bar:
            raise ValueOutOfRange("rung_ends_before_start")
        if not MIN_TEMPO <= self.tempo_percent <= MAX_TEMPO:
            raise ValueOutOfRange("rung_tempo_out_of_range", tempo_least=MIN_TEMPO, tempo_most=MAX_TEMPO)
        if not 1 <= self.needed_loops <= self.loops <= MAX_LOOPS or not 0 <= self.needed <= 100:
            raise ValueOutOfRange("rung_loops_out_of_range", loops_most=MAX_LOOPS)

    def notes_of(self, whole: Part, *, kit: KitMap = STANDARD_KIT) -> tuple[int, ...]:
        """Numbers of the notes that are played on this rung: of its bars, and of its hand, lanes or moves."""
        chosen = pick(whole, first_bar=self.first_bar, last_bar=self.last_bar, hand=self.hand)
        number_of = move_numbers(whole) if self.moves else {}

        def is_played(note: Note) -> bool:
            if self.lanes and kit.lane(note.pitch).name not in self.lanes:
                return False
            span = self.moves
            return span is None or span[0] <= number_of[note.onset_tick] <= span[1]

        return tuple(i for i in sorted(chosen) if is_played(whole.notes[i]))

    def part(self, whole: Part, *, kit: KitMap = STANDARD_KIT) -> Part:
        """What is played on this rung: its bars alone, of its hand, lanes or moves, at its tempo.

        Raises ValueOutOfRange for bars that the part has not.
        """
        notes = [whole.notes[i] for i in self.notes_of(whole, kit=kit)]
        bars = len(whole.bars)
        if self.last_bar > bars:
            raise ValueOutOfRange("bar_outside_part", count=bars)
        part = replace(whole.with_notes(notes), cues=(), least_bars=bars)
        if self.last_bar < bars:
            part = delete_bars(part, first=self.last_bar + 1, last=bars).part
        if self.first_bar > 1:
            part = delete_bars(part, first=1, last=self.first_bar - 1).part
        return part.at_tempo(part.tempos.first_bpm * self.tempo_percent / 100)

    def to_json(self) -> dict[str, Any]:
        """As plain values for JSON."""
        stored = _StoredRung(
            name=self.name, bars=(self.first_bar, self.last_bar), hand=self.hand, lanes=self.lanes,
            movements=self.moves, tempo_percent=self.tempo_percent, loops=self.loops, needed=self.needed,
            needed_loops=self.needed_loops,
        )  # fmt: skip
        plain: dict[str, Any] = to_plain(stored)
        return plain

    @classmethod
    def from_json(cls, data: Any) -> "Rung":
        """The reverse. Raises FormatError."""
        stored = from_plain(data, _StoredRung, expected="a rung of a ladder")
        try:
            return cls(
                name=stored.name, first_bar=stored.bars[0], last_bar=stored.bars[1], hand=stored.hand,
                lanes=stored.lanes, moves=stored.movements, tempo_percent=stored.tempo_percent,
                loops=stored.loops, needed=stored.needed, needed_loops=stored.needed_loops,
            )  # fmt: skip
        except ValueOutOfRange as problem:
            raise FormatError(expected="a rung of a ladder", actual=f"{problem}") from problem


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


@dataclass(frozen=True, slots=True, kw_only=True)
class Ladder:
    """Rungs from the easiest up."""

    rungs: tuple[Rung, ...] = ()

    def __post_init__(self) -> None:
        if len(self.rungs) > MAX_RUNGS:
            raise ValueOutOfRange("too_many_rungs", rungs_most=MAX_RUNGS)

    def to_json(self) -> list[dict[str, Any]]:
        """As plain values for JSON."""
        return [rung.to_json() for rung in self.rungs]

    @classmethod
    def from_json(cls, data: Any, part: Part | None = None) -> "Ladder":
        """The reverse; with a part, rungs over bars that it has not are left out. Raises FormatError."""
        if not isinstance(data, list):
            raise FormatError(expected="a ladder", actual=f"{data!r:.40}")
        try:
            rungs = [Rung.from_json(row) for row in data]
            bars = len(part.bars) if part is not None else None
            return cls(rungs=tuple(r for r in rungs if bars is None or r.last_bar <= bars))
        except EarError as problem:
            raise FormatError(expected="a ladder", actual=f"{problem}") from problem


def proposed(part: Part, *, kit: KitMap = STANDARD_KIT) -> Ladder:
    """A ladder that teachers would make of a part.

    Chords: each alone, each change, the whole. Drums: each move of the first bar, the moves one
    after the other, lane on lane, the whole, faster. Other keyboard parts: the hands apart, phrase by
    phrase, together slowly, the whole, faster.
    """
    if not part.notes:
        return Ladder()
    if part.instrument.has_lanes:
        rungs = _drum_rungs(part, kit)
    elif len(part.chords) >= 2 or _is_chordal(part):
        rungs = _chord_rungs(part)
    else:
        rungs = _melody_rungs(part)
    return Ladder(rungs=tuple(rungs[:MAX_RUNGS]))


def _is_chordal(part: Part) -> bool:
    names = chord_names(part)
    return len(names) >= 2 and len(names) * 2 >= len({n.onset_tick for n in part.notes})


def _whole(part: Part, name: str, tempo: int) -> Rung:
    return Rung(name=name, first_bar=1, last_bar=len(part.bars), tempo_percent=tempo, loops=3, needed_loops=1)


def _chord_rungs(part: Part) -> list[Rung]:
    """Each chord in its bar, each change from one bar to the next, the whole."""
    names: dict[int, list[str]] = {}
    for tick, name in chord_names(part).items():
        names.setdefault(part.meters.bar_at(tick).number, []).append(name)
    bars = sorted(names)
    rungs: list[Rung] = []
    seen: set[tuple[str, ...]] = set()
    for bar in bars:
        key = tuple(names[bar])
        if key not in seen:
            seen.add(key)
            rungs.append(Rung(name=" ".join(key), first_bar=bar, last_bar=bar, tempo_percent=SLOW))
    changes: set[tuple[tuple[str, ...], ...]] = set()
    for bar, after in pairwise(bars):
        pair = (tuple(names[bar]), tuple(names[after]))
        if after == bar + 1 and pair[0] != pair[1] and pair not in changes:
            changes.add(pair)
            title = f"{' '.join(pair[0])} to {' '.join(pair[1])}"[:MAX_NAME_LENGTH]
            rungs.append(Rung(name=title, first_bar=bar, last_bar=after, tempo_percent=SLOW))
    rungs.append(_whole(part, "all, slowly", MIDDLE))
    rungs.append(_whole(part, "all", WHOLE))
    return rungs


def _moves_named(first: int, last: int) -> str:
    return f"move {first}" if first == last else f"moves {first} to {last}"


def _drum_rungs(part: Part, kit: KitMap) -> list[Rung]:
    """Moves of the first bar one on another, then the lanes, then the whole."""
    first = [n for i, n in enumerate(part.notes) if part.bar_of_note[i] == part.bar_of_note[0]]
    bar = int(part.bar_of_note[0])
    moves = [
        " + ".join(dict.fromkeys(kit.lane(n.pitch).name for n in struck))
        for _, struck in groupby(first, key=lambda n: n.onset_tick)
    ]
    # Of a bar with very many moves some are learnt together.
    together = -(-len(moves) // MAX_MOVES)
    spans = [(k, min(k + together - 1, len(moves))) for k in range(1, len(moves) + 1, together)]
    rungs = [
        Rung(
            name=f"{_moves_named(a, b)}: {', '.join(moves[a - 1 : b])}"[:MAX_NAME_LENGTH], first_bar=bar, last_bar=bar,
            moves=(a, b), tempo_percent=SLOW,
        )
        for a, b in spans
    ]  # fmt: skip
    rungs += [
        Rung(name=_moves_named(1, b), first_bar=bar, last_bar=bar, moves=(1, b), tempo_percent=SLOW)
        for _, b in spans[1:]
    ]
    lanes = _lanes_by_use(part, kit)
    feet_and_snare = [lane for lane in lanes if lane in ("kick", "snare")]
    last = len(part.bars)
    if len(lanes) > len(feet_and_snare) > 1:
        rungs.append(
            Rung(
                name="kick and snare",
                first_bar=1,
                last_bar=last,
                lanes=tuple(feet_and_snare),
                tempo_percent=MIDDLE,
            )
        )
        rungs += [
            Rung(
                name=f"with {lane}",
                first_bar=1,
                last_bar=last,
                lanes=(*feet_and_snare, lane),
                tempo_percent=MIDDLE,
            )
            for lane in lanes
            if lane not in feet_and_snare
        ]
    rungs.append(_whole(part, "all, slowly", MIDDLE))
    rungs.append(_whole(part, "all", WHOLE))
    rungs.append(_whole(part, "a little faster", FASTER))
    return rungs


def _lanes_by_use(part: Part, kit: KitMap) -> list[str]:
    counts: dict[str, int] = {}
    for note in part.notes:
        name = kit.lane(note.pitch).name
        counts[name] = counts.get(name, 0) + 1
    return sorted(counts, key=lambda name: -counts[name])


def _changes_of_tempo(part: Part) -> list[Rung]:
    """The bar before another tempo with the bar after it."""
    changes = []
    for stretch in stretches(part)[1:]:
        bar = stretch.first_bar
        tick = part.meters.bar(bar).start_tick
        if part.tempos.bpm_at(tick - 1) != part.tempos.bpm_at(tick):
            title = f"into {stretch.name or f'bar {bar}'}"[:MAX_NAME_LENGTH]
            changes.append(Rung(name=title, first_bar=bar - 1, last_bar=bar, tempo_percent=MIDDLE))
    return changes


def _melody_rungs(part: Part) -> list[Rung]:
    phrases = list(_phrases(part))
    has_two = {n.hand for n in part.notes} >= {Hand.RIGHT, Hand.LEFT}
    rungs: list[Rung] = []
    name_of = {s.bar: s.name for s in part.sections if s.name}
    for first, last in phrases:
        title = name_of.get(first) or (f"bars {first} to {last}" if last > first else f"bar {first}")
        if has_two:
            rungs += [
                Rung(
                    name=f"{title}, {hand.value} hand",
                    first_bar=first,
                    last_bar=last,
                    hand=hand,
                    tempo_percent=SLOW,
                )
                for hand in Hand
                if any(n.hand is hand for n in _inside(part, first, last))
            ]
        rungs.append(
            Rung(
                name=f"{title}{', together' if has_two else ''}",
                first_bar=first,
                last_bar=last,
                tempo_percent=SLOW,
            )
        )
    rungs += _changes_of_tempo(part)
    if len(phrases) > 1 or not rungs:
        rungs.append(_whole(part, "all, slowly", MIDDLE))
    rungs.append(_whole(part, "all", WHOLE))
    rungs.append(_whole(part, "a little faster", FASTER))
    return rungs


def _inside(part: Part, first: int, last: int) -> Iterable[Note]:
    return (part.notes[i] for i in pick(part, first_bar=first, last_bar=last))


def _phrases(part: Part) -> Sequence[tuple[int, int]]:
    """Sections where the part has them, else four bars at a time; stretches without notes are left out."""
    bars = len(part.bars)
    starts = [s.bar for s in part.sections] or list(range(1, bars + 1, PHRASE_BARS))
    spans = zip(starts, [*(s - 1 for s in starts[1:]), bars], strict=True)
    return [(first, last) for first, last in spans if any(True for _ in _inside(part, first, last))]
