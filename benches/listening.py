"""Do the ear notes name the one thing that is wrong? One cause is put into clean takes; what is told of them is counted.

For each cause: in how many takes the first note names it, in how many it is among the first three, and what is told
besides. Takes in which nothing is wrong have to be without a fault.
"""

import os
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from functools import partial
from random import Random

from ear.assess import assess
from ear.criteria.table import FINDINGS
from ear.findings.kind import Tone
from ear.matching.match import match
from ear.notes import Hand, Kind, Part, Take, TakeNote
from ear.players.pieces import drum_part, keyboard_part
from ear.players.robot import Habits, Jump, TempoHabit, play

SEEDS = range(20)
CLEAN = Habits(lead_ms=-6, spread_ms=9, velocity_spread=4)
CLEAN_TAKES = 50
BARS = (8, 12, 16)
SNARE, HAT = 38, 42
CHORDS_BELOW = 57
NAMED, AMONG = 1, 3

Change = Callable[[Part, Take, Random], Take]


@dataclass(frozen=True, slots=True, kw_only=True)
class Cause:
    """One thing that is wrong, and the codes of ear notes that name it. `change` is made after playing."""

    name: str
    codes: tuple[str, ...]
    kinds: tuple[Kind, ...] = (Kind.KEYBOARD, Kind.DRUMS)
    habits: Habits = CLEAN
    change: Change | None = None
    prepare: Callable[[Part], Part] = lambda part: part
    """Of the part, where the cause needs what others lack."""


def _by_hand(part: Part, take: Take, change: Callable[[TakeNote, Hand | None, int], TakeNote | None]) -> Take:
    """Each note changed by the hand of its target note and its number; None leaves it out."""
    target = {p.take: p.target for p in match(part, take).links if p.target is not None}
    made = (
        change(n, part.notes[target[k]].hand if k in target else None, target.get(k, 0))
        for k, n in enumerate(take.notes)
    )
    return Take.of((n for n in made if n is not None), pedal=take.pedal)


def with_chords(part: Part) -> Part:
    """Return the part with its left-hand notes as triads."""
    return part.with_notes(
        replace(n, pitch=n.pitch + step)
        for n in part.notes
        for step in ((0, 3, 7) if n.hand is Hand.LEFT and n.pitch < CHORDS_BELOW else (0,))
    )


def _louder(note: TakeNote, by: float) -> TakeNote:
    return replace(note, velocity=max(1, min(127, round(note.velocity + by))))


def uneven_left(part: Part, take: Take, random: Random) -> Take:
    """Return the take with an unsteady left hand, spread by 40 ms."""
    return _by_hand(
        part, take,
        lambda n, hand, _: replace(n, onset_s=n.onset_s + random.gauss(0, 0.04)) if hand is Hand.LEFT else n,
    )  # fmt: skip


def loud_left(part: Part, take: Take, _random: Random) -> Take:
    """Return the take with a left hand 24 steps of velocity too loud."""
    return _by_hand(part, take, lambda n, hand, _: _louder(n, 24) if hand is Hand.LEFT else n)


def all_louder(_part: Part, take: Take, _random: Random) -> Take:
    """Return the take 28 steps of velocity louder."""
    return replace(take, notes=tuple(_louder(n, 28) for n in take.notes))


def all_softer(_part: Part, take: Take, _random: Random) -> Take:
    """Return the take 28 steps of velocity softer."""
    return replace(take, notes=tuple(_louder(n, -28) for n in take.notes))


def right_hand_only(part: Part, take: Take, _random: Random) -> Take:
    """Return the take without its left hand."""
    return _by_hand(part, take, lambda n, hand, _: None if hand is Hand.LEFT else n)


def left_an_octave_lower(part: Part, take: Take, _random: Random) -> Take:
    """Return the take with its left hand an octave too low."""
    return _by_hand(part, take, lambda n, hand, _: replace(n, pitch=n.pitch - 12) if hand is Hand.LEFT else n)


def one_pad(_part: Part, take: Take, _random: Random) -> Take:
    """Return the take with every stroke on the snare."""
    notes: list[TakeNote] = []
    for note in take.notes:
        if not notes or note.onset_s - notes[-1].onset_s > 0.03:
            notes.append(replace(note, pitch=SNARE))
    return Take.of(notes)


def another_pad(_part: Part, take: Take, _random: Random) -> Take:
    """Return the take with the snare sending the number of another pad."""
    return Take.of(replace(n, pitch=75) if n.pitch == SNARE else n for n in take.notes)


def loud_hat(_part: Part, take: Take, _random: Random) -> Take:
    """Return the take with a hat 32 steps of velocity too loud."""
    return replace(take, notes=tuple(_louder(n, 32) if n.pitch == HAT else n for n in take.notes))


def silent_bar(part: Part, take: Take, random: Random) -> Take:
    """Return the take with one bar left out, in time."""
    bar = 2 + random.randrange(len(part.bars) - 3)
    return _by_hand(part, take, lambda n, _, target: None if part.bar_of_note[target] == bar else n)


def _swung(bpm_ms: float) -> Habits:
    return replace(CLEAN, late_places=tuple((240 + 480 * k, bpm_ms) for k in range(4)))


KEYS, KIT = (Kind.KEYBOARD,), (Kind.DRUMS,)
CAUSES = (
    Cause(name="ahead of the click by 45 ms", codes=("lead",), habits=replace(CLEAN, lead_ms=-45)),
    Cause(name="behind the click by 50 ms", codes=("lag",), habits=replace(CLEAN, lead_ms=50)),
    Cause(name="rushing by 12 ms a bar", codes=("rushing",), habits=replace(CLEAN, drift_ms_per_bar=-12)),
    Cause(name="dragging by 6 ms a bar", codes=("dragging",), habits=replace(CLEAN, drift_ms_per_bar=8)),
    Cause(name="unsteady by 45 ms", codes=("unsteady",), habits=replace(CLEAN, spread_ms=45)),
    Cause(name="at 0.85 of the tempo", codes=("own_tempo",), habits=replace(CLEAN, tempo_ratio=0.85)),
    Cause(name="slower in four bars", codes=("slower_bars", "slower_lost"), habits=replace(CLEAN, tempo_changes=(TempoHabit(bar=4, ratio=0.8), TempoHabit(bar=7, ratio=1.0)))),
    Cause(name="slower from bar 6 on", codes=("slower_from", "slows_end", "slower_bars"), habits=replace(CLEAN, tempo_changes=(TempoHabit(bar=6, ratio=0.8),))),
    Cause(name="slowing all through", codes=("slows", "slows_bars"), habits=replace(CLEAN, tempo_changes=(TempoHabit(bar=8, ratio=0.72, glides=True),))),
    Cause(name="a hesitation of a beat", codes=("slip",), habits=replace(CLEAN, jumps=(Jump(bar=5, quarters=1.0),))),
    Cause(name="a new start", codes=("restart",), habits=replace(CLEAN, jumps=(Jump(bar=6, back_bars=2, quarters=0.6),))),
    Cause(name="a bar skipped", codes=("skip_bar", "skip"), habits=replace(CLEAN, jumps=(Jump(bar=5, skip_bars=1),))),
    Cause(name="two beats late at the start", codes=("late_start",), habits=replace(CLEAN, jumps=(Jump(bar=1, quarters=2.0),))),
    Cause(name="an end three bars early", codes=("unfinished",), habits=replace(CLEAN, stop_after_bar=5)),
    Cause(name="one note of ten wrong", codes=("wrong_key", "wrong_drum"), habits=replace(CLEAN, wrong_keys=0.1)),
    Cause(name="one note of ten missed", codes=("missed",), habits=replace(CLEAN, misses=0.1)),
    Cause(name="a bar silent", codes=("missed",), change=silent_bar),
    Cause(name="notes struck twice", codes=("doubles",), habits=replace(CLEAN, doubles=0.12)),
    Cause(name="all an octave lower", codes=("transposed",), kinds=KEYS, habits=replace(CLEAN, transpose=-12)),
    Cause(name="the left hand an octave lower", codes=("hand_octave",), kinds=KEYS, change=left_an_octave_lower),
    Cause(name="the right hand alone", codes=("missed_hand",), kinds=KEYS, change=right_hand_only),
    Cause(name="the left hand late by 50 ms", codes=("hand_late",), kinds=KEYS, habits=replace(CLEAN, left_hand_ms=50)),
    Cause(name="the left hand uneven in time", codes=("hand_unsteady",), kinds=KEYS, change=uneven_left),
    Cause(name="the left hand too loud", codes=("hand_loud",), kinds=KEYS, change=loud_left),
    Cause(name="chords rolled by 40 ms a note", codes=("rolled_chords",), kinds=KEYS, habits=replace(CLEAN, chord_roll_ms=40), prepare=with_chords),
    Cause(name="everything louder", codes=("all_louder",), change=all_louder),
    Cause(name="everything softer", codes=("all_softer",), change=all_softer),
    Cause(name="accents flat", codes=("accents_flat",), kinds=KIT, habits=replace(CLEAN, accents=0.0)),
    Cause(name="accents inverted", codes=("accents_inverted",), kinds=KIT, habits=replace(CLEAN, accents=-0.8)),
    Cause(name="cut short", codes=("cut_short",), kinds=KEYS, habits=replace(CLEAN, length=0.4)),
    Cause(name="the snare late by 35 ms", codes=("lane_late",), kinds=KIT, habits=replace(CLEAN, late_lanes=((SNARE, 35.0),))),
    Cause(name="the hat early by 32 ms", codes=("lane_early",), kinds=KIT, habits=replace(CLEAN, late_lanes=((HAT, -32.0),))),
    Cause(name="the hat too loud", codes=("lane_loud",), kinds=KIT, change=loud_hat),
    Cause(name="swung where it is straight", codes=("swung",), kinds=KIT, habits=_swung(90.0)),
    Cause(name="everything on one pad", codes=("one_pad",), kinds=KIT, change=one_pad),
    Cause(name="a pad of another number", codes=("pad_number",), kinds=KIT, change=another_pad),
)  # fmt: skip


def part_of(kind: Kind, seed: int) -> Part:
    """Return a made-up part. The same seed gives the same part."""
    make = keyboard_part if kind.instrument.has_key else drum_part
    return make(seed, bars=BARS[seed % len(BARS)])


def codes_reported(cause: Cause | None, kind: Kind, seed: int) -> tuple[str, ...]:
    """Return the codes of the faults and facts reported for a take with this cause, the most costly first."""
    part = part_of(kind, seed)
    if cause:
        part = cause.prepare(part)
    take = play(part, cause.habits if cause else CLEAN, seed=seed)
    if cause and cause.change:
        take = cause.change(part, take, Random(seed))
    return tuple(fault.finding.code for fault in assess(part, take).judgement.faults)


def _codes_of(name: str | None, kind: Kind, seed: int) -> tuple[str, ...]:
    return codes_reported(next((c for c in CAUSES if c.name == name), None), kind, seed)


def report() -> Iterator[str]:
    """Yield the lines of the benchmark's report."""
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        yield f"{'cause':34} {'kind':9} {'first':>6} {'among 3':>8}  told besides"
        first_of_all = among_all = takes = 0
        for cause in CAUSES:
            for kind in cause.kinds:
                codes_by_cause = list(pool.map(partial(_codes_of, cause.name, kind), SEEDS, chunksize=4))
                first = sum(any(code in cause.codes for code in codes[:NAMED]) for codes in codes_by_cause)
                among = sum(any(code in cause.codes for code in codes[:AMONG]) for codes in codes_by_cause)
                besides = Counter(
                    code for codes in codes_by_cause for code in codes[:AMONG] if code not in cause.codes
                )
                first_of_all, among_all, takes = (
                    first_of_all + first,
                    among_all + among,
                    takes + len(codes_by_cause),
                )
                shown = ", ".join(f"{code} {count}" for code, count in besides.most_common(5))
                yield (
                    f"{cause.name:34} {kind.value:9} {100 * first / len(codes_by_cause):4.0f} % {100 * among / len(codes_by_cause):6.0f}%  {shown}"
                )
        yield f"in all: {100 * first_of_all / takes:.1f}% first, {100 * among_all / takes:.1f}% among three"
        for kind in Kind:
            clean = list(pool.map(partial(_codes_of, None, kind), range(CLEAN_TAKES), chunksize=5))
            faults = Counter(code for codes in clean for code in codes)
            shown = ", ".join(f"{code} {count}" for code, count in faults.most_common())
            free = sum(all(FINDINGS[code].KIND.tone is Tone.PRAISE for code in codes) for codes in clean)
            yield f"clean, {kind.value}: {free} of {len(clean)} without a note  {shown}"
