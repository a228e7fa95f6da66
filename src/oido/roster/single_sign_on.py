"""People who sign in through their school's own service: who they are in Oido, and as what."""

from collections.abc import Mapping
from enum import StrEnum
from typing import Any

from django.db import transaction

from ear.formats.characters import has_control_characters
from oido.access.models import Identity
from oido.audit.services import remember
from oido.config.env import SignInService
from oido.people.models import Membership, Role, School, User
from oido.people.quotas import NoRoom, require_room_for_people
from oido.people.services import new_member
from oido.roster.people import follow_role, sign_in_names

MAX_NAME_LENGTH = 150
MAX_SUBJECT_LENGTH = 255


class Refusal(StrEnum):
    """Why a person for whom the service vouches is not let in."""

    NO_SCHOOL = "no_school"
    NO_SUBJECT = "no_subject"
    NO_ROLE = "no_role"
    HAS_LEFT = "has_left"
    IS_INACTIVE = "is_inactive"
    NO_ROOM = "no_room"


class SignInRefused(Exception):
    def __init__(self, reason: Refusal) -> None:
        super().__init__(reason)
        self.reason = reason


@transaction.atomic
def find_or_add_person(service: SignInService, claims: Mapping[str, Any]) -> User:
    """Return the person whom these verified claims are about, with today's role. Raise SignInRefused.

    An account that is new to Oido belongs to the member of the school with the same e-mail address, if the service has verified
    the address and only one person has it; otherwise a new person is added.
    """
    school = _school_of(service)
    subject = str(claims.get("sub") or "")
    if not subject or len(subject) > MAX_SUBJECT_LENGTH:
        raise SignInRefused(Refusal.NO_SUBJECT)
    role = role_of(service, claims)
    if role is None:
        raise SignInRefused(Refusal.NO_ROLE)
    # Two tabs that sign in at once for the first time add one person.
    School.objects.select_for_update().get(pk=school.pk)
    identity = (
        Identity.objects.select_related("person").filter(issuer=service.issuer, subject=subject).first()
    )
    if identity is not None:
        person = identity.person
    else:
        person = _known_by_address(service, school, claims) or _add(school, role, claims)
        Identity.objects.create(person=person, issuer=service.issuer, subject=subject)
        remember("account_linked", actor=person, school=school)
    if not person.is_active:
        raise SignInRefused(Refusal.IS_INACTIVE)
    member = (
        Membership.everywhere.select_related("school", "person").filter(school=school, person=person).first()
    )
    if member is None:
        Membership.everywhere.create(school=school, person=person, role=role)
    elif member.left_at is not None:
        raise SignInRefused(Refusal.HAS_LEFT)
    else:
        follow_role(member, role)
    return person


def role_of(service: SignInService, claims: Mapping[str, Any]) -> Role | None:
    """Return the highest role that the claims give, or None."""
    value: Any = claims
    for part in service.roles_claim.split("."):
        value = value.get(part) if isinstance(value, Mapping) else None
    listed = [value] if isinstance(value, str) else value if isinstance(value, list) else []
    values = {each for each in listed if isinstance(each, str)}
    for role, names in (
        (Role.HEAD, service.head_roles), (Role.TEACHER, service.teacher_roles), (Role.STUDENT, service.student_roles),
    ):  # fmt: skip
        if values & set(names):
            return role
    return None


def _school_of(service: SignInService) -> School:
    schools = School.objects.filter(name=service.school) if service.school else School.objects.all()
    first_two = list(schools[:2])
    if len(first_two) != 1:
        raise SignInRefused(Refusal.NO_SCHOOL)
    return first_two[0]


def _known_by_address(service: SignInService, school: School, claims: Mapping[str, Any]) -> User | None:
    address = claims.get("email")
    if not isinstance(address, str) or not address or claims.get("email_verified") is not True:
        return None
    people = User.objects.filter(email__iexact=address, memberships__school=school, is_active=True)
    first_two = list(people.exclude(identities__issuer=service.issuer)[:2])
    return first_two[0] if len(first_two) == 1 else None


def _add(school: School, role: Role, claims: Mapping[str, Any]) -> User:
    try:
        require_room_for_people(school)
    except NoRoom as problem:
        raise SignInRefused(Refusal.NO_ROOM) from problem
    first, last = (_printable(claims.get(name)) for name in ("given_name", "family_name"))
    if not first and not last:
        first = _printable(claims.get("name")) or _printable(claims.get("preferred_username"))
    email = claims.get("email") if claims.get("email_verified") is True else ""
    [username] = sign_in_names([f"{first} {last}"])
    return new_member(
        school, role, username=username, first_name=first, last_name=last, email=_printable(email)
    )


def _printable(value: object) -> str:
    text = value.strip()[:MAX_NAME_LENGTH] if isinstance(value, str) else ""
    return "" if has_control_characters(text) else text
