"""Kits of students: what their pads send and what is meant, kept for each device."""

from collections.abc import Mapping

from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from ear.notes import INSTRUMENTS
from oido.people.models import User
from oido.takes.models import KitSetUp, Take

WITH_LANES = [kind.value for kind, instrument in INSTRUMENTS.items() if instrument.has_lanes]


def kit_of(student: User, device: str) -> dict[str, int]:
    """Return the note numbers that the device's pads send, as text, and the ones they stand for."""
    set_up = KitSetUp.objects.filter(student=student, device=device).first()
    return dict(set_up.pads) if set_up else {}


def played_on(take: Take) -> QuerySet[Take]:
    """Return all takes of the take's student on the same device, of instruments with lanes."""
    return Take.objects.filter(
        student=take.student_id, device=take.device, assignment__exercise__kind__in=WITH_LANES
    )


@transaction.atomic
def read_pads(take: Take, meant: Mapping[int, int]) -> list[Take]:
    """Store how the pads of the take's set-up are read from now on in all takes on it, and return those takes,
    to be measured again.
    """
    student = User.objects.select_for_update().get(pk=take.student_id)
    made, _ = KitSetUp.objects.get_or_create(student=student, device=take.device)
    made.pads = {**made.pads, **{str(number): lane for number, lane in meant.items()}}
    made.save(update_fields=["pads", "changed_at"])
    takes = list(played_on(take).only("pk"))
    Take.objects.filter(pk__in=[one.pk for one in takes]).update(
        kit_pads=made.pads, measure_after=timezone.now()
    )
    return takes
