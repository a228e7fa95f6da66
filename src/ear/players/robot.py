"""The robot player: plays a part with chosen habits, the same way for the same seed.

Timing follows the two-level model of Wing and Kristofferson ("Response delays and the timing of
discrete motor responses", Perception & Psychophysics 14, 1973): a timekeeper's interval with its
own variance, and a motor delay at each stroke; with linear correction of the last asynchrony
towards the click (Vorberg and Schulze, "Linear phase-correction in synchronization", J. Math.
Psychology 46, 2002). Asynchronies so made are correlated from note to note, as hands are, and a
long note against the click lets them wander no further than the correction allows.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from random import Random
from typing import NamedTuple

from ear.errors import ValueOutOfRange
from ear.notes import Hand, Note, Part, PedalSpan, Take, TakeNote
from ear.numerals import decimal
from ear.units import MAX_PITCH, MAX_VELOCITY, MIN_PITCH, MIN_VELOCITY

MOTOR_SHARE = 0.5
"""Of the variance of single strokes; the rest is the timekeeper's."""
CORRECTION = 0.3
"""Share of the last asynchrony that is made good at the next beat."""
DOUBLE_AFTER_S = (0.035, 0.08)
GRAZE_AFTER_S = (-0.03, 0.03)
GRAZE_VELOCITY = (10, 30)
GRAZE_LENGTH_S = 0.04
DRUM_LENGTH_S = 0.06
GRACE_BEFORE_S, GRACE_LENGTH_S = (0.05, 0.1), 0.06
FLAM_BEFORE_S = (0.02, 0.04)
GRACE_STRENGTH = 0.6
PEDAL_CHANGE_S = 0.08
"""How long the foot is up where the pedal is changed."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Jump:
    """From `bar` on everything is `quarters` later (earlier if negative); bars back: a restart."""

    bar: int
    quarters: float = 0.0
    back_bars: int = 0
    skip_bars: int = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class TempoHabit:
    """From the beginning of `bar` on so many times the tempo set; reached evenly over the bars since the change before,
    or since the beginning, where it `glides`."""

    bar: int
    ratio: float
    glides: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Habits:
    """How the robot plays. Times in ms, chances from 0 to 1 for each note."""

    lead_ms: float = 0.0
    """Constant lead (negative) or lag (positive)."""
    spread_ms: float = 0.0
    """SD of single onsets about the player's own time."""
    drift_ms_per_bar: float = 0.0
    tempo_ratio: float = 1.0
    tempo_changes: tuple[TempoHabit, ...] = ()
    """In order of bars; over the tempo set, whatever `tempo_ratio` says of the bars before."""
    late_places: tuple[tuple[int, float], ...] = ()
    """(tick in the bar, ms): that place always comes so much late."""
    late_lanes: tuple[tuple[int, float], ...] = ()
    """(pitch, ms)."""
    left_hand_ms: float = 0.0
    chord_roll_ms: float = 0.0
    wrong_keys: float = 0.0
    misses: float = 0.0
    doubles: float = 0.0
    grazes: float = 0.0
    grace_notes: float = 0.0
    """Ornaments: a neighbouring key, on drums the same pad (a flam), just before the note."""
    jumps: tuple[Jump, ...] = ()
    stop_after_bar: int | None = None
    velocity_spread: float = 0.0
    accents: float = 1.0
    """Written velocity contrast is played at this rate: 0 flat, -1 inverted."""
    length: float = 1.0
    """Rate of the written length: short below 1, blurred above."""
    latency_ms: float = 0.0
    """Of the set-up; comes on top of the player's own timing."""
    transpose: int = 0
    pedal_ms: float = 40.0
    """The foot after the sound: a written pedal is played so much late."""
    unchanged_pedal: float = 0.0
    """Chance that a change of the pedal is not made."""
    without_pedal: bool = False

    def __post_init__(self) -> None:
        for ratio in (self.tempo_ratio, *(change.ratio for change in self.tempo_changes)):
            if not 0.25 <= ratio <= 4.0:
                raise ValueOutOfRange("tempo_ratio_out_of_range", tempo_ratio=decimal(ratio))
        for chance in (
            self.wrong_keys,
            self.misses,
            self.doubles,
            self.grazes,
            self.grace_notes,
            self.unchanged_pedal,
        ):
            if not 0.0 <= chance <= 1.0:
                raise ValueOutOfRange("probability_out_of_range", chance=decimal(chance))


@dataclass(frozen=True, slots=True, kw_only=True)
class Performance:
    """A take with its truth: for each of its notes the target note that it was meant as.

    None for doubles and grazes, and for what was played anew after a restart: the last counts.
    """

    take: Take
    target_of: tuple[int | None, ...]
    is_double: tuple[bool, ...]
    jumps: tuple[tuple[int, float], ...] = ()
    """(target note from which on, quarters later) for each jump of the time base."""


class _Played(NamedTuple):
    note: TakeNote
    target: int | None
    is_double: bool


@dataclass(slots=True, kw_only=True)
class _Performer:
    """One performance while it is played."""

    part: Part
    habits: Habits
    random: Random
    notes: list[_Played] = field(default_factory=list)
    asynchrony_ms: float = 0.0
    jumped: list[tuple[int, float]] = field(default_factory=list)

    def play(self) -> Performance:
        before = 0.0
        for first_bar, after_bar, shift in self._passages():
            moments = self._moments(first_bar, after_bar)
            if moments and shift != before:
                first = self.part.notes[moments[0][0][0]]
                bpm = self.part.tempos.bpm_at(first.onset_tick)
                self.jumped.append((moments[0][0][0], (shift - before) * bpm / 60.0))
                before = shift
            for moment in moments:
                self._strike(moment, shift)
        kept = sorted(_without_overlaps(self.notes), key=lambda p: (p.note.onset_s, p.note.pitch))
        last = {p.target: k for k, p in enumerate(kept) if p.target is not None}
        return Performance(
            take=Take.of((p.note for p in kept), pedal=self._pedal()),
            target_of=tuple(
                p.target if p.target is not None and last[p.target] == k else None for k, p in enumerate(kept)
            ),
            is_double=tuple(p.is_double for p in kept),
            jumps=tuple(self.jumped),
        )

    def _own_s(self, click_s: float, shift_s: float = 0.0) -> float:
        """When the player reaches a second of the click, `shift_s` of it later by his jumps."""
        own, begins, slow = 0.0, 0.0, 1.0 / self.habits.tempo_ratio
        for change in self.habits.tempo_changes:
            at = self.part.tempos.second_at(self.part.meters.bar(change.bar).start_tick)
            to = 1.0 / change.ratio
            if click_s < at:
                if change.glides:
                    slow_here = slow + (to - slow) * (click_s - begins) / (at - begins)
                    own += (click_s - begins) * (slow_here - slow) / 2.0
                break
            own += (at - begins) * ((slow + to) / 2.0 if change.glides else slow)
            begins, slow = at, to
        return own + (click_s - begins) * slow + shift_s * slow

    def _pedal(self) -> list[PedalSpan]:
        """The written pedal in the player's steady time; jumps are the fingers' alone."""
        if self.habits.without_pedal:
            return []
        spans: list[PedalSpan] = []
        late_s = (self.habits.pedal_ms + self.habits.lead_ms + self.habits.latency_ms) / 1000.0
        for mark in self.part.pedal:
            start, end = (
                self._own_s(self.part.tempos.second_at(tick)) + late_s
                for tick in (mark.start_tick, mark.end_tick)
            )
            is_changed = spans and abs(spans[-1].end_s - start) < PEDAL_CHANGE_S
            if is_changed and self.random.random() < self.habits.unchanged_pedal:
                spans[-1] = replace(spans[-1], end_s=end)
            else:
                spans.append(PedalSpan(start_s=start + (PEDAL_CHANGE_S if is_changed else 0.0), end_s=end))
        return [span for span in spans if span.end_s > span.start_s]

    def _passages(self) -> list[tuple[int, int, float]]:
        """(first bar, bar after the last, shift in seconds), in the order they are played."""
        end = self.part.last_bar + 1
        if self.habits.stop_after_bar is not None:
            end = min(end, self.habits.stop_after_bar + 1)
        passages, at, shift = [], self.part.first_bar, 0.0
        for jump in sorted(self.habits.jumps, key=lambda j: j.bar):
            if not at <= jump.bar < end:
                continue
            passages.append((at, jump.bar, shift))
            here = self.part.meters.bar(jump.bar).start_tick
            at = max(self.part.first_bar, jump.bar - jump.back_bars) + jump.skip_bars
            there = self.part.meters.bar(at).start_tick
            second_at = self.part.tempos.second_at
            shift += jump.quarters * 60.0 / self.part.tempos.bpm_at(here) + second_at(here) - second_at(there)
        passages.append((at, end, shift))
        return passages

    def _moments(self, first_bar: int, after_bar: int) -> list[list[tuple[int, Note]]]:
        start = self.part.meters.bar(first_bar).start_tick
        end = self.part.meters.bar(after_bar).start_tick
        moments: dict[int, list[tuple[int, Note]]] = {}
        for i, note in enumerate(self.part.notes):
            if start <= note.onset_tick < end:
                moments.setdefault(note.onset_tick, []).append((i, note))
        return [moments[tick] for tick in sorted(moments)]

    def _strike(self, moment: Sequence[tuple[int, Note]], shift_s: float) -> None:
        habits, random = self.habits, self.random
        clock = habits.spread_ms * math.sqrt(1.0 - MOTOR_SHARE) * math.sqrt(CORRECTION * (2 - CORRECTION))
        self.asynchrony_ms = (1.0 - CORRECTION) * self.asynchrony_ms + random.gauss(0.0, clock)
        tick = moment[0][1].onset_tick
        bar = self.part.meters.bar_at(tick)
        bars_in = bar.number - self.part.first_bar + (tick - bar.start_tick) / bar.meter.bar_ticks
        common_ms = self.asynchrony_ms + habits.lead_ms + habits.latency_ms
        common_ms += habits.drift_ms_per_bar * (bars_in - len(self.part.bars) / 2)
        common_ms += sum(ms for place, ms in habits.late_places if place == tick - bar.start_tick)
        expected_s = self._own_s(self.part.tempos.second_at(tick), shift_s)
        for k, (i, note) in enumerate(moment):
            if random.random() < habits.misses:
                continue
            own_ms = random.gauss(0.0, habits.spread_ms * math.sqrt(MOTOR_SHARE))
            own_ms += habits.chord_roll_ms * k + sum(ms for p, ms in habits.late_lanes if p == note.pitch)
            own_ms += habits.left_hand_ms if note.hand is Hand.LEFT else 0.0
            self._sound(i, note, expected_s + (common_ms + own_ms) / 1000.0)

    def _sound(self, i: int, note: Note, onset_s: float) -> None:
        habits, random = self.habits, self.random
        middle = sum(n.velocity for n in self.part.notes) / len(self.part.notes)
        velocity = middle + (note.velocity - middle) * habits.accents
        velocity = _within(velocity + random.gauss(0.0, habits.velocity_spread), MIN_VELOCITY, MAX_VELOCITY)
        pitch = note.pitch + habits.transpose
        if random.random() < habits.wrong_keys:
            pitch = self._neighbour(note.pitch) + habits.transpose
        pitch = _within(pitch, MIN_PITCH, MAX_PITCH)
        length_s = DRUM_LENGTH_S
        if self.part.instrument.has_key:
            second_at = self.part.tempos.second_at
            lasts = self._own_s(second_at(note.end_tick)) - self._own_s(second_at(note.onset_tick))
            length_s = max(0.03, lasts * habits.length * random.uniform(0.92, 1.0))
        self.notes.append(
            _Played(TakeNote(onset_s=onset_s, length_s=length_s, pitch=pitch, velocity=velocity), i, False)
        )
        if random.random() < habits.doubles:
            again = onset_s + random.uniform(*DOUBLE_AFTER_S)
            second = TakeNote(onset_s=again, length_s=0.03, pitch=pitch, velocity=max(1, velocity // 2))
            self.notes.append(_Played(second, None, True))
        # Asked only of players who do it, so that others play as they always have.
        if habits.grace_notes and random.random() < habits.grace_notes:
            is_flam = not self.part.instrument.has_length
            grace = TakeNote(
                onset_s=onset_s - random.uniform(*(FLAM_BEFORE_S if is_flam else GRACE_BEFORE_S)),
                length_s=DRUM_LENGTH_S / 2 if is_flam else GRACE_LENGTH_S,
                pitch=pitch if is_flam else _within(pitch + random.choice((1, 2)), MIN_PITCH, MAX_PITCH),
                velocity=max(1, round(velocity * GRACE_STRENGTH)),
            )
            self.notes.append(_Played(grace, None, False))
        if random.random() < habits.grazes:
            graze = TakeNote(
                onset_s=onset_s + random.uniform(*GRAZE_AFTER_S),
                length_s=GRAZE_LENGTH_S,
                pitch=_within(self._neighbour(pitch), MIN_PITCH, MAX_PITCH),
                velocity=random.randint(*GRAZE_VELOCITY),
            )
            self.notes.append(_Played(graze, None, False))

    def _neighbour(self, pitch: int) -> int:
        """A key beside, or another pad of this part's kit."""
        if not self.part.instrument.has_length:
            others = sorted({n.pitch for n in self.part.notes} - {pitch}) or [pitch + 2]
            return self.random.choice(others)
        return pitch + self.random.choice((-2, -1, 1, 2))


def _within(value: float, low: int, high: int) -> int:
    return max(low, min(high, round(value)))


def _without_overlaps(notes: list[_Played]) -> list[_Played]:
    """A key that is struck again has been let go before: cut lengths at the next onset."""
    done: list[_Played] = []
    next_onset: dict[int, float] = {}
    for played in sorted(notes, key=lambda p: (p.note.onset_s, p.note.pitch), reverse=True):
        note = played.note
        room = next_onset.get(note.pitch, math.inf) - note.onset_s
        if room <= 0.0:
            continue
        length_s = min(note.length_s, max(room - 0.005, room / 2))
        done.append(played._replace(note=replace(note, length_s=length_s)))
        next_onset[note.pitch] = note.onset_s
    return done


def perform(part: Part, habits: Habits, *, seed: int) -> Performance:
    """Return a take of the part with these habits, and the truth about it.

    An empty part gives an empty take.
    """
    if not part.notes:
        return Performance(take=Take.of(()), target_of=(), is_double=())
    return _Performer(part=part, habits=habits, random=Random(seed)).play()


def play(part: Part, habits: Habits, *, seed: int) -> Take:
    """Return a take of the part with these habits."""
    return perform(part, habits, seed=seed).take
