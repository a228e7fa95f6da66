"""The page that waits while a file is opened."""

from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import redirect, render
from django.utils.translation import gettext as _
from django_htmx.http import HttpResponseClientRefresh

from ear.formats.sandboxed_reader import PARTS
from oido.exercises.models import ImportedFile
from oido.exercises.services import drop_upload, open_upload, opening_of
from oido.jobs.models import Job
from oido.people.requests import Request


def being_opened(
    request: Request, stored: ImportedFile, *, send_again: str, reader: str = PARTS
) -> HttpResponseBase | None:
    """The page to show until a job has opened the file, asked for where there is none; None once it is open."""
    if stored.contents is not None:
        return HttpResponseClientRefresh() if request.htmx and request.method == "GET" else None
    job = opening_of(stored)
    if job is None:
        open_upload(request.user, stored, back=request.path, reader=reader)
    elif job.state == Job.State.FAILED:
        messages.error(request, _("This file could not be opened. Send it again."))
        drop_upload(stored)
        return HttpResponseClientRefresh() if request.htmx else redirect(send_again)
    template = "exercises/_being_opened.html" if request.htmx else "exercises/being_opened.html"
    return render(request, template, {"stored": stored})
