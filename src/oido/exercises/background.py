"""What is made of an exercise in the background: a sheet to print, sound."""

from django.utils.text import slugify

from ear.formats.sandboxed_reader import read_in_sandbox
from oido.exercises import audio
from oido.exercises.audio import NoSound
from oido.exercises.lifecycle import sweep_deleted
from oido.exercises.models import Exercise, ImportedFile
from oido.exercises.printed import sheet_pdf
from oido.exercises.services import OPENING
from oido.jobs.kinds import JobProblem, MadeFile, Progress, job_kind
from oido.jobs.schedule import DAILY
from oido.people.conventions import conventions_of
from oido.people.models import User, each_school


@job_kind("exercises.sheet")
def sheet(progress: Progress, *, exercise: int, reader: int) -> MadeFile:
    row = Exercise.objects.select_related("part").get(pk=exercise)
    data = sheet_pdf(row, conventions_of(User.objects.get(pk=reader)))
    return MadeFile(data, file_name(row, "pdf"), "application/pdf")


@job_kind("exercises.sound")
def sound(progress: Progress, *, exercise: int, ending: str) -> MadeFile:
    row = Exercise.objects.select_related("part").get(pk=exercise)
    try:
        data = audio.render(row.part_in_force.read(), ending, audio.Tags(title=row.title))
    except NoSound as problem:
        raise JobProblem(str(problem)) from problem
    return MadeFile(data, file_name(row, ending), audio.TYPES[ending])


@job_kind(OPENING)
def open_upload(progress: Progress, *, upload: int, reader: str) -> None:
    imported = ImportedFile.objects.filter(pk=upload).first()
    if imported is not None:
        imported.store_contents(read_in_sandbox(bytes(imported.data), reader))


@job_kind("exercises.sweep")
def sweep(progress: Progress) -> None:
    for _school in each_school():
        sweep_deleted()


DAILY.append("exercises.sweep")


def file_name(exercise: Exercise, ending: str) -> str:
    return f"{slugify(exercise.title) or f'exercise-{exercise.pk}'}.{ending}"
