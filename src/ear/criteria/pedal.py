"""Pedal: whether the sustain pedal moved where it is written to."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ear.criteria.credits import FactsView, credit, reasons, spread, tenths
from ear.criteria.kind import CriterionKind
from ear.criteria.score import CriterionScore, WorkingLine, verdict
from ear.criteria.working import COUNT, EARNED, words
from ear.criterion import CriterionKey
from ear.findings.context import Context
from ear.findings.finding import CountedNotes, Finding, InMilliseconds
from ear.findings.gaps import Gaps
from ear.findings.kind import FindingKind, Hue
from ear.measuring.pedal import PedalOutcome
from ear.notes import Kind
from ear.reader import Reader
from ear.text import gettext_noop, ngettext_lazy

PEDAL = CriterionKey("pedal")
BLURRED, DRY = verdict("blurred"), verdict("dry")
"""The pedal was not changed here; it was not down here."""
PEDAL_EARLY, PEDAL_LATE = verdict("pedal_early"), verdict("pedal_late")
MIN_REPORTED = 2
"""One change in a take is a slip of the foot; two are a habit."""
OFF_FROM_MS = 120.0
"""Middle deviation from which the foot is called early or late."""
EARLY_FULL_MS, EARLY_NONE_MS = 100.0, 300.0
LATE_FULL_MS, LATE_NONE_MS = 200.0, 450.0
"""In full up to the first, nothing from the second on. After the sound there is more room than before it: a
pedal that comes late blurs for a moment, one that comes early leaves a hole."""


def score(seen: FactsView) -> CriterionScore:
    """Return the Pedal score.

    Early or late moves lose in part, missing moves in full. Moves at notes that do not count are left out;
    those at notes that count as right are right.
    """
    facts = seen.facts
    if not facts.take.has_pedal:
        return CriterionScore(name=PEDAL, score=None, lines=(WorkingLine(code="no_pedal"),))
    moves = [move for move in facts.pedal if seen.counted[move.row]]
    if not moves:
        return CriterionScore(name=PEDAL, score=None, lines=(WorkingLine(code="pedal_not_counted"),))
    rows = np.array([move.row for move in moves], dtype=np.int64)
    off = np.array([np.nan if move.deviation_ms is None else move.deviation_ms for move in moves])
    early = credit(-off, full=EARLY_FULL_MS, none=EARLY_NONE_MS)
    late = credit(off, full=LATE_FULL_MS, none=LATE_NONE_MS)
    credits = np.where(np.isnan(off), 0.0, np.minimum(early, late))
    credits = np.where(seen.marked_right[rows], 1.0, credits)
    is_blurred = np.array([move.outcome is PedalOutcome.BLURRED for move in moves])
    is_dry = np.array([move.outcome is PedalOutcome.DRY for move in moves])
    why = reasons(
        (is_blurred, BLURRED),
        (is_dry, DRY),
        (off < 0, PEDAL_EARLY),
        otherwise=PEDAL_LATE,
    )
    earned = round(float(credits.sum()), 2)
    reached = tenths(100.0 * earned / len(moves))
    lines = [
        WorkingLine(code="pedal_window", values={
            "early": int(EARLY_FULL_MS), "late": int(LATE_FULL_MS),
            "early_none": int(EARLY_NONE_MS), "late_none": int(LATE_NONE_MS),
        }),
        WorkingLine(code="pedal_in_time", values={"count": int((credits == 1.0).sum())}),
    ]  # fmt: skip
    partly = (credits > 0.0) & (credits < 1.0)
    if partly.any():
        worth = round(float(credits[partly].sum()), 2)
        lines.append(WorkingLine(code="pedal_partly", values={"count": int(partly.sum()), "credit": worth}))
    for code, flags in (("pedal_blurred", is_blurred), ("pedal_dry", is_dry)):
        if flags.any():
            lines.append(WorkingLine(code=code, values={"count": int(flags.sum())}))
    lines.append(
        WorkingLine(code="pedal_credit", values={"earned": earned, "of": len(moves), "score": reached})
    )
    return CriterionScore(
        name=PEDAL,
        score=reached,
        losses=spread(100.0 - reached, rows, 1.0 - credits, why),
        lines=tuple(lines),
    )


@dataclass(frozen=True, kw_only=True)
class PedalPlaces(CountedNotes):
    """`count` of `of` places where the pedal is written."""

    of: int

    UNIT = "places"

    def gaps(self, reader: Reader) -> Gaps:
        """Return how many are written, too."""
        return super().gaps(reader) | {"of": self.of}


class PedalBlurred(PedalPlaces):
    """The pedal is not changed."""

    KIND = FindingKind(
        code="pedal_blurred", criterion=PEDAL,
        teacher=ngettext_lazy(
            "The pedal is not changed at {count} of {of} places: the harmonies blur.",
            "The pedal is not changed at {count} of {of} places: the harmonies blur.", by="of"),
        student=ngettext_lazy(
            "Your pedal stays down at {count} of {of} places, so the old chord sounds into the new one. Lift it as the new chord sounds, then press it again.",
            "Your pedal stays down at {count} of {of} places, so the old chord sounds into the new one. Lift it as the new chord sounds, then press it again.", by="of"),
    )  # fmt: skip


class PedalDry(PedalPlaces):
    """The pedal is not down."""

    KIND = FindingKind(
        code="pedal_dry", criterion=PEDAL,
        teacher=gettext_noop("No pedal at {count} of {of} places where it is written."),
        student=gettext_noop("The pedal is missing at {count} of {of} places. Practise the left hand and the foot alone."),
    )  # fmt: skip


class PedalLate(InMilliseconds):
    """The pedal is changed after the sound."""

    KIND = FindingKind(
        code="pedal_late", criterion=PEDAL, hue=Hue.LATE,
        teacher=gettext_noop("The pedal is changed {size} ms after the sound."),
        student=gettext_noop("Your foot comes a little after the chord. Lift the pedal at the moment the keys go down."),
    )  # fmt: skip


class PedalEarly(InMilliseconds):
    """The pedal is changed before the sound."""

    KIND = FindingKind(
        code="pedal_early", criterion=PEDAL, hue=Hue.EARLY,
        teacher=gettext_noop("The pedal is changed {size} ms before the sound, and leaves a gap."),
        student=gettext_noop("Your foot moves a little before the chord and leaves a gap. Wait until the new chord sounds."),
    )  # fmt: skip


def blurred_or_dry(c: Context) -> Iterator[Finding]:
    """Find a pedal that is not changed, or not held."""
    kinds: tuple[tuple[type[PedalPlaces], PedalOutcome], ...] = (
        (PedalBlurred, PedalOutcome.BLURRED), (PedalDry, PedalOutcome.DRY),
    )  # fmt: skip
    for kind, outcome in kinds:
        rows = c.in_order(move.row for move in c.measures.pedal if move.outcome is outcome)
        if len(rows) >= min(MIN_REPORTED, len(c.measures.pedal)):
            yield kind(rows=rows, bars=c.bars_of(rows), count=len(rows), of=len(c.measures.pedal))


def early_or_late(c: Context) -> Iterator[Finding]:
    """Find a foot that is steadily ahead of or behind the written place."""
    moved = [move for move in c.measures.pedal if move.deviation_ms is not None]
    if len(moved) < MIN_REPORTED:
        return
    middle = float(np.median([move.deviation_ms for move in moved]))
    if abs(middle) >= OFF_FROM_MS:
        rows = c.in_order(move.row for move in moved)
        yield (PedalLate if middle > 0 else PedalEarly)(rows=rows, bars=c.whole(), size_ms=middle)


CRITERION = CriterionKind(
    key=PEDAL, title=gettext_noop("Pedal"), score=lambda s: score(s.seen), needs="has_pedal",
    has_any=lambda facts: bool(facts.pedal), weights={Kind.KEYBOARD: 10}, speaks=5, reported=5,
    verdicts={
        BLURRED: gettext_noop("pedal not changed"), DRY: gettext_noop("pedal not down"),
        PEDAL_EARLY: gettext_noop("pedal too early"), PEDAL_LATE: gettext_noop("pedal too late"),
    },
    lines={
        "no_pedal": words(gettext_noop("not assessed"), gettext_noop("this input has no pedal")),
        "pedal_not_counted": words(
            gettext_noop("not assessed"), gettext_noop("no pedal is written at the notes that count")
        ),
        "pedal_window": words(
            gettext_noop("in time from {early} ms before to {late} ms after the sound"),
            gettext_noop("nothing from {early_none} ms before or {late_none} ms after"),
        ),
        "pedal_in_time": words(gettext_noop("pedal moves in time"), COUNT),
        "pedal_partly": words(
            gettext_noop("pedal moves nearly in time"),
            ngettext_lazy("{count}, worth {credit} of a move", "{count}, worth {credit} moves in all"),
        ),
        "pedal_blurred": words(gettext_noop("not changed: blurred"), COUNT),
        "pedal_dry": words(gettext_noop("not down: dry"), COUNT),
        "pedal_credit": words(gettext_noop("credit, out of all pedal moves written"), EARNED),
    },
    findings=(PedalBlurred, PedalDry, PedalLate, PedalEarly), rules=(blurred_or_dry, early_or_late),
)  # fmt: skip
