"""Ready-made exercises: what of the library a school has, and adding the rest to it."""

from collections.abc import Iterable
from decimal import Decimal

from django.db import transaction
from django.utils.translation import gettext as _

from ear.library.catalogue import LIBRARY
from ear.library.piece import LibraryPiece
from oido.common.permissions import NotAllowed
from oido.common.readers import PAGES
from oido.exercises.lifecycle import named_tag
from oido.exercises.models import Exercise
from oido.exercises.queries import library
from oido.exercises.services import NewExercise, create_exercise
from oido.people.models import School, User


def pieces_of(grade: int | None = None) -> tuple[LibraryPiece, ...]:
    """Return the pieces of a grade, or all of them."""
    return tuple(piece for piece in LIBRARY if grade in (None, piece.grade))


def already_added(teacher: User) -> dict[str, Exercise]:
    """Return, by the piece's name, the exercises in the teacher's library that were ready-made. One query."""
    return {
        exercise.ready_made: exercise for exercise in library(teacher).exclude(ready_made="").order_by("-pk")
    }


@transaction.atomic
def add_ready_made(teacher: User, pieces: Iterable[LibraryPiece]) -> list[Exercise]:
    """Add those pieces that the teacher's library lacks, as exercises of the teacher's own, and return them.

    They are in the reader's language, tagged with their topics and their grade. Raise NotAllowed.
    """
    if not teacher.is_teacher or teacher.school_id is None:
        raise NotAllowed
    # Held, so that two who add at once, or one who presses twice, do not both find a piece lacking.
    School.objects.select_for_update().get(pk=teacher.school_id)
    known = already_added(teacher)
    added = {piece: _add(teacher, piece) for piece in pieces if piece.name not in known}
    _tag(teacher, added)
    return list(added.values())


def _add(teacher: User, piece: LibraryPiece) -> Exercise:
    part = piece.part
    return create_exercise(
        teacher,
        NewExercise(
            title=_(piece.title), kind=part.kind.value, instructions=_(piece.instructions), level=piece.level,
            tempo_bpm=Decimal(str(part.tempos.first_bpm)), count_in_bars=piece.count_in_bars, part=part,
            ladder=piece.ladder(PAGES), ready_made=piece.name,
        ),
    )  # fmt: skip


def tags_of(piece: LibraryPiece) -> list[str]:
    """Return the piece's tags in the reader's language, its grade first."""
    return [_("grade %(n)s") % {"n": piece.grade}, *(_(tag) for tag in piece.tags)]


def _tag(teacher: User, added: dict[LibraryPiece, Exercise]) -> None:
    names = {name for piece in added for name in tags_of(piece)}
    tags = {name: named_tag(teacher, name) for name in sorted(names)}
    link = Exercise.tags.through
    link.objects.bulk_create(
        link(exercise_id=exercise.pk, tag_id=tag)
        for piece, exercise in added.items()
        for tag in {tags[name].pk for name in tags_of(piece)}
    )
