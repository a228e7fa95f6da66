"""The jumps of a time base: where, how far, and what they were."""

import numpy as np

from ear.matching.grid import REACH_S, Floats
from ear.matching.outcome import Slip, SlipKind
from ear.matching.pairing import ABSENT
from ear.matching.path import START_S
from ear.matching.search import Hypothesis, Matcher
from ear.units import TICKS_PER_QUARTER

LEAST_QUARTERS = 0.08
"""A jump below this is no slip: the path only stepped over a crowd of notes."""
WHOLE_BEAT_REACH = 0.2
"""A late start this near to whole beats is taken as whole beats; the rest is lead or lag."""
BACK_REACH = 0.2
"""A jump that comes back this near to the first run's shift is a recovery, in quarters."""
ABANDONED_SHARE = 0.5
"""A jump later is a restart if this share of what was played in the gap is the target's own."""
ABANDONED_LEAST = 2


def find_slips(matcher: Matcher, found: Hypothesis) -> tuple[Slip, ...]:
    """Slips in order of place. The first run's lead or lag is bias, unless it is a late start."""
    linked = matcher.linked(found)
    if not linked.runs:
        return ()
    # x = slope * b + level is x = (b + shift) / ratio: a shift is a level times the ratio.
    shift = matcher.lines(found, linked).level * found.path.ratio
    slips: list[Slip] = []
    start = _start(matcher, float(shift[0]))
    if start:
        first = int(linked.target[0])
        slips.append(
            Slip(
                target=first,
                quarter=_place(matcher, first),
                quarters=start,
                kind=SlipKind.LATE_START if start > 0 else SlipKind.EARLY_START,
            )
        )
    for k in range(1, linked.runs):
        jump = float(shift[k] - shift[k - 1])
        if abs(jump) < LEAST_QUARTERS:
            continue
        target = int(linked.target[linked.run == k][0])
        slips.append(
            Slip(
                target=target,
                quarter=_place(matcher, target),
                quarters=jump * _local(matcher, target),
                kind=_kind(matcher, found, shift=shift, k=k, target=target),
            )
        )
    return tuple(slips)


def _place(matcher: Matcher, target: int) -> float:
    """Where a target note stands, in quarters from bar 1."""
    return float(matcher.part.onset_ticks[target]) / TICKS_PER_QUARTER


def _local(matcher: Matcher, target: int) -> float:
    """Quarters of the tempo in force at a target note that one of the first tempo lasts."""
    tempos = matcher.part.tempos
    return tempos.bpm_at(float(matcher.part.onset_ticks[target])) / tempos.first_bpm


def _start(matcher: Matcher, shift: float) -> float:
    """How late (positive) the take began, in quarters; 0 for a lead or lag."""
    if abs(shift) < START_S * matcher.quarters_per_second:
        return 0.0
    beat = matcher.part.meters.first.beat_ticks / TICKS_PER_QUARTER
    whole = round(shift / beat) * beat
    return whole if whole and abs(shift - whole) < WHOLE_BEAT_REACH else shift


def _kind(matcher: Matcher, found: Hypothesis, *, shift: Floats, k: int, target: int) -> SlipKind:
    jump = float(shift[k] - shift[k - 1])
    if jump > 0:
        return SlipKind.RESTART if _has_abandoned(matcher, found, k=k, target=target) else SlipKind.SLIP
    if k >= 2 and abs(float(shift[k] - shift[0])) < BACK_REACH and float(shift[k - 1]) > float(shift[0]):
        return SlipKind.RECOVERY
    bar = matcher.part.meters.bar_at(float(matcher.part.onset_ticks[target])).meter.bar_quarters
    jump *= _local(matcher, target)
    bars = round(jump / bar)
    return SlipKind.SKIP_BAR if bars and abs(jump - bars * bar) < WHOLE_BEAT_REACH else SlipKind.SKIP


def _has_abandoned(matcher: Matcher, found: Hypothesis, *, k: int, target: int) -> bool:
    """Were the notes of the gap the target's own, from here on, at the earlier shift?"""
    jumped_to = matcher.note_moment[target]
    shift = found.path.shift
    before = shift[:jumped_to][~np.isnan(shift[:jumped_to])][-1]
    here = matcher.target.time >= matcher.target.time[target] - 1e-6
    expected = (matcher.target.time[here] + before) / found.path.ratio * matcher.seconds_per_quarter
    end = matcher.take_s[found.links.take_of[target]]
    start = matcher.take_s[found.links.take_of[:target][found.links.take_of[:target] != ABSENT]].max()
    in_gap = (matcher.take_s > start) & (matcher.take_s < end - 1e-6) & (found.links.target_of == ABSENT)
    if not in_gap.any():
        return False
    pitch = matcher.target.pitch[here]
    own = [
        bool(np.any((pitch == p) & (np.abs(expected - t) < REACH_S)))
        for t, p in zip(
            matcher.take_s[in_gap], matcher.played.pitch[in_gap] - found.transposition, strict=True
        )
    ]
    return sum(own) >= max(ABANDONED_LEAST, ABANDONED_SHARE * len(own))
