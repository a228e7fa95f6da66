"""Once a day: sessions that have expired go, and letters that are old."""

from oido.access.sessions import forget_old_sessions
from oido.jobs.kinds import Progress, job_kind
from oido.jobs.schedule import DAILY
from oido.post.services import forget_old_letters


@job_kind("access.tidy")
def tidy(progress: Progress) -> None:
    forget_old_sessions()
    forget_old_letters()


DAILY.append("access.tidy")
