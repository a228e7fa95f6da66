"""What is made of a gradebook in the background: reports on paper, a class as an archive."""

import io
import zipfile

from django.utils.text import slugify
from django.utils.translation import gettext as _

from oido.gradebook.book import book_of
from oido.gradebook.exports import as_csv, as_json, as_workbook
from oido.gradebook.term_report import term_report
from oido.jobs.kinds import JobProblem, MadeFile, Progress, job_kind
from oido.leaving.models import Term
from oido.people.models import SchoolClass, User
from oido.people.queries import teaches
from oido.takes.models import Take
from oido.takes.outputs import recorded_midi

README = """A class of this school's Oido.

marks.xlsx, marks.csv   the gradebook: what each column is out of and weighs, a row for each student
marks.json              the same rows as lists
reports/*.pdf           the report of each student
takes/<student>/*.mid   what was handed in, as Standard MIDI Files, the count-in ahead of bar 1
"""


def _class(pk: int, reader: int) -> tuple[SchoolClass, User]:
    school_class, by = SchoolClass.objects.get(pk=pk), User.objects.get(pk=reader)
    if not teaches(by, school_class):
        raise JobProblem(_("This class is not yours."))
    return school_class, by


@job_kind("gradebook.report")
def report(progress: Progress, *, school_class: int, student: int, term: int, reader: int) -> MadeFile:
    """Write the term reports in the background. `term` is 0 for the whole time."""
    taught_class, _by = _class(school_class, reader)
    member = taught_class.students.filter(pk=student).first()
    if member is None:
        raise JobProblem(_("This student is no longer in the class."))
    of = Term.objects.filter(pk=term).first() if term else None
    name = f"{slugify(member.name) or f'student-{member.pk}'}-{slugify(of.name) if of else 'report'}.pdf"
    return MadeFile(term_report(taught_class, member, of), name, "application/pdf")


@job_kind("gradebook.class")
def class_archive(progress: Progress, *, school_class: int, reader: int) -> MadeFile:
    taught_class, _by = _class(school_class, reader)
    book = book_of(taught_class)
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("README.txt", README)
        archive.writestr("marks.csv", as_csv(taught_class))
        archive.writestr("marks.xlsx", as_workbook(taught_class))
        archive.writestr("marks.json", as_json(book))
        for done, row in enumerate(book.rows, start=1):
            folder = f"{slugify(row.student.name) or 'student'}-{row.student.pk}"
            archive.writestr(f"reports/{folder}.pdf", term_report(taught_class, row.student, None))
            takes = Take.objects.filter(
                assignment__school_class=taught_class, student=row.student, handed_in_at__isnull=False
            )
            for take in takes.select_related("assignment__exercise", "part__exercise").prefetch_related(
                "passes"
            ):
                title = slugify(take.exercise.title) or "take"
                archive.writestr(
                    f"takes/{folder}/{take.assignment_id}-{title}-{take.number}.mid",
                    recorded_midi(take, with_count_in=True),
                )
            progress(done, len(book.rows))
    return MadeFile(buffer.getvalue(), f"{slugify(taught_class.name) or 'class'}.zip", "application/zip")
