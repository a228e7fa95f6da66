"""What is made of people in the background: slips to print; once a day, old lists are emptied."""

from django.utils.translation import gettext as _

from oido.common.permissions import NotAllowed
from oido.jobs.kinds import JobProblem, MadeFile, Progress, job_kind
from oido.jobs.schedule import DAILY
from oido.people.models import User, each_school
from oido.people.quotas import NoRoom
from oido.roster.importing import forget_lists, import_list
from oido.roster.models import ListImport
from oido.roster.slips import slips_pdf


@job_kind("roster.slips", tries=1)
def slips(progress: Progress, *, people: list[int], by: int) -> MadeFile:
    """Make the slips once, because a second try would end the codes of the first."""
    rows = list(User.objects.filter(pk__in=people).order_by("last_name", "first_name"))
    try:
        data = slips_pdf(User.objects.get(pk=by), rows)
    except NotAllowed as problem:
        raise JobProblem(_("You cannot print these slips.")) from problem
    return MadeFile(data, "slips.pdf", "application/pdf")


@job_kind("roster.import")
def run_import(progress: Progress, *, stored: int, by: int, decided: dict[str, str]) -> None:
    """Import a list, all of it or nothing. Started twice, it is done once."""
    stored_list = ListImport.objects.get(pk=stored)
    try:
        import_list(
            User.objects.get(pk=by), stored_list, {int(number): key for number, key in decided.items()}
        )
    except NoRoom as problem:
        raise JobProblem(problem.sentence) from problem


@job_kind("roster.tidy")
def tidy(progress: Progress) -> None:
    for _school in each_school():
        forget_lists()


DAILY.append("roster.tidy")
