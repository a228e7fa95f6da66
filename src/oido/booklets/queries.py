from django.db.models import Count, Q, QuerySet

from oido.booklets.models import Booklet, Item
from oido.people.models import User


def visible_booklets(user: User) -> QuerySet[Booklet]:
    """A teacher's own and those that colleagues share; a head's, of the whole school. With `size`."""
    booklets = Booklet.objects.filter(school=user.school_id, deleted_at=None).select_related("owner")
    if not user.is_teacher:
        return booklets.none()
    if not user.is_head:
        booklets = booklets.filter(Q(is_shared=True) | Q(owner=user))
    return booklets.annotate(size=Count("items"))


def items_of(booklet: Booklet) -> list[Item]:
    """In order; exercises that are deleted are left out."""
    rows = Item.objects.filter(booklet=booklet, exercise__deleted_at=None).select_related("exercise__part")
    return list(rows.defer("exercise__part__source_file"))
