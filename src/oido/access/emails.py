"""Changed e-mail addresses: nothing is sent to a new one but the request to confirm it, until it has been confirmed."""

from collections.abc import Sequence
from datetime import timedelta
from typing import NamedTuple

from django.conf import settings
from django.db import transaction
from django.urls import reverse
from django.utils import timezone
from django.utils.crypto import get_random_string
from django.utils.translation import gettext as _
from django.utils.translation import override

from oido.access.models import EmailChange, code_hash, code_hashes
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.jobs.kinds import Progress, job_kind
from oido.jobs.services import ask_for
from oido.people.authority import Authority, Change
from oido.people.models import User
from oido.post.services import write_letter

CONFIRM_WITHIN = timedelta(days=7)
TOKEN_LENGTH = 40
CONFIRMATION, WARNING = "e-mail confirmation", "e-mail changed"
BATCH = 500


class EmailRequest(NamedTuple):
    """A person, and the address that is wanted for them; empty for none."""

    person: User
    address: str


@transaction.atomic
def request_email_changes(by: User, wanted: Sequence[EmailRequest]) -> list[EmailRequest]:
    """Ask for new addresses to be confirmed, in the background; return the requests that change something.

    An empty address removes the one on file at once. The old address is always told. Raise NotAllowed, and then nothing
    has changed.
    """
    authority = Authority(by, [request.person.pk for request in wanted])
    pending = dict(
        EmailChange.objects.filter(person__in=[request.person.pk for request in wanted]).values_list(
            "person", "address"
        )
    )
    changed = [
        request
        for request in wanted
        if request.address != pending.get(request.person.pk, request.person.email)
    ]
    if not all(authority.allows(Change.EMAIL, request.person.pk) for request in changed):
        raise NotAllowed
    EmailChange.objects.filter(person__in=[request.person.pk for request in changed]).delete()
    new = [request for request in changed if request.address != request.person.email]
    if not new:
        return changed
    ends_at = timezone.now() + CONFIRM_WITHIN
    EmailChange.objects.bulk_create(
        [
            EmailChange(
                person=request.person, address=request.address, old_address=request.person.email,
                requested_by=by, ends_at=ends_at,
            )
            for request in new
        ],
        batch_size=BATCH,
    )  # fmt: skip
    User.objects.filter(pk__in=[request.person.pk for request in new if not request.address]).update(email="")
    for request in new:
        if not request.address:
            request.person.email = ""
    remember("email_requested", actor=by, n=len(new))
    ask_for("access.email-letters", school=by.school, people=[request.person.pk for request in new])
    return changed


def pending_address(person: User) -> str | None:
    """Return the address that still has to be confirmed, or None."""
    change = EmailChange.objects.filter(person=person, ends_at__gt=timezone.now()).first()
    return change.address if change is not None and change.address else None


@job_kind("access.email-letters")
def write_confirmation_emails(progress: Progress, *, people: list[int]) -> None:
    """Write to the new addresses, with the link that confirms each, and to the old ones. Run again, it writes none twice."""
    for change in EmailChange.objects.filter(person__in=people).select_related("person"):
        with override(change.person.reads or None):
            _write_emails(change)


@transaction.atomic
def _write_emails(change: EmailChange) -> None:
    locked = EmailChange.objects.select_for_update().filter(pk=change.pk, token_hash="").first()
    school = change.person.school
    if locked is None or school is None:
        return
    names = {"name": change.person.name, "username": change.person.username, "school": school.name}
    if locked.old_address:
        body = _(
            "Hello %(name)s,\n\na request was made to use another e-mail address for your account %(username)s at %(school)s. "
            "Until it is confirmed there, this address stays in use.\n\nIf you did not expect this, tell your school.\n"
        )
        write_letter(
            school, to=locked.old_address, person=change.person, purpose=WARNING,
            subject=_("Your e-mail address for Oido"), body=body % names,
        )  # fmt: skip
    if not locked.address:
        locked.delete()
        return
    token = get_random_string(TOKEN_LENGTH)
    body = _(
        "Hello %(name)s,\n\nthis address was given for your account %(username)s at %(school)s. "
        "Confirm it here, within a week:\n%(link)s\n\nIf you do not know %(school)s, do nothing.\n"
    )
    link = settings.OWN_ADDRESS + reverse("confirm-email", args=[token])
    write_letter(
        school, to=locked.address, person=change.person, purpose=CONFIRMATION,
        subject=_("Confirm your e-mail address"), body=body % {**names, "link": link}, is_secret=True,
    )  # fmt: skip
    locked.token_hash = code_hash(token)
    locked.save(update_fields=["token_hash"])


def email_change_of(token: str) -> EmailChange | None:
    """Return the change that an e-mail's link confirms, while it is open."""
    open_changes = EmailChange.objects.select_related("person").filter(ends_at__gt=timezone.now())
    return open_changes.filter(token_hash__in=code_hashes(token)).first()


@transaction.atomic
def confirm_email_change(change: EmailChange) -> bool:
    """Put the new address in force; False if it was withdrawn meanwhile."""
    locked = EmailChange.objects.select_for_update().select_related("person").filter(pk=change.pk).first()
    if locked is None or locked.token_hash != change.token_hash:
        return False
    User.objects.filter(pk=locked.person_id).update(email=locked.address)
    remember("email_confirmed", actor=locked.person)
    locked.delete()
    return True


def forget_old_email_changes() -> int:
    """Delete requests that nobody confirmed in time; return how many."""
    return EmailChange.objects.filter(ends_at__lt=timezone.now()).delete()[0]
