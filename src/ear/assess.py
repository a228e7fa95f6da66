"""The whole way from a take to a judgement, in one call."""

from collections.abc import Sequence
from dataclasses import dataclass

from ear.criteria.levels import DEFAULT_LEVEL, Level
from ear.extraction.extraction import extract_facts
from ear.facts.facts import Facts
from ear.findings.standing import Standing
from ear.free.exercise import FreeExercise
from ear.judging.judge import Rules, judge
from ear.judging.judgement import Judgement
from ear.judging.rubric import DEFAULT_RUBRICS, Rubric
from ear.measuring.fairness import Imprint
from ear.notes import STANDARD_KIT, KitMap, Part, Take


@dataclass(frozen=True, slots=True, kw_only=True)
class Assessment:
    """What happened, and what it is worth."""

    facts: Facts
    judgement: Judgement
    rubric: Rubric


def assess(
    part: Part,
    take: Take,
    *,
    level: Level = DEFAULT_LEVEL,
    rubric: Rubric | None = None,
    kit: KitMap = STANDARD_KIT,
    has_click: bool = True,
    before: Sequence[Standing] = (),
    others: Sequence[tuple[str, Imprint]] = (),
    free: FreeExercise | None = None,
) -> Assessment:
    """Return the facts and the judgement of one take by the default rubric of the part's kind.

    See `extract_facts` and `judge` for arguments and errors.
    """
    facts = extract_facts(part, take, kit=kit, has_click=has_click, before=before, others=others, free=free)
    by = rubric or DEFAULT_RUBRICS[part.kind]
    return Assessment(facts=facts, judgement=judge(facts, Rules(rubric=by, level=level)), rubric=by)
