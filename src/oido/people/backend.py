"""Who is signed in, found with their memberships in one query."""

from django.contrib.auth.backends import ModelBackend

from oido.people.models import Membership, User


class MemberBackend(ModelBackend):
    def get_user(self, user_id: int) -> User | None:
        memberships = list(
            Membership.everywhere.filter(person_id=user_id, left_at=None)
            .select_related("person", "school")
            .order_by("-chosen_at", "pk")
        )
        if not memberships:
            return super().get_user(user_id)
        person: User = memberships[0].person
        if not self.user_can_authenticate(person):
            return None
        person.member_of = tuple(memberships)
        return person
