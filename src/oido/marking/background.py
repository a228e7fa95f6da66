"""What marking does in the background."""

import uuid

from ear.judging.settings import TakeSettings
from oido.jobs.kinds import JobProblem, Progress, job_kind
from oido.jobs.schedule import DUE, EVERY_MINUTE
from oido.marking.at_desk import changed_in_words
from oido.marking.history import ChangedMeanwhile
from oido.marking.models import Remarking, Remeasuring
from oido.marking.remarking import step as mark_next
from oido.marking.remeasuring import ask_to_measure_waiting, begin_if_due, judge_anew, measure_waiting
from oido.marking.remeasuring import step as measure_next
from oido.marking.services import set_and_measure
from oido.people.models import User
from oido.takes.models import Take
from oido.takes.services import MEASURE_WAITING


@job_kind("marking.mark_again")
def mark_again(progress: Progress, *, remarking: int) -> None:
    """Mark an assignment's takes by another rubric, as a trial or for good."""
    while mark_next(remarking):
        progress(*Remarking.objects.values_list("done", "takes").get(pk=remarking))


@job_kind("marking.measure_again")
def measure_again(progress: Progress, *, version: str) -> None:
    """Measure all stored takes with a new version."""
    while measure_next(version):
        progress(*Remeasuring.objects.values_list("done", "takes").get(version=version))


@job_kind("marking.judge_takes")
def judge_takes(progress: Progress, *, takes: list[str]) -> None:
    """Judge some takes again, since something else is said of their notes."""
    for done, key in enumerate(takes, start=1):
        judge_anew(Take(pk=uuid.UUID(key)))
        progress(done, len(takes))


@job_kind(MEASURE_WAITING)
def measure_takes_cut_off(progress: Progress) -> None:
    """Measure takes whose process died before it had measured them."""
    measure_waiting(progress)


@job_kind("marking.set_for_take")
def set_for_long_take(
    progress: Progress,
    *,
    take: str,
    teacher: int,
    settings: dict[str, object],
    change: str,
    shown: str | None = None,
) -> None:
    """Apply settings to a take that is too long to be measured while its teacher waits."""
    row = Take.objects.get(pk=uuid.UUID(take))
    try:
        set_and_measure(
            User.objects.get(pk=teacher), row, TakeSettings.from_json(settings), change, shown=shown
        )
    except ChangedMeanwhile as problem:
        raise JobProblem(changed_in_words(problem)) from problem


DUE.append(begin_if_due)
EVERY_MINUTE.append(ask_to_measure_waiting)
