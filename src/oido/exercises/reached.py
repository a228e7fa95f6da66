"""What of an exercise can be played on a computer's typing keys, and which version of it could be."""

from dataclasses import dataclass

from ear.labels.typing_keys import KeyReach, reach
from ear.notes import Part
from oido.exercises.models import Exercise


@dataclass(frozen=True, slots=True, kw_only=True)
class Reached:
    reach: KeyReach
    easier: str
    """The title of a variation that the keys reach whole; empty if there is none, or none is needed."""


def reached(exercise: Exercise, part: Part) -> Reached | None:
    """Return the reach of the exercise's part in any key, or None for drums or an empty part."""
    by_keys = reach(part) if part.notes else None
    if by_keys is None:
        return None
    easier = _easier(exercise) if by_keys.as_they_lie < by_keys.notes else ""
    return Reached(reach=by_keys, easier=easier)


def _easier(exercise: Exercise) -> str:
    versions = Exercise.objects.filter(
        variation_of__exercise=exercise, deleted_at__isnull=True, retired_at__isnull=True
    ).select_related("part")
    for version in versions.order_by("pk"):
        whole = reach(version.part_in_force.read())
        if whole is not None and whole.notes and whole.as_they_lie == whole.notes:
            return version.title
    return ""
