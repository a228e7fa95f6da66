"""Remember who did what."""

from typing import Any

from oido.audit.acts import ACTS
from oido.audit.models import Act
from oido.audit.where import address
from oido.people.models import School, SchoolClass, User


def remember(
    code: str,
    *,
    actor: User | None,
    school: School | None = None,
    person: User | None = None,
    school_class: SchoolClass | None = None,
    **values: Any,
) -> None:
    """A line in the trail, within the transaction of what was done: both stand, or neither.

    Without a school it is the actor's; who is of none leaves no line.
    """
    assert code in ACTS, code
    where = school or (actor.school if actor is not None else None)
    if where is None:
        return
    Act.objects.create(
        school=where,
        code=code,
        actor=actor,
        person=person,
        school_class=school_class,
        values=values,
        address=address(),
    )
