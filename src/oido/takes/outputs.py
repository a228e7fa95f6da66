"""A take in open formats."""

from django.utils import timezone
from django.utils.translation import gettext as _

from ear.formats.smf_writing import write_recording
from oido.exercises.audio import Tags
from oido.takes.models import Take


def take_tags(take: Take) -> Tags:
    """Return how files of a take are called: by its student, its exercise, its number and name, and its day."""
    number = _("take %(n)s") % {"n": take.number}
    return Tags(
        title=take.exercise.title,
        artist=take.student.name,
        day=timezone.localdate(take.recorded_at),
        detail=f"{number} {take.name}".strip(),
    )


def recorded_midi(take: Take, *, with_count_in: bool = False) -> bytes:
    """Return a Standard MIDI File with a track for each pass, preceded by the count-in if there was a click."""
    count_in = take.exercise.count_in_bars if with_count_in and take.asks_click else 0
    return write_recording(take.standing_events(), part=take.target(), count_in_bars=count_in)
