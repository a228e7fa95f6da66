"""Once a day: count what each school keeps."""

from oido.jobs.kinds import Progress, job_kind
from oido.jobs.schedule import DAILY
from oido.people.models import School, each_school
from oido.takes.models import Take


@job_kind("operations.count_takes")
def count_takes(progress: Progress) -> None:
    for school in each_school():
        School.objects.filter(pk=school.pk).update(take_count=Take.objects.filter(school=school).count())


DAILY.append("operations.count_takes")
