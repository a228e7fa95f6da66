"""How Dynamics is scored: accents by how far they stand out, other notes by the written shape."""

import math

import numpy as np

from ear.criteria.credits import (
    FactsView,
    Flags,
    Rows,
    concat_losses,
    credit,
    nan_as_zero,
    reasons,
    spread,
    tenths,
)
from ear.criteria.dynamics import DYNAMICS
from ear.criteria.score import MISSED, CriterionScore, WorkingLine, verdict
from ear.measuring.figures import Floats

SOFT, LOUD = verdict("soft"), verdict("loud")
ACCENT_SHARE = 0.7
"""Of Dynamics, where the part writes accents: they are few, and they are what is heard."""
ACCENT_FULL = 0.7
"""Share of the written height of an accent that has full credit."""
TOUCH_FULL, TOUCH_NONE = 16.0, 46.0
"""Velocity steps that a note may stand off the written shape: full credit up to, none from."""
LEVEL_FORGIVEN = 15.0
"""Velocity steps by which everything may be louder or softer than written."""


def dynamics(seen: FactsView) -> CriterionScore:
    """Return the Dynamics score, the mean over the written notes: accents by how far they stand out of their
    voice, other notes by how near they are to the written shape.
    """
    facts = seen.facts
    if not facts.take.has_touch:
        return CriterionScore(name=DYNAMICS, score=None, lines=(WorkingLine(code="no_touch"),))
    rows = seen.targets
    off = seen.column(facts.rows.velocity_difference)
    accents = np.zeros(facts.target.notes, dtype=bool)
    accents[list(facts.rows.accents)] = True
    is_accent = accents[rows]
    plain = off[~is_accent & ~np.isnan(off)]
    # The player's level may be the instrument's: up to LEVEL_FORGIVEN it costs nothing, and only the shape
    # is judged.
    level = float(np.median(plain)) if len(plain) else 0.0
    shape = off - float(np.clip(level, -LEVEL_FORGIVEN, LEVEL_FORGIVEN))
    credits = nan_as_zero(credit(np.abs(shape), full=TOUCH_FULL, none=TOUCH_NONE))
    signs = shape
    if is_accent.any():
        # An accent is judged by how far it stands out of its voice, since every instrument answers
        # differently.
        height, played = _heights(seen, rows, off, is_accent)
        reached = np.round(np.clip(played / (ACCENT_FULL * height), 0.0, 1.0), 2).astype(np.float64)
        credits = np.where(is_accent, nan_as_zero(reached), credits)
        signs = np.where(is_accent, played - height, shape)
    credits = np.where(seen.right, 1.0, credits)
    why = reasons((np.isnan(off), MISSED), (signs < 0, SOFT), otherwise=LOUD)
    lines = []
    if abs(level) >= 1:
        lines.append(WorkingLine(code="level_off", values={"steps": level, "forgiven": LEVEL_FORGIVEN}))
    groups = [("touch_accents", is_accent), ("touch_others", ~is_accent)]
    # Accents are few: with a fixed share they weigh more than their number.
    shares = [ACCENT_SHARE, round(1.0 - ACCENT_SHARE, 2)]
    if not is_accent.any() or is_accent.all():
        shares = [1.0 if group.any() else 0.0 for _, group in groups]
    sum_of_shares, losses = 0.0, []
    for (code, group), share in zip(groups, shares, strict=True):
        if not group.any():
            continue
        earned = round(float(credits[group].sum()), 2)
        reached_score = tenths(100.0 * earned / int(group.sum()))
        values = {"earned": earned, "of": int(group.sum()), "score": reached_score}
        lines.append(WorkingLine(code=code, values=values))
        sum_of_shares += share * reached_score
        losses.append((share * (100.0 - reached_score), rows[group], 1.0 - credits[group], why[group]))
    if len(losses) == 2:
        percents = {"accents": round(100 * shares[0]), "others": round(100 * shares[1])}
        lines.append(WorkingLine(code="touch_sum", values={**percents, "score": tenths(sum_of_shares)}))
    rounded = tenths(sum_of_shares)
    whole = math.fsum(lost for lost, _, _, _ in losses)
    # The score is rounded, so the losses are scaled to add up to exactly what it lost.
    rate = (100.0 - rounded) / whole if whole else 0.0
    return CriterionScore(
        name=DYNAMICS,
        score=rounded,
        losses=concat_losses(
            *(spread(lost * rate, group, raw, reason) for lost, group, raw, reason in losses)
        ),
        lines=tuple(lines),
    )


def _heights(seen: FactsView, rows: Rows, off: Floats, is_accent: Flags) -> tuple[Floats, Floats]:
    """How far notes stand out of the other notes of their voice: written and played, in velocity steps."""
    written = np.array(seen.facts.rows.written, dtype=np.float64)[rows]
    voice = np.array(seen.facts.rows.voice)[rows]
    base_written, base_played = np.zeros(len(rows)), np.zeros(len(rows))
    there = ~is_accent & ~np.isnan(off)
    for own_voice in np.unique(voice):
        here = voice == own_voice
        others = ~is_accent & here
        # A voice of accents alone has nothing to stand out of but its softest note.
        base_written[here] = written[others].mean() if others.any() else written[here].min()
        played = there & here
        moved = off[played].mean() if played.any() else 0.0
        base_played[here] = base_written[here] + moved
    height = np.maximum(1.0, written - base_written)
    return height, written + off - base_played
