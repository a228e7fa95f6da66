"""A job as its owner sees it: how far it is, and what it made."""

import hashlib
import uuid
from typing import Any

from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET

from oido.jobs.models import Job
from oido.jobs.services import ask_for
from oido.people.requests import Request


def asked_for(request: Request, kind: str, *, title: str, back: str, **arguments: Any) -> HttpResponseBase:
    """Ask for something that takes longer than a glance; its page says when it is there."""
    joined = ":".join(str(value) for value in arguments.values())
    key = hashlib.sha256(joined.encode()).hexdigest()
    job = ask_for(kind, owner=request.user, key=key, title=title, back=back, **arguments)
    return redirect("job", pk=job.pk)


@require_GET
def job(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    own_job = get_object_or_404(Job.objects.defer("file"), pk=pk, owner=request.user)
    template = "jobs/_state.html" if request.htmx else "jobs/job.html"
    return render(request, template, {"job": own_job})


@require_GET
def file(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    own_job = get_object_or_404(Job, pk=pk, owner=request.user, state=Job.State.DONE)
    if own_job.file is None:
        raise Http404
    response = HttpResponse(bytes(own_job.file), content_type=own_job.file_type)
    response["Content-Disposition"] = f'attachment; filename="{own_job.file_name}"'
    return response
