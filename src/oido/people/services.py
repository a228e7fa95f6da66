"""Change how things are named."""

from django.db import transaction

from oido.common.permissions import NotAllowed
from oido.people.forms import OwnNamingForm, SchoolNamingForm
from oido.people.models import User


@transaction.atomic
def set_school_naming(teacher: User, form: SchoolNamingForm) -> None:
    """A teacher sets it for the whole school. `form` is valid."""
    if not teacher.is_teacher or teacher.school_id != form.instance.pk:
        raise NotAllowed
    form.save()


@transaction.atomic
def set_own_naming(user: User, form: OwnNamingForm) -> None:
    """Everybody sets their own. `form` is valid."""
    if form.instance.pk != user.pk:
        raise NotAllowed
    form.save()
