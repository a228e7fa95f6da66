"""Coming in by oneself: by a class's code, or by an invitation."""

from dataclasses import dataclass
from datetime import datetime, timedelta

from django.conf import settings
from django.db import transaction
from django.urls import reverse
from django.utils import timezone
from django.utils.crypto import get_random_string
from django.utils.translation import gettext as _
from django.utils.translation import override

from oido.access.models import GROUP, LETTERS, code_hash, code_hashes
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.people.authority import may_add
from oido.people.models import STAFF, Membership, Role, School, SchoolClass, User
from oido.people.queries import teaches
from oido.people.quotas import require_room_for_people
from oido.post.services import write_letter
from oido.roster.models import Invitation, JoinCode, Joined
from oido.roster.people import NameTaken, sign_in_names

OPEN_DAYS = 7
MAX_OPEN = timedelta(days=120)
INVITED_FOR = timedelta(days=21)
TOKEN_SIGNS = 40
INVITATION = "invitation"


@dataclass(frozen=True, slots=True, kw_only=True)
class NewAccount:
    """What somebody types who has no account yet."""

    first: str
    last: str
    username: str
    password: str
    email: str = ""


class AlreadyStaff(Exception):
    """Who teaches in a school does not attend a class of it."""


@transaction.atomic
def open_code(teacher: User, school_class: SchoolClass, *, ends_at: datetime) -> JoinCode:
    """Make a new code for a class and close the earlier one. Raise NotAllowed."""
    if not teaches(teacher, school_class) or school_class.archived_at is not None:
        raise NotAllowed
    close_code(teacher, school_class)
    code = "-".join(get_random_string(GROUP, LETTERS) for _group in range(2))
    made: JoinCode = JoinCode.everywhere.create(
        school_id=school_class.school_id, school_class=school_class, code=code, made_by=teacher,
        ends_at=min(ends_at, timezone.now() + MAX_OPEN),
    )  # fmt: skip
    remember("code_opened", actor=teacher, school_class=school_class)
    return made


@transaction.atomic
def close_code(teacher: User, school_class: SchoolClass) -> None:
    if not teaches(teacher, school_class):
        raise NotAllowed
    open_ones = JoinCode.everywhere.filter(
        school_class=school_class, closed_at=None, ends_at__gt=timezone.now()
    )
    if open_ones.update(closed_at=timezone.now()):
        remember("code_closed", actor=teacher, school_class=school_class)


def class_code(typed: str) -> JoinCode | None:
    """Return the open class code that was typed, however it is written, or None."""
    plain = "".join(sign for sign in typed.upper() if sign.isalnum())
    codes = JoinCode.everywhere.select_related("school_class", "school").filter(
        code=f"{plain[:GROUP]}-{plain[GROUP:]}", school_class__archived_at=None
    )
    return next((code for code in codes if code.is_open), None)


def _member(school: School, person: User, role: str) -> Membership:
    """Return the person's membership: in the role that they have already, else in this one. Raise NoRoom."""
    membership: Membership
    if not Membership.everywhere.filter(school=school, person=person, left_at=None).exists():
        require_room_for_people(school)
    membership, _is_new = Membership.everywhere.get_or_create(
        school=school, person=person, defaults={"role": role}
    )
    if membership.left_at is not None:
        membership.left_at, membership.role = None, role
        membership.save(update_fields=["left_at", "role"])
    return membership


@transaction.atomic
def join_by_code(who: User | NewAccount, code: JoinCode) -> User:
    """Let somebody join a class, and return who they are. Joining twice counts once.

    Raise AlreadyStaff, NoRoom, or NameTaken for a new account.
    """
    locked = JoinCode.everywhere.select_for_update().get(pk=code.pk)
    if not locked.is_open:
        raise NotAllowed
    person = _account_of(who)
    if _member(code.school, person, Role.STUDENT).role in STAFF:
        raise AlreadyStaff
    if not code.school_class.students.filter(pk=person.pk).exists():
        code.school_class.students.add(person)
        Joined.objects.get_or_create(code=code, person=person)
        remember("joined_by_code", actor=person, school=code.school, school_class=code.school_class)
    return person


def _account_of(who: User | NewAccount) -> User:
    """The account itself, or one made now. Raise NameTaken."""
    if not isinstance(who, NewAccount):
        return who
    name = who.username.strip().lower() or sign_in_names([f"{who.first} {who.last}"])[0]
    if User.objects.filter(username__iexact=name).exists():
        raise NameTaken
    return User.objects.create_user(
        username=name, password=who.password, first_name=who.first, last_name=who.last, email=who.email
    )


@transaction.atomic
def invite(by: User, *, email: str, role: str, school_class: SchoolClass | None = None) -> Invitation:
    """Write an e-mail with a link that lets its reader in. Raise NotAllowed."""
    if not may_add(by, role, school_class) or by.school is None:
        raise NotAllowed
    Invitation.everywhere.filter(
        school=by.school, email__iexact=email, accepted_by=None, withdrawn_at=None
    ).update(withdrawn_at=timezone.now())
    token = get_random_string(TOKEN_SIGNS)
    made: Invitation = Invitation.everywhere.create(
        school=by.school, email=email, role=role, school_class=school_class, token_hash=code_hash(token), made_by=by,
        ends_at=timezone.now() + INVITED_FOR,
    )  # fmt: skip
    # The school's language: nobody knows yet what this person reads.
    with override(by.school.language):
        subject, body = _letter_of(made, by, token)
    write_letter(by.school, to=email, purpose=INVITATION, subject=subject, body=body, is_secret=True)
    remember("invited", actor=by, school_class=school_class, role=role)
    return made


def _letter_of(invitation: Invitation, by: User, token: str) -> tuple[str, str]:
    """Return the subject and the text of an invitation."""
    school, school_class = invitation.school, invitation.school_class
    if school_class is None:
        body = _(
            "Hello,\n\n%(by)s invites you to %(school)s on Oido, as %(role)s.\n\nAccept the invitation here within three weeks:\n"
            "%(link)s\n\nIf you do not know %(school)s, do nothing.\n"
        )
    else:
        body = _(
            "Hello,\n\n%(by)s invites you to %(school)s on Oido, as %(role)s in %(class)s.\n\nAccept the invitation here within three weeks:\n"
            "%(link)s\n\nIf you do not know %(school)s, do nothing.\n"
        )
    values = {
        "by": by.name, "school": school.name, "role": str(Role(invitation.role).label).lower(),
        "class": school_class.name if school_class else "",
        "link": settings.OWN_ADDRESS + reverse("invitation", args=[token]),
    }  # fmt: skip
    return _("Invitation to %(school)s") % {"school": school.name}, body % values


@transaction.atomic
def withdraw(by: User, invitation: Invitation) -> None:
    if not may_add(by, invitation.role, invitation.school_class) or invitation.school_id != by.school_id:
        raise NotAllowed
    Invitation.everywhere.filter(pk=invitation.pk, accepted_by=None).update(withdrawn_at=timezone.now())


def invitation_of(token: str) -> Invitation | None:
    """Return the invitation with this code while it is valid, or None."""
    row = (
        Invitation.everywhere.select_related("school", "school_class")
        .filter(token_hash__in=code_hashes(token))
        .first()
    )
    return row if row is not None and row.is_open else None


@transaction.atomic
def accept(invitation: Invitation, who: User | NewAccount) -> User:
    """Accept an invitation, and return who they are.

    Raise NotAllowed if it has ended or somebody else accepted it first, NoRoom, or NameTaken for a new account.
    """
    locked = Invitation.everywhere.select_for_update().get(pk=invitation.pk)
    if not locked.is_open:
        raise NotAllowed
    person = _account_of(who)
    member = _member(invitation.school, person, locked.role)
    locked.accepted_by = person
    locked.save(update_fields=["accepted_by"])
    if locked.school_class is not None:
        is_staff = member.role in STAFF
        (locked.school_class.teachers if is_staff else locked.school_class.students).add(person)
    remember(
        "invitation_accepted",
        actor=person,
        school=invitation.school,
        school_class=locked.school_class,
        role=member.role,
    )
    return person
