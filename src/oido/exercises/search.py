"""Find exercises: what is looked for stands in the address."""

from dataclasses import dataclass
from decimal import Decimal
from typing import Any

from django.db.models import Count, Q, QuerySet
from django.http import QueryDict
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from ear.criteria.levels import LEVELS
from ear.words.keys import describe_keys
from oido.common.numbers import whole
from oido.common.readers import usual_reader
from oido.exercises.models import Exercise, KindChoice, Tag, Task
from oido.exercises.queries import library, visible_exercises, with_unsaved
from oido.people.models import User

CURRENT, RETIRED, DELETED = "", "retired", "deleted"
MINE, COLLEAGUES = "mine", "colleagues"
SHOWN = {CURRENT: _("in use"), RETIRED: _("retired"), DELETED: pgettext_lazy("label", "deleted")}
WHOSE = {"": _("everybody’s"), MINE: _("mine"), COLLEAGUES: _("my colleagues’")}
ORDERS: dict[str, tuple[Any, tuple[str, ...]]] = {
    "": (_("by title"), ("title", "pk")),
    "newest": (_("newest first"), ("-created_at", "-pk")),
    "tempo": (_("slowest first"), ("tempo_bpm", "title", "pk")),
    "given": (_("given most"), ("-given", "title", "pk")),
}
MAX_WORDS_LENGTH = 100
WORDS_READ = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class Search:
    """What is looked for; what an address does not say, or says wrong, is as usual."""

    words: str = ""
    kind: str = ""
    task: str = ""
    level: str = ""
    meter: str = ""
    key: int | None = None
    slowest: int | None = None
    fastest: int | None = None
    tag: int | None = None
    whose: str = ""
    show: str = CURRENT
    order: str = ""

    @classmethod
    def of(cls, query: QueryDict) -> "Search":
        def one_of(name: str, known: Any) -> str:
            text = str(query.get(name, ""))
            return text if text in known else ""

        return cls(
            words=" ".join(str(query.get("words", "")).split())[:MAX_WORDS_LENGTH],
            kind=one_of("kind", KindChoice.values), task=one_of("task", Task.values), level=one_of("level", LEVELS),
            meter=str(query.get("meter", ""))[:10],
            key=whole(str(query.get("key", ""))), slowest=whole(str(query.get("slowest", ""))),
            fastest=whole(str(query.get("fastest", ""))), tag=whole(str(query.get("tag", ""))),
            whose=one_of("whose", WHOSE), show=one_of("show", SHOWN), order=one_of("order", ORDERS),
        )  # fmt: skip

    @property
    def query(self) -> str:
        text = QueryDict(mutable=True)
        for name in self.__slots__:
            value = getattr(self, name)
            if value not in ("", None):
                text[name] = str(value)
        return text.urlencode()

    @property
    def is_narrowed(self) -> bool:
        return self != Search(show=self.show, order=self.order)


def exercises_matching(user: User, search: Search) -> QuerySet[Exercise]:
    """Return the exercises that match, each with `given`: how often it was given."""
    exercises = (
        visible_exercises(user).filter(is_begun=False).annotate(given=Count("assignments", distinct=True))
    )
    exercises = exercises.filter(deleted_at__isnull=search.show != DELETED)
    if search.show != DELETED:
        exercises = exercises.filter(retired_at__isnull=search.show != RETIRED)
    for word in search.words.split()[:WORDS_READ]:
        # By keys, so that tags do not multiply the rows that are counted.
        tagged = Tag.objects.filter(name__icontains=word).values("exercises")
        exercises = exercises.filter(
            Q(title__icontains=word) | Q(instructions__icontains=word) | Q(pk__in=tagged)
            | Q(owner__first_name__icontains=word) | Q(owner__last_name__icontains=word)
        )  # fmt: skip
    for name, value in (("kind", search.kind), ("task", search.task), ("level", search.level)):
        if value:
            exercises = exercises.filter(**{name: value})
    if search.meter:
        exercises = exercises.filter(
            Q(meters=search.meter) | Q(meters__startswith=f"{search.meter} ")
            | Q(meters__endswith=f" {search.meter}") | Q(meters__contains=f" {search.meter} ")
        )  # fmt: skip
    if search.key is not None:
        exercises = exercises.filter(fifths=search.key)
    if search.slowest is not None:
        exercises = exercises.filter(tempo_bpm__gte=Decimal(search.slowest))
    if search.fastest is not None:
        exercises = exercises.filter(tempo_bpm__lte=Decimal(search.fastest))
    if search.tag is not None:
        exercises = exercises.filter(tags=search.tag)
    if search.whose:
        mine = Q(owner=user)
        exercises = exercises.filter(mine if search.whose == MINE else ~mine)
    return with_unsaved(exercises).order_by(*ORDERS[search.order][1]).prefetch_related("tags")


def choices(user: User) -> dict[str, object]:
    """Return what can be searched for: the metres, keys and tags in use."""
    rows = library(user).order_by()
    meters = {meter for text in rows.values_list("meters", flat=True).distinct() for meter in text.split()}
    keys = sorted(
        {fifths for fifths in rows.values_list("fifths", flat=True).distinct() if fifths is not None},
        key=lambda fifths: (abs(fifths), -fifths),
    )
    return {
        "kinds": KindChoice.choices,
        "tasks": Task.choices,
        "levels": [(level.key, _(level.name)) for level in LEVELS.values()],
        "meters": sorted(meters, key=lambda text: tuple(map(int, text.split("/")))[::-1]),
        "keys": [(fifths, describe_keys(fifths, usual_reader())) for fifths in keys],
        "tags": list(Tag.objects.filter(exercises__in=rows).distinct()),
        "whose": WHOSE.items(),
        "shown": SHOWN.items(),
        "orders": [(value, name) for value, (name, _fields) in ORDERS.items()],
    }
