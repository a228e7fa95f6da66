"""The first school of an instance."""

from django.db import transaction
from django.utils import timezone

from oido.access.models import code_hash, new_code
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.opening.models import SetupCode
from oido.people.models import Role, School, User, usual_note_names
from oido.people.services import new_member


class WrongCode(Exception):
    """Not the code that was printed last, or one that was used."""


def is_empty() -> bool:
    """Return whether there is no school yet."""
    return not School.objects.exists()


@transaction.atomic
def new_setup_code() -> str | None:
    """Return a new setup code to be printed, and end the earlier ones. Return None if there is a school."""
    if not is_empty():
        return None
    SetupCode.objects.all().delete()
    code = new_code()
    SetupCode.objects.create(code_hash=code_hash(code))
    return code


@transaction.atomic
def set_up(
    code: str,
    *,
    school: str,
    language: str,
    time_zone: str,
    first: str,
    last: str,
    username: str,
    email: str,
    password: str,
) -> User:
    """Make the school and its head, once. Raise WrongCode, NotAllowed where there is a school already."""
    # Held, so that two who send at once do not both find it unused.
    code_row = SetupCode.objects.select_for_update().filter(code_hash=code_hash(code), used_at=None).first()
    if code_row is None:
        raise WrongCode
    if not is_empty():
        raise NotAllowed
    made = School.objects.create(
        name=school, language=language, time_zone=time_zone, note_names=usual_note_names(language)
    )
    head = new_member(
        made, Role.HEAD, username=username, password=password, first_name=first, last_name=last, email=email
    )
    code_row.used_at = timezone.now()
    code_row.save(update_fields=["used_at"])
    remember("school_set_up", actor=head, school=made)
    return head
