"""Facts and judgements of stored takes: read, made and stored here alone."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from ear.criteria.levels import Level, level_named
from ear.errors import FormatError
from ear.extraction.codec import facts_from_json, facts_to_json
from ear.extraction.extraction import VERSION, extract_facts, standing_of
from ear.facts.facts import Facts
from ear.findings.standing import Standing
from ear.judging.codec import scores_from_json, scores_to_json
from ear.judging.judge import Changes, Rules, conclude, score
from ear.judging.judgement import VERSION as JUDGING_VERSION
from ear.judging.judgement import Judgement, Scores, TeacherScore
from ear.judging.rubric import ANSWERS, Rubric
from ear.judging.settings import TakeSettings
from ear.judging.shown import with_showing
from ear.measuring.fairness import Imprint, imprint
from ear.notes import Part
from ear.notes.ending import Ending
from ear.progress.standings import take_figures
from ear.text import term
from ear.units import TICKS_PER_QUARTER
from oido.exercises.models import Task
from oido.exercises.showing import shown_labels, skill_name
from oido.rubrics.models import RubricVersion, read_version
from oido.takes.models import Judgement as JudgementRow
from oido.takes.models import Measurement, Take
from oido.takes.overrides import get_overrides

COMPARED_WITH = 2
"""Takes before one, of which it is told what is better now."""


@dataclass(frozen=True)
class Judged:
    """A stored take with what happened in it and what it is worth. Raise FormatError where it is read."""

    take: Take
    row: JudgementRow | None

    @cached_property
    def facts(self) -> Facts:
        if self.row is None:
            raise FormatError(expected=term("facts of a take"), actual="none")
        return facts_from_json(self.row.measurement.facts)

    @cached_property
    def scores(self) -> Scores:
        assert self.row is not None
        return scores_from_json(self.row.scores)

    @cached_property
    def rubric(self) -> Rubric:
        return self.take.set_for_it.over(self.base_rubric)

    @cached_property
    def base_rubric(self) -> Rubric:
        """Without what is set for this take alone."""
        version = self.row.rubric if self.row is not None else self.take.assignment.rubric
        return rubric_of(self.take, version)

    @cached_property
    def judgement(self) -> Judgement:
        return conclude(self.facts, self.scores, self.rubric, changes_of(self.take))

    @property
    def is_readable(self) -> bool:
        """False where what is stored is of no schema that is known, or broken."""
        try:
            _ = self.judgement
        except FormatError:
            return False
        return True


def judged(take: Take) -> Judged:
    """Return the take judged by the judgement in force, with the teacher's changes on top."""
    return Judged(take, take.judgement)


def changes_of(take: Take) -> Changes:
    """Return the teacher's changes to the take; nothing before it is handed in."""
    sheet = getattr(take, "sheet", None)
    if sheet is None:
        return Changes()
    return changes_from(sheet.changes, sheet.help_step, sheet.late_days_charged)


def changes_from(stored: Mapping[str, Any], help_step: int | None, late_days: int = 0) -> Changes:
    teacher_scores = {name: TeacherScore.from_json(stored_score) for name, stored_score in stored.items()}
    return Changes(teacher_scores=teacher_scores, help_step=help_step, late_days=late_days)


def rubric_of(take: Take, version: RubricVersion | None) -> Rubric:
    """Return the rubric of a version.

    If only questions are answered, it has the criteria marked by hand alone; if something was to be shown,
    those are added.
    """
    rubric = read_version(version, take.exercise.kind)
    if take.showing is not None:
        return with_showing(rubric, take.showing, name=skill_name, labels=shown_labels())
    if take.exercise.task == Task.QUESTIONS:
        return replace(
            rubric, weights=(), teacher_criteria=rubric.teacher_criteria or (ANSWERS,), has_ceilings=False
        )
    return rubric


def level_of(take: Take) -> Level:
    return level_named(take.exercise.level)


def rules_for(
    take: Take,
    version: RubricVersion | None,
    settings: TakeSettings | None = None,
    *,
    facts: Facts | None = None,
) -> Rules:
    """Return the rules for a take by a version of a rubric, with the take's own settings and the overrides of
    its notes and bars.

    Without facts, only the weights of scores are included, not the overrides.
    """
    own = settings or take.set_for_it
    rubric = own.over(rubric_of(take, version))
    overrides = get_overrides(take, facts) if facts is not None else {}
    return Rules(rubric=rubric, level=level_of(take), overrides={**overrides, **own.overrides})


def measured(
    take: Take, *, others: Sequence[tuple[str, Imprint]] = (), settings: TakeSettings | None = None
) -> Facts:
    """Return the facts of a take by the current code, without storing them.

    Progress is measured against the student's earlier take. `others` are imprints of other students' takes,
    each with its student, among which the same recording is looked for.
    """
    own = settings or take.set_for_it
    return extract_facts(
        take.page(),
        take.read(settings),
        has_click=take.asks_click,
        before=_standings_before(take),
        others=others,
        free=take.free(),
        again=own.again,
        landings=own.landings,
        ending=Ending(take.ending),
    )


def store_measurement(take: Take, facts: Facts) -> Measurement:
    """Store what was measured in a locked take, which waits for it no longer. What it replaces goes once the take points
    elsewhere (`point_at`)."""
    if take.measure_after is not None:
        take.measure_after = None
        take.save(update_fields=["measure_after"])
    return Measurement.objects.create(
        take=take, version=VERSION, facts=facts_to_json(facts), figures=figures_of(take, take.page(), facts),
        imprint=imprint(take.read()).to_bytes(),
    )  # fmt: skip


def point_at(take: Take, *, judgement: JudgementRow | None, proposed: JudgementRow | None) -> None:
    """Let a judgement of a locked take count, and another be proposed. What this version measured before goes, unless one
    of the two rests on it: a released mark has to stay readable, whatever is proposed."""
    take.judgement, take.proposed = judgement, proposed
    take.save(update_fields=["judgement", "proposed"])
    in_use = [row.measurement_id for row in (judgement, proposed) if row is not None]
    take.measurements.filter(version=VERSION).exclude(pk__in=in_use).delete()


def row_of(measurement: Measurement, version: RubricVersion | None, scores: Scores) -> JudgementRow:
    """Return an unsaved judgement row."""
    return JudgementRow(
        measurement=measurement, rubric=version, version=JUDGING_VERSION, scores=scores_to_json(scores)
    )


def add_judgement(
    take: Take, measurement: Measurement, facts: Facts, version: RubricVersion | None
) -> JudgementRow:
    """Add a judgement row. Nothing points at it yet."""
    made = row_of(measurement, version, score(facts, rules_for(take, version, facts=facts)))
    made.save()
    return made


def figures_of(take: Take, part: Part, facts: Facts) -> dict[str, object]:
    """Return the figures by which progress is described."""
    return take_figures(
        facts,
        asked_bpm=float(take.exercise.tempo_bpm),
        quarters=part.bars[-1].end_tick / TICKS_PER_QUARTER,
    ).to_json()


def _standings_before(take: Take) -> list[Standing]:
    """How the student's last two takes before it stood, the last first; up to one in which nothing was found."""
    earlier = (
        Take.objects.filter(
            assignment_id=take.assignment_id,
            student_id=take.student_id,
            part_id=take.part_id,
            number__lt=take.number,
            judgement__isnull=False,
        )
        .select_related("judgement__measurement")
        .defer("events")
        .order_by("-number")[:COMPARED_WITH]
    )
    standings: list[Standing] = []
    for earlier_take in earlier:
        try:
            standing = standing_of(judged(earlier_take).facts)
        except FormatError:
            break
        if standing is None:
            break
        standings.append(standing)
    return standings
