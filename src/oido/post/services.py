"""Write e-mails and send them through the queue."""

from datetime import timedelta

from django.conf import settings
from django.core.mail import EmailMessage
from django.utils import timezone

from oido.jobs.kinds import JobProblem, Progress, job_kind
from oido.jobs.services import ask_for
from oido.people.models import School, User
from oido.post.models import Email

KEPT = timedelta(days=60)
State = Email.State


def write_letter(
    school: School,
    *,
    to: str,
    purpose: str,
    subject: str,
    body: str,
    person: User | None = None,
    is_secret: bool = False,
) -> Email:
    """Put it into the outbox; it is sent once this transaction is over."""
    subject = " ".join(subject.split())[:200]
    email = Email.objects.create(
        school=school,
        to=to,
        person=person,
        purpose=purpose,
        subject=subject,
        body=body,
        is_secret=is_secret,
    )
    ask_for("post.send", school=email.school, letter=email.pk)
    return email


def was_written_lately(person: User, purpose: str, *, within: timedelta) -> bool:
    """Return whether the person had an email for this purpose too recently for another."""
    since = timezone.now() - within
    return Email.everywhere.filter(person=person, purpose=purpose, written_at__gte=since).exists()


@job_kind("post.send")
def send(progress: Progress, *, letter: int) -> None:
    """Send an email by Django's mail settings: through a mail server, or to files if there is none."""
    row = Email.objects.filter(pk=letter, state=State.WAITING).first()
    if row is None:
        return
    message = EmailMessage(row.subject, row.body, settings.DEFAULT_FROM_EMAIL, [row.to])
    try:
        message.send()
    except OSError as problem:
        Email.objects.filter(pk=letter).update(state=State.FAILED, problem=f"{problem}"[:300])
        raise JobProblem(f"{problem}") from problem
    gone = {"body": ""} if row.is_secret and not settings.MAIL_GOES_TO_FILES else {}
    Email.objects.filter(pk=letter).update(state=State.SENT, sent_at=timezone.now(), **gone)


def send_again(email: Email) -> None:
    """Send an email again that could not be sent."""
    if Email.objects.filter(pk=email.pk, state=State.FAILED).update(state=State.WAITING, problem=""):
        ask_for("post.send", school=email.school, letter=email.pk)


def delete_old_emails() -> int:
    return Email.objects.filter(written_at__lt=timezone.now() - KEPT).delete()[0]
