"""What is made of a booklet in the background: its paper."""

from django.utils.text import slugify

from oido.booklets.models import Booklet
from oido.booklets.printed import booklet_pdf
from oido.jobs.kinds import MadeFile, Progress, job_kind
from oido.people.conventions import conventions_of
from oido.people.models import User


@job_kind("booklets.paper")
def paper(progress: Progress, *, booklet: int, reader: int) -> MadeFile:
    found = Booklet.objects.get(pk=booklet)
    data = booklet_pdf(found, conventions_of(User.objects.get(pk=reader)))
    return MadeFile(data, f"{slugify(found.title) or 'booklet'}.pdf", "application/pdf")
