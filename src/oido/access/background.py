"""Once a day: delete expired sessions, old e-mails, old lines of the trail, unconfirmed addresses and counts of wrong guesses."""

from oido.access.emails import forget_old_email_changes
from oido.access.guesses import forget_old_guesses
from oido.access.sessions import forget_old_sessions
from oido.audit.services import forget_old_acts
from oido.jobs.kinds import Progress, job_kind
from oido.jobs.schedule import DAILY
from oido.people.models import each_school
from oido.post.services import delete_old_emails


@job_kind("access.tidy")
def tidy(progress: Progress) -> None:
    forget_old_sessions()
    for _school in each_school():
        delete_old_emails()
        forget_old_acts()
    forget_old_email_changes()
    forget_old_guesses()


DAILY.append("access.tidy")
