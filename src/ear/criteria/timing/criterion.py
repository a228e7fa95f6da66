"""Timing as a row of the table of criteria."""

from ear.criteria.kind import CeilingRule, CriterionKind
from ear.criteria.timing import TIMING, ear_notes, praise, rules, tempo_ear_notes, tempo_rules
from ear.criteria.timing.columns import COLUMNS
from ear.criteria.timing.scoring import BESIDE, EARLY, LATE
from ear.criteria.working import COUNT, words
from ear.findings.finding import findings_in
from ear.notes import Kind
from ear.text import gettext_noop, ngettext_lazy, pgettext_lazy

CREDIT = ngettext_lazy("{count}, worth {credit} of a note", "{count}, worth {credit} notes in all")
CRITERION = CriterionKind(
    key=TIMING, title=gettext_noop("Timing"), score=lambda s: s.timed.scored, score_free=lambda s: s.timed.scored,
    weights={Kind.KEYBOARD: 35, Kind.DRUMS: 45}, speaks=1, reported=0,
    verdicts={
        EARLY: pgettext_lazy("timing", "early"), LATE: pgettext_lazy("timing", "late"),
        BESIDE: gettext_noop("in time with itself, not with the click"),
    },
    ceiling=CeilingRule(
        least=20.0, rate=0.8, text=gettext_noop("Timing caps the mark: at most {least} + {rate} × {by}")
    ),
    lines={
        "timing_window": words(
            gettext_noop("in time within {full} ms"), gettext_noop("nothing from {none} ms off"),
            one_digit=("full", "none"),
        ),
        "timing_close": words(
            ngettext_lazy("note in a quick passage, judged more closely", "notes in quick passages, judged more closely"),
            gettext_noop("{count}, down to {full} ms"), one_digit=("full",),
        ),
        "timing_forgiven": words(
            gettext_noop("constant lead (−) or lag (+) that costs nothing"), gettext_noop("{forgiven} ms"),
            signed=("forgiven",),
        ),
        "timing_full": words(gettext_noop("notes in time"), COUNT),
        "timing_partly": words(gettext_noop("notes nearly in time"), CREDIT),
        "timing_apart": words(gettext_noop("notes of a hand, a lane or a fill apart from the rest"), CREDIT),
        "timing_beside": words(gettext_noop("notes nearer the player’s own time than the click’s"), CREDIT),
        "timing_none": words(gettext_noop("notes too far off"), COUNT),
        "timing_by_chance": words(
            gettext_noop("how likely this is in time rather than by chance"), "{plain} × {percent}% → {earned}"
        ),
    },
    findings=(*findings_in(ear_notes), *findings_in(tempo_ear_notes), *findings_in(praise)),
    rules=(*tempo_rules.RULES, *rules.RULES), free_rules=(*tempo_rules.FREE_RULES, *rules.FREE_RULES),
    columns=COLUMNS, praise=praise.praise,
)  # fmt: skip
