"""The table of criteria, in the order of mark sheets, with what they have in common.

To add a criterion is to write its module and to put its row here.
"""

from collections.abc import Mapping

from ear.criteria import chord_evenness, length, pedal
from ear.criteria.credits import FactsView, nothing_played
from ear.criteria.dynamics import criterion as dynamics
from ear.criteria.flow import criterion as flow
from ear.criteria.kind import CriterionKind, Rule, ScoringInput
from ear.criteria.notes import criterion as notes
from ear.criteria.score import ABANDONED, IN_TIME, NOT_COUNTED, CriterionScore, LossReason, Verdict
from ear.criteria.timing import criterion as timing
from ear.criteria.working import COUNT, EARNED, LineWords, words
from ear.criterion import CriterionKey
from ear.findings import fairness, praise, progress
from ear.findings.finding import Finding, findings_in
from ear.text import Text, gettext_noop, pgettext_lazy

CRITERIA: Mapping[CriterionKey, CriterionKind] = {
    kind.key: kind
    for kind in (
        notes.CRITERION, timing.CRITERION, flow.CRITERION, dynamics.CRITERION, length.CRITERION, pedal.CRITERION,
        chord_evenness.CRITERION,
    )
}  # fmt: skip
REPORTED = tuple(sorted(CRITERIA.values(), key=lambda kind: kind.reported))
"""In the order of reports."""
SPEAKS_FIRST = tuple(kind.key for kind in sorted(CRITERIA.values(), key=lambda kind: kind.speaks))
"""Of a row that lost in several criteria, the one that gives its verdict."""
VERDICT_OF: Mapping[LossReason, Verdict] = {
    reason: verdict
    for kind in REPORTED
    for reason, verdict in (*((own, own) for own in kind.verdicts), *kind.losses.items())
}
OF_WHOLE = frozenset(reason for kind in REPORTED for reason in kind.of_whole)
"""Reasons that say nothing of a row."""
FAULT_NAMES: Mapping[Verdict, Text] = {
    name: text for kind in REPORTED for name, text in kind.verdicts.items()
}
FAULTS = frozenset(FAULT_NAMES)
"""Verdicts of rows that lost credit."""
VERDICT_NAMES: Mapping[Verdict, Text] = {
    IN_TIME: pgettext_lazy("timing", "right"), **FAULT_NAMES,
    ABANDONED: gettext_noop("in a false start"), NOT_COUNTED: gettext_noop("not counted"),
}  # fmt: skip
LINES: Mapping[str, LineWords] = {
    "take_empty": words(gettext_noop("the take is empty"), "0"),
    "take_foreign": words(gettext_noop("this is a different piece"), "0"),
    "nothing_found": words(gettext_noop("no note of the part was found"), "0"),
    "not_played": words(gettext_noop("notes not played, worth nothing"), COUNT),
    "mean_credit": words(gettext_noop("credit, out of all notes written"), EARNED),
    **{code: line for kind in CRITERIA.values() for code, line in kind.lines.items()},
}
"""Every line of a sum, by code."""
FINDINGS: Mapping[str, type[Finding]] = {
    finding.KIND.code: finding
    for finding in (
        *(own for kind in CRITERIA.values() for own in kind.findings),
        *findings_in(fairness), *findings_in(progress), *findings_in(praise),
    )
}  # fmt: skip
"""Every cause that can be heard, by code."""
RULES: tuple[Rule, ...] = (
    *(rule for kind in CRITERIA.values() for rule in kind.rules), *fairness.RULES, *progress.RULES,
)  # fmt: skip
FREE_RULES: tuple[Rule, ...] = (
    *(rule for kind in CRITERIA.values() for rule in kind.free_rules), *fairness.RULES, *progress.RULES,
)  # fmt: skip
"""What is listened for where no notes are written: nothing that compares with a written length or loudness."""


def score_criterion(name: CriterionKey, setting: ScoringInput | None, *, seen: FactsView) -> CriterionScore:
    """Return the score of a criterion, 0 to 100, by its row of the table; 0 if nothing of the part was played
    (`setting` is None).
    """
    if setting is None:
        return nothing_played(seen, name)
    kind = CRITERIA[name]
    is_free = seen.facts.free is not None and kind.score_free is not None
    return kind.score_free(setting) if is_free and kind.score_free else kind.score(setting)
