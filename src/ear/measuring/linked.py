"""Linked notes as arrays: the raw material of every measure."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ear.matching.outcome import Match, Outcome, TimeBase
from ear.measuring.figures import Floats
from ear.notes import Part, Take
from ear.units import TICKS_PER_QUARTER

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Linked:
    """One entry for each target note that a take note was linked with, in order of target."""

    target: Ints
    take: Ints
    is_wrong: NDArray[np.bool_]
    quarter: Floats
    """Target onset, in quarters from bar 1."""
    take_s: Floats
    deviation_ms: Floats
    on_click_ms: Floats
    target_velocity: Ints
    take_velocity: Ints
    length_ratio: Floats
    """NaN where the pedal held the note past the finger, or the key was still down when the recording ended."""

    def __len__(self) -> int:
        return len(self.target)


def linked_notes(part: Part, take: Take, match: Match) -> Linked:
    """Return arrays over the linked notes, in the order of the part. Times are in ms and quarters."""
    rows = [(p.target, p.take, p.outcome is Outcome.WRONG_PITCH) for p in match.links]
    target, played, is_wrong = np.array(rows, dtype=np.int64).reshape(-1, 3).T
    quarter = part.onset_ticks[target] / TICKS_PER_QUARTER
    end = part.end_ticks[target] / TICKS_PER_QUARTER
    take_s = take.onsets_s[played]
    expected_s = match.time_base.expected_s(quarter, part.tempos)
    pace = match.time_base.pace
    written_s = pace.seconds(end, part.tempos) - pace.seconds(quarter, part.tempos)
    sounded_s = _ends_s(take, match, target, played) - take_s
    ratio = np.maximum(sounded_s, 1e-3) / written_s
    ratio[_held_by_pedal(take, take_s + sounded_s)] = np.nan
    ratio[[take.notes[number].is_held for number in played.tolist()]] = np.nan
    return Linked(
        target=target,
        take=played,
        is_wrong=is_wrong.astype(bool),
        quarter=quarter,
        take_s=take_s,
        deviation_ms=1000.0 * (take_s - expected_s),
        on_click_ms=1000.0 * (take_s - part.tempos.seconds(quarter)),
        target_velocity=part.velocities[target],
        take_velocity=take.velocities[played],
        length_ratio=ratio,
    )


def _ends_s(take: Take, match: Match, target: Ints, played: Ints) -> Floats:
    """When linked notes are let go: with an ornament that goes on with their key, when that is."""
    ends: Floats = take.onsets_s[played] + take.lengths_s[played]
    place = {i: k for k, i in enumerate(target.tolist())}
    for pair in match.pairs:
        if pair.ornament is None or pair.near is None or pair.take is None:
            continue
        k, note = place[pair.near], take.notes[pair.take]
        if note.pitch == take.notes[int(played[k])].pitch:
            ends[k] = max(ends[k], note.onset_s + note.length_s)
    return ends


def bar_places(part: Part, target: Ints) -> Floats:
    """Return places of notes as bars and a fraction, from 0 at the start of bar 1."""
    length = np.array([bar.meter.bar_ticks for bar in part.bars], dtype=float)
    index = part.bar_index_of_note[target]
    places: Floats = index + part.ticks_into_bar[target] / length[index]
    return places


def click_seconds(part: Part, base: TimeBase, quarter: Floats) -> Floats:
    """Return where the click has each of these places, in seconds, if the player rejoins it on a beat after
    each slip: slips count as the nearest whole number of beats.

    `quarter` has shape (n,) and is of the target.
    """
    shift = np.zeros_like(quarter)
    slipped = 0.0
    for slip in base.slips:
        beat = part.meters.bar_at(slip.quarter * TICKS_PER_QUARTER).meter.beat_ticks / TICKS_PER_QUARTER
        slipped += slip.quarters / base.pace.ratio_at(slip.quarter)
        shift[quarter >= slip.quarter - 1e-6] = round(slipped / beat) * beat
    return part.tempos.seconds(quarter + shift)


def _held_by_pedal(take: Take, end_s: Floats) -> NDArray[np.bool_]:
    """Notes whose key was released while the pedal was down."""
    held = np.zeros(len(end_s), dtype=bool)
    for span in take.pedal:
        held |= (end_s >= span.start_s) & (end_s < span.end_s)
    return held
