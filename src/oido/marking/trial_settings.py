"""A take's mark by other settings, before anything is kept."""

from dataclasses import dataclass, replace
from typing import Any

from ear.criteria.notes.played_elsewhere import Copied
from ear.judging.judge import judge
from ear.judging.settings import TakeSettings
from ear.measuring.pads import PadChoice, find_pad_choices
from oido.marking.forms import TryForm, pad_numbers
from oido.marking.sheets import changes_if_concluded
from oido.rubrics.labels import criterion_label
from oido.takes.judging import judged, level_of, measured, rules_for
from oido.takes.models import Take
from oido.takes.sizes import is_long


@dataclass(frozen=True, slots=True, kw_only=True)
class TriedRow:
    label: str
    before: float | None
    after: float | None

    @property
    def is_other(self) -> bool:
        return self.before != self.after


@dataclass(frozen=True, slots=True, kw_only=True)
class TrialMarks:
    """Marks as they are written, each with its band; criteria side by side."""

    rows: tuple[TriedRow, ...]
    before: float
    after: float
    band_before: str
    band_after: str


def make_try_form(take: Take, data: Any) -> TryForm:
    """Return the form with the take's present settings."""
    judgement = judged(take)
    return TryForm(
        data, take=take, rubric=judgement.rubric, base=judgement.base_rubric, level=level_of(take).key,
        numbers=pad_numbers(take, take.part.read()),
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class KitTrial:
    """Pads that seem to stand for other lanes, and what the mark would be if they were read so."""

    pad_choices: tuple[PadChoice, ...]
    tried: TrialMarks | None
    """None for a take that is too long to be measured while somebody waits."""


def kit_trial(take: Take) -> KitTrial | None:
    """Return which pads of the kit seem to be misread, or None."""
    part = take.target()
    if not part.instrument.has_lanes:
        return None
    rows = judged(take).facts.rows
    pad_choices = find_pad_choices(part, take.read(), zip(rows.target, rows.take, rows.outcome, strict=True))
    if not pad_choices:
        return None
    own = take.set_for_it
    pads = {**own.pads, **{one.number: one.lane.pitches[0] for one in pad_choices}}
    mark = None if is_long(take) else tried(take, replace(own, pads=pads))
    return KitTrial(pad_choices=pad_choices, tried=mark)


@dataclass(frozen=True, slots=True, kw_only=True)
class CopiesTrial:
    """Notes that arrived a second time, so many semitones above their own, and what the mark would be without them."""

    semitones: int
    count: int
    tried: TrialMarks | None
    """None for a take that is too long to be measured while somebody waits."""


def copies_trial(take: Take) -> CopiesTrial | None:
    """Return which notes of a take its set-up seems to have sent twice, or None."""
    copied = next((f for f in judged(take).facts.findings if isinstance(f, Copied)), None)
    if copied is None:
        return None
    settings = replace(take.set_for_it, without_copies=copied.semitones)
    return CopiesTrial(
        semitones=copied.semitones, count=copied.count, tried=None if is_long(take) else tried(take, settings)
    )


def tried(take: Take, settings: TakeSettings) -> TrialMarks:
    """Return the take judged with other settings.

    It is measured again only if other notes are heard, or the same notes elsewhere.
    """
    judgement = judged(take)
    now, facts = judgement.judgement, judgement.facts
    if settings.heard != take.set_for_it.heard:
        facts = measured(take, settings=settings)
    version = take.judgement.rubric if take.judgement else take.assignment.rubric
    then = judge(facts, rules_for(take, version, settings, facts=facts), changes_if_concluded(take))
    names = list(dict.fromkeys([*(c.name for c in now.criteria), *(c.name for c in then.criteria)]))
    scores_now, scores_then = ({c.name: c.score for c in one.criteria} for one in (now, then))
    return TrialMarks(
        rows=tuple(
            TriedRow(
                label=criterion_label(name, judgement.base_rubric),
                before=scores_now.get(name),
                after=scores_then.get(name),
            )
            for name in names
        ),
        before=now.points,
        after=then.points,
        band_before=now.band.name,
        band_after=then.band.name,
    )
