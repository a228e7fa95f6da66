"""Takes in open formats: one by itself, or what a student has handed in of a booklet as one, in order, with the count-in
between."""

from django.utils import timezone
from django.utils.translation import gettext as _

from ear.formats.concatenated import TICKS, concat_files
from ear.formats.smf_writing import write_recording, write_with_copy
from ear.notes import Kind
from ear.units import TICKS_PER_QUARTER
from oido.assignments.models import BookletAssignment
from oido.exercises.audio import Tags
from oido.people.models import User
from oido.takes.copies import raw_and_copy
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
    part = take.target()
    count_in = part.bars_before(take.exercise.count_in_bars) if with_count_in and take.asks_click else 0
    return write_recording(take.standing_events(), part=part, count_in_bars=count_in)


def midi_with_copy(take: Take) -> bytes:
    """Return a Standard MIDI File of a take that has a corrected copy, and of that."""
    both = raw_and_copy(take)
    assert both is not None, "such a file is there of takes with a copy alone"
    names = (_("take %(n)s") % {"n": take.number}, _("corrected copy"))
    return write_with_copy(take.standing_events(), both[1], part=take.target(), names=names)


def takes_together(student: User, assigned: BookletAssignment) -> list[Take]:
    takes = Take.objects.filter(assignment__booklet=assigned, student=student, handed_in_at__isnull=False)
    return list(
        takes.select_related("assignment__exercise", "part__exercise", "student")
        .prefetch_related("passes")
        .order_by("assignment__place", "number")
    )


def together_midi(takes: list[Take]) -> bytes:
    """Return one file with each take after its count-in, as long as its bars."""
    return concat_files(
        [(recorded_midi(one, with_count_in=True), _ticks(one), one.exercise.title) for one in takes]
    )


def together_seconds(takes: list[Take]) -> float:
    return sum(_ticks(one) / TICKS * 60.0 / float(one.tempo_bpm) for one in takes)


def kind_of(takes: list[Take]) -> Kind:
    return Kind(takes[0].exercise.kind)


def _ticks(take: Take) -> int:
    part = take.page()
    count_in = part.bars_before(take.exercise.count_in_bars) if take.asks_click else 0
    ticks = part.bars[-1].end_tick + count_in * part.meters.first.bar_ticks
    return ticks * TICKS // TICKS_PER_QUARTER
