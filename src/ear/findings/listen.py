"""Run the rules over a measured take."""

from collections.abc import Sequence

from ear.findings import fairness_rules, note_rules, pedal_rules, progress_rules, time_rules, touch_rules
from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.standing import Standing
from ear.matching.outcome import Match
from ear.measuring.fairness import Imprint
from ear.measuring.measures import Measures
from ear.notes import STANDARD_KIT, KitMap, Part, Take

RULES = (
    *note_rules.RULES, *time_rules.RULES, *touch_rules.RULES, *pedal_rules.RULES, *fairness_rules.RULES, *progress_rules.RULES,
)  # fmt: skip


def listen(
    part: Part,
    take: Take,
    match: Match,
    measures: Measures,
    *,
    kit: KitMap = STANDARD_KIT,
    before: Standing | None = None,
    others: Sequence[tuple[str, Imprint]] = (),
) -> tuple[Finding, ...]:
    """All that the rules find, whatever it is worth; in order of the rules.

    `before` is how the player's last take stood; `others` are takes of others, with whose they are.
    """
    context = Context(
        part=part, take=take, match=match, measures=measures, kit=kit, before=before, others=tuple(others)
    )  # fmt: skip
    return tuple(finding for rule in RULES for finding in rule(context))
