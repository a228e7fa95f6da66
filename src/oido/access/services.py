"""Passwords, slips, second factors."""

import logging
from datetime import timedelta

from django.conf import settings
from django.contrib.auth.tokens import default_token_generator
from django.db import transaction
from django.urls import reverse
from django.utils import timezone
from django.utils.encoding import force_bytes
from django.utils.http import urlsafe_base64_encode
from django.utils.translation import gettext as _
from django.utils.translation import override
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

from oido.access.models import CODE_KEPT, SignInCode, code_hash, code_hashes, new_code
from oido.access.sessions import end_sessions
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.people.authority import Change, may_change, may_issue_slip
from oido.people.models import STAFF, Membership, School, User
from oido.post.services import was_written_lately, write_letter

RESET = "password reset"
RESET_EVERY = timedelta(minutes=5)
BACKUP_CODES = 8
logger = logging.getLogger(__name__)


@transaction.atomic
def make_code(helper: User, person: User) -> str:
    """Make a new code for a person's slip and return it.

    Their earlier codes end. Only the hash is stored, so this is the only time that the code can be read.
    """
    if not may_issue_slip(helper, person):
        raise NotAllowed
    SignInCode.everywhere.filter(person=person, used_at=None).delete()
    code, now = new_code(), timezone.now()
    SignInCode.everywhere.create(
        school_id=helper.school_id,
        person=person,
        code_hash=code_hash(code),
        made_by=helper,
        ends_at=now + CODE_KEPT,
    )
    return code


def person_of_code(code: str) -> SignInCode | None:
    """Return the person whose code this is, or None unless the code is still valid."""
    codes = SignInCode.everywhere.select_related("person", "school")
    return codes.filter(code_hash__in=code_hashes(code), used_at=None, ends_at__gt=timezone.now()).first()


@transaction.atomic
def use_code(code: SignInCode, password: str) -> User | None:
    """Set the password that was chosen with it. None where somebody else was quicker."""
    if not SignInCode.everywhere.filter(pk=code.pk, used_at=None).update(used_at=timezone.now()):
        return None
    person = User.objects.select_for_update().get(pk=code.person_id)
    person.set_password(password)
    person.save(update_fields=["password"])
    end_sessions(person)
    remember("slip_used", actor=person, school=code.school)
    return person


@transaction.atomic
def change_password(person: User, password: str, *, but: str | None = None) -> None:
    """Set a new password and end all other sessions."""
    person.set_password(password)
    person.save(update_fields=["password"])
    end_sessions(person, but=but)
    remember("password_changed", actor=person)


@transaction.atomic
def write_reset(email: str) -> None:
    """Send an e-mail to everybody with this address and a way in; nobody is told whether there is somebody."""
    for person in User.objects.filter(email__iexact=email, is_active=True):
        school = person.school
        if school is None or was_written_lately(person, RESET, within=RESET_EVERY):
            continue
        with override(person.reads):
            _write_reset(person, school)


def _write_reset(person: User, school: School) -> None:
    uid = urlsafe_base64_encode(force_bytes(person.pk))
    token = default_token_generator.make_token(person)
    link = settings.OWN_ADDRESS + reverse("reset-password", args=[uid, token])
    body = _(
        "Hello %(name)s,\n\nyou (or someone else) asked for a new password for your account %(username)s at "
        "%(school)s.\n\nChoose it here, within three days:\n%(link)s\n\n"
        "If it was not you, do nothing: your password stays as it is.\n"
    )
    values = {"name": person.name, "username": person.username, "school": school.name, "link": link}
    write_letter(
        school, to=person.email, person=person, purpose=RESET, subject=_("A new password for Oido"),
        body=body % values, is_secret=True,
    )  # fmt: skip


def must_keep_two_step(person: User) -> bool:
    """Return whether any school of this person requires two-step sign-in of them."""
    members = Membership.everywhere.filter(person=person, left_at=None, role__in=STAFF)
    return members.filter(school__staff_need_two_step=True).exists()


def second_factor_of(person: User) -> TOTPDevice | None:
    return TOTPDevice.objects.filter(user=person, confirmed=True).first()


@transaction.atomic
def begin_second_factor(person: User) -> TOTPDevice:
    """Return a new secret for an authenticator app. It counts once a code from the app has been typed."""
    if not person.is_teacher:
        raise NotAllowed
    device = TOTPDevice.objects.filter(user=person, confirmed=False).first()
    return device or TOTPDevice.objects.create(user=person, name="app", confirmed=False)


@transaction.atomic
def confirm_second_factor(person: User, token: str) -> list[str] | None:
    """Switch the second factor on and return the spare codes to write down, or None if the token is wrong."""
    device = TOTPDevice.objects.select_for_update().filter(user=person, confirmed=False).first()
    if device is None or not device.verify_token(token):
        return None
    TOTPDevice.objects.filter(user=person, confirmed=True).delete()
    device.confirmed = True
    device.save(update_fields=["confirmed"])
    StaticDevice.objects.filter(user=person).delete()
    backup = StaticDevice.objects.create(user=person, name="backup")
    codes = [StaticToken.random_token() for _ in range(BACKUP_CODES)]
    StaticToken.objects.bulk_create([StaticToken(device=backup, token=code) for code in codes])
    remember("second_factor_on", actor=person)
    return codes


@transaction.atomic
def remove_second_factor(person: User, *, by: User | None = None) -> None:
    """Switch off a person's own second factor, or, as a head, that of somebody who has lost theirs.

    Raise NotAllowed for anybody else, and for a person whose school requires it.
    """
    helper = by or person
    is_own = helper.pk == person.pk
    if not may_change(helper, person, Change.SECOND_FACTOR) or (is_own and must_keep_two_step(person)):
        raise NotAllowed
    TOTPDevice.objects.filter(user=person).delete()
    StaticDevice.objects.filter(user=person).delete()
    if is_own:
        remember("second_factor_off", actor=person)
    else:
        # Their sessions were opened with the second step.
        end_sessions(person)
        remember("second_factor_removed", actor=helper, person=person)


def is_second_factor(person: User, token: str) -> bool:
    """Return whether this is a valid code from the app or a spare code.

    The library slows down wrong attempts.
    """
    token = "".join(token.split()).lower()
    # One sort of device is tried for each sort of code, so that a mistyped one slows down no other.
    kind = TOTPDevice if token.isdigit() else StaticDevice
    for device in kind.objects.filter(user=person, confirmed=True):
        allowed, _why = device.verify_is_allowed()
        if allowed and device.verify_token(token):
            return True
    return False


def waiting_code(key: object) -> SignInCode | None:
    """Return the slip whose code was typed, while it is valid, or None."""
    codes = SignInCode.everywhere.select_related("person", "school")
    return (
        codes.filter(pk=key, used_at=None, ends_at__gt=timezone.now()).first()
        if isinstance(key, int)
        else None
    )
