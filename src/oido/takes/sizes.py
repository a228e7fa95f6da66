"""How much is measured while somebody waits: the rest is a job."""

from ear.formats.events import count_notes
from oido.takes.models import Take

MEASURED_AT_ONCE_NOTES = 1_200
"""Of the part and of what was played, together. What takes longest is to find out that a take is of something else: of so
many notes it takes a second and 100 MB."""


def is_long(take: Take) -> bool:
    """Return whether the take with its passes is too long to be measured while somebody waits."""
    played = count_notes(take.events) + sum(count_notes(laid.events) for laid in take.passes.all())
    return played + len(take.part.read().notes) > MEASURED_AT_ONCE_NOTES
