"""Takes with truth, made by the robot player: for the bench when it is given no folder.

Each case is a part of one of several sorts, played with one to three troubles at once, drawn by
seed. Same seed, same cases.
"""

from collections.abc import Iterator
from dataclasses import replace
from random import Random

from benches.matching import Truth
from ear.notes import Hand, Kind, MeterMap, Note, Part, TempoMap
from ear.players.robot import Habits, Jump, Performance, perform

CASES = 160
SEED = 7
METERS = ((4, 4), (4, 4), (3, 4), (6, 8), (5, 4))
SCALE = (0, 2, 4, 5, 7, 9, 11)
HAT, SNARE, KICK, OPEN_HAT, TOM = 42, 38, 36, 46, 45


def make_cases(count: int = CASES, *, seed: int = SEED) -> Iterator[Truth]:
    """Return takes of the robot player with known truth, keyboard and drums in turn.

    The same seed gives the same takes.
    """
    random = Random(seed)
    for number in range(count):
        part = _drums(random) if number % 2 else _keyboard(random)
        habits = Habits(
            lead_ms=random.gauss(0, 12), spread_ms=random.uniform(5, 14), velocity_spread=random.uniform(2, 8)
        )
        tags = random.sample(sorted(TROUBLES), random.choice((0, 1, 1, 2, 2, 3)))
        for tag in tags:
            habits = TROUBLES[tag](habits, part, random)
        if part.instrument.has_lanes and habits.transpose:
            habits = replace(habits, transpose=0)
        performed = perform(part, habits, seed=random.randrange(10**9))
        yield _truth(f"{part.kind.value}-{number:03}", part, performed, habits, tuple(tags) or ("clean",))


def _meter(random: Random) -> tuple[MeterMap, int, TempoMap]:
    meters = MeterMap.of(*random.choice(METERS))
    return meters, random.randint(8, 20), TempoMap.of(random.randint(60, 140))


def _keyboard(random: Random) -> Part:
    """A tune that walks the scale in mixed values, alone or over chords."""
    meters, bars, tempos = _meter(random)
    has_chords, tonic = random.random() < 0.5, random.randint(55, 66)
    notes, step = [], random.randint(4, 9)
    for bar in range(bars):
        start, length = bar * meters.first.bar_ticks, meters.first.bar_ticks
        tick = 0
        while tick < length:
            value = min(random.choice((240, 240, 480, 480, 720, 960)), length - tick)
            step = max(0, min(14, step + random.choice((-2, -1, -1, 0, 1, 1, 2))))
            notes.append(
                _note(start + tick, value, tonic + 12 * (step // 7) + SCALE[step % 7], 84, Hand.RIGHT)
            )
            tick += value
        if has_chords:
            root = random.choice((0, 3, 4, 5))
            for third in range(3):
                degree = root + 2 * third
                pitch = tonic - 17 + 12 * (degree // 7) + SCALE[degree % 7]
                notes.append(_note(start, length, pitch, 66, Hand.LEFT))
    return Part.of(notes, kind=Kind.KEYBOARD, meters=meters, tempos=tempos)


def _note(tick: int, length: int, pitch: int, velocity: int, hand: Hand | None) -> Note:
    on_beat = 12 if tick % 480 == 0 else 0
    return Note(
        onset_tick=tick, length_tick=int(length * 0.95), pitch=pitch, velocity=velocity + on_beat, hand=hand
    )


def _drums(random: Random) -> Part:
    """A beat of hat, snare and kick, its kick drawn anew every second bar, with fills."""
    meters, bars, tempos = _meter(random)
    steps = meters.first.bar_ticks // 240
    kicks: list[int] = []
    notes = []
    for bar in range(bars):
        start = bar * meters.first.bar_ticks
        if bar % 2 == 0:
            kicks = [0, *sorted(random.sample(range(1, steps), random.randint(1, max(1, steps // 3))))]
        is_fill = bar % 4 == 3
        for k in range(steps):
            tick = start + k * 240
            hat = OPEN_HAT if is_fill and k == steps - 1 else HAT
            notes.append(_note(tick, 60, hat, 70, None))
            if k % 4 == 2 or (is_fill and k >= steps - 2):
                notes.append(_note(tick, 60, TOM if is_fill and k == steps - 1 else SNARE, 92, None))
            if k in kicks:
                notes.append(_note(tick, 60, KICK, 88, None))
    return Part.of(notes, kind=Kind.DRUMS, meters=meters, tempos=tempos)


def _jump(random: Random, part: Part, **more: float) -> Jump:
    bars = len(part.bars)
    return Jump(bar=random.randint(3, bars - 2), **more)  # type: ignore[arg-type]


TROUBLES = {
    "bias": lambda h, p, r: replace(h, lead_ms=r.choice((-1, 1)) * r.uniform(60, 180)),
    "jitter": lambda h, p, r: replace(h, spread_ms=r.uniform(18, 28)),
    "drift": lambda h, p, r: replace(h, drift_ms_per_bar=r.choice((-1, 1)) * r.uniform(5, 20)),
    "tempo_ratio": lambda h, p, r: replace(
        h, tempo_ratio=r.choice((r.uniform(0.6, 0.95), r.uniform(1.05, 1.7)))
    ),
    "slip": lambda h, p, r: replace(h, jumps=(*h.jumps, _jump(r, p, quarters=r.uniform(0.5, 4)))),
    "restart": lambda h, p, r: replace(
        h, jumps=(*h.jumps, _jump(r, p, back_bars=r.randint(1, 2), quarters=r.uniform(0, 2)))
    ),
    "skip_bar": lambda h, p, r: replace(h, jumps=(*h.jumps, _jump(r, p, skip_bars=1))),
    "late_start": lambda h, p, r: replace(h, jumps=(Jump(bar=1, quarters=r.randint(1, 4)), *h.jumps)),
    "stop_early": lambda h, p, r: replace(h, stop_after_bar=max(4, len(p.bars) // 2)),
    "wrong_pitch": lambda h, p, r: replace(h, wrong_keys=r.uniform(0.03, 0.1)),
    "missed": lambda h, p, r: replace(h, misses=r.uniform(0.03, 0.12)),
    "double": lambda h, p, r: replace(h, doubles=r.uniform(0.03, 0.12)),
    "graze": lambda h, p, r: replace(h, grazes=r.uniform(0.03, 0.12)),
    "grace_notes": lambda h, p, r: replace(h, grace_notes=r.uniform(0.05, 0.2)),
    "chord_spread": lambda h, p, r: replace(h, chord_roll_ms=r.uniform(15, 45)),
    "hands_apart": lambda h, p, r: replace(h, left_hand_ms=r.choice((-1, 1)) * r.uniform(25, 60)),
    "octave": lambda h, p, r: replace(h, transpose=r.choice((-12, 12))),
    "transposed": lambda h, p, r: replace(h, transpose=r.choice((-7, -5, -2, 2, 5, 7))),
    "staccato": lambda h, p, r: replace(h, length=r.uniform(0.2, 0.5)),
    "velocity_inverted": lambda h, p, r: replace(h, accents=-1.0),
}


def _truth(name: str, part: Part, performed: Performance, habits: Habits, tags: tuple[str, ...]) -> Truth:
    take_of = {t: k for k, t in enumerate(performed.target_of) if t is not None}
    pairs: list[dict[str, object]] = []
    for i, note in enumerate(part.notes):
        if i not in take_of:
            pairs.append({"target": i, "take": None, "outcome": "missed"})
            continue
        played = performed.take.notes[take_of[i]].pitch - habits.transpose
        outcome = "matched" if played == note.pitch else "wrong_pitch"
        pairs.append({"target": i, "take": take_of[i], "outcome": outcome})
    for k, t in enumerate(performed.target_of):
        if t is None:
            outcome = "double" if performed.is_double[k] else "extra"
            pairs.append({"target": None, "take": k, "outcome": outcome})
    return Truth(
        name=name, part=part, take=performed.take, tags=tags, pairs=pairs,
        tempo_ratio=habits.tempo_ratio, transposition=habits.transpose,
        slips=[{"target": target, "beats": quarters} for target, quarters in performed.jumps], bias_ms=None,
    )  # fmt: skip
