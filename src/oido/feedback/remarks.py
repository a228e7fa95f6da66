"""What teacher and student say to each other about a take: remarks, saved phrases, replies."""

import string
from collections.abc import Iterable, Mapping
from typing import Any

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext as _

from oido.common.permissions import NotAllowed
from oido.common.readers import number
from oido.marking.models import MarkSheet, Phrase, Remark, Reply
from oido.marking.services import locked_to_mark, may_mark
from oido.people.models import User
from oido.takes.judging import judged
from oido.takes.models import Take

PHRASE_FIELDS = ("name", "exercise", "bar", "beat", "mark", "band", "lag", "steadiness", "tempo")


@transaction.atomic
def write_remark(teacher: User, take: Take, *, text: str, bar: int | None, beat: int | None) -> Remark:
    locked_to_mark(teacher, take)
    return Remark.objects.create(take=take, author=teacher, text=text, bar=bar, beat=beat)


@transaction.atomic
def remove_remark(teacher: User, remark: Remark) -> None:
    locked_to_mark(teacher, remark.take)
    if remark.author_id != teacher.pk:
        raise NotAllowed
    remark.delete()


def unknown_fields(text: str) -> list[str]:
    """Return the fields of a phrase that nothing fills. Raise ValueError if braces do not match."""
    return [
        name
        for _, name, _, _ in string.Formatter().parse(text)
        if name is not None and name not in PHRASE_FIELDS
    ]


def save_phrase(teacher: User, text: str) -> Phrase:
    if not teacher.is_teacher:
        raise NotAllowed
    return Phrase.objects.get_or_create(school=teacher.school, owner=teacher, text=text)[0]


def delete_phrase(teacher: User, phrase: Phrase) -> None:
    if phrase.owner_id != teacher.pk:
        raise NotAllowed
    phrase.delete()


class PlaceMissing(Exception):
    """A phrase names a bar or a beat, and none is given: `field` is the first that is missing."""

    def __init__(self, field: str) -> None:
        super().__init__(field)
        self.field = field


def filled(phrase: Phrase, take: Take, *, bar: str, beat: str) -> str:
    """Return a phrase filled for this take; what it has no figure for is a dash. Raise PlaceMissing."""
    names = {name for _, name, _, _ in string.Formatter().parse(phrase.text)}
    for field, value in (("bar", bar), ("beat", beat)):
        if field in names and not value.strip():
            raise PlaceMissing(field)
    return string.Formatter().vformat(phrase.text, (), _figures(take, bar=bar, beat=beat))


def _figures(take: Take, *, bar: str, beat: str) -> Mapping[str, Any]:
    judgement = judged(take)
    figures = judgement.facts.figures if judgement.is_readable else None

    def ms(name: str, form: str) -> str:
        value = getattr(figures, name, None)
        return "–" if value is None else format(value, form).replace("-", "−") + " ms"

    return {
        "name": take.student.first_name or take.student.name,
        "exercise": take.assignment.exercise.title,
        "bar": bar,
        "beat": beat,
        "mark": number(take.sheet.points),
        "band": _(take.sheet.band),
        "lag": ms("bias_ms", "+.0f"),
        "steadiness": ms("spread_ms", ".0f"),
        "tempo": f"{figures.played_bpm:.0f}" if figures else "–",
    }


@transaction.atomic
def reply(author: User, take: Take, text: str) -> Reply:
    """Store an answer or question from the student of a released take, or from a teacher who may mark it."""
    locked = Take.objects.select_for_update().get(pk=take.pk)
    sheet = MarkSheet.objects.filter(take=locked).first()
    if sheet is None or not sheet.is_released:
        raise NotAllowed
    if author.pk != locked.student_id and not may_mark(author, locked):
        raise NotAllowed
    return Reply.objects.create(take=locked, author=author, text=text)


def see(reader: User, sheet: MarkSheet, replies: Iterable[Reply]) -> None:
    """Store that the reader has opened the report, so that a released mark and the other side's remarks count
    as read.

    Only the first time counts.
    """
    now = timezone.now()
    if reader.pk == sheet.take.student_id and sheet.is_released and sheet.seen_at is None:
        MarkSheet.objects.filter(pk=sheet.pk, seen_at__isnull=True).update(seen_at=now)
    unseen = [one.pk for one in replies if one.seen_at is None and one.author_id != reader.pk]
    if unseen:
        Reply.objects.filter(pk__in=unseen, seen_at__isnull=True).update(seen_at=now)
