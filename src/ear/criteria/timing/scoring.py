"""Timing: each written note has the better of its credits against the click and against its player's pulse."""

from dataclasses import dataclass

import numpy as np

from ear.criteria.credits import (
    FactsView,
    Flags,
    Reasons,
    Rows,
    concat_losses,
    credit,
    nan_as_zero,
    reasons,
    spread,
    spread_evenly,
    tenths,
)
from ear.criteria.levels import Level, Window, window_for
from ear.criteria.score import MISSED, CriterionScore, Losses, Timed, WorkingLine, verdict
from ear.criteria.timing import TIMING
from ear.criteria.timing.columns import APART_MS, LOST, ROOM_MS, WAS_WITH, WIDE_MS
from ear.criteria.timing.columns import BESIDE as HOW_FAR_BESIDE
from ear.measuring.figures import Floats

EARLY, LATE = verdict("early"), verdict("late")
BESIDE = verdict("beside")
"""In the player's own time, not in the click's."""
FORGIVEN_STEPS = 8
"""In which it is tried how much of a lead or lag to forgive."""
APART_FULL, APART_NONE, APART_SHARE = 0.25, 2.25, 0.18
"""A voice apart from the rest, or a fill that rushes, is heard however near to the click it is: it loses nothing up to the
first share of the level's window, and from the second on as much as this share of all notes is worth. It is heard as one
voice, however many notes it has."""
NEAR_BESIDE = 0.2
"""As far beside the click as an unsteady player's pulse strays; from twice as far on it is his own."""
NEVER_WITH, WAS_WITH_SHARE = 0.2, 0.92
"""What standing beside the click is worth at first: so much more than the level's share for who never was with it, and so
much for who was. From there it falls to the level's share."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Windows:
    """Of each written note that counts, in ms; (n,) each."""

    full_ms: Floats
    none_ms: Floats

    @classmethod
    def of(cls, seen: FactsView, level: Level) -> "Windows":
        """Return the level's windows, narrowed where notes stand close together."""
        rooms = seen.own(ROOM_MS, otherwise=WIDE_MS).tolist()
        by_room = {room: window_for(level, room_ms=room) for room in set(rooms)}
        full, none = ([getattr(by_room[room], side) for room in rooms] for side in ("full_ms", "none_ms"))
        return cls(full_ms=np.array(full, dtype=np.float64), none_ms=np.array(none, dtype=np.float64))

    @property
    def commonest(self) -> Window:
        """The one that most notes have; of as many, the wider."""
        pairs, counts = np.unique(np.stack((self.full_ms, self.none_ms)), axis=1, return_counts=True)
        full, none = pairs[:, len(counts) - 1 - int(np.argmax(counts[::-1]))].tolist()
        return Window(full_ms=full, none_ms=none)


def forgiven(seen: FactsView, *, windows: Windows, most_ms: float) -> float:
    """Return how much of the constant lead or lag is forgiven, in ms with its sign, to one decimal: up to
    `most_ms`, as much as raises the score.

    It is 0 without a click.

    It is measured against the player's own time; who has lost the click half-way is not nearer to it for
    having his lead taken off.
    """
    if not most_ms or not seen.facts.take.has_click:
        return 0.0
    own = float(np.clip(seen.facts.figures.bias_ms or 0.0, -most_ms, most_ms))
    # The lead is taken off in steps, and the step that earns most is kept: a lead that the player corrected
    # on the way must not cost twice.
    tried = np.round(np.linspace(own, 0.0, FORGIVEN_STEPS + 1), 1)
    click = seen.column(seen.facts.rows.click_ms)
    credited = credit(np.abs(click[None, :] - tried[:, None]), full=windows.full_ms, none=windows.none_ms)
    # Of equal ones argmax takes the first, which forgives most.
    earned = np.round(nan_as_zero(credited).sum(axis=1), 2)
    return float(tried[np.argmax(earned)])


def shares_beside(seen: FactsView, beside_share: float) -> Floats:
    """Return what each note is worth that is in time with the player's pulse, but not with the click; 1 where he is
    with it.

    It begins near 1 for who was thrown out of time, lower for who never was with the click, and falls within some bars to
    the level's `beside_share`.
    """
    never = beside_share + NEVER_WITH
    begins = never + (WAS_WITH_SHARE - never) * seen.own(WAS_WITH, otherwise=0.0)
    worth = beside_share + np.maximum(begins - beside_share, 0.0) * (1.0 - seen.own(LOST, otherwise=0.0))
    shares: Floats = 1.0 - seen.own(HOW_FAR_BESIDE, otherwise=0.0) * (1.0 - worth)
    return shares


def timing(seen: FactsView, *, level: Level, forgiven_most_ms: float, beside_share: float) -> Timed:
    """Return the Timing score: the mean credit of the written notes.

    Each takes the better of its credit against the click and of a share of its credit against the player's own
    pulse. Without a click the pulse alone counts.

    A lead or lag up to `forgiven_most_ms` is taken off deviations from the click.
    """
    facts = seen.facts
    windows = Windows.of(seen, level)
    forgiven_ms = forgiven(seen, windows=windows, most_ms=forgiven_most_ms)
    click, pulse = seen.column(facts.rows.click_ms) - forgiven_ms, seen.column(facts.rows.pulse_ms)
    # Beyond half a beat a note is nearer to another beat of the click than to its own.
    half_beat_ms = 30_000.0 / facts.target.bpm
    if facts.take.has_click:
        # A pulse so near to the click is the click's: who is unsteady about it has none of his own.
        stands_off = np.clip((seen.own(HOW_FAR_BESIDE, otherwise=0.0) - NEAR_BESIDE) / NEAR_BESIDE, 0.0, 1.0)
        # Who has drifted to another beat of the click is not with it there: its own place is further away than that.
        stands_off = np.where(np.abs(click) >= half_beat_ms, 1.0, stands_off)
        pulse = stands_off * pulse + (1.0 - stands_off) * click
    by_pulse = nan_as_zero(credit(np.abs(pulse), full=windows.full_ms, none=windows.none_ms))
    if facts.take.has_click:
        by_click = nan_as_zero(credit(np.abs(click), full=windows.full_ms, none=windows.none_ms))
        # Steady playing beside the click is worth a share of playing with it; each note takes the better of
        # the two.
        own = np.round(shares_beside(seen, beside_share) * by_pulse, 2)
        credits = np.maximum(by_click, own)
        by_own = own > by_click
        # Far from the click, and after a slip, only the player's own pulse says whether a note came early or late.
        is_beside = by_own & ((np.abs(click) >= half_beat_ms) | _after_slip(seen))
        judged = np.where(is_beside, pulse, click)
        for_beside = np.where(is_beside, by_pulse - own, 0.0)
    else:
        credits, judged = by_pulse, pulse
        by_own, for_beside = np.zeros(len(pulse), dtype=bool), np.zeros(len(pulse))
    apart = seen.own(APART_MS, otherwise=0.0)
    together = _together(apart, level.window.full_ms)
    is_apart = (together < 1.0) & (credits > 0.0)
    credits = np.round(credits * together, 2)
    for_beside = np.minimum(for_beside, 1.0 - credits)
    sure = facts.take.in_time
    is_played, rows = seen.is_played, seen.targets
    why = reasons((~is_played, MISSED), (np.where(is_apart, apart, judged) < 0, EARLY), otherwise=LATE)
    credits = np.where(seen.right, 1.0, credits)
    full = int(np.sum(credits >= 1.0))
    none = int(np.sum(is_played & (credits <= 0.0)))
    missed = int(np.sum(~is_played & (credits <= 0.0)))
    window = windows.commonest
    lines = [WorkingLine(code="timing_window", values={"full": window.full_ms, "none": window.none_ms})]
    narrower = windows.full_ms < window.full_ms
    if narrower.any():
        least = round(float(windows.full_ms.min()), 1)
        lines.append(WorkingLine(code="timing_close", values={"count": int(narrower.sum()), "full": least}))
    if abs(forgiven_ms) >= 0.5:
        lines.append(WorkingLine(code="timing_forgiven", values={"forgiven": forgiven_ms}))
    lines.append(WorkingLine(code="timing_full", values={"count": full}))
    is_partly = (credits > 0.0) & (credits < 1.0)
    for code, these in (
        ("timing_partly", is_partly & ~by_own & ~is_apart),
        ("timing_apart", is_partly & is_apart),
        ("timing_beside", is_partly & by_own & ~is_apart),
    ):
        if these.any():
            worth = round(float(credits[these].sum()), 2)
            lines.append(WorkingLine(code=code, values={"count": int(these.sum()), "credit": worth}))
    if none:
        lines.append(WorkingLine(code="timing_none", values={"count": none}))
    if missed:
        lines.append(WorkingLine(code="not_played", values={"count": missed}))
    # What stands no better than by chance is no timing, however near to a line some of it falls.
    plain = round(float(credits.sum()), 2)
    credits = np.where(seen.right, 1.0, credits * sure)
    earned = round(float(credits.sum()), 2)
    of = len(rows) + seen.short
    score = tenths(100.0 * earned / of)
    if sure < 1.0:
        lines.append(
            WorkingLine(
                code="timing_by_chance",
                values={"plain": plain, "percent": round(100 * sure), "earned": earned},
            )
        )
    lines.append(WorkingLine(code="mean_credit", values={"earned": earned, "of": of, "score": score}))
    # Notes that a free exercise wants and that do not exist have no row: their share of the loss is spread
    # evenly.
    lost, gone = 100.0 - score, float((1.0 - credits).sum())
    for_short = lost * seen.short / (gone + seen.short) if seen.short else 0.0
    return Timed(
        scored=CriterionScore(
            name=TIMING,
            score=score,
            losses=concat_losses(
                _losses(
                    lost - for_short, rows, 1.0 - credits, np.where(seen.right, 0.0, for_beside) * sure, why
                ),
                spread_evenly(for_short, rows),
            ),
            lines=tuple(lines),
        ),
        judged_ms=np.round(judged, 2).astype(np.float64),
        within=float(np.mean(credits[is_played] >= 1.0)) if is_played.any() else None,
        forgiven_ms=forgiven_ms,
        window=window,
    )


def _together(apart_ms: Floats, full_ms: float) -> Floats:
    """What each note is worth for its voice's being with the rest, 0 to 1."""
    share = float(np.mean(apart_ms != 0.0)) if len(apart_ms) else 0.0
    if not share:
        return np.ones(len(apart_ms))
    lost = 1.0 - credit(np.abs(apart_ms), full=APART_FULL * full_ms, none=APART_NONE * full_ms)
    worth: Floats = np.maximum(0.0, 1.0 - lost * APART_SHARE / share)
    return worth


def _after_slip(seen: FactsView) -> Flags:
    """Of the written notes that count, those behind a jump of the player's time."""
    first = min((slip.row for slip in seen.facts.slips if slip.row is not None), default=None)
    flags: Flags = np.full(len(seen.targets), first is not None) & (seen.targets >= (first or 0))
    return flags


def _losses(points: float, rows: Rows, lost: Floats, for_beside: Floats, why: Reasons) -> Losses:
    """What notes lost, apart for standing beside the click and for being early or late besides: the greater reason of a
    row stands behind the other."""
    both = np.concatenate((for_beside, lost - for_beside))
    order = np.argsort(both, kind="stable")
    all_rows, all_why = np.concatenate((rows, rows)), np.concatenate((np.full(len(rows), BESIDE), why))
    return spread(points, all_rows[order], both[order], all_why[order])
