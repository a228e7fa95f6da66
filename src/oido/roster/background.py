"""What is made of people in the background: slips to print; once a day, old lists are emptied."""

from django.utils.translation import gettext as _

from oido.common.permissions import NotAllowed
from oido.jobs.kinds import JobProblem, MadeFile, Progress, job_kind
from oido.jobs.schedule import DAILY
from oido.people.models import User
from oido.roster.importing import do_import, forget_lists
from oido.roster.models import ListImport
from oido.roster.slips import slips_pdf


@job_kind("roster.slips", tries=1)
def slips(progress: Progress, *, people: list[int], by: int) -> MadeFile:
    """Once: a second try would end the codes of the first."""
    found = list(User.objects.filter(pk__in=people).order_by("last_name", "first_name"))
    try:
        data = slips_pdf(User.objects.get(pk=by), found)
    except NotAllowed as problem:
        raise JobProblem(_("These slips are not yours to print.")) from problem
    return MadeFile(data, "slips.pdf", "application/pdf")


@job_kind("roster.import")
def import_list(progress: Progress, *, stored: int, by: int, decided: dict[str, str]) -> None:
    """All of it or nothing; begun again, it is done once."""
    found = ListImport.objects.get(pk=stored)
    do_import(User.objects.get(pk=by), found, {int(number): said for number, said in decided.items()})


@job_kind("roster.tidy")
def tidy(progress: Progress) -> None:
    forget_lists()


DAILY.append("roster.tidy")
