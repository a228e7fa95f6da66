"""Dynamics as a row of the table of criteria."""

from collections.abc import Iterator

from ear.criteria.dynamics import DYNAMICS, ear_notes
from ear.criteria.dynamics.ear_notes import WellAccents
from ear.criteria.dynamics.rules import RULES
from ear.criteria.dynamics.scoring import LOUD, SOFT, dynamics
from ear.criteria.kind import CriterionKind
from ear.criteria.working import EARNED, words
from ear.facts.facts import Facts
from ear.findings.finding import Finding, findings_in
from ear.notes import Kind
from ear.text import gettext_noop


def praise(facts: Facts, lost: set[int]) -> Iterator[Finding]:
    """Yield praise of a take whose accents are where they are written, with everything else as loud as it should be."""
    accents = facts.rows.accents
    if accents and not lost:
        yield WellAccents(rows=accents, bars=(1, facts.target.bars), count=len(accents))


CRITERION = CriterionKind(
    key=DYNAMICS, title=gettext_noop("Dynamics"), score=lambda s: dynamics(s.seen),
    weights={Kind.KEYBOARD: 10, Kind.DRUMS: 15}, speaks=4, reported=4,
    verdicts={SOFT: gettext_noop("too soft"), LOUD: gettext_noop("too loud")},
    lines={
        "no_touch": words(gettext_noop("not assessed"), gettext_noop("this input has no touch")),
        "level_off": words(
            gettext_noop("louder or softer than written, overall"),
            gettext_noop("{steps} of 127 steps, up to {forgiven} cost nothing"), signed=("steps",),
        ),
        "touch_accents": words(gettext_noop("accents brought out"), EARNED),
        "touch_others": words(gettext_noop("other notes at the written loudness"), EARNED),
        "touch_sum": words(gettext_noop("accents count {accents}%, the others {others}%"), "{score}"),
    },
    findings=tuple(findings_in(ear_notes)), rules=RULES, praise=praise,
)  # fmt: skip
