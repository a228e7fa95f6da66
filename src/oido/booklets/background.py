"""What is made of a booklet in the background: its paper, and a large one from elsewhere."""

from django.utils.text import slugify

from oido.booklets.bundle import read_booklet
from oido.booklets.models import Booklet
from oido.booklets.printed import booklet_pdf
from oido.booklets.services import take_in
from oido.exercises.models import ImportedFile
from oido.jobs.kinds import MadeFile, Progress, job_kind
from oido.people.conventions import conventions_of
from oido.people.models import User


@job_kind("booklets.paper")
def paper(progress: Progress, *, booklet: int, reader: int) -> MadeFile:
    row = Booklet.objects.get(pk=booklet)
    data = booklet_pdf(row, conventions_of(User.objects.get(pk=reader)))
    return MadeFile(data, f"{slugify(row.title) or 'booklet'}.pdf", "application/pdf")


@job_kind("booklets.take_in")
def import_booklet(progress: Progress, *, stored: int, by: int) -> None:
    """Import a booklet file once: begun again after it is done, there is no file any more."""
    file = ImportedFile.objects.filter(pk=stored, owner=by).first()
    if file is not None:
        take_in(User.objects.get(pk=by), file, read_booklet(bytes(file.data)))
