"""The whole way from a take to a mark and ear notes, in one call."""

from collections.abc import Sequence
from dataclasses import dataclass

from ear.findings.finding import Finding
from ear.findings.listen import listen
from ear.findings.standing import Standing
from ear.marking.basis import basis_of
from ear.marking.levels import DEFAULT_LEVEL, Level
from ear.marking.marks import Mark, mark
from ear.marking.rubric import DEFAULT_RUBRICS, Rubric
from ear.matching.match import match
from ear.matching.outcome import Match
from ear.measuring.measure import measure
from ear.measuring.measures import Measures
from ear.notes import STANDARD_KIT, KitMap, Part, Take

VERSION = "2026.11.3"
"""Of the measuring code; kept with every result, so that results can be told apart."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Assessment:
    """All that is said of one take."""

    part: Part
    take: Take
    level: Level
    match: Match
    measures: Measures
    mark: Mark
    findings: tuple[Finding, ...]


def assess(
    part: Part,
    take: Take,
    *,
    level: Level = DEFAULT_LEVEL,
    rubric: Rubric | None = None,
    kit: KitMap = STANDARD_KIT,
    has_click: bool = True,
    before: Standing | None = None,
    others: Sequence[tuple[str, Take]] = (),
) -> Assessment:
    """Match, measure, mark and listen. The rubric is the default of the part's kind.

    Without a click the time base is the player's own pulse, and Timing is evenness. `before` is how
    the player's last take stood, so that progress can be told; `others` are takes of other players,
    each with whose it is, among which the same recording is looked for.
    """
    found = match(part, take, kit=kit)
    measures = measure(part, take, found, kit=kit, has_click=has_click)
    rubric = rubric or DEFAULT_RUBRICS[part.kind]
    marked = mark(basis_of(part, take, found, measures), level=level, rubric=rubric)
    findings = listen(part, take, found, measures, marked, kit=kit, before=before, others=others)
    return Assessment(
        part=part,
        take=take,
        level=rubric.level or level,
        match=found,
        measures=measures,
        mark=marked,
        findings=findings,
    )
