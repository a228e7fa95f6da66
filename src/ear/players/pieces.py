"""Music for the robot player, where no teacher's is at hand: the same for the same seed."""

from random import Random

from ear.notes import Hand, Kind, MeterMap, Note, Part, TempoMap

SCALE = (0, 2, 4, 5, 7, 9, 11)
HAT, SNARE, KICK = 42, 38, 36


def keyboard_part(seed: int, *, bars: int) -> Part:
    """Return a tune in crotchets and quavers over a left hand that is as busy, with the first beat of each bar
    accented.
    """
    random, notes = Random(f"keys {seed}"), []
    step = 7
    for beat in range(4 * bars):
        strong = 30 if beat % 4 == 0 else 0
        for hand, low, rate in ((Hand.RIGHT, 60, 0.4), (Hand.LEFT, 41, 0.4)):
            for k in range(2 if random.random() < rate else 1):
                step = max(0, min(13, step + random.choice((-3, -2, -1, 1, 2, 3))))
                pitch = low + SCALE[step % 7] + 12 * (step // 7)
                notes.append(
                    Note(onset_tick=480 * beat + 240 * k, length_tick=230, pitch=pitch, velocity=66 + (strong if not k else 0), hand=hand)
                )  # fmt: skip
    return Part.of(
        notes, kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(84 + 4 * (seed % 8))
    )


def drum_part(seed: int, *, bars: int) -> Part:
    """Return a beat: hat in quavers, accented on the beat, snare on two and four, and a kick that changes from
    bar to bar.
    """
    random, notes = Random(f"kit {seed}"), []
    for bar in range(bars):
        start = 1920 * bar
        kicks = {0, *random.sample(range(1, 8), 2)}
        for k in range(8):
            notes.append(
                Note(onset_tick=start + 240 * k, length_tick=60, pitch=HAT, velocity=60 if k % 2 else 92)
            )
            if k in (2, 6):
                notes.append(Note(onset_tick=start + 240 * k, length_tick=60, pitch=SNARE, velocity=100))
            if k in kicks:
                notes.append(
                    Note(
                        onset_tick=start + 240 * k, length_tick=60, pitch=KICK, velocity=112 if k == 0 else 88
                    )
                )
    return Part.of(notes, kind=Kind.DRUMS, meters=MeterMap.of(4, 4), tempos=TempoMap.of(88 + 4 * (seed % 8)))
