"""Notes: right ones over written ones and those too many, on a scale that begins at a floor."""

import math

import numpy as np

from ear.criteria.credits import FactsView, all_for, concat_losses, reasons, spread, spread_evenly, tenths
from ear.criteria.notes import NOTES
from ear.criteria.notes.nearly import NEARLY
from ear.criteria.score import MISSED, CriterionScore, LossReason, Verdict, WorkingLine, verdict
from ear.matching.outcome import Outcome
from ear.units import OCTAVE

WRONG = verdict("wrong")
TOO_MANY = verdict("too_many")
EXTRA, DOUBLE, GRAZE = LossReason("extra"), LossReason("double"), LossReason("graze")
ORNAMENT = LossReason("ornament")
"""Of an ornament that is not written."""
PUT_RIGHT = LossReason("put_right")
OTHER_KEY = LossReason("other_key")
"""Of a whole take in another key: no note of it is wrong by itself."""
OVERLAID = LossReason("overlaid")
ALL_TOO_MANY: dict[LossReason, Verdict] = dict.fromkeys(
    (EXTRA, DOUBLE, GRAZE, ORNAMENT, OVERLAID, PUT_RIGHT), TOO_MANY
)
EXTRA_WEIGHT, DOUBLE_WEIGHT, GRAZE_WEIGHT = 1.0, 0.5, 0.25
ORNAMENT_WEIGHT, OVERLAID_WEIGHT = 0.25, 0.25
PUT_RIGHT_WEIGHT = 0.5
"""What a note too many weighs against a target note. Notes of a false start weigh nothing here: they
cost Flow. Nor do those of an ornament that is written, and what is played before the beginning."""


def notes(seen: FactsView, *, floor_percent: float, other_key_share: float) -> CriterionScore:
    """Return the Notes score: right notes over written notes and extra notes, on a scale that begins at the
    floor. Who plays everything in another key loses `other_key_share` of it; another octave is none.
    """
    nearly = np.where(seen.right, 1.0, seen.own(NEARLY, otherwise=np.nan))
    is_nearly = ~np.isnan(nearly) & ~seen.right
    is_wrong = ~seen.is_matched & ~seen.right & ~is_nearly
    many = _too_many(seen)
    weighed = math.fsum(weight for _, weight, _ in many)
    written = len(seen.targets)
    whole = written + weighed
    plain = written - int((is_wrong | is_nearly).sum())
    worth = round(float(nearly[is_nearly].sum()), 2)
    right = plain + worth if is_nearly.any() else plain
    percent = tenths(100.0 * right / whole)
    # A take in which half of the notes are wrong is no half-good take: the scale begins at the floor.
    by_floor = tenths(max(0.0, 100.0 * (percent - floor_percent) / (100.0 - floor_percent)))
    is_other_key = bool(seen.facts.transposition % OCTAVE) and other_key_share > 0.0
    score = tenths(by_floor * (1.0 - other_key_share)) if is_other_key else by_floor
    lost = np.where(is_wrong, 1.0, np.where(is_nearly, 1.0 - nearly, 0.0))
    wrong_rows, lost = seen.targets[lost > 0.0], lost[lost > 0.0]
    is_missed = ~seen.is_played[np.isin(seen.targets, wrong_rows)]
    missed = int((~seen.is_played[is_wrong]).sum())
    why = np.concatenate(
        (
            reasons((is_missed, MISSED), otherwise=WRONG),
            np.array([reason for _, _, reason in many], dtype=np.str_),
        )
    )
    lines = [WorkingLine(code="notes_right", values={"count": plain, "of": written})]
    if is_nearly.any():
        lines.append(
            WorkingLine(code="notes_nearly", values={"count": int(is_nearly.sum()), "weighed": worth})
        )
    wrong = int(is_wrong.sum()) - missed
    if wrong:
        lines.append(WorkingLine(code="notes_wrong", values={"count": wrong}))
    if missed:
        lines.append(WorkingLine(code="notes_missed", values={"count": missed}))
    for reason, code, weight in (
        (EXTRA, "notes_extra", EXTRA_WEIGHT),
        (DOUBLE, "notes_double", DOUBLE_WEIGHT),
        (GRAZE, "notes_graze", GRAZE_WEIGHT),
        (PUT_RIGHT, "notes_put_right", PUT_RIGHT_WEIGHT),
        (ORNAMENT, "notes_ornament", ORNAMENT_WEIGHT),
        (OVERLAID, "notes_overlaid", OVERLAID_WEIGHT),
    ):
        count = sum(loss_reason is reason for _, _, loss_reason in many)
        if count:
            lines.append(WorkingLine(code=code, values={"count": count, "weighed": count * weight}))
    lines.append(WorkingLine(code="notes_share", values={"right": right, "whole": whole, "percent": percent}))
    lines.append(
        WorkingLine(
            code="notes_floor", values={"floor": floor_percent, "percent": percent, "score": by_floor}
        )
    )
    if is_other_key:
        share = round(100 * other_key_share)
        lines.append(
            WorkingLine(code="notes_other_key", values={"by": by_floor, "percent": share, "score": score})
        )
    by_note = spread(
        100.0 - by_floor,
        np.concatenate((wrong_rows, np.array([n for n, _, _ in many], dtype=np.int64))),
        np.concatenate((lost, np.array([weight for _, weight, _ in many]))),
        why,
    )
    by_key = spread(by_floor - score, seen.targets, np.ones(written), all_for(OTHER_KEY, seen.targets))
    return CriterionScore(
        name=NOTES,
        score=score,
        # What a note lost by itself is its verdict, behind what all have lost.
        losses=concat_losses(by_key, by_note),
        lines=tuple(lines),
    )


def _too_many(seen: FactsView) -> list[tuple[int, float, LossReason]]:
    rows = seen.facts.rows
    # Notes of an abandoned attempt, of the count-in and of written ornaments cost nothing here; Flow
    # charges for the first.
    free = {
        *rows.abandoned,
        *rows.in_count_in,
        *(ornament.row for ornament in rows.ornaments if ornament.is_written),
    }
    sorts = {
        **dict.fromkeys(rows.grazes, (GRAZE_WEIGHT, GRAZE)),
        **{ornament.row: (ORNAMENT_WEIGHT, ORNAMENT) for ornament in rows.ornaments},
        **dict.fromkeys(rows.put_right, (PUT_RIGHT_WEIGHT, PUT_RIGHT)),
        **dict.fromkeys(rows.overlaid, (OVERLAID_WEIGHT, OVERLAID)),
    }
    extras = []
    for n in range(seen.facts.target.notes, len(rows)):
        if n in free or not seen.counted[n] or seen.marked_right[n]:
            continue
        if n in sorts:
            extras.append((n, *sorts[n]))
        elif rows.outcome[n] is Outcome.DOUBLE:
            extras.append((n, DOUBLE_WEIGHT, DOUBLE))
        else:
            extras.append((n, EXTRA_WEIGHT, EXTRA))
    return extras


def free_notes(seen: FactsView) -> CriterionScore:
    """Return the Notes score of a free take: the share of allowed notes among those played, or among the number
    asked for if that is more.
    """
    rows = seen.targets
    is_wrong = ~seen.is_matched & ~seen.right
    right = len(rows) - int(is_wrong.sum())
    wrong, short = len(rows) - right, seen.short
    of = len(rows) + short
    score = tenths(100.0 * right / of)
    lost = 100.0 - score
    lines = [WorkingLine(code="free_set", values={"right": right, "of": of, "score": score})]
    if short:
        lines.insert(0, WorkingLine(code="free_short", values={"count": short}))
    return CriterionScore(
        name=NOTES,
        score=score,
        losses=concat_losses(
            spread(
                lost * wrong / max(1, wrong + short),
                rows,
                is_wrong.astype(float),
                all_for(WRONG, rows),
            ),
            spread_evenly(lost * short / max(1, wrong + short), rows),
        ),
        lines=tuple(lines),
    )
