"""Length: how long notes were held, against how long they are written."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ear.criteria.credits import FactsView, credit, nan_as_zero, reasons, spread, tenths
from ear.criteria.kind import CriterionKind
from ear.criteria.score import MISSED, CriterionScore, WorkingLine, verdict
from ear.criteria.working import COUNT, words
from ear.criterion import CriterionKey
from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.gaps import Gaps
from ear.findings.kind import FindingKind, Tone
from ear.notes import Kind
from ear.reader import Reader
from ear.text import gettext_noop

LENGTH = CriterionKey("length")
SHORT, LONG = verdict("short"), verdict("long")
FULL_OCTAVES, NONE_OCTAVES = 0.3, 1.6
"""Length ratio on a log scale: full from 0.81 to 1.23 times, none from 0.33 or 3 times."""
SHORT_BELOW, LONG_ABOVE = 0.6, 1.35
"""Median length ratio from which notes are called cut short or run together."""
LAST_NOTE_BELOW = 0.5


def score(seen: FactsView) -> CriterionScore:
    """Return the Length score, the mean credit of the written notes.

    A length that the pedal held counts in full.
    """
    facts = seen.facts
    if not facts.target.kind.instrument.has_length:
        return CriterionScore(name=LENGTH, score=None, lines=(WorkingLine(code="drums_have_no_length"),))
    rows = seen.targets
    ratio = seen.column(facts.rows.length_ratio)
    is_played = seen.is_played
    # Half the length and twice the length are equally wrong, so the ratio is judged on a logarithmic scale.
    octaves = np.log2(np.maximum(ratio, 1e-3))
    credits = credit(np.abs(octaves), full=FULL_OCTAVES, none=NONE_OCTAVES)
    # The length of a note that the pedal held cannot be measured: it counts as right.
    held = is_played & np.isnan(ratio)
    credits = np.where(held | seen.right, 1.0, nan_as_zero(credits))
    why = reasons((~is_played, MISSED), (octaves < 0, SHORT), otherwise=LONG)
    earned = round(float(credits.sum()), 2)
    score = tenths(100.0 * earned / len(rows))
    full = 2**FULL_OCTAVES
    none = 2**NONE_OCTAVES
    lines = [
        WorkingLine(code="length_window", values={
            "from": round(100 / full), "to": round(100 * full), "least": round(100 / none), "most": round(100 * none),
        }),
    ]  # fmt: skip
    if facts.figures.length_ratio is not None:
        lines.append(
            WorkingLine(code="length_middle", values={"percent": round(100 * facts.figures.length_ratio)})
        )
    if held.any():
        lines.append(WorkingLine(code="length_pedal", values={"count": int(held.sum())}))
    if not is_played.all():
        lines.append(WorkingLine(code="not_played", values={"count": int((~is_played).sum())}))
    lines.append(WorkingLine(code="mean_credit", values={"earned": earned, "of": len(rows), "score": score}))
    return CriterionScore(
        name=LENGTH,
        score=score,
        losses=spread(100.0 - score, rows, 1.0 - credits, why),
        lines=tuple(lines),
    )


@dataclass(frozen=True, kw_only=True)
class LengthRatio(Finding):
    """Sounded over written, typically."""

    ratio: float

    UNIT = "ratio"

    @property
    def size(self) -> float:
        """The ratio."""
        return self.ratio

    def gaps(self, reader: Reader) -> Gaps:
        """Return the ratio in per cent, too."""
        return super().gaps(reader) | {"percent": round(100 * self.ratio)}


class CutShort(LengthRatio):
    """Notes are too short."""

    KIND = FindingKind(
        code="cut_short", criterion=LENGTH,
        teacher=gettext_noop("Notes are cut short: typically they sound for {percent}% of their length."),
        student=gettext_noop("Your notes end too soon. Keep each key down until the next one plays."),
    )  # fmt: skip


class HeldLong(LengthRatio):
    """Notes are too long."""

    KIND = FindingKind(
        code="held_long", criterion=LENGTH,
        teacher=gettext_noop("Notes run into each other: typically they sound for {percent}% of their length."),
        student=gettext_noop("Your notes run into each other. Let a key go when the next one plays."),
    )  # fmt: skip


class LastNoteShort(LengthRatio):
    """The last note is let go early."""

    KIND = FindingKind(
        code="last_note_short", criterion=LENGTH, tone=Tone.FACT,
        teacher=gettext_noop("The last note is let go after {percent}% of its length."),
        student=gettext_noop("Hold the last note to its end: count it out."),
    )  # fmt: skip


def lengths(c: Context) -> Iterator[Finding]:
    """Find notes held too short or too long, by their median."""
    ratio = c.measures.length_ratio.value
    if ratio is None or SHORT_BELOW < ratio < LONG_ABOVE:
        return
    is_short = ratio <= SHORT_BELOW
    ratios = [(i, c.measures.notes[i].length_ratio) for i in c.linked.tolist()]
    rows = c.in_order(i for i, own in ratios if own is not None and (own < 1) is is_short)
    yield (CutShort if is_short else HeldLong)(rows=rows, bars=c.whole(), ratio=ratio)


def last_note(c: Context) -> Iterator[Finding]:
    """Find a last note let go early."""
    last = len(c.part.notes) - 1
    if not c.part.instrument.has_length:
        return
    ratio = c.measures.notes[last].length_ratio if last >= 0 else None
    if ratio is not None and ratio < LAST_NOTE_BELOW:
        yield LastNoteShort(rows=(last,), bars=c.bars_of((last,)), ratio=ratio)


CRITERION = CriterionKind(
    key=LENGTH, title=gettext_noop("Length"), score=lambda s: score(s.seen), needs="has_length",
    weights={Kind.KEYBOARD: 10}, speaks=3, reported=3,
    verdicts={SHORT: gettext_noop("too short"), LONG: gettext_noop("too long")},
    lines={
        "drums_have_no_length": words(gettext_noop("not assessed"), gettext_noop("a drum hit has no length")),
        "length_window": words(
            gettext_noop("full credit between {from} and {to}% of the written length"),
            gettext_noop("nothing below {least}% or above {most}%"),
        ),
        "length_middle": words(gettext_noop("a typical note (the median)"), gettext_noop("{percent}% of its length")),
        "length_pedal": words(
            gettext_noop("held by the pedal or to the end of the recording, counted as right"), COUNT
        ),
    },
    findings=(CutShort, HeldLong, LastNoteShort), rules=(lengths, last_note),
)  # fmt: skip
