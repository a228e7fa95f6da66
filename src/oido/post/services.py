"""Write letters, and send them by way of the queue."""

from datetime import timedelta

from django.conf import settings
from django.core.mail import EmailMessage
from django.utils import timezone

from oido.jobs.kinds import JobProblem, Progress, job_kind
from oido.jobs.services import ask_for
from oido.people.models import School, User
from oido.post.models import Letter

KEPT = timedelta(days=60)
State = Letter.State


def write_letter(
    school: School,
    *,
    to: str,
    purpose: str,
    subject: str,
    body: str,
    person: User | None = None,
    is_secret: bool = False,
) -> Letter:
    """Put it into the outbox; it is sent once this transaction is over."""
    subject = " ".join(subject.split())[:200]
    letter = Letter.objects.create(
        school=school,
        to=to,
        person=person,
        purpose=purpose,
        subject=subject,
        body=body,
        is_secret=is_secret,
    )
    ask_for("post.send", school=letter.school, letter=letter.pk)
    return letter


def was_written_lately(person: User, purpose: str, *, within: timedelta) -> bool:
    """Letters of one purpose go to one person only so often."""
    since = timezone.now() - within
    return Letter.everywhere.filter(person=person, purpose=purpose, written_at__gte=since).exists()


@job_kind("post.send")
def send(progress: Progress, *, letter: int) -> None:
    """By Django's mail settings: a mail server, or files where there is none."""
    row = Letter.objects.filter(pk=letter, state=State.WAITING).first()
    if row is None:
        return
    message = EmailMessage(row.subject, row.body, settings.DEFAULT_FROM_EMAIL, [row.to])
    try:
        message.send()
    except OSError as problem:
        Letter.objects.filter(pk=letter).update(state=State.FAILED, problem=f"{problem}"[:300])
        raise JobProblem(f"{problem}") from problem
    gone = {"body": ""} if row.is_secret and not settings.MAIL_GOES_TO_FILES else {}
    Letter.objects.filter(pk=letter).update(state=State.SENT, sent_at=timezone.now(), **gone)


def send_again(letter: Letter) -> None:
    """One that could not be sent."""
    if Letter.objects.filter(pk=letter.pk, state=State.FAILED).update(state=State.WAITING, problem=""):
        ask_for("post.send", school=letter.school, letter=letter.pk)


def forget_old_letters() -> int:
    return Letter.objects.filter(written_at__lt=timezone.now() - KEPT).delete()[0]
