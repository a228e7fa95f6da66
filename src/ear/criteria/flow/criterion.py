"""Flow as a row of the table of criteria."""

from ear.criteria.flow import FLOW, bars_ear_notes, ear_notes
from ear.criteria.flow.rules import FREE_RULES, RULES
from ear.criteria.flow.scoring import EMPTY, FULL, NOT_REPEATED, SLIP, THIN, flow, free_flow
from ear.criteria.kind import CeilingRule, CriterionKind
from ear.criteria.working import words
from ear.findings.finding import findings_in
from ear.notes import Kind
from ear.text import gettext_noop, ngettext_lazy

COST = "−{cost}"
CRITERION = CriterionKind(
    key=FLOW, title=gettext_noop("Flow"), score=lambda s: flow(s.seen), score_free=lambda s: free_flow(s.seen),
    weights={Kind.KEYBOARD: 10, Kind.DRUMS: 10}, speaks=2, reported=2,
    of_whole=frozenset({EMPTY, THIN, FULL, NOT_REPEATED}), verdicts={SLIP: gettext_noop("first note after a slip")},
    ceiling=CeilingRule(
        least=70.0, rate=0.3, text=gettext_noop("Flow caps the mark: at most {least} + {rate} × {by}")
    ),
    lines={
        "late_start": words(gettext_noop("late start"), COST),
        "early_start": words(gettext_noop("early start"), COST),
        "slip": words(gettext_noop("slip in bar {bar}"), COST),
        "recovery": words(gettext_noop("comes back to the click in bar {bar}"), COST),
        "put_right": words(gettext_noop("waits for a key put right in bar {bar}"), COST),
        "last_note_late": words(gettext_noop("last note held back"), COST),
        "restart": words(gettext_noop("starts again in bar {bar}"), COST),
        "skip": words(gettext_noop("skips to bar {bar}"), COST),
        "repeat_left_out": words(gettext_noop("leaves out the repeat before bar {bar}"), COST),
        "repeat_added": words(gettext_noop("repeats from bar {bar}"), COST),
        "skip_bar": words(gettext_noop("skips to bar {bar}"), COST),
        "unfinished": words(
            ngettext_lazy("{count} of {of} bars missing at the end", "{count} of {of} bars missing at the end"), COST
        ),
        "flow_whole": words(gettext_noop("no slip, no stop, to the end")),
        "flow_sum": words(gettext_noop("100 minus these"), "100 − {cost} → {score}"),
        "free_bars": words(gettext_noop("bars filled as asked"), "{right} ÷ {of} → {score}"),
        "free_repeated": words(gettext_noop("repeated as asked"), "{percent}% → {score}"),
    },
    findings=(*findings_in(ear_notes), *findings_in(bars_ear_notes)), rules=RULES, free_rules=FREE_RULES,
)  # fmt: skip
