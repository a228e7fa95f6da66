"""Practice at the player's own pace: the music waits until the right keys are down, and wrong keys are counted by place.

The rule, which the page follows while it is played (`own_pace.js`) and the server follows again afterwards:

- A step is what begins together: notes whose onsets, at the part's tempo, lie within `TOGETHER_S` of the first.
- A step is done as soon as each of its keys has been struck since the step before was done, in any order, and all of them
  are down. Pads are not held: of a kit each lane is struck once.
- A key struck that the step does not ask for is wrong, and counts at that step.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from ear.errors import ValueOutOfRange
from ear.formats.events import STATUS_NOTE_OFF, STATUS_NOTE_ON, RawEvent
from ear.notes import Part

TOGETHER_S = 0.03
LIKE_THE_WORST = 0.5
"""A bar beside the worst one belongs to the same passage if it has this share of its wrong keys."""
MAX_SUGGESTED_BARS = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class PaceStep:
    """What is played at one moment: where, and the keys (pitches) or lanes (names) that it asks for."""

    bar: int
    tick: int
    keys: frozenset[int | str]


@dataclass(frozen=True, slots=True, kw_only=True)
class PaceWalk:
    """How far a player came, and at which steps keys were wrong."""

    steps: tuple[PaceStep, ...]
    done: int
    """Steps that were done, from the first on."""
    wrong: tuple[int, ...]
    """Wrong keys at each step."""
    duration_s: float
    """From the first key to the last."""

    @property
    def is_complete(self) -> bool:
        """Were all steps done?"""
        return self.done == len(self.steps)

    @property
    def wrong_keys(self) -> int:
        """Return the number of wrong keys."""
        return sum(self.wrong)

    @property
    def is_clean(self) -> bool:
        """Were all steps done without a wrong key?"""
        return self.is_complete and not self.wrong_keys

    @property
    def wrong_by_bar(self) -> dict[int, int]:
        """Return the number of wrong keys in each bar that has any, in order."""
        bars: dict[int, int] = {}
        for step, wrong in zip(self.steps, self.wrong, strict=True):
            if wrong:
                bars[step.bar] = bars.get(step.bar, 0) + wrong
        return bars

    @property
    def suggested_bars(self) -> tuple[int, int] | None:
        """Return the first and the last bar to practise next: the one with most wrong keys, and what is nearly as bad beside it;
        None without wrong keys.
        """
        bars = self.wrong_by_bar
        if not bars:
            return None
        worst = max(bars, key=lambda bar: (bars[bar], -bar))
        first = last = worst
        while last - first + 1 < MAX_SUGGESTED_BARS:
            beside = [
                bar for bar in (first - 1, last + 1) if bars.get(bar, 0) >= LIKE_THE_WORST * bars[worst]
            ]
            if not beside:
                break
            chosen = max(beside, key=lambda bar: bars[bar])
            first, last = min(first, chosen), max(last, chosen)
        return first, last


def pace_steps(part: Part) -> tuple[PaceStep, ...]:
    """Return the steps of a part in order of time."""
    steps: list[PaceStep] = []
    begins_s = float("-inf")
    for note, bar in zip(part.notes, part.bar_of_note, strict=True):
        second = part.tempos.second_at(note.onset_tick)
        key: int | str = part.lane_name(note.pitch) if part.instrument.has_lanes else note.pitch
        if second - begins_s > TOGETHER_S:
            begins_s = second
            steps.append(PaceStep(bar=int(bar), tick=note.onset_tick, keys=frozenset({key})))
        else:
            last = steps[-1]
            steps[-1] = PaceStep(bar=last.bar, tick=last.tick, keys=last.keys | {key})
    return tuple(steps)


def walk(part: Part, events: Sequence[RawEvent], *, first_bar: int = 1) -> PaceWalk:
    """Return how events, in ms and in order of time, go through a part at the player's own pace.

    `first_bar` is the number of the part's first bar, where the part is a stretch of a longer one. Raises ValueOutOfRange for
    a part without notes.
    """
    if not part.notes:
        raise ValueOutOfRange("nothing_to_play_in_bars")
    moved = first_bar - part.first_bar
    steps = tuple(PaceStep(bar=step.bar + moved, tick=step.tick, keys=step.keys) for step in pace_steps(part))
    wrong = [0] * len(steps)
    at = 0
    struck: set[int | str] = set()
    down: set[int | str] = set()
    times: list[float] = []
    has_lanes = part.instrument.has_lanes
    for time_ms, status, pitch, velocity in sorted(events, key=lambda event: event[0]):
        kind = status & 0xF0
        key: int | str = part.lane_name(pitch) if has_lanes else pitch
        if kind == STATUS_NOTE_ON and velocity > 0:
            if at == len(steps):
                break
            times.append(time_ms)
            if key not in steps[at].keys:
                wrong[at] += 1
                continue
            struck.add(key)
            down.add(key)
            if steps[at].keys <= struck and (has_lanes or steps[at].keys <= down):
                at += 1
                struck.clear()
        elif kind in (STATUS_NOTE_OFF, STATUS_NOTE_ON):
            down.discard(key)
    duration_s = (times[-1] - times[0]) / 1000 if times else 0.0
    return PaceWalk(steps=steps, done=at, wrong=tuple(wrong), duration_s=duration_s)
