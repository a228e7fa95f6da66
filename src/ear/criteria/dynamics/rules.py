"""What is heard of how loudly notes were played."""

from collections.abc import Iterator
from functools import lru_cache

import numpy as np

from ear.criteria.dynamics.ear_notes import (
    Accents,
    AccentsFlat,
    AccentsInverted,
    AllLouder,
    AllSofter,
    CrescendoFlat,
    DiminuendoFlat,
    FingerLoud,
    HandLoud,
    LaneLoud,
    Uneven,
)
from ear.editing.hands import proposed_for
from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.notes import Hand, Part

FLAT_BELOW = 0.35
"""Share of the written accent contrast."""
MIN_LANE = 3
RAMP_RISES = 0.3
"""Share of the written slope below which a ramp does not rise."""
LOUD_FROM = 18.0
LEVEL_FROM, HAND_LOUD_FROM = 16.0, 12.0
"""Velocity steps by which everything, a hand or a finger is louder than written."""
ALL_SHARE = 0.5
"""Of that, by which each lane is, for it to be all."""
MIN_VOICE = 6
PARTS_REMEMBERED = 32
"""Whose proposed fingers are kept: a part is asked for with each of its takes."""
UNEVEN_FROM = 8.0
"""SD in velocity steps among notes written alike."""
UNEVEN_TOUCH = 6.0
"""SD of how much louder notes are than written, from which one finger may be the cause."""


def accents(c: Context) -> Iterator[Finding]:
    """Find written accents that are not played."""
    dynamics = c.measures.dynamics
    played, written = dynamics.accent_contrast.value, dynamics.target_accent_contrast.value
    if played is not None and written is not None and written > 0 and played < FLAT_BELOW * written:
        yield (AccentsInverted if played < -FLAT_BELOW * written else AccentsFlat)(
            rows=c.in_order(c.linked), bars=c.whole(), played_steps=played, written_steps=written
        )


def uneven(c: Context) -> Iterator[Finding]:
    """Find an uneven touch, where it is not one finger's."""
    evenness = c.measures.dynamics.evenness.value
    if evenness is None or evenness < UNEVEN_FROM or any(isinstance(f, Accents) for f in accents(c)):
        return
    if not any(isinstance(finding, FingerLoud) for finding in louder(c)):
        yield Uneven(rows=c.in_order(c.linked), bars=c.whole(), size_steps=evenness)


def ramps(c: Context) -> Iterator[Finding]:
    """Find crescendos and diminuendos that do not grow or fall."""
    for ramp in c.measures.feel.ramps:
        grows = ramp.target_slope > 0
        if ramp.take_slope * (1 if grows else -1) >= RAMP_RISES * abs(ramp.target_slope):
            continue
        rows = c.in_order(
            i for i, n in enumerate(c.part.notes) if ramp.first_tick <= n.onset_tick <= ramp.last_tick
        )
        yield (CrescendoFlat if grows else DiminuendoFlat)(
            rows=rows, bars=c.bars_of(rows), played_slope=ramp.take_slope, written_slope=ramp.target_slope
        )


def louder(c: Context) -> Iterator[Finding]:
    """Find everything louder or softer than written; or one hand, or one finger, against the rest."""
    level = c.measures.dynamics.level.value
    if level is None or not c.links:
        return
    own = {i: c.measures.notes[i].velocity_difference for i in c.linked.tolist()}
    differences = {i: float(d) for i, d in own.items() if d is not None}
    hands = {h: [i for i in differences if c.part.notes[i].hand is h] for h in (Hand.LEFT, Hand.RIGHT)}
    if min(len(rows) for rows in hands.values()) >= MIN_VOICE:
        means = {h: float(np.mean([differences[i] for i in rows])) for h, rows in hands.items()}
        loud = max(means, key=lambda h: means[h])
        above = means[loud] - min(means.values())
        if above >= HAND_LOUD_FROM:
            yield HandLoud(rows=c.in_order(hands[loud]), bars=c.whole(), hand=loud, size_steps=above)
            return
    yield from _loud_finger(c, differences)
    middle = float(np.median(list(differences.values()))) if differences else 0.0
    if abs(middle) >= LEVEL_FROM and _is_all(c, differences, middle):
        yield (AllLouder if middle > 0 else AllSofter)(
            rows=c.in_order(differences), bars=c.whole(), size_steps=middle
        )


def _is_all(c: Context, loudness_by_finger: dict[int, float], middle: float) -> bool:
    """Is every lane of the kit as much louder, or softer? One alone is told as that."""
    if not c.part.instrument.has_lanes:
        return True
    by: dict[str, list[float]] = {}
    for i, difference in loudness_by_finger.items():
        by.setdefault(c.lane(i), []).append(difference)
    means = [float(np.mean(levels)) for levels in by.values() if len(levels) >= MIN_LANE]
    return all(mean / middle >= ALL_SHARE for mean in means)


def _loud_finger(c: Context, loudness_by_finger: dict[int, float]) -> Iterator[Finding]:
    """A finger that is louder than the others of its hand: a heavy thumb. Where no fingers are written, by those that
    would be proposed."""
    fingers = _fingers(c, loudness_by_finger)
    for hand in (Hand.LEFT, Hand.RIGHT):
        by: dict[int, list[int]] = {}
        for i in loudness_by_finger:
            finger = fingers[i]
            if finger is not None and (c.part.notes[i].hand or Hand.RIGHT) is hand:
                by.setdefault(finger, []).append(i)
        for finger, rows in by.items():
            others = [loudness_by_finger[i] for other, these in by.items() if other != finger for i in these]
            if len(rows) < MIN_VOICE or len(others) < MIN_VOICE:
                continue
            above = float(np.mean([loudness_by_finger[i] for i in rows]) - np.mean(others))
            if above >= HAND_LOUD_FROM:
                yield FingerLoud(
                    rows=c.in_order(rows), bars=c.whole(), hand=hand, finger=finger, size_steps=above
                )


def _fingers(c: Context, loudness: dict[int, float]) -> list[int | None]:
    """The finger of each written note. To propose them takes long, so they are only where the touch is uneven."""
    written = [note.finger for note in c.part.notes]
    if any(written) or not c.part.instrument.has_hands or len(loudness) < 2 * MIN_VOICE:
        return written
    if float(np.std(list(loudness.values()))) < UNEVEN_TOUCH:
        return written
    return _proposed(c.part)


@lru_cache(maxsize=PARTS_REMEMBERED)
def _proposed(part: Part) -> list[int | None]:
    fingers = proposed_for(part, range(len(part.notes)))
    return [fingers[i] for i in range(len(part.notes))]


def loud_lane(c: Context) -> Iterator[Finding]:
    """Find a lane that is louder against the others than it is written."""
    if not c.part.instrument.has_lanes or c.measures.dynamics.level.value is None:
        return
    if any(isinstance(finding, Accents) for finding in accents(c)):
        # Soft strokes that are as loud as the others: that is told already.
        return
    by_lane: dict[str, dict[int, int]] = {}
    for i in c.linked.tolist():
        difference = c.measures.notes[i].velocity_difference
        if difference is not None:
            by_lane.setdefault(c.lane(i), {})[i] = difference
    for lane, levels in by_lane.items():
        others = [d for other, rows in by_lane.items() if other != lane for d in rows.values()]
        if not others or len(levels) < MIN_LANE:
            continue
        above = float(np.mean(list(levels.values())) - np.mean(others))
        if above >= LOUD_FROM:
            yield LaneLoud(rows=c.in_order(levels), bars=c.whole(), lane=lane, size_steps=above)


RULES = (accents, ramps, louder, uneven, loud_lane)
