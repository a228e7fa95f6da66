"""How much one school may keep on this installation: people and takes."""

from dataclasses import dataclass

from django.conf import settings
from django.utils.translation import gettext as _
from django.utils.translation import ngettext

from oido.people.models import Membership, School

NEARLY_FULL = 0.9


class NoRoom(Exception):
    """The school has reached its quota. `sentence` says so to its people."""

    def __init__(self, sentence: str) -> None:
        super().__init__(sentence)
        self.sentence = sentence


@dataclass(frozen=True, slots=True, kw_only=True)
class Quota:
    """What is used of what is allowed. Without a limit everything is allowed."""

    used: int
    limit: int | None

    @property
    def is_nearly_full(self) -> bool:
        return self.limit is not None and self.used >= NEARLY_FULL * self.limit

    def has_room_for(self, more: int) -> bool:
        return self.limit is None or self.used + more <= self.limit


def people_quota(school: School) -> Quota:
    """Return how many present members a school has, counted now."""
    used = Membership.everywhere.filter(school=school, left_at=None).count()
    return Quota(used=used, limit=school.max_people or settings.SCHOOL_MAX_PEOPLE)


def takes_quota(school: School) -> Quota:
    """Return how many takes a school keeps, as counted within the last day."""
    return Quota(used=school.take_count, limit=school.max_takes or settings.SCHOOL_MAX_TAKES)


def require_room_for_people(school: School, more: int = 1) -> None:
    """Raise NoRoom if so many further members are more than the school may have.

    In a transaction: whoever adds others to this school at the same moment waits until it is over.
    """
    School.objects.select_for_update().get(pk=school.pk)
    quota = people_quota(school)
    if more and not quota.has_room_for(more):
        raise NoRoom(
            ngettext(
                "This school has reached its limit of %(n)s member. Please ask the head.",
                "This school has reached its limit of %(n)s members. Please ask the head.",
                quota.limit or 0,
            )
            % {"n": quota.limit}
        )


def require_room_for_take(school: School) -> None:
    """Raise NoRoom if the school keeps as many takes as it may."""
    if not takes_quota(school).has_room_for(1):
        raise NoRoom(_("Your school has no space left for takes. Please tell your teacher."))
