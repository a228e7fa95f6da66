"""Make booklets, of exercises that there are or of a set of variations; put them in order."""

import logging
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from django.db import transaction
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from ear.editing.variations import BY_KEY, ON_BEATS, in_key, rhythm, with_hand
from ear.notes import Hand, Part
from ear.reader import Reader
from ear.words.keys import describe_key
from oido.booklets.bundle import BundledBooklet
from oido.booklets.models import MAX_ITEMS, Booklet, Item
from oido.common.permissions import NotAllowed
from oido.common.readers import number
from oido.exercises.lifecycle import copy_exercise
from oido.exercises.models import MAX_TITLE_LENGTH, Exercise, ImportedFile
from oido.exercises.services import create_exercise, from_bundle, like, use_up
from oido.people.models import User

HAND_NAMES = {Hand.RIGHT: gettext_lazy("right hand"), Hand.LEFT: gettext_lazy("left hand")}
logger = logging.getLogger(__name__)


class TooMany(NotAllowed):
    """A booklet has so many exercises as it may have."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SetVariation:
    """One of a set: what tells it from the others, its part, its tempo."""

    name: str
    part: Part
    bpm: float


def may_manage(teacher: User, booklet: Booklet) -> bool:
    if not teacher.is_teacher or booklet.school_id != teacher.school_id:
        return False
    return booklet.owner_id == teacher.pk or teacher.is_head


def _locked(teacher: User, booklet: Booklet) -> Booklet:
    locked = Booklet.objects.select_for_update().get(pk=booklet.pk)
    if not may_manage(teacher, locked) or locked.deleted_at is not None:
        raise NotAllowed
    return locked


@transaction.atomic
def make_booklet(teacher: User, *, title: str, exercises: Sequence[Exercise] = (), text: str = "") -> Booklet:
    if not teacher.is_teacher or teacher.school is None:
        raise NotAllowed
    made = Booklet.objects.create(
        school=teacher.school, owner=teacher, title=title[:MAX_TITLE_LENGTH], text=text
    )
    _append(made, exercises)
    return made


def _append(booklet: Booklet, exercises: Sequence[Exercise]) -> None:
    last = booklet.items.order_by("-position").first()
    start = last.position + 1 if last else 0
    if booklet.items.count() + len(exercises) > MAX_ITEMS:
        raise TooMany
    if any(one.school_id != booklet.school_id for one in exercises):
        raise NotAllowed
    Item.objects.bulk_create(
        Item(booklet=booklet, exercise=one, position=start + k) for k, one in enumerate(exercises)
    )


@transaction.atomic
def add(teacher: User, booklet: Booklet, exercises: Sequence[Exercise]) -> None:
    _append(_locked(teacher, booklet), exercises)


@transaction.atomic
def change(teacher: User, booklet: Booklet, *, title: str, text: str, is_shared: bool) -> None:
    locked = _locked(teacher, booklet)
    locked.title, locked.text, locked.is_shared = title, text, is_shared
    locked.save(update_fields=["title", "text", "is_shared"])


@transaction.atomic
def change_item(teacher: User, item: Item, *, heading: str, text: str) -> None:
    _locked(teacher, item.booklet)
    Item.objects.filter(pk=item.pk).update(heading=heading, text=text)


@transaction.atomic
def move(teacher: User, item: Item, *, by: int) -> None:
    """Move an item one place up or down."""
    _locked(teacher, item.booklet)
    order = list(item.booklet.items.order_by("position", "pk"))
    at = next(k for k, row in enumerate(order) if row.pk == item.pk)
    to = at + by
    if 0 <= to < len(order):
        order[at], order[to] = order[to], order[at]
    for position, row in enumerate(order):
        row.position = position
    Item.objects.bulk_update(order, ["position"])


@transaction.atomic
def remove_item(teacher: User, item: Item) -> None:
    _locked(teacher, item.booklet)
    Item.objects.filter(pk=item.pk).delete()


@transaction.atomic
def delete(teacher: User, booklet: Booklet, *, is_deleted: bool) -> None:
    """Remove a booklet from the list, or bring it back. Its exercises and assignments stay."""
    locked = Booklet.objects.select_for_update().get(pk=booklet.pk)
    if not may_manage(teacher, locked):
        raise NotAllowed
    locked.deleted_at = timezone.now() if is_deleted else None
    locked.save(update_fields=["deleted_at"])


@transaction.atomic
def copy_booklet(teacher: User, source: Booklet, *, title: str) -> Booklet:
    """Copy a booklet with its exercises, so that the copy can change without changing the original."""
    items = list(source.items.select_related("exercise__part"))
    made = make_booklet(teacher, title=title, text=source.text)
    for item in items:
        copied = copy_exercise(teacher, item.exercise, title=item.exercise.title)
        Item.objects.create(
            booklet=made, exercise=copied, position=item.position, heading=item.heading, text=item.text
        )
    return made


@transaction.atomic
def take_in(teacher: User, stored: ImportedFile, bundled: BundledBooklet) -> Booklet:
    """Store the booklet and exercises of a file, once. Raise NotAllowed if the file was taken in meanwhile."""
    use_up(teacher, stored)
    made = make_booklet(teacher, title=bundled.title, text=bundled.text)
    for position, item in enumerate(bundled.items):
        Item.objects.create(
            booklet=made, exercise=create_exercise(teacher, from_bundle(item.exercise)), position=position,
            heading=item.heading, text=item.text,
        )  # fmt: skip
    return made


@dataclass(frozen=True, slots=True, kw_only=True)
class SetOf:
    """What a set is made of: each list gives one exercise for each of its entries."""

    rhythms: Collection[str] = ()
    keys: Collection[int] = ()
    percents: Collection[int] = ()
    hands: Collection[Hand] = ()


def variations(source: Exercise, wanted: SetOf, reader: Reader) -> list[SetVariation]:
    """Return the variations in order: rhythms, keys, hands, tempos.

    Those equal to the part, or empty, are left out.
    """
    part, bpm = source.part_in_force.read(), float(source.tempo_bpm)
    variations: list[SetVariation] = []
    for key in wanted.rhythms:
        made = rhythm(part, key)
        if made is not None:
            rule = BY_KEY.get(key, ON_BEATS)
            variations.append(SetVariation(name=reader.say(rule.name, {}), part=made, bpm=bpm))
    for fifths in wanted.keys:
        if part.instrument.has_key and fifths != part.fifths:
            variations.append(
                SetVariation(name=describe_key(fifths, reader), part=in_key(part, fifths), bpm=bpm)
            )
    for hand in wanted.hands:
        alone = with_hand(part, hand)
        if alone is not None:
            variations.append(SetVariation(name=str(HAND_NAMES[hand]), part=alone, bpm=bpm))
    for percent in wanted.percents:
        tempo = float(round(bpm * percent / 100))
        if percent != 100:
            variations.append(SetVariation(name=_at(tempo), part=part, bpm=tempo))
    return variations


def _at(tempo: float) -> str:
    return _("at %(bpm)s") % {"bpm": number(tempo)}


@transaction.atomic
def make_set(
    teacher: User, source: Exercise, made: Sequence[SetVariation], *, title: str, with_source: bool
) -> Booklet:
    """Make an exercise for each variation, with names that tell them apart, in a booklet."""
    if len(made) + with_source > MAX_ITEMS:
        raise TooMany
    exercises = [source] if with_source else []
    for variation in made:
        new = like(source, title=_named(source.title, variation.name), part=variation.part)
        # What sounds underneath fits neither another rhythm nor another key or tempo.
        new = replace(
            new, tempo_bpm=Decimal(f"{variation.bpm:.2f}"), variation_of=source.part_in_force, backing=None
        )
        exercises.append(create_exercise(teacher, new))
    booklet = make_booklet(teacher, title=title, exercises=exercises)
    logger.info("set of %s exercises made from %s", len(made), source.pk)
    return booklet


def _named(title: str, name: str) -> str:
    """The title, cut so that what tells it from the others stays whole."""
    tail = f": {name}"
    return title[: MAX_TITLE_LENGTH - len(tail)] + tail
