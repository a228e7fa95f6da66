"""The player's own time, as it is told: his pace, and the jumps of it: where, how far, and what they were."""

import numpy as np

from ear.matching.attempts import Gap, gap_before, puts_right, tries
from ear.matching.grid import REACH_S, Floats
from ear.matching.matcher import Hypothesis, Matcher
from ear.matching.outcome import Slip, SlipKind
from ear.matching.pace import Pace, PaceStretch
from ear.matching.pace_fit import PacePiece
from ear.matching.path import START_S
from ear.units import TICKS_PER_QUARTER

MIN_QUARTERS = 0.08
"""A jump below this is no slip: the path only stepped over a crowd of notes."""
WHOLE_BEAT_REACH = 0.2
"""A late start this near to whole beats is taken as whole beats; the rest is lead or lag."""
BACK_REACH = 0.2
"""A jump that comes back this near to the first run's shift is a recovery, in quarters."""
ABANDONED_SHARE = 0.5
"""A jump later is a restart if this share of what was played in the gap is the target's own."""
ADDED_BARS = 3
"""Bars of a passage that is played once more: of fewer, in time or not, a listener says that it was begun again."""
WHOLE_SHARE = 0.8
"""Of them, from which a passage was played whole, and then once more."""


def own_time(matcher: Matcher, hypothesis: Hypothesis) -> tuple[Pace, tuple[Slip, ...]]:
    """Return the pace, and the slips in order of place.

    The first run's lead or lag is a bias unless it is a late start.
    """
    linked = matcher.linked(hypothesis)
    if not linked.runs:
        return Pace.steady(1.0), ()
    fitted = matcher.fitted(hypothesis, linked)
    pace = _pace(matcher, fitted.pieces)
    # A jump is heard in beats of the tempo at that place, not in seconds and not in beats of the click.
    # Quarters in the player's own tempo there.
    first = [int(linked.target[linked.run == k][0]) for k in range(linked.runs)]
    quarter_s = [
        60.0
        / matcher.part.tempos.bpm_at(float(matcher.part.onset_ticks[i]))
        / pace.ratio_at(_place(matcher, i))
        for i in first
    ]
    level = fitted.level_s
    slips: list[Slip] = []
    start = _start(matcher, float(level[0]), quarter_s[0])
    if start:
        kind, attempts = _kind_of_start(matcher, hypothesis, start=start, target=first[0])
        if kind is SlipKind.RESTART:
            # Nobody waits for the beat to begin again.
            start = float(level[0]) / quarter_s[0]
        slips.append(
            Slip(
                target=first[0],
                quarter=_place(matcher, first[0]),
                quarters=start,
                kind=kind,
                attempts=attempts,
            )
        )
    for k in range(1, linked.runs):
        jump = float(level[k] - level[k - 1]) / quarter_s[k]
        # Two runs at the same shift are one run with silence between them: notes were missed, but no time
        # was lost.
        if abs(jump) < MIN_QUARTERS:
            continue
        kind, attempts = _kind(matcher, hypothesis, shift=level / quarter_s[k], k=k, target=first[k])
        slips.append(
            Slip(
                target=first[k],
                quarter=_place(matcher, first[k]),
                quarters=jump,
                kind=kind,
                could_land=_could_land(matcher, hypothesis, target=first[k], jump=jump, kind=kind),
                attempts=attempts,
            )
        )
    return pace, tuple(slips)


def _pace(matcher: Matcher, pieces: tuple[PacePiece, ...]) -> Pace:
    """The fitted pieces as stretches of the music."""
    if len(pieces) == 1 and pieces[0].first == pieces[0].last:
        return Pace.steady(1.0 / pieces[0].first)
    edges = matcher.part.tempos.quarters(np.array([p.first_s for p in pieces] + [pieces[-1].last_s])).tolist()
    return Pace(
        stretches=tuple(
            PaceStretch(
                first_quarter=edges[k], last_quarter=edges[k + 1],
                first_ratio=1.0 / piece.first, last_ratio=1.0 / piece.last,
            )
            for k, piece in enumerate(pieces)
        )
    )  # fmt: skip


def _place(matcher: Matcher, target: int) -> float:
    """Where a target note stands, in quarters from bar 1."""
    return float(matcher.part.onset_ticks[target]) / TICKS_PER_QUARTER


def _start(matcher: Matcher, late_s: float, quarter_s: float) -> float:
    """How late (positive) the take began, in quarters; 0 for a lead or lag."""
    if abs(late_s) < START_S:
        return 0.0
    shift = late_s / quarter_s
    beat = matcher.part.meters.first.beat_ticks / TICKS_PER_QUARTER
    # A late start of about a whole number of beats is that number: the player waited for the beat.
    whole = round(shift / beat) * beat
    return whole if whole and abs(shift - whole) < WHOLE_BEAT_REACH else shift


def _kind(
    matcher: Matcher, hypothesis: Hypothesis, *, shift: Floats, k: int, target: int
) -> tuple[SlipKind, int]:
    """What a jump was, and at which attempt the music went on."""
    jump = float(shift[k] - shift[k - 1])
    is_last = int(matcher.note_moment[target]) == len(matcher.moments) - 1
    bar = matcher.part.meters.bar_at(float(matcher.part.onset_ticks[target])).meter.bar_quarters
    bars = round(jump / bar)
    if jump > 0:
        # A jump forward in the take is a pause or a new start. It is a new start if the gap holds notes of
        # the music to come.
        gap = gap_before(matcher, hypothesis, target)
        if is_last and not gap.notes.any():
            return SlipKind.LAST_NOTE_LATE, 1
        if puts_right(matcher, hypothesis, gap, target):
            return SlipKind.PUT_RIGHT, 1
        share, count = tries(matcher, hypothesis, gap, target)
        is_in_time = bars >= ADDED_BARS and abs(jump - bars * bar) < WHOLE_BEAT_REACH
        if is_in_time and share >= WHOLE_SHARE and _is_gone_through(matcher, hypothesis, gap, target, jump):
            return SlipKind.REPEAT_ADDED, 1
        return (SlipKind.RESTART, count + 1) if share >= ABANDONED_SHARE else (SlipKind.SLIP, 1)
    # Back on the first shift after having been late: the player has found the click again by leaving
    # something out.
    if k >= 2 and abs(float(shift[k] - shift[0])) < BACK_REACH and float(shift[k - 1]) > float(shift[0]):
        return SlipKind.RECOVERY, 1
    if _is_repeat(matcher, target, -jump):
        return SlipKind.REPEAT_LEFT_OUT, 1
    is_whole = bars and abs(jump - bars * bar) < WHOLE_BEAT_REACH
    return SlipKind.SKIP_BAR if is_whole else SlipKind.SKIP, 1


def _kind_of_start(
    matcher: Matcher, hypothesis: Hypothesis, *, start: float, target: int
) -> tuple[SlipKind, int]:
    if start < 0:
        is_repeat = _is_repeat(matcher, target, -start)
        return SlipKind.REPEAT_LEFT_OUT if is_repeat else SlipKind.EARLY_START, 1
    bar = matcher.part.meters.first.bar_quarters
    gap = gap_before(matcher, hypothesis, target)
    share, count = tries(matcher, hypothesis, gap, target)
    if share < ABANDONED_SHARE:
        return SlipKind.LATE_START, 1
    is_in_time = abs(start - round(start / bar) * bar) < WHOLE_BEAT_REACH
    if (
        is_in_time
        and start >= ADDED_BARS * bar - WHOLE_BEAT_REACH
        and share >= WHOLE_SHARE
        and _is_gone_through(matcher, hypothesis, gap, target, start)
    ):
        return SlipKind.REPEAT_ADDED, 1
    return SlipKind.RESTART, count + 1


def _is_gone_through(
    matcher: Matcher, hypothesis: Hypothesis, gap: Gap, target: int, quarters: float
) -> bool:
    """Was a passage played to its end before it was begun once more: are most moments of its last bar in the gap?"""
    bar, scale = matcher.part.meters.first.bar_quarters, matcher.quarters_per_second
    times, lands = matcher.target.time, float(matcher.target.time[target]) + quarters
    written = np.unique(times[(times >= lands - bar - 1e-6) & (times < lands - 1e-6)])
    played = hypothesis.clock.own_at(matcher.take_s[gap.notes] * scale)
    landing = float(hypothesis.clock.own_at(np.array(gap.landing_s * scale)))
    reach = REACH_S * scale
    moments = np.unique(np.round(played[played >= landing - bar - reach] / reach))
    return len(moments) >= WHOLE_SHARE * len(written)


def _is_repeat(matcher: Matcher, target: int, quarters: float) -> bool:
    """Is what was left out before a target note a passage that the music has twice?"""
    bar = matcher.part.meters.first.bar_quarters
    whole = round(quarters / bar) * bar
    lands = float(matcher.target.time[target])
    return abs(quarters - whole) < WHOLE_BEAT_REACH and matcher.form.is_repeat(lands - whole, lands)


def _could_land(
    matcher: Matcher, hypothesis: Hypothesis, *, target: int, jump: float, kind: SlipKind
) -> tuple[int, ...]:
    """Target notes before which a jump could as well have been; none where it is nowhere else."""
    if kind not in (SlipKind.SKIP, SlipKind.SKIP_BAR):
        return ()
    form, run = matcher.form, hypothesis.path.run
    # Where bars repeat each other, the take cannot tell which of them was left out. Every moment in the
    # span that sounds the same is as good.
    landing = int(matcher.note_moment[target])
    lags = (form.lag_at(m, -jump) for m in (landing, landing - 1) if m >= 0)
    lag = next((lag for lag in lags if lag is not None), None)
    if lag is None:
        return ()
    first, behind = form.span(landing, lag)
    # What is linked otherwise then was linked by the runs on both sides.
    own, earlier = np.flatnonzero(run == run[landing]), np.flatnonzero((run >= 0) & (run < run[landing]))
    before = np.flatnonzero(run == run[earlier[-1]]) if len(earlier) else earlier
    if not len(before):
        return ()
    # The span ends where the runs on both sides end: beyond them other notes were linked.
    first = max(first, int(np.searchsorted(form.moments, form.moments[before[0]] + lag + 1e-3)))
    behind = min(behind, int(own[-1]))
    # Who leaves a bar out leaves out that bar, not the end of one and the beginning of the next.
    beat = matcher.part.meters.first.beat_ticks / TICKS_PER_QUARTER
    step = form.bar_quarters if kind is SlipKind.SKIP_BAR else beat
    away = np.abs(form.moments[first : behind + 1] - form.moments[landing])
    whole = np.abs(away - step * np.round(away / step)) < 1e-3
    if whole.sum() < 2:
        return ()
    return tuple(np.searchsorted(matcher.note_moment, first + np.flatnonzero(whole)).tolist())
