from django.db.models import Count, Q, QuerySet

from oido.booklets.models import Booklet, Item
from oido.people.models import User


def visible_booklets(user: User) -> QuerySet[Booklet]:
    """Return a teacher's own booklets and those that colleagues share, or, for a head, all of the school, each
    with `size`.
    """
    booklets = Booklet.objects.filter(school=user.school_id, deleted_at=None).select_related("owner")
    if not user.is_teacher:
        return booklets.none()
    if not user.is_head:
        booklets = booklets.filter(Q(is_shared=True) | Q(owner=user))
    return booklets.annotate(size=Count("items"))


def items_of(booklet: Booklet) -> list[Item]:
    """Return the items in order, without deleted exercises."""
    rows = Item.objects.filter(booklet=booklet, exercise__deleted_at=None).select_related("exercise__part")
    return list(rows.defer("exercise__part__source_file"))
