"""What is done about leaving in the background: archives of people, and once a day what is over."""

from django.utils import timezone
from django.utils.translation import gettext as _

from oido.jobs.kinds import JobProblem, MadeFile, Progress, job_kind
from oido.jobs.schedule import DAILY
from oido.leaving.exporting import archive_name, person_archive
from oido.leaving.retention import delete_expired_takes
from oido.people.models import School, User


@job_kind("leaving.export")
def export(progress: Progress, *, person: int, reader: int) -> MadeFile:
    subject, reads = User.objects.get(pk=person), User.objects.get(pk=reader)
    if reads.school is None or (reads.pk != subject.pk and not reads.is_head):
        raise JobProblem(_("You cannot download this."))
    return MadeFile(
        person_archive(subject, reader=reads, progress=progress), archive_name(subject), "application/zip"
    )


@job_kind("leaving.retention")
def retention(progress: Progress) -> None:
    for school in School.objects.exclude(keep_months=None):
        with school.within():
            delete_expired_takes(school, today=timezone.localdate())


DAILY.append("leaving.retention")
