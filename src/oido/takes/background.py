"""What is made of a take in the background: sound."""

import uuid

from django.utils import timezone
from django.utils.translation import gettext as _

from oido.assignments.models import BookletAssignment
from oido.exercises import audio
from oido.exercises.audio import NoSound
from oido.jobs.kinds import JobProblem, MadeFile, Progress, job_kind
from oido.people.models import User
from oido.takes.models import Take
from oido.takes.outputs import (
    kind_of,
    recorded_midi,
    take_tags,
    takes_together,
    together_midi,
    together_seconds,
)


@job_kind("takes.sound")
def sound(progress: Progress, *, take: str, ending: str) -> MadeFile:
    """Make the sound of the part and the take, from bar 1 to the end."""
    row = Take.objects.select_related("part", "assignment__exercise").get(pk=uuid.UUID(take))
    part = row.target()
    tags = take_tags(row)
    length_s = max(
        part.tempos.second_at(part.bars[-1].end_tick),
        *(n.onset_s + n.length_s for n in row.read().notes),
        0.0,
    )
    try:
        data = audio.render_midi(
            recorded_midi(row), kind=part.kind, length_s=length_s, ending=ending, tags=tags
        )
    except NoSound as problem:
        raise JobProblem(str(problem)) from problem
    return MadeFile(data, tags.file_name(ending), audio.TYPES[ending])


@job_kind("takes.together")
def together(progress: Progress, *, given: int, student: int, ending: str) -> MadeFile:
    """Make one sound of everything a student has handed in from a booklet."""
    player, booklet = User.objects.get(pk=student), BookletAssignment.objects.get(pk=given)
    medley = takes_together(player, booklet)
    if not medley:
        raise JobProblem(_("Nothing of this booklet is handed in yet."))
    last_day = max(timezone.localdate(take.recorded_at) for take in medley)
    tags = audio.Tags(title=str(booklet), artist=player.name, day=last_day)
    try:
        data = audio.render_midi(
            together_midi(medley), kind=kind_of(medley), length_s=together_seconds(medley), ending=ending,
            tags=tags,
        )  # fmt: skip
    except NoSound as problem:
        raise JobProblem(str(problem)) from problem
    return MadeFile(data, tags.file_name(ending), audio.TYPES[ending])
