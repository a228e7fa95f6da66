"""What a robot player improvises: notes on the lines of a free exercise, as dense as it asks, of the pitches it allows."""

from random import Random

from ear.free.exercise import FreeExercise
from ear.notes import Note, Part

LOW, HIGH = 43, 65
"""Between these a line is made up, where pitches are free: a bass's compass."""
LEAPS = (-4, -3, -2, -1, 1, 2, 3, 4)
A_BAR = 4
FREE_LANES = (36, 38, 42)


def improvised(exercise: FreeExercise, page: Part, *, seed: int) -> Part:
    """Return an improvised take; the same seed gives the same take.

    It keeps to the page's metres, and the first note of a bar is on its first beat.
    """
    random = Random(f"{seed} {exercise.bars}")
    lines = exercise.lines()
    most = exercise.most_a_bar or max(A_BAR, exercise.least_a_bar)
    count = max(1, exercise.least_a_bar, min(most, A_BAR))
    has_lanes = exercise.kind.instrument.has_lanes
    pitch = (LOW + HIGH) // 2
    notes: list[Note] = []
    before: list[tuple[int, int]] = []
    for number in range(1, exercise.bars + 1):
        bar = exercise.meters.bar(number)
        own = [tick for tick in lines if bar.start_tick <= tick < bar.end_tick]
        if exercise.pairs_repeat and number % 2 == 0:
            made = [(tick + bar.start_tick, p) for tick, p in before]
        else:
            ticks = sorted({own[0], *random.sample(own, min(count, len(own)))})[:most]
            made = []
            for tick in ticks:
                wanted = exercise.allowed_at(tick)
                if has_lanes:
                    pitch = random.choice(sorted(wanted or FREE_LANES))
                else:
                    moved = min(HIGH, max(LOW, pitch + random.choice(LEAPS)))
                    pitch = exercise.nearest_allowed(moved, tick=tick)
                made.append((tick, pitch))
        before = [(tick - bar.start_tick, p) for tick, p in made]
        after = [*[tick for tick, _ in made][1:], bar.end_tick]
        notes += [
            Note(
                onset_tick=tick, length_tick=max(30, (end - tick) * 9 // 10), pitch=p,
                velocity=92 if tick == bar.start_tick else 78,
            )
            for (tick, p), end in zip(made, after, strict=True)
        ]  # fmt: skip
    return page.with_notes(notes)
