"""Once a day: delete counts whose period is over."""

from oido.jobs.kinds import Progress, job_kind
from oido.jobs.schedule import DAILY
from oido.limits.services import forget_old_usage


@job_kind("limits.tidy")
def tidy(progress: Progress) -> None:
    forget_old_usage()


DAILY.append("limits.tidy")
