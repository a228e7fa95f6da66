"""Run the rules over a measured take."""

from collections.abc import Sequence

from ear.findings import (
    fairness_rules,
    free_rules,
    note_rules,
    pedal_rules,
    progress_rules,
    tempo_rules,
    time_rules,
    touch_rules,
)
from ear.findings.context import Context
from ear.findings.finding import Finding
from ear.findings.standing import Standing
from ear.free.realised import FreeFacts
from ear.matching.outcome import Match
from ear.measuring.fairness import Imprint
from ear.measuring.measures import Measures
from ear.notes import STANDARD_KIT, KitMap, Part, Take
from ear.notes.ending import Ending

RULES = (
    *note_rules.RULES, *tempo_rules.RULES, *time_rules.RULES, *touch_rules.RULES, *pedal_rules.RULES, *fairness_rules.RULES, *progress_rules.RULES,
)  # fmt: skip

FREE_RULES = (
    note_rules.nothing_of_it, *free_rules.RULES, time_rules.lead_or_lag, time_rules.drift, tempo_rules.own_tempo,
    tempo_rules.pace, time_rules.lanes, time_rules.places, time_rules.passages, time_rules.unsteady,
    *fairness_rules.RULES, *progress_rules.RULES,
)  # fmt: skip
"""What is listened for where no notes are written: nothing that compares with a written length or loudness."""


def listen(
    part: Part,
    take: Take,
    match: Match,
    measures: Measures,
    *,
    kit: KitMap = STANDARD_KIT,
    before: Sequence[Standing] = (),
    others: Sequence[tuple[str, Imprint]] = (),
    pace: tuple[float, float] | None = None,
    free: FreeFacts | None = None,
    in_time: float = 1.0,
    recorded: Take | None = None,
    ending: Ending = Ending.STOPPED,
) -> tuple[Finding, ...]:
    """Return everything that the rules find, whatever it costs, in the order of the rules.

    `before` is how the player's takes before it stood, the last first; `others` are takes of others, with whose they are. `pace` are tempos at
    the beginning and the end where they bend; `free` is known of an exercise without a target part. `recorded` is the
    take before a bend of its tempo was taken out.
    """
    context = Context(
        part=part, take=take, match=match, measures=measures, kit=kit, before=tuple(before), others=tuple(others), pace=pace,
        free=free, in_time=in_time, recorded=recorded or take, ending=ending,
    )  # fmt: skip
    rules = RULES if free is None else FREE_RULES
    return tuple(finding for rule in rules for finding in rule(context))
