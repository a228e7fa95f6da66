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
    """Add a line to the trail in the same transaction as the change, so that both are stored or neither.

    The line belongs to the actor's school unless another is named. An actor without a school leaves no line.
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
