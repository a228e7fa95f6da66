"""What marking does in the background."""

import uuid
from contextlib import suppress

from oido.jobs.kinds import Progress, job_kind
from oido.jobs.schedule import DUE, EVERY_MINUTE
from oido.marking.models import Remarking, Remeasuring
from oido.marking.remarking import step as mark_next
from oido.marking.remeasuring import (
    ask_to_measure_waiting,
    begin_if_due,
    judge_anew,
    measure_waiting,
    store_anew,
)
from oido.marking.remeasuring import step as measure_next
from oido.takes.models import Take
from oido.takes.services import TakeIsGone, measured_and_stored


@job_kind("marking.mark_again")
def mark_again(progress: Progress, *, remarking: int) -> None:
    """Takes of an assignment by another rubric: tried, or kept."""
    while mark_next(remarking):
        progress(*Remarking.objects.values_list("done", "takes").get(pk=remarking))


@job_kind("marking.measure_again")
def measure_again(progress: Progress, *, version: str) -> None:
    """All stored takes by a new version."""
    while measure_next(version):
        progress(*Remeasuring.objects.values_list("done", "takes").get(version=version))


@job_kind("marking.judge_takes")
def judge_takes(progress: Progress, *, takes: list[str]) -> None:
    """Judge some takes again, since something else is said of their notes."""
    for done, key in enumerate(takes, start=1):
        judge_anew(Take(pk=uuid.UUID(key)))
        progress(done, len(takes))


@job_kind("marking.measure_takes")
def measure_takes(progress: Progress, *, takes: list[str]) -> None:
    """Some takes again, since they are read otherwise than before."""
    for done, key in enumerate(takes, start=1):
        with suppress(TakeIsGone):
            measured_and_stored(Take(pk=uuid.UUID(key)), store_anew)
        progress(done, len(takes))


@job_kind("marking.measure_waiting")
def measure_takes_cut_off(progress: Progress) -> None:
    """Takes that were stored by a process that died before it had measured them."""
    measure_waiting(progress)


DUE.append(begin_if_due)
EVERY_MINUTE.append(ask_to_measure_waiting)
